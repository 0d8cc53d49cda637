"""The Run station."""

from swaddon.ui.station_spec import StationSpec
from swaddon.ui.stations.run.page import RunPage

STATION = StationSpec(
    key="run",
    title="Run",
    help="What is done at the press, step by step, and what to beware of.",
    shortcut="Alt+8",
    view_mode="cloth",
    watches=frozenset({"profile", "white", "mirrored", "quantity"}),
    codes=frozenset(),
    touched=lambda job: job.file is not None,
    page=RunPage,
)
