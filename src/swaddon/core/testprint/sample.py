"""Samples of a page in a scan: small windows taken straight, their light, and how evenly the page is lit."""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import cv2
import numpy as np
from numpy.typing import NDArray

from swaddon.core.testprint.find import Found
from swaddon.core.testprint.layout import WIDTH_MM, Box, Page
from swaddon.core.testprint.scan import Picture, Scan
from swaddon.core.units import MM_PER_INCH

Floats = NDArray[np.float64]

DARKEST = 1e-3


@dataclass(frozen=True, eq=False)
class Sampler:
    """Takes parts of a page out of a scan, by their places in mm."""

    scan: Scan
    found: Found
    page: Page

    @cached_property
    def density(self) -> float:
        """Samples per mm of a window: those of the scan, in whole numbers."""
        return float(max(8, round(self.found.ppi / MM_PER_INCH)))

    def window(self, box: Box) -> NDArray[np.float32]:
        """The light in a box, linear sRGB ``float32 (h, w, 3)``, ``density`` samples per mm, its sides straight."""
        return self.scan.light(self.pixels(box))

    def pixels(self, box: Box) -> Picture:
        """The numbers of the scan in a box, ``uint8 (h, w, 3)``."""
        width, height = max(2, round(box.width * self.density)), max(2, round(box.height * self.density))
        to_mm = np.array(
            [[box.width / width, 0, box.x + box.width / width / 2], [0, box.height / height, box.y], [0, 0, 1.0]]
        )
        to_mm[1, 2] += box.height / height / 2
        matrix = self.found.matrix @ to_mm
        ends = np.array([(0.0, 0.0), (width, 0.0), (0.0, height), (width, height)]).reshape(-1, 1, 2)
        px = cv2.perspectiveTransform(ends, matrix).reshape(-1, 2)
        low = np.maximum(np.floor(px.min(axis=0)).astype(int) - 2, 0)
        high = np.ceil(px.max(axis=0)).astype(int) + 3
        part = self.scan.pixels[low[1] : high[1], low[0] : high[0]]
        if part.size == 0:
            return np.zeros((height, width, 3), np.uint8)
        matrix = np.array([[1.0, 0, -low[0]], [0, 1.0, -low[1]], [0, 0, 1]]) @ matrix
        flags = cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP
        taken = cv2.warpPerspective(part, matrix, (width, height), flags=flags, borderMode=cv2.BORDER_REPLICATE)
        return np.asarray(taken, np.uint8)

    def level(self, box: Box, guard: float = 0.8) -> Floats:
        """Light of an even patch, ``(3,)``: the median of its rows' means, so that missing rows do not count."""
        return np.asarray(np.median(self.window(box.inset(guard)).mean(axis=1), axis=0), np.float64)


@dataclass(frozen=True, eq=False)
class Lighting:
    """How the page is lit: log of a white's light as a cubic over the page, by channel.

    ``level_at`` gives the light, linear sRGB, that white of full hits has at a place; ``spread`` is the standard
    deviation of the patches about it, as a share.
    """

    terms: Floats
    spread: float
    worst: float

    def level_at(self, place: tuple[float, float], page: Page) -> Floats:
        return np.asarray(np.exp(_powers(np.array([place]), page)[0] @ self.terms), np.float64)


def lighting(sampler: Sampler, boxes: Sequence[Box]) -> Lighting:
    """Fit the light over patches that are all alike; two rounds, without those that stand out."""
    levels = np.log(np.maximum([sampler.level(box) for box in boxes], DARKEST))
    powers = _powers(np.array([box.middle for box in boxes]), sampler.page)
    kept = np.ones(len(boxes), bool)
    for _ in range(2):
        terms, *_ = np.linalg.lstsq(powers[kept], levels[kept], rcond=None)
        off = np.abs(levels - powers @ terms).max(axis=1)
        kept = off <= max(3 * float(np.median(off)), 0.01)
    freedom = max(int(kept.sum()) - powers.shape[1], 1)
    spread = math.sqrt(float(((levels - powers @ terms)[kept] ** 2).sum()) / (3 * freedom))
    return Lighting(np.asarray(terms, np.float64), spread, float(off.max()))


def _powers(places: Floats, page: Page) -> Floats:
    """All products of x and y up to the third power, the page being -1..1."""
    x, y = places[:, 0] / WIDTH_MM * 2 - 1, places[:, 1] / page.height_mm * 2 - 1
    return np.stack([x**i * y**j for i in range(4) for j in range(4 - i)], axis=1)
