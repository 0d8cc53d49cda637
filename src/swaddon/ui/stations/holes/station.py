"""The Holes station."""

from swaddon.ui.station_spec import StationSpec
from swaddon.ui.stations.holes.page import HolesPage

STATION = StationSpec(
    key="holes",
    title="Holes",
    help="Big solids are cut into dots or lines, so that the print is soft and breathes.",
    shortcut="Alt+4",
    view_mode="cloth",
    watches=frozenset({"file", "profile", "width_mm", "placement", "holes", "tiles", "plan", "regions"}),
    codes=frozenset({"hole-small", "dot-small", "screen-fine", "screen-on-weave", "screens-beat"}),
    touched=lambda job: job.settings.holes.cuts,
    page=HolesPage,
)
