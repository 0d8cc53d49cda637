"""Ink separation: the Neugebauer model, and artwork read through its inverse (``inverse.py``) as a look-up table.

Forward: reflectance per band = (Σ wᵢ · Pᵢ^(1/n))ⁿ, with Demichel weights wᵢ of the 16 overprints (Neugebauer 1937,
Demichel 1924) and the Yule-Nielsen factor n for light spread (Yule & Nielsen 1951). Between the nodes of an RGB grid
the table is read by tetrahedral interpolation.
"""

import numpy as np
from numpy.typing import NDArray

from swaddon.core import fast

NODES = 33
"""Nodes per edge of the inverse table."""

Table = NDArray[np.float32]


def demichel_weights(cmyk: np.ndarray) -> np.ndarray:
    """Area shares of the 16 overprints.

    Parameters
    ----------
    cmyk
        Coverages 0..1, shape ``(..., 4)``.

    Returns
    -------
    ndarray
        Shape ``(..., 16)``, sums to 1 (Demichel 1924).

    Half cyan beside 40 % magenta: paper, cyan, magenta and both by the product of their chances:

    >>> demichel_weights(np.array([0.5, 0.4, 0.0, 0.0]))[:4].round(3).tolist()
    [0.3, 0.3, 0.2, 0.2]
    """
    weights = np.ones((*cmyk.shape[:-1], 1))
    for bit in range(4):  # each ink parts every area in what it misses and what it covers
        share = cmyk[..., bit, None]
        weights = np.concatenate([weights * (1 - share), weights * share], axis=-1)
    return weights


ToneCurves = tuple[tuple[float, ...], ...]
"""Printed coverage of C, M, Y and K where 0 to 100 % were sent, in even steps; empty: as sent."""


def covered(cmyk: np.ndarray, curves: ToneCurves) -> np.ndarray:
    """Coverage in print of coverages that were sent, both ``(..., 4)`` and 0..1.

    >>> gain = ((0.0, 0.7, 1.0),) * 4
    >>> covered(np.array([0.5, 0.25, 1.0, 0.0]), gain).round(3).tolist()
    [0.7, 0.35, 1.0, 0.0]
    """
    if not curves:
        return cmyk
    out = np.empty(np.shape(cmyk), np.float64)
    for ink, curve in enumerate(curves):
        out[..., ink] = np.interp(cmyk[..., ink], np.linspace(0, 1, len(curve)), curve)
    return out


def transmittance(cmyk: np.ndarray, primaries: np.ndarray, n: float) -> np.ndarray:
    """Reflectance of inks on full white relative to bare white, per band.

    Parameters
    ----------
    cmyk
        Coverages 0..1, shape ``(..., 4)``.
    primaries
        Band reflectances, shape ``(16, 3)``.
    n
        Yule-Nielsen factor.

    With n = 1 (Neugebauer 1937) half a tone of black lies half way to it:

    >>> primaries = np.ones((16, 3))
    >>> primaries[8:] = 0.02
    >>> transmittance(np.array([0.0, 0.0, 0.0, 0.5]), primaries, 1.0).round(3).tolist()
    [0.51, 0.51, 0.51]
    """
    return (demichel_weights(cmyk) @ primaries ** (1 / n)) ** n


def gloss(darkest: np.ndarray) -> NDArray[np.float64]:
    """s / (1 − s) of the darkest print's band reflectances s, which are taken for surface reflection alone.

    >>> gloss(np.array([0.02, 0.5])).round(4).tolist()
    [0.0204, 1.0]
    """
    return np.asarray(darkest / (1 - darkest), np.float64)


