"""Lettering: where a print must not be cut, because a seam through a letter shows most."""

from collections.abc import Sequence

import cv2
import numpy as np

from swaddon.core.artwork.raster import Mask, Rgba
from swaddon.core.artwork.regions import Region, find_regions
from swaddon.core.units import px_from_mm

_LOOK_PPI = 150.0
_STROKE_MM = 9.0
_TALLEST_MM, _LEAST_MM = 60.0, 1.0
_GAP = 1.2
_LEAST_IN_ROW = 3
"""What counts as lettering (assumed): three regions or more of one colour side by side, of like height, 1 to 60 mm
high, no stroke wider than 9 mm, gaps up to 1.2 of their height."""


def lettering_of(art: Rgba, ppi: float) -> Mask | None:
    """Mask, ``uint8 (H, W)``, 255 on the letters of an artwork at print size; ``None``: there are none.

    Parameters
    ----------
    art
        ``uint8 (H, W, 4)``, sRGB, straight alpha.

    >>> art = np.zeros((200, 600, 4), np.uint8)
    >>> for x in (20, 60, 100, 140):  # four strokes side by side
    ...     art[40:90, x : x + 12] = (10, 10, 10, 255)
    >>> art[40:190, 400:590] = (200, 10, 10, 255)  # a block beside them
    >>> mask = lettering_of(art, 150)
    >>> int(mask[60, 65]), int(mask[100, 500])
    (255, 0)
    """
    scale = min(1.0, _LOOK_PPI / ppi)
    height, width = art.shape[:2]
    small = art
    if scale < 1:
        size = max(1, round(width * scale)), max(1, round(height * scale))
        small = np.asarray(cv2.resize(art, size, interpolation=cv2.INTER_NEAREST), np.uint8)
    found = find_regions(small)
    numbers = _in_rows(found.regions, px_from_mm(1.0, ppi * scale) / found.reduction)
    if not numbers:
        return None
    mask = found.mask(numbers)
    if mask.shape != (height, width):
        mask = np.asarray(cv2.resize(mask, (width, height), interpolation=cv2.INTER_NEAREST), np.uint8)
    return np.asarray(cv2.bitwise_and(mask, np.where(art[..., 3] > 0, 255, 0).astype(np.uint8)), np.uint8)


def _in_rows(regions: Sequence[Region], px_per_mm: float) -> set[int]:
    """Numbers of the regions that stand side by side as letters do."""
    likely = [region for region in regions if _is_likely(region, px_per_mm)]
    by_colour: dict[int, list[Region]] = {}
    for region in likely:
        by_colour.setdefault(region.palette, []).append(region)
    out: set[int] = set()
    for group in by_colour.values():
        out |= _rows_of(group)
    return out


def _is_likely(region: Region, px_per_mm: float) -> bool:
    height = (region.box[3] - region.box[1]) / px_per_mm
    width = (region.box[2] - region.box[0]) / px_per_mm
    stroke = region.width_px / px_per_mm
    return _LEAST_MM <= height <= _TALLEST_MM and width <= 1.5 * _TALLEST_MM and stroke <= min(_STROKE_MM, height)


def _rows_of(group: list[Region]) -> set[int]:
    """Chains of regions from left to right whose heights and rows agree."""
    after: dict[int, int] = {}
    ordered = sorted(group, key=lambda region: region.box[0])
    for index, one in enumerate(ordered):
        height = one.box[3] - one.box[1]
        for other in ordered[index + 1 :]:
            if other.box[0] - one.box[2] > _GAP * height:
                break
            tall = other.box[3] - other.box[1]
            shared = min(one.box[3], other.box[3]) - max(one.box[1], other.box[1])
            if shared > 0.5 * min(height, tall) and 0.4 <= tall / height <= 2.5 and other.box[0] > one.box[0]:
                after.setdefault(one.number, other.number)
                break
    starts = set(after) - set(after.values())
    out: set[int] = set()
    for start in starts:
        chain = [start]
        while chain[-1] in after:
            chain.append(after[chain[-1]])
        if len(chain) >= _LEAST_IN_ROW:
            out.update(chain)
    return out
