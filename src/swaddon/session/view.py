"""What part of the artboard is looked at, the planes that pictures of it are made of, and how these are read."""

import math
from dataclasses import dataclass, replace
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from swaddon.core.artwork.raster import Plane, Sample, half, halve
from swaddon.core.proof.misregistration import Misregistration, grown
from swaddon.core.units import MM_PER_INCH

_LONGEST_PX = 32_000
"""Side up to which OpenCV moves a picture."""


@dataclass(frozen=True)
class View:
    """What part of the artboard is on the screen: size in device pixels, scale, and the mm of its first corner."""

    width: int
    height: int
    px_per_mm: float
    x0_mm: float
    y0_mm: float


@dataclass(frozen=True, eq=False)
class Layers:
    """The planes that pictures are made of, at ``ppi``, with the mm of their first corner.

    ``taken`` is nonzero where knockouts took the artwork; ``share`` is the printed part of each pixel.
    """

    grid: NDArray[np.uint8]
    taken: Plane
    cmyk: NDArray[np.uint8]
    white: NDArray[np.uint16]
    share: Plane
    ppi: float
    x0_mm: float = 0.0
    y0_mm: float = 0.0


def coarsest(shape: tuple[int, ...]) -> int:
    """The last level worth having."""
    return max(0, int(math.log2(max(1, min(shape[0], shape[1]) / 256))))


def nearest_level(view: View, ppi: float, shape: tuple[int, ...]) -> int:
    """The pyramid level whose pixels are just no larger than the screen's."""
    ratio = ppi / MM_PER_INCH / view.px_per_mm
    level = max(0, math.floor(math.log2(max(ratio, 1.0)) + 0.01))
    return min(level, coarsest(shape))


def visible(view: View, ppi: float, shape: tuple[int, ...], rim: int) -> tuple[int, int, int, int]:
    """Top, left, bottom, right of the visible part in layer pixels, with a rim, within the layer."""
    scale = ppi / MM_PER_INCH
    left, top = math.floor(view.x0_mm * scale) - rim, math.floor(view.y0_mm * scale) - rim
    right = math.ceil((view.x0_mm + view.width / view.px_per_mm) * scale) + rim
    bottom = math.ceil((view.y0_mm + view.height / view.px_per_mm) * scale) + rim
    return max(0, top), max(0, left), min(shape[0], bottom), min(shape[1], right)


def warped(plane: NDArray[Sample], layers: Layers, view: View) -> NDArray[Sample]:
    """A layer's plane at the view's pixels; nothing beyond its edge."""
    step = layers.ppi / MM_PER_INCH / view.px_per_mm
    tx = (view.x0_mm - layers.x0_mm) * layers.ppi / MM_PER_INCH + 0.5 * step - 0.5
    ty = (view.y0_mm - layers.y0_mm) * layers.ppi / MM_PER_INCH + 0.5 * step - 0.5
    how = cv2.INTER_NEAREST if step <= 1.0 else cv2.INTER_LINEAR
    matrix = np.array([[step, 0, tx], [0, step, ty]])
    if max(plane.shape[:2]) > _LONGEST_PX:
        plane, matrix = _shortened(plane, matrix, view)
    out = cv2.warpAffine(plane, matrix, (view.width, view.height), flags=how | cv2.WARP_INVERSE_MAP)
    return np.ascontiguousarray(out, plane.dtype)


def _shortened(
    plane: NDArray[Sample], matrix: NDArray[np.float64], view: View
) -> tuple[NDArray[Sample], NDArray[np.float64]]:
    """The part of a very long plane that a view needs, reduced along its length where it is still too long."""
    parts, factors, offsets = [], [], []
    for axis, side in ((1, view.height), (0, view.width)):
        step, start, size = matrix[axis, axis], matrix[axis, 2], plane.shape[1 - axis]
        first = min(max(math.floor(start) - 2, 0), size - 1)
        stop = max(min(math.ceil(start + step * side) + 2, size), first + 1)
        parts.append(slice(first, stop))
        factors.append(math.ceil((stop - first) / _LONGEST_PX))
        offsets.append(first)
    cut = plane[parts[0], parts[1]]
    height, width = cut.shape[0] // factors[0], cut.shape[1] // factors[1]
    if (height, width) != cut.shape[:2]:
        cut = cv2.resize(cut, (width, height), interpolation=cv2.INTER_AREA)
    moved = matrix.copy()
    for axis, factor, first in ((1, factors[0], offsets[0]), (0, factors[1], offsets[1])):
        moved[axis, axis] /= factor
        moved[axis, 2] = (matrix[axis, 2] - first + 0.5) / factor - 0.5
    return np.ascontiguousarray(cut), moved


