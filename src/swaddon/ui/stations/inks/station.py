"""The Inks station."""

from swaddon.ui.stations.inks.page import InksPage
from swaddon.ui.stations.spec import StationSpec

STATION = StationSpec(
    key="inks",
    title="Inks",
    shortcut="Alt+5",
    way="black",
    codes=frozenset(),
    touched=lambda job: job.file is not None,
    page=InksPage,
)
