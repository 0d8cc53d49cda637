"""Stages of the artwork: placed on the grid, its colours, its regions."""

from dataclasses import dataclass

from swaddon.core.artwork import regions
from swaddon.core.artwork.artwork import Artwork
from swaddon.core.artwork.placement import Placement
from swaddon.core.artwork.raster import Rgba, resample
from swaddon.core.artwork.regions import RegionMap
from swaddon.core.engine import Run, of, settle, stage
from swaddon.core.errors import PlanError

LARGEST_GRID_PX = 200_000_000
"""Largest plan grid in pixels; a larger print is refused with a sentence (memory is about 12 bytes a pixel)."""


@dataclass(frozen=True)
class PlacedSettings:
    """``grid_size`` is width and height in pixels at ``ppi``."""

    artwork: Artwork
    grid_size: tuple[int, int]
    ppi: float
    placement: Placement = of("settings.placement")


def placed(settings: PlacedSettings, run: Run) -> Rgba:
    """The artwork at print size on the plan's grid, ``uint8 (H, W, 4)``, straight alpha."""
    artwork, placement = settings.artwork, settings.placement
    if placement.is_outside(artwork.width_px, artwork.height_px):
        raise PlanError(
            f"The crop {placement.crop} lies beside the artwork of {artwork.width_px} × {artwork.height_px} px: "
            "crop a part of it, or print all of it."
        )
    width, height = settings.grid_size
    if width * height > LARGEST_GRID_PX:
        raise PlanError(
            f"This print would need {width} × {height} px at {settings.ppi:g} ppi, more than Swaddon plans "
            f"({LARGEST_GRID_PX // 1_000_000} megapixels); choose a smaller print width."
        )
    if artwork.render is None:
        return resample(placement.place(artwork.rgba), width, height)
    return resample(_drawn(artwork, placement, width, run), width, height)


def _drawn(artwork: Artwork, placement: Placement, width: int, run: Run) -> Rgba:
    """A drawing rendered so that its printed part is as wide as the grid."""
    assert artwork.render is not None
    scale = width / artwork.placed_px(placement)[0]
    whole = round(artwork.width_px * scale), round(artwork.height_px * scale)
    if whole[0] * whole[1] > LARGEST_GRID_PX:
        raise PlanError("The cropped drawing would be too large to render at this width; choose a smaller print width.")
    picture = artwork.render(max(1, whole[0]), max(1, whole[1]), run.check)
    return placement.scaled(picture.shape[1] / artwork.width_px, picture.shape[0] / artwork.height_px).place(picture)


@dataclass(frozen=True)
class RegionSettings:
    """Regions are looked for where ``cuts`` says that holes depend on them."""

    cuts: bool = of("settings.holes.cuts")
    artwork: Artwork | None = of("artwork")

    def __post_init__(self) -> None:
        if not self.cuts:
            settle(self, artwork=None)


def region_map(settings: RegionSettings, run: Run) -> RegionMap | None:
    """Contiguous colour regions of the whole artwork; ``None`` where nobody needs them."""
    return None if settings.artwork is None else artwork_regions(settings.artwork, run)


def artwork_regions(artwork: Artwork, run: Run) -> RegionMap:
    """The regions of an artwork, found once and kept."""
    found: RegionMap = run.memo(("regions", artwork.content_id), lambda: regions.find_regions(artwork.rgba, run.check))
    return found


STAGES = (stage(placed, 3, "Placing the artwork"), stage(region_map, 1, "Finding regions"))
