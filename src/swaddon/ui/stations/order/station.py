"""The Order station."""

from swaddon.ui.station_spec import StationSpec
from swaddon.ui.stations.order.page import OrderPage

STATION = StationSpec(
    key="order",
    title="Order",
    help="What is ordered: garment, process, print size, quantity. All numbers follow from it.",
    shortcut="Alt+1",
    view_mode="cloth",
    watches=frozenset(
        {"name", "cloth", "file", "profile", "width_mm", "garment", "placement", "quantity", "units", "goods", "own"}
        | {"above", "below", "knockouts", "alpha", "holes", "white", "handover", "drop_mm"}
    ),
    codes=frozenset(),
    touched=lambda job: job.file is not None,
    page=OrderPage,
)
