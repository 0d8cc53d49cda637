"""Per pixel of the print: unmixing, choke, white, counting, and what is seen."""

import numpy as np
from numba import njit, types

from swaddon.core.fast.kernels.signatures import (
    OPTIONS,
    f32,
    f64,
    flag,
    i64,
    image,
    image_out,
    plane,
    plane_out,
    reads,
    u8,
    u16,
    u32,
    writes,
)


@njit(types.void(image, plane, reads(i64, 1), i64, i64, image_out), **OPTIONS)
def unmix(rgba, zone, colour, first, stop, out):
    """Colour-to-alpha of the zone's pixels in rows ``first`` to ``stop``; ``out`` starts as a copy of ``rgba``."""
    height, width = zone.shape
    for y in range(first, stop):
        for x in range(width):
            kind = zone[y, x]
            if kind == 0:
                continue
            if kind == 255:
                out[y, x, 3] = 0
                continue
            least, own = 0.0, 0
            for c in range(3):
                value, ground = int(rgba[y, x, c]), colour[c]
                gap = abs(value - ground)
                own = max(own, gap)
                room = 255 - ground if value > ground else ground
                if gap > 0:
                    least = max(least, gap / room)
            share = least
            if kind == 1:
                peak = own
                for v in range(max(0, y - 2), min(height, y + 3)):
                    for u in range(max(0, x - 2), min(width, x + 3)):
                        if rgba[v, u, 3] > 0:
                            for c in range(3):
                                peak = max(peak, abs(int(rgba[v, u, c]) - colour[c]))
                share = max(least, own / peak) if peak > 0 else 0.0
            if share <= 0.0:
                out[y, x, 3] = 0
            elif share < 1.0:
                for c in range(3):
                    ink = colour[c] + (int(rgba[y, x, c]) - colour[c]) / share
                    out[y, x, c] = np.uint8(min(max(ink, 0.0), 255.0) + 0.5)
                out[y, x, 3] = np.uint8(rgba[y, x, 3] * share + 0.5)


@njit(types.void(plane, plane, reads(i64, 1), reads(f32, 1), i64, f64, i64, i64, plane_out), **OPTIONS)
def pull_in(padded, edge, offsets, away, reach, choke_px, first, stop, out):
    """Coverage of the figure after the choke, for rows ``first`` to ``stop``.

    ``padded`` is the figure with ``reach`` zeros round it; ``edge`` the least figure value within reach of each
    pixel; ``offsets`` and ``away`` are the neighbours' places in the flattened figure and distances, nearest first.
    """
    flat = padded.ravel()
    half, scale = np.float32(0.5), np.float32(1 / 255)
    beyond = np.float32(choke_px + 0.5)
    for y in range(first, stop):
        start = (y + reach) * padded.shape[1] + reach
        for x in range(out.shape[1]):
            if edge[y, x] == 255:
                out[y, x] = 255
                continue
            own = flat[start + x]
            if own == 0:
                out[y, x] = 0
                continue
            depth = np.float32(own) * scale - half if own < 255 else beyond
            for index in range(offsets.size):
                if away[index] - half >= depth:
                    break
                other = flat[start + x + offsets[index]]
                if other < 255:
                    depth = min(depth, away[index] + np.float32(other) * scale - half)
            out[y, x] = np.uint8(min(max(depth - np.float32(choke_px) + half, 0.0), 1.0) * 255 + 0.5)


@njit(types.void(plane, plane, reads(u16, 1), reads(u16, 2), plane_out), **OPTIONS)
def soften(alpha, soft, table, noise, out):
    """Alpha by the table where it is soft, dithered to 8 bits."""
    for y in range(alpha.shape[0]):
        for x in range(alpha.shape[1]):
            a = alpha[y, x]
            out[y, x] = (np.int64(table[a]) + np.int64(noise[y, x])) >> 8 if soft[y, x] else a


@njit(
    types.void(
        image, image, plane, plane, plane, plane, flag, reads(u8, 1), f64, i64, flag, plane_out,
    ),
    **OPTIONS,
)  # fmt: skip
def lay(rgba, cmyk, coverage, white_alpha, ink_alpha, need, by_need, ramp, limit, design, under, out):
    """White per pixel; see ``underbase.lay_plain``."""
    for y in range(rgba.shape[0]):
        for x in range(rgba.shape[1]):
            a = int(white_alpha[y, x])
            if a == 0:
                out[y, x] = 0
                continue
            own = int(ramp[min(rgba[y, x, 0], rgba[y, x, 1], rgba[y, x, 2])])
            white = own * a * design
            if under and own < 255 and coverage[y, x] > 0:
                amount = (255 - own) * min(int(coverage[y, x]), a)
                if by_need:
                    white += (amount * int(need[y, x]) + 127) // 255
                else:
                    total = int(cmyk[y, x, 0]) + int(cmyk[y, x, 1]) + int(cmyk[y, x, 2]) + int(cmyk[y, x, 3])
                    if total * 100 <= limit * ink_alpha[y, x] + 200:
                        white += amount
            out[y, x] = (white + 127) // 255


