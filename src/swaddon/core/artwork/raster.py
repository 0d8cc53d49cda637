"""Pixels: resampling on premultiplied alpha, row bands, and where in a mask something is."""

import math
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any, TypeVar

import cv2
import numpy as np
from numpy.typing import NDArray

from swaddon.core import fast

Rgba = NDArray[np.uint8]
Plane = NDArray[np.uint8]
Mask = NDArray[np.uint8]
Places = NDArray[np.int32]
Sample = TypeVar("Sample", np.uint8, np.uint16)

_BAND_ROWS = 256
_PLACE_SIDE = 512
"""Longest side of the reduced mask on which a finding's place is looked for."""


@dataclass(frozen=True)
class Box:
    """A rectangle in pixels; right and bottom are exclusive."""

    left: int
    top: int
    right: int
    bottom: int

    @property
    def width(self) -> int:
        return self.right - self.left

    @property
    def height(self) -> int:
        return self.bottom - self.top


def bands(height: int, rows: int = _BAND_ROWS) -> Iterator[slice]:
    """Row slices that cover ``height``, so that wide intermediate types stay small.

    >>> [(rows.start, rows.stop) for rows in bands(700, 300)]
    [(0, 300), (300, 600), (600, 700)]
    """
    for top in range(0, height, rows):
        yield slice(top, min(top + rows, height))


def resample(rgba: Rgba, width: int, height: int) -> Rgba:
    """Artwork at another pixel size: area average when smaller, cubic when larger.

    Parameters
    ----------
    rgba
        ``uint8 (H, W, 4)``, straight alpha. Colours are weighted by alpha, so what is transparent never bleeds in.
    width, height
        New size in pixels, both >= 1.
    """
    while rgba.shape[0] >= 2 * height and rgba.shape[1] >= 2 * width and rgba.shape[0] % 2 == rgba.shape[1] % 2 == 0:
        rgba = halve(rgba)
    if rgba.shape[:2] == (height, width):
        return rgba
    smaller = width * height < rgba.shape[0] * rgba.shape[1]
    how = cv2.INTER_AREA if smaller else cv2.INTER_CUBIC
    if cv2.minMaxLoc(alpha_of(rgba))[0] == 255:
        return np.asarray(cv2.resize(rgba, (width, height), interpolation=how), np.uint8)
    # Cubic overshoots beside hard edges, of alpha and colour alike: half the range keeps room for it, so that their
    # ratio stays true. Alpha is cut back to 255 at last; cast to bytes, 257 would be 1, a bare line along the edge.
    weighted = np.empty(rgba.shape, np.uint16)
    for rows in bands(rgba.shape[0]):
        wide = rgba[rows].astype(np.uint16)
        weighted[rows, :, :3] = (wide[..., :3] * wide[..., 3:] + 1) >> 1
        weighted[rows, :, 3] = (wide[..., 3] * 255 + 1) >> 1
    weighted = np.asarray(cv2.resize(weighted, (width, height), interpolation=how), np.uint16)
    out = np.empty((height, width, 4), np.uint8)
    for rows in bands(height):
        wide = weighted[rows].astype(np.float32)
        alpha = np.maximum(wide[..., 3:], 1)
        out[rows, :, :3] = np.minimum(wide[..., :3] / alpha * 255 + 0.5, 255)
        out[rows, :, 3] = np.minimum(wide[..., 3] / 127.5 + 0.5, 255)
    return out


def alpha_of(rgba: Rgba) -> Plane:
    """The alpha plane, contiguous."""
    return np.asarray(cv2.extractChannel(rgba, 3), np.uint8)


