"""A print as it lies on its medium: the outline of its printed pixels, turned and on a grid of cells."""

import math
from dataclasses import dataclass
from functools import cached_property, lru_cache
from typing import Literal

import cv2
import numpy as np
from numpy.typing import NDArray

from swaddon.core.artwork.raster import Box, Mask, bounds
from swaddon.core.units import MM_PER_INCH

Turn = Literal[0, 90, 180, 270]
TURNS: tuple[Turn, ...] = (0, 90, 180, 270)

FINE_PX = 2
"""Side of the finer cells, on which distances are measured."""


def cell_px(ppi: float, wanted_mm: float = 1.0) -> int:
    """Side of a cell in pixels: a whole number of finer cells, about ``wanted_mm`` long.

    >>> cell_px(300), cell_px(72)
    (12, 2)
    """
    return max(1, round(wanted_mm * ppi / MM_PER_INCH / FINE_PX)) * FINE_PX


@dataclass(frozen=True, eq=False)
class Outline:
    """Which pixels of a print are printed, as it lies on its medium, not turned.

    Attributes
    ----------
    width_px, height_px
        Size of the artboard.
    box
        The box round the printed pixels on the artboard.
    bits
        The mask inside that box, eight pixels a byte.
    """

    width_px: int
    height_px: int
    ppi: float
    box: Box
    bits: bytes

    @classmethod
    def of(cls, printed: NDArray[np.uint8], ppi: float) -> "Outline | None":
        """The outline of a plane that is above 0 where anything prints; ``None``: nothing does."""
        box = bounds(np.asarray(printed, np.uint8))
        if box is None:
            return None
        part = printed[box.top : box.bottom, box.left : box.right] > 0
        return cls(printed.shape[1], printed.shape[0], ppi, box, np.packbits(part).tobytes())

    def mask(self, turn: Turn = 0) -> Mask:
        """The printed pixels inside their box, turned clockwise: ``uint8``, 255 where something is printed."""
        count = self.box.width * self.box.height
        flat = np.unpackbits(np.frombuffer(self.bits, np.uint8), count=count)
        upright = flat.reshape(self.box.height, self.box.width) * np.uint8(255)
        return np.ascontiguousarray(np.rot90(upright, -(turn // 90)))

    def size_px(self, turn: Turn = 0) -> tuple[int, int]:
        """Width and height of the box round the printed pixels, turned."""
        size = self.box.width, self.box.height
        return size if turn % 180 == 0 else (size[1], size[0])

    def artboard_px(self, turn: Turn = 0) -> tuple[int, int]:
        """Width and height of the turned artboard."""
        size = self.width_px, self.height_px
        return size if turn % 180 == 0 else (size[1], size[0])

    def inset_px(self, turn: Turn = 0) -> tuple[int, int]:
        """How far the printed box lies inside the turned artboard, from its left and its top.

        >>> outline = Outline(100, 50, 300, Box(10, 20, 90, 45), b"")
        >>> [outline.inset_px(turn) for turn in TURNS]
        [(10, 20), (5, 10), (10, 5), (20, 10)]
        """
        box = self.box
        right, below = self.width_px - box.right, self.height_px - box.bottom
        return {0: (box.left, box.top), 90: (below, box.left), 180: (right, below), 270: (box.top, right)}[turn]

    @cached_property
    def printed_px(self) -> int:
        """Number of printed pixels."""
        return int(np.bitwise_count(np.frombuffer(self.bits, np.uint8)).sum())


@dataclass(frozen=True, eq=False)
class Cells:
    """A turned print on the grid: which cells hold ink, and which no other print may touch.

    ``thin`` is ``uint8 (H, W)``, 1 where any pixel of the cell is printed; ``fat`` is wider by ``reach`` cells on each
    side, 1 where any point of the cell is nearer to the print than the spacing.
    """

    thin: Mask
    fat: Mask
    reach: int


@lru_cache(maxsize=600)
def cells_of(outline: Outline, turn: Turn, spacing_mm: float, fill_rings: bool) -> Cells:
    """The cells of a turned print; rings count as full where nothing is to lie in them. Worked out once."""
    side = cell_px(outline.ppi)
    mask = outline.mask(turn)
    if not fill_rings:
        mask = filled(mask)
    fine = _reduced(mask, FINE_PX)
    away_px = spacing_mm * outline.ppi / MM_PER_INCH + 1 + math.sqrt(2) * (FINE_PX - 1)
    reach = math.ceil(away_px / side)
    rim = reach * side // FINE_PX
    height, width = fine.shape
    per = side // FINE_PX
    below, right = -height % per, -width % per
    wide = cv2.copyMakeBorder(fine, rim, rim + below, rim, rim + right, cv2.BORDER_CONSTANT, value=0)
    away = cv2.distanceTransform(255 - wide, cv2.DIST_L2, cv2.DIST_MASK_PRECISE)
    near = (np.asarray(away) * FINE_PX < away_px).astype(np.uint8) * np.uint8(255)
    return Cells(_to_cells(fine, per), _to_cells(near, per), reach)


def filled(mask: Mask) -> Mask:
    """A mask with all that it encloses.

    >>> ring = np.full((3, 3), 255, np.uint8)
    >>> ring[1, 1] = 0
    >>> int(filled(ring)[1, 1])
    255
    """
    outside = cv2.copyMakeBorder(mask, 1, 1, 1, 1, cv2.BORDER_CONSTANT, value=0)
    cv2.floodFill(outside, None, (0, 0), 128)
    inner = outside[1:-1, 1:-1] != 128
    return inner.astype(np.uint8) * np.uint8(255)


def _reduced(mask: Mask, side: int) -> Mask:
    """A mask of larger pixels, set where any of theirs was."""
    below, right = -mask.shape[0] % side, -mask.shape[1] % side
    whole = cv2.copyMakeBorder(mask, 0, below, 0, right, cv2.BORDER_CONSTANT, value=0) if below or right else mask
    size = whole.shape[1] // side, whole.shape[0] // side
    return (cv2.resize(whole, size, interpolation=cv2.INTER_AREA) > 0).astype(np.uint8) * np.uint8(255)


def _to_cells(fine: Mask, per: int) -> Mask:
    below, right = -fine.shape[0] % per, -fine.shape[1] % per
    whole = np.pad(fine, ((0, below), (0, right)))
    rows, columns = whole.shape[0] // per, whole.shape[1] // per
    return np.asarray(whole.reshape(rows, per, columns, per).max(axis=(1, 3)) > 0, np.uint8)
