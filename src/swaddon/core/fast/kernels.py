"""Numba kernels. Each one works on a slice of rows, holds no lock, and has a plain twin that the tests hold it to.

Twins: ``separation.separate_plain``, ``knockout.distances_plain``, ``knockout.near_plain``, ``knockout.unmix_plain``,
``underbase.pull_in_plain``, ``underbase.lay_plain``, ``optics.seen_plain``, ``raster.halve_plain``,
``measure.count_plain``, ``underbase.soften_plain``.
"""

import math

import numpy as np
from numba import njit, types

_OPTIONS = {"nogil": True, "cache": True, "error_model": "numpy"}


_COS_30, _SIN_30 = math.cos(math.radians(30)), math.sin(math.radians(30))
_COS_6, _SIN_6 = math.cos(math.radians(6)), math.sin(math.radians(6))
_COS_63, _SIN_63 = math.cos(math.radians(63)), math.sin(math.radians(63))


def _reads(dtype, dimensions):
    return types.Array(dtype, dimensions, "C", readonly=True)


def _writes(dtype, dimensions):
    return types.Array(dtype, dimensions, "C")


_u8, _i64, _f32, _f64, _flag = types.uint8, types.int64, types.float32, types.float64, types.boolean
_image, _plane = _reads(_u8, 3), _reads(_u8, 2)
_image_out, _plane_out = _writes(_u8, 3), _writes(_u8, 2)


@njit(**_OPTIONS)
def _tetrahedron(table, i, j, k, fr, fg, fb, ink):
    i1, j1, k1 = i, j, k
    i2, j2, k2 = i + 1, j + 1, k + 1
    if fr >= fg:
        if fg >= fb:
            high, mid, low = fr, fg, fb
            i1, j2, k2 = i + 1, j + 1, k
        elif fr >= fb:
            high, mid, low = fr, fb, fg
            i1, j2, k2 = i + 1, j, k + 1
        else:
            high, mid, low = fb, fr, fg
            k1, i2, j2 = k + 1, i + 1, j
    elif fr >= fb:
        high, mid, low = fg, fr, fb
        j1, i2, k2 = j + 1, i + 1, k
    elif fg >= fb:
        high, mid, low = fg, fb, fr
        j1, i2, k2 = j + 1, i, k + 1
    else:
        high, mid, low = fb, fg, fr
        k1, i2, j2 = k + 1, i, j + 1
    one = np.float32(1)
    for c in range(4):
        ink[c] = (
            (one - high) * table[i, j, k, c]
            + (high - mid) * table[i1, j1, k1, c]
            + (mid - low) * table[i2, j2, k2, c]
            + low * table[i + 1, j + 1, k + 1, c]
        )


@njit(types.void(_image, _reads(_f32, 4), _image_out), **_OPTIONS)
def separate(rgba, table, out):
    """Tetrahedral look-up, remembering the last colour."""
    nodes = table.shape[0]
    step = np.float32((nodes - 1) / 255)
    ink = np.zeros(4, np.float32)
    last = -1
    for y in range(rgba.shape[0]):
        for x in range(rgba.shape[1]):
            a = rgba[y, x, 3]
            if a == 0:
                out[y, x, 0] = out[y, x, 1] = out[y, x, 2] = out[y, x, 3] = 0
                continue
            r8, g8, b8 = rgba[y, x, 0], rgba[y, x, 1], rgba[y, x, 2]
            code = (np.int64(r8) << 16) | (np.int64(g8) << 8) | np.int64(b8)
            if code != last:
                last = code
                r, g, b = np.float32(r8) * step, np.float32(g8) * step, np.float32(b8) * step
                i, j, k = min(int(r), nodes - 2), min(int(g), nodes - 2), min(int(b), nodes - 2)
                fr, fg, fb = r - i, g - j, b - k
                _tetrahedron(table, i, j, k, fr, fg, fb, ink)
            if a == 255:
                for c in range(4):
                    out[y, x, c] = np.uint8(ink[c] + np.float32(0.5))
            else:
                share = np.float32(a) / np.float32(255)
                for c in range(4):
                    out[y, x, c] = np.uint8(ink[c] * share + np.float32(0.5))


@njit(types.void(_image, _writes(_u8, 1)), **_OPTIONS)
def mark_colours(rgba, seen):
    """Set ``seen[r << 16 | g << 8 | b]`` for each colour of a pixel that is not fully transparent."""
    last = -1
    for y in range(rgba.shape[0]):
        for x in range(rgba.shape[1]):
            if rgba[y, x, 3] > 0:
                code = (np.int64(rgba[y, x, 0]) << 16) | (np.int64(rgba[y, x, 1]) << 8) | np.int64(rgba[y, x, 2])
                if code != last:
                    seen[code] = 1
                    last = code


