"""Strokes that are too thin for a choke: where they are and how long."""

import math
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from functools import partial

import cv2
import numpy as np
from numpy.typing import NDArray

from swaddon.core.raster import Mask, Plane, place
from swaddon.core.units import mm_from_px

_DISC_UP_TO_PX = 16.0
"""Radius up to which a disc of taps is quicker than a distance transform, and exact."""


@dataclass(frozen=True)
class Strokes:
    """Thin strokes under the choke: mm of line that the guard gave white, mm that stay bare, and where (x, y in px)."""

    saved_mm: float = 0.0
    bare_mm: float = 0.0
    bare_at: tuple[float, float] = (0.0, 0.0)


def thin_strokes(figure: Plane, choke_px: float, least_px: float) -> tuple[Mask, Mask]:
    """Masks (255) of strokes in which a choke, and half of it, leaves no white that is ``least_px`` wide."""
    halves = (choke_px + least_px / 2, (choke_px + least_px) / 2)
    with ThreadPoolExecutor(2) as pool:
        first, second = pool.map(partial(thinner_than, figure), halves)
    return first, second


def thinner_than(figure: Plane, half_width_px: float) -> Mask:
    """Mask (255) of strokes whose half-width is under ``half_width_px``; corners of wider shapes are no strokes."""
    inside = np.asarray(cv2.inRange(figure, 128, 255), np.uint8)
    opened = _grown(_shrunk(inside, half_width_px + 0.5), half_width_px + 0.75)
    rest = np.asarray(cv2.bitwise_and(inside, cv2.bitwise_not(opened)), np.uint8)
    ys, xs = _pixels(rest)
    if ys.size == 0:
        return rest
    count, parts, stats, _ = cv2.connectedComponentsWithStats(rest, connectivity=8)
    labels = parts[ys, xs]
    del parts
    beside = cv2.dilate(cv2.bitwise_and(inside, opened), np.ones((3, 3), np.uint8))
    touching = np.zeros(count, np.bool_)
    touching[labels[beside[ys, xs] > 0]] = True
    corner = touching & (stats[:, cv2.CC_STAT_AREA] < 2 * half_width_px**2)
    rest[ys, xs] = np.where(corner, np.uint8(0), np.uint8(255))[labels]
    return rest


def _pixels(mask: Mask) -> tuple[NDArray[np.int32], NDArray[np.int32]]:
    """Rows and columns of the nonzero pixels."""
    found = cv2.findNonZero(mask)
    places = np.empty((0, 2), np.int32) if found is None else np.asarray(found, np.int32).reshape(-1, 2)
    return places[:, 1], places[:, 0]


def _disc(radius_px: float) -> NDArray[np.uint8]:
    reach = int(radius_px)
    y, x = np.mgrid[-reach : reach + 1, -reach : reach + 1]
    return (np.hypot(x, y) <= radius_px).astype(np.uint8)


def _grown(mask: Mask, by_px: float) -> Mask:
    """Every pixel within a distance of the mask."""
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


def stroke_lengths(figure: Plane, thin: Mask, before: Plane, after: Plane, reach_px: float, ppi: float) -> Strokes:
    """Length of thin strokes that the choke alone would bare: those the guard saved, and those still without white.

    Length is the strokes' area by their mean width (twice the mean depth on their ridge).

    Parameters
    ----------
    figure, thin
        ``uint8 (H, W)``: the figure and the mask of its thin strokes.
    before, after
        ``uint8 (H, W)``: the figure after the choke, without and with the guard.
    reach_px
        A stroke has white when white lies within this many pixels: choke plus the least width of white.
    """
    lost = cv2.bitwise_and(thin, cv2.inRange(_widened(before, reach_px), 0, 31))
    if not cv2.countNonZero(lost):
        return Strokes()
    framed = cv2.copyMakeBorder(cv2.inRange(figure, 128, 255), 1, 1, 1, 1, cv2.BORDER_CONSTANT, value=0)
    depth = cv2.distanceTransform(framed, cv2.DIST_L2, cv2.DIST_MASK_5)
    ys, xs = (axis + 1 for axis in _pixels(lost))
    deep = depth[ys, xs]
    around = np.max([depth[ys + dy, xs + dx] for dy in (-1, 0, 1) for dx in (-1, 0, 1)], axis=0)
    ridge = deep[deep >= around - 1e-3]
    width = max(1.0, 2 * float(ridge.mean()) - 0.5) if ridge.size else 1.0
    bare = cv2.bitwise_and(lost, cv2.inRange(_widened(after, reach_px), 0, 31))
    mm = mm_from_px(1, ppi) / width
    bare_mm = cv2.countNonZero(bare) * mm
    at = place(np.asarray(bare, np.uint8)) if bare_mm > 0 else (0.0, 0.0)
    return Strokes(cv2.countNonZero(lost) * mm - bare_mm, bare_mm, at)


def _widened(plane: Plane, by_px: float) -> Plane:
    side = 2 * math.ceil(by_px) + 1
    return np.asarray(cv2.dilate(plane, cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (side, side))), np.uint8)