@njit(types.void(image, i64, i64, image_out), **OPTIONS)
def halve(rgba, first, stop, out):
    """Alpha-weighted mean of each 2 × 2 block, for rows ``first`` to ``stop`` of ``out``."""
    for y in range(first, stop):
        for x in range(out.shape[1]):
            r = g = b = a = 0
            for dy in range(2):
                for dx in range(2):
                    share = int(rgba[2 * y + dy, 2 * x + dx, 3])
                    r += share * rgba[2 * y + dy, 2 * x + dx, 0]
                    g += share * rgba[2 * y + dy, 2 * x + dx, 1]
                    b += share * rgba[2 * y + dy, 2 * x + dx, 2]
                    a += share
            half = a // 2
            divisor = max(a, 1)
            out[y, x, 0] = (r + half) // divisor
            out[y, x, 1] = (g + half) // divisor
            out[y, x, 2] = (b + half) // divisor
            out[y, x, 3] = (a + 2) // 4


@njit(types.void(image, plane, writes(i64, 2)), **OPTIONS)
def count(cmyk, white, out):
    """Per row: sums of C, M, Y, K and white; printed and white pixels; first and past-last of colour and white."""
    width = white.shape[1]
    for y in range(white.shape[0]):
        c = m = ye = k = w = either = whites = 0
        colour_first, colour_last, white_first, white_last = width, 0, width, 0
        for x in range(width):
            ink = int(cmyk[y, x, 0]) | int(cmyk[y, x, 1]) | int(cmyk[y, x, 2]) | int(cmyk[y, x, 3])
            white_here = int(white[y, x])
            if ink | white_here == 0:
                continue
            either += 1
            if ink:
                c += cmyk[y, x, 0]
                m += cmyk[y, x, 1]
                ye += cmyk[y, x, 2]
                k += cmyk[y, x, 3]
                colour_first = min(colour_first, x)
                colour_last = x + 1
            if white_here:
                w += white_here
                whites += 1
                white_first = min(white_first, x)
                white_last = x + 1
        out[y, 0], out[y, 1], out[y, 2], out[y, 3], out[y, 4] = c, m, ye, k, w
        out[y, 5], out[y, 6] = either, whites
        out[y, 7], out[y, 8], out[y, 9], out[y, 10] = colour_first, colour_last, white_first, white_last


@njit(
    types.void(
        image, reads(u16, 2), plane, plane, plane, reads(f32, 1), reads(f32, 2), f64, f32, flag, reads(f32, 1),
        reads(f32, 2), reads(u8, 1), image_out,
    ),
    **OPTIONS,
)  # fmt: skip
def seen(
    cmyk, white, cloth, share, through, cloth_bands, roots, power, scatter, white_under, gloss, to_srgb, encode, out
):  # fmt: skip
    """sRGB of cloth, white and inks; see ``optics.seen_plain``."""
    weights = np.empty(16, np.float32)
    one = np.float32(1)
    filtered = np.ones(3, np.float32)
    surface = np.zeros(3, np.float32)
    ground = np.empty(3, np.float32)
    last = -1
    top = np.float32(encode.size - 1)
    for y in range(cmyk.shape[0]):
        for x in range(cmyk.shape[1]):
            part = np.int64(share[y, x])
            whole = np.float32(255) / np.float32(max(part, 1))
            code = (
                (part << 32)
                | (np.int64(cmyk[y, x, 0]) << 24)
                | (np.int64(cmyk[y, x, 1]) << 16)
                | (np.int64(cmyk[y, x, 2]) << 8)
                | np.int64(cmyk[y, x, 3])
            )
            if code != last:
                last = code
                weights[0] = one
                for bit in range(4):
                    covered = min(np.float32(cmyk[y, x, bit]) * whole / np.float32(255), one)
                    size = 1 << bit
                    for index in range(size):
                        weights[size + index] = weights[index] * covered
                        weights[index] *= one - covered
                for band in range(3):
                    total = np.float32(0)
                    for index in range(16):
                        total += weights[index] * roots[index, band]
                    filtered[band] = total * total if power == 2.0 else total**power
                    surface[band] = gloss[band] * (one - filtered[band])
            lift = np.float32(cloth[y, x]) / np.float32(128)
            hiding = min(np.float32(white[y, x]) * whole / np.float32(32640), one + one) * scatter
            printed = np.float32(part) / np.float32(255)
            bled = np.float32(through[y, x]) / np.float32(255)
            for band in range(3):
                bare = min(cloth_bands[band] * lift, one)
                base = bare
                if not white_under:
                    base = base * filtered[band] + surface[band] * (one - base)
                spread = (one - base) * hiding
                base = (base + spread) / (one + spread)
                if white_under:
                    base = base * (bled + (one - bled) * filtered[band]) + surface[band] * (one - base)
                ground[band] = printed * base + (one - printed) * bare
            for c in range(3):
                light = to_srgb[c, 0] * ground[0] + to_srgb[c, 1] * ground[1] + to_srgb[c, 2] * ground[2]
                out[y, x, c] = encode[int(min(max(light, np.float32(0)), one) * top + np.float32(0.5))]


@njit(types.void(reads(u32, 2), plane, plane_out), **OPTIONS)
def inked(words, white, out):
    """255 where any ink or white is; ``words`` are the four inks of a pixel as one."""
    for y in range(white.shape[0]):
        for x in range(white.shape[1]):
            out[y, x] = 255 if words[y, x] != 0 or white[y, x] != 0 else 0
