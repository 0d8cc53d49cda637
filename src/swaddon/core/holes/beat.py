"""Beating: a screen over what is periodic in the artwork itself, such as dots that were drawn into it.

Two screens of one print never overprint, since each pixel has one; they have nothing to beat with where they only meet.
A screen does overprint the artwork's own dots and stripes.

What is seen is cloth + mask · (ink − cloth), a product, so its spectrum is the convolution of both spectra: artwork
that repeats at a frequency f under a screen whose lattice has a line at g shows f − g as well (Amidror, The Theory of
the Moiré Phenomenon, 2000; from memory). Where that is a few centimetres long, the eye sees bands.
"""

import math
from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from swaddon.core.artwork.raster import Plane, Rgba
from swaddon.core.colour.spaces import Rgb, linear_from_srgb
from swaddon.core.holes.screen import CELL, Ruled, tone16
from swaddon.core.units import MM_PER_INCH

SEEN_MM = (3.0, 60.0)
"""Bands of these periods are seen (assumed)."""

SEEN_CONTRAST = 0.03
"""Contrast of bands, of the mean light of their patch, from which they are told (assumed)."""

_PATCH = 256
"""Side of the patches whose spectra are looked at, in pixels: 22 mm at 300 ppi."""

_MOST_PATCHES = 48
_IN_ZONE = 0.9
_FLAT = 0.01
"""Artwork whose light varies less than this, 0..1, has nothing to beat with (assumed)."""

_HARMONICS = ((1, 0), (0, 1), (1, 1), (1, -1), (2, 0), (0, 2))
_LUMINANCE = np.array([0.2126, 0.7152, 0.0722])
"""Share of each band in luminance (IEC 61966-2-1)."""


@dataclass(frozen=True)
class Beat:
    """Bands where a screen overprints the artwork: their period, contrast 0..1, place, and the artwork's own ruling."""

    period_mm: float
    contrast: float
    x_px: float
    y_px: float
    art_lpi: float


@dataclass(frozen=True, eq=False)
class Patch:
    """Spectrum of a patch: amplitudes ``(n, n // 2 + 1)`` as shares of its mean light, and its middle in pixels."""

    spectrum: NDArray[np.float64]
    x_px: float
    y_px: float


def patches(art: Rgba, zones: Plane, number: int, cloth: Rgb) -> Iterator[Patch]:
    """Patches of a class of the holes whose artwork is not flat; ``art`` is ``uint8 (H, W, 4)`` on the plan's grid."""
    height, width = zones.shape
    corners = [(x, y) for y in range(0, height - _PATCH + 1, _PATCH) for x in range(0, width - _PATCH + 1, _PATCH)]
    window = np.hanning(_PATCH + 2)[1:-1]
    window = window[:, None] * window / window.sum() ** 2
    left = _MOST_PATCHES
    for x, y in corners:
        part = slice(y, y + _PATCH), slice(x, x + _PATCH)
        if (zones[part] == number).mean() < _IN_ZONE:
            continue
        ink, mean = _light(art[part], cloth)
        if ink.std() < _FLAT:
            continue
        amplitudes = np.abs(np.fft.rfft2(window * (ink - ink.mean()))) / max(mean, 0.01)
        yield Patch(amplitudes, x + _PATCH / 2, y + _PATCH / 2)
        left -= 1
        if not left:
            return


def _light(art: Rgba, cloth: Rgb) -> tuple[NDArray[np.float64], float]:
    """What the print adds to the light of the cloth, and the mean light of both."""
    ground = float(np.asarray(linear_from_srgb(np.array(cloth) / 255), np.float64) @ _LUMINANCE)
    own = np.asarray(linear_from_srgb(art[..., :3] / 255), np.float64) @ _LUMINANCE
    added = art[..., 3] / 255 * (own - ground)
    return added, float(ground + added.mean())


def beat(patch: Patch, ruled: Ruled, ppi: float) -> Beat:
    """The strongest band that a screen makes with a patch."""
    lines = _lines(ruled)
    px_per_mm = ppi / MM_PER_INCH
    fy, fx = np.fft.fftfreq(_PATCH)[:, None], np.fft.rfftfreq(_PATCH)[None, :]
    best = Beat(math.inf, 0.0, patch.x_px, patch.y_px, 0.0)
    for gx, gy, strength in lines:
        away = np.hypot(fx - gx, fy - gy) * px_per_mm
        near = np.where(away <= 1 / SEEN_MM[0], patch.spectrum, 0.0)
        row, column = np.unravel_index(int(near.argmax()), near.shape)
        contrast = 2 * strength * float(near[row, column])
        if contrast > best.contrast:
            y, x = _peak(patch.spectrum, int(row), int(column))
            apart = math.hypot(x - gx, y - gy) * px_per_mm
            best = Beat(1 / max(apart, 1e-6), contrast, patch.x_px, patch.y_px, math.hypot(x, y) * ppi)
    return best


def is_seen(found: Beat) -> bool:
    """Whether bands are seen."""
    return found.contrast >= SEEN_CONTRAST and SEEN_MM[0] <= found.period_mm <= SEEN_MM[1]


def _lines(ruled: Ruled) -> list[tuple[float, float, float]]:
    """The lattice's lines in cycles a pixel, turned to the right half plane, and how strong each is."""
    ux, uy, vx, vy = (step / 2**32 - (step >= 2**31) for step in ruled.steps)
    cell = np.abs(np.fft.fft2(ruled.threshold < tone16(ruled.share))) / CELL**2
    out = []
    for across, down in _HARMONICS:
        x, y = across * ux + down * vx, across * uy + down * vy
        sign = -1 if x < 0 else 1
        out.append((sign * x, sign * y, float(cell[down, across])))
    return out


def _peak(spectrum: NDArray[np.float64], row: int, column: int) -> tuple[float, float]:
    """Frequency of a peak, down and across in cycles a pixel, between the bins by a parabola through the logarithms."""

    def between(before: float, here: float, after: float) -> float:
        low, middle, high = (math.log(max(value, 1e-12)) for value in (before, here, after))
        bend = low - 2 * middle + high
        return 0.0 if bend >= 0 else 0.5 * (low - high) / bend

    rows, columns = spectrum.shape
    here = spectrum[row, column]
    down = between(spectrum[(row - 1) % rows, column], here, spectrum[(row + 1) % rows, column])
    across = 0.0
    if 0 < column < columns - 1:
        across = between(spectrum[row, column - 1], here, spectrum[row, column + 1])
    return (float(np.fft.fftfreq(rows)[row]) + down / rows, (column + across) / rows)
