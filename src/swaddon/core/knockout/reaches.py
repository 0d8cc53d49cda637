"""How much each main colour of an artwork would lose: from outside, and everywhere."""

from collections.abc import Sequence
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from swaddon.core.artwork.placement import PointMap
from swaddon.core.artwork.raster import Mask, Plane
from swaddon.core.artwork.regions import RegionMap
from swaddon.core.knockout.knockout import connected_to_outside

_SAMPLED_PX = 1_000_000
"""Regions are looked at on a grid of about so many points."""


@dataclass(frozen=True, eq=False)
class Sampled:
    """The main colours of an artwork on a coarse grid.

    Attributes
    ----------
    palette
        ``int32 (h, w)``: index into ``RegionMap.palette``, -1 where there is no ink.
    step
        Artwork pixels between its points.
    """

    palette: NDArray[np.int32]
    step: int

    @classmethod
    def of(cls, found: RegionMap) -> "Sampled":
        """The regions' colours at points a step apart."""
        stride = max(1, round((found.labels.size / _SAMPLED_PX) ** 0.5))
        own = np.array([-1, *(region.palette for region in found.regions)], np.int32)
        return cls(own[found.labels[::stride, ::stride]], stride * found.reduction)

    def everywhere(self, index: int) -> Mask:
        """Mask (255) of the points of a colour."""
        return np.where(self.palette == index, np.uint8(255), np.uint8(0))

    def outside(self, index: int) -> Mask:
        """Mask (255) of its points that are connected with the artboard's edge."""
        passable = np.where((self.palette == index) | (self.palette < 0), np.uint8(255), np.uint8(0))
        return np.asarray(cv2.bitwise_and(connected_to_outside(passable), self.everywhere(index)), np.uint8)

    def under(self, planes: Sequence[Plane], where: PointMap) -> list[Plane]:
        """What planes of a plan, ``uint8 (H, W)``, hold under the points, ``uint8 (h, w)``; beside the grid 0."""
        height, width = self.palette.shape
        x, y = (np.arange(width)[None, :] + 0.5) * self.step, (np.arange(height)[:, None] + 0.5) * self.step
        # One of both follows x and the other y, turned or not: so these stay a row and a column.
        across, down = where.placement.to_artboard((x, y), where.width_px, where.height_px)  # type: ignore[arg-type]
        wide, high = where.grid_size
        column, row = np.floor(across * wide).astype(np.intp), np.floor(down * high).astype(np.intp)
        there = (column >= 0) & (column < wide) & (row >= 0) & (row < high)
        column, row = np.clip(column, 0, wide - 1), np.clip(row, 0, high - 1)
        return [np.where(there, plane[row, column], np.uint8(0)) for plane in planes]
