"""Sliders of the White sheet: each changes one field of the white's settings, as that is declared."""

from swaddon.core.schema import declared
from swaddon.core.white.settings import WhiteSettings
from swaddon.session import edits
from swaddon.ui.fields import SlideRow
from swaddon.ui.station_spec import StationContext


def slide(context: StationContext, name: str) -> SlideRow:
    """A slider of one setting whose drag is one step of undo."""
    field = declared(WhiteSettings, name)
    shown = field.slider
    made = SlideRow.of(field)
    made.moved.connect(lambda value: context.apply(edits.set_white(shown.change, name, **{name: round(value, 3)})))
    made.settled.connect(context.end_drag)
    return made
