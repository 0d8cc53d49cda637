"""Counting the plan's own pixels."""

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from swaddon.core import fast
from swaddon.core.artwork.raster import Box, Plane
from swaddon.core.press.profile import INKS, Role
from swaddon.core.units import mm_from_px, pixel_area_mm2

_COLUMNS = 11


@dataclass(frozen=True)
class RoleExtent:
    """Which pixel rows a role prints in, and how wide it is over all (in pixels)."""

    rows: NDArray[np.bool_]
    width_px: int


@dataclass(frozen=True)
class Measures:
    """Counts of one plan on its grid.

    Attributes
    ----------
    width_px, height_px, ppi
        The grid: the whole artboard at print size.
    coverage
        Mean coverage over the artboard, 0..1, of W, C, M, Y, K and highlight white H (one hit each).
    printed_px, white_px, removed_px
        Pixels with any ink, with any white, and those of the artwork that knockouts took away.
    printed
        Box of the printed pixels; ``None`` when nothing prints.
    extents
        Rows and width per role.
    """

    width_px: int
    height_px: int
    ppi: float
    coverage: dict[str, float]
    printed_px: int
    white_px: int
    removed_px: int
    printed: Box | None
    extents: dict[Role, RoleExtent]

    @property
    def artboard_mm2(self) -> float:
        return self.width_px * self.height_px * pixel_area_mm2(self.ppi)

    @property
    def printed_mm2(self) -> float:
        return self.printed_px * pixel_area_mm2(self.ppi)

    @property
    def removed_mm2(self) -> float:
        return self.removed_px * pixel_area_mm2(self.ppi)

    @property
    def white_mm2(self) -> float:
        return self.white_px * pixel_area_mm2(self.ppi)

    @property
    def printed_box_mm(self) -> tuple[float, float, float, float]:
        """Where on the artboard the ink lies: left, top, width and height; zeros when nothing prints."""
        if self.printed is None:
            return 0.0, 0.0, 0.0, 0.0
        left, top = mm_from_px(self.printed.left, self.ppi), mm_from_px(self.printed.top, self.ppi)
        return left, top, *self.printed_size_mm

    @property
    def printed_size_mm(self) -> tuple[float, float]:
        """Width and height of the box round the print; zeros when nothing prints."""
        if self.printed is None:
            return 0.0, 0.0
        return mm_from_px(self.printed.width, self.ppi), mm_from_px(self.printed.height, self.ppi)


def measure(
    cmyk: NDArray[np.uint8], white: Plane, ppi: float, removed_px: int = 0, highlight: Plane | None = None
) -> Measures:
    """Count coverage, area and extent of a plan (``uint8 (H, W, 4)`` and ``uint8 (H, W)``, 255 = full).

    Highlight white lies on the underbase, so it adds no printed pixel.
    """
    height, width = white.shape
    counted = np.empty((height, _COLUMNS), np.int64)
    kernel = fast.chosen("count", count_plain)
    fast.by_rows(height, lambda rows: kernel(cmyk[rows], white[rows], counted[rows]))
    full = 255.0 * width * height
    sums = counted[:, :5].sum(axis=0)
    colour = _extent(counted[:, 7], counted[:, 8])
    whites = _extent(counted[:, 9], counted[:, 10])
    coverage = {ink: float(total) / full for ink, total in zip((*INKS, "W"), sums, strict=True)}
    return Measures(
        width_px=width,
        height_px=height,
        ppi=ppi,
        coverage=coverage | {"H": 0.0 if highlight is None else cv2.sumElems(highlight)[0] / full},
        printed_px=int(counted[:, 5].sum()),
        white_px=int(counted[:, 6].sum()),
        removed_px=removed_px,
        printed=_box(counted),
        extents={"white": whites, "colour": colour, "highlight": _extent_of(highlight, height)},
    )


def count_plain(cmyk: NDArray[np.uint8], white: Plane, out: NDArray[np.int64]) -> None:
    """Counts per row in plain NumPy; columns as in the kernel."""
    width = white.shape[1]
    inked, has_white = np.asarray(cmyk.any(axis=2)), white > 0
    out[:, :4] = cmyk.sum(axis=1, dtype=np.int64)
    out[:, 4] = white.sum(axis=1, dtype=np.int64)
    out[:, 5], out[:, 6] = (inked | has_white).sum(axis=1), has_white.sum(axis=1)
    for column, mask in ((7, inked), (9, has_white)):
        some = np.asarray(mask.any(axis=1))
        out[:, column] = np.where(some, mask.argmax(axis=1), width)
        out[:, column + 1] = np.where(some, width - mask[:, ::-1].argmax(axis=1), 0)


def _extent(first: NDArray[np.int64], last: NDArray[np.int64]) -> RoleExtent:
    return RoleExtent(rows=last > first, width_px=max(0, int(last.max() - first.min())))


def _extent_of(plane: Plane | None, height: int) -> RoleExtent:
    if plane is None:
        return RoleExtent(rows=np.zeros(height, np.bool_), width_px=0)
    _, _, width, _ = cv2.boundingRect(plane)
    return RoleExtent(rows=np.asarray(plane.any(axis=1)), width_px=int(width))


def _box(counted: NDArray[np.int64]) -> Box | None:
    rows = np.flatnonzero(counted[:, 5])
    if rows.size == 0:
        return None
    left = int(counted[:, [7, 9]].min())
    right = int(counted[:, [8, 10]].max())
    return Box(left, int(rows[0]), right, int(rows[-1]) + 1)
