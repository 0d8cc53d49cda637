"""White: where it lies, how much, and how far it is pulled in.

White of the design (near-white areas of the artwork) is an ink of its own and keeps its edge. White under colour is
pulled in by the choke: it ends where the distance to the edge of the printed figure is less than the choke. The
distance is exact and sub-pixel: an edge pixel of coverage a puts the edge a − 1/2 px beyond its centre.
"""

import math
from dataclasses import dataclass
from functools import lru_cache
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from swaddon.core import fast
from swaddon.core.artwork.raster import Mask, Plane, Rgba, alpha_of, bands, least_component
from swaddon.core.press.profile import WhiteInk

_DITHER_TILE = 256
_INK_FADES_BELOW = 0.12
"""Square-root encoded light (L* of some 8) under which the inks of a fade go with its white (assumed)."""


@dataclass(frozen=True, eq=False)
class Choked:
    """A figure under the choke, each ``uint8 (H, W)``, 255 = inside.

    Attributes
    ----------
    figure
        Before the choke.
    pulled, kept
        After it, without and with the guard of thin strokes.
    thin
        ``strokes.thin_strokes`` of the figure; ``None`` when nobody asked for them.
    """

    figure: Plane
    pulled: Plane
    kept: Plane
    thin: Mask | None = None

    @property
    def taken_share(self) -> float:
        """Share of the figure that the choke took, 0..1."""
        whole = cv2.sumElems(self.figure)[0]
        return 1 - cv2.sumElems(self.kept)[0] / whole if whole > 0 else 0.0


def design_ramp(ink: WhiteInk) -> NDArray[np.uint8]:
    """``uint8 (256,)``: how far a colour is white of the design (255 = wholly), by its smallest sRGB component."""
    value = np.arange(256) / 255
    ramp = (value - ink.design_from) / max(ink.design_full - ink.design_from, 1e-6)
    return np.rint(np.clip(ramp, 0, 1) * 255).astype(np.uint8)


@dataclass(frozen=True)
class PrintAlpha:
    """Alpha, ``uint8 (H, W)``, that white and that inks are printed with."""

    white: Plane
    ink: Plane


FadeTables = tuple[NDArray[np.uint16], NDArray[np.uint16]]


def fade_tables(garment_share: float, scatter: float) -> FadeTables:
    """How white and inks follow alpha in a fade, so that the print looks like the artwork's blend into the cloth.

    With a square-root encoding, a blend of ink F into cloth G is (α√F + (1 − α)√G)². White that reaches R = s²,
    s = α + (1 − α)√G, under inks of coverage α / s gives just that when n = 2: white carries the blend, the inks the
    hue. On white cloth both reduce to the plain alpha of the inks; on black cloth the inks stay full while white fades.
    Where next to no white is left the inks fade as well, so that nothing prints where there is hardly anything.

    Parameters
    ----------
    garment_share
        √G: square root of the cloth's luminance, 0..1.
    scatter
        S·X of all hits of white.

    Returns
    -------
    tuple of ndarray
        ``uint16 (256,)`` each: white amount and ink coverage × 65280 by alpha.
    """
    alpha = np.arange(256) / 255
    s = alpha + (1 - alpha) * garment_share
    reached, cloth = s**2, garment_share**2
    divisor = np.maximum((1 - cloth) * (1 - reached), 1e-9)
    amount = np.clip((reached - cloth) / divisor / max(scatter, 1e-9), 0, 1)
    ink = alpha / np.maximum(s, _INK_FADES_BELOW)
    amount[0], amount[-1], ink[0], ink[-1] = 0, 1, 0, 1
    return np.rint(amount * 65280).astype(np.uint16), np.rint(ink * 65280).astype(np.uint16)


def print_alpha(rgba: Rgba, soft: Mask, tables: FadeTables | None) -> PrintAlpha:
    """Alpha of white and inks: the artwork's own, but by the fade tables in fades; ``None``: plain everywhere.

    A dark fade has only a few steps of white in 8 bits, so the tables' finer values are dithered.
    """
    alpha = alpha_of(rgba)
    if tables is None or not cv2.countNonZero(soft):
        return PrintAlpha(alpha, alpha)
    noise = _dither(alpha.shape[1])
    kernel = fast.chosen("soften", soften_plain)
    out = []
    for table in tables:
        plane = np.empty_like(alpha)
        for rows in bands(alpha.shape[0], noise.shape[0]):
            kernel(alpha[rows], soft[rows], table, noise, plane[rows])
        out.append(plane)
    return PrintAlpha(out[0], out[1])


