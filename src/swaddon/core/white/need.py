"""White by need: the least white that still holds the colour.

For a colour t of the artwork let E(w) be the ΔE00 between t and what is seen with white w under its inks on this
garment. The white it needs is the smallest w with E(w) ≤ min E + the allowed shift; that holds for the garment's own
colour as for any other, since ink without white darkens the cloth a second time. E is computed on the nodes of the
separation's RGB grid, once per garment and inks; each allowed shift is then a look-up in it.
"""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from swaddon.core import fast
from swaddon.core.artwork.raster import Plane, Rgba
from swaddon.core.colour.spaces import (
    RATIO_FROM_BANDS,
    Rgb,
    bands_from_srgb8,
    delta_e_2000,
    lab_from_bands,
    lab_from_srgb8,
    xyz_from_lab,
)
from swaddon.core.inks.inverse import target_lab
from swaddon.core.inks.separation import NODES, Table, covered, gloss, interpolate, over_ground, separate, transmittance
from swaddon.core.inks.settings import Recipe
from swaddon.core.press.profile import Separation, WhiteInk
from swaddon.core.proof.optics import Appearance, bleed, white_over

AMOUNTS = np.concatenate([np.linspace(0, 0.3, 13), np.linspace(0.35, 1.0, 14)])
"""Amounts of white that are tried: finer where a little white changes much."""

Errors = NDArray[np.float32]
NeedTable = NDArray[np.float32]


@dataclass(frozen=True, eq=False)
class NodeErrors:
    """Errors of the nodes of the RGB grid.

    Attributes
    ----------
    errors
        ``float32 (NODES³, len(AMOUNTS))``: ΔE00 for every amount of white.
    best
        ``float32 (NODES³,)``: least error that any amount of white gives.
    """

    errors: Errors
    best: NDArray[np.float32]


_GRID_DE = 6.0
"""ΔE00 within which a node of the table lies near any colour."""


def nodes() -> NDArray[np.float64]:
    """sRGB of the nodes, ``float64 (NODES³, 3)``, 0..255, the last component running fastest."""
    axis = np.linspace(0, 255, NODES)
    return np.stack(np.meshgrid(axis, axis, axis, indexing="ij"), axis=-1).reshape(-1, 3)


def node_errors(separation: Separation, table: Table, look: Appearance) -> NodeErrors:
    """Solve E(w) for every node of the RGB grid on a garment; some tenths of a second."""
    rgb = nodes()
    out = np.empty((len(rgb), len(AMOUNTS)), np.float32)
    inks = table.reshape(-1, 4) / 255

    def solve(part: slice) -> None:
        out[part] = errors(target_lab(rgb[part], separation), inks[part], look)

    fast.by_rows(len(rgb), solve)
    return NodeErrors(out, out.min(axis=1))


def errors_plain(target: NDArray[np.floating], inks: NDArray[np.floating], look: Appearance) -> Errors:
    """:func:`errors` in plain NumPy."""
    printed = covered(np.asarray(inks, np.float64), look.tone_curves)
    filtered = transmittance(printed, look.primaries, look.yule_nielsen_n)[:, None, :]
    ground = np.asarray(bands_from_srgb8(look.garment), np.float64)
    scatter, darkest = (AMOUNTS * look.scatter)[None, :, None], look.primaries[-1]
    if look.white_under:
        through = bleed(AMOUNTS, look)[None, :, None]
        seen = over_ground(filtered, white_over(ground, scatter), darkest, through)
    else:
        seen = white_over(over_ground(filtered, ground, darkest), scatter)
    return np.asarray(delta_e_2000(lab_from_bands(seen), target[:, None, :]), np.float32)


@fast.instead_of(errors_plain)
def errors(kernels: Any, target: NDArray[np.floating], inks: NDArray[np.floating], look: Appearance) -> Errors:
    """E(w) of colours: CIELAB aims ``(n, 3)`` and inks 0..1 ``(n, 4)``; ``float32 (n, len(AMOUNTS))``."""
    printed = covered(np.asarray(inks, np.float64), look.tone_curves)
    filtered = transmittance(printed, look.primaries, look.yule_nielsen_n)
    ground = np.asarray(bands_from_srgb8(look.garment), np.float64)
    out = np.empty((len(filtered), len(AMOUNTS)), np.float32)
    kernels.white_errors(
        np.ascontiguousarray(target, np.float64), filtered, ground, gloss(look.primaries[-1]), AMOUNTS * look.scatter,
        bleed(AMOUNTS, look), look.white_under, RATIO_FROM_BANDS, out,
    )  # fmt: skip
    return out


def least_white(error: Errors, allowed_shift: float, best: NDArray[np.float32] | None = None) -> NDArray[np.float32]:
    """The smallest amount, 0..1, whose error is within ``allowed_shift`` of the least; between amounts, linear.

    Where half the white is within the shift that is allowed, half is enough:

    >>> error = (10 * (1 - AMOUNTS)).astype(np.float32)[None]
    >>> round(float(least_white(error, 5.0)[0]), 3)
    0.5
    """
    most = (error.min(axis=1) if best is None else best) + np.float32(allowed_shift)
    first = (error <= most[:, None]).argmax(axis=1)
    before = np.maximum(first - 1, 0)
    rows = np.arange(len(error))
    high, low = error[rows, before], error[rows, first]
    part = np.clip((high - most) / np.maximum(high - low, 1e-6), 0, 1)
    amount = AMOUNTS[before] + part * (AMOUNTS[first] - AMOUNTS[before])
    return np.where(first == 0, 0.0, amount).astype(np.float32)


