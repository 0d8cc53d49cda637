"""White of the design: near-white areas of the artwork, each printed as white ink or left as bare cloth."""

from collections.abc import Sequence
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from swaddon.core.artwork.raster import Mask, Rgba, place
from swaddon.core.units import mm_from_px, pixel_area_mm2

SMALLEST_MM2 = 1.0
"""Areas smaller than this are not told one by one (assumed)."""

MOST_LISTED = 24

_LONGEST_PX = 2000
"""Pixels on a side from which every second one is enough to part areas."""


@dataclass(frozen=True)
class DesignArea:
    """One connected area of white of the design: its size, and a place (mm on the artboard) well inside it."""

    area_mm2: float
    x_mm: float
    y_mm: float


def own_mask(art: Rgba, ramp: NDArray[np.uint8]) -> Mask:
    """Mask (255) of what counts as white of the design (``ramp`` from ``underbase.design_ramp``)."""
    least = int(np.searchsorted(ramp, 128))
    return np.asarray(cv2.inRange(art, (least, least, least, 128), (255, 255, 255, 255)), np.uint8)


def design_areas(art: Rgba, ramp: NDArray[np.uint8], ppi: float) -> tuple[DesignArea, ...]:
    """The areas of ``art`` (``uint8 (H, W, 4)``) that are white of the design, largest first, 8-connected."""
    step = max(1, max(art.shape[:2]) // _LONGEST_PX)
    mask = np.ascontiguousarray(own_mask(art, ramp)[::step, ::step])
    ppi /= step
    if not cv2.countNonZero(mask):
        return ()
    _, labels, stats, _ = cv2.connectedComponentsWithStats(mask, connectivity=8)
    sizes = stats[:, cv2.CC_STAT_AREA] * pixel_area_mm2(ppi)
    sizes[0] = 0
    found = []
    for index in np.argsort(-sizes, kind="stable")[:MOST_LISTED]:
        if sizes[index] < SMALLEST_MM2:
            break
        left, top, width, height = (int(v) for v in stats[index, :4])
        part = (labels[top : top + height, left : left + width] == index).view(np.uint8) * np.uint8(255)
        x, y = place(part)
        found.append(DesignArea(float(sizes[index]), mm_from_px(left + x, ppi), mm_from_px(top + y, ppi)))
    return tuple(found)


def areas_at(art: Rgba, ramp: NDArray[np.uint8], pixels: Sequence[tuple[int, int]]) -> Mask | None:
    """Mask (255) of the areas of white of the design at some pixels (x, y); ``None`` when none of them hits one."""
    mask = own_mask(art, ramp)
    height, width = mask.shape
    hit = [(x, y) for x, y in pixels if 0 <= x < width and 0 <= y < height and mask[y, x]]
    if not hit:
        return None
    for x, y in hit:
        if mask[y, x] == 255:
            cv2.floodFill(mask, None, (x, y), 64, flags=8)
    reach = np.ones((3, 3), np.uint8)
    return np.asarray(cv2.dilate(cv2.inRange(mask, 64, 64), reach), np.uint8)
