"""What is looked for: words, and what the run must be."""

from collections.abc import Callable, Mapping

from PySide6.QtCore import QSignalBlocker, Qt
from PySide6.QtWidgets import QGridLayout, QLineEdit, QVBoxLayout, QWidget

from swaddon.core.log.query import Query, day_asked
from swaddon.core.log.troubles import trouble_title
from swaddon.core.press.processes import PROCESSES
from swaddon.ui.fields import Choices, TextField
from swaddon.ui.fold import Fold
from swaddon.ui.stations.log import model
from swaddon.ui.widgets import column, label

_ANY = "any"


class FindPart(QWidget):
    """Words and filters; ``asked`` gets the question whenever it changes."""

    def __init__(self, asked: Callable[[Query], None]) -> None:
        super().__init__()
        self._asked, self._query = asked, Query()
        self.words = QLineEdit()
        self.words.setPlaceholderText("Order, customer, garment, artwork, trouble, note …")
        self.words.setAccessibleName("Find in the log book")
        self.words.setClearButtonEnabled(True)
        self.words.setMaxLength(200)
        self.words.textEdited.connect(lambda text: self._change(words=text))
        self.garment, self.process, self.trouble = Choices(), Choices(), Choices()
        for box, key, title in (
            (self.garment, "garment", "Garment"), (self.process, "process", "Process"),
            (self.trouble, "trouble", "Trouble"),
        ):  # fmt: skip
            box.setAccessibleName(title)
            box.addItem(_ANY, "")
            box.activated.connect(lambda _at, box=box, key=key: self._change(**{key: str(box.currentData())}))
        self.artwork, self.since, self.until = TextField("Artwork"), TextField("Since"), TextField("Until")
        for field, hint in ((self.artwork, "file name"), (self.since, "2026-11-01"), (self.until, "2026-11-30")):
            field.setPlaceholderText(hint)
        self.artwork.feed(lambda text: self._change(artwork=text.strip()[:200]))
        self.since.feed(lambda text: self._change(since=day_asked(text, "Since")))
        self.until.feed(lambda text: self._change(until=day_asked(text, "Until")))
        grid = QGridLayout()
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setColumnStretch(1, 1)
        for at, (title, widget) in enumerate((
            ("Garment", self.garment), ("Process", self.process), ("Trouble", self.trouble), ("Artwork", self.artwork),
            ("Since", self.since), ("Until", self.until),
        )):  # fmt: skip
            grid.addWidget(label(title, "quiet"), at, 0, Qt.AlignmentFlag.AlignVCenter)
            grid.addWidget(widget, at, 1)
        inner = QWidget()
        inner.setLayout(grid)
        self.filters = Fold("Filters", inner)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(column(self.words, self.filters, spacing=4))

    def _change(self, **what: str) -> None:
        self._query = model.asked(self._query, **what)
        self._told()
        self._asked(self._query)

    def _told(self) -> None:
        held = self._query
        parts = (
            held.garment, held.process, trouble_title(held.trouble) if held.trouble else "", held.artwork,
            f"since {held.since}" if held.since else "", f"until {held.until}" if held.until else "",
        )  # fmt: skip
        self.filters.show_note(", ".join(filter(None, parts)))

    def clear(self) -> None:
        """Ask for nothing; nobody is told."""
        self._query = Query()
        self.words.clear()
        for box in (self.garment, self.process, self.trouble):
            with QSignalBlocker(box):
                box.setCurrentIndex(0)
        for field in (self.artwork, self.since, self.until):
            field.show_value("")
        self._told()

    def show_choices(self, choices: Mapping[str, tuple[str, ...]]) -> None:
        """What there is to choose from; what is chosen stays."""
        titles = {"process": lambda key: PROCESSES[key].title if key in PROCESSES else key, "trouble": trouble_title}
        for key, box in (("garment", self.garment), ("process", self.process), ("trouble", self.trouble)):
            wanted = ["", *choices.get(key, ())]
            if [box.itemData(at) for at in range(box.count())] == wanted:
                continue
            held = box.currentData()
            with QSignalBlocker(box):
                box.clear()
                for value in wanted:
                    box.addItem(titles.get(key, str)(value) if value else _ANY, value)
                box.setCurrentIndex(max(0, box.findData(held)))
