"""White: where it lies, how much, and how far it is pulled in.

White of the design (near-white areas of the artwork) is an ink of its own and keeps its edge. White under colour is
pulled in by the choke: it ends where the distance to the edge of the printed figure is less than the choke. The
distance is exact and sub-pixel: an edge pixel of coverage a puts the edge a − 1/2 px beyond its centre.
"""

import math
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from swaddon.core import fast
from swaddon.core.profile import WhiteInk
from swaddon.core.raster import Mask, Plane, Rgba, alpha_of, bands

_RIM_PX = 5
"""Half-transparent places at least this wide are fades or haze, not the antialiasing of an edge (assumed)."""


@dataclass(frozen=True)
class White:
    """The white plane and what the choke took from it.

    Attributes
    ----------
    plane
        ``uint8 (H, W)``, coverage of one hit, 255 = full.
    pulled_in_share
        Share of the white that the choke took away, 0..1.
    """

    plane: Plane
    pulled_in_share: float


def soft_area(rgba: Rgba) -> Mask:
    """Mask (255) of half-transparent places wider than the antialiased rim of a shape."""
    alpha = alpha_of(rgba)
    half = cv2.inRange(alpha, 1, 254)
    return np.asarray(cv2.morphologyEx(half, cv2.MORPH_OPEN, np.ones((_RIM_PX, _RIM_PX), np.uint8)))


def design_ramp(ink: WhiteInk) -> NDArray[np.uint8]:
    """``uint8 (256,)``: how far a colour is white of the design (255 = wholly), by its smallest sRGB component."""
    value = np.arange(256) / 255
    ramp = (value - ink.design_from) / max(ink.design_full - ink.design_from, 1e-6)
    return np.rint(np.clip(ramp, 0, 1) * 255).astype(np.uint8)


def figure(rgba: Rgba, soft: Mask, ramp: NDArray[np.uint8], design_white: bool) -> Plane:
    """Coverage of the printed figure whose edge the choke starts from.

    A fade counts as figure throughout, so that its white follows it to the end. White of the design that is not
    printed is bare cloth and so not part of the figure.
    """
    out: Plane = np.maximum(alpha_of(rgba), soft)
    if not design_white:
        lowest = rgba[..., :3].min(axis=2)
        out = (out.astype(np.uint16) * (255 - ramp[lowest]) // 255).astype(np.uint8)
    return np.ascontiguousarray(out)


def pull_in(coverage: Plane, choke_px: float) -> Plane:
    """Coverage after moving every edge inwards.

    Parameters
    ----------
    coverage
        ``uint8 (H, W)``, 255 = inside. Beyond the array is outside.
    choke_px
        Pixels, >= 0; fractions count.

    Returns
    -------
    ndarray
        ``uint8 (H, W)``.
    """
    if choke_px <= 0:
        return coverage
    reach = math.ceil(choke_px + 1)
    taps = _taps(reach)
    kernel = np.ones((2 * reach + 1, 2 * reach + 1), np.uint8)
    edge = cv2.erode(coverage, kernel, borderType=cv2.BORDER_CONSTANT, borderValue=0)
    out = np.empty_like(coverage)
    kernels = fast.compiled()
    if kernels is None:
        pull_in_plain(coverage, edge, taps, choke_px, out)
    else:
        fast.by_rows(
            coverage.shape[0],
            lambda rows: kernels.pull_in(coverage, edge, taps, choke_px, rows.start, rows.stop, out),
        )
    return out


def _taps(reach: int) -> NDArray[np.float64]:
    """(dy, dx, distance) of the neighbours within ``reach`` pixels, nearest first."""
    span = np.arange(-reach, reach + 1)
    dy, dx = np.meshgrid(span, span, indexing="ij")
    away = np.hypot(dy, dx)
    keep = (away > 0) & (away <= reach)
    taps = np.column_stack([dy[keep], dx[keep], away[keep]])
    return np.ascontiguousarray(taps[np.argsort(taps[:, 2], kind="stable")])


def pull_in_plain(coverage: Plane, edge: Plane, taps: NDArray[np.float64], choke_px: float, out: Plane) -> None:
    """:func:`pull_in` in plain NumPy: the least of |p − q| + a(q) − 1/2 over pixels q that are not full."""
    out[...] = np.where(edge == 255, np.uint8(255), np.uint8(0))
    ys, xs = np.nonzero((edge < 255) & (coverage > 0))
    reach = int(taps[:, 2].max())
    padded = np.pad(coverage, reach)
    own = coverage[ys, xs]
    depth = np.where(own < 255, own / 255 - 0.5, np.inf)
    for dy, dx, away in taps:
        other = padded[ys + int(dy) + reach, xs + int(dx) + reach]
        np.minimum(depth, np.where(other < 255, away + other / 255 - 0.5, np.inf), out=depth)
    out[ys, xs] = (np.clip(depth - choke_px + 0.5, 0, 1) * 255 + 0.5).astype(np.uint8)


def lay(
    rgba: Rgba,
    cmyk: NDArray[np.uint8],
    coverage: Plane,
    soft: Mask,
    ramp: NDArray[np.uint8],
    limit: float | None,
    design_white: bool,
) -> Plane:
    """The white plane.

    Parameters
    ----------
    rgba, cmyk
        ``uint8 (H, W, 4)``: artwork with straight alpha, and its inks already scaled by alpha.
    coverage
        ``uint8 (H, W)``: the figure after the choke.
    soft
        Mask of fades, where white follows alpha.
    ramp
        From :func:`design_ramp`.
    limit
        White goes under colours whose C+M+Y+K is at or under this percentage; ``None``: no white under colour.
    design_white
        Whether white of the design is printed.
    """
    out = np.empty(coverage.shape, np.uint8)
    under, percent = limit is not None, float(limit or 0)
    kernels = fast.compiled()
    way = lay_plain if kernels is None else kernels.lay
    fast.by_rows(
        rgba.shape[0],
        lambda rows: way(
            rgba[rows], cmyk[rows], coverage[rows], soft[rows], ramp, percent, int(design_white), under, out[rows]
        ),
    )
    return out


def lay_plain(
    rgba: Rgba,
    cmyk: NDArray[np.uint8],
    coverage: Plane,
    soft: Mask,
    ramp: NDArray[np.uint8],
    limit: float,
    design: int,
    under: bool,
    out: Plane,
) -> None:
    """:func:`lay` in plain NumPy integers."""
    for rows in bands(rgba.shape[0]):
        alpha = rgba[rows][..., 3].astype(np.int64)
        own = ramp[rgba[rows][..., :3].min(axis=2)].astype(np.int64)
        white = own * alpha * design
        if under:
            total = cmyk[rows].sum(axis=2, dtype=np.int64)
            amount = coverage[rows].astype(np.int64)
            amount = np.where(soft[rows] > 0, amount * alpha // 255, amount)
            white += np.where(total * 100 <= limit * alpha + 200, (255 - own) * amount, 0)
        out[rows] = np.where(alpha > 0, (white + 127) // 255, 0)