def soften_plain(alpha: Plane, soft: Mask, table: NDArray[np.uint16], noise: NDArray[np.uint16], out: Plane) -> None:
    """Alpha by the table where it is soft, dithered to 8 bits; ``alpha`` has at most as many rows as ``noise``."""
    fine = table[alpha] + noise[: alpha.shape[0]]
    out[...] = np.where(soft > 0, fine >> 8, alpha)


@lru_cache(maxsize=4)
def _dither(width: int) -> NDArray[np.uint16]:
    """Ordered noise, 0..255, ``(256, width)``, that spreads evenly (interleaved gradient noise, from memory)."""
    x, y = np.arange(_DITHER_TILE, dtype=np.float32), np.arange(_DITHER_TILE, dtype=np.float32)[:, None]
    inner = (np.float32(0.06711056) * x + np.float32(0.00583715) * y) % 1
    tile = np.asarray((np.float32(52.9829189) * inner) % 1 * 256, np.uint16)
    return np.ascontiguousarray(np.tile(tile, (1, -(-width // _DITHER_TILE)))[:, :width])


def figure(
    rgba: Rgba, soft: Mask, ramp: NDArray[np.uint8], design_white: bool, exceptions: Mask | None = None
) -> Plane:
    """Coverage of the printed figure whose edge the choke starts from.

    A fade counts as figure throughout, so that its white follows it to the end. White of the design that is not
    printed is bare cloth and so not part of the figure. ``exceptions`` is a mask of white of the design that is treated
    the other way round.
    """
    whole: Plane = np.maximum(alpha_of(rgba), soft)
    if design_white and exceptions is None:
        return np.ascontiguousarray(whole)
    lowest = least_component(rgba)
    bare = (whole.astype(np.uint16) * (255 - ramp[lowest]) // 255).astype(np.uint8)
    if exceptions is not None:
        bare = np.where((exceptions > 0) == design_white, bare, whole)
    return np.ascontiguousarray(bare)


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

    A square of 7 px pulled in by 2 px:

    >>> coverage = np.zeros((9, 9), np.uint8)
    >>> coverage[1:8, 1:8] = 255
    >>> pull_in(coverage, 2.0)[4].tolist()
    [0, 0, 0, 255, 255, 255, 0, 0, 0]
    """
    if choke_px <= 0:
        return coverage
    reach = math.ceil(choke_px + 1)
    near = taps(reach)
    kernel = np.ones((2 * reach + 1, 2 * reach + 1), np.uint8)
    edge = cv2.erode(coverage, kernel, borderType=cv2.BORDER_CONSTANT, borderValue=0)
    out = np.empty_like(coverage)
    _pull_in(coverage, edge, near, choke_px, out)
    return out


def shrunk_screen(cut: Mask, choke_px: float) -> Mask:
    """A screen's mask (255 = ink) with every hole wider by ``choke_px``, to whole pixels.

    >>> cut = np.full((1, 7), 255, np.uint8)
    >>> cut[0, 3] = 0
    >>> shrunk_screen(cut, 1.0).tolist()
    [[255, 255, 0, 0, 0, 255, 255]]
    """
    if choke_px <= 0:
        return cut
    reach = math.ceil(choke_px + 1)
    framed = cv2.copyMakeBorder(cut, reach, reach, reach, reach, cv2.BORDER_REPLICATE)
    pulled = pull_in(np.asarray(framed, np.uint8), choke_px)[reach:-reach, reach:-reach]
    return np.asarray(cv2.inRange(pulled, 128, 255), np.uint8)


def taps(reach: int) -> NDArray[np.float64]:
    """(dy, dx, distance) of the neighbours within ``reach`` pixels, nearest first.

    >>> taps(1).round(2).tolist()
    [[-1.0, 0.0, 1.0], [0.0, -1.0, 1.0], [0.0, 1.0, 1.0], [1.0, 0.0, 1.0]]
    """
    span = np.arange(-reach, reach + 1)
    dy, dx = np.meshgrid(span, span, indexing="ij")
    away = np.hypot(dy, dx)
    keep = (away > 0) & (away <= reach)
    found = np.column_stack([dy[keep], dx[keep], away[keep]])
    return np.ascontiguousarray(found[np.argsort(found[:, 2], kind="stable")])


def pull_in_plain(coverage: Plane, edge: Plane, near: NDArray[np.float64], choke_px: float, out: Plane) -> None:
    """:func:`pull_in` in plain NumPy: the least of |p − q| + a(q) − 1/2 over pixels q that are not full."""
    out[...] = np.where(edge == 255, np.uint8(255), np.uint8(0))
    ys, xs = np.nonzero((edge < 255) & (coverage > 0))
    reach = int(near[:, 2].max())
    padded = np.pad(coverage, reach)
    own = coverage[ys, xs]
    depth = np.where(own < 255, own / 255 - 0.5, np.inf)
    for dy, dx, away in near:
        other = padded[ys + int(dy) + reach, xs + int(dx) + reach]
        np.minimum(depth, np.where(other < 255, away + other / 255 - 0.5, np.inf), out=depth)
    out[ys, xs] = (np.clip(depth - choke_px + 0.5, 0, 1) * 255 + 0.5).astype(np.uint8)


@fast.instead_of(pull_in_plain)
def _pull_in(
    kernels: Any, coverage: Plane, edge: Plane, near: NDArray[np.float64], choke_px: float, out: Plane
) -> None:
    reach = math.ceil(choke_px + 1)
    padded = cv2.copyMakeBorder(coverage, reach, reach, reach, reach, cv2.BORDER_CONSTANT, value=0)
    offsets = (near[:, 0] * padded.shape[1] + near[:, 1]).astype(np.int64)
    away = near[:, 2].astype(np.float32)
    fast.by_rows(
        coverage.shape[0],
        lambda rows: kernels.pull_in(padded, edge, offsets, away, reach, choke_px, rows.start, rows.stop, out),
    )


def lay(
    rgba: Rgba,
    cmyk: NDArray[np.uint8],
    coverage: Plane,
    print_alpha: PrintAlpha,
    ramp: NDArray[np.uint8],
    limit: float | None,
    design_white: bool,
    need: Plane | None = None,
    exceptions: Mask | None = None,
) -> Plane:
    """The white plane.

    Parameters
    ----------
    rgba, cmyk
        ``uint8 (H, W, 4)``: artwork with straight alpha, and its inks already scaled by their alpha.
    coverage
        ``uint8 (H, W)``: the figure after the choke.
    print_alpha
        Alpha that white and inks are printed with.
    ramp
        From :func:`design_ramp`.
    limit
        White goes under colours whose C+M+Y+K is at or under this percentage; ``None``: no white under colour.
    design_white
        Whether white of the design is printed.
    need
        ``uint8 (H, W)``: white that each colour needs, used instead of the limit.
    exceptions
        Mask of white of the design that is treated the other way round.
    """
    out = np.empty(coverage.shape, np.uint8)
    under, percent = limit is not None or need is not None, float(limit or 0)
    amount = coverage if need is None else need
    white, ink = print_alpha.white, print_alpha.ink
    kernel = fast.chosen("lay", lay_plain)
    fast.by_rows(
        rgba.shape[0],
        lambda rows: kernel(
            rgba[rows], cmyk[rows], coverage[rows], white[rows], ink[rows], amount[rows], need is not None, ramp,
            percent, int(design_white), under, out[rows],
        ),
    )  # fmt: skip
    if exceptions is not None:
        other = lay(rgba, cmyk, coverage, print_alpha, ramp, limit, not design_white, need)
        np.copyto(out, other, where=exceptions > 0)
    return out


def lay_plain(
    rgba: Rgba,
    cmyk: NDArray[np.uint8],
    coverage: Plane,
    white_alpha: Plane,
    ink_alpha: Plane,
    need: Plane,
    by_need: bool,
    ramp: NDArray[np.uint8],
    limit: float,
    design: int,
    under: bool,
    out: Plane,
) -> None:
    """:func:`lay` in plain NumPy integers."""
    for rows in bands(rgba.shape[0]):
        alpha = white_alpha[rows].astype(np.int64)
        own = ramp[rgba[rows][..., :3].min(axis=2)].astype(np.int64)
        white = own * alpha * design
        amount = (255 - own) * np.minimum(coverage[rows], alpha)
        if under and by_need:
            white += (amount * need[rows] + 127) // 255
        elif under:
            total = cmyk[rows].sum(axis=2, dtype=np.int64)
            held = total * 100 <= limit * ink_alpha[rows].astype(np.int64) + 200
            white += np.where(held, amount, 0)
        out[rows] = (white + 127) // 255
