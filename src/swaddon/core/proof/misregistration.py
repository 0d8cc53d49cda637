"""White out of its place: moved against the colour, and squeezed outwards by the press."""

import math
from dataclasses import dataclass, replace

import cv2
import numpy as np
from numpy.typing import NDArray

from swaddon.core.artwork.raster import Sample
from swaddon.core.press.registration import Registration


@dataclass(frozen=True)
class Misregistration:
    """How white lies out of its place.

    Attributes
    ----------
    dx_mm, dy_mm
        To the right of its place, and below it.
    squeeze_mm
        How far it is grown.
    skew_deg
        Turn about the middle of the print, clockwise as it is seen.
    stretch_percent
        Stretch along the feed (down the print) from its middle.
    """

    dx_mm: float = 0.0
    dy_mm: float = 0.0
    squeeze_mm: float = 0.0
    skew_deg: float = 0.0
    stretch_percent: float = 0.0

    @property
    def is_none(self) -> bool:
        return self == Misregistration()

    def moved(self, dx_mm: float, dy_mm: float) -> "Misregistration":
        """Moved further, to the hundredth of a mm."""
        return replace(self, dx_mm=round(self.dx_mm + dx_mm, 2), dy_mm=round(self.dy_mm + dy_mm, 2))

    def matrix(self, px_per_mm: float, middle_px: tuple[float, float]) -> NDArray[np.float64]:
        """``float64 (2, 3)``: where a pixel of the white comes to lie, from where it should.

        >>> Misregistration(dx_mm=0.5).matrix(10.0, (100.0, 50.0)).round(3).tolist()
        [[1.0, -0.0, 5.0], [0.0, 1.0, 0.0]]
        """
        turn, stretch = math.radians(self.skew_deg), 1 + self.stretch_percent / 100
        linear = np.array([[math.cos(turn), -math.sin(turn) * stretch], [math.sin(turn), math.cos(turn) * stretch]])
        middle = np.array(middle_px)
        offset = middle - linear @ middle + np.array([self.dx_mm, self.dy_mm]) * px_per_mm
        return np.hstack([linear, offset[:, None]])

    def furthest_mm(self, width_mm: float, height_mm: float) -> float:
        """The furthest that any place of a print of this size lies out of its own, without the squeeze."""
        matrix = self.matrix(1.0, (width_mm / 2, height_mm / 2))
        corners = np.array([(x, y) for x in (0.0, width_mm) for y in (0.0, height_mm)])
        return float(np.linalg.norm(corners @ matrix[:, :2].T + matrix[:, 2] - corners, axis=1).max())


def worst_case(registration: Registration) -> Misregistration:
    """The largest error that is reckoned with, to the lower right, and the squeeze.

    Where the error grows from the middle of the print, as that of a second pass does, it is the likeliest one that
    moves the lower right corner as far as white is reckoned to reach there.

    >>> worst_case(Registration(sigma_mm=0.1, squeeze_mm=0.02))
    Misregistration(dx_mm=0.141, dy_mm=0.141, squeeze_mm=0.02, skew_deg=0.0, stretch_percent=0.0)
    """
    if registration.spread is None:
        away = round((registration.reach_mm - registration.squeeze_mm) / math.sqrt(2), 3)
        return Misregistration(away, away, registration.squeeze_mm)
    right, down, turn, stretch = registration.spread.worst_draw()
    return Misregistration(
        round(right, 3), round(down, 3), registration.squeeze_mm, round(math.degrees(turn), 4), round(stretch * 100, 4)
    )


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
    return np.asarray(cv2.addWeighted(small, 1 - part, large, part, 0), plane.dtype)


def _dilated(plane: NDArray[Sample], reach: int) -> NDArray[Sample]:
    if reach == 0:
        return plane
    y, x = np.mgrid[-reach : reach + 1, -reach : reach + 1]
    return np.asarray(cv2.dilate(plane, (np.hypot(x, y) <= reach).astype(np.uint8)), plane.dtype)
