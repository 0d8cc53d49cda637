"""Strokes that are too thin for a choke: where they are and how long."""

import itertools
import math
from dataclasses import dataclass
from functools import lru_cache

import cv2
import numpy as np
from numpy.typing import NDArray

from swaddon.core.artwork.raster import Mask, Places, Plane, pixels, place
from swaddon.core.units import mm_from_px

_DISC_UP_TO_PX = 16.0
"""Radius up to which a disc of taps is quicker than a distance transform, and exact."""

_BLOCK_PX = 64

_QUICK_UP_TO_PX = 2.0
"""Half-width up to which a disc of taps is slid over the whole sooner than over many pieces."""


_MARGIN_PX = 0.75
"""Half-width that is looked for beyond the thinnest: pixels tell a width only so well, the guard measures it again."""


@dataclass(frozen=True)
class Strokes:
    """Thin strokes under the choke.

    Attributes
    ----------
    saved_mm, bare_mm
        Length of line that the guard gave white, and that stays bare.
    bare_at
        A place of the bare ones (x, y in px).
    width_mm
        Mean width of them all.
    """

    saved_mm: float = 0.0
    bare_mm: float = 0.0
    bare_at: tuple[float, float] = (0.0, 0.0)
    width_mm: float = 0.0


def thin_strokes(figure: Plane, choke_px: float, least_px: float) -> Mask:
    """Mask (255) of strokes in which a choke may leave no white that is ``least_px`` wide."""
    return thinner_than(figure, choke_px + least_px / 2 + _MARGIN_PX)


def thinner_than(figure: Plane, half_width_px: float) -> Mask:
    """Mask (255) of strokes whose half-width is under ``half_width_px``; corners of wider shapes are no strokes.

    >>> figure = np.zeros((30, 60), np.uint8)
    >>> figure[4:7] = 255
    >>> figure[12:27] = 255
    >>> thinner_than(figure, 3.0)[[5, 20], 30].tolist()
    [255, 0]
    """
    inside = np.asarray(cv2.inRange(figure, 128, 255), np.uint8)
    rest, ys, xs = _less_than_a_disc(inside, half_width_px)
    if ys.size == 0:
        return rest
    part = _connected(ys, xs, inside.shape[1])
    around = cv2.copyMakeBorder(inside, 1, 1, 1, 1, cv2.BORDER_CONSTANT, value=0)
    own = cv2.copyMakeBorder(rest, 1, 1, 1, 1, cv2.BORDER_CONSTANT, value=0)
    beside = np.zeros(ys.size, np.bool_)
    for dy, dx in itertools.product((0, 1, 2), (0, 1, 2)):
        beside |= (around[ys + dy, xs + dx] > 0) & (own[ys + dy, xs + dx] == 0)
    touching = np.zeros(ys.size, np.bool_)
    touching[part[beside]] = True
    corner = touching & (np.bincount(part, minlength=ys.size) < 2 * half_width_px**2)
    rest[ys, xs] = np.where(corner, np.uint8(0), np.uint8(255))[part]
    return rest


def _less_than_a_disc(inside: Mask, half_width_px: float) -> tuple[Mask, Places, Places]:
    """Pixels of a mask that neither a disc of the half-width nor the square round it covers within the mask.

    Squares are quick to slide and nearly all of a print holds them, so the disc is tried only on what they leave.
    Gives the mask, and rows and columns of its pixels.
    """
    side = 2 * math.ceil(half_width_px + 0.5) + 1
    square = np.ones((side, side), np.uint8)
    held = cv2.morphologyEx(inside, cv2.MORPH_OPEN, square, borderType=cv2.BORDER_CONSTANT, borderValue=0)
    left = np.asarray(cv2.bitwise_and(inside, cv2.bitwise_not(held)), np.uint8)
    ys, xs = pixels(left)
    halo = 2 * side
    whole = (slice(0, left.shape[0]), slice(0, left.shape[1]))
    for rows, columns in [whole] if half_width_px <= _QUICK_UP_TO_PX else _strips(ys, xs, left.shape):
        around, inner = _with_halo(rows, columns, halo)
        part = cv2.copyMakeBorder(inside[around], 1, 1, 1, 1, cv2.BORDER_CONSTANT, value=0)
        covered = grown(_shrunk(part, half_width_px + 0.5), half_width_px + 0.75)
        here = covered[1:-1, 1:-1][inner]
        left[rows, columns] = cv2.bitwise_and(left[rows, columns], cv2.bitwise_not(here))
    stays = left[ys, xs] > 0
    return left, ys[stays], xs[stays]


