"""Counting the plan's own pixels."""

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from swaddon.core.profile import INKS, Role
from swaddon.core.raster import Box, Plane, bands, bounds
from swaddon.core.units import mm_from_px, pixel_area_mm2


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
        Mean coverage over the artboard, 0..1, of W, C, M, Y and K (one hit each).
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
    def printed_size_mm(self) -> tuple[float, float]:
        """Width and height of the box round the print; zeros when nothing prints."""
        if self.printed is None:
            return 0.0, 0.0
        return mm_from_px(self.printed.width, self.ppi), mm_from_px(self.printed.height, self.ppi)


def measure(cmyk: NDArray[np.uint8], white: Plane, ppi: float, removed_px: int = 0) -> Measures:
    """Count coverage, area and extent of a plan (``uint8 (H, W, 4)`` and ``uint8 (H, W)``, 255 = full)."""
    height, width = white.shape
    sums = np.zeros(4)
    colour_any = np.empty((height, width), np.uint8)
    for rows in bands(height):
        part = cmyk[rows]
        sums += cv2.sumElems(part)
        np.not_equal(part.view(np.uint32)[..., 0], 0, out=colour_any[rows].view(np.bool_))
    full = 255.0 * width * height
    coverage = {"W": cv2.sumElems(white)[0] / full}
    coverage |= {ink: float(sums[index]) / full for index, ink in enumerate(INKS)}
    either = cv2.bitwise_or(white, colour_any)
    return Measures(
        width_px=width,
        height_px=height,
        ppi=ppi,
        coverage=coverage,
        printed_px=int(cv2.countNonZero(either)),
        white_px=int(cv2.countNonZero(white)),
        removed_px=removed_px,
        printed=bounds(either),
        extents={"white": _extent(white), "colour": _extent(colour_any)},
    )


def _extent(plane: Plane) -> RoleExtent:
    box = bounds(plane)
    rows = cv2.reduce(plane, 1, cv2.REDUCE_MAX)[:, 0] > 0
    return RoleExtent(rows=rows, width_px=0 if box is None else box.width)
