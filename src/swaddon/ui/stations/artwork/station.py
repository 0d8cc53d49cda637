"""The Artwork station."""

from swaddon.ui.station_spec import StationSpec
from swaddon.ui.stations.artwork.page import ArtworkPage

STATION = StationSpec(
    key="artwork",
    title="Artwork",
    help="What came in, and where it is weak; crop, turn, size, place on the garment.",
    shortcut="Alt+2",
    view_mode="artwork",
    watches=frozenset({"file", "profile", "cloth", "width_mm", "placement", "drop_mm", "plan", "units"}),
    codes=frozenset({"ppi-low", "too-large", "line-fine", "gap-fine", "ink-below-artboard"}),
    touched=lambda job: job.file is not None,
    page=ArtworkPage,
)
