"""What a plan is made of."""

import math
from collections.abc import Callable
from dataclasses import dataclass, field
from functools import cached_property

from swaddon.core.artwork.artwork import Artwork
from swaddon.core.artwork.placement import Point
from swaddon.core.holes.holes import structure
from swaddon.core.holes.screen import Tiles
from swaddon.core.holes.settings import HoleSettings
from swaddon.core.inks.separation import Table
from swaddon.core.order.settings import PlanSettings
from swaddon.core.press.profile import PressProfile, Separation
from swaddon.core.units import px_from_mm

LARGEST_GRID_PX = 200_000_000
"""Largest plan grid in pixels; a larger print is refused with a sentence (memory is about 12 bytes a pixel)."""


LOOK = (
    "settings.garment", "profile.separation", "profile.white", "profile.slots", "profile.print_order",
    "profile.mirrored",
)  # fmt: skip
"""Paths of a request that the look of a print depends on (``optics.Appearance.of``)."""


@dataclass(frozen=True, eq=False)
class PlanRequest:
    """What a plan is made of.

    ``press`` is the press profile as it is stored, ``profile`` as these settings use it.
    ``solve_table`` gives the inverse of a separation; it may take a while, so it is asked for in the stage.
    ``ppi`` below the profile's gives a proxy: same stages, fewer pixels. ``tiles`` are the pattern tiles by name.
    """

    artwork: Artwork
    settings: PlanSettings
    press: PressProfile
    solve_table: Callable[[Separation], Table]
    ppi: float
    tiles: Tiles = field(default_factory=dict)

    @cached_property
    def profile(self) -> PressProfile:
        """The press profile with the hits of white and the treatment of colours beyond its inks that were chosen."""
        return self.press.with_hits(self.settings.white.hits).with_gamut(self.settings.gamut)

    def table(self) -> Table:
        """The profile's inverse separation."""
        return self.solve_table(self.profile.separation)

    @property
    def hole_structure(self) -> HoleSettings:
        """Where holes are to be, whatever they look like."""
        return structure(self.settings.holes)

    @property
    def height_mm(self) -> float:
        """Height of the artboard."""
        return self.artwork.height_mm_at(self.settings.width_mm, self.settings.placement)

    @property
    def grid_size(self) -> tuple[int, int]:
        """Width and height of the plan grid in pixels."""
        width, height = px_from_mm(self.settings.width_mm, self.ppi), px_from_mm(self.height_mm, self.ppi)
        return max(1, round(width)), max(1, round(height))

    @property
    def enlargement(self) -> float:
        """Pixels of the grid per pixel of the artwork, 1 for a drawing."""
        if self.artwork.render is not None:
            return 1.0
        return self.ppi / self.artwork.ppi_at(self.settings.width_mm, self.settings.placement)

    def on_grid(self, point: Point) -> tuple[int, int]:
        """Pixel of the grid under an artwork point; may lie outside it."""
        artwork, (width, height) = self.artwork, self.grid_size
        x, y = self.settings.placement.to_artboard(point, artwork.width_px, artwork.height_px)
        return math.floor(x * width), math.floor(y * height)
