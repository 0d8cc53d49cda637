"""Edges: how deep pixels lie under one, and what a miss of white and colour bares along it."""

import math

import numpy as np
from numba import njit, types

from swaddon.core.fast.kernels.signatures import OPTIONS, f32, f64, i32, i64, reads, writes


@njit(
    types.void(
        reads(f32, 2), reads(f32, 2), reads(f32, 2), reads(f32, 2), reads(i64, 1), reads(i64, 1), reads(f64, 2), i64,
        f64, writes(f32, 1),
    ),
    **OPTIONS,
)  # fmt: skip
def to_line(share, own, down, across, ys, xs, taps, sign, most, out):
    """Signed depth of some pixels by the nearest pixel that has an edge; see ``bared.to_line_plain``."""
    for index in range(ys.size):
        least, depth = math.inf, sign * most
        for tap in range(taps.shape[0]):
            away = taps[tap, 2]
            if away - 1 >= least:  # an edge lies less than a pixel from its own centre
                break
            y, x = ys[index] + int(taps[tap, 0]), xs[index] + int(taps[tap, 1])
            if share[y, x] >= 1 if sign > 0 else share[y, x] <= 0:
                continue
            distance = away + sign * f64(own[y, x])
            if distance < least:
                least = distance
                depth = -(taps[tap, 0] * f64(down[y, x]) + taps[tap, 1] * f64(across[y, x])) + f64(own[y, x])
        out[index] = sign * min(max(sign * depth, 0.0), most)


@njit(
    types.void(
        reads(f32, 2), reads(i64, 1), reads(i32, 1), reads(f64, 1), reads(f64, 2), f32, f32, i64, writes(f64, 1)
    ),
    **OPTIONS,
)
def bare(depth, near, covered, weights, misses, bins, lift, shades, count):
    """Count pixels by the depth of white beside its place, and by their coverage; see ``bared.bare_plain``."""
    height, width = depth.shape
    most = count.size // shades - 1
    for miss in range(misses.shape[0]):
        weight, dx, dy = misses[miss, 0], misses[miss, 1], misses[miss, 2]
        deeper = np.float32(misses[miss, 3])
        left, top = math.floor(-dx), math.floor(-dy)
        u, v = np.float32(-dx - left), np.float32(-dy - top)
        one = np.float32(1)
        w0, w1, w2, w3 = (one - v) * (one - u), (one - v) * u, v * (one - u), v * u
        for index in range(near.size):
            y, x = near[index] // width + top, near[index] % width + left
            y0, y1 = min(max(y, 0), height - 1), min(max(y + 1, 0), height - 1)
            x0, x1 = min(max(x, 0), width - 1), min(max(x + 1, 0), width - 1)
            value = depth[y0, x0] * w0 + depth[y0, x1] * w1 + depth[y1, x0] * w2 + depth[y1, x1] * w3
            at = min(max(int((value + deeper) * bins + lift), 0), most)
            count[at * shades + covered[index]] += weight * weights[index]
