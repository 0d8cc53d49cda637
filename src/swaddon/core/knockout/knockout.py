"""Knockout: taking a colour out of the artwork so that the cloth shows instead.

A pixel goes when its ΔE00 to the colour is within the tolerance; everywhere, only where it is connected with the
outside, or only in the enclosed areas that were clicked. A soft edge is colour-to-alpha: the pixel is solved as
art = α · ink + (1 − α) · colour with the least α that keeps the ink in gamut. On the rim of what was removed, α is also
at least the pixel's distance from the colour as a share of the largest distance within two pixels, which gives the
antialiasing its ink back.
"""

from collections.abc import Sequence
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from swaddon.core import fast
from swaddon.core.artwork.background import border_tolerance, uniform_border
from swaddon.core.artwork.near import PAGES, Distances, codes_of, distances, near, on_pages
from swaddon.core.artwork.raster import Mask, Rgba, alpha_of
from swaddon.core.colour.goods import same_cloth
from swaddon.core.colour.spaces import Rgb
from swaddon.core.knockout.settings import Reach

RIM, FADE, GONE = 1, 2, 255
"""Kinds of zone: antialiased rim of a removed area; fade into the colour; removed."""

_AROUND = np.ones((5, 5), np.uint8)
_EDGE_STEP = 24
"""Change of a component over two pixels that is an edge, not a fade: a fade is at least 2 mm long (assumed)."""

HALO_PX, HALO_TOLERANCE = 8, 2.5
"""Reach of JPEG's smear (a coding block, ITU-T T.81), and how much further from the colour it may lie (assumed)."""

_MET = 1e-3
"""Share of the pixels with ink from which an artwork has a colour of its own (assumed)."""

_MOST_MET, _FLAT = 256, 0.02
"""How many of its commonest colours are looked at, and the share from which one is a large flat area (assumed)."""


def connected_to_outside(passable: Mask) -> Mask:
    """Mask (255) of the passable (255) pixels that can be reached from beyond the artboard, by edges.

    >>> passable = np.full((5, 5), 255, np.uint8)
    >>> passable[1:4, 1:4] = 0
    >>> passable[2, 2] = 255
    >>> connected_to_outside(passable)[2].tolist()
    [255, 0, 0, 0, 255]
    """
    height, width = passable.shape
    padded = cv2.copyMakeBorder(passable, 1, 1, 1, 1, cv2.BORDER_CONSTANT, value=255)
    cv2.floodFill(padded, None, (0, 0), 128, flags=4)
    return np.asarray(cv2.inRange(padded[1 : height + 1, 1 : width + 1], 128, 128))


def joined_to(passable: Mask, seeds: Mask) -> Mask:
    """Mask (255) of the passable (255) areas that hold a seed."""
    count, parts = cv2.connectedComponents(passable, connectivity=4)
    holds = np.zeros(count, np.uint8)
    holds[parts[seeds > 0]] = 255
    holds[0] = 0
    return holds[parts]


def knock_out(rgba: Rgba, colour: Rgb, removed: Mask, zone: Mask | None) -> Rgba:
    """Artwork without the removed pixels and with the zone's pixels unmixed.

    Parameters
    ----------
    rgba
        ``uint8 (H, W, 4)``, straight alpha.
    colour
        The colour that goes.
    removed
        Mask of the pixels that become fully transparent.
    zone
        ``RIM``, ``FADE`` or 0 per pixel; ``None`` for a hard cut.

    A half-covered rim pixel gets back its own colour and half its alpha:

    >>> art = np.array([[[255, 255, 255, 255], [228, 143, 148, 255], [200, 30, 40, 255]]], np.uint8)
    >>> gone, rim = np.array([[255, 0, 0]], np.uint8), np.array([[0, RIM, 0]], np.uint8)
    >>> knock_out(art, (255, 255, 255), gone, rim)[0, :, 3].tolist()
    [0, 127, 255]
    """
    out = rgba.copy()
    whole = removed if zone is None else np.bitwise_or(removed, zone)
    _unmix(rgba, whole, colour, out)
    return out


