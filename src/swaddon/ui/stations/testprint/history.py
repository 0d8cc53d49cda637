"""The press over time: its tests, how its constants stand, and how long a test holds."""

from collections.abc import Callable

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QGridLayout, QVBoxLayout, QWidget

from swaddon.ui.fields import TextField
from swaddon.ui.rebuilding import clear
from swaddon.ui.stations.testprint.model import History, days_of
from swaddon.ui.stations.testprint.pictures import HistoryPicture
from swaddon.ui.widgets import Field, button, column, label, row

_MOST_ROWS = 12
_WHY = (
    "Heads drift, nozzles dry out, a new batch of white covers less. A test from time to time shows it before a run "
    "does. When the last one is older than you want, or says other than the press profile, the bench tells."
)


class HistoryPart(QWidget):
    """Chart, list, and the constants with “assumed” or “measured on”."""

    def __init__(self, set_days: Callable[[int], None], save: Callable[[], None]) -> None:
        super().__init__()
        self.picture = HistoryPicture()
        self.days = TextField("Days that a test print holds")
        self.days.setFixedWidth(64)
        self.days.feed(lambda text: set_days(days_of(text)))
        self.list = label("", "quiet", wrap=True)
        self._grid = QGridLayout()
        self._grid.setContentsMargins(0, 0, 0, 0)
        self._grid.setColumnStretch(0, 1)
        self._grid.setVerticalSpacing(4)
        inner = QWidget()
        inner.setLayout(self._grid)
        self.save = button("Save press profile …", "link", tip="As a TOML file, with all that was measured")
        self.save.clicked.connect(save)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        tests = column(self.picture, self.list, row(label("Tell after"), self.days, label("days"), 1))
        layout.addWidget(Field("Tests of this press", tests, _WHY))
        layout.addWidget(Field("Constants of this press", column(inner, row(1, self.save))))

    def show_history(self, shown: History) -> None:
        self.picture.show_history(shown)
        self.picture.setVisible(bool(shown.shifts or shown.ratios))
        self.days.show_value(f"{shown.days}")
        lines = [f"{line.day}  {line.text}" for line in shown.rows[:_MOST_ROWS]]
        if len(shown.rows) > _MOST_ROWS:
            lines.append(f"and {len(shown.rows) - _MOST_ROWS} older")
        self.list.setText("\n".join(lines) or "None yet: print and read one.")
        clear(self._grid)
        for down, (title, value, standing) in enumerate(shown.standing):
            self._grid.addWidget(column(label(title), label(standing, "quiet"), spacing=0), down, 0)
            self._grid.addWidget(label(value, "head"), down, 1, Qt.AlignmentFlag.AlignRight)
