"""The book as files: lists, backup and restore; and what waits to come into it."""

from collections.abc import Callable
from pathlib import Path

from PySide6.QtWidgets import QFileDialog, QVBoxLayout, QWidget

from swaddon.core.log.query import Query
from swaddon.core.units import number_of
from swaddon.session.in_order import Progress
from swaddon.session.log_files import blobs_of, read_backup, write_backup, write_list
from swaddon.ui.fold import Fold
from swaddon.ui.saving import save_name
from swaddon.ui.station_spec import StationContext
from swaddon.ui.widgets import button, column, label, row

_MOST_LISTED = 100_000


class Keeping(QWidget):
    """Writes the runs that are found, and everything; takes a backup in."""

    def __init__(self, context: StationContext, query: Callable[[], Query], changed: Callable[[], None]) -> None:
        super().__init__()
        self._context, self._query, self._changed = context, query, changed
        self.list = button("List…", "low", "", "What is found, as CSV, JSON or a web page")
        self.save = button("Backup…", "low", "", "The whole book in one file")
        self.restore = button("Restore…", "low", "", "Take a backup in; what is there already stays")
        self.list.clicked.connect(self._choose_list)
        self.save.clicked.connect(self._choose_backup)
        self.restore.clicked.connect(self._choose_restore)
        self.told = label("", "effect", wrap=True)
        part = column(row(self.list, self.save, self.restore, 1), self.told, spacing=4)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(column(Fold("Keep and move the book", part)))

    def _choose_list(self) -> None:
        kinds = "Table (*.csv);;JSON (*.json);;Web page (*.html)"
        path, kind = save_name(self, "List of the runs that are found", "log.csv", kinds)
        if path:
            target = Path(path)
            self.write_list(target if target.suffix else target.with_suffix(kind.rpartition("*")[2].rstrip(")")))

    def _choose_backup(self) -> None:
        path, _ = save_name(self, "Backup", "log-book.zip", "Backup (*.zip)")
        if path:
            self.write_backup(Path(path))

    def _choose_restore(self) -> None:
        path, _ = QFileDialog.getOpenFileName(self, "Restore", "", "Backup (*.zip)")
        if path:
            self.read_backup(Path(path))

    def write_list(self, path: Path) -> None:
        """Write what is found."""
        query, keeper = self._query(), self._context.log.keeper

        def work(_tell: Progress) -> str:
            book = keeper.book()
            found = [item.entry for item in book.find(query, None, _MOST_LISTED)]
            write_list(path, found, blobs_of(book))
            return f"{len(found)} runs written to {path.name}."

        self._start(work)

    def write_backup(self, path: Path) -> None:
        """Write the whole book."""
        keeper = self._context.log.keeper

        def work(tell: Progress) -> str:
            count = write_backup(path, keeper.book(), tell)
            return f"{number_of(count, 'entry')} saved in {path.name}."

        self._start(work)

    def read_backup(self, path: Path) -> None:
        """Take a backup in."""
        keeper = self._context.log.keeper

        def work(tell: Progress) -> str:
            held, new = read_backup(path, keeper.book(), tell)
            return f"{path.name} holds {number_of(held, 'entry')}, {new} of them new."

        self._start(work, self._changed)

    def _start(self, work: Callable[[Progress], str], then: Callable[[], None] = lambda: None) -> None:
        def done(text: str) -> None:
            self.told.setText(text)
            then()

        self.told.setText("Working …")
        self._context.log.acts.do(
            work, done, self.told.setText, lambda title, share: self.told.setText(f"{title}: {share:.0%}")
        )
