"""What a miss of white and colour bares: expected areas of peeking white and of bare rim against choke.

White reaches every point whose depth under the figure's edge is at least the choke less the squeeze; then it lies
beside its place by an error e. A pixel peeks as far as white covers it and the figure does not, and is bare the other
way round; both are summed over the pixels near edges and averaged over e, normal in x and y, and where the error grows
from the middle of the print by the covariance at each block's place. Corners, curves, gaps and
thin strokes come out as they are, since nothing is assumed of the edge's shape. The coverage of figure and white alike
is told from the depth, so that they cancel where the edges meet.
"""

import math
from collections.abc import Iterator
from dataclasses import dataclass
from functools import cache
from statistics import NormalDist
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from swaddon.core import fast
from swaddon.core.artwork.raster import Mask, Plane
from swaddon.core.press.registration import Registration
from swaddon.core.units import MM_PER_INCH, mm_from_px, px_from_mm
from swaddon.core.white.underbase import taps

_BLOCK_PX = 64
_MOST_BLOCKS = 48
"""Blocks near edges that are looked at; of more, so many by chance, always the same."""

_LONGEST_PX = 32_000
"""Side up to which OpenCV moves a picture."""

_ANGLES, _RADII, _RADIUS_STEP = 8, 13, 0.3
"""Directions and lengths of the errors tried; lengths in σ."""

_FINE_PX = 3
BLUR_PX = 1.0
"""Blur that smooths a staircase of pixels to the edge that it stands for."""

HARD_PX, SOFT_PX = math.sqrt(BLUR_PX**2 - 1 / 24), math.sqrt(BLUR_PX**2 + 1 / 12)
"""Width of a blurred edge: of whole pixels, halfway between none and a twelfth less; of partly covered ones."""
_CLOSE_PX, _FEWER = 4.0, 6
"""Distance from an edge up to which every pixel is counted, and which share of the others: one in so many."""

_BINS = 16
"""Steps of depth per pixel, and of coverage, in the count."""

Floats = NDArray[np.float64]
Real = NDArray[np.floating]


@dataclass(frozen=True, eq=False)
class BaredAreas:
    """Expected areas in mm², for each choke."""

    peek_mm2: Floats
    rim_mm2: Floats


def bared_areas(figure: Plane, ppi: float, registration: Registration, at_mm: Floats) -> BaredAreas:
    """Expected areas over the error of registration.

    Parameters
    ----------
    figure
        ``uint8 (H, W)``: coverage of the printed figure before any choke; beyond the array is outside. Its middle is
        the middle of the print.
    registration
        A standard deviation in x and y, or the worst error, half inwards and half outwards.
    at_mm
        Chokes, rising.
    """
    worst_px, squeeze_px = px_from_mm(registration.worst_sigma_mm, ppi), px_from_mm(registration.squeeze_mm, ppi)
    choke_px = at_mm * ppi / 25.4
    reach = math.ceil(float(choke_px[-1]) + _RADII * _RADIUS_STEP * worst_px + squeeze_px) + 2
    blocks, middles, scale = _blocks(figure, reach, by_place=registration.spread is not None)
    if blocks is None:
        return BaredAreas(np.zeros(at_mm.size), np.zeros(at_mm.size))
    depth = signed_depth(blocks)
    count = np.zeros(4 * reach * _BINS * (_BINS + 1))
    near, covered, weights = _counted(depth, reach)
    lift = (squeeze_px + 2 * reach) * _BINS
    side = depth.shape[0] // len(middles)
    for rows, misses in _parts(registration, ppi, middles, side):
        start, stop = np.searchsorted(near, (rows.start * side, rows.stop * side))
        own = near[start:stop] - rows.start * side
        _bare(depth[rows], own, covered[start:stop], weights[start:stop], misses, lift, count)
    table = count.reshape(4 * reach * _BINS, _BINS + 1)
    peek, rim = _summed(table, choke_px, 2 * reach)
    pixel_mm2 = mm_from_px(1, ppi) ** 2 * scale
    return BaredAreas(peek * pixel_mm2, rim * pixel_mm2)


