"""Inspection of artwork at print size: transparency, fringe, fades, colours, finest line and finest gap."""

import math
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from swaddon.core.artwork.near import colours_in
from swaddon.core.artwork.raster import Mask, Plane, Rgba, alpha_of, bounds
from swaddon.core.colour.spaces import Rgb
from swaddon.core.units import mm_from_px, px_from_mm

LOOKED_UP_TO_MM = 0.8
"""Lines and gaps wider than this are not fine (assumed)."""

_AT_LEAST_MM = 1.0
"""Length of line that must be as fine before it counts (assumed)."""

_HALF_WIDTHS_PX = (1.0, 1.5, 2.0, 3.0, 4.0, 6.0, 8.0, 12.0, 16.0, 24.0)
"""Half widths looked for in turn; pooling and the pixel grid add up to a pixel to a line's own."""

_LINES, _SAMPLES, _DIRECTIONS = 24, 16, 12
_DEPTH_UNITS = 8
_POOLED_FROM_PPI = 250
_RIDGE_SLACK = 0.75


@dataclass(frozen=True)
class Fine:
    """A finest width in mm, and the place (x, y in mm on the artboard) where it is."""

    width_mm: float
    x_mm: float
    y_mm: float


@dataclass(frozen=True)
class Inspection:
    """What an artwork is like at its print size.

    Attributes
    ----------
    removed_px
        Pixels with ink that the knockouts took.
    half_share
        Share of the inked pixels that are half-transparent, 0..1.
    fringe_px
        Mean width in plan pixels of the half-transparent rim round edges.
    fade_mm2
        Area of fades and glows (half-transparent, wider than a rim).
    colours
        Distinct sRGB colours of the artwork.
    line, gap
        Finest line of the figure, finest gap in it; ``None``: none finer than ``LOOKED_UP_TO_MM``.
    background
        Colour of an opaque border all round, ``None``: there is none.
    """

    removed_px: int
    half_share: float
    fringe_px: float
    fade_mm2: float
    colours: int
    line: Fine | None
    gap: Fine | None
    background: Rgb | None


def inspect(art: Rgba, soft: Mask, ppi: float, removed_px: int, colours: int, background: Rgb | None) -> Inspection:
    """Inspect artwork on the plan's grid.

    Parameters
    ----------
    art
        ``uint8 (H, W, 4)`` after the knockouts.
    soft
        Mask of its fades (``soft.soft_area``).
    removed_px, colours, background
        Facts of the artwork as it was read.
    """
    alpha = alpha_of(art)
    inked = cv2.countNonZero(alpha)
    half = cv2.inRange(alpha, 1, 254)
    rim_px = cv2.countNonZero(cv2.bitwise_and(half, cv2.bitwise_not(soft)))
    figure = cv2.inRange(alpha, 128, 255)
    edge = cv2.bitwise_and(figure, cv2.bitwise_not(cv2.erode(figure, np.ones((3, 3), np.uint8))))
    edge_px = cv2.countNonZero(edge)
    with ThreadPoolExecutor(2) as pool:
        lines = pool.submit(finest, alpha, ppi)
        gaps = pool.submit(finest, cv2.bitwise_not(alpha), ppi, 255)
        line, gap = lines.result(), gaps.result()
    return Inspection(
        removed_px=removed_px,
        half_share=cv2.countNonZero(half) / inked if inked else 0.0,
        fringe_px=rim_px / edge_px if edge_px else 0.0,
        fade_mm2=cv2.countNonZero(soft) * mm_from_px(1, ppi) ** 2,
        colours=colours,
        line=line,
        gap=gap,
        background=background,
    )


def distinct_colours(rgba: Rgba) -> int:
    """How many sRGB colours the pixels with ink have.

    >>> distinct_colours(np.array([[[1, 2, 3, 255], [1, 2, 3, 9], [4, 5, 6, 0]]], np.uint8))
    1
    """
    return colours_in(rgba).size


