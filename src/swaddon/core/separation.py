"""Ink separation: the Neugebauer model and its inverse as a look-up table.

Forward: reflectance per band = (Σ wᵢ · Pᵢ^(1/n))ⁿ, with Demichel weights wᵢ of the 16 overprints (Neugebauer 1937,
Demichel 1924) and the Yule-Nielsen factor n for light spread (Yule & Nielsen 1951).
Inverse: for each node of an RGB grid, black is set by grey component replacement, then C, M, Y are solved by
projected Gauss-Newton steps in CIELAB; between nodes the table is read by tetrahedral interpolation.
"""

from functools import lru_cache, partial

import numpy as np
from numpy.typing import NDArray

from swaddon.core import fast
from swaddon.core.colour import bands_from_srgb8, lab_from_bands
from swaddon.core.profile import Separation

NODES = 33
"""Nodes per edge of the inverse table."""

Table = NDArray[np.float32]
Ground = tuple[float, float, float]


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
    """
    weights = np.ones((*cmyk.shape[:-1], 16))
    for index in range(16):
        for bit in range(4):
            share = cmyk[..., bit]
            weights[..., index] *= share if index >> bit & 1 else 1 - share
    return weights


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
    """
    return (demichel_weights(cmyk) @ primaries ** (1 / n)) ** n


