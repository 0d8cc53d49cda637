"""What is read off the page by eye: a field each, and the constants that follow."""

from collections.abc import Callable
from functools import partial

from PySide6.QtWidgets import QGridLayout, QVBoxLayout, QWidget

from swaddon.core.press.profile import PressProfile
from swaddon.core.testprint.constants import ByEye
from swaddon.ui.fields import TextField
from swaddon.ui.stations.testprint import model
from swaddon.ui.widgets import Field, label

_WHY = (
    "Without a scanner the page tells much to a sharp eye. Vernier: the numbered white line that runs straight on into "
    "a dark one; halves where two do alike. Least widths: the thinnest that stands with all thicker ones. One hit: "
    "hold the single white patches against the steps of black, and give the step that is as light. Least choke: the "
    "first square of the ladder without a white rim. Most coverage: the darkest square that dried and does not "
    "crack.\n\n"
    "A scan measures finer, and finds nozzles, turn and dot gain; the eye sees what a scan cannot: wear and wash."
)


class ByEyePart(QWidget):
    """The fields."""

    def __init__(self, typed: Callable[[str, str], None]) -> None:
        super().__init__()
        grid = QGridLayout()
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setVerticalSpacing(4)
        grid.setColumnStretch(0, 1)
        self.fields: dict[str, TextField] = {}
        self._labels: dict[str, tuple[QWidget, QWidget]] = {}
        for down, (name, title, unit) in enumerate(model.EYE_FIELDS):
            field = TextField(title, "not read")
            field.setFixedWidth(96)
            field.feed(partial(typed, name))
            head, after = label(title), label(unit, "quiet")
            grid.addWidget(head, down, 0)
            grid.addWidget(field, down, 1)
            grid.addWidget(after, down, 2)
            self.fields[name] = field
            self._labels[name] = (head, after)
        inner = QWidget()
        inner.setLayout(grid)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(Field("Read by eye", inner, _WHY))

    def show_eye(self, eye: ByEye, press: PressProfile | None) -> None:
        offered = {name for name, _, _ in model.eye_fields(press)}
        for name, field in self.fields.items():
            field.show_value(model.eye_text(eye, name))
            for widget in (field, *self._labels[name]):
                widget.setVisible(name in offered)
