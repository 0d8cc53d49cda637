"""The Cost station."""

from swaddon.ui.station_spec import StationSpec
from swaddon.ui.stations.cost.page import CostPage

STATION = StationSpec(
    key="cost",
    title="Cost",
    help="What one shirt uses, costs and takes, each number with its arithmetic.",
    shortcut="Alt+8",
    view_mode="cloth",
    watches=frozenset(
        {
            "plan",
            "yardstick",
            "goods",
            "quantity",
            "profile",
            "name",
            "garment",
            "file",
            "quote",
            "above",
            "below",
            "cloth",
        }
    ),
    codes=frozenset(),
    touched=lambda job: job.file is not None,
    page=CostPage,
)