def removed_area(
    rgba: Rgba,
    found: Distances,
    tolerance: float,
    reach: Reach,
    points: Sequence[tuple[int, int]] = (),
    kept: Mask | None = None,
) -> Mask:
    """Mask (255) of the pixels that a knockout takes away.

    Parameters
    ----------
    points
        x, y in pixels of ``rgba``: enclosed areas that go, besides what ``reach`` takes.
    kept
        Mask (255) of pixels that stay whatever their colour.
    """
    close = near(rgba, found, tolerance)
    if kept is not None:
        close = np.asarray(cv2.bitwise_and(close, cv2.bitwise_not(kept)), np.uint8)
    if reach == "everywhere":
        return close
    passable = np.asarray(cv2.bitwise_or(close, cv2.inRange(alpha_of(rgba), 0, 0)), np.uint8)
    if kept is not None:
        passable = np.asarray(cv2.bitwise_and(passable, cv2.bitwise_not(kept)), np.uint8)
    reached = np.zeros_like(close) if reach == "clicked" else connected_to_outside(passable)
    for point in points:
        reached = np.asarray(cv2.bitwise_or(reached, area_at(passable, point)), np.uint8)
    return np.asarray(cv2.bitwise_and(close, reached))


def stay_at(rgba: Rgba, found: Distances, tolerance: float, points: Sequence[tuple[int, int]]) -> Mask:
    """Mask (255) of the areas of a colour at some points (x, y), which a knockout of it leaves."""
    close = near(rgba, found, tolerance)
    out = np.zeros_like(close)
    for point in points:
        out = np.asarray(cv2.bitwise_or(out, area_at(close, point)), np.uint8)
    return out


def area_at(passable: Mask, point: tuple[int, int]) -> Mask:
    """Mask (255) of the passable (255) area that a point lies in; empty beside it.

    >>> area_at(np.array([[255, 0, 255]], np.uint8), (2, 0)).tolist()
    [[0, 0, 255]]
    """
    x, y = point
    out = np.zeros_like(passable)
    if 0 <= x < passable.shape[1] and 0 <= y < passable.shape[0] and passable[y, x] == 255:
        filled = passable.copy()
        cv2.floodFill(filled, None, (x, y), 128, flags=4)
        out = np.asarray(cv2.inRange(filled, 128, 128), np.uint8)
    return out


def with_halo(rgba: Rgba, found: Distances, tolerance: float, removed: Mask, kept: Mask | None = None) -> Mask:
    """The removed area with what JPEG has smeared round it: speckle in it, and its halo within one coding block.

    Pixels up to ``HALO_TOLERANCE`` times the tolerance go when they lie within ``HALO_PX`` of the removed area and are
    connected with it. What is further from the colour than that is ink, or cannot be told from it.
    """
    near_by = cv2.dilate(removed, np.ones((2 * HALO_PX + 1, 2 * HALO_PX + 1), np.uint8))
    wider = cv2.bitwise_and(near(rgba, found, tolerance * HALO_TOLERANCE), near_by)
    if kept is not None:
        wider = cv2.bitwise_and(wider, cv2.bitwise_not(kept))
    whole = np.asarray(cv2.bitwise_or(wider, removed), np.uint8)
    count, parts = cv2.connectedComponents(whole, connectivity=8)
    touches = np.zeros(count, np.uint8)
    touches[parts[removed > 0]] = 255
    touches[0] = 0
    return touches[parts]


def kept_area(rgba: Rgba, colour: Rgb, tolerance: float, point: tuple[int, int] | None) -> Mask:
    """Mask (255) of what must stay: a colour everywhere, or its connected area at a point."""
    close = near(rgba, distances(rgba, colour, max(tolerance, 10.0)), tolerance)
    return close if point is None else area_at(close, point)


def colour_counts_plain(rgba: Rgba, chosen: Mask) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    """:func:`colour_counts` in plain NumPy."""
    codes, counts = np.unique(codes_of(rgba)[(chosen > 0) & (rgba[..., 3] > 0)], return_counts=True)
    return codes.astype(np.int64), counts.astype(np.int64)


