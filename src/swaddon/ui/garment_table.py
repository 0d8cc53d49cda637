"""The garment library, to edit: from CSV and to CSV as well."""

from collections.abc import Callable, Sequence
from pathlib import Path

from PySide6.QtWidgets import QFileDialog, QWidget

from swaddon.core.errors import PlanError
from swaddon.io.garments import LibraryGarment, garment_from, read_garments, write_garments
from swaddon.ui.table_dialog import Cells, TableDialog
from swaddon.ui.widgets import button

_HEADS = ("Name", "Colour", "Cloth", "g/m²", "Bears °C")


class GarmentTable(TableDialog):
    """Garments by name, colour, cloth, weight and what heat they bear at the press."""

    def __init__(
        self, parent: QWidget, garments: Sequence[LibraryGarment], keep: Callable[[Sequence[LibraryGarment]], None]
    ) -> None:
        self._keep_garments = keep
        self.take_in, self.give_out = button("From CSV …"), button("To CSV …")
        super().__init__(
            parent, "Garments of the shop", _HEADS, [garment.cells for garment in garments], self._take,
            ("New garment", "#808080", "cotton", "", ""), more_buttons=(self.take_in, self.give_out), colour_column=1,
        )  # fmt: skip
        self.take_in.clicked.connect(self._choose_in)
        self.give_out.clicked.connect(self._choose_out)

    def garments(self) -> tuple[LibraryGarment, ...]:
        """What the table holds; raises ``ValueError`` that names the row."""
        made = tuple(garment_from(cells, number) for number, cells in enumerate(self.rows(), start=1))
        names = [garment.name.lower() for garment in made]
        for number, name in enumerate(names, start=1):
            if name in names[: number - 1]:
                raise ValueError(f"Row {number} has the name “{made[number - 1].name}” again")
        if not made:
            raise ValueError("Keep at least one garment")
        return made

    def _take(self, _rows: list[Cells]) -> None:
        self._keep_garments(self.garments())

    def _choose_in(self) -> None:
        name, _ = QFileDialog.getOpenFileName(self, "Garments from CSV", "", "Tables (*.csv *.tsv *.txt)")
        if name:
            self.read(Path(name))

    def _choose_out(self) -> None:
        name, _ = QFileDialog.getSaveFileName(self, "Garments to CSV", "garments.csv", "Tables (*.csv)")
        if name:
            self.write(Path(name))

    def read(self, path: Path) -> None:
        """Show the garments of a file in the place of these."""
        try:
            self.show_rows([garment.cells for garment in read_garments(path)])
        except PlanError as error:
            self.tell(str(error))
        else:
            self.tell("")

    def write(self, path: Path) -> None:
        """Write what the table holds."""
        try:
            write_garments(path, self.garments())
        except (PlanError, ValueError) as error:
            self.tell(f"{str(error).rstrip('.')}.")
        else:
            self.tell(f"Written to {path.name}.")
