"""Where white comes out of the colour, where colour lies bare, and how much of both there is, by coverage.

White under colour ends at the choke's depth under the figure's edge; a miss lets it reach further out. How far it comes
out there is told from the depth of each pixel under that edge, as the expected areas are (``bared.py``): white and
figure are covered by one depth, so that they cancel where their edges meet, and hard and soft edges of one shape agree.
"""

import math
from collections.abc import Callable
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from swaddon.core.artwork.raster import Mask, Plane, pixels
from swaddon.core.units import pixel_area_mm2
from swaddon.core.white.bared import BLUR_PX, HARD_PX, SOFT_PX, nearest_other, normal_integral
from swaddon.core.white.strokes import grown
from swaddon.core.white.underbase import Choked

_SOME = 64
"""White, of 255, from which it was wanted at a place (assumed)."""

UNDER = 26
"""White, of 255, from which it is seen where it peeks out: a tenth, as in ``register.py`` (assumed)."""

_BAND_PX = 512
"""Rows that are looked at at once."""

_FINE_PX = 2.5
"""Depth up to which a blurred edge tells it."""

Floats = NDArray[np.float64]
Places = NDArray[np.signedinteger]
Reach = Callable[[Floats, Floats], Floats]
"""How far white may come to lie outside its place, in pixels, by columns and rows of the grid."""


@dataclass(frozen=True, eq=False)
class EdgeTrouble:
    """Coverage of both troubles, ``uint8 (H, W)``, and their areas.

    Attributes
    ----------
    peek, peek_mm2
        Cloth that white under colour could reach under the worst registration and the press's squeeze; the area counts
        what lies beyond the artboard too.
    rim, rim_mm2
        Colour that white should lie under, and none does.
    """

    peek: Plane
    rim: Plane
    peek_mm2: float = 0.0
    rim_mm2: float = 0.0


def peeking(under: Mask, choked: Choked, own: Mask, choke_px: float, reach: Reach, check: Callable[[], None]) -> Plane:
    """Coverage of white that comes out of the figure, with a margin on each side for what leaves the artboard.

    Parameters
    ----------
    under
        Mask of white under colour; ``own`` is white of the design, which is meant to be seen.
    reach
        At each pixel, by the worst direction.
    """
    height, width = under.shape
    most = float(reach(np.array([0.0, width]), np.array([0.0, height])).max())
    margin = math.ceil(most) + 2
    guarded = cv2.bitwise_and(cv2.inRange(choked.kept, 128, 255), cv2.inRange(choked.pulled, 0, 127))
    planes = (choked.figure, own, under, np.asarray(cv2.bitwise_and(guarded, under), np.uint8))
    figure, own, under, cores = (_padded(plane, margin) for plane in planes)
    # White that was pulled in from hard edges may lie up to a pixel deeper than the choke.
    near = grown(under if most > choke_px - 1 else cores, most + 2)
    whole = cv2.erode(cv2.inRange(figure, 255, 255), np.ones((3, 3), np.uint8))  # but pixels by hard edges
    may = cv2.bitwise_and(cv2.bitwise_and(near, cv2.bitwise_not(whole)), cv2.bitwise_not(own))
    out = np.zeros_like(figure)
    for top in range(0, figure.shape[0], _BAND_PX):
        check()
        ys, xs = pixels(np.asarray(may[top : top + _BAND_PX], np.uint8))
        if ys.size == 0:
            continue
        ys += top
        start = max(top - margin - 4, 0)
        band = slice(start, top + _BAND_PX + margin + 4)
        far = reach(xs.astype(np.float64) + 0.5 - margin, ys.astype(np.float64) + 0.5 - margin)
        covered = _coming_out(figure[band], cores[band], ys - start, xs, choke_px, far, most)
        out[ys, xs] = np.rint(covered * 255).astype(np.uint8)
    return out


def _coming_out(
    figure: Plane, cores: Mask, ys: Places, xs: Places, choke_px: float, reach: Floats, most_px: float
) -> Floats:
    """Coverage, 0..1, of what white reaches and the figure does not at chosen pixels, near white or a core."""
    depth = depth_near_edge(figure, ys, xs, most_px - choke_px > _FINE_PX)
    white = np.clip(depth - choke_px + reach + 0.5, 0, 1)
    if cv2.countNonZero(cores):
        # Cores of thin strokes lie less deep than the choke: half a pixel beyond their pixels' centres.
        away = cv2.distanceTransform(cv2.bitwise_not(cores), cv2.DIST_L2, cv2.DIST_MASK_5)
        white = np.maximum(white, np.clip(reach + 1 - away[ys, xs], 0, 1))
    return np.asarray(np.maximum(white - np.clip(depth + 0.5, 0, 1), 0))


def depth_near_edge(coverage: Plane, ys: Places, xs: Places, further: bool) -> Floats:
    """Depth in pixels of chosen pixels near a figure's edge, positive inside.

    Blurred, an edge is the integral of the normal distribution over the depth under it, whatever its angle, so the
    depth is read back from it. Beyond ``_FINE_PX``, where that no longer tells, pixels are as far as the nearest one of
    the figure and as far as that lies inside (``further``; else they count as that far away). An edge that covers
    pixels in part is wider by these pixels; a staircase of whole pixels is narrower by up to a twelfth of a pixel²,
    since its sum stands for an integral (Euler-Maclaurin).
    """
    share = coverage.astype(np.float32) * np.float32(1 / 255)
    blurred = cv2.GaussianBlur(share, (0, 0), BLUR_PX, borderType=cv2.BORDER_CONSTANT)
    partly = cv2.dilate(cv2.inRange(coverage, 1, 254), np.ones((5, 5), np.uint8))

    def told(rows: Places, columns: Places) -> Floats:
        return np.interp(blurred[rows, columns], *normal_integral()) * np.where(partly[rows, columns], SOFT_PX, HARD_PX)

    depth = told(ys, xs)
    beyond = np.flatnonzero(depth < -_FINE_PX) if further else np.zeros(0, np.intp)
    outside = np.asarray(cv2.inRange(coverage, 0, 127), np.uint8)
    if beyond.size and cv2.countNonZero(outside) < outside.size:
        rows, columns = ys[beyond], xs[beyond]
        by_row, by_column = nearest_other(outside, rows, columns)
        depth[beyond] = told(by_row, by_column) - np.hypot(by_row - rows, by_column - columns)
    return depth


def _padded(plane: Plane, by: int) -> Plane:
    return np.asarray(cv2.copyMakeBorder(plane, by, by, by, by, cv2.BORDER_CONSTANT, value=0), np.uint8)


def bare(wanted: Plane, white: Plane, figure: Plane, inked: Mask) -> Plane:
    """Coverage of colour under which white was wanted and is lacking: its share that lacks, of what the edge covers.

    >>> inked, none = np.full((1, 3), 255, np.uint8), np.zeros((1, 3), np.uint8)
    >>> bare(inked, np.array([[255, 0, 51]], np.uint8), inked, inked).tolist()
    [[0, 255, 204]]
    """
    some = cv2.bitwise_and(cv2.inRange(wanted, _SOME, 255), inked)
    lacks = cv2.divide(cv2.subtract(wanted, white), wanted, scale=255)
    part = cv2.multiply(lacks, figure, scale=1 / 255)
    return np.asarray(cv2.bitwise_and(part, some), np.uint8)


def area_mm2(coverage: Plane, ppi: float) -> float:
    """Area that a plane of coverage comes to."""
    return float(cv2.sumElems(coverage)[0]) / 255 * pixel_area_mm2(ppi)
