"""The verdict on a piece: each trouble seen, fine or not looked at; one key for each."""

from collections.abc import Callable

from PySide6.QtCore import Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QGridLayout, QPushButton, QVBoxLayout, QWidget

from swaddon.core.log.entry import Entry, Verdict
from swaddon.core.log.troubles import TROUBLES
from swaddon.session import parse
from swaddon.ui.fields import TextField
from swaddon.ui.stations.log import model
from swaddon.ui.widgets import Field, button, label, row

_SIGNS = {model.NOT_LOOKED: "○", model.SEEN: "■", model.FINE: "✓"}
_WHY = (
    "What was not looked at never counts as fine: the book learns from what was seen and from what was looked for and "
    "not found. A press on a trouble, or its letter, goes from not looked at (○) to seen (■) to fine (✓); A makes all "
    "the rest fine, Enter keeps it. A verdict may be added later, after a wash for instance: say after how many."
)
_ACROSS = 2


class VerdictPanel(QWidget):
    """Says how a piece came out."""

    def __init__(self, keep: Callable[[tuple[tuple[str, bool], ...], int], None]) -> None:
        super().__init__()
        self._keep, self._looked, self._verdict, self._head = keep, model.Looked(), Verdict(), ""
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Verdict")
        self.buttons: dict[str, QPushButton] = {}
        grid = QGridLayout()
        grid.setSpacing(4)
        for at, trouble in enumerate(TROUBLES):
            made = button("", "choice", "", trouble.described)
            made.setStyleSheet("text-align: left;")
            made.clicked.connect(lambda _=False, key=trouble.key: self.turn(key))
            self.buttons[trouble.key] = made
            grid.addWidget(made, at // _ACROSS, at % _ACROSS)
        self.rest = button("Rest is fine (A)", "low")
        self.rest.clicked.connect(self.rest_fine)
        self.washes = TextField("After how many washes", "0")
        self.washes.setFixedWidth(48)
        self.keep_button = button("Keep verdict", "primary", "check")
        self.keep_button.clicked.connect(self.keep)
        inner = QWidget()
        layout = QVBoxLayout(inner)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(6)
        layout.addLayout(grid)
        layout.addWidget(row(self.rest, label("after"), self.washes, label("washes"), 1, self.keep_button))
        whole = QVBoxLayout(self)
        whole.setContentsMargins(0, 0, 0, 0)
        whole.addWidget(Field("Verdict", inner, _WHY))
        self._show()

    def show_entry(self, entry: Entry) -> None:
        """Begin with what is known of a run; a verdict on it that is being given stays, whatever came in meanwhile."""
        before, known = model.Looked.of(self._verdict), model.Looked.of(entry.verdict)
        given = self._looked.changes(before) if entry.head == self._head else {}
        if entry.head != self._head or not self.washes.text().strip():
            self.washes.show_value("" if entry.verdict is None else str(entry.verdict.washes or ""))
        self._head, self._verdict = entry.head, entry.verdict or Verdict()
        self._looked = known.with_changes(given)
        self._show()

    def turn(self, key: str) -> None:
        """Another state of one trouble."""
        self._looked = self._looked.turned(key)
        self._show()

    def rest_fine(self) -> None:
        """All that was not looked at is fine."""
        self._looked = self._looked.rest_fine()
        self._show()

    def keep(self) -> None:
        """Keep what was seen."""
        try:
            washes = round(parse.number(self.washes.text() or "0", "Washes", 0, 1000))
        except ValueError as error:
            self.washes.refuse(f"{error}.")
            return
        if self.is_new:
            self._keep(self._looked.looked, washes)

    @property
    def is_new(self) -> bool:
        """Whether something is told that the book does not know yet."""
        known = {trouble.key: dict(self._verdict.looked)[trouble.key] for trouble in TROUBLES
                 if trouble.key in dict(self._verdict.looked)}  # fmt: skip
        washes = self.washes.text().strip()
        return dict(self._looked.looked) != known or (washes.isdigit() and int(washes) != self._verdict.washes)

    def _show(self) -> None:
        for trouble in TROUBLES:
            state, made = self._looked.state(trouble.key), self.buttons[trouble.key]
            made.setText(f"{_SIGNS[state]}  {trouble.title} ({trouble.letter})")
            made.setAccessibleName(f"{trouble.title}: {state}")
        self.rest.setEnabled(any(state == model.NOT_LOOKED for _, state in self._looked.states))

    def keyPressEvent(self, event: QKeyEvent) -> None:
        letter = event.text().upper()
        trouble = model.by_letter(letter)
        if trouble is not None and not event.modifiers():
            self.turn(trouble.key)
        elif letter == "A" and not event.modifiers():
            self.rest_fine()
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.keep()
        else:
            super().keyPressEvent(event)
