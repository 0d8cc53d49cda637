"""Samples through their embedded colour profile into sRGB, by what the profile does and never by its name.

LittleCMS converts, in the depth of the samples: linear light cut to 8 bits first would lose its shadows. Whether
a profile is sRGB itself is asked of it as well, on a grid of colours: names such as "sRGB linear" say nothing.
"""

from functools import lru_cache
from typing import Any

import numpy as np
from numpy.typing import NDArray

from swaddon.core.artwork.raster import bands

Array = NDArray[Any]

_RELATIVE, _BLACK_POINT, _EXACT = 1, 0x2000, 0x0100
"""Relative colorimetric with black point compensation, as LittleCMS numbers them, and without its shortcut: a table
between whose nodes dark greys and colours of 16 bits are up to 13 of 255 off."""

_GRID, _ALIKE = 9, 1
"""Colours a side that a profile is asked for, and how far from sRGB, of 255, it may bring them and be sRGB."""


def is_srgb(icc: bytes) -> bool:
    """Whether an RGB profile leaves sRGB values where they are."""
    return _is_srgb(bytes(icc))


@lru_cache(maxsize=16)
def _is_srgb(icc: bytes) -> bool:
    steps = np.rint(np.linspace(0, 255, _GRID)).astype(np.uint8)
    grid = np.stack(np.meshgrid(steps, steps, steps, indexing="ij"), axis=-1).reshape(1, -1, 3)
    greys = np.repeat(np.arange(256, dtype=np.uint8)[None, :, None], 3, axis=2)
    asked = np.ascontiguousarray(np.concatenate([grid, greys], axis=1))
    found = _converted(asked, icc, "rgb")
    return found is not None and int(np.abs(found.astype(np.int16) - asked).max()) <= _ALIKE


def to_srgb(colour: Array, icc: bytes, is_cmyk: bool) -> NDArray[np.uint8] | None:
    """sRGB ``uint8 (H, W, 3)`` of samples ``(H, W, 1 | 3 | 4)``; ``None``: the profile is not one for such samples.

    Parameters
    ----------
    colour
        Grey, RGB or CMYK (0 no ink), ``uint8`` or ``uint16``.
    """
    space = "cmyk" if is_cmyk else {1: "gray", 3: "rgb"}.get(colour.shape[2])
    if space is None:
        return None
    if space == "gray":
        greys = np.arange(np.iinfo(colour.dtype).max + 1, dtype=colour.dtype)[None, :, None]
        table = _converted(greys, bytes(icc), space)
        return None if table is None else np.asarray(table[0][colour[..., 0]], np.uint8)
    out = np.empty((*colour.shape[:2], 3), np.uint8)
    for rows in bands(colour.shape[0]):
        found = _converted(colour[rows], bytes(icc), space)
        if found is None:
            return None
        out[rows] = found
    return out


def sixteen_bits(samples: Array, top: float) -> NDArray[np.uint16]:
    """Samples of 0 to ``top`` as 16 bits, rounded; what is beyond is cut, what is no number is 0."""
    if samples.dtype == np.uint16 and top == 65535:
        return samples
    out = np.empty(samples.shape, np.uint16)
    for rows in bands(samples.shape[0]):
        with np.errstate(invalid="ignore", over="ignore"):
            share = np.nan_to_num(samples[rows].astype(np.float64) / top, nan=0.0, posinf=1.0, neginf=0.0)
        out[rows] = np.clip(share, 0, 1) * 65535 + 0.5
    return out


def _converted(samples: Array, icc: bytes, space: str) -> NDArray[np.uint8] | None:
    import imagecodecs

    is_fast = samples.dtype == np.uint8 and space == "rgb"  # curves and matrix of 8 bits are exact there
    own = np.ascontiguousarray(samples[..., 0] if space == "gray" else samples)
    try:
        found = imagecodecs.cms_transform(
            own, icc, imagecodecs.cms_profile("srgb"), colorspace=space, outcolorspace="rgb", outdtype="u1",
            intent=_RELATIVE, flags=_BLACK_POINT if is_fast else _BLACK_POINT | _EXACT,
        )  # fmt: skip
    except (imagecodecs.CmsError, ValueError):
        return None
    return np.asarray(found, np.uint8).reshape(*samples.shape[:2], 3)
