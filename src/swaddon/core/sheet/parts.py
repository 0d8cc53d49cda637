"""An artwork that is a whole gang sheet: its prints found, counted, and which lie too tight to be cut."""

from collections.abc import Callable
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from swaddon.core.artwork.raster import Box, Mask, Rgba
from swaddon.core.sheet.alike import Look, are_alike, look_of

MOST_PARTS = 2000
_COARSE_PX = 4_000_000
"""Parts are looked for on a mask of about so many pixels; their boxes are those of the full one."""

_CONTENT_ALPHA, _TOLERANCE = 8, 24
_LEAST_SHARE = 0.02
"""What is smaller on both sides than this share of the largest part is a speck of its neighbour (assumed)."""

_SIZES_APART = 0.04
_MOST_LOOKS = 64
"""Pictures of kinds that are kept at hand while a sheet is sorted."""


@dataclass(frozen=True)
class FoundPart:
    """A print on the sheet.

    Attributes
    ----------
    number
        From 1 on, row by row.
    box
        In artwork pixels.
    label
        Its number on the coarse mask of :class:`Parts`.
    kind
        Prints that look the same share a kind, counted from 1.
    nearest_px
        Distance to the next print in artwork pixels, as far as it was looked for; infinite: none is near.
    """

    number: int
    box: Box
    label: int
    kind: int
    nearest_px: float


@dataclass(frozen=True, eq=False)
class Parts:
    """All prints of a sheet; ``labels`` is ``int32``, one value for ``scale`` artwork pixels."""

    parts: tuple[FoundPart, ...]
    labels: NDArray[np.int32]
    scale: int

    def cut_out(self, rgba: Rgba, part: FoundPart) -> Rgba:
        """The pixels of a print alone: ``uint8 (H, W, 4)``, nothing where another print reaches into its box."""
        box, scale = part.box, self.scale
        rows = np.arange(box.top, box.bottom) // scale
        columns = np.arange(box.left, box.right) // scale
        own = self.labels[rows[:, None], columns[None, :]]
        picture = rgba[box.top : box.bottom, box.left : box.right].copy()
        picture[(own != part.label) & (own != 0)] = 0
        return picture


def content_mask(rgba: Rgba, background: tuple[int, int, int] | None) -> Mask:
    """Where an artwork holds something besides nothing and one colour all round: ``uint8``, 255 where it does."""
    out = np.empty(rgba.shape[:2], np.uint8)
    low = (0, 0, 0, _CONTENT_ALPHA)
    for top in range(0, rgba.shape[0], 1024):
        band = rgba[top : top + 1024]
        mask = cv2.inRange(band, low, (255, 255, 255, 255))
        if background is not None:
            under = tuple(max(0, value - _TOLERANCE) for value in background)
            over = tuple(min(255, value + _TOLERANCE) for value in background)
            mask = cv2.bitwise_and(mask, cv2.bitwise_not(cv2.inRange(band, (*under, 0), (*over, 255))))
        out[top : top + 1024] = mask
    return out


def find_parts(
    rgba: Rgba,
    background: tuple[int, int, int] | None,
    gap_px: float,
    near_px: float,
    check: Callable[[], None] = lambda: None,
) -> Parts:
    """Find the prints of a gang sheet.

    Parameters
    ----------
    rgba
        ``uint8 (H, W, 4)``, straight alpha.
    background
        sRGB of a colour all round that is no print, or ``None``.
    gap_px
        What is nearer than this is one print.
    near_px
        How far the next print is looked for.

    Raises
    ------
    ValueError
        There are more than ``MOST_PARTS``.
    """
    height, width = rgba.shape[:2]
    scale = 1
    while height * width / scale**2 > _COARSE_PX and gap_px / scale > 6:
        scale += 1
    mask = content_mask(rgba, background)
    check()
    small = _reduced(mask, scale)
    away = np.asarray(cv2.distanceTransform(np.where(small > 0, 0, 255).astype(np.uint8), cv2.DIST_L2, 5))
    joined = (away * scale < gap_px / 2).astype(np.uint8)
    count, labels, stats, _ = cv2.connectedComponentsWithStats(joined, connectivity=8)
    check()
    labels = np.asarray(labels, np.int32)
    boxes = {label: _full_box(mask, labels, stats[label], label, scale) for label in range(1, count)}
    kept = _without_specks({label: box for label, box in boxes.items() if box is not None})
    if len(kept) > MOST_PARTS:
        raise ValueError(f"there are {len(kept)} separate things on it, more than {MOST_PARTS}: raise the gap")
    ordered = _in_reading_order(kept)
    out: list[FoundPart] = []
    kinds = _Kinds(rgba, background, labels, scale)
    for number, (label, box) in enumerate(ordered, start=1):
        check()
        kind = kinds.of(label, box)
        out.append(FoundPart(number, box, label, kind, _nearest(small, labels, label, box, scale, near_px)))
    return Parts(tuple(out), labels, scale)