@fast.instead_of(colour_counts_plain)
def colour_counts(kernels: Any, rgba: Rgba, chosen: Mask) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    """Packed colours of the chosen (nonzero) pixels that are not fully transparent, and how many have each.

    >>> art = np.array([[[0, 0, 255, 255], [0, 0, 255, 255], [9, 9, 9, 0]]], np.uint8)
    >>> [part.tolist() for part in colour_counts(art, np.full((1, 3), 255, np.uint8))]
    [[255], [2]]
    """
    counts, pages = np.zeros(1 << 24, np.int32), np.zeros(PAGES, np.uint8)
    kernels.count_colours(rgba, chosen, counts, pages)
    codes = on_pages(counts, pages)
    return codes, counts[codes].astype(np.int64)


def ground_of(rgba: Rgba, colour: Rgb) -> tuple[Rgb, tuple[Rgb, ...]]:
    """What a fade into a black or off-white cloth runs into in the artwork, and other flat colours that are the cloth.

    The ground is the colour itself where the artwork has it; else that of its border, else the commonest, where they
    count as the same cloth. So a glow on #000000 is taken from #000000 whoever names the shirt's #1b1b1f, and every
    way to take it out leaves the same fades. Other colours of large flat areas count as the cloth as they are.

    >>> art = np.zeros((40, 40, 4), np.uint8)
    >>> art[..., 3] = 255
    >>> art[:20, 10:30, :3] = 26
    >>> ground_of(art, (27, 27, 31))
    ((0, 0, 0), ((26, 26, 26),))
    """
    codes, counts = colour_counts(rgba, np.full(rgba.shape[:2], 255, np.uint8))
    share = counts / max(1, counts.sum())
    codes, share = codes[share >= _MET], share[share >= _MET]
    order = np.argsort(-share, kind="stable")[:_MOST_MET]
    own = np.stack([codes >> 16, codes >> 8 & 255, codes & 255], axis=-1)[order]
    alike = same_cloth(own, colour) if len(own) else np.zeros(0, np.bool_)
    own, share = own[alike], share[order][alike]
    if not len(own):
        return colour, ()
    met: list[Rgb] = [(int(r), int(g), int(b)) for r, g, b in own]
    border = uniform_border(rgba, border_tolerance("JPEG"))
    ground = met[0]
    if colour in met:
        ground = colour
    elif border is not None and same_cloth(border, colour):
        ground = border
    return ground, tuple(item for item, part in zip(met, share, strict=True) if part >= _FLAT and item != ground)


def on_cloth(rgba: Rgba, ground: Rgb, cloth: Rgb, flat: Sequence[Rgb] = ()) -> Rgba:
    """The artwork as it is seen once its ground is the cloth, so that distances are told on what is seen.

    A pixel is α · ink + (1 − α) · ground with the least α that keeps the ink in gamut; on the cloth it is
    α · ink + (1 − α) · cloth, which is the pixel + (1 − α) · (cloth − ground). ``flat`` colours are the cloth as well.

    >>> art = np.array([[[0, 0, 0, 255], [255, 0, 0, 255]]], np.uint8)
    >>> on_cloth(art, (0, 0, 0), (27, 27, 31))[0, :, :3].tolist()
    [[27, 27, 31], [255, 0, 0]]
    """
    if ground == cloth and not flat:
        return rgba
    channels = cv2.split(rgba)
    bare = np.full(rgba.shape[:2], 255, np.uint8)  # 1 - α
    for channel, own in zip(channels, ground, strict=False):
        value = np.arange(256)
        share = np.abs(value - own) / np.where(value > own, 255 - own, max(own, 1))
        bare = np.asarray(cv2.min(bare, cv2.LUT(channel, np.rint(255 * (1 - share)).astype(np.uint8))), np.uint8)
    out = []
    for channel, own, dyed in zip(channels, ground, cloth, strict=False):
        step = cv2.LUT(bare, np.rint(np.arange(256) / 255 * abs(dyed - own)).astype(np.uint8))
        out.append(cv2.add(channel, step) if dyed > own else cv2.subtract(channel, step))
    seen = np.asarray(cv2.merge([*out, channels[3]]), np.uint8)
    for colour in flat:
        seen[cv2.inRange(rgba, (*colour, 0), (*colour, 255)) > 0, :3] = cloth
    return seen


