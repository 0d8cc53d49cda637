"""The Order station."""

from swaddon.ui.stations.order.page import OrderPage
from swaddon.ui.stations.spec import StationSpec

STATION = StationSpec(
    key="order",
    title="Order",
    shortcut="Alt+1",
    way="cloth",
    codes=frozenset(),
    touched=lambda job: job.file is not None,
    page=OrderPage,
)
