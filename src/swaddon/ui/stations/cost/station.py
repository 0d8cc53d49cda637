"""The Cost station."""

from swaddon.ui.stations.cost.page import CostPage
from swaddon.ui.stations.spec import StationSpec

STATION = StationSpec(
    key="cost",
    title="Cost",
    shortcut="Alt+6",
    way="cloth",
    codes=frozenset(),
    touched=lambda job: job.file is not None,
    page=CostPage,
)