def soft_zone(rgba: Rgba, colour: Rgb, removed: Mask, reach: Reach, is_cloth: bool) -> Mask:
    """Where a soft edge unmixes: the rim of what was removed and, when the colour is the garment's own, its fades.

    A fade runs gradually out of what was removed. Flat dark parts behind an edge are no fade, however near to the
    garment's colour: they stay whole.
    """
    clear = cv2.inRange(alpha_of(rgba), 0, 0)
    gone = cv2.bitwise_or(removed, clear)
    stays = cv2.bitwise_not(gone)
    rim = np.bitwise_and(cv2.bitwise_and(cv2.dilate(removed, _AROUND), stays), np.uint8(RIM))
    if not is_cloth:
        return rim
    low = tuple(1 if c > 0 else 0 for c in colour)
    high = tuple(254 if c < 255 else 255 for c in colour)
    mixed = cv2.inRange(rgba[..., :3], low, high)
    gradual = cv2.bitwise_and(mixed, cv2.bitwise_not(_edges(rgba)))
    passable = np.asarray(cv2.bitwise_or(gradual, gone), np.uint8)
    reached = connected_to_outside(passable) if reach == "outside" else joined_to(passable, removed)
    fade = cv2.bitwise_and(reached, stays)
    beside = cv2.bitwise_and(cv2.bitwise_and(cv2.dilate(fade, _AROUND), mixed), stays)
    fade = cv2.bitwise_or(fade, beside)
    return np.where(fade > 0, np.uint8(FADE), rim)


def _edges(rgba: Rgba) -> Mask:
    """Mask (255) of pixels whose colour changes by more than ``_EDGE_STEP`` across them."""
    cross = cv2.getStructuringElement(cv2.MORPH_CROSS, (3, 3))
    change = cv2.morphologyEx(rgba[..., :3], cv2.MORPH_GRADIENT, cross)
    return np.asarray(cv2.bitwise_not(cv2.inRange(change, (0, 0, 0), (_EDGE_STEP,) * 3)), np.uint8)


def unmix_plain(rgba: Rgba, zone: Mask, colour: Rgb, out: Rgba) -> None:
    """Colour-to-alpha of the zone's pixels in plain NumPy; ``out`` starts as a copy of ``rgba``."""
    ground = np.array(colour, np.float64)
    out[zone == GONE, 3] = 0
    ys, xs = np.nonzero((zone > 0) & (zone != GONE))
    value = rgba[ys, xs, :3].astype(np.float64)
    gap = np.abs(value - ground)
    room = np.where(value > ground, 255 - ground, ground)
    share = np.divide(gap, room, out=np.zeros_like(gap), where=gap > 0).max(axis=1)
    own = gap.max(axis=1)
    peak = own.copy()
    padded = np.pad(rgba, ((2, 2), (2, 2), (0, 0)))
    for dy in range(5):
        for dx in range(5):
            other = padded[ys + dy, xs + dx]
            reach = np.abs(other[:, :3].astype(np.float64) - ground).max(axis=1)
            np.maximum(peak, np.where(other[:, 3] > 0, reach, 0), out=peak)
    on_rim = zone[ys, xs] == RIM
    rim_share = np.divide(own, peak, out=np.zeros_like(own), where=peak > 0)
    share = np.where(on_rim, np.maximum(share, rim_share), share)
    divisor = np.where(share > 0, share, 1)[:, None]
    ink = np.clip(ground + (value - ground) / divisor, 0, 255) + 0.5
    alpha = (rgba[ys, xs, 3] * share + 0.5).astype(np.uint8)
    mixed = (share > 0) & (share < 1)
    out[ys[mixed], xs[mixed], :3] = ink[mixed].astype(np.uint8)
    out[ys[mixed], xs[mixed], 3] = alpha[mixed]
    out[ys[share <= 0], xs[share <= 0], 3] = 0


@fast.instead_of(unmix_plain)
def _unmix(kernels: Any, rgba: Rgba, zone: Mask, colour: Rgb, out: Rgba) -> None:
    ground = np.array(colour, np.int64)
    fast.by_rows(rgba.shape[0], lambda rows: kernels.unmix(rgba, zone, ground, rows.start, rows.stop, out))
