"""The inverse of the separation: inks for a colour.

For each node of an RGB grid C, M, Y and K are solved together by Levenberg-Marquardt steps on ΔE00 (Levenberg 1944,
Marquardt 1963), within the total-area limit. Many mixtures give one colour; of these, how much of its grey black takes
over (grey component replacement) decides. That is a preference, so it never costs colour.
"""

from collections.abc import Callable
from functools import lru_cache, partial
from typing import Any

import numpy as np
from numpy.typing import NDArray

from swaddon.core import fast
from swaddon.core.colour.spaces import (
    RATIO_FROM_BANDS,
    bands_from_lab,
    bands_from_srgb8,
    delta_e_2000,
    difference_2000,
    lab_from_bands,
)
from swaddon.core.inks.separation import NODES, Table, covered, gloss, over_ground, transmittance
from swaddon.core.press.profile import Separation

Ground = tuple[float, float, float]
Floats = NDArray[np.floating]

_STEPS = 40
_SETTLED = 1e-4
"""Gain in ΔE00² of a step below which a colour counts as solved."""

_BLACK_WEIGHT = 0.4
"""ΔE00 that black off its preference by a whole coverage counts like; small, so that colour always comes first."""

_OVER_WEIGHT = 300.0
"""ΔE00 that a whole coverage above the total-area limit counts like."""

_HUE_WEIGHT = 1.08
"""How much more hue counts than lightness and chroma beyond the inks' gamut (assumed)."""

_KNEE, _OUT_OF_GAMUT = 0.3, 1.0
"""Share of the inks' reach up to which colours stay as they are when steps are kept apart, and ΔE00 from which a colour
is out of reach (assumed)."""

_REACH = (17, 49, 17)
"""Lumas, hues and saturations at which the inks' reach is looked for."""

_LUMA = np.array([0.299, 0.587, 0.114])
"""Weights of luma (ITU-R BT.601)."""

_PLANE = np.array([[0.587, -0.299, 0.0], [0.299 * 0.114, 0.587 * 0.114, -(0.299**2 + 0.587**2)]])
_PLANE /= np.linalg.norm(_PLANE, axis=1, keepdims=True)
"""Two directions at right angles to each other that keep luma."""


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


def solved(rgb: np.ndarray, separation: Separation, ground: Ground | None = None) -> Floats:
    """Inks, ``float64 (n, 4)``, 0..1, of some colours (sRGB 0..255, ``(n, 3)``); ``ground`` as in the table."""
    target = target_lab(compressed(rgb, separation) if separation.gamut == "steps" else rgb, separation)
    on = np.asarray(ground or (1.0, 1.0, 1.0))
    out = np.empty((len(rgb), 4))

    def work(part: slice) -> None:
        out[part] = _solve(target[part], separation, on)

    fast.by_rows(len(rgb), work)
    return out


def target_lab(rgb: np.ndarray, separation: Separation) -> Floats:
    """CIELAB aims: artwork black is lifted to the darkest print there is (black point compensation in the bands)."""
    lift = black_point(separation)
    return np.asarray(lab_from_bands(lift + (1 - lift) * bands_from_srgb8(rgb)))


def darkest(separation: Separation) -> Floats:
    """C, M, Y, K, 0..1, of the print nearest to no light at all within the limit."""
    return _solve(np.zeros((1, 3)), separation, np.ones(3))[0]


def compressed(rgb: np.ndarray, separation: Separation) -> Floats:
    """Colours (sRGB 0..255, ``(n, 3)``) drawn towards the grey of their luma, so that all lie within the inks' gamut.

    A colour's saturation x, as a share of the most that sRGB has at its hue and luma, becomes smaller where the inks
    reach only a share r: up to ``_KNEE`` · r it stays, beyond that it rises evenly to r, so that no two steps fall
    together.
    """
    rgb = np.asarray(rgb, np.float64)
    luma = rgb @ _LUMA
    off = rgb - luma[:, None]
    hue = np.arctan2(off @ _PLANE[1], off @ _PLANE[0])
    size = np.linalg.norm(off, axis=1)
    x = size / np.maximum(_room(luma, hue), 1e-6)
    reach = _reach_at(luma, hue, separation)
    knee = _KNEE * reach
    slope = (reach - knee) / np.maximum(1 - knee, 1e-6)
    less = np.where(x > knee, knee + (x - knee) * slope, x)
    factor = np.where(size > 1e-6, less / np.maximum(x, 1e-6), 1.0)
    return np.asarray(luma[:, None] + off * factor[:, None])


def _direction(hue: Floats) -> Floats:
    return np.cos(hue)[:, None] * _PLANE[0] + np.sin(hue)[:, None] * _PLANE[1]


