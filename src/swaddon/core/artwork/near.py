"""Pixels near a colour: ΔE00 once per distinct colour of an artwork, looked up for every pixel."""

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from swaddon.core import fast
from swaddon.core.artwork.raster import Mask, Rgba, bands
from swaddon.core.colour.spaces import XYZ_D50_FROM_SRGB, Rgb, delta_e_2000, lab_from_srgb8, linear_table

_LARGEST_S_L = 1.75
"""The lightness term of ΔE00 divides ΔL by at most this, so |ΔL| / 1.75 is never above ΔE00."""


@dataclass(frozen=True)
class Distances:
    """ΔE00 of each distinct colour of an artwork to one colour; ``codes`` are r << 16 | g << 8 | b, ascending."""

    codes: NDArray[np.int64]
    delta_e: NDArray[np.float32]


def distances(rgba: Rgba, colour: Rgb, up_to: float = 100.0) -> Distances:
    """ΔE00 (ISO/CIE 11664-6:2022) of every distinct colour in ``rgba`` (``uint8 (H, W, 4)``) to ``colour``.

    Colours whose lightness alone puts them beyond ``up_to`` are given as infinitely far.

    >>> art = np.array([[[255, 255, 255, 255], [0, 0, 0, 255], [9, 9, 9, 0]]], np.uint8)
    >>> distances(art, (255, 255, 255)).delta_e.round(1).tolist()
    [100.0, 0.0]
    """
    codes = colours_in(rgba)
    delta_e = np.empty(codes.size, np.float32)
    _fill_distances(codes, colour, up_to, delta_e)
    return Distances(codes, delta_e)


def distances_plain(codes: NDArray[np.int64], colour: Rgb, up_to: float, out: NDArray[np.float32]) -> None:
    """ΔE00 of packed colours in plain NumPy."""
    rgb = np.stack([codes >> 16, codes >> 8 & 255, codes & 255], axis=-1)
    lab, reference = lab_from_srgb8(rgb), lab_from_srgb8(colour)
    near_enough = np.abs(lab[:, 0] - reference[0]) <= up_to * _LARGEST_S_L
    out[:] = np.where(near_enough, delta_e_2000(lab, reference), np.inf)


@fast.instead_of(distances_plain)
def _fill_distances(
    kernels: Any, codes: NDArray[np.int64], colour: Rgb, up_to: float, out: NDArray[np.float32]
) -> None:
    matrix = XYZ_D50_FROM_SRGB / XYZ_D50_FROM_SRGB.sum(axis=1, keepdims=True)
    lab = np.ascontiguousarray(lab_from_srgb8(colour))
    fast.by_rows(codes.size, lambda part: kernels.distances(codes[part], linear_table(), matrix, lab, up_to, out[part]))


def colours_in_plain(rgba: Rgba) -> NDArray[np.int64]:
    """:func:`colours_in` in plain NumPy."""
    seen = np.zeros(1 << 24, np.bool_)
    for rows in bands(rgba.shape[0]):
        seen[codes_of(rgba[rows])[rgba[rows][..., 3] > 0]] = True
    return np.flatnonzero(seen)


@fast.instead_of(colours_in_plain)
def colours_in(kernels: Any, rgba: Rgba) -> NDArray[np.int64]:
    """Packed colours of the pixels that are not fully transparent, each once, ascending."""
    seen, pages = np.zeros(1 << 24, np.uint8), np.zeros(PAGES, np.uint8)
    fast.by_rows(rgba.shape[0], lambda rows: kernels.mark_colours(rgba[rows], seen, pages))
    return on_pages(seen, pages)


PAGES = 1 << 12
"""Parts of a table of all packed colours. Artwork has colours on few: only those are read, or even given memory."""


def on_pages(table: NDArray[np.integer], pages: NDArray[np.uint8]) -> NDArray[np.int64]:
    """Packed colours, ascending, that are not 0 in a table ``(2**24,)`` of which some ``pages`` are used."""
    used = np.flatnonzero(pages)
    size = table.size // PAGES
    page, at = np.divmod(np.flatnonzero(table.reshape(PAGES, size)[used] != 0), size)
    return used[page] * size + at


def near(rgba: Rgba, found: Distances, tolerance: float) -> Mask:
    """Mask (255) of the pixels that have ink and lie within ``tolerance`` ΔE00 of the colour.

    >>> art = np.array([[[250, 250, 250, 255], [0, 0, 0, 255]]], np.uint8)
    >>> near(art, distances(art, (255, 255, 255)), 8.0).tolist()
    [[255, 0]]
    """
    verdict = np.zeros(1 << 24, np.uint8)
    verdict[found.codes[found.delta_e <= tolerance]] = 1
    out = np.empty(rgba.shape[:2], np.uint8)
    kernel = fast.chosen("near", near_plain)
    fast.by_rows(rgba.shape[0], lambda rows: kernel(rgba[rows], verdict, out[rows]))
    return out


def near_plain(rgba: Rgba, verdict: NDArray[np.uint8], out: Mask) -> None:
    """:func:`near` in plain NumPy, given one verdict per packed colour."""
    for rows in bands(rgba.shape[0]):
        out[rows] = verdict[codes_of(rgba[rows])] * (rgba[rows][..., 3] > 0) * np.uint8(255)


def codes_of(rgba: Rgba) -> NDArray[np.int32]:
    wide = rgba.astype(np.int32)
    return wide[..., 0] << 16 | wide[..., 1] << 8 | wide[..., 2]
