"""Lettering: where a print must not be cut, because a seam through a letter shows most."""

from collections.abc import Sequence
from dataclasses import dataclass

import cv2
import numpy as np

from swaddon.core.artwork.raster import Mask, Rgba
from swaddon.core.artwork.regions import Region, find_regions
from swaddon.core.units import px_from_mm

_LOOK_PPI = 150.0
_OPAQUE = 200
_TALLEST_MM, _LEAST_MM = 60.0, 1.0
_STROKES = (0.05, 0.55)
_LENGTHS = (0.4, 7.0)
_BENT, _BOLD = (1.5, 0.9), 0.15
_GAP = 0.7
_LIKE, _LIKE_STROKE = 2.4, 2.2
_FULL = 0.64
_LEAST_IN_WORD = 3
"""What counts as lettering (assumed): at least three opaque regions of one colour, 1 to 60 mm long, near each other by
0.7 of their length, alike in size and stroke; a stroke of 5 to 55 % of that length, drawn 0.4 to 7 times as long; at
least two in five of them no plain bars or blocks: drawn 1.5 times as long, or 0.9 times with a stroke over 15 %, and
filling at most 64 % of the box round them."""


def lettering_of(art: Rgba, ppi: float) -> Mask | None:
    """Mask, ``uint8 (H, W)``, 255 on the letters of an artwork at print size; ``None``: there are none.

    Parameters
    ----------
    art
        ``uint8 (H, W, 4)``, sRGB, straight alpha.

    >>> art = np.zeros((200, 600, 4), np.uint8)
    >>> for x in (20, 60, 100, 140):  # F F F F
    ...     art[40:90, x : x + 8] = art[40:48, x : x + 30] = art[62:70, x : x + 30] = (10, 10, 10, 255)
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
    seen = small.copy()
    seen[small[..., 3] < _OPAQUE] = 0
    found = find_regions(seen)
    numbers = _words(found.regions, px_from_mm(1.0, ppi * scale) / found.reduction)
    if not numbers:
        return None
    mask = found.mask(numbers)
    if mask.shape != (height, width):
        mask = np.asarray(cv2.resize(mask, (width, height), interpolation=cv2.INTER_NEAREST), np.uint8)
    return np.asarray(cv2.bitwise_and(mask, np.where(art[..., 3] > 0, 255, 0).astype(np.uint8)), np.uint8)


@dataclass(frozen=True)
class _Letter:
    """A region that may be a letter: its box and longest side, its stroke, and how long that is drawn, in pixels."""

    region: Region
    long: float
    stroke: float
    drawn: float

    @property
    def is_bent(self) -> bool:
        """Whether it is more than a bar."""
        fine, bold = _BENT
        left, top, right, bottom = self.region.box
        if self.region.area_px > _FULL * (right - left) * (bottom - top):
            return False
        return self.drawn / self.long >= (bold if self.stroke / self.long > _BOLD else fine)

    def joins(self, other: "_Letter") -> bool:
        """Whether both may stand in one word."""
        one, two = self.region.box, other.region.box
        gap = max(one[0] - two[2], two[0] - one[2], one[1] - two[3], two[1] - one[3])
        size, stroke = self.long / other.long, self.stroke / other.stroke
        return (
            gap <= _GAP * max(self.long, other.long)
            and 1 / _LIKE <= size <= _LIKE
            and 1 / _LIKE_STROKE <= stroke <= _LIKE_STROKE
        )


def _letter(region: Region, px_per_mm: float) -> _Letter | None:
    """A region as a letter; ``None``: it is none."""
    long = float(max(region.box[2] - region.box[0], region.box[3] - region.box[1]))
    if not _LEAST_MM * px_per_mm <= long <= _TALLEST_MM * px_per_mm:
        return None
    stroke = max(1.0, region.width_px)
    made = _Letter(region, long, stroke, region.area_px / stroke)
    fits = _STROKES[0] <= stroke / long <= _STROKES[1] and _LENGTHS[0] <= made.drawn / long <= _LENGTHS[1]
    return made if fits else None


def _words(regions: Sequence[Region], px_per_mm: float) -> set[int]:
    """Numbers of the regions that stand together as letters do."""
    by_colour: dict[int, list[_Letter]] = {}
    for region in regions:
        letter = _letter(region, px_per_mm)
        if letter is not None:
            by_colour.setdefault(region.palette, []).append(letter)
    out: set[int] = set()
    for letters in by_colour.values():
        for word in _joined(letters):
            bent = sum(letter.is_bent for letter in word)
            if len(word) >= _LEAST_IN_WORD and 5 * bent >= 2 * len(word):
                out.update(letter.region.number for letter in word)
    return out


def _joined(letters: list[_Letter]) -> list[list[_Letter]]:
    """Letters that reach each other from one to the next."""
    left, words = list(letters), []
    while left:
        word, at = [left.pop()], 0
        while at < len(word):
            near = [letter for letter in left if word[at].joins(letter)]
            left = [letter for letter in left if letter not in near]
            word += near
            at += 1
        words.append(word)
    return words
