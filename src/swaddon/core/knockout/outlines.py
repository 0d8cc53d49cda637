"""Outlines drawn by hand, where colour cannot tell art from background: what lies inside or outside goes or stays."""

from collections.abc import Sequence

import cv2
import numpy as np
from numpy.typing import NDArray

from swaddon.core import fast
from swaddon.core.artwork.placement import Point, PointMap
from swaddon.core.artwork.raster import Mask, Plane, Rgba, alpha_of

_FINER, _BAND_ROWS = 4, 128
"""The fill is made so much finer, a band of rows at a time: OpenCV's own antialiasing widens it by half a pixel."""

_SHIFT = 4
"""Bits of a pixel's part that corners are placed by."""

_FURTHEST_PX = 60_000
"""Corners are kept this near to the grid, so that the fill's fixed-point numbers hold them."""


def coverage(corners: NDArray[np.floating], side: str, width_px: int, height_px: int) -> Plane:
    """``uint8 (H, W)``: how far each pixel lies on the outline's side (``inside`` or ``outside``), 255 = wholly.

    Parameters
    ----------
    corners
        ``(n, 2)``, x and y in pixels of the grid; the line is closed from the last to the first.

    >>> square = np.array([[1.0, 1.0], [3.0, 1.0], [3.0, 3.0], [1.0, 3.0]])
    >>> (coverage(square, "inside", 4, 4) > 127).astype(int).tolist()
    [[0, 0, 0, 0], [0, 1, 1, 0], [0, 1, 1, 0], [0, 0, 0, 0]]
    """
    inside = np.empty((height_px, width_px), np.uint8)
    near = np.clip(corners, -_FURTHEST_PX, _FURTHEST_PX) * _FINER - 0.5

    def work(rows: slice) -> None:
        for top in range(rows.start, rows.stop, _BAND_ROWS):
            bottom = min(top + _BAND_ROWS, rows.stop)
            fine = np.zeros(((bottom - top) * _FINER, width_px * _FINER), np.uint8)
            fixed = np.rint((near - (0, top * _FINER)) * (1 << _SHIFT)).astype(np.int32)
            cv2.fillPoly(fine, [fixed], 255, shift=_SHIFT)
            inside[top:bottom] = cv2.resize(fine, (width_px, bottom - top), interpolation=cv2.INTER_AREA)

    fast.by_rows(height_px, work)
    return inside if side == "inside" else np.asarray(cv2.bitwise_not(inside), np.uint8)


def corners_on(points: Sequence[Point], where: PointMap) -> NDArray[np.float64]:
    """Artwork points in pixels of the grid, ``(n, 2)``."""
    size = np.array(where.grid_size, np.float64)
    placed = [where.placement.to_artboard(point, where.width_px, where.height_px) for point in points]
    return np.asarray(np.array(placed, np.float64) * size)


def without(art: Rgba, gone: Plane) -> tuple[Rgba, Mask]:
    """Artwork without what an outline takes, and the mask (255) of pixels with ink that it took."""
    alpha = alpha_of(art)
    left = (alpha.astype(np.uint16) * (255 - gone) + 127) // 255
    out = art.copy()
    out[..., 3] = left
    return out, np.where((alpha > 0) & (left < alpha) & (gone > 127), 255, 0).astype(np.uint8)


def crossing(points: Sequence[Point]) -> Point | None:
    """A place where a closed line crosses or touches itself; ``None``: it does not.

    >>> crossing([(0, 0), (4, 0), (4, 4), (0, 4)]) is None
    True
    >>> crossing([(0, 0), (4, 4), (4, 0), (0, 4)])
    (2.0, 2.0)
    """
    corners = np.array(points, np.float64)
    count = len(corners)
    start, run = corners, np.roll(corners, -1, axis=0) - corners
    for one in range(count - 1):
        others = np.arange(one + 2, count - (1 if one == 0 else 0))
        if others.size == 0:
            continue
        apart = start[others] - start[one]
        cross = run[one, 0] * run[others, 1] - run[one, 1] * run[others, 0]
        with np.errstate(divide="ignore", invalid="ignore"):
            along = (apart[:, 0] * run[others, 1] - apart[:, 1] * run[others, 0]) / cross
            other = (apart[:, 0] * run[one, 1] - apart[:, 1] * run[one, 0]) / cross
        met = (cross != 0) & (along >= 0) & (along <= 1) & (other >= 0) & (other <= 1)
        if met.any():
            x, y = start[one] + run[one] * along[met][0]
            return float(x), float(y)
    return None


def simplified(points: Sequence[Point], within_px: float) -> tuple[Point, ...]:
    """The same closed line with fewer corners, none further off than ``within_px`` (Douglas & Peucker 1973)."""
    line = np.array(points, np.float32).reshape(-1, 1, 2)
    kept = cv2.approxPolyDP(line, within_px, True).reshape(-1, 2)
    return tuple((round(float(x), 2), round(float(y), 2)) for x, y in kept)


def inside(points: Sequence[Point], place: Point) -> bool:
    """Whether a place lies inside a closed line."""
    line = np.array(points, np.float32).reshape(-1, 1, 2)
    return cv2.pointPolygonTest(line, (float(place[0]), float(place[1])), False) >= 0
