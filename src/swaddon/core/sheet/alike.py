"""Whether two prints of a sheet are the same: told by the worst place, for names and numbers differ in one only.

Two crests with other names are alike in any mean. So pictures are laid on each other by their boxes and compared where
they differ most: a pixel differs by how far it lies outside of what the other picture shows within a pixel of it (scans
and resampling move edges by less), and that is averaged over the width of a fine stroke, or over a small area for what
differs less. A soft edge widens the box of a resampled print by a pixel or two and so stretches it against the other:
those that differ by strips alone are laid on each other once more by what they show (enhanced correlation, Evangelidis
and Psarakis 2008, from memory).
"""

import cv2
import numpy as np
from numpy.typing import NDArray

from swaddon.core.artwork.raster import Mask, Rgba

Look = NDArray[np.uint8]

LOOK_PX = 800
"""Longest side of a compared picture: lettering of a hundredth of the print is 6 px high."""

_NEAR = np.ones((3, 3), np.uint8)
_STROKE_PX, _STROKE_APART = 3, 45.0
_AREA_PX, _AREA_APART = 15, 24.0
"""Windows over which differences are averaged, and the mean difference of a component from which prints differ: strokes
of a letter, areas of a colour. Crests that were resampled, moved by half a pixel, turned by 0.4°, lit unevenly or
packed as JPEG stayed below 36 and 18; those of 300 px with one other letter or digit came to 57 and more."""

_THUMB, _THUMB_APART = 24, 30.0

_STRIP_APART = 96.0
"""Mean difference over the area window which no print shows that was only laid 3 px aside (assumed)."""

_FIT_PX, _FIT_ROUNDS, _FIT_MOST = 256, 30, 0.03
"""Side of the pictures that are fitted, rounds of it, and how far a fit may stretch, turn or move, as a share."""


def look_of(rgba: Rgba, own: Mask, ground: tuple[int, int, int] | None) -> Look:
    """A print as it is compared, premultiplied ``uint8 (h, w, 4)``, longest side at most ``LOOK_PX``.

    Parameters
    ----------
    rgba
        The pixels of its box, ``uint8 (H, W, 4)``.
    own
        ``uint8 (H, W)``, 255 on the print and round it, 0 where others reach in.
    ground
        The sheet's own colour, ``None`` on a clear one.
    """
    height, width = own.shape
    scale = min(1.0, LOOK_PX / max(height, width))
    size = max(1, round(width * scale)), max(1, round(height * scale))
    part = np.where(own[..., None] > 0, rgba, np.array((0, 0, 0, 0) if ground is None else (*ground, 255), np.uint8))
    alpha = np.ascontiguousarray(part[..., 3])
    colours = [cv2.multiply(np.ascontiguousarray(part[..., index]), alpha, scale=1 / 255) for index in range(3)]
    return np.asarray(cv2.resize(cv2.merge([*colours, alpha]), size, interpolation=cv2.INTER_AREA), np.uint8)


def are_alike(one: Look, other: Look) -> bool:
    """Whether two looks of prints of about one size show the same; neither turned nor mirrored ones do."""
    small = [cv2.resize(look, (_THUMB, _THUMB), interpolation=cv2.INTER_AREA) for look in (one, other)]
    if float(cv2.absdiff(*small).mean()) > _THUMB_APART:
        return False
    height, width = one.shape[:2]
    if other.shape != one.shape:
        other = np.asarray(cv2.resize(other, (width, height), interpolation=cv2.INTER_LINEAR), np.uint8)
    stroke, area = _differences(one, other)
    if not _differ(stroke, area):
        return True
    return area < _STRIP_APART and not differ_somewhere(one, _fitted(one, other))


def differ_somewhere(one: Look, other: Look) -> bool:
    """Whether looks of one size differ at any place."""
    return _differ(*_differences(one, other))


def _differences(one: Look, other: Look) -> tuple[float, float]:
    """The largest mean difference over a stroke, and over a small area."""
    apart = cv2.max(_outside(one, other), _outside(other, one))
    stroke, area = (cv2.blur(apart, (side, side)) for side in (_STROKE_PX, _AREA_PX))
    return float(stroke.max()), float(area.max())


def _differ(stroke: float, area: float) -> bool:
    return stroke >= _STROKE_APART or area >= _AREA_APART


def _fitted(one: Look, other: Look) -> Look:
    """The other look, stretched, turned and moved a little so that it lies on the first as well as it can."""
    height, width = one.shape[:2]
    scale = min(1.0, _FIT_PX / max(height, width))
    size = max(1, round(width * scale)), max(1, round(height * scale))
    small = [
        cv2.resize(look, size, interpolation=cv2.INTER_AREA).mean(axis=2, dtype=np.float32) for look in (one, other)
    ]
    start = np.eye(2, 3, dtype=np.float32)
    stop = (cv2.TERM_CRITERIA_COUNT | cv2.TERM_CRITERIA_EPS, _FIT_ROUNDS, 1e-4)
    try:
        _, fit = cv2.findTransformECC(small[0], small[1], start, cv2.MOTION_AFFINE, stop, np.empty(0, np.uint8), 5)
    except cv2.error:  # nothing to hold on to: one flat colour, or no way back to the start
        return other
    fit[:, 2] /= np.float32(max(size))
    if not np.all(np.abs(fit - start) <= _FIT_MOST):
        return other
    fit[:, 2] *= np.float32(max(height, width))
    how = cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP
    return np.asarray(cv2.warpAffine(other, fit, (width, height), flags=how, borderMode=cv2.BORDER_REPLICATE), np.uint8)


def _outside(one: Look, other: Look) -> Look:
    """How far each pixel lies outside of what the other shows round it."""
    above = cv2.subtract(one, cv2.dilate(other, _NEAR))
    below = cv2.subtract(cv2.erode(other, _NEAR), one)
    return np.asarray(cv2.max(above, below), np.uint8)