@njit(types.void(_image, _reads(_u8, 1), _plane_out), **_OPTIONS)
def near(rgba, verdict, out):
    """255 where a pixel has ink and its colour's verdict is set, else 0."""
    for y in range(rgba.shape[0]):
        for x in range(rgba.shape[1]):
            hit = 0
            if rgba[y, x, 3] > 0:
                code = (np.int64(rgba[y, x, 0]) << 16) | (np.int64(rgba[y, x, 1]) << 8) | np.int64(rgba[y, x, 2])
                hit = 255 if verdict[code] else 0
            out[y, x] = hit


@njit(**_OPTIONS)
def _lab_f(t):
    return math.pow(t, 1 / 3) if t > 216 / 24389 else (24389 / 27 * t + 16) / 116


@njit(**_OPTIONS)
def _delta_e_2000(l1, a1, b1, l2, a2, b2, c2_raw):
    c_raw = (math.sqrt(a1 * a1 + b1 * b1) + c2_raw) / 2
    c7 = c_raw * c_raw * c_raw * c_raw * c_raw * c_raw * c_raw
    g = 0.5 * (1 - math.sqrt(c7 / (c7 + 25.0**7)))
    a1, a2 = (1 + g) * a1, (1 + g) * a2
    c1, c2 = math.sqrt(a1 * a1 + b1 * b1), math.sqrt(a2 * a2 + b2 * b2)
    h1, h2 = math.degrees(math.atan2(b1, a1)), math.degrees(math.atan2(b2, a2))
    h1 = h1 + 360 if h1 < 0 else h1
    h2 = h2 + 360 if h2 < 0 else h2
    if c1 * c2 == 0:
        dh, h_mean = 0.0, h1 + h2
    else:
        dh = h2 - h1
        if abs(dh) > 180:
            dh += -360 if dh > 0 else 360
        h_mean = (h1 + h2) / 2
        if abs(h1 - h2) > 180:
            h_mean += 180 if h1 + h2 < 360 else -180
    l_mean, c_mean = (l1 + l2) / 2, (c1 + c2) / 2
    # cos and sin of the mean hue once; its multiples by the double and triple angle formulas
    hue = math.radians(h_mean)
    c, s = math.cos(hue), math.sin(hue)
    c_2, s_2 = c * c - s * s, 2 * s * c
    c_3, s_3 = c_2 * c - s_2 * s, s_2 * c + c_2 * s
    c_4, s_4 = c_2 * c_2 - s_2 * s_2, 2 * s_2 * c_2
    t = (
        1
        - 0.17 * (c * _COS_30 + s * _SIN_30)
        + 0.24 * c_2
        + 0.32 * (c_3 * _COS_6 - s_3 * _SIN_6)
        - 0.20 * (c_4 * _COS_63 + s_4 * _SIN_63)
    )
    off = (l_mean - 50) ** 2
    dl = (l2 - l1) / (1 + 0.015 * off / math.sqrt(20 + off))
    dc = (c2 - c1) / (1 + 0.045 * c_mean)
    dhue = 2 * math.sqrt(c1 * c2) * math.sin(math.radians(dh) / 2) / (1 + 0.015 * c_mean * t)
    c7 = c_mean * c_mean * c_mean * c_mean * c_mean * c_mean * c_mean
    turned = (h_mean - 275) / 25
    r_t = 0.0
    if abs(turned) < 6:
        turn = 60 * math.exp(-turned * turned)
        r_t = -math.sin(math.radians(turn)) * 2 * math.sqrt(c7 / (c7 + 25.0**7))
    return math.sqrt(max(dl * dl + dc * dc + dhue * dhue + r_t * dc * dhue, 0.0))


@njit(
    types.void(_reads(_i64, 1), _reads(_f32, 1), _reads(_f64, 2), _reads(_f64, 1), _f64, _writes(_f32, 1)),
    **_OPTIONS,
)
def distances(codes, linear, matrix, lab2, up_to, out):
    """ΔE00 of packed sRGB colours to one CIELAB colour; ``matrix`` maps linear sRGB to XYZ over white."""
    l2, a2, b2 = lab2[0], lab2[1], lab2[2]
    c2_raw = math.hypot(a2, b2)
    for index in range(codes.size):
        code = codes[index]
        r, g, b = linear[code >> 16], linear[code >> 8 & 255], linear[code & 255]
        fy = _lab_f(matrix[1, 0] * r + matrix[1, 1] * g + matrix[1, 2] * b)
        if abs(116 * fy - 16 - l2) > up_to * 1.75:
            out[index] = np.inf
            continue
        fx = _lab_f(matrix[0, 0] * r + matrix[0, 1] * g + matrix[0, 2] * b)
        fz = _lab_f(matrix[2, 0] * r + matrix[2, 1] * g + matrix[2, 2] * b)
        out[index] = _delta_e_2000(116 * fy - 16, 500 * (fx - fy), 200 * (fy - fz), l2, a2, b2, c2_raw)


@njit(types.void(_image, _plane, _reads(_i64, 1), _i64, _i64, _image_out), **_OPTIONS)
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


