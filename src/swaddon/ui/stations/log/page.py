"""The Log station: find runs, look at one, compare two, the month; what is found lies on the table."""

from collections.abc import Callable, Sequence
from pathlib import Path
from typing import Any

from PySide6.QtCore import Qt
from PySide6.QtGui import QPixmap
from PySide6.QtWidgets import QFileDialog, QStackedWidget, QVBoxLayout, QWidget

from swaddon.core.engine import Run
from swaddon.core.log.entry import Entry, Page
from swaddon.core.log.query import Query
from swaddon.core.plan.stages import Plan
from swaddon.session.job import Job
from swaddon.session.log_files import blobs_of
from swaddon.session.log_jobs import job_again
from swaddon.session.log_like import Likeness
from swaddon.session.log_words import likeness_text, title_text
from swaddon.ui.settling import settling
from swaddon.ui.station_spec import StationContext
from swaddon.ui.stations.log.compare_view import CompareView
from swaddon.ui.stations.log.entry_view import EntryView
from swaddon.ui.stations.log.finding import FindPart
from swaddon.ui.stations.log.keeping import Keeping
from swaddon.ui.stations.log.month_part import MonthPart
from swaddon.ui.stations.log.month_view import MonthView
from swaddon.ui.stations.log.run_list import RunList, thumb_of
from swaddon.ui.stations.log.saying import Saying
from swaddon.ui.widgets import Choice, button, column, label, row

_PAGE, _COUNTED, _LIKE = 60, 1001, 30
_PARTS = (("book", "Book"), ("compare", "Two"), ("month", "Month"))
_EMPTY = "The book is empty. A run writes itself into it when it ends: begin one at the Run station."


