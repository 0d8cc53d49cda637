"""Thin strokes: the white that the guard keeps in them."""

import math

import numpy as np
from numba import njit, types

from swaddon.core.fast.kernels.signatures import OPTIONS, f64, i64, plane, reads, u8, writes

_STEP, _ENDS, _FALLEN, _RISES = 0.5, 0.1, 0.5, 0.01


@njit(**OPTIONS)
def _walk(padded, y0, x0, uy, ux, most):
    """Coverage integrated from a pixel in a direction until the stroke ends; see ``guard._walk``."""
    total, last, at = 0.0, 1.0, _STEP / 2
    fallen = False
    while at < most:
        y, x = y0 + uy * at, x0 + ux * at
        top, left = math.floor(y), math.floor(x)
        v, u = y - top, x - left
        upper = padded[top, left] * (1 - u) + padded[top, left + 1] * u
        lower = padded[top + 1, left] * (1 - u) + padded[top + 1, left + 1] * u
        value = (upper * (1 - v) + lower * v) / 255
        if value < _FALLEN:
            fallen = True
        if value < _ENDS or (fallen and value > last + _RISES):
            break
        total += value * _STEP
        last = value
        at += _STEP
    return total


@njit(
    types.void(
        plane, reads(i64, 1), reads(i64, 1), reads(i64, 1), reads(i64, 1), reads(f64, 1), f64, f64, f64, writes(u8, 1)
    ),
    **OPTIONS,
)
def kept(padded, ys, xs, dys, dxs, away, choke, half_least, most, out):
    """White kept at some pixels; see ``guard.kept_plain``."""
    cos, sin = math.cos(0.17), math.sin(0.17)
    for index in range(ys.size):
        y, x = ys[index], xs[index]
        own = padded[y, x] / 255
        depth = own - 0.5 if own < 1 else choke + 0.5
        least, uy, ux = math.inf, 1.0, 0.0
        for tap in range(dys.size):
            if away[tap] - 0.5 >= least:
                break
            other = padded[y + dys[tap], x + dxs[tap]]
            if other < 255:
                edge = away[tap] + other / 255 - 0.5
                if edge < least:
                    least, uy, ux = edge, dys[tap] / away[tap], dxs[tap] / away[tap]
        depth = min(depth, least)
        width = math.inf
        for turn in range(3):
            s = (turn - 1) * sin
            c = cos if turn != 1 else 1.0
            ty, tx = uy * c + ux * s, ux * c - uy * s
            chord = _walk(padded, y, x, ty, tx, most) + _walk(padded, y, x, -ty, -tx, most)
            width = min(width, chord)
        width = min(width, _walk(padded, y, x, ux, -uy, most) + _walk(padded, y, x, -ux, uy, most))
        pull = min(max(width / 2 - half_least, 0.0), choke)
        out[index] = np.uint8(min(max(depth - pull + 0.5, 0.0), 1.0) * 255 + 0.5)
