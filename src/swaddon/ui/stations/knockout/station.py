"""The Knockout station."""

from swaddon.ui.stations.knockout.page import KnockoutPage
from swaddon.ui.stations.spec import StationSpec

STATION = StationSpec(
    key="knockout",
    title="Knockout",
    shortcut="Alt+3",
    way="artwork",
    codes=frozenset({"opaque-box", "jpeg-background", "nothing-printed"}),
    touched=lambda job: bool(job.settings.knockouts),
    page=KnockoutPage,
)