def _room(luma: Floats, hue: Floats) -> Floats:
    """How far the sRGB cube reaches from the grey of a luma in the direction of a hue."""
    direction = _direction(hue)
    side = np.where(direction > 0, 255.0 - luma[:, None], luma[:, None])
    return np.asarray((side / np.maximum(np.abs(direction), 1e-9)).min(axis=1))


@lru_cache(maxsize=8)
def _reach(separation: Separation) -> Floats:
    """Share of sRGB's saturation that the inks reach, ``(lumas, hues)``."""
    luma, hue, x = np.meshgrid(
        np.linspace(0, 255, _REACH[0]), np.linspace(-np.pi, np.pi, _REACH[1]), np.linspace(0, 1, _REACH[2]),
        indexing="ij",
    )  # fmt: skip
    lumas, hues = luma.ravel(), hue.ravel()
    rgb = lumas[:, None] + _direction(hues) * (_room(lumas, hues) * x.ravel())[:, None]
    target, on = target_lab(np.clip(rgb, 0, 255), separation), np.ones(3)
    off = delta_e_2000(_seen(_solve(target, separation, on), separation, on), target).reshape(x.shape)
    outside = off > _OUT_OF_GAMUT
    first = np.where(outside.any(axis=2), outside.argmax(axis=2), _REACH[2])
    before = np.maximum(first - 1, 0)[..., None]
    low, high = (np.take_along_axis(off, np.minimum(at, _REACH[2] - 1), 2)[..., 0] for at in (before, before + 1))
    part = np.clip((_OUT_OF_GAMUT - low) / np.maximum(high - low, 1e-6), 0, 1)
    return np.asarray(np.minimum((before[..., 0] + part) / (_REACH[2] - 1), 1))


def _reach_at(luma: Floats, hue: Floats, separation: Separation) -> Floats:
    """The reach of :func:`_reach` between its nodes."""
    table = _reach(separation)
    down, across = luma / 255 * (_REACH[0] - 1), (hue + np.pi) / (2 * np.pi) * (_REACH[1] - 1)
    i, j = (np.minimum(at.astype(int), most - 2) for at, most in ((down, _REACH[0]), (across, _REACH[1])))
    u, v = down - i, across - j
    upper = table[i, j] * (1 - v) + table[i, j + 1] * v
    return np.asarray(upper * (1 - u) + (table[i + 1, j] * (1 - v) + table[i + 1, j + 1] * v) * u)


@lru_cache(maxsize=8)
def black_point(separation: Separation) -> NDArray[np.float64]:
    """Band reflectances, ``float64 (3,)``, of the darkest print: what artwork black is lifted to."""
    inks = covered(darkest(separation), separation.tone_curves)
    return np.asarray(transmittance(inks, separation.primaries(), separation.yule_nielsen_n))


def _seen(cmyk: Floats, separation: Separation, ground: Floats) -> Floats:
    primaries = separation.primaries()
    filtered = transmittance(covered(cmyk, separation.tone_curves), primaries, separation.yule_nielsen_n)
    return np.asarray(lab_from_bands(over_ground(filtered, ground, primaries[-1])))


def _preferred_black(bands: Floats, separation: Separation) -> Floats:
    """Black that the policy asks for: a share of the grey of C, M and Y as light as the colour's lightest band."""
    primaries, n = separation.primaries() ** (1 / separation.yule_nielsen_n), separation.yule_nielsen_n
    grey = (1 - bands.max(axis=1) ** (1 / n)) / max(1 - float(primaries[7].mean()), 1e-6)
    room = max(1 - separation.black_start, 1e-6)
    return np.asarray(separation.black_strength * np.clip((grey - separation.black_start) / room, 0, 1) ** 1.5)


def _start(bands: Floats, black: Floats, separation: Separation) -> Floats:
    """A first guess: each of C, M, Y from its own band, beside the black."""
    n = separation.yule_nielsen_n
    primaries = separation.primaries() ** (1 / n)
    left = np.clip(bands, 1e-4, 1) ** (1 / n) / (1 - black[:, None] * (1 - primaries[8].mean()))
    cmy = (1 - left) / (1 - np.array([primaries[1, 0], primaries[2, 1], primaries[4, 2]]))
    return np.column_stack([np.clip(cmy, 0.02, 0.98), black])