def nearest(plane: Plane, layers: Layers, view: View) -> Plane:
    """A plane of classes at the view's pixels: classes are never averaged."""
    step = layers.ppi / MM_PER_INCH / view.px_per_mm
    xs = np.floor((np.arange(view.width) + 0.5) * step + view.x0_mm * layers.ppi / MM_PER_INCH).astype(int)
    ys = np.floor((np.arange(view.height) + 0.5) * step + view.y0_mm * layers.ppi / MM_PER_INCH).astype(int)
    inside = ((ys >= 0) & (ys < plane.shape[0]))[:, None] & ((xs >= 0) & (xs < plane.shape[1]))[None, :]
    taken = plane[np.clip(ys, 0, plane.shape[0] - 1)[:, None], np.clip(xs, 0, plane.shape[1] - 1)[None, :]]
    return np.where(inside, taken, np.uint8(0))


def halved(layers: Layers) -> Layers:
    return Layers(
        halve(layers.grid),
        half(layers.taken),
        half(layers.cmyk),
        half(layers.white),
        half(layers.share),
        layers.ppi / 2,
    )


def with_white_misregistered(
    layers: Layers, view: View, misregistration: Misregistration, whole_mm: tuple[float, float]
) -> Layers:
    """The visible part of some layers with the white out of its place; where it comes to lie is printed.

    ``whole_mm`` is the size of the whole print, about whose middle white is turned.
    """
    scale = layers.ppi / MM_PER_INCH
    furthest = misregistration.furthest_mm(*whole_mm)
    place = replace(view, x0_mm=view.x0_mm - layers.x0_mm, y0_mm=view.y0_mm - layers.y0_mm)
    rim = math.ceil((furthest + misregistration.squeeze_mm) * scale) + 2
    top, left, bottom, right = visible(place, layers.ppi, layers.white.shape, rim)
    if bottom <= top or right <= left:
        return layers
    part = (slice(top, bottom), slice(left, right))
    corner_px = layers.x0_mm * scale + left - rim, layers.y0_mm * scale + top - rim
    matrix = misregistration.matrix(
        scale, (whole_mm[0] / 2 * scale - corner_px[0], whole_mm[1] / 2 * scale - corner_px[1])
    )

    def moved(plane: NDArray[Sample]) -> NDArray[Sample]:
        wide = cv2.copyMakeBorder(plane, rim, rim, rim, rim, cv2.BORDER_CONSTANT, value=0)
        out = grown(np.asarray(wide, plane.dtype), misregistration.squeeze_mm * scale)
        return _moved(out, matrix, rim)

    def framed(plane: NDArray[Any]) -> NDArray[Any]:
        return np.asarray(cv2.copyMakeBorder(plane[part], rim, rim, rim, rim, cv2.BORDER_CONSTANT, value=0))

    white, share = np.ascontiguousarray(layers.white[part]), np.ascontiguousarray(layers.share[part])
    own = moved(np.where(white > 0, share, np.uint8(0)))
    mm = MM_PER_INCH / layers.ppi
    return Layers(
        grid=framed(layers.grid),
        taken=framed(layers.taken),
        cmyk=framed(layers.cmyk),
        white=moved(white),
        share=np.maximum(framed(layers.share), own),
        ppi=layers.ppi,
        x0_mm=layers.x0_mm + (left - rim) * mm,
        y0_mm=layers.y0_mm + (top - rim) * mm,
    )


def _moved(plane: NDArray[Sample], matrix: NDArray[np.float64], halo: int) -> NDArray[Sample]:
    """A plane whose pixels come to lie where ``matrix`` says, at most ``halo`` away; a very long one piece by piece."""
    if max(plane.shape) <= _LONGEST_PX:
        return np.asarray(cv2.warpAffine(plane, matrix, plane.shape[::-1], flags=cv2.INTER_LINEAR), plane.dtype)
    axis = int(np.argmax(plane.shape))
    out, piece = np.empty_like(plane), _LONGEST_PX - 2 * halo
    for start in range(0, plane.shape[axis], piece):
        first, stop = max(start - halo, 0), min(start + piece + halo, plane.shape[axis])
        around = (slice(first, stop), slice(None))[:: 1 if axis == 0 else -1]
        corner = np.array([0.0, first] if axis == 0 else [first, 0.0])
        own_matrix = matrix.copy()
        own_matrix[:, 2] += matrix[:, :2] @ corner - corner
        moved = _moved(np.ascontiguousarray(plane[around]), own_matrix, halo)
        inner = slice(start - first, min(start + piece, plane.shape[axis]) - first)
        own = slice(start, start + piece)
        if axis == 0:
            out[own] = moved[inner]
        else:
            out[:, own] = moved[:, inner]
    return out
