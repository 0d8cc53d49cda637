"""Screens: what stays of each pixel, and the ink given back there."""

import numpy as np
from numba import njit, types

from swaddon.core.fast.kernels.signatures import (
    OPTIONS,
    f32,
    flag,
    i64,
    image,
    image_out,
    plane,
    plane_out,
    reads,
    u16,
    u32,
    writes,
)


@njit(
    types.void(plane, plane, reads(u16, 3), reads(u32, 2), reads(u16, 1), flag, i64, i64, plane_out),
    **OPTIONS,
)
def cut(zones, tone, thresholds, steps, tones, has_fade, x0, y0, out):
    """255 where ink stays, 0 in holes; see ``screen.cut_plain``."""
    count = steps.shape[0]
    for y in range(zones.shape[0]):
        row = np.uint32(y + y0)
        for x in range(zones.shape[1]):
            zone = zones[y, x]
            if zone == 0:
                out[y, x] = 255
                continue
            is_fade = has_fade and zone == 255
            index = count - 1 if is_fade else np.int64(zone) - 1
            if index >= count or (has_fade and not is_fade and index == count - 1):
                out[y, x] = 255
                continue
            column = np.uint32(x + x0)
            ux, uy, vx, vy = steps[index, 0], steps[index, 1], steps[index, 2], steps[index, 3]
            half_u = np.uint32((np.int64(ux) + np.int64(uy)) // 2)
            half_v = np.uint32((np.int64(vx) + np.int64(vy)) // 2)
            u = np.uint32(column * ux + row * uy + half_u) >> np.uint32(24)
            v = np.uint32(column * vx + row * vy + half_v) >> np.uint32(24)
            wanted = np.int64(tone[y, x]) * 257 if is_fade else np.int64(tones[index])
            out[y, x] = 255 if np.int64(thresholds[index, v, u]) < wanted else 0


@njit(types.void(image, plane, plane, reads(f32, 1), reads(f32, 1), image_out), **OPTIONS)
def punch(cmyk, mask, zones, boost, deeper, out):
    """Inks after the holes, with the ink given back; see ``holes.punch_plain``."""
    full = np.float32(255)
    half = np.float32(0.5)
    for y in range(mask.shape[0]):
        for x in range(mask.shape[1]):
            if mask[y, x] == 0:
                for c in range(4):
                    out[y, x, c] = 0
                continue
            zone = zones[y, x]
            factor, more = boost[zone], deeper[zone]
            if factor == np.float32(1) and more == np.float32(0):
                for c in range(4):
                    out[y, x, c] = cmyk[y, x, c]
                continue
            for c in range(4):
                value = np.float32(cmyk[y, x, c]) * factor
                if c == 3 and value > np.float32(0):
                    value += more * full
                out[y, x, c] = np.uint8(min(value, full) + half)


@njit(
    types.void(
        image,
        reads(u16, 2),
        plane,
        plane,
        plane,
        flag,
        reads(f32, 1),
        reads(f32, 1),
        image_out,
        writes(u16, 2),
        plane_out,
    ),
    **OPTIONS,
)
def thin_out(cmyk, white, share, zones, tone, has_tone, shares, boosts, cmyk_out, white_out, share_out):
    """Inks, white and printed share by the mean tone of each class; see ``holes.thin_out_plain``."""
    half, full = np.float32(0.5), np.float32(255)
    for y in range(white.shape[0]):
        for x in range(white.shape[1]):
            zone = zones[y, x]
            left = np.float32(tone[y, x]) / full if has_tone and zone == 255 else shares[zone]
            for c in range(4):
                value = min(np.float32(cmyk[y, x, c]) * boosts[zone], full) * left
                cmyk_out[y, x, c] = np.uint8(value + half)
            white_out[y, x] = np.uint16(np.float32(white[y, x]) * left)
            share_out[y, x] = np.uint8(np.float32(share[y, x]) * left + half)