def _counted(depth: NDArray[np.float32], reach: int) -> tuple[NDArray[np.intp], NDArray[np.int32], Floats]:
    """Pixels that count (flat), their coverage in bins, their weights: all by the edge, a few of those further off."""
    away = np.abs(depth)
    own = (away <= reach) & _own(depth.shape, reach)
    few = np.random.default_rng(1).random(depth.shape, np.float32) < 1 / _FEWER
    near = np.flatnonzero(own & ((away <= _CLOSE_PX) | few))
    at = depth.ravel().take(near)
    covered = np.rint(np.clip(at + 0.5, 0, 1) * _BINS).astype(np.int32)
    return near, covered, np.where(np.abs(at) <= _CLOSE_PX, 1.0, float(_FEWER))


def _summed(count: Floats, choke_px: Floats, beyond_px: float) -> tuple[Floats, Floats]:
    """Peeking and bare pixels for each choke, from counts by depth of white's own edge and by coverage.

    White is nothing or full but in the rows of one pixel of depth; what lies above and below these is summed once.
    """
    depth = (np.arange(count.shape[0]) + 0.5) / _BINS - beyond_px
    figure = np.arange(_BINS + 1) / _BINS
    full = np.append(np.cumsum((count @ (1 - figure))[::-1])[::-1], 0.0)
    bare = np.append(0.0, np.cumsum(count @ figure))
    peek, rim = np.empty(choke_px.size), np.empty(choke_px.size)
    for index, choke in enumerate(choke_px):
        start, stop = np.searchsorted(depth, (choke - 0.5, choke + 0.5))
        white = (depth[start:stop] - choke + 0.5)[:, None]
        between = count[start:stop]
        peek[index] = (between * np.maximum(white - figure, 0)).sum() + full[stop]
        rim[index] = (between * np.maximum(figure - white, 0)).sum() + bare[start]
    return peek, rim


def _parts(registration: Registration, ppi: float, middles: Floats, side: int) -> Iterator[tuple[slice, Floats]]:
    """Rows of the blocks below each other that have one error, and its misses: all of them, or each block its own."""
    spread = registration.spread
    sigma_px = px_from_mm(registration.sigma_mm, ppi)
    if spread is None:
        yield slice(0, side * len(middles)), _misses(np.eye(2) * sigma_px, registration.is_worst_case)
        return
    for index, (x, y) in enumerate((middles * MM_PER_INCH / ppi).tolist()):
        lengths, axes = np.linalg.eigh(spread.covariance(x, y))
        root = axes * np.sqrt(np.maximum(lengths, 0)) @ axes.T * ppi / MM_PER_INCH
        yield slice(index * side, (index + 1) * side), _misses(root, is_worst_case=False)


def _misses(root: Floats, is_worst_case: bool) -> Floats:
    """Errors of place, ``(n, 4)``: weight, pixels to the right and down, and pixels deeper.

    ``root`` is the square root ``(2, 2)`` of their covariance in pixels. Places are in 32nds of a pixel, which single
    precision holds at every row, so that kernel and OpenCV agree to the last digit. The worst error moves every edge
    inwards or outwards.
    """
    if is_worst_case or abs(root).max() < 1e-6:
        return np.array([[0.5, 0.0, 0.0, root[0, 0]], [0.5, 0.0, 0.0, -root[0, 0]]])
    radii = (np.arange(_RADII) + 0.5) * _RADIUS_STEP
    weights = radii * np.exp(-(radii**2) / 2)
    weights /= weights.sum() * _ANGLES
    ring, turn = np.indices((_RADII, _ANGLES))
    angle = 2 * math.pi * (turn + 0.5 * (ring % 2)) / _ANGLES
    unit = [radii[:, None] * way(angle) for way in (np.cos, np.sin)]
    right, down = (np.rint((row[0] * unit[0] + row[1] * unit[1]) * 32) / 32 for row in root)
    weight = np.broadcast_to(weights[:, None], angle.shape)
    return np.stack([weight, right, down, np.zeros_like(weight)], axis=-1).reshape(-1, 4)


