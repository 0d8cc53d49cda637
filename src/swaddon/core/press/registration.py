"""How well white and colour meet: what a press does from print to print, what was measured of it, and second passes."""

import math
from dataclasses import dataclass, replace


@dataclass(frozen=True)
class Registration:
    """How well white and colour meet, in mm: σ of the error across an edge, and the press's squeeze of white.

    With ``is_worst_case`` the error is the largest that occurs instead. ``shift_mm`` (to the right and down) and
    ``rotation_deg`` (clockwise about the middle) are where white was measured to lie against colour; as long as nobody
    puts that right it counts as error.
    """

    sigma_mm: float = 0.08
    squeeze_mm: float = 0.03
    is_worst_case: bool = False
    shift_mm: tuple[float, float] = (0.0, 0.0)
    rotation_deg: float = 0.0

    def of_size(self, width_mm: float, height_mm: float) -> "Registration":
        """The same with what was measured in its σ, for a print of a size: the root mean square over all edges.

        >>> Registration(0.06, shift_mm=(0.08, 0.08)).of_size(100, 100).sigma_mm
        0.1
        """
        if self.shift_mm == (0.0, 0.0) and self.rotation_deg == 0:
            return self
        turned = math.radians(self.rotation_deg) ** 2 * (width_mm**2 + height_mm**2) / 12
        off = (self.shift_mm[0] ** 2 + self.shift_mm[1] ** 2 + turned) / 2
        return replace(
            self, sigma_mm=round(math.sqrt(self.sigma_mm**2 + off), 4), shift_mm=(0.0, 0.0), rotation_deg=0.0
        )

    @property
    def reach_mm(self) -> float:
        """How far white may come to lie outside its place: the worst error, or two σ (assumed), and the squeeze."""
        return self.sigma_mm * (1 if self.is_worst_case else 2) + self.squeeze_mm

    @property
    def no_peek_mm(self) -> float:
        """The least choke, in hundredths of a millimetre, beyond which white does not reach."""
        return math.ceil(self.reach_mm * 100 - 1e-6) / 100


@dataclass(frozen=True)
class Refeed:
    """How far a second pass of the same medium misses the first: standard deviations.

    Attributes
    ----------
    shift_mm
        Shift, along and across the feed.
    skew_deg
        Turn about the middle of the print.
    stretch_percent
        Stretch along the feed, from the middle of the print.
    """

    shift_mm: float
    skew_deg: float
    stretch_percent: float

    def sigma_mm(self, width_mm: float, height_mm: float) -> float:
        """Standard deviation of the miss across an edge, over all places and directions of a print of a size.

        A turn by θ moves a point at (x, y) from the middle by (−θ·y, θ·x), a stretch by s along the feed by s·y; x² and
        y² of a rectangle are a twelfth of its sides' squares in the mean.

        >>> round(Refeed(0.0, 0.1, 0.0).sigma_mm(120, 90), 4)
        0.0534
        """
        turn, stretch = math.radians(self.skew_deg), self.stretch_percent / 100
        turned = turn**2 * (width_mm**2 + height_mm**2) / 12
        return math.sqrt(self.shift_mm**2 + (turned + (stretch * height_mm) ** 2 / 12) / 2)
