"""Sliders of the White sheet: each changes one field of the white's settings."""

from swaddon.session import edits
from swaddon.ui.fields import SlideRow
from swaddon.ui.station_spec import StationContext


def slide(
    context: StationContext,
    name: str,
    span: tuple[float, float, float],
    unit: str,
    field: str,
    label_text: str,
    scale: float = 1.0,
) -> SlideRow:
    """A slider over ``span`` (least, most, step) whose drag is one step of undo."""
    made = SlideRow(name, *span, unit, scale)
    made.moved.connect(lambda value: context.apply(edits.set_white(label_text, field, **{field: round(value, 3)})))
    made.settled.connect(context.end_drag)
    return made
