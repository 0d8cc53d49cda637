"""White by need as a skilled user would script it: for every distinct colour, try every amount of white.

The same model as Swaddon's: Neugebauer inks as a filter on Kubelka-Munk white over the cloth, ΔE00 by scikit-image.
"""

import numpy as np
from scipy import ndimage
from skimage import color

AMOUNTS = np.concatenate([np.linspace(0, 0.3, 13), np.linspace(0.35, 1.0, 14)])
_PART = 40_000


def white_by_need(rgba: np.ndarray, constants: dict[str, np.ndarray], allowed_shift: float) -> np.ndarray:
    """White, 0..1, of each pixel."""
    codes = rgba[..., 0].astype(np.int64) << 16 | rgba[..., 1].astype(np.int64) << 8 | rgba[..., 2]
    distinct, place = np.unique(codes, return_inverse=True)
    rgb = np.stack([distinct >> 16, distinct >> 8 & 255, distinct & 255], axis=-1)
    need = np.concatenate([_needed(rgb[i : i + _PART], constants, allowed_shift) for i in range(0, len(rgb), _PART)])
    return need[place].reshape(codes.shape).astype(np.float32)


def _needed(rgb: np.ndarray, constants: dict[str, np.ndarray], allowed_shift: float) -> np.ndarray:
    table, primaries = constants["table"], constants["primaries"]
    position = [rgb[:, c] * ((table.shape[0] - 1) / 255) for c in range(3)]
    inks = np.stack([ndimage.map_coordinates(table[..., ink], position, order=1) / 255 for ink in range(4)], axis=-1)
    weights = np.ones((len(rgb), 16))
    for index in range(16):
        for bit in range(4):
            weights[:, index] *= inks[:, bit] if index >> bit & 1 else 1 - inks[:, bit]
    filtered = (weights @ primaries**0.5) ** 2
    ground, scatter = constants["garment"], float(constants["scatter"])
    drawn = color.rgb2lab(rgb[None] / 255)[0]
    errors = []
    for amount in AMOUNTS:
        spread = (1 - ground) * scatter * amount
        seen = (ground + spread) / (1 + spread) * filtered
        linear = np.clip(seen @ constants["to_srgb"].T, 0, 1)
        encoded = np.where(linear <= 0.0031308, 12.92 * linear, 1.055 * linear ** (1 / 2.4) - 0.055)
        errors.append(color.deltaE_ciede2000(color.rgb2lab(encoded[None])[0], drawn))
    error = np.stack(errors, axis=1)
    return AMOUNTS[(error <= error.min(axis=1, keepdims=True) + allowed_shift).argmax(axis=1)]
