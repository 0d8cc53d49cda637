"""The palette of an artwork, and the palette colour of each of its pixels."""

from functools import cache
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from swaddon.core import fast
from swaddon.core.artwork.raster import Plane, Rgba
from swaddon.core.colour.spaces import Rgb, lab_from_srgb8

MOST_COLOURS = 24
RIM, NO_COLOUR = 254, 255
"""Classes of pixels on a rim between two colours, and of those without ink."""

_BIN_BITS = 5
_FLAT_STEP = 3
_PALETTE_DELTA_E = 9.0
_PALETTE_SHARE = 0.0004
_RIM_STEP = 6
_SAMPLES = 600_000


def find_palette(rgba: Rgba) -> tuple[Rgb, ...]:
    """At most ``MOST_COLOURS`` colours that the flat places of an artwork have, by area.

    >>> art = np.full((20, 20, 4), 255, np.uint8)
    >>> art[:5, :, :3] = (200, 30, 40)
    >>> find_palette(art)
    ((255, 255, 255), (200, 30, 40))
    """
    step = max(1, int((rgba.shape[0] * rgba.shape[1] / _SAMPLES) ** 0.5))
    counts, sums = _flat_histogram(rgba, step)
    used = np.flatnonzero(counts)
    if used.size == 0:
        return ()
    weight = counts[used].astype(np.float64)
    mean = sums[used] / weight[:, None]
    lab = lab_from_srgb8(mean)
    chosen: list[int] = []
    least = weight.sum() * _PALETTE_SHARE
    for index in np.argsort(-weight, kind="stable"):
        if len(chosen) == MOST_COLOURS or (chosen and weight[index] < least):
            break
        if not chosen or np.sqrt(((lab[chosen] - lab[index]) ** 2).sum(axis=1)).min() >= _PALETTE_DELTA_E:
            chosen.append(int(index))
    centres = lab[chosen]
    nearest = np.zeros(len(lab), np.intp)
    for _ in range(4):
        nearest = ((lab[:, None, :] - centres[None]) ** 2).sum(axis=2).argmin(axis=1)
        total = np.bincount(nearest, weight, len(centres))
        sums_lab = np.stack([np.bincount(nearest, weight * lab[:, c], len(centres)) for c in range(3)], axis=1)
        centres = np.where(total[:, None] > 0, sums_lab / np.maximum(total, 1e-9)[:, None], centres)
    colours = np.stack([np.bincount(nearest, weight * mean[:, c], len(centres)) for c in range(3)], axis=1)
    area = np.maximum(np.bincount(nearest, weight, len(centres)), 1e-9)
    return tuple((round(r), round(g), round(b)) for r, g, b in (colours / area[:, None]).tolist())


def _flat_histogram(rgba: Rgba, step: int) -> tuple[NDArray[np.int64], NDArray[np.float64]]:
    """Counts and colour sums per 5-bit colour, over pixels like their right and lower neighbour; else over all."""
    part = np.ascontiguousarray(rgba[: rgba.shape[0] - 1 : step, : rgba.shape[1] - 1 : step])
    right = np.ascontiguousarray(rgba[: rgba.shape[0] - 1 : step, 1::step][:, : part.shape[1]])
    below = np.ascontiguousarray(rgba[1::step, : rgba.shape[1] - 1 : step][: part.shape[0]])
    if part.size == 0:
        part = right = below = rgba
    inked = part[..., 3] >= 128
    apart = _largest(cv2.max(cv2.absdiff(part, right), cv2.absdiff(part, below)))
    flat = inked & (apart <= _FLAT_STEP)
    pixels = part[flat if flat.any() else inked][:, :3]
    shift = 8 - _BIN_BITS
    wide = pixels.astype(np.int64) >> shift
    bins = (wide[:, 0] << 2 * _BIN_BITS) | (wide[:, 1] << _BIN_BITS) | wide[:, 2]
    size = 1 << 3 * _BIN_BITS
    counts = np.bincount(bins, minlength=size).astype(np.int64)
    sums = np.stack([np.bincount(bins, pixels[:, c].astype(np.float64), size) for c in range(3)], axis=1)
    return counts, sums.astype(np.float64)


def _largest(pixels: NDArray[np.uint8]) -> NDArray[np.uint8]:
    """The largest of four channels; NumPy's own reduction takes ten times as long over so short an axis."""
    one, two, three, four = cv2.split(pixels)
    return np.asarray(cv2.max(cv2.max(one, two), cv2.max(three, four)), np.uint8)


