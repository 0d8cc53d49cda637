"""The Inks station."""

from swaddon.ui.station_spec import StationSpec
from swaddon.ui.stations.inks.page import InksPage

STATION = StationSpec(
    key="inks",
    title="Inks",
    help="Which ink prints when, from which slot, and how the layers lie on the shirt.",
    shortcut="Alt+6",
    view_mode="footprint",
    watches=frozenset({"profile", "mirrored", "gamut", "white", "lineup", "recipes", "icc", "plan", "cloth", "goods"}),
    codes=frozenset({"white-on-top", "reads-backwards", "over-limit"}),
    touched=lambda job: job.file is not None,
    page=InksPage,
)