def over_ground(
    filtered: np.ndarray, ground: np.ndarray, darkest: np.ndarray, through: np.ndarray | float = 0.0
) -> NDArray[np.float64]:
    """Band reflectances of inks over a ground that is not white: R·T + s·(1 − T) / (1 − s)·(1 − R).

    T was measured on white, with the inks' surface reflection in it; the darkest print s is hardly anything else. On
    white (R = 1) only T is left; on black cloth black ink stays at s instead of turning blacker than any print.

    Parameters
    ----------
    filtered
        T, from :func:`transmittance`.
    ground
        R, 0..1, cloth or white on it.
    darkest
        s: the print of all inks on white.
    through
        Share of light, 0..1, that passes the inks unfiltered.

    Black ink (2 %) stays 2 % on white as on black cloth:

    >>> black = np.array([0.02])
    >>> [over_ground(black, np.array([ground]), black).round(4).item() for ground in (1.0, 0.0)]
    [0.02, 0.02]
    """
    surface = gloss(darkest) * (1 - filtered) * (1 - ground)
    return np.asarray(ground * (through + (1 - through) * filtered) + surface)


def interpolate(table: Table, rgb: np.ndarray) -> NDArray[np.float32]:
    """Tetrahedral interpolation in the inverse table.

    Parameters
    ----------
    table
        From :func:`swaddon.core.inks.inverse.inverse_table`.
    rgb
        8-bit sRGB, shape ``(..., 3)``.

    Returns
    -------
    ndarray
        ``float32 (..., 4)``, coverages × 255.

    A table that is linear is met exactly between its nodes:

    >>> axis = np.linspace(0, 255, 3, dtype=np.float32)
    >>> red, green, blue = np.meshgrid(axis, axis, axis, indexing='ij')
    >>> table = np.stack([red, green, blue, 0 * red], axis=-1)
    >>> interpolate(table, np.array([10, 100, 200], np.uint8)).round(3).tolist()
    [10.0, 100.0, 200.0, 0.0]
    """
    position = rgb.astype(np.float32) * ((table.shape[0] - 1) / 255)
    low = np.minimum(position.astype(np.intp), table.shape[0] - 2)
    fraction = position - low
    order = np.argsort(-fraction, axis=-1, kind="stable")
    sorted_fraction = np.take_along_axis(fraction, order, axis=-1)
    corner = low.copy()
    weight = 1 - sorted_fraction[..., 0]
    total = weight[..., None] * table[corner[..., 0], corner[..., 1], corner[..., 2]]
    for rank in range(3):
        axis = order[..., rank]
        corner = corner + (axis[..., None] == np.arange(3))
        following = sorted_fraction[..., rank + 1] if rank < 2 else 0.0
        weight = sorted_fraction[..., rank] - following
        total += weight[..., None] * table[corner[..., 0], corner[..., 1], corner[..., 2]]
    return total


def separate(rgba: NDArray[np.uint8], table: Table) -> NDArray[np.uint8]:
    """Ink coverages of artwork: the table's answer times alpha (that of the inks, in fades).

    Parameters
    ----------
    rgba
        ``uint8 (H, W, 4)``, straight alpha.
    table
        From :func:`swaddon.core.inks.inverse.inverse_table`.

    Returns
    -------
    ndarray
        ``uint8 (H, W, 4)``, C M Y K, 255 = full coverage.
    """
    out = np.empty_like(rgba)
    kernel = fast.chosen("separate", separate_plain)
    fast.by_rows(rgba.shape[0], lambda rows: kernel(rgba[rows], table, out[rows]))
    return out


def separate_plain(rgba: np.ndarray, table: Table, out: np.ndarray) -> None:
    """:func:`separate` in plain NumPy: once per distinct colour."""
    codes = rgba.view(np.uint32)[..., 0]
    colours, place = np.unique(codes, return_inverse=True)
    colour_rgba = colours.view(np.uint8).reshape(-1, 4)
    ink = interpolate(table, colour_rgba[:, :3]) * (colour_rgba[:, 3:] / np.float32(255))
    out[...] = (ink + np.float32(0.5)).astype(np.uint8)[place.reshape(codes.shape)]
