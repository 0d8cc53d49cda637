"""Garments by lightness: white goods, dark goods, and what lies between."""

import numpy as np

from swaddon.core.colour import Rgb, lab_from_srgb8

DARK_LIGHTNESS = 60.0
"""Garments below this L* need white to show colours as they are (assumed)."""

WHITE_LIGHTNESS, WHITE_CHROMA = 93.0, 5.0
"""Garments lighter and greyer than this count as white goods (assumed)."""


def is_dark(garment: Rgb) -> bool:
    """Whether colours on this garment need white under them."""
    return float(lab_from_srgb8(garment)[0]) < DARK_LIGHTNESS


def is_white(garment: Rgb) -> bool:
    """Whether the garment counts as white goods."""
    lightness, a, b = lab_from_srgb8(garment)
    return bool(lightness >= WHITE_LIGHTNESS and np.hypot(a, b) <= WHITE_CHROMA)
