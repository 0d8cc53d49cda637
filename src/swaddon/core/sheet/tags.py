"""Tags: a few words printed beside a print, outside its art, so that cut transfers are told apart."""

from dataclasses import dataclass
from functools import lru_cache

import cv2
import numpy as np

from swaddon.core.artwork.raster import Box, Mask
from swaddon.core.sheet.prints import Outline
from swaddon.core.units import px_from_mm

TAG_HEIGHT_MM = 3.0
TAG_GAP_MM = 1.5
"""Height of a tag's letters with their room, and its distance from the art."""


@dataclass(frozen=True)
class TagPlace:
    """Where a tag stands on the artboard, in pixels; it may lie beyond its edge."""

    box: Box


def with_tag(outline: Outline, width_mm: float) -> tuple[Outline, TagPlace]:
    """The outline of a print together with its tag: in an empty corner of the print's box, else below it."""
    width = round(px_from_mm(width_mm, outline.ppi))
    height, gap = round(px_from_mm(TAG_HEIGHT_MM, outline.ppi)), round(px_from_mm(TAG_GAP_MM, outline.ppi))
    mask = outline.mask()
    spot = _empty_corner(mask, width, height, gap)
    left, top = spot if spot is not None else (0, mask.shape[0] + gap)
    rows, columns = max(mask.shape[0], top + height), max(mask.shape[1], left + width)
    whole = np.zeros((rows, columns), np.uint8)
    whole[: mask.shape[0], : mask.shape[1]] = mask
    whole[top : top + height, left : left + width] = 255
    box = Box(outline.box.left, outline.box.top, outline.box.left + columns, outline.box.top + rows)
    made = Outline(outline.width_px, outline.height_px, outline.ppi, box, np.packbits(whole > 0).tobytes())
    x, y = outline.box.left + left, outline.box.top + top
    return made, TagPlace(Box(x, y, x + width, y + height))


def _empty_corner(mask: Mask, width: int, height: int, gap: int) -> tuple[int, int] | None:
    """Upper left corner of a tag in a corner of a mask that has room for it."""
    rows, columns = mask.shape
    if width + gap > columns or height + gap > rows:
        return None
    for left in (0, columns - width):
        for top in (rows - height, 0):
            around = mask[max(0, top - gap) : top + height + gap, max(0, left - gap) : left + width + gap]
            if not around.any():
                return left, top
    return None


@lru_cache(maxsize=600)
def cut_paths(outline: Outline, spacing_mm: float, inner: bool) -> tuple[np.ndarray, ...]:
    """Closed lines half the spacing round a print, ``float64 (n, 2)``, x and y in pixels from the corner of its box.

    ``inner`` adds those of its openings. Those of an outline are worked out once.
    """
    fine = 2
    mask = outline.mask()
    reach = max(0.0, px_from_mm(spacing_mm, outline.ppi) / 2 - 2)
    rim = int(reach / fine) + 2
    size = -(-mask.shape[1] // fine), -(-mask.shape[0] // fine)
    small = (cv2.resize(mask, size, interpolation=cv2.INTER_AREA) > 0).astype(np.uint8) * np.uint8(255)
    wide = cv2.copyMakeBorder(small, rim, rim, rim, rim, cv2.BORDER_CONSTANT, value=0)
    away = np.asarray(cv2.distanceTransform(255 - wide, cv2.DIST_L2, cv2.DIST_MASK_PRECISE))
    near = (away * fine <= reach).astype(np.uint8)
    found, _ = cv2.findContours(near, cv2.RETR_CCOMP if inner else cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_NONE)
    tolerance = px_from_mm(0.15, outline.ppi) / fine
    paths = (cv2.approxPolyDP(contour, tolerance, True).reshape(-1, 2) for contour in found)
    return tuple((path.astype(np.float64) - rim + 0.5) * fine for path in paths if len(path) >= 3)