class LogPage(QWidget):
    def __init__(self, context: StationContext) -> None:
        super().__init__()
        self._context, self._likeness = context, Likeness()
        self._query, self._awaited = Query(), ""
        self._proofs: tuple[QPixmap | None, QPixmap | None] = (None, None)
        self._kept_beside: Entry | None = None
        self._like: Entry | None = None
        self._page: Page | None = None
        self._is_shown = False
        self.saying = Saying(context, lambda: "" if self._page is None else self._page.entry.head)
        self._build_sheet()
        self._build_table()
        self._lay_out()
        context.log.book_changed.connect(self._book_changed)
        self._typed = settling(self, 120, self.refresh)
        self.show_part("book")

    def _build_sheet(self) -> None:
        """What is looked for, what is found, and the book as files."""
        self.part = Choice("Show", _PARTS)
        self.part.chosen.connect(self.show_part)
        self.finding = FindPart(self._ask)
        self.list = RunList(self._want_thumbs)
        self.list.chosen.connect(self._chosen)
        self.list.asked.connect(self._key)
        self.list.runs.more.connect(self._more)
        self.told = label("", "effect", wrap=True)
        self.all = button("All runs", "low")
        self.all.clicked.connect(self._show_all)
        self.all.hide()
        self.keeping = Keeping(self._context, lambda: self._query, self.refresh)
        self.month = MonthPart(self._context)

    def _build_table(self) -> None:
        """A run, two of them, the month, or what to do."""
        self.view = EntryView(self.saying.verdict, self.saying.note, self.saying.right)
        self.view.asked.connect(self._act)
        self.two, self.month_view = CompareView(), MonthView()
        self.month.found.connect(self.month_view.show_month)
        self.empty = label(_EMPTY, "step", wrap=True)
        self.empty.setAlignment(Qt.AlignmentFlag.AlignCenter)
        self.own_table = QStackedWidget()
        self.shows_own_table = True
        self._hint = column(1, self.empty, 1, margins=(40, 0, 40, 0))
        self._hint.setObjectName("panel")
        for item in (self._hint, self.view, self.two, self.month_view):
            self.own_table.addWidget(item)

    def _lay_out(self) -> None:
        line = row(self.told, self.all)
        line.layout().setStretch(0, 1)  # type: ignore[union-attr]
        self._book = column(self.finding, line, self.list, self.keeping, spacing=6)
        self._book.layout().setStretch(2, 1)  # type: ignore[union-attr]
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 10, 0)
        layout.setSpacing(8)
        layout.addWidget(self.part)
        layout.addWidget(self._book, 1)
        layout.addWidget(self.month)

    # parts

    def show_part(self, key: str) -> None:
        """The book, two runs side by side, or the month."""
        self.part.show_value(key)
        self.shown = key
        self._book.setVisible(key != "month")
        self.month.setVisible(key == "month")
        if key == "month":
            self.own_table.setCurrentWidget(self.month_view)
            self.month.ask()
        elif key == "compare":
            self._show_two()
        else:
            self.own_table.setCurrentWidget(self._hint if self._page is None else self.view)

    def render_job(self, _job: Job, _plan: Plan | None, _yardstick: Plan | None) -> None:
        """The book is not about the job at hand: it is read when the station is first shown."""
        if not self._is_shown:
            self._is_shown = True
            self.refresh()

    # finding

    def find_words(self) -> None:
        """Type what is looked for."""
        self.show_part("book")
        self.finding.words.setFocus()
        self.finding.words.selectAll()

    def _ask(self, query: Query) -> None:
        """Look for something else, once the typing rests."""
        self._query, self._like = query, None
        self.all.hide()
        self._typed.start()

    def _show_all(self) -> None:
        self._like = None
        self.all.hide()
        self.finding.clear()
        self._query = Query()
        self.refresh()

    def refresh(self) -> None:
        """Look again."""
        query, like, keeper = self._query, self._like, self._context.log.keeper

        def work(_run: Run, _step: Callable[[Any], None]) -> Any:
            book = keeper.book()
            choices = book.choices()
            if like is not None:
                found = self._likeness.nearest(book, like, _LIKE)
                rows = [
                    (item.n, item.entry, likeness_text(
                        (item.parts.colours, item.parts.garment, item.parts.coverage, item.parts.finest)
                    )) for item in found
                ]  # fmt: skip
                return rows, len(rows), choices
            rows = [(item.n, item.entry, "") for item in book.find(query, None, _PAGE)]
            count = len(rows) if len(rows) < _PAGE else book.count(query, _COUNTED)
            return rows, count, choices

        self._context.log.finds.start(work, self._found, self._failed)

    def _found(self, made: Any) -> None:
        rows, count, choices = made
        held = self.list.current()
        self.finding.show_choices(choices)
        self.list.runs.show_rows(rows, self._like is not None or len(rows) < _PAGE)
        if self._like is not None:
            self.told.setText(f"Most like “{title_text(self._like)}”, the nearest first")
        else:
            many = f"over {_COUNTED - 1}" if count >= _COUNTED else f"{count}"
            self.told.setText(f"{many} run{'' if count == 1 else 's'}" + ("" if self._query.asks_nothing else " found"))
        self.all.setVisible(self._like is not None or not self._query.asks_nothing)
        self.empty.setText(
            _EMPTY if self._query.asks_nothing else "Nothing is found: use fewer words, or other filters."
        )
        if self._awaited and self.list.take(self._awaited):
            self._awaited = ""
        elif held is None or not self.list.take(held.head):
            if rows:
                self.list.setCurrentIndex(self.list.runs.index(0))
            else:
                self._page = None
                self.show_part(self.shown)

    def _failed(self, text: str) -> None:
        self.told.setText(text)
        self.list.runs.missed()

    def _more(self) -> None:
        query, rows, keeper = self._query, self.list.runs.rows, self._context.log.keeper
        before = rows[-1][0]

        def work(_run: Run, _step: Callable[[Any], None]) -> list[tuple[int, Entry, str]]:
            return [(item.n, item.entry, "") for item in keeper.book().find(query, before, _PAGE)]

        def done(found: list[tuple[int, Entry, str]]) -> None:
            if query == self._query and self._like is None:
                self.list.runs.add_rows(found, len(found) < _PAGE)

        self._context.log.finds.start(work, done, self._failed)

    def _want_thumbs(self, keys: Sequence[str]) -> None:
        keeper = self._context.log.keeper

        def work(_run: Run, _step: Callable[[Any], None]) -> dict[str, bytes]:
            found = {key: keeper.book().blob(key) for key in keys}
            return {key: b"" if blob is None else blob.data for key, blob in found.items()}

        def done(found: dict[str, bytes]) -> None:
            self.list.runs.put_thumbs({key: thumb_of(data, self) for key, data in found.items()})

        self._context.log.looks.start(work, done, lambda _text: None)

    def await_entry(self, uid: str) -> None:
        """Show a run as soon as it has come into the book."""
        self._awaited, self._like = uid, None
        self._query = Query()
        self.finding.clear()
        self.show_part("book")
        self.refresh()

    def _book_changed(self) -> None:
        if self._is_shown:
            self.refresh()
            if self._page is not None:
                self._read(self._page.entry.head)
            if self.shown == "month":
                self.month.ask()

    # one run

    def _chosen(self, entry: Entry) -> None:
        self._read(entry.head)

    def _read(self, head: str) -> None:
        """Read a run with its pictures."""
        keeper, beside = self._context.log.keeper, self._kept_beside

        def work(_run: Run, _step: Callable[[Any], None]) -> Any:
            book = keeper.book()
            page = book.page(head)
            if page is None:
                return None
            keys = [_thumbnail(page.entry), _thumbnail(beside), *page.entry.photos]
            blobs = [book.blob(key) if key else None for key in keys]
            return page, [None if blob is None else blob.data for blob in blobs]

        self._context.log.reads.start(work, self._show_page, self._failed)

    def _show_page(self, made: Any) -> None:
        if made is None:
            return
        page, pictures = made
        self._page = page
        self._proofs = _pixmap(pictures[0]), _pixmap(pictures[1])
        photos = [photo for photo in map(_pixmap, pictures[2:]) if photo is not None]
        self.view.show_page(page, self._proofs[0], photos)
        self.show_part(self.shown)

    def _show_two(self) -> None:
        if self._page is None or self._kept_beside is None or self._page.entry.head == self._kept_beside.head:
            self.empty.setText(
                "Take a run in the list and press Compare (C), then take another: both stand side by side, what "
                "differs first."
            )
            self.own_table.setCurrentWidget(self._hint)
            return
        self.two.show_two(self._kept_beside, self._page.entry, (self._proofs[1], self._proofs[0]))
        self.own_table.setCurrentWidget(self.two)

    def _key(self, key: str) -> None:
        if key == "v":
            self.say_verdict()
        else:
            self._act("compare")

    def say_verdict(self) -> None:
        """Look at the piece: the verdict takes the keys."""
        if self._page is not None:
            self.show_part("book")
            self.view.verdict.setFocus()

    def _act(self, what: str) -> None:
        if self._page is None:
            return
        entry = self._page.entry
        if what == "again":
            self._take_up(entry)
        elif what == "like":
            self._like = entry
            self.refresh()
        elif what == "compare":
            self._kept_beside = entry
            self.show_part("compare")
        elif what == "photo":
            names, _ = QFileDialog.getOpenFileNames(
                self, "Photos", "", "Photos (*.jpg *.jpeg *.png *.tif *.tiff *.webp)"
            )
            if names:
                self.saying.photos([Path(name) for name in names])

    def _take_up(self, entry: Entry) -> None:
        """A new job with exactly the settings, the artwork and the press profile of a run."""
        keeper = self._context.log.keeper

        self._context.log.acts.do(
            lambda _tell: job_again(entry, blobs_of(keeper.book())), self._context.open_made, self._context.tell
        )


def _thumbnail(entry: Entry | None) -> str:
    return "" if entry is None or entry.ordered is None else entry.ordered.thumbnail


def _pixmap(data: bytes | None) -> QPixmap | None:
    if data is None:
        return None
    made = QPixmap()
    made.loadFromData(data)
    return None if made.isNull() else made
