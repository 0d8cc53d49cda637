"""The White station."""

from swaddon.ui.station_spec import StationSpec
from swaddon.ui.stations.white.page import WhitePage

STATION = StationSpec(
    key="white",
    title="White",
    help="How much white lies under each colour, and how far it is pulled in from the edge.",
    shortcut="Alt+5",
    view_mode="cloth",
    watches=frozenset({"file", "profile", "width_mm", "placement", "garment", "holes", "white", "plan"}),
    codes=frozenset(
        {
            "white-off-dark",
            "white-on-white",
            "white-under-black",
            "white-needless",
            "white-outside",
            "beyond-cure",
            "design-white-missing",
            "toner-push-through",
            "haze-bare",
            "choke-zero",
            "choke-kept",
            "design-white-idle",
            "choke-large",
            "choke-guarded",
            "lost-lines",
            "peek",
            "bare-rim",
        }
    ),
    touched=lambda job: job.file is not None,
    page=WhitePage,
)