@njit(types.void(_plane, _plane, _reads(_i64, 1), _reads(_f32, 1), _i64, _f64, _i64, _i64, _plane_out), **_OPTIONS)
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


@njit(types.void(_plane, _plane, _reads(types.uint16, 1), _reads(types.uint16, 2), _plane_out), **_OPTIONS)
def soften(alpha, soft, table, noise, out):
    """Alpha by the table where it is soft, dithered to 8 bits."""
    for y in range(alpha.shape[0]):
        for x in range(alpha.shape[1]):
            a = alpha[y, x]
            out[y, x] = (np.int64(table[a]) + np.int64(noise[y, x])) >> 8 if soft[y, x] else a


@njit(
    types.void(
        _image, _image, _plane, _plane, _plane, _reads(_u8, 1), _f64, _i64, _flag, _plane_out,
    ),
    **_OPTIONS,
)  # fmt: skip
def lay(rgba, cmyk, coverage, white_alpha, ink_alpha, ramp, limit, design, under, out):
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
                total = int(cmyk[y, x, 0]) + int(cmyk[y, x, 1]) + int(cmyk[y, x, 2]) + int(cmyk[y, x, 3])
                if total * 100 <= limit * ink_alpha[y, x] + 200:
                    white += (255 - own) * min(int(coverage[y, x]), a)
            out[y, x] = (white + 127) // 255


@njit(types.void(_image, _i64, _i64, _image_out), **_OPTIONS)
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


@njit(types.void(_image, _plane, _writes(_i64, 2)), **_OPTIONS)
def count(cmyk, white, out):
    """Per row: sums of C, M, Y, K and white; printed and white pixels; first and past-last of colour and white."""
    width = white.shape[1]
    for y in range(white.shape[0]):
        c = m = ye = k = w = either = whites = 0
        colour_first, colour_last, white_first, white_last = width, 0, width, 0
        for x in range(width):
            ink = int(cmyk[y, x, 0]) | int(cmyk[y, x, 1]) | int(cmyk[y, x, 2]) | int(cmyk[y, x, 3])
            laid = int(white[y, x])
            if ink | laid == 0:
                continue
            either += 1
            if ink:
                c += cmyk[y, x, 0]
                m += cmyk[y, x, 1]
                ye += cmyk[y, x, 2]
                k += cmyk[y, x, 3]
                colour_first = min(colour_first, x)
                colour_last = x + 1
            if laid:
                w += laid
                whites += 1
                white_first = min(white_first, x)
                white_last = x + 1
        out[y, 0], out[y, 1], out[y, 2], out[y, 3], out[y, 4] = c, m, ye, k, w
        out[y, 5], out[y, 6] = either, whites
        out[y, 7], out[y, 8], out[y, 9], out[y, 10] = colour_first, colour_last, white_first, white_last


@njit(
    types.void(
        _image, _reads(types.uint16, 2), _plane, _reads(_f32, 1), _reads(_f32, 2), _f64, _f32, _flag, _reads(_f32, 2),
        _reads(_u8, 1), _image_out,
    ),
    **_OPTIONS,
)  # fmt: skip
def seen(cmyk, white, cloth, cloth_bands, roots, power, scatter, white_under, to_srgb, encode, out):
    """sRGB of cloth, white and inks; see ``optics.seen_plain``."""
    weights = np.empty(16, np.float32)
    one = np.float32(1)
    filtered = np.ones(3, np.float32)
    ground = np.empty(3, np.float32)
    last = -1
    top = np.float32(encode.size - 1)
    for y in range(cmyk.shape[0]):
        for x in range(cmyk.shape[1]):
            code = (
                (np.int64(cmyk[y, x, 0]) << 24)
                | (np.int64(cmyk[y, x, 1]) << 16)
                | (np.int64(cmyk[y, x, 2]) << 8)
                | np.int64(cmyk[y, x, 3])
            )
            if code != last:
                last = code
                weights[0] = one
                for bit in range(4):
                    share = np.float32(cmyk[y, x, bit]) / np.float32(255)
                    size = 1 << bit
                    for index in range(size):
                        weights[size + index] = weights[index] * share
                        weights[index] *= one - share
                for band in range(3):
                    total = np.float32(0)
                    for index in range(16):
                        total += weights[index] * roots[index, band]
                    filtered[band] = total * total if power == 2.0 else total**power
            lift = np.float32(cloth[y, x]) / np.float32(128)
            hiding = np.float32(white[y, x]) * scatter / np.float32(65280)
            for band in range(3):
                base = min(cloth_bands[band] * lift, one)
                if not white_under:
                    base *= filtered[band]
                spread = (one - base) * hiding
                base = (base + spread) / (one + spread)
                ground[band] = base * filtered[band] if white_under else base
            for c in range(3):
                light = to_srgb[c, 0] * ground[0] + to_srgb[c, 1] * ground[1] + to_srgb[c, 2] * ground[2]
                out[y, x, c] = encode[int(min(max(light, np.float32(0)), one) * top + np.float32(0.5))]
