"""A table to edit in a dialog that is read from a file and written to one as well."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from pathlib import Path

from PySide6.QtWidgets import QFileDialog, QWidget

from swaddon.core.errors import PlanError
from swaddon.ui.saving import save_name
from swaddon.ui.table_dialog import Cells, Choices, TableDialog
from swaddon.ui.widgets import button


@dataclass(frozen=True)
class TableFile:
    """What the file is: what its rows are called, its kind, its usual name, and the files that can be read."""

    what: str
    kind: str
    name: str
    reads: str
    writes: str


CSV_READS, CSV_WRITES = "Tables (*.csv *.tsv *.txt)", "Tables (*.csv)"


class FileTable(TableDialog):
    """Rows from a file and to a file; what is wrong with it is told below the table."""

    def __init__(
        self,
        parent: QWidget,
        title: str,
        heads: Sequence[str],
        rows: Sequence[Cells],
        keep: Callable[[], None],
        new_row: Cells,
        file: TableFile,
        choices: dict[int, Choices] | None = None,
        under: QWidget | None = None,
        colour_column: int | None = None,
    ) -> None:
        self._keep_all, self._file = keep, file
        self.take_in, self.give_out = button(f"From {file.kind} …"), button(f"To {file.kind} …")
        super().__init__(
            parent, title, heads, rows, self._take, new_row, choices=choices, under=under,
            more_buttons=(self.take_in, self.give_out), colour_column=colour_column,
        )  # fmt: skip
        self.take_in.clicked.connect(self._choose_in)
        self.give_out.clicked.connect(self._choose_out)

    def rows_in(self, path: Path) -> list[Cells]:
        """Rows of a file; raises ``PlanError``."""
        raise NotImplementedError

    def write_rows(self, path: Path) -> None:
        """Write what the table holds; raises ``PlanError``, or ``ValueError`` that names the row."""
        raise NotImplementedError

    def _take(self, _rows: list[Cells]) -> None:
        try:
            self._keep_all()
        except PlanError as error:
            raise ValueError(str(error)) from error

    def _choose_in(self) -> None:
        title = f"{self._file.what} from {self._file.kind}"
        name, _ = QFileDialog.getOpenFileName(self, title, "", self._file.reads)
        if name:
            self.read(Path(name))

    def _choose_out(self) -> None:
        title = f"{self._file.what} to {self._file.kind}"
        name, _ = save_name(self, title, self._file.name, self._file.writes)
        if name:
            self.write(Path(name))

    def read(self, path: Path) -> None:
        """Show the rows of a file in the place of these."""
        try:
            self.show_rows(self.rows_in(path))
        except PlanError as error:
            self.tell(str(error))
        else:
            self.tell("")

    def write(self, path: Path) -> None:
        """Write what the table holds."""
        try:
            self.write_rows(path)
        except (PlanError, ValueError) as error:
            self.tell(f"{str(error).rstrip('.')}.")
        else:
            self.tell(f"Written to {path.name}.")