def gloss(darkest: np.ndarray) -> NDArray[np.float64]:
    """s / (1 − s) of the darkest print's band reflectances s, which are taken for surface reflection alone."""
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
    """
    surface = gloss(darkest) * (1 - filtered) * (1 - ground)
    return np.asarray(ground * (through + (1 - through) * filtered) + surface)


@lru_cache(maxsize=8)
def inverse_table(separation: Separation, ground: Ground | None = None) -> Table:
    """The inverse of the forward model on an sRGB grid.

    Parameters
    ----------
    ground
        Band reflectances 0..1 of cloth that the inks lie on without white: they are solved for what is seen on it, so
        that they make up for its tint as far as ink can. ``None``: on white.

    Returns
    -------
    ndarray
        ``float32 (33, 33, 33, 4)``, C M Y K coverages × 255 at sRGB values ``i / 32``. White gives no ink.
    """
    axis = np.linspace(0, 255, NODES)
    rgb = np.stack(np.meshgrid(axis, axis, axis, indexing="ij"), axis=-1).reshape(-1, 3)
    cmyk = solved(rgb, separation, ground)
    cmyk[-1] = 0.0
    table = (cmyk * 255).astype(np.float32).reshape(NODES, NODES, NODES, 4)
    table.flags.writeable = False
    return table


def solved(rgb: np.ndarray, separation: Separation, ground: Ground | None = None) -> np.ndarray:
    """Inks, ``float64 (n, 4)``, 0..1, of some colours (sRGB 0..255, ``(n, 3)``); ``ground`` as in the table."""
    target = target_lab(rgb, separation)
    solve = partial(_solve_cmy, target, separation=separation, ground=np.asarray(ground or (1.0, 1.0, 1.0)))
    first = solve(np.zeros(len(rgb)))
    grey = first.min(axis=1)
    room = max(1 - separation.black_start, 1e-6)
    black = separation.black_strength * np.clip((grey - separation.black_start) / room, 0, 1) ** 1.5
    return _within_limit(np.column_stack([solve(black), black]), separation.total_area_limit / 100)


def target_lab(rgb: np.ndarray, separation: Separation) -> np.ndarray:
    """CIELAB aims: artwork black is lifted to the darkest print (black point compensation in the bands)."""
    darkest = separation.primaries()[-1]
    return lab_from_bands(darkest + (1 - darkest) * bands_from_srgb8(rgb))


def _solve_cmy(
    target: np.ndarray, black: np.ndarray, separation: Separation, ground: np.ndarray, steps: int = 11
) -> np.ndarray:
    """C, M, Y in 0..1 that come nearest to the CIELAB target with black given; hue counts most."""
    primaries, n = separation.primaries(), separation.yule_nielsen_n
    weight = _lch_weights(target)
    cmy = np.clip(1 - (target[:, :1] / 100) * np.ones((1, 3)), 0.02, 0.98)
    damping = np.full(len(target), 1e-2)

    def residual(trial: np.ndarray) -> np.ndarray:
        filtered = transmittance(np.column_stack([trial, black]), primaries, n)
        seen = lab_from_bands(over_ground(filtered, ground, primaries[-1]))
        return np.einsum("nij,nj->ni", weight, seen - target)

    current = residual(cmy)
    for _ in range(steps):
        jacobian = np.empty((len(target), 3, 3))
        for ink in range(3):
            step = np.where(cmy[:, ink] > 0.5, -1e-3, 1e-3)
            moved = cmy.copy()
            moved[:, ink] += step
            jacobian[:, :, ink] = (residual(moved) - current) / step[:, None]
        gradient = np.einsum("nij,ni->nj", jacobian, current)
        stuck = ((cmy <= 0) & (gradient > 0)) | ((cmy >= 1) & (gradient < 0))
        jacobian[np.broadcast_to(stuck[:, None, :], jacobian.shape)] = 0.0
        normal = np.einsum("nij,nik->njk", jacobian, jacobian)
        scale = np.trace(normal, axis1=1, axis2=2) * damping + 1e-9
        normal += scale[:, None, None] * np.eye(3)
        shift = np.linalg.solve(normal, -np.where(stuck, 0.0, gradient)[..., None])[..., 0]
        trial = np.clip(cmy + shift, 0, 1)
        result = residual(trial)
        better = (result**2).sum(axis=1) < (current**2).sum(axis=1)
        cmy[better], current[better] = trial[better], result[better]
        damping = np.where(better, damping * 0.3, damping * 6)
    return cmy


def _lch_weights(target: np.ndarray) -> np.ndarray:
    """Per-row 3 × 3 matrices that turn a CIELAB error into weighted lightness, chroma and hue errors.

    Out of gamut, hue is kept before lightness before chroma; the weights are assumed.
    """
    hue = np.arctan2(target[:, 2], target[:, 1])
    chroma = np.hypot(target[:, 1], target[:, 2])
    zero, one = np.zeros_like(hue), np.ones_like(hue)
    chroma_weight = 1 / (1 + 0.015 * chroma)
    hue_weight = 1 + np.minimum(chroma, 40) / 40
    return np.stack(
        [
            np.stack([one, zero, zero], axis=-1),
            np.stack([zero, np.cos(hue) * chroma_weight, np.sin(hue) * chroma_weight], axis=-1),
            np.stack([zero, -np.sin(hue) * hue_weight, np.cos(hue) * hue_weight], axis=-1),
        ],
        axis=1,
    )


def _within_limit(cmyk: np.ndarray, limit: float) -> np.ndarray:
    """Coverages whose sum stays within ``limit`` (1 = 100 %); C, M, Y give way, black stays."""
    cmy_sum = cmyk[:, :3].sum(axis=1)
    room = np.maximum(limit - cmyk[:, 3], 0)
    factor = np.where(cmy_sum > room, room / np.maximum(cmy_sum, 1e-9), 1.0)
    limited = cmyk.copy()
    limited[:, :3] *= factor[:, None]
    return limited


def interpolate(table: Table, rgb: np.ndarray) -> NDArray[np.float32]:
    """Tetrahedral interpolation in the inverse table.

    Parameters
    ----------
    table
        From :func:`inverse_table`.
    rgb
        8-bit sRGB, shape ``(..., 3)``.

    Returns
    -------
    ndarray
        ``float32 (..., 4)``, coverages × 255.
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
        From :func:`inverse_table`.

    Returns
    -------
    ndarray
        ``uint8 (H, W, 4)``, C M Y K, 255 = full coverage.
    """
    out = np.empty_like(rgba)
    kernels = fast.compiled()
    if kernels is not None:
        fast.by_rows(rgba.shape[0], lambda rows: kernels.separate(rgba[rows], table, out[rows]))
    else:
        fast.by_rows(rgba.shape[0], lambda rows: separate_plain(rgba[rows], table, out[rows]))
    return out


def separate_plain(rgba: np.ndarray, table: Table, out: np.ndarray) -> None:
    """:func:`separate` in plain NumPy: once per distinct colour."""
    codes = rgba.view(np.uint32)[..., 0]
    colours, place = np.unique(codes, return_inverse=True)
    colour_rgba = colours.view(np.uint8).reshape(-1, 4)
    ink = interpolate(table, colour_rgba[:, :3]) * (colour_rgba[:, 3:] / np.float32(255))
    out[...] = (ink + np.float32(0.5)).astype(np.uint8)[place.reshape(codes.shape)]
