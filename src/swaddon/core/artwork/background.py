"""The background of opaque artwork: one colour all round."""

import numpy as np

from swaddon.core.artwork.raster import Rgba
from swaddon.core.colour.spaces import Rgb, delta_e_76, lab_from_srgb8

_BORDER_PX = 4
_UNIFORM_SHARE = 0.9
_UNIFORM_DELTA_E = {"JPEG": 12.0}
_UNIFORM_DELTA_E_ELSE = 6.0


def uniform_border(art: Rgba, delta_e: float) -> Rgb | None:
    """The colour of an opaque border all round ``art`` (``uint8 (H, W, 4)``), ``None`` when there is none.

    >>> art = np.full((40, 40, 4), 255, np.uint8)
    >>> art[10:30, 10:30, :3] = (200, 30, 40)
    >>> uniform_border(art, 6.0)
    (255, 255, 255)
    """
    n = _BORDER_PX
    if min(art.shape[:2]) <= 4 * n:
        return None
    ring = np.concatenate(
        [
            art[:n].reshape(-1, 4),
            art[-n:].reshape(-1, 4),
            art[:, :n].reshape(-1, 4),
            art[:, -n:].reshape(-1, 4),
        ]
    )
    opaque = ring[ring[:, 3] >= 250]
    if len(opaque) < 0.98 * len(ring):
        return None
    middle = np.median(opaque[:, :3], axis=0)
    away = delta_e_76(lab_from_srgb8(opaque[:, :3]), lab_from_srgb8(middle))
    if float((away <= delta_e).mean()) < _UNIFORM_SHARE:
        return None
    r, g, b = (round(float(v)) for v in middle)
    return r, g, b


def border_tolerance(file_format: str) -> float:
    """ΔE within which a border counts as one colour; JPEG speckles.

    >>> border_tolerance("PNG"), border_tolerance("JPEG")
    (6.0, 12.0)
    """
    return _UNIFORM_DELTA_E.get(file_format, _UNIFORM_DELTA_E_ELSE)
