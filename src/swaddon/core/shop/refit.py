"""Constants refitted to what was measured of them: lognormal prior, Student-t noise, maximum a posteriori.

The logarithms of the constants get a normal prior; residuals count with the weights of a Student-t distribution of four
degrees of freedom (Lange, Little & Taylor 1989), so that a poor reading pulls little; Gauss–Newton steps find the
maximum, its curvature the covariance. The noise itself is re-estimated, held near what is expected of it while readings
are few.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Vector = NDArray[np.float64]

_DEGREES = 4.0
_STEPS, _SETTLED = 40, 1e-6
_NORMAL_SHARE = 0.79
"""Mean of weight × squared residual where residuals are normal, in units of their variance (numerical integration)."""

_NOISE_READINGS, _TOLD_READINGS = 4.0, 2.0
"""Readings that the expected noise is worth, against those that tell of it: to judge a reading, and to tell how sure
constants are (assumed)."""

_ROBUST = 1.138
"""How much larger the variance of estimates by these weights is than their curvature says, where readings are normal:
E[ψ²] / E[ψ′]² · E[weight] (Huber 1964; by numerical integration)."""

_LONGEST_STEP = 1.0


@dataclass(frozen=True, eq=False)
class Reading:
    """One measured number as constants make it: ``sum + product``, with constants θ by their index.

    Attributes
    ----------
    value
        What was measured.
    linear
        ``float64 (n,)``: the number per unit of each constant.
    factor, times
        Index of a constant that multiplies ``times · θ``, ``float64 (n,)``; -1: none does.
    noise, relative_noise
        Standard deviations expected: fixed, in the unit of the value, and as a share of it.
    """

    value: float
    linear: Vector
    factor: int = -1
    times: Vector | None = None
    noise: float = 0.0
    relative_noise: float = 0.0

    def predicted(self, theta: Vector) -> tuple[float, Vector]:
        """The number by these constants, and its slope by their logarithms."""
        value, slope = float(self.linear @ theta), self.linear * theta
        if self.factor >= 0 and self.times is not None:
            inner = float(self.times @ theta)
            value += theta[self.factor] * inner
            slope = slope + theta[self.factor] * self.times * theta
            slope[self.factor] += theta[self.factor] * inner
        return value, slope

    def sd(self, predicted: float) -> float:
        """Noise expected of a number of that size."""
        return math.hypot(self.noise, self.relative_noise * abs(predicted))


@dataclass(frozen=True, eq=False)
class Prior:
    """Logarithms of the constants before anything was measured: mean and standard deviation, ``float64 (n,)``."""

    mean: Vector
    sd: Vector


@dataclass(frozen=True, eq=False)
class Fit:
    """Constants as readings make them.

    Attributes
    ----------
    mean, covariance
        Of the logarithms of the constants, ``float64 (n,)`` and ``(n, n)``.
    bias, bias_sd
        What was added to readings along the bias asked for; 0 without one.
    noise_factor
        How much larger the noise is than expected.
    """

    mean: Vector
    covariance: Vector
    bias: float = 0.0
    bias_sd: float = 0.0
    noise_factor: float = 1.0

    @property
    def theta(self) -> Vector:
        """The constants, ``float64 (n,)``."""
        return np.asarray(np.exp(self.mean), np.float64)

    def predicted(self, reading: Reading) -> tuple[float, float]:
        """What a reading should be, and the standard deviation of it by what constants and noise are unsure."""
        value, slope = reading.predicted(self.theta)
        noise = reading.sd(value) * self.noise_factor
        return value, math.sqrt(max(0.0, float(slope @ self.covariance @ slope)) + noise**2)


def unmeasured(prior: Prior) -> Fit:
    """The constants with no reading at all."""
    return Fit(prior.mean.copy(), np.diag(prior.sd**2))


def refit(
    prior: Prior,
    readings: Sequence[Reading],
    bias: Vector | None = None,
    bias_sd: float = 1e3,
    start: Fit | None = None,
    tells: bool = False,
) -> Fit:
    """Refit constants to readings.

    Parameters
    ----------
    prior
        What is known before.
    readings
        What was measured; with none the prior stands.
    bias
        ``float64 (m,)``: a number added to each reading is this times an unknown one (a drift, say); none: nothing is.
    bias_sd
        Spread of that unknown number before.
    start
        A fit that this one is near, to begin with.
    tells
        Whether intervals are told of it: the noise is then less held to what was expected of it, and the covariance as
        wide as robust weights and a noise told by few readings make it. To judge single readings by, the expected noise
        is the better yardstick.
    """
    if not readings:
        return unmeasured(prior)
    size = prior.mean.size
    lines = np.zeros((len(readings), 0)) if bias is None else bias[:, None]
    extra = lines.shape[1]
    state = np.concatenate([prior.mean, np.zeros(extra)])
    centre = state.copy()
    inverse = np.diag(1 / np.concatenate([prior.sd, np.full(extra, bias_sd)]) ** 2)
    if start is not None:
        state[:size] = start.mean
        state[size:] = start.bias
    stacked = _Stack.of(readings)
    expected_for = _TOLD_READINGS if tells else _NOISE_READINGS
    factor, curvature = 1.0 if start is None else start.noise_factor, inverse
    for _ in range(_STEPS):
        expected, slopes, sds = stacked.linear_at(np.exp(state[:size]))
        slopes = np.hstack([slopes, lines])
        off = stacked.values - expected - lines @ state[size:]
        weights = (_DEGREES + 1) / (_DEGREES + (off / (sds * factor)) ** 2)
        weighted = slopes * (weights / (sds * factor) ** 2)[:, None]
        curvature = inverse + slopes.T @ weighted
        step = np.linalg.solve(curvature, weighted.T @ off - inverse @ (state - centre))
        step *= min(1.0, _LONGEST_STEP / max(1e-12, float(np.abs(step[:size]).max(initial=0.0))))
        state = state + step
        used = float(np.trace(np.linalg.solve(curvature, slopes.T @ weighted)))
        spread = float((weights * (off / sds) ** 2).sum()) / _NORMAL_SHARE + expected_for
        factor = math.sqrt(spread / max(1.0, len(readings) - used + expected_for))
        if float(np.abs(step).max()) < _SETTLED:
            break
    if tells:
        known = (curvature - inverse) / (_ROBUST * _unknown_noise(len(readings) - used + expected_for))
        curvature = inverse + known
    covariance = np.asarray(np.linalg.inv(curvature), np.float64)
    own = covariance[:size, :size]
    if not extra:
        return Fit(state[:size], own, noise_factor=factor)
    return Fit(state[:size], own, float(state[size]), math.sqrt(float(covariance[size, size])), factor)


def _unknown_noise(degrees: float) -> float:
    """How much wider a variance is taken since its noise is told by few readings: Student’s t for the normal at 95 %.

    By the expansion of Fisher and Cornish (1960); from memory.

    >>> [round(_unknown_noise(degrees) ** 0.5 * 1.96, 2) for degrees in (4, 10, 100)]
    [2.73, 2.23, 1.98]
    """
    z, v = 1.96, max(1.0, degrees)
    t = z + (z**3 + z) / (4 * v) + (5 * z**5 + 16 * z**3 + 3 * z) / (96 * v**2)
    return (t / z) ** 2


@dataclass(frozen=True, eq=False)
class _Stack:
    """Readings one upon the other: :meth:`Reading.predicted` and :meth:`Reading.sd` of all at once."""

    values: Vector
    linear: Vector
    times: Vector
    factors: NDArray[np.intp]
    noise: Vector
    relative: Vector

    @classmethod
    def of(cls, readings: Sequence[Reading]) -> "_Stack":
        return cls(
            np.array([item.value for item in readings]),
            np.array([item.linear for item in readings]),
            np.array([np.zeros_like(item.linear) if item.times is None else item.times for item in readings]),
            np.array([max(item.factor, 0) for item in readings]),
            np.array([item.noise for item in readings]),
            np.array([item.relative_noise for item in readings]),
        )

    def linear_at(self, theta: Vector) -> tuple[Vector, Vector, Vector]:
        """Readings as these constants make them, their slopes by the constants' logarithms, and their noise."""
        inner, outer = self.times @ theta, theta[self.factors]
        expected = self.linear @ theta + outer * inner
        slopes = (self.linear + outer[:, None] * self.times) * theta
        slopes[np.arange(len(inner)), self.factors] += outer * inner
        return expected, slopes, np.maximum(np.hypot(self.noise, self.relative * np.abs(expected)), 1e-9)
