"""Constants old → new, each with a tick, what they change in the job, and the step that takes them."""

from collections.abc import Callable

from PySide6.QtCore import QSignalBlocker
from PySide6.QtWidgets import QCheckBox, QVBoxLayout, QWidget

from swaddon.ui.rebuilding import take_away
from swaddon.ui.stations.testprint.model import ConstantRow
from swaddon.ui.widgets import Field, button, column, label, row

_WHY = (
    "Each constant of a press profile is assumed until it is measured. Ticked ones are written into the profile of "
    "this job and of new jobs, with the day, their source and the old value; it is one step, and undo takes it back. "
    "What stands on the page as printed may still be lost under the press or in the wash: take least widths only when "
    "they are worse than what you have, or after a wash."
)


class ConstantLine(QWidget):
    """One constant: tick, title, old → new, how the old one stands."""

    def __init__(self, ticked: Callable[[str, bool], None]) -> None:
        super().__init__()
        self._key = ""
        self.tick = QCheckBox()
        self.tick.toggled.connect(lambda on: ticked(self._key, on))
        self.values, self.note = label("", "head", wrap=True), label("", "quiet", wrap=True)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 4)
        layout.setSpacing(0)
        layout.addWidget(self.tick)
        inner = column(self.values, self.note, spacing=0)
        inner.setContentsMargins(24, 0, 0, 0)
        layout.addWidget(inner)

    def show_row(self, state: ConstantRow) -> None:
        self._key = state.key
        self.tick.setText(state.title)
        with QSignalBlocker(self.tick):
            self.tick.setChecked(state.is_ticked)
        self.tick.setAccessibleName(f"Take {state.title}: {state.old} becomes {state.new}")
        self.values.setText(f"{state.old}  →  {state.new}")
        self.note.setText(state.note)
        self.note.setVisible(bool(state.note))


class ConstantsList(QWidget):
    """The list with its button."""

    def __init__(self, ticked: Callable[[str, bool], None], take: Callable[[], None], ask: Callable[[], None]) -> None:
        super().__init__()
        self._ticked = ticked
        self.lines: list[ConstantLine] = []
        self._list = QVBoxLayout()
        self._list.setContentsMargins(0, 0, 0, 0)
        self._list.setSpacing(0)
        inner = QWidget()
        inner.setLayout(self._list)
        self.take = button(
            "Take the ticked ones", "primary", "check", "Write them into the press profile: one step of undo"
        )
        self.take.clicked.connect(take)
        self.ask = button("What changes?", "link", tip="Plan this job anew with the ticked constants, and compare")
        self.ask.clicked.connect(ask)
        self.effect = label("", "effect", wrap=True)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(Field("Constants, old → new", column(row(self.take, 1, self.ask), self.effect, inner), _WHY))

    def show_rows(self, states: tuple[ConstantRow, ...], has_plan: bool, effect: str) -> None:
        while len(self.lines) > len(states):
            line = self.lines.pop()
            take_away(line, self._list)
        while len(self.lines) < len(states):
            made = ConstantLine(self._ticked)
            self._list.addWidget(made)
            self.lines.append(made)
            made.show()
        for line, state in zip(self.lines, states, strict=True):
            line.show_row(state)
        any_ticked = any(state.is_ticked for state in states)
        self.take.setEnabled(any_ticked)
        self.ask.setEnabled(any_ticked and has_plan)
        self.effect.setText(effect)
        self.effect.setVisible(bool(effect))
