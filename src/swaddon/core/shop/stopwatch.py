"""Print times by the stopwatch: fixed time, turn-round and carriage speed refitted as weights refit lay-down.

A print takes fixed + bands × turn-round + travel ÷ speed; prints of one width tell turn-round and speed only together.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from swaddon.core.errors import PlanError
from swaddon.core.press.profile import PressProfile
from swaddon.core.shop.refit import Fit, Prior, Reading, refit
from swaddon.core.shop.sureness import Sure, first_value, stated_log_sd, sure_of

KEYS = ("time.fixed_s", "time.turn_round_s", "time.carriage_speed_mm_s")

HAND_S = 0.7
"""Standard deviation of a time taken by hand (assumed)."""

RUN_SHARE = 0.01
"""How much prints of one plan differ in time, as a share (assumed)."""

_GATE = 5.0


@dataclass(frozen=True)
class Timing:
    """One print that was timed: its bands, how far the carriage went, and the seconds it took."""

    name: str
    row: int
    bands: int
    travel_mm: float
    seconds: float


@dataclass(frozen=True, eq=False)
class TimeIn:
    """What times tell: constants before and after, covariance of their logarithms, residuals in s, rows left out."""

    before: tuple[Sure, ...]
    after: tuple[Sure, ...]
    covariance: NDArray[np.float64]
    residuals: tuple[tuple[Timing, float, bool], ...]
    left_out: tuple[str, ...]
    fit: Fit


def time_in(press: PressProfile, timings: Sequence[Timing]) -> TimeIn:
    """Refit the time constants of a press; raises ``PlanError`` where there is no time to refit them to."""
    if not timings:
        raise PlanError("No print was timed: give the seconds of at least one print.")
    prior = _prior(press)
    readings = [_reading(timing) for timing in timings]
    kept = list(range(len(timings)))
    gone: list[int] = []
    while len(kept) > 1:
        offs = []
        for at in kept:
            fit = refit(prior, [readings[other] for other in kept if other != at])
            value, sd = fit.predicted(readings[at])
            offs.append(abs(timings[at].seconds - value) / sd)
        if max(offs) <= _GATE:
            break
        gone.append(kept.pop(int(np.argmax(offs))))
    fit = refit(prior, [readings[at] for at in kept])
    spread = np.sqrt(np.diag(fit.covariance))
    off = [timing.seconds - fit.predicted(reading)[0] for timing, reading in zip(timings, readings, strict=True)]
    residuals = tuple(
        (timing, float(apart), at in gone) for at, (timing, apart) in enumerate(zip(timings, off, strict=True))
    )
    told = tuple(
        f"Row {timings[at].row} ({timings[at].name}) took {abs(off[at]):.0f} s {'more' if off[at] > 0 else 'less'} "
        "than all others say: was the printer paused, or another print timed? It is left out"
        for at in sorted(gone)
    )
    return TimeIn(
        _told(press, np.exp(prior.mean), prior.sd),
        _told(press, fit.theta, spread),
        fit.covariance,
        residuals,
        told,
        fit,
    )


def _prior(press: PressProfile) -> Prior:
    """As constants that are multiplied: of the speed, its inverse."""
    values = [max(first_value(press, key), 1e-6) for key in KEYS]
    values[2] = 1 / values[2]
    return Prior(np.log(values), np.array([stated_log_sd(press, key) for key in KEYS]))


def _reading(timing: Timing) -> Reading:
    linear = np.array([1.0, float(timing.bands), timing.travel_mm])
    return Reading(timing.seconds, linear, noise=HAND_S, relative_noise=RUN_SHARE)


def _told(press: PressProfile, theta: NDArray[np.float64], spread: NDArray[np.float64]) -> tuple[Sure, ...]:
    values = [float(theta[0]), float(theta[1]), 1 / float(theta[2])]
    out = []
    for key, value, sd in zip(KEYS, values, spread.tolist(), strict=True):
        base = sure_of(press, key)
        out.append(Sure(key, base.title, base.unit, value, float(sd), base.source))
    return tuple(out)


def print_time_pm(sure: Sequence[Sure], bands: int, travel_mm: float, covariance: NDArray[np.float64]) -> float:
    """95 % interval of a print time, in s, by what the constants are unsure."""
    fixed, turn, speed = (item.value for item in sure)
    slope = np.array([fixed, bands * turn, travel_mm / speed])
    return 1.96 * math.sqrt(max(0.0, float(slope @ covariance @ slope)))