def bare_plain(
    depth: NDArray[np.float32],
    near: NDArray[np.intp],
    covered: NDArray[np.int32],
    weights: Floats,
    misses: Floats,
    lift: float,
    count: Floats,
) -> None:
    """Count pixels by the depth of white at them, for each miss, and by their coverage, in plain NumPy."""
    most = count.size // (_BINS + 1) - 1
    for weight, dx, dy, deeper in misses:
        moved = cv2.warpAffine(
            depth, np.array([[1.0, 0.0, dx], [0.0, 1.0, dy]]), depth.shape[::-1], flags=cv2.INTER_LINEAR,
            borderMode=cv2.BORDER_REPLICATE,
        )  # fmt: skip
        own = np.asarray(moved, np.float32).ravel().take(near) + np.float32(deeper)
        at = (own * np.float32(_BINS) + np.float32(lift)).astype(np.int32)
        np.clip(at, 0, most, out=at)
        count += weight * np.bincount(at * (_BINS + 1) + covered, weights, minlength=count.size)


@fast.instead_of(bare_plain)
def _bare(
    kernels: Any,
    depth: NDArray[np.float32],
    near: NDArray[np.intp],
    covered: NDArray[np.int32],
    weights: Floats,
    misses: Floats,
    lift: float,
    count: Floats,
) -> None:
    kernels.bare(depth, near, covered, weights, misses, _BINS, lift, _BINS + 1, count)


