"""The guard of thin strokes: a choke that gives way where a stroke is too thin for it.

A stroke of half-width h gets the choke min(c, h − w/2), so that white of the least width w is left in it, or the whole
stroke where it is thinner than that. The half-width is half the shortest chord through a pixel: towards its nearest
edge, and along the stroke, where that is shorter (at an end). Chords are integrals of the coverage, so they are exact
to a fraction of a pixel at every angle.
"""

import math

import numpy as np
from numpy.typing import NDArray

from swaddon.core import fast
from swaddon.core.artwork.raster import Mask, Plane, pixels
from swaddon.core.white.underbase import taps

STEP_PX = 0.5
"""Step of the chords' integrals, in pixels."""

TILTS = (-0.17, 0.0, 0.17)
"""Angles, in radians, by which a chord may lean: the nearest pixel outside tells the edge's direction only so well."""

ENDS_BELOW, FALLEN_BELOW, RISES_BY = 0.1, 0.5, 0.01
"""Coverage at which a chord ends; and below which it ends as soon as the coverage rises again: another stroke."""

Floats = NDArray[np.float64]
Indices = NDArray[np.int64]


def guarded(figure: Plane, pulled: Plane, thin: Mask, choke_px: float, least_px: float) -> Plane:
    """Coverage after the choke, with a core of white left in thin strokes.

    Parameters
    ----------
    figure, pulled
        ``uint8 (H, W)``: the figure before and after the choke.
    thin
        ``strokes.thin_strokes`` of the figure.
    choke_px, least_px
        The choke and the least width of white, in pixels.
    """
    ys, xs = pixels(thin)
    if ys.size == 0:
        return pulled
    most = 2 * choke_px + least_px + 3.0
    around = math.ceil(choke_px + least_px / 2 + 1.5)
    pad = max(around, math.ceil(most)) + 2
    padded = np.pad(figure, pad)
    near = taps(around)
    kept = np.empty(ys.size, np.uint8)
    kernel = fast.chosen("kept", kept_plain)
    fast.by_rows(
        ys.size,
        lambda part: kernel(
            padded, ys[part].astype(np.int64) + pad, xs[part].astype(np.int64) + pad, near[:, 0].astype(np.int64),
            near[:, 1].astype(np.int64), near[:, 2].copy(), choke_px, least_px / 2, most, kept[part],
        ),
    )  # fmt: skip
    out = pulled.copy()
    out[ys, xs] = np.maximum(out[ys, xs], kept)
    return out


def kept_plain(
    padded: Plane,
    ys: Indices,
    xs: Indices,
    dys: NDArray[np.int64],
    dxs: NDArray[np.int64],
    away: Floats,
    choke_px: float,
    half_least_px: float,
    most_px: float,
    out: Plane,
) -> None:
    """White kept at some pixels, ``uint8 (n,)``: the depth under the edge against each stroke's own choke."""
    own = padded[ys, xs] / 255
    depth = np.where(own < 1, own - 0.5, choke_px + 0.5)
    least, towards_y, towards_x = np.full(ys.size, np.inf), np.ones(ys.size), np.zeros(ys.size)
    for dy, dx, distance in zip(dys.tolist(), dxs.tolist(), away.tolist(), strict=True):
        other = padded[ys + dy, xs + dx] / 255
        edge = np.where(other < 1, distance + other - 0.5, np.inf)
        nearer = edge < least
        least = np.where(nearer, edge, least)
        towards_y, towards_x = np.where(nearer, dy / distance, towards_y), np.where(nearer, dx / distance, towards_x)
    depth = np.minimum(depth, least)
    width = np.full(ys.size, np.inf)
    for tilt in TILTS:
        cos, sin = math.cos(tilt), math.sin(tilt)
        uy, ux = towards_y * cos + towards_x * sin, towards_x * cos - towards_y * sin
        width = np.minimum(width, _chord(padded, ys, xs, uy, ux, most_px))
    width = np.minimum(width, _chord(padded, ys, xs, towards_x, -towards_y, most_px))
    choke = np.clip(width / 2 - half_least_px, 0, choke_px)
    out[...] = (np.clip(depth - choke + 0.5, 0, 1) * 255 + 0.5).astype(np.uint8)


def _chord(padded: Plane, ys: Indices, xs: Indices, uy: Floats, ux: Floats, most_px: float) -> Floats:
    """Coverage integrated both ways from each pixel until the stroke ends."""
    return _walk(padded, ys, xs, uy, ux, most_px) + _walk(padded, ys, xs, -uy, -ux, most_px)


def _walk(padded: Plane, ys: Indices, xs: Indices, uy: Floats, ux: Floats, most_px: float) -> Floats:
    total, alive, fallen = np.zeros(ys.size), np.ones(ys.size, np.bool_), np.zeros(ys.size, np.bool_)
    last = np.ones(ys.size)
    for at in np.arange(STEP_PX / 2, most_px, STEP_PX):
        y, x = ys + uy * at, xs + ux * at
        top, left = np.floor(y).astype(np.int64), np.floor(x).astype(np.int64)
        v, u = y - top, x - left
        upper = padded[top, left] * (1 - u) + padded[top, left + 1] * u
        lower = padded[top + 1, left] * (1 - u) + padded[top + 1, left + 1] * u
        value = (upper * (1 - v) + lower * v) / 255
        fallen |= value < FALLEN_BELOW
        alive &= (value >= ENDS_BELOW) & ~(fallen & (value > last + RISES_BY))
        if not alive.any():
            break
        total += np.where(alive, value, 0.0) * STEP_PX
        last = value
    return total