def finest(coverage: Plane, ppi: float, beyond: int = 0, up_to_mm: float = LOOKED_UP_TO_MM) -> Fine | None:
    """The finest width of a figure, by local width on its ridge.

    A pixel lies on the ridge of a line when no pixel within the line's width is deeper than it; corners of wide shapes
    are not lines, since depth rises along them. Widths are then measured to a fraction of a pixel: the shortest of the
    chords through the ridge, each the integral of the coverage along it.

    Parameters
    ----------
    coverage
        ``uint8 (H, W)``, 255 = figure.
    beyond
        What lies outside the array, 0 or 255.
    up_to_mm
        Widths looked for.
    """
    box = bounds(cv2.inRange(coverage, 1, 255)) if beyond == 0 else bounds(cv2.inRange(coverage, 0, 254))
    if box is None:
        return None
    pad = math.ceil(px_from_mm(up_to_mm, ppi)) + 2
    part = coverage[box.top : box.bottom, box.left : box.right]
    wide = np.asarray(cv2.copyMakeBorder(part, pad, pad, pad, pad, cv2.BORDER_CONSTANT, value=beyond), np.uint8)
    pool = 2 if ppi >= _POOLED_FROM_PPI else 1
    depth = cv2.distanceTransform(cv2.inRange(_pooled(wide, pool), 128, 255), cv2.DIST_L2, cv2.DIST_MASK_5)
    units = np.asarray(cv2.convertScaleAbs(depth, alpha=_DEPTH_UNITS), np.uint8)
    for half_width in _HALF_WIDTHS_PX:
        if mm_from_px(2 * (half_width - 1) * pool, ppi) > up_to_mm:
            break
        least_px = max(px_from_mm(_AT_LEAST_MM, ppi) / pool, 4 * half_width)
        lines = _long_ones(_ridge(units, half_width), least_px)
        if lines:
            fine = _thinnest(wide, [_centred(wide, xs * pool, ys * pool) for xs, ys in lines], half_width * pool, ppi)
            if fine.width_mm > up_to_mm:
                return None
            return Fine(
                fine.width_mm, fine.x_mm + mm_from_px(box.left - pad, ppi), fine.y_mm + mm_from_px(box.top - pad, ppi)
            )
    return None


def _centred(
    coverage: Plane, xs: NDArray[np.float32], ys: NDArray[np.float32]
) -> tuple[NDArray[np.float32], NDArray[np.float32]]:
    """Each point moved to the pixel within two of it whose surroundings are covered most: into the line's middle."""
    left, top = int(xs.min()) - 4, int(ys.min()) - 4
    part = coverage[max(top, 0) : int(ys.max()) + 6, max(left, 0) : int(xs.max()) + 6]
    soft = np.where(part >= 128, cv2.blur(part, (3, 3)), np.uint8(0))
    u, v = xs.astype(np.intp) - max(left, 0), ys.astype(np.intp) - max(top, 0)
    best, at_u, at_v = np.full(xs.size, -1, np.int16), u.copy(), v.copy()
    for dy in range(-1, 3):
        for dx in range(-1, 3):
            y, x = np.clip(v + dy, 0, soft.shape[0] - 1), np.clip(u + dx, 0, soft.shape[1] - 1)
            value = soft[y, x].astype(np.int16)
            closer = value > best
            best[closer], at_u[closer], at_v[closer] = value[closer], x[closer], y[closer]
    return (at_u + max(left, 0)).astype(np.float32), (at_v + max(top, 0)).astype(np.float32)