def _solve(target: Floats, separation: Separation, ground: Floats) -> Floats:
    """Inks nearest to CIELAB aims: ΔE00, the limit and black's preference as residuals, within 0..1."""
    bands = np.clip(bands_from_lab(target), 1e-4, 1)
    black = _preferred_black(bands, separation)
    most = np.array([1.0, 1.0, 1.0, 1.0 if separation.black_strength > 0 else 0.0])
    limit = separation.total_area_limit / 100
    inks = np.minimum(_start(bands, black, separation), most)
    inks *= np.minimum(1, limit / np.maximum(inks.sum(axis=1), 1e-9))[:, None]
    fit_inks(inks, target, black, most, separation, ground)
    return _within_limit(inks, limit)


def fit_inks_plain(
    inks: Floats, target: Floats, black: Floats, most: Floats, separation: Separation, ground: Floats
) -> None:
    """:func:`fit_inks` in plain NumPy, all colours at a time."""
    limit = separation.total_area_limit / 100
    damping, open_ = np.full(len(target), 1e-3), np.arange(len(target))

    def residual(trial: Floats, rows: NDArray[np.intp]) -> Floats:
        off = difference_2000(target[rows], _seen(trial, separation, ground))
        off[:, 2] *= _HUE_WEIGHT
        over = _OVER_WEIGHT * np.maximum(trial.sum(axis=1) - limit, 0)
        return np.column_stack([off, over, _BLACK_WEIGHT * (trial[:, 3] - black[rows])])

    current = residual(inks, open_)
    for _ in range(_STEPS):
        here, was = inks[open_], current[open_]
        four = partial(residual, rows=np.tile(open_, 4))
        trial = np.clip(here + _step(here, was, most, damping[open_], four), 0, most)
        result = residual(trial, open_)
        gain = (was**2).sum(axis=1) - (result**2).sum(axis=1)
        better = gain > 0
        took = open_[better]
        inks[took], current[took] = trial[better], result[better]
        damping[open_] = np.where(better, np.maximum(damping[open_] * 0.2, 1e-7), damping[open_] * 8)
        open_ = open_[~((better & (gain < _SETTLED)) | (damping[open_] > 1e4))]
        if open_.size == 0:
            break


@fast.instead_of(fit_inks_plain)
def fit_inks(
    kernels: Any, inks: Floats, target: Floats, black: Floats, most: Floats, separation: Separation, ground: Floats
) -> None:
    """Improve ``inks`` ``(n, 4)`` in place, by steps from what they are, towards CIELAB aims ``(n, 3)``.

    ``black`` is what each colour prefers of it, ``most`` the most of each ink.
    """
    n, primaries = separation.yule_nielsen_n, separation.primaries()
    curves = np.array(separation.tone_curves, np.float64).reshape(4, -1)
    weights = np.array([_HUE_WEIGHT, _OVER_WEIGHT, _BLACK_WEIGHT])
    kernels.fit_inks(
        np.ascontiguousarray(target), black, most, primaries ** (1 / n), n, curves, ground, gloss(primaries[-1]),
        RATIO_FROM_BANDS, separation.total_area_limit / 100, weights, _STEPS, _SETTLED, inks,
    )  # fmt: skip


def _step(here: Floats, was: Floats, most: Floats, damping: Floats, residual: Callable[[Floats], Floats]) -> Floats:
    """One damped Gauss-Newton step; inks at a bound that the step would cross stay.

    ``residual`` gets all rows four times over, with one ink moved in each: one call on small systems, not four.
    """
    moves = np.where(here > most / 2, -1e-4, 1e-4).T
    moved = np.tile(here, (4, 1)).reshape(4, *here.shape)
    moved[range(4), :, range(4)] += moves
    slopes = (residual(moved.reshape(-1, 4)).reshape(4, *was.shape) - was) / moves[..., None]
    jacobian = np.ascontiguousarray(slopes.transpose(1, 2, 0))
    gradient = np.einsum("nij,ni->nj", jacobian, was)
    stuck = ((here <= 0) & (gradient > 0)) | ((here >= most) & (gradient < 0))
    jacobian[np.broadcast_to(stuck[:, None, :], jacobian.shape)] = 0.0
    normal = np.einsum("nij,nik->njk", jacobian, jacobian)
    scale = np.einsum("njj->nj", normal) * damping[:, None] + 1e-6
    normal[:, range(4), range(4)] += scale
    return np.linalg.solve(normal, -np.where(stuck, 0.0, gradient)[..., None])[..., 0]


def _within_limit(cmyk: Floats, limit: float) -> Floats:
    """Coverages whose sum stays within ``limit`` (1 = 100 %): what the solver left above it comes off C, M, Y."""
    over = np.maximum(cmyk.sum(axis=1) - limit, 0)
    share = cmyk[:, :3] / np.maximum(cmyk[:, :3].sum(axis=1, keepdims=True), 1e-9)
    limited = cmyk.copy()
    limited[:, :3] -= share * over[:, None]
    return limited