@cache
def _five_bits() -> NDArray[np.float32]:
    """CIELAB of each 5-bit sRGB colour, ``float32 (32³, 3)``."""
    axis = np.arange(32) * 8 + 3.5
    rgb = np.stack(np.meshgrid(axis, axis, axis, indexing="ij"), axis=-1).reshape(-1, 3)
    return lab_from_srgb8(rgb).astype(np.float32)


def _palette_table(palette: tuple[Rgb, ...]) -> NDArray[np.uint8]:
    """``uint8 (32³,)``: index of the nearest palette colour of each 5-bit sRGB colour."""
    lab = _five_bits()
    centres = lab_from_srgb8(np.array(palette)).astype(np.float32)
    best = np.zeros(len(lab), np.uint8)
    least = np.full(len(lab), np.inf, np.float32)
    for index, centre in enumerate(centres):
        away = ((lab - centre) ** 2).sum(axis=1)
        closer = away < least
        best[closer], least[closer] = index, away[closer]
    return best


def classify(rgba: Rgba, palette: tuple[Rgb, ...]) -> Plane:
    """``uint8 (H, W)``: palette index of each pixel; 254 on rims, 255 where there is no ink."""
    out = np.full(rgba.shape[:2], NO_COLOUR, np.uint8)
    if not palette:
        return out
    table = _palette_table(palette)
    _classify(rgba, table, out)
    return out


def classify_plain(rgba: Rgba, table: NDArray[np.uint8], out: Plane) -> None:
    """:func:`classify` in plain NumPy."""
    five = (rgba[..., :3] >> 3).astype(np.int64)
    index = table[five[..., 0] << 10 | five[..., 1] << 5 | five[..., 2]]
    wide = rgba.astype(np.int32)
    rim = np.zeros(rgba.shape[:2], np.bool_)
    for axis in (0, 1):
        before, after = _shifted(wide, axis, 1), _shifted(wide, axis, -1)
        first, second = wide - before, after - wide
        between = (first * second >= 0).all(axis=2)
        rim |= between & (np.abs(first).max(axis=2) >= _RIM_STEP) & (np.abs(second).max(axis=2) >= _RIM_STEP)
    out[...] = np.where(rim, RIM, index)
    out[rgba[..., 3] == 0] = NO_COLOUR


@fast.instead_of(classify_plain)
def _classify(kernels: Any, rgba: Rgba, table: NDArray[np.uint8], out: Plane) -> None:
    codes = np.ascontiguousarray(rgba).view(np.uint32)[..., 0]
    fast.by_rows(
        rgba.shape[0], lambda rows: kernels.classify(rgba, codes, table, _RIM_STEP, rows.start, rows.stop, out)
    )


def _shifted(wide: NDArray[np.int32], axis: int, by: int) -> NDArray[np.int32]:
    """The picture moved by one pixel, its border repeated."""
    moved = np.roll(wide, by, axis)
    edge = [slice(None)] * 3
    edge[axis] = slice(0, 1) if by > 0 else slice(-1, None)
    moved[tuple(edge)] = wide[tuple(edge)]
    return moved


def main_colours(rgba: Rgba, most: int = 8) -> list[tuple[Rgb, float]]:
    """The palette colours that cover most of the ink, largest first, with their share of it.

    >>> art = np.full((20, 20, 4), 255, np.uint8)
    >>> art[:5, :, :3] = (200, 30, 40)
    >>> [(colour, round(share, 2)) for colour, share in main_colours(art, 2)]
    [((255, 255, 255), 0.75), ((200, 30, 40), 0.25)]
    """
    palette = find_palette(rgba)
    if not palette:
        return []
    step = max(1, int((rgba.shape[0] * rgba.shape[1] / _SAMPLES) ** 0.5))
    part = np.ascontiguousarray(rgba[::step, ::step])
    five = (part[part[..., 3] >= 128][:, :3] >> 3).astype(np.int64)
    index = _palette_table(palette)[five[:, 0] << 10 | five[:, 1] << 5 | five[:, 2]]
    share = np.bincount(index, minlength=len(palette)) / max(1, index.size)
    order = np.argsort(-share, kind="stable")[:most]
    return [(palette[number], float(share[number])) for number in order if share[number] > 0]