def halve(rgba: Rgba) -> Rgba:
    """Artwork at half its size, colours weighted by alpha; an odd last row or column is left out.

    Colours count by their alpha, so that a clear pixel darkens nothing:

    >>> rgba = np.zeros((2, 2, 4), np.uint8)
    >>> rgba[0, 0] = (200, 100, 0, 255)
    >>> halve(rgba).tolist()
    [[[200, 100, 0, 64]]]
    """
    out = np.empty((rgba.shape[0] // 2, rgba.shape[1] // 2, 4), np.uint8)
    _halve(rgba, out)
    return out


def halve_plain(rgba: Rgba, out: Rgba) -> None:
    """:func:`halve` in plain NumPy integers."""
    height, width = out.shape[:2]
    for rows in bands(height):
        part = rgba[2 * rows.start : 2 * rows.stop, : 2 * width].astype(np.int64)
        blocks = part.reshape(-1, 2, width, 2, 4)
        share = blocks[..., 3:]
        alpha = share.sum(axis=(1, 3))
        colour = (blocks[..., :3] * share).sum(axis=(1, 3))
        out[rows, :, :3] = (colour + alpha // 2) // np.maximum(alpha, 1)
        out[rows, :, 3:] = (alpha + 2) // 4


@fast.instead_of(halve_plain)
def _halve(kernels: Any, rgba: Rgba, out: Rgba) -> None:
    fast.by_rows(out.shape[0], lambda rows: kernels.halve(rgba, rows.start, rows.stop, out))


def least_component(rgba: Rgba) -> Plane:
    """The smallest of red, green and blue of each pixel, ``uint8 (H, W)``.

    >>> least_component(np.array([[[200, 30, 40, 255]]], np.uint8)).tolist()
    [[30]]
    """
    red, green, blue = (cv2.extractChannel(rgba, channel) for channel in range(3))
    return np.asarray(cv2.min(cv2.min(red, green), blue), np.uint8)


def half(plane: NDArray[Sample]) -> NDArray[Sample]:
    """A plane or ink image at half its size, area-averaged; an odd last row or column is left out.

    >>> half(np.array([[0, 100], [200, 100]], np.uint8)).tolist()
    [[100]]
    """
    height, width = plane.shape[0] // 2, plane.shape[1] // 2
    even = plane[: 2 * height, : 2 * width]
    return np.asarray(cv2.resize(even, (width, height), interpolation=cv2.INTER_AREA), plane.dtype)


def bounds(mask: Mask) -> Box | None:
    """The smallest box round the nonzero pixels, ``None`` when there are none."""
    left, top, width, height = cv2.boundingRect(mask)
    if width == 0 or height == 0:
        return None
    return Box(left, top, left + width, top + height)


def pixels(mask: Mask) -> tuple[Places, Places]:
    """Rows and columns of the nonzero pixels, row by row.

    >>> [part.tolist() for part in pixels(np.array([[0, 255, 255]], np.uint8))]
    [[0, 0], [1, 2]]
    """
    found = cv2.findNonZero(mask)
    places = np.empty((0, 2), np.int32) if found is None else np.asarray(found, np.int32).reshape(-1, 2)
    return places[:, 1], places[:, 0]


def place(mask: Mask) -> tuple[float, float]:
    """Pixel position (x, y) well inside the largest connected part of a nonzero mask.

    >>> mask = np.zeros((5, 5), np.uint8)
    >>> mask[3, 1] = 255
    >>> place(mask)
    (1.5, 3.5)
    """
    height, width = mask.shape
    step = math.ceil(max(height, width) / _PLACE_SIDE)
    whole = cv2.copyMakeBorder(mask, 0, -height % step, 0, -width % step, cv2.BORDER_CONSTANT, value=0)
    small = np.asarray(cv2.resize(whole, None, fx=1 / step, fy=1 / step, interpolation=cv2.INTER_AREA))
    if not small.any():
        ys, xs = np.nonzero(mask)
        return float(xs[0]) + 0.5, float(ys[0]) + 0.5
    _, labels, stats, _ = cv2.connectedComponentsWithStats((small > 0).astype(np.uint8))
    largest = 1 + int(np.argmax(stats[1:, cv2.CC_STAT_AREA]))
    inside = np.pad((labels == largest).astype(np.uint8), 1)
    depth = cv2.distanceTransform(inside, cv2.DIST_L2, 3)[1:-1, 1:-1]
    y, x = np.unravel_index(int(np.argmax(depth)), depth.shape)
    return min((float(x) + 0.5) * step, width - 0.5), min((float(y) + 0.5) * step, height - 0.5)
