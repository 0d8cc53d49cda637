"""The Knockout station."""

from swaddon.ui.station_spec import StationSpec
from swaddon.ui.stations.knockout.page import KnockoutPage

STATION = StationSpec(
    key="knockout",
    title="Knockout",
    shortcut="Alt+3",
    way="artwork",
    codes=frozenset({"opaque-box", "jpeg-background", "nothing-printed"}),
    touched=lambda job: bool(job.settings.knockouts),
    page=KnockoutPage,
)