class _Kinds:
    """Sorts the prints of a sheet by kind."""

    def __init__(self, rgba: Rgba, ground: tuple[int, int, int] | None, labels: NDArray[np.int32], scale: int) -> None:
        self._rgba, self._ground, self._labels, self._scale = rgba, ground, labels, scale
        self._firsts: list[tuple[int, Box]] = []
        self._looks: dict[int, Look] = {}

    def of(self, label: int, box: Box) -> int:
        """The kind of a print: that of an earlier one that it is alike to, else a new one."""
        look = self._look(label, box)
        for index, (other, size) in enumerate(self._firsts):
            apart = max(abs(box.width - size.width) / size.width, abs(box.height - size.height) / size.height)
            if apart <= _SIZES_APART and are_alike(self._kept(index, other, size), look):
                return index + 1
        self._firsts.append((label, box))
        return len(self._firsts)

    def _kept(self, index: int, label: int, box: Box) -> Look:
        if index not in self._looks:
            while len(self._looks) >= _MOST_LOOKS:
                self._looks.pop(next(iter(self._looks)))
            self._looks[index] = self._look(label, box)
        return self._looks[index]

    def _look(self, label: int, box: Box) -> Look:
        here = np.s_[box.top : box.bottom, box.left : box.right]
        rows, columns = np.arange(box.top, box.bottom) // self._scale, np.arange(box.left, box.right) // self._scale
        own = np.where(self._labels[rows[:, None], columns[None, :]] == label, np.uint8(255), np.uint8(0))
        return look_of(self._rgba[here], own, self._ground)


def _reduced(mask: Mask, scale: int) -> Mask:
    """A smaller mask, set where any pixel was."""
    if scale == 1:
        return mask
    below, right = -mask.shape[0] % scale, -mask.shape[1] % scale
    size = (mask.shape[1] + right) // scale, (mask.shape[0] + below) // scale
    out = np.zeros((size[1], size[0]), np.uint8)
    for dy in range(scale):
        for dx in range(scale):
            part = mask[dy::scale, dx::scale]
            here = out[: part.shape[0], : part.shape[1]]
            np.maximum(here, part, out=here)
    return out


def _full_box(mask: Mask, labels: NDArray[np.int32], stat: NDArray[np.int32], label: int, scale: int) -> Box | None:
    """The box round a part's own pixels in artwork pixels."""
    left, top, width, height = (int(value) for value in stat[:4])
    own = labels[top : top + height, left : left + width] == label
    y0, x0 = top * scale, left * scale
    full = mask[y0 : y0 + height * scale, x0 : x0 + width * scale]
    wide = np.repeat(np.repeat(own, scale, axis=0), scale, axis=1)[: full.shape[0], : full.shape[1]]
    here = (full > 0) & wide
    rows, columns = np.flatnonzero(here.any(axis=1)), np.flatnonzero(here.any(axis=0))
    if not rows.size:
        return None
    return Box(x0 + int(columns[0]), y0 + int(rows[0]), x0 + int(columns[-1]) + 1, y0 + int(rows[-1]) + 1)


def _without_specks(boxes: dict[int, Box]) -> dict[int, Box]:
    largest = max((max(box.width, box.height) for box in boxes.values()), default=0)
    return {label: box for label, box in boxes.items() if max(box.width, box.height) >= _LEAST_SHARE * largest}


def _in_reading_order(boxes: dict[int, Box]) -> list[tuple[int, Box]]:
    """Row by row: what begins above the middle of the first of a row belongs to it."""
    left = sorted(boxes.items(), key=lambda item: (item[1].top, item[1].left))
    out: list[tuple[int, Box]] = []
    while left:
        middle = (left[0][1].top + left[0][1].bottom) / 2
        row = [item for item in left if item[1].top < middle]
        out += sorted(row, key=lambda item: item[1].left)
        left = [item for item in left if item[1].top >= middle]
    return out


def _nearest(small: Mask, labels: NDArray[np.int32], label: int, box: Box, scale: int, near_px: float) -> float:
    """Distance between pixels of a print and of the next one, up to ``near_px``; infinite beyond."""
    reach = int(near_px // scale) + 2
    top, left = max(0, box.top // scale - reach), max(0, box.left // scale - reach)
    here = np.s_[top : box.bottom // scale + reach + 1, left : box.right // scale + reach + 1]
    printed, own = small[here] > 0, labels[here] == label
    others = printed & ~own & (labels[here] != 0)
    if not others.any():
        return float("inf")
    away = np.asarray(cv2.distanceTransform(np.where(printed & own, 0, 255).astype(np.uint8), cv2.DIST_L2, 5))
    least = float(away[others].min()) * scale
    return least if least <= near_px else float("inf")