def need_table(solved: NodeErrors, allowed_shift: float, least: float = 0.0, most: float = 1.0) -> NeedTable:
    """White by RGB, ``float32 (NODES, NODES, NODES)``, 0..1: the rule at every node, kept within limits.

    Nothing is smoothed: the rule leaves every colour the same error, and between the nodes white runs straight, so no
    ramp shows a band. Smoothing towards less white went 0.15 to 0.4 ΔE00 past the rule; towards more, it laid up to a
    seventh of white that no colour needs.
    """
    cube = least_white(solved.errors, allowed_shift, solved.best).reshape(NODES, NODES, NODES)
    return np.clip(cube, least, most).astype(np.float32)


def highlight_table(ink: WhiteInk) -> NeedTable:
    """White by RGB for a plan of highlights only: the lightest tints, rising with their smallest component."""
    lowest = nodes().min(axis=1) / 255
    rise = (lowest - ink.highlight_from) / max(ink.design_from - ink.highlight_from, 1e-6)
    return np.clip(rise, 0, 1).reshape(NODES, NODES, NODES).astype(np.float32)


def tone_table(look: Appearance) -> NeedTable:
    """White by RGB that alone, without any ink, gives the cloth the artwork's luminance, where it can be given.

    Kubelka 1948 solved for the amount: S·X = (R − Rg) / ((1 − Rg) (1 − R)).
    """
    ground = float(xyz_from_lab(lab_from_srgb8(look.garment))[1])
    aim = np.minimum(xyz_from_lab(lab_from_srgb8(nodes()))[:, 1], 0.999)
    amount = (aim - ground) / (max(1 - ground, 1e-3) * (1 - aim)) / max(look.scatter, 1e-9)
    return np.clip(amount, 0, 1).reshape(NODES, NODES, NODES).astype(np.float32)


def with_fixed(table: NeedTable, fixed: Iterable[tuple[Rgb, float, float]]) -> NeedTable:
    """A table in which some colours (sRGB, white 0..1, tolerance in ΔE00) get a set white; later ones win.

    It holds within the tolerance and gives way to the table's own up to twice of it, so that no ramp shows bands.

    >>> table = with_fixed(np.zeros((NODES, NODES, NODES), np.float32), [((255, 0, 0), 0.5, 6.0)])
    >>> need_of(np.array([[255, 0, 0], [0, 0, 255]], np.uint8), table).round(2).tolist()
    [0.5, 0.0]
    """
    chosen = list(fixed)
    if not chosen:
        return table
    out, lab = table.reshape(-1).astype(np.float64), lab_from_srgb8(nodes())
    for colour, amount, tolerance in chosen:
        apart = delta_e_2000(lab, lab_from_srgb8(colour))
        weight = np.clip(2 - apart / max(tolerance, 1e-3), 0, 1)
        out += weight * (amount - out)
    return out.reshape(table.shape).astype(np.float32)


def white_of_recipes(
    recipes: Sequence[Recipe], separation: Separation, look: Appearance, allowed_shift: float
) -> list[tuple[Rgb, float, float]]:
    """White that the inks of exact recipes need, as fixed white of their colours for :func:`with_fixed`."""
    if not recipes:
        return []
    aims = target_lab(np.array([item.colour for item in recipes], np.float64), separation)
    amounts = least_white(errors(aims, np.array([item.inks for item in recipes]), look), allowed_shift)
    found = zip(recipes, amounts, strict=True)
    return [(item.colour, float(amount), max(item.tolerance_de, _GRID_DE)) for item, amount in found]


def need_plane(art: Rgba, table: NeedTable) -> Plane:
    """White that each pixel's colour needs, ``uint8 (H, W)``, 255 = full, whatever its alpha."""
    four = np.repeat(table[..., None] * np.float32(255), 4, axis=3)
    opaque = art.copy()
    cv2.insertChannel(np.where(art[..., 3] > 0, np.uint8(255), np.uint8(0)), opaque, 3)
    return np.asarray(cv2.extractChannel(separate(opaque, np.ascontiguousarray(four, np.float32)), 0), np.uint8)


def need_of(rgb: NDArray[np.uint8], table: NeedTable) -> NDArray[np.float64]:
    """White that some colours, sRGB ``(n, 3)``, get by the table, 0..1.

    >>> table = np.full((NODES, NODES, NODES), 0.25, np.float32)
    >>> need_of(np.array([[200, 30, 40]], np.uint8), table).tolist()
    [0.25]
    """
    return np.asarray(interpolate(np.repeat(table[..., None], 4, axis=3), rgb)[..., 0], np.float64)


SHIFTS = (0.0, 0.5, 1.0, 1.5, 2.0, 3.0, 4.0, 5.0, 6.0, 8.0, 10.0, 12.0, 16.0)
"""Allowed shifts, ΔE00, at which the curve is worked out."""


def shift_curve(solved: NodeErrors, art: Rgba, least: float, most: float) -> tuple[tuple[float, float], ...]:
    """Allowed shift against white as a share of solid, over the artwork's own colours."""
    step = max(1, int((art.shape[0] * art.shape[1] / 300_000) ** 0.5))
    part = np.ascontiguousarray(art[::step, ::step])
    inked = part[part[..., 3] >= 128][:, :3]
    if not len(inked):
        return ()
    node = np.rint(inked * ((NODES - 1) / 255)).astype(np.int64)
    weight = np.bincount((node[:, 0] * NODES + node[:, 1]) * NODES + node[:, 2], minlength=NODES**3) / len(inked)
    used = np.flatnonzero(weight)
    return tuple(
        (shift, float(need_table(solved, shift, least, most).reshape(-1)[used] @ weight[used])) for shift in SHIFTS
    )