def _pooled(coverage: Plane, pool: int) -> Plane:
    """The greatest coverage of each block of ``pool`` × ``pool`` pixels, so that no line is lost."""
    if pool == 1:
        return coverage
    height, width = (side // 2 * 2 for side in coverage.shape)
    across = cv2.max(coverage[:height, 0:width:2], coverage[:height, 1:width:2])
    return np.asarray(cv2.max(across[0::2], across[1::2]), np.uint8)


def _ridge(units: Plane, half_width: float) -> Mask:
    """Mask of the ridge of lines no wider than twice ``half_width``."""
    side = 2 * (math.ceil(2 * half_width) + 1) + 1
    around = cv2.dilate(units, np.ones((side, side), np.uint8))
    flat = cv2.inRange(cv2.subtract(around, units), 0, int(_RIDGE_SLACK * _DEPTH_UNITS))
    shallow = cv2.inRange(units, 1, int(half_width * _DEPTH_UNITS))
    return np.asarray(cv2.bitwise_and(flat, shallow), np.uint8)


def _long_ones(ridge: Mask, least_px: float) -> list[tuple[NDArray[np.float32], NDArray[np.float32]]]:
    """x and y along each connected ridge of at least so many pixels, longest first, at most ``_LINES`` of them."""
    if cv2.countNonZero(ridge) < least_px:
        return []
    count, parts, stats, _ = cv2.connectedComponentsWithStats(ridge, connectivity=8)
    long = [index for index in range(1, count) if stats[index, cv2.CC_STAT_AREA] >= least_px]
    long.sort(key=lambda index: -int(stats[index, cv2.CC_STAT_AREA]))
    found = []
    for index in long[:_LINES]:
        left, top, width, height = (int(value) for value in stats[index, :4])
        ys, xs = np.nonzero(parts[top : top + height, left : left + width] == index)
        every = max(1, ys.size // _SAMPLES)
        found.append(((xs[::every] + left).astype(np.float32), (ys[::every] + top).astype(np.float32)))
    return found


def _thinnest(
    wide: Plane,
    lines: list[tuple[NDArray[np.float32], NDArray[np.float32]]],
    half_width: float,
    ppi: float,
) -> Fine:
    """The line whose median width is least, and a place in the middle of it."""
    every = [np.concatenate(axis) for axis in zip(*lines, strict=True)]
    widths = local_widths(wide, every[0], every[1], 2 * half_width + 3)
    best, begin = (math.inf, 0), 0
    for xs, _ in lines:
        order = begin + np.argsort(widths[begin : begin + xs.size], kind="stable")
        middle = int(order[order.size // 2])
        best = min(best, (float(widths[middle]), middle))
        begin += xs.size
    width, at = best
    x, y = float(every[0][at]) + 0.5, float(every[1][at]) + 0.5
    return Fine(mm_from_px(width, ppi), mm_from_px(x, ppi), mm_from_px(y, ppi))


def local_widths(
    coverage: Plane, xs: NDArray[np.float32], ys: NDArray[np.float32], reach_px: float
) -> NDArray[np.float32]:
    """Shortest chord through each point, in pixels: coverage integrated outwards until it ends."""
    step = 0.5
    out = np.arange(step / 2, reach_px, step, dtype=np.float32)
    best = np.full(xs.shape, np.inf, np.float32)
    for turn in range(_DIRECTIONS):
        angle = math.pi * turn / _DIRECTIONS
        total = np.zeros(xs.shape, np.float32)
        for sign in (1.0, -1.0):
            u = xs[:, None] + sign * math.cos(angle) * out[None, :]
            v = ys[:, None] + sign * math.sin(angle) * out[None, :]
            value = _between(coverage, u, v)
            total += (value * np.minimum.accumulate(value > 0.02, axis=1)).sum(axis=1) * step
        np.minimum(best, total, out=best)
    return best


def _between(coverage: Plane, u: NDArray[np.float32], v: NDArray[np.float32]) -> NDArray[np.float32]:
    """Coverage, 0..1, at places between pixels; 0 beyond the array. A print may be longer than ``cv2.remap`` takes."""
    left, top = np.floor(u).astype(np.intp), np.floor(v).astype(np.intp)
    out = np.zeros(u.shape, np.float32)
    for dy, dx in ((0, 0), (0, 1), (1, 0), (1, 1)):
        x, y = left + dx, top + dy
        inside = (x >= 0) & (y >= 0) & (x < coverage.shape[1]) & (y < coverage.shape[0])
        share = (1 - np.abs(u - x)) * (1 - np.abs(v - y))
        out[inside] += (share[inside] * coverage[y[inside], x[inside]] / 255).astype(np.float32)
    return out
