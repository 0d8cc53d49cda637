"""Colour spaces and differences.

Artwork is sRGB (IEC 61966-2-1). Ink and cloth mix in three *bands*: linear ROMM RGB (ISO 22028-2, D50), wide
enough that every ink's reflectance is positive in each band. CIELAB is relative to D50 throughout.
"""

from functools import cache

import numpy as np
from numpy.typing import ArrayLike, NDArray

Floats = NDArray[np.floating]
Rgb = tuple[int, int, int]

WHITE_D50 = np.array([0.9642, 1.0, 0.8249])
"""CIE D50, 2° observer, as in ICC.1:2022 (profile connection space)."""

XYZ_D50_FROM_SRGB = np.array(
    [
        [0.4360747, 0.3850649, 0.1430804],
        [0.2225045, 0.7168786, 0.0606169],
        [0.0139322, 0.0971045, 0.7141733],
    ]
)
"""Linear sRGB (D65) to XYZ D50, Bradford-adapted (Lindbloom's tables; from IEC 61966-2-1 primaries)."""

XYZ_D50_FROM_BANDS = np.array(
    [
        [0.7976749, 0.1351917, 0.0313534],
        [0.2880402, 0.7118741, 0.0000857],
        [0.0, 0.0, 0.8252100],
    ]
)
"""Linear ROMM RGB to XYZ D50 (ISO 22028-2 primaries)."""


def _row_normalised(matrix: Floats) -> Floats:
    """The matrix scaled by a hair per row so that white maps to white exactly."""
    return matrix / matrix.sum(axis=1, keepdims=True)


RATIO_FROM_BANDS = _row_normalised(XYZ_D50_FROM_BANDS)
"""Linear ROMM RGB to XYZ over that of white."""

BANDS_FROM_SRGB = _row_normalised(np.linalg.inv(XYZ_D50_FROM_BANDS) @ XYZ_D50_FROM_SRGB)
SRGB_FROM_BANDS = np.linalg.inv(BANDS_FROM_SRGB)

_EPSILON = 216 / 24389
_KAPPA = 24389 / 27


def linear_from_srgb(encoded: ArrayLike) -> Floats:
    """Linear light, 0..1, of sRGB-encoded values, 0..1 (IEC 61966-2-1).

    Middle grey of a screen is a fifth of its light:

    >>> round(float(linear_from_srgb(0.5)), 4)
    0.214
    """
    v = np.asarray(encoded, dtype=np.float64)
    return np.where(v <= 0.04045, v / 12.92, ((np.maximum(v, 0.04045) + 0.055) / 1.055) ** 2.4)


def srgb_from_linear(linear: ArrayLike) -> Floats:
    """sRGB-encoded values, clipped to 0..1, of linear light (IEC 61966-2-1).

    >>> [round(float(v), 4) for v in srgb_from_linear([0.0, 0.2140, 1.0, 1.5])]
    [0.0, 0.5, 1.0, 1.0]
    """
    v = np.clip(np.asarray(linear, dtype=np.float64), 0.0, 1.0)
    return np.where(v <= 0.0031308, v * 12.92, 1.055 * np.maximum(v, 0.0031308) ** (1 / 2.4) - 0.055)


@cache
def linear_table() -> NDArray[np.float32]:
    """``float32 (256,)``: linear light of each 8-bit sRGB value.

    >>> round(float(linear_table()[128]), 4)
    0.2159
    """
    table = linear_from_srgb(np.arange(256) / 255).astype(np.float32)
    table.flags.writeable = False
    return table


@cache
def encode_table() -> NDArray[np.uint8]:
    """``uint8 (16385,)``: 8-bit sRGB value of linear light sampled at steps of 1/16384.

    >>> int(encode_table()[16384 // 2])
    188
    """
    table = np.rint(srgb_from_linear(np.arange(16385) / 16384) * 255).astype(np.uint8)
    table.flags.writeable = False
    return table


def lab_from_xyz(xyz: ArrayLike) -> Floats:
    """CIELAB (CIE 15:2018) of XYZ relative to D50, Y of white = 1; shape ``(..., 3)``.

    White has L* 100 and no chroma; a fifth of its light is about the middle:

    >>> lab_from_xyz(WHITE_D50).round(6).tolist()
    [100.0, 0.0, 0.0]
    >>> lab_from_xyz(0.18 * WHITE_D50).round(2)[0].item()
    49.5
    """
    ratio = np.asarray(xyz, dtype=np.float64) / WHITE_D50
    f = np.where(ratio > _EPSILON, np.cbrt(np.maximum(ratio, _EPSILON)), (_KAPPA * ratio + 16) / 116)
    x, y, z = f[..., 0], f[..., 1], f[..., 2]
    return np.stack([116 * y - 16, 500 * (x - y), 200 * (y - z)], axis=-1)


