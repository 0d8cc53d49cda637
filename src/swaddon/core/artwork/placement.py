"""How the artwork lies on the artboard: cropped, and turned by quarters. Points on it are kept in artwork pixels."""

import math
from dataclasses import dataclass, replace
from typing import Annotated, Any

import cv2
import numpy as np
from annotated_types import Ge, Le
from numpy.typing import NDArray

from swaddon.core.artwork.raster import Box, Rgba, alpha_of, bounds

Coordinate = Annotated[float, Ge(-1e6), Le(1e6)]
Point = tuple[Coordinate, Coordinate]
"""x, y in pixels of the artwork as it was read, so that a point stays on its motif through crop, turn and resize."""

_CONTENT_ALPHA = 8


@dataclass(frozen=True)
class Placement:
    """``crop`` is left, top, right, bottom in artwork pixels (``None``: all); turns are quarters clockwise, 0..3."""

    crop: tuple[int, int, int, int] | None = None
    quarter_turns: Annotated[int, Ge(0), Le(3)] = 0

    def box(self, width_px: int, height_px: int) -> Box:
        """The part of an artwork of this size that is printed; never empty."""
        if self.crop is None:
            return Box(0, 0, width_px, height_px)
        left, top, right, bottom = self.crop
        left, top = min(max(left, 0), width_px - 1), min(max(top, 0), height_px - 1)
        return Box(left, top, max(left + 1, min(right, width_px)), max(top + 1, min(bottom, height_px)))

    def is_outside(self, width_px: int, height_px: int) -> bool:
        """Whether the crop lies wholly beside an artwork of this size, or holds nothing."""
        if self.crop is None:
            return False
        left, top, right, bottom = self.crop
        return not (max(left, 0) < min(right, width_px) and max(top, 0) < min(bottom, height_px))

    def size(self, width_px: int, height_px: int) -> tuple[int, int]:
        """Width and height in artwork pixels of the printed part, as it lies on the artboard."""
        box = self.box(width_px, height_px)
        return (box.height, box.width) if self.quarter_turns % 2 else (box.width, box.height)

    def place(self, pixels: NDArray[Any]) -> NDArray[Any]:
        """A picture or plane ``(H, W[, C])`` of the artwork, as it lies on the artboard."""
        box = self.box(pixels.shape[1], pixels.shape[0])
        part = pixels[box.top : box.bottom, box.left : box.right]
        return np.ascontiguousarray(np.rot90(part, -self.quarter_turns))

    def to_artboard(self, point: Point, width_px: int, height_px: int) -> Point:
        """Position on the artboard, 0..1 of its width and height, of an artwork point."""
        box = self.box(width_px, height_px)
        x, y = (point[0] - box.left) / box.width, (point[1] - box.top) / box.height
        for _ in range(self.quarter_turns % 4):
            x, y = 1 - y, x
        return x, y

    def to_artwork(self, x: float, y: float, width_px: int, height_px: int) -> Point:
        """Artwork point at a position on the artboard, 0..1 of its width and height."""
        box = self.box(width_px, height_px)
        for _ in range(self.quarter_turns % 4):
            x, y = y, 1 - x
        return box.left + x * box.width, box.top + y * box.height

    def scaled(self, x: float, y: float) -> "Placement":
        """The same part of a picture that is ``x`` times as wide and ``y`` times as high."""
        if self.crop is None:
            return self
        left, top, right, bottom = self.crop
        return Placement((round(left * x), round(top * y), round(right * x), round(bottom * y)), self.quarter_turns)

    def turned(self) -> "Placement":
        """One quarter more, clockwise."""
        return replace(self, quarter_turns=(self.quarter_turns + 1) % 4)


def content_box(rgba: Rgba, background: tuple[int, int, int] | None, tolerance: int = 24) -> Box | None:
    """The box round what there is to print; ``None`` when nothing is.

    Parameters
    ----------
    rgba
        ``uint8 (H, W, 4)``, straight alpha.
    background
        sRGB of a colour all round that does not count as content, or ``None``.
    tolerance
        Difference per component, 0..255, up to which a pixel counts as background.

    >>> art = np.zeros((9, 9, 4), np.uint8)
    >>> art[2:5, 3:8] = 255
    >>> content_box(art, None)
    Box(left=3, top=2, right=8, bottom=5)
    """
    mask = (alpha_of(rgba) >= _CONTENT_ALPHA).astype(np.uint8)
    if background is not None:
        low = (*(max(part - tolerance, 0) for part in background), 0)
        high = (*(min(part + tolerance, 255) for part in background), 255)
        mask &= (cv2.inRange(rgba, low, high) == 0).astype(np.uint8)
    return bounds(mask)


@dataclass(frozen=True)
class PointMap:
    """Where points of an artwork of ``width_px`` × ``height_px`` lie on a grid of ``grid_size`` (width, height)."""

    placement: Placement
    width_px: int
    height_px: int
    grid_size: tuple[int, int]

    def on_grid(self, point: Point) -> tuple[int, int]:
        """Pixel of the grid under a point; may lie outside it."""
        width, height = self.grid_size
        x, y = self.placement.to_artboard(point, self.width_px, self.height_px)
        return math.floor(x * width), math.floor(y * height)

    def on_artwork(self, x: float, y: float) -> Point:
        """Point of the artwork at a place on the grid."""
        width, height = self.grid_size
        return self.placement.to_artwork(x / width, y / height, self.width_px, self.height_px)
