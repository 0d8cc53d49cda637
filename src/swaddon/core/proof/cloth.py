"""Cloth under the print: a generated lightness texture, fixed to millimetres so that zoom and pan keep it in place.

Jersey knit and canvas weave are drawn from their stitch geometry; where a stitch is smaller than about two pixels its
pattern fades out instead of beating against the pixels. Spacings are those of common goods, assumed.
"""

from functools import cache
from typing import Literal

import cv2
import numpy as np
from numpy.typing import NDArray

from swaddon.core.proof.optics import FLAT_CLOTH

ClothKind = Literal["jersey", "canvas", "plain"]

_WALE_MM, _COURSE_MM = 0.82, 0.62
_YARN_MM = 0.75
_CONTRAST = {"jersey": 0.17, "canvas": 0.20, "plain": 0.0}
_MOTTLE = {"jersey": 0.022, "canvas": 0.035, "plain": 0.0}
_NOISE_SIDE = 512
_NOISE_PER_MM = 2.0


@cache
def _noise() -> NDArray[np.float32]:
    """Seamless noise, about ±1: fine grain on slow clouds."""
    rng = np.random.default_rng(20)
    total = np.zeros((_NOISE_SIDE, _NOISE_SIDE), np.float32)
    for sigma, strength in ((1.0, 0.8), (4.0, 0.5), (18.0, 0.5)):
        layer = rng.standard_normal(total.shape).astype(np.float32)
        pad = int(4 * sigma)
        wide = cv2.GaussianBlur(np.pad(layer, pad, mode="wrap"), (0, 0), sigma)[pad:-pad, pad:-pad]
        total += strength * wide / wide.std()
    return total


def texture(
    kind: ClothKind, x0_mm: float, y0_mm: float, px_per_mm: float, width: int, height: int
) -> NDArray[np.uint8]:
    """Lightness of the cloth.

    Parameters
    ----------
    kind
        The fabric.
    x0_mm, y0_mm
        Position of the first pixel's corner.
    px_per_mm
        Scale, > 0.
    width, height
        Size in pixels.

    Returns
    -------
    ndarray
        ``uint8 (height, width)``, 128 = the garment's own colour, mean about 128.
    """
    if kind == "plain":
        return np.full((height, width), FLAT_CLOTH, np.uint8)
    x = (x0_mm + (np.arange(width, dtype=np.float32) + 0.5) / px_per_mm)[None, :]
    y = (y0_mm + (np.arange(height, dtype=np.float32) + 0.5) / px_per_mm)[:, None]
    grain = _sampled_noise(x0_mm, y0_mm, px_per_mm, width, height) * np.float32(_MOTTLE[kind])
    visible = float(np.clip((px_per_mm * _COURSE_MM - 1.6) / 3.0, 0, 1))
    if visible > 0:
        stitch = _jersey(x, y) if kind == "jersey" else _canvas(x, y)
        grain = grain + stitch * np.float32(_CONTRAST[kind] * visible)
    return np.clip(FLAT_CLOTH * (1 + grain) + 0.5, 0, 255).astype(np.uint8)


def _sampled_noise(x0_mm: float, y0_mm: float, px_per_mm: float, width: int, height: int) -> NDArray[np.float32]:
    """The noise tile read at a scale, wrapped."""
    step = _NOISE_PER_MM / px_per_mm
    matrix = np.array([[step, 0, x0_mm * _NOISE_PER_MM % _NOISE_SIDE], [0, step, y0_mm * _NOISE_PER_MM % _NOISE_SIDE]])
    flags = cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP
    out = cv2.warpAffine(_noise(), matrix, (width, height), flags=flags, borderMode=cv2.BORDER_WRAP)
    return np.asarray(out, np.float32)


def _jersey(x: NDArray[np.float32], y: NDArray[np.float32]) -> NDArray[np.float32]:
    """Columns of V-shaped stitches, about −1..1, mean near 0."""
    across = x / np.float32(_WALE_MM) % 1
    off = np.abs(across - np.float32(0.5)) * 2
    leg = np.cos(2 * np.pi * (y / np.float32(_COURSE_MM) + np.float32(0.9) * off))
    groove = 1 - np.float32(1.4) * np.abs(off - np.float32(0.5)) ** 2 * 4
    return np.asarray(0.55 * leg + 0.45 * groove - 0.1, np.float32)


def _canvas(x: NDArray[np.float32], y: NDArray[np.float32]) -> NDArray[np.float32]:
    """Plain weave: warp and weft over and under in turn, about −1..1, mean 0."""
    u, v = np.pi * x / np.float32(_YARN_MM), np.pi * y / np.float32(_YARN_MM)
    over = np.sin(u) * np.sin(v)
    warp, weft = np.abs(np.sin(u)) - np.float32(0.64), np.abs(np.sin(v)) - np.float32(0.64)
    return np.asarray(np.where(over > 0, warp + 0.35 * weft, weft + 0.35 * warp) * 1.4, np.float32)
