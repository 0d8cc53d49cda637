"""White out of its place: moved against the colour, and squeezed outwards by the press."""

import math
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from swaddon.core.artwork.raster import Sample
from swaddon.core.press.profile import Registration


@dataclass(frozen=True)
class Misregistration:
    """How far white lies to the right of and below its place, and how far it is grown, in mm."""

    dx_mm: float = 0.0
    dy_mm: float = 0.0
    squeeze_mm: float = 0.0

    @property
    def is_none(self) -> bool:
        return self == Misregistration()

    def moved(self, dx_mm: float, dy_mm: float) -> "Misregistration":
        """Moved further, to the hundredth of a mm."""
        return Misregistration(round(self.dx_mm + dx_mm, 2), round(self.dy_mm + dy_mm, 2), self.squeeze_mm)


def worst_case(registration: Registration) -> Misregistration:
    """The largest error that is reckoned with, to the lower right, and the squeeze.

    >>> worst_case(Registration(sigma_mm=0.1, squeeze_mm=0.02))
    Misregistration(dx_mm=0.141, dy_mm=0.141, squeeze_mm=0.02)
    """
    away = (registration.reach_mm - registration.squeeze_mm) / math.sqrt(2)
    return Misregistration(round(away, 3), round(away, 3), registration.squeeze_mm)


def grown(plane: NDArray[Sample], by_px: float) -> NDArray[Sample]:
    """A plane ``(H, W)`` whose values reach ``by_px`` further; between whole pixels, their mean by distance.

    >>> grown(np.array([[0, 0, 255, 0, 0]], np.uint8), 1.0).tolist()
    [[0, 255, 255, 255, 0]]
    """
    if by_px <= 0:
        return plane
    whole = math.floor(by_px)
    part = by_px - whole
    small, large = (_dilated(plane, reach) for reach in (whole, whole + 1))
    mixed = (1 - part) * small.astype(np.float32) + np.float32(part) * large
    return np.asarray(np.rint(mixed), plane.dtype)


def _dilated(plane: NDArray[Sample], reach: int) -> NDArray[Sample]:
    if reach == 0:
        return plane
    y, x = np.mgrid[-reach : reach + 1, -reach : reach + 1]
    return np.asarray(cv2.dilate(plane, (np.hypot(x, y) <= reach).astype(np.uint8)), plane.dtype)