def xyz_from_lab(lab: ArrayLike) -> Floats:
    """XYZ relative to D50 of CIELAB (CIE 15:2018); shape ``(..., 3)``.

    >>> bool(np.allclose(xyz_from_lab(lab_from_xyz((0.2, 0.3, 0.1))), (0.2, 0.3, 0.1)))
    True
    """
    v = np.asarray(lab, dtype=np.float64)
    y = (v[..., 0] + 16) / 116
    f = np.stack([y + v[..., 1] / 500, y, y - v[..., 2] / 200], axis=-1)
    return np.where(f**3 > _EPSILON, f**3, (116 * f - 16) / _KAPPA) * WHITE_D50


def lab_from_bands(bands: ArrayLike) -> Floats:
    """CIELAB of band reflectances, white = (1, 1, 1); shape ``(..., 3)``.

    >>> lab_from_bands((1.0, 1.0, 1.0)).round(6).tolist()
    [100.0, 0.0, 0.0]
    """
    return lab_from_xyz(np.asarray(bands) @ XYZ_D50_FROM_BANDS.T / _BANDS_WHITE * WHITE_D50)


def bands_from_lab(lab: ArrayLike) -> Floats:
    """Band reflectances of CIELAB, white = (1, 1, 1); shape ``(..., 3)``.

    >>> bands_from_lab((100.0, 0.0, 0.0)).round(6).tolist()
    [1.0, 1.0, 1.0]
    """
    return (xyz_from_lab(lab) / WHITE_D50 * _BANDS_WHITE) @ np.linalg.inv(XYZ_D50_FROM_BANDS).T


_BANDS_WHITE = XYZ_D50_FROM_BANDS.sum(axis=1)


def bands_from_srgb8(rgb: ArrayLike) -> Floats:
    """Band reflectances, 0..1, of 8-bit sRGB; shape ``(..., 3)``.

    >>> bands_from_srgb8((255, 255, 255)).round(6).tolist()
    [1.0, 1.0, 1.0]
    """
    return linear_from_srgb(np.asarray(rgb) / 255) @ BANDS_FROM_SRGB.T


def srgb8_from_bands(bands: ArrayLike) -> NDArray[np.uint8]:
    """8-bit sRGB (clipped to gamut) of band reflectances; shape ``(..., 3)``.

    >>> srgb8_from_bands(bands_from_srgb8((200, 30, 40))).tolist()
    [200, 30, 40]
    """
    return np.rint(srgb_from_linear(np.asarray(bands) @ SRGB_FROM_BANDS.T) * 255).astype(np.uint8)


def lab_from_srgb8(rgb: ArrayLike) -> Floats:
    """CIELAB of 8-bit sRGB; shape ``(..., 3)``.

    Pure red of sRGB, adapted to D50:

    >>> lab_from_srgb8((255, 0, 0)).round(1).tolist()
    [54.3, 80.8, 69.9]
    """
    return lab_from_bands(bands_from_srgb8(rgb))


def delta_e_76(one: ArrayLike, other: ArrayLike) -> Floats:
    """ΔE*ab, the Euclidean distance in CIELAB (CIE 15:2018).

    >>> float(delta_e_76((50.0, 3.0, 0.0), (50.0, 0.0, 4.0)))
    5.0
    """
    return np.sqrt(((np.asarray(one) - np.asarray(other)) ** 2).sum(axis=-1))


def delta_e_2000(one: ArrayLike, other: ArrayLike) -> Floats:
    """ΔE00 (ISO/CIE 11664-6:2022), parametric factors 1; broadcasts over ``(..., 3)``.

    The first of the test pairs of Sharma, Wu and Dalal (2005):

    >>> round(float(delta_e_2000((50.0, 2.6772, -79.7751), (50.0, 0.0, -82.7485))), 4)
    2.0425
    """
    l_term, c_term, h_term, turned = _terms_2000(one, other)
    return np.sqrt(np.maximum(l_term**2 + c_term**2 + h_term**2 + turned * c_term * h_term, 0.0))


