"""How well white and colour meet: what a press does from print to print, what was measured of it, and second passes."""

import math
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import ArrayLike, NDArray

_SIGMAS = 2
"""Standard deviations that are reckoned with at worst (assumed)."""


@dataclass(frozen=True)
class Spread:
    """An error that grows from the middle of a print of a size: standard deviations of what it is made of.

    At (x, y) from the middle a shift moves white by itself, a turn by θ by (−θ·y, θ·x), a stretch by s along the feed
    by (0, s·y): the errors of x and y depend on the place, and at the corners they go together.

    Attributes
    ----------
    shift_mm
        Shift in x and in y.
    turn_rad, stretch
        Turn, and stretch along the feed (down the print) as a share.
    width_mm, height_mm
        Size of the print.
    """

    shift_mm: float
    turn_rad: float
    stretch: float
    width_mm: float
    height_mm: float

    @property
    def mean_mm(self) -> float:
        """Standard deviation of the error across an edge, over all places and directions (root mean square).

        x² and y² of a rectangle are a twelfth of its sides' squares in the mean.

        >>> round(Spread(0.0, math.radians(0.1), 0.0, 120, 90).mean_mm, 4)
        0.0534
        """
        turned = self.turn_rad**2 * (self.width_mm**2 + self.height_mm**2) / 12
        return math.sqrt(self.shift_mm**2 + (turned + (self.stretch * self.height_mm) ** 2 / 12) / 2)

    def covariance(self, x_mm: ArrayLike, y_mm: ArrayLike) -> NDArray[np.float64]:
        """Covariances in mm² of the errors in x and y, ``(..., 2, 2)``, at places from the middle ``(...)``."""
        x, y = np.broadcast_arrays(np.asarray(x_mm, np.float64), np.asarray(y_mm, np.float64))
        across = self.shift_mm**2 + (self.turn_rad * y) ** 2
        down = self.shift_mm**2 + (self.turn_rad * x) ** 2 + (self.stretch * y) ** 2
        both = -(self.turn_rad**2) * x * y
        return np.stack([np.stack([across, both], -1), np.stack([both, down], -1)], -2)

    def sigma_mm(self, x_mm: ArrayLike, y_mm: ArrayLike) -> NDArray[np.float64]:
        """Standard deviation across the edge of the worst direction, at places from the middle: its longest axis."""
        cov = self.covariance(x_mm, y_mm)
        across, both, down = cov[..., 0, 0], cov[..., 0, 1], cov[..., 1, 1]
        return np.asarray(np.sqrt((across + down) / 2 + np.hypot((across - down) / 2, both)))

    @property
    def worst_mm(self) -> float:
        """Standard deviation at the worst place, which is a corner."""
        return float(self.sigma_mm(self.width_mm / 2, self.height_mm / 2))

    def worst_draw(self) -> tuple[float, float, float, float]:
        """Shift in x and y (mm), turn (rad) and stretch of the likeliest miss that reaches two σ at the lower right.

        Of all misses of a length in one direction the likeliest is the regression of its parts on that length
        (conditional mean of the normal distribution).
        """
        x, y = self.width_mm / 2, self.height_mm / 2
        lengths, axes = np.linalg.eigh(self.covariance(x, y))
        way = axes[:, -1] * (1 if axes[:, -1].sum() >= 0 else -1)
        sigma = math.sqrt(float(lengths[-1]))
        variances = np.array([self.shift_mm**2, self.shift_mm**2, self.turn_rad**2, self.stretch**2])
        moves = np.array([way[0], way[1], way[1] * x - way[0] * y, way[1] * y])
        right, down, turn, stretch = (_SIGMAS / sigma * variances * moves).tolist()
        return right, down, turn, stretch


@dataclass(frozen=True)
class Registration:
    """How well white and colour meet, in mm: σ of the error across an edge, and the press's squeeze of white.

    With ``is_worst_case`` the error is the largest that occurs instead. ``shift_mm`` (to the right and down) and
    ``rotation_deg`` (clockwise about the middle) are where white was measured to lie against colour; as long as nobody
    puts that right it counts as error. ``spread`` tells how the error grows from the middle of the print; ``sigma_mm``
    is then its mean over all places.
    """

    sigma_mm: float = 0.08
    squeeze_mm: float = 0.03
    is_worst_case: bool = False
    shift_mm: tuple[float, float] = (0.0, 0.0)
    rotation_deg: float = 0.0
    spread: Spread | None = None

    def of_size(self, width_mm: float, height_mm: float) -> "Registration":
        """The same with what was measured in its σ, for a print of a size: the root mean square over all edges.

        >>> Registration(0.06, shift_mm=(0.08, 0.08)).of_size(100, 100).sigma_mm
        0.1
        """
        if self.shift_mm == (0.0, 0.0) and self.rotation_deg == 0:
            return self
        off = (self.shift_mm[0] ** 2 + self.shift_mm[1] ** 2) / 2
        still = replace(self, shift_mm=(0.0, 0.0), rotation_deg=0.0)
        turn = math.radians(self.rotation_deg)
        return still.spread_by(Spread(math.sqrt(self.sigma_mm**2 + off), turn, 0.0, width_mm, height_mm))

    def spread_by(self, spread: Spread) -> "Registration":
        """The same with an error that depends on the place; ``sigma_mm`` is its mean."""
        grows = spread if spread.turn_rad or spread.stretch else None
        return replace(self, sigma_mm=round(spread.mean_mm, 4), spread=grows)

    @property
    def worst_sigma_mm(self) -> float:
        """σ at the worst place of the print: a corner, where the error grows from the middle, else anywhere."""
        return self.sigma_mm if self.spread is None else self.spread.worst_mm

    @property
    def reach_mm(self) -> float:
        """How far white may come to lie outside its place at the worst place: the worst error, or two σ (assumed), and
        the squeeze.
        """
        return self.worst_sigma_mm * (1 if self.is_worst_case else _SIGMAS) + self.squeeze_mm

    def reaches_mm(self, x_mm: NDArray[np.float64], y_mm: NDArray[np.float64]) -> NDArray[np.float64]:
        """The same at places from the middle of the print, by the worst direction there."""
        if self.spread is None:
            return np.full(np.broadcast_shapes(x_mm.shape, y_mm.shape), self.reach_mm)
        return self.spread.sigma_mm(x_mm, y_mm) * _SIGMAS + self.squeeze_mm

    @property
    def no_peek_mm(self) -> float:
        """The least choke, in hundredths of a millimetre, beyond which white does not reach at the worst place."""
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

    def spread(self, width_mm: float, height_mm: float) -> Spread:
        """The error over a print of a size."""
        return Spread(self.shift_mm, math.radians(self.skew_deg), self.stretch_percent / 100, width_mm, height_mm)
