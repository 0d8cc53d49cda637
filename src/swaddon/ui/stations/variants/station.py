"""The Variants station."""

from swaddon.ui.station_spec import StationSpec
from swaddon.ui.stations.variants.page import VariantsPage

STATION = StationSpec(
    key="variants",
    title="Variants",
    help="One artwork planned many ways, side by side: garments, white plans, knockouts, holes, presses, toner sets.",
    shortcut="Alt+0",
    view_mode="cloth",
    watches=frozenset({"file", "profile", "garment", "goods", "above", "below", "knockouts", "alpha", "holes", "white"})
    | frozenset(
        {"width_mm", "placement", "recipes", "icc", "lineup", "outlines", "keeps", "gamut", "mirrored", "tiles"}
    ),
    codes=frozenset(),
    touched=lambda _job: False,
    page=VariantsPage,
)
