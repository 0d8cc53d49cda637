"""The Log station."""

from swaddon.ui.station_spec import StationSpec
from swaddon.ui.stations.log.page import LogPage

STATION = StationSpec(
    key="log",
    title="Log",
    help="What was printed, with which settings, and how it came out: find it, compare two, take one up again; and the "
    "month in sums.",
    shortcut="Alt+B",
    view_mode="cloth",
    watches=frozenset({"name", "file"}),
    codes=frozenset(),
    touched=lambda _job: False,
    page=LogPage,
)