def _blocks(figure: Plane, halo: int, by_place: bool) -> tuple[Plane | None, Floats, float]:
    """Blocks near edges, each with a halo, below each other; their middles ``(n, 2)``, in pixels right of and below the
    middle of the figure; and how many times there is as much edge in all.

    Of many blocks some are taken by chance, or ``by_place`` evenly by their distance from the middle.
    """
    inside = cv2.inRange(figure, 128, 255)
    core = cv2.erode(inside, np.ones((3, 3), np.uint8), borderType=cv2.BORDER_CONSTANT, borderValue=0)
    edge = np.asarray(cv2.bitwise_xor(inside, core), np.uint8)
    near = np.asarray(cv2.dilate(edge, np.ones((2 * halo + 1, 2 * halo + 1), np.uint8)), np.uint8)
    edges, nears = _by_block(edge), _by_block(near)
    rows, columns = np.nonzero(nears)
    if rows.size == 0:
        return None, np.zeros((0, 2)), 0.0
    side = _BLOCK_PX + 2 * halo
    most = min(_MOST_BLOCKS, _LONGEST_PX // side)
    if rows.size > most:
        chosen = np.random.default_rng(0).choice(rows.size, most, replace=False)
        if by_place:
            down, across = (
                (at + 0.5) * _BLOCK_PX - side / 2 for at, side in zip((rows, columns), figure.shape, strict=True)
            )
            chosen = np.argsort(np.hypot(down, across), kind="stable")[_evenly(rows.size, most)]
        rows, columns = rows[chosen], columns[chosen]
    padded = np.pad(figure, ((halo, _BLOCK_PX + halo), (halo, _BLOCK_PX + halo)))
    parts = [
        padded[row * _BLOCK_PX : row * _BLOCK_PX + side, column * _BLOCK_PX : column * _BLOCK_PX + side]
        for row, column in zip(rows, columns, strict=True)
    ]
    share = edges.sum() / max(int(edges[rows, columns].sum()), 1)
    middles = (np.stack([columns, rows], axis=1) + 0.5) * _BLOCK_PX - np.array(figure.shape[::-1]) / 2
    return np.ascontiguousarray(np.concatenate(parts)), middles, float(share)


def _evenly(count: int, most: int) -> NDArray[np.intp]:
    """So many of a count, evenly, from the middle of the first share to that of the last."""
    return ((np.arange(most) + 0.5) * count / most).astype(np.intp)


def _by_block(mask: Mask) -> NDArray[np.int64]:
    """Nonzero pixels of each block."""
    height, width = mask.shape
    down, across = -(-height // _BLOCK_PX), -(-width // _BLOCK_PX)
    whole = np.zeros((down * _BLOCK_PX, across * _BLOCK_PX), np.bool_)
    whole[:height, :width] = mask > 0
    return whole.reshape(down, _BLOCK_PX, across, _BLOCK_PX).sum(axis=(1, 3))


def _own(shape: tuple[int, ...], halo: int) -> NDArray[np.bool_]:
    """Pixels of blocks below each other without their halos."""
    side = _BLOCK_PX + 2 * halo
    row = np.arange(shape[0]) % side
    column = np.arange(shape[1])
    down, across = ((at >= halo) & (at < halo + _BLOCK_PX) for at in (row, column))
    return np.asarray(down[:, None] & across[None, :])


def signed_depth(coverage: Plane) -> NDArray[np.float32]:
    """Distance to the edge in pixels, ``float32 (H, W)``, positive inside: to the edge within its pixels nearby.

    An edge pixel's own coverage and the direction of its edge, by the coverage's gradient, tell how far from its centre
    the edge runs; pixels near it are as far from that line. An edge without any partly covered pixels is a staircase of
    pixels whose centres lie inside: blurred, it is the normal distribution's integral of the depth under the straight
    edge, which is read back. So one shape has the same depths with hard edges and with soft ones. Pixels further off
    are as far as the nearest pixel of the other side, and as far as that lies from the edge.

    >>> coverage = np.zeros((5, 7), np.uint8)
    >>> coverage[:, 2:] = 255
    >>> signed_depth(coverage)[2].tolist()
    [-1.5, -0.5, 0.5, 1.5, 2.5, 3.5, 4.5]
    """
    inside = np.asarray(cv2.inRange(coverage, 128, 255), np.uint8)
    outside = np.asarray(cv2.bitwise_not(inside), np.uint8)
    depth = _distance(inside) - _distance(outside)
    near = np.abs(depth) < _FINE_PX
    share = coverage.astype(np.float32) / 255
    partly = (share > 0) & (share < 1)
    hard = near & ~_about(partly)
    stairs = hard & ~_straight(share)
    depth[stairs] = _under_stairs(share, stairs)
    _fine_depth(share, near & ~hard, partly, depth)
    for mask, sign in ((inside, 1), (outside, -1)):
        _far_depth(mask, sign, depth)
    return depth


def _about(mask: NDArray[np.bool_]) -> NDArray[np.bool_]:
    """Where a mask has a pixel within ``_FINE_PX`` across and down."""
    window = np.ones((2 * _FINE_PX + 1,) * 2, np.uint8)
    return np.asarray(cv2.dilate(mask.astype(np.uint8), window) > 0)


def _straight(share: Real) -> NDArray[np.bool_]:
    """Where edges run along rows or columns: whole pixels tell their depth."""
    across, down = np.zeros(share.shape, np.bool_), np.zeros(share.shape, np.bool_)
    across[:, 1:] = share[:, 1:] != share[:, :-1]
    down[1:] = share[1:] != share[:-1]
    return ~(_about(across) & _about(down))


def _under_stairs(share: Real, stairs: NDArray[np.bool_]) -> Floats:
    """Depth of chosen pixels near edges that are staircases, from the edge blurred.

    A sum over pixels in place of the integral takes up to a twelfth of a pixel² off the blur's variance, most along
    rows and columns (Euler-Maclaurin); half of that is reckoned with.
    """
    blurred = cv2.GaussianBlur(share, (0, 0), BLUR_PX, borderType=cv2.BORDER_REPLICATE)[stairs]
    return HARD_PX * np.interp(blurred, *normal_integral())


@cache
def normal_integral() -> tuple[Floats, Floats]:
    """The integral of the normal distribution at depths in σ, and these depths."""
    depths = np.linspace(-4, 4, 801)
    return np.array([NormalDist().cdf(depth) for depth in depths]), depths


def _far_depth(mask: Mask, sign: int, depth: NDArray[np.float32]) -> None:
    """Depth of the mask's pixels beyond ``_FINE_PX``: to the nearest pixel of the other side, and on to the edge."""
    ys, xs = np.nonzero((mask > 0) & (sign * depth >= _FINE_PX))
    if ys.size == 0 or mask.all():
        return
    rows, columns = nearest_other(mask, ys, xs)
    depth[ys, xs] = sign * np.hypot(rows - ys, columns - xs) + depth[rows, columns]


def nearest_other(
    mask: Mask, ys: NDArray[np.signedinteger], xs: NDArray[np.signedinteger]
) -> tuple[NDArray[np.intp], NDArray[np.intp]]:
    """Rows and columns of the pixels outside a mask that are nearest to some of its pixels."""
    _, label = cv2.distanceTransformWithLabels(mask, cv2.DIST_L2, cv2.DIST_MASK_5, labelType=cv2.DIST_LABEL_PIXEL)
    other = np.flatnonzero(mask.ravel() == 0)
    places = np.zeros(int(label.max()) + 1, np.intp)
    places[label.ravel()[other]] = other
    rows, columns = np.divmod(places[label[ys, xs]], mask.shape[1])
    return rows, columns


def _fine_depth(share: Real, near: NDArray[np.bool_], partly: NDArray[np.bool_], depth: NDArray[np.float32]) -> None:
    """Depth of chosen pixels near edges with partly covered pixels."""
    down, across = (cv2.Scharr(share, cv2.CV_32F, dx, dy) for dx, dy in ((0, 1), (1, 0)))
    steep = np.maximum(np.hypot(down, across), np.float32(1e-6))
    down, across = down / steep, across / steep
    own = _from_centre(share, down, across)
    edges = [np.pad(plane.astype(np.float32), _FINE_PX + 1, mode="edge") for plane in (share, own, down, across)]
    for sign, chosen in ((1, near & (share == 1)), (-1, near & (share == 0))):
        ys, xs = np.nonzero(chosen)
        depth[ys, xs] = _to_line(edges, ys + _FINE_PX + 1, xs + _FINE_PX + 1, sign)
    depth[partly] = own[partly]


def _from_centre(share: Real, down: Real, across: Real) -> Floats:
    """Distance of a pixel's centre to the straight edge that leaves it this coverage, positive inside."""
    wide, narrow = np.maximum(np.abs(down), np.abs(across)), np.minimum(np.abs(down), np.abs(across))
    wide = np.where(wide > 0, wide, 1)
    less = np.minimum(share, 1 - share)
    corner = (wide + narrow) / 2 - np.sqrt(2 * wide * narrow * less)
    size = np.where(less < narrow / (2 * wide), corner, (0.5 - less) * wide)
    return np.asarray(np.where(share >= 0.5, size, -size))


def _distance(mask: Mask) -> NDArray[np.float32]:
    """Distance of a mask's pixels to its edge; 0 outside."""
    away = cv2.distanceTransform(mask, cv2.DIST_L2, cv2.DIST_MASK_PRECISE)
    return np.asarray(np.where(mask > 0, away - 0.5, 0), np.float32)


def to_line_plain(
    edges: list[NDArray[np.float32]], ys: NDArray[np.intp], xs: NDArray[np.intp], sign: int
) -> NDArray[np.float32]:
    """Signed depth of a few pixels by the edge of the nearest pixel that has one, or lies on its other side."""
    share, own, down, across = edges
    least, depth = np.full(ys.size, np.inf), np.full(ys.size, float(sign * (_FINE_PX + 1)))
    for dy, dx, away in taps(_FINE_PX + 1):
        v, u = ys + int(dy), xs + int(dx)
        tells = share[v, u] < 1 if sign > 0 else share[v, u] > 0
        distance = np.where(tells, away + sign * own[v, u], np.inf)
        nearer = distance < least
        least = np.where(nearer, distance, least)
        along = -(dy * down[v, u] + dx * across[v, u]) + own[v, u]
        depth = np.where(nearer, along, depth)
    return np.asarray(sign * np.clip(sign * depth, 0, _FINE_PX + 1), np.float32)


@fast.instead_of(to_line_plain)
def _to_line(
    kernels: Any, edges: list[NDArray[np.float32]], ys: NDArray[np.intp], xs: NDArray[np.intp], sign: int
) -> NDArray[np.float32]:
    out = np.empty(ys.size, np.float32)
    kernels.to_line(*edges, ys, xs, taps(_FINE_PX + 1), sign, float(_FINE_PX + 1), out)
    return out
