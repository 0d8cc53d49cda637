"""The Run station."""

from swaddon.ui.station_spec import StationSpec
from swaddon.ui.stations.run.page import RunPage

STATION = StationSpec(
    key="run",
    title="Run",
    help="What the next program gets and must be told; then the steps at the press, and what to beware of.",
    shortcut="Alt+9",
    view_mode="cloth",
    watches=frozenset({"profile", "white", "mirrored", "quantity", "handover", "plan", "goods"}),
    codes=frozenset(),
    touched=lambda job: job.file is not None,
    page=RunPage,
)