def _strips(ys: Places, xs: Places, shape: tuple[int, ...]) -> list[tuple[slice, slice]]:
    """Rectangles of whole blocks that hold all of some pixels: neighbours in a row of blocks are one."""
    height, width = shape
    rows, columns = -(-height // _BLOCK_PX), -(-width // _BLOCK_PX)
    used = np.zeros((rows, columns + 2), np.int8)
    used[ys // _BLOCK_PX, xs // _BLOCK_PX + 1] = 1
    out = []
    for row, turns in enumerate(np.diff(used, axis=1)):
        down = slice(row * _BLOCK_PX, min((row + 1) * _BLOCK_PX, height))
        for first, stop in zip(np.flatnonzero(turns == 1), np.flatnonzero(turns == -1), strict=True):
            out.append((down, slice(int(first) * _BLOCK_PX, min(int(stop) * _BLOCK_PX, width))))
    return out


def _connected(ys: Places, xs: Places, width: int) -> NDArray[np.int64]:
    """8-connected parts of a few pixels, given row by row: for each, the place in the list of its part's first."""
    code = ys.astype(np.int64) * (width + 1) + xs
    one, other = [], []
    for step in (1, width, width + 1, width + 2):
        at = np.searchsorted(code, code + step)
        met = np.flatnonzero(code[np.minimum(at, code.size - 1)] == code + step)
        one.append(met)
        other.append(at[met])
    first, second = np.concatenate(one), np.concatenate(other)
    part = np.arange(code.size)
    while True:
        least = np.minimum(part[first], part[second])
        np.minimum.at(part, part[first], least)
        np.minimum.at(part, part[second], least)
        part = part[part]
        if np.array_equal(part[first], part[second]):
            return part[part]


@lru_cache(maxsize=32)
def _disc(radius_px: float) -> NDArray[np.uint8]:
    reach = int(radius_px)
    y, x = np.mgrid[-reach : reach + 1, -reach : reach + 1]
    return (np.hypot(x, y) <= radius_px).astype(np.uint8)


def grown(mask: Mask, by_px: float) -> Mask:
    """Every pixel within a distance of the mask.

    >>> mask = np.zeros((1, 7), np.uint8)
    >>> mask[0, 3] = 255
    >>> grown(mask, 1.0).tolist()
    [[0, 0, 255, 255, 255, 0, 0]]
    """
    if by_px <= _DISC_UP_TO_PX:
        return np.asarray(cv2.dilate(mask, _disc(by_px)), np.uint8)
    if not cv2.countNonZero(mask):
        return mask
    away = cv2.distanceTransform(cv2.bitwise_not(mask), cv2.DIST_L2, cv2.DIST_MASK_5)
    return np.asarray(cv2.inRange(away, 0.0, by_px), np.uint8)


def _shrunk(mask: Mask, by_px: float) -> Mask:
    """Every pixel of the mask that is farther than a distance from all others; beyond the array is outside."""
    if by_px <= _DISC_UP_TO_PX:
        return np.asarray(cv2.erode(mask, _disc(by_px), borderType=cv2.BORDER_CONSTANT, borderValue=0), np.uint8)
    framed = cv2.copyMakeBorder(mask, 1, 1, 1, 1, cv2.BORDER_CONSTANT, value=0)
    depth = cv2.distanceTransform(framed, cv2.DIST_L2, cv2.DIST_MASK_5)[1:-1, 1:-1]
    return np.asarray(cv2.inRange(depth, by_px, float(np.hypot(*framed.shape))), np.uint8)


def stroke_lengths(thin: Mask, before: Plane, after: Plane, reach_px: float, ppi: float) -> Strokes:
    """Length of thin strokes that the choke alone would bare: those the guard saved, and those still without white.

    Parameters
    ----------
    thin
        ``uint8 (H, W)``: mask (255) of the thin strokes.
    before, after
        ``uint8 (H, W)``: the figure after the choke, without and with the guard.
    reach_px
        A stroke has white when white lies within this many pixels: choke plus the least width of white.
    """
    ys, xs = pixels(thin)
    lost, bared = np.zeros_like(thin), np.zeros_like(thin)
    halo = 2 * math.ceil(reach_px) + 3
    for rows, columns in _strips(ys, xs, thin.shape):
        around, inner = _with_halo(rows, columns, halo)
        without = cv2.bitwise_and(thin[rows, columns], cv2.inRange(_widened(before[around], reach_px)[inner], 0, 31))
        if not cv2.countNonZero(without):
            continue
        lost[rows, columns] = without
        still = cv2.bitwise_and(without, cv2.inRange(_widened(after[around], reach_px)[inner], 0, 31))
        bared[rows, columns] = still
    lost_px, bare_px = cv2.countNonZero(lost), cv2.countNonZero(bared)
    if lost_px == 0:
        return Strokes()
    width = max(1.0, lost_px / max(length_px(lost), 1.0))
    mm = mm_from_px(1, ppi) / width
    at = place(bared) if bare_px else (0.0, 0.0)
    return Strokes((lost_px - bare_px) * mm, bare_px * mm, at, mm_from_px(width, ppi))


def length_px(strokes: Mask) -> float:
    """Length of strokes in a mask, from their outline: a stroke of length l and width w has one of 2 l + 2 w.

    The outline is Crofton's with four directions (Legland, Kiêu & Devaux 2007, from memory), within 6 % for lines of
    any angle; a line one pixel wide just along the diagonal comes out a quarter too short.
    """
    ys, xs = pixels(strokes)
    if ys.size == 0:
        return 0.0
    around = cv2.copyMakeBorder(strokes, 1, 1, 1, 1, cv2.BORDER_CONSTANT, value=0)
    straight, diagonal = (
        sum(np.count_nonzero(around[ys + 1 + dy, xs + 1 + dx] == 0) for dy, dx in steps)
        for steps in (((0, 1), (0, -1), (1, 0), (-1, 0)), ((1, 1), (1, -1), (-1, 1), (-1, -1)))
    )
    half_outline = math.pi / 16 * (straight + diagonal / math.sqrt(2))
    parts = np.unique(_connected(ys, xs, strokes.shape[1])).size
    inner = half_outline**2 - 4 * parts * ys.size
    return (half_outline + math.sqrt(max(inner, 0.0))) / 2


Box = tuple[slice, slice]


def _with_halo(rows: slice, columns: slice, halo: int) -> tuple[Box, Box]:
    """A rectangle widened on all sides where the array goes on, and where the rectangle itself lies in that."""
    top, left = max(rows.start - halo, 0), max(columns.start - halo, 0)
    around = slice(top, rows.stop + halo), slice(left, columns.stop + halo)
    return around, (
        slice(rows.start - top, rows.stop - top),
        slice(columns.start - left, columns.stop - left),
    )


def _widened(plane: Plane, by_px: float) -> Plane:
    side = 2 * math.ceil(by_px) + 1
    return np.asarray(cv2.dilate(plane, cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (side, side))), np.uint8)
