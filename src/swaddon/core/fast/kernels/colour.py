"""Per colour: separation, and ΔE00 of an artwork's own colours."""

import math

import numpy as np
from numba import njit, types

from swaddon.core.fast.kernels.signatures import (
    OPTIONS,
    f32,
    f64,
    i32,
    i64,
    image,
    image_out,
    plane,
    plane_out,
    reads,
    u8,
    writes,
)

_COS_30, _SIN_30 = math.cos(math.radians(30)), math.sin(math.radians(30))
_COS_6, _SIN_6 = math.cos(math.radians(6)), math.sin(math.radians(6))
_COS_63, _SIN_63 = math.cos(math.radians(63)), math.sin(math.radians(63))


@njit(**OPTIONS)
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


@njit(types.void(image, reads(f32, 4), image_out), **OPTIONS)
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


@njit(types.void(image, writes(u8, 1), writes(u8, 1)), **OPTIONS)
def mark_colours(rgba, seen, pages):
    """Set ``seen[r << 16 | g << 8 | b]`` for each colour of a pixel that is not fully transparent, and its page."""
    last, page = -1, seen.size // pages.size
    for y in range(rgba.shape[0]):
        for x in range(rgba.shape[1]):
            if rgba[y, x, 3] > 0:
                code = (np.int64(rgba[y, x, 0]) << 16) | (np.int64(rgba[y, x, 1]) << 8) | np.int64(rgba[y, x, 2])
                if code != last:
                    seen[code] = 1
                    pages[code // page] = 1
                    last = code


@njit(types.void(image, plane, writes(i32, 1), writes(u8, 1)), **OPTIONS)
def count_colours(rgba, chosen, counts, pages):
    """Count the chosen pixels of each colour that are not fully transparent; runs of one colour count at once."""
    last, run, page = np.int64(-1), 0, counts.size // pages.size
    for y in range(rgba.shape[0]):
        for x in range(rgba.shape[1]):
            if chosen[y, x] > 0 and rgba[y, x, 3] > 0:
                code = (np.int64(rgba[y, x, 0]) << 16) | (np.int64(rgba[y, x, 1]) << 8) | np.int64(rgba[y, x, 2])
                if code != last:
                    if run > 0:
                        counts[last] += run
                    last, run = code, 0
                    pages[code // page] = 1
                run += 1
    if run > 0:
        counts[last] += run


@njit(types.void(image, reads(u8, 1), plane_out), **OPTIONS)
def near(rgba, verdict, out):
    """255 where a pixel has ink and its colour's verdict is set, else 0."""
    for y in range(rgba.shape[0]):
        for x in range(rgba.shape[1]):
            hit = 0
            if rgba[y, x, 3] > 0:
                code = (np.int64(rgba[y, x, 0]) << 16) | (np.int64(rgba[y, x, 1]) << 8) | np.int64(rgba[y, x, 2])
                hit = 255 if verdict[code] else 0
            out[y, x] = hit


@njit(**OPTIONS)
def lab_f(t):
    return math.pow(t, 1 / 3) if t > 216 / 24389 else (24389 / 27 * t + 16) / 116


@njit(**OPTIONS)
def terms_2000(l1, a1, b1, l2, a2, b2, c2_raw):
    """ΔL′, ΔC′ and ΔH′ of ΔE00, each over its weight, and the rotation term; ``c2_raw`` is the second's chroma."""
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
    return dl, dc, dhue, r_t


@njit(**OPTIONS)
def delta_e_2000(l1, a1, b1, l2, a2, b2, c2_raw):
    dl, dc, dhue, r_t = terms_2000(l1, a1, b1, l2, a2, b2, c2_raw)
    return math.sqrt(max(dl * dl + dc * dc + dhue * dhue + r_t * dc * dhue, 0.0))


@njit(
    types.void(reads(i64, 1), reads(f32, 1), reads(f64, 2), reads(f64, 1), f64, writes(f32, 1)),
    **OPTIONS,
)
def distances(codes, linear, matrix, lab2, up_to, out):
    """ΔE00 of packed sRGB colours to one CIELAB colour; ``matrix`` maps linear sRGB to XYZ over white."""
    l2, a2, b2 = lab2[0], lab2[1], lab2[2]
    c2_raw = math.hypot(a2, b2)
    for index in range(codes.size):
        code = codes[index]
        r, g, b = linear[code >> 16], linear[code >> 8 & 255], linear[code & 255]
        fy = lab_f(matrix[1, 0] * r + matrix[1, 1] * g + matrix[1, 2] * b)
        if abs(116 * fy - 16 - l2) > up_to * 1.75:
            out[index] = np.inf
            continue
        fx = lab_f(matrix[0, 0] * r + matrix[0, 1] * g + matrix[0, 2] * b)
        fz = lab_f(matrix[2, 0] * r + matrix[2, 1] * g + matrix[2, 2] * b)
        out[index] = delta_e_2000(116 * fy - 16, 500 * (fx - fy), 200 * (fy - fz), l2, a2, b2, c2_raw)