def difference_2000(one: ArrayLike, other: ArrayLike) -> Floats:
    """Three numbers, ``(..., 3)``, whose length is ΔE00: in lightness, in chroma (with hue's part of it), and in hue.

    For solvers that want signed residuals. x² + y² + r·x·y = (x + r·y / 2)² + (1 − r² / 4)·y².

    Its length is ΔE00, here 2.0425 (see :func:`delta_e_2000`):

    >>> parts = difference_2000((50.0, 2.6772, -79.7751), (50.0, 0.0, -82.7485))
    >>> round(float(np.linalg.norm(parts)), 4)
    2.0425
    """
    l_term, c_term, h_term, turned = _terms_2000(one, other)
    across = np.sqrt(np.maximum(1 - turned**2 / 4, 0.0)) * h_term
    return np.stack([l_term, c_term + turned / 2 * h_term, across], axis=-1)


def _terms_2000(one: ArrayLike, other: ArrayLike) -> tuple[Floats, Floats, Floats, Floats]:
    """ΔL′, ΔC′ and ΔH′ of ΔE00, each over its weight, and the rotation term."""
    lab1, lab2 = np.asarray(one, dtype=np.float64), np.asarray(other, dtype=np.float64)
    c_mean = (np.hypot(lab1[..., 1], lab1[..., 2]) + np.hypot(lab2[..., 1], lab2[..., 2])) / 2
    g = 0.5 * (1 - np.sqrt(c_mean**7 / (c_mean**7 + 25.0**7)))
    a1, a2 = (1 + g) * lab1[..., 1], (1 + g) * lab2[..., 1]
    c1, c2 = np.hypot(a1, lab1[..., 2]), np.hypot(a2, lab2[..., 2])
    h1 = np.degrees(np.arctan2(lab1[..., 2], a1)) % 360
    h2 = np.degrees(np.arctan2(lab2[..., 2], a2)) % 360
    grey = c1 * c2 == 0
    turned = h2 - h1
    dh = np.where(grey, 0.0, turned - 360 * (turned > 180) + 360 * (turned < -180))
    dl, dc = lab2[..., 0] - lab1[..., 0], c2 - c1
    dbig = 2 * np.sqrt(c1 * c2) * np.sin(np.radians(dh) / 2)
    l_mean, c_mean = (lab1[..., 0] + lab2[..., 0]) / 2, (c1 + c2) / 2
    far = np.abs(h1 - h2) > 180
    h_mean = np.where(far, (h1 + h2 + np.where(h1 + h2 < 360, 360, -360)) / 2, (h1 + h2) / 2)
    h_mean = np.where(grey, h1 + h2, h_mean)
    t = (
        1
        - 0.17 * np.cos(np.radians(h_mean - 30))
        + 0.24 * np.cos(np.radians(2 * h_mean))
        + 0.32 * np.cos(np.radians(3 * h_mean + 6))
        - 0.20 * np.cos(np.radians(4 * h_mean - 63))
    )
    s_l = 1 + 0.015 * (l_mean - 50) ** 2 / np.sqrt(20 + (l_mean - 50) ** 2)
    s_c, s_h = 1 + 0.045 * c_mean, 1 + 0.015 * c_mean * t
    turn = 60 * np.exp(-(((h_mean - 275) / 25) ** 2))
    r_t = -np.sin(np.radians(turn)) * 2 * np.sqrt(c_mean**7 / (c_mean**7 + 25.0**7))
    return dl / s_l, dc / s_c, dbig / s_h, r_t


def lightness(rgb: Rgb) -> float:
    """CIELAB L*, 0..100, of one 8-bit sRGB colour.

    >>> round(lightness((119, 119, 119)))
    50
    """
    return float(lab_from_srgb8(rgb)[0])


def hex_from_rgb(rgb: Rgb) -> str:
    """``#rrggbb`` of one 8-bit sRGB colour.

    >>> hex_from_rgb((27, 27, 31))
    '#1b1b1f'
    """
    return "#{:02x}{:02x}{:02x}".format(*rgb)


def rgb_from_hex(text: str) -> Rgb:
    """8-bit sRGB of ``#rrggbb`` (the sign may be missing).

    Raises
    ------
    ValueError
        When the text is not six hexadecimal digits.

    >>> rgb_from_hex("#1b1b1f")
    (27, 27, 31)
    """
    digits = text.strip().removeprefix("#")
    if len(digits) != 6 or any(c not in "0123456789abcdefABCDEF" for c in digits):
        raise ValueError(f"“{text}” is not a colour; write six hexadecimal digits such as #1b1b1f")
    return int(digits[0:2], 16), int(digits[2:4], 16), int(digits[4:6], 16)
