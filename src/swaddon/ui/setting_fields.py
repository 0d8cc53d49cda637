"""Controls of single settings, with the words and ranges that the settings declare."""

from PySide6.QtCore import QSignalBlocker
from PySide6.QtWidgets import QCheckBox

from swaddon.core.order.settings import PlanSettings
from swaddon.core.schema import declared_at, named
from swaddon.session import edits
from swaddon.ui.fields import SlideRow
from swaddon.ui.station_spec import StationContext
from swaddon.ui.widgets import Choice


class Tick(QCheckBox):
    """A setting that is on or off; showing its value sets nothing."""

    def show_value(self, on: bool) -> None:
        with QSignalBlocker(self):
            self.setChecked(on)


def slide(context: StationContext, path: str) -> SlideRow:
    """A slider of one setting, by its path; a whole drag is one step of undo."""
    made = SlideRow.of(declared_at(PlanSettings, path))
    made.moved.connect(lambda value: context.apply(edits.change(path, round(value, 4), path)))
    made.settled.connect(context.end_drag)
    return made


def tick(context: StationContext, path: str, tip: str = "") -> Tick:
    """A box to tick for one setting, by its path."""
    made = Tick(named(PlanSettings, path).title)
    made.setToolTip(tip)
    made.toggled.connect(lambda on: context.apply(edits.change(path, on)))
    return made


def choose(context: StationContext, path: str, columns: int | None = None) -> Choice:
    """Buttons for the few values of one setting, by its path."""
    made = Choice.of(named(PlanSettings, path), columns)
    made.chosen.connect(lambda key: context.apply(edits.change(path, key)))
    return made
