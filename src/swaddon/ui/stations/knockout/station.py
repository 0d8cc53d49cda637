"""The Knockout station."""

from swaddon.ui.station_spec import StationSpec
from swaddon.ui.stations.knockout.page import KnockoutPage

STATION = StationSpec(
    key="knockout",
    title="Knockout",
    help="What must not print goes: the box, the garment’s own colour, half-transparent remains.",
    shortcut="Alt+3",
    view_mode="artwork",
    watches=frozenset(
        {
            "file",
            "profile",
            "width_mm",
            "placement",
            "garment",
            "knockouts",
            "keeps",
            "outlines",
            "alpha",
            "plan",
            "regions",
        }
    ),
    codes=frozenset(
        {
            "opaque-box",
            "jpeg-background",
            "full-rectangle",
            "enclosed-background",
            "knockout-idle",
            "fades-idle",
            "jpeg-edges",
            "nothing-printed",
            "half-transparent",
            "ink-on-match",
        }
    ),
    touched=lambda job: bool(job.settings.knockouts or job.settings.alpha),
    page=KnockoutPage,
)
