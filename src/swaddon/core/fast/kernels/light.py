"""The light that comes back from a print of the simulated press."""

import math

import numpy as np
from numba import njit, types

from swaddon.core.fast.kernels.signatures import OPTIONS, f32, f64, flag, i64, reads, u8, u16, writes


@njit(types.void(reads(i64, 1), reads(f64, 2), f64, writes(f32, 1)), **OPTIONS)
def _filter(inks, roots, n, out):
    """What a mixture lets through, by Demichel's shares of the overprints; ``inks`` 0..255."""
    for band in range(3):
        total = 0.0
        for overprint in range(16):
            weight = 1.0
            for ink in range(4):
                covered = inks[ink] / 255
                weight *= covered if overprint >> ink & 1 else 1 - covered
            total += weight * roots[overprint, band]
        out[band] = np.float32(total**n)


@njit(
    types.void(
        reads(u8, 3), i64, reads(i64, 2), reads(f32, 1), reads(f32, 1), f32, reads(f64, 2), f64, f32, flag,
        reads(f32, 1), f64, f32, reads(f32, 2), i64, f32, writes(u16, 3),
    ),
    **OPTIONS,
)  # fmt: skip
def lit(
    planes, top, layers, hits, medium, scatter, roots, n, bleed, under, surface, pitch, depth, mottle, cell, full, out
):
    """Light of a band of rows; see ``devices.light.lit_plain``.

    ``layers`` tells by layer and slot what a slot prints there: -1 nothing, 0 to 3 an ink, 4 white.
    """
    one = np.float32(1)
    inks, mixed = np.zeros(4, np.int64), np.full(4, -1, np.int64)
    light, filtered, bare = np.empty(3, np.float32), np.empty(3, np.float32), np.empty(3, np.uint16)
    for band in range(3):
        bare[band] = u16(min(max(medium[band] * full + np.float32(0.5), 0), 65535))
    for y in range(planes.shape[1]):
        for x in range(planes.shape[2]):
            some = 0
            for slot in range(planes.shape[0]):
                some |= planes[slot, y, x]
            if some == 0:
                out[y, x] = bare
                continue
            light[:] = medium
            white = np.float32(0)
            for layer in range(layers.shape[0]):
                inks[:] = 0
                amount, colour = np.float32(0), 0
                for slot in range(planes.shape[0]):
                    holds, value = layers[layer, slot], planes[slot, y, x]
                    if holds == 4:
                        amount += np.float32(value) * hits[slot]
                    elif holds >= 0:
                        inks[holds] = min(inks[holds] + value, 255)
                        colour |= value
                if amount > 0:
                    for band in range(3):
                        spread = (one - light[band]) * (amount * scatter)
                        light[band] = (light[band] + spread) / (one + spread)
                    white = max(white, min(amount, one))
                if colour == 0:
                    continue
                if inks[0] != mixed[0] or inks[1] != mixed[1] or inks[2] != mixed[2] or inks[3] != mixed[3]:
                    mixed[:] = inks  # the next pixel is mostly of the same mixture
                    _filter(inks, roots, n, filtered)
                turned, other = (x + y + top) * (2 * math.pi / pitch), (x - y - top) * (2 * math.pi / pitch)
                dots = np.float32(math.sin(turned * 0.7071) * math.sin(other * 0.7071))
                shade = mottle[(y + top) // cell % mottle.shape[0], x // cell % mottle.shape[1]]
                share = bleed * white if under else np.float32(0)
                for band in range(3):
                    room = max(min(filtered[band] - np.float32(0.03), one - filtered[band]), np.float32(0)) * depth
                    tint = (filtered[band] + dots * room) * shade
                    ground = light[band]
                    light[band] = ground * (share + (one - share) * tint) + surface[band] * (one - tint) * (
                        one - ground
                    )
            for band in range(3):
                out[y, x, band] = u16(min(max(light[band] * full + np.float32(0.5), 0), 65535))
