"""Half-transparent places: fades, and haze; not the antialiasing of an edge."""

import math

import cv2
import numpy as np

from swaddon.core.artwork.raster import Mask, Rgba, alpha_of

_RIM_PX = 4
"""An edge is antialiased over at most this many pixels of the artwork or the grid; a fade is wider (assumed)."""


_HAZE_ALPHA = (16, 239)
"""Alpha between which ink is thin enough to see and to fail (assumed)."""


def soft_area(rgba: Rgba, enlargement: float = 1.0) -> Mask:
    """Mask (255) of half-transparent places that are not the antialiased rim of a shape.

    A rim is narrow and borders on nothing: what is wider, and what lies away from fully transparent pixels (a thin
    contour of alpha 254 inside a shape, say), is a fade. Where a small picture is printed large, its rims grow with it.

    Parameters
    ----------
    rgba
        ``uint8 (H, W, 4)``, straight alpha.
    enlargement
        Pixels of ``rgba`` per pixel of the artwork, > 0.
    """
    rim = _RIM_PX if enlargement <= 1 else math.ceil((_RIM_PX + 1) * enlargement)
    alpha = alpha_of(rgba)
    half = cv2.inRange(alpha, 1, 254)
    if not cv2.countNonZero(half):
        return np.asarray(half, np.uint8)
    wide = cv2.morphologyEx(half, cv2.MORPH_OPEN, np.ones((rim + 1, rim + 1), np.uint8))
    by_nothing = cv2.dilate(cv2.inRange(alpha, 0, 0), np.ones((2 * rim - 1, 2 * rim - 1), np.uint8))
    return np.asarray(cv2.bitwise_or(wide, cv2.bitwise_and(half, cv2.bitwise_not(by_nothing))))


def haze(rgba: Rgba, soft: Mask) -> Mask:
    """Mask (255) of fades and glows that are neither nearly gone nor nearly full."""
    return np.asarray(cv2.bitwise_and(soft, cv2.inRange(alpha_of(rgba), *_HAZE_ALPHA)))
