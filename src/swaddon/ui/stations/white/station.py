"""The White station."""

from swaddon.ui.station_spec import StationSpec
from swaddon.ui.stations.white.page import WhitePage

STATION = StationSpec(
    key="white",
    title="White",
    shortcut="Alt+5",
    way="cloth",
    codes=frozenset(
        {"white-off-dark", "white-on-white", "white-under-black", "choke-zero", "lost-lines", "choke-large"}
    ),
    touched=lambda job: job.file is not None,
    page=WhitePage,
)
