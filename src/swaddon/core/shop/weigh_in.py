"""What a weigh-in tells of a press: constants refitted, weights that cannot be, a drifting scale, what is not told apart.

Least squares (Lawson & Hanson 1974) would do with many prints; with few, the maker's or assumed figures are the better
half of the answer, so they are the prior (``refit``), and every constant stays above zero.
"""

from collections.abc import Sequence
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from swaddon.core.errors import PlanError
from swaddon.core.press.profile import PressProfile
from swaddon.core.shop.refit import Fit, Prior, refit, unmeasured
from swaddon.core.shop.sureness import Sure, sure_of
from swaddon.core.shop.weighing import SCALE_G, Row, Weighing, keys_of, prior_of, rows_of

_GATE = 4.0
"""A reading further off than so many standard deviations from what all others say is left out."""

_DRIFT_GATE = 3.0
_DRIFT_READINGS = 6
_APART, _UNSURE = 0.5, 0.4
"""Correlation, and share of the spread before, from which two constants are not told apart."""


@dataclass(frozen=True)
class Residual:
    """One reading against what the refitted constants make of it; weights in g, ``sds`` in standard deviations."""

    name: str
    row: int
    what: str
    weighed_g: float
    predicted_g: float
    sds: float
    is_left_out: bool


@dataclass(frozen=True)
class LeftOut:
    """A row that cannot be: what is told of it."""

    name: str
    row: int
    sentence: str


@dataclass(frozen=True)
class Drift:
    """What the scale, or the press, does over the rows: ``kind`` is ``offset``, ``ramp`` or ``gain``."""

    kind: str
    amount: float
    sds: float
    row: int
    sentence: str


@dataclass(frozen=True, eq=False)
class WeighIn:
    """What a weigh-in tells.

    Attributes
    ----------
    before, after
        Constants as they were before anything was weighed, and as refitted.
    covariance
        Of the logarithms of those after.
    """

    before: tuple[Sure, ...]
    after: tuple[Sure, ...]
    covariance: NDArray[np.float64]
    residuals: tuple[Residual, ...]
    left_out: tuple[LeftOut, ...]
    drift: Drift | None
    not_apart: tuple[tuple[str, str, float], ...]
    fit: Fit = field(repr=False)


def weigh_in(press: PressProfile, weighings: Sequence[Weighing]) -> WeighIn:
    """Refit the constants of a press to what was weighed.

    Raises
    ------
    PlanError
        One sentence that names the row: weights that shrink, an ink that the press has not, nothing weighed.
    """
    keys = keys_of(press, weighings)
    rows = [row for weighing in weighings for row in rows_of(weighing, press, keys)]
    if not rows:
        raise PlanError("Nothing was weighed: give blank and printed weights, or a bottle before and after a run.")
    prior = prior_of(press, keys)
    kept, gone = _without_outliers(prior, rows)
    _refuse_shrunken(gone, rows)
    if not kept:
        raise PlanError(f"No weight can be right: {_told(gone[0][0], gone[0][1])}.")
    drift, fit = _drift(prior, kept)
    spread = np.sqrt(np.clip(np.diag(fit.covariance), 0.0, None))
    was, now = np.exp(prior.mean).tolist(), fit.theta.tolist()
    before = tuple(_sure(press, key, value, sd) for key, value, sd in zip(keys, was, prior.sd, strict=True))
    after = tuple(_sure(press, key, value, sd) for key, value, sd in zip(keys, now, spread, strict=True))
    out = {(row.weighing.row, row.what) for row, _ in gone}
    return WeighIn(
        before=before,
        after=after,
        covariance=fit.covariance,
        residuals=tuple(_residual(row, fit, (row.weighing.row, row.what) in out) for row in rows),
        left_out=tuple(LeftOut(row.weighing.name, row.weighing.row, _told(row, sds)) for row, sds in gone),
        drift=drift,
        not_apart=_not_apart(keys, fit, prior),
        fit=fit,
    )


def _sure(press: PressProfile, key: str, value: float, sd: float) -> Sure:
    """A constant with a value and spread of its own."""
    base = sure_of(press, key)
    return Sure(key, base.title, base.unit, float(value), float(sd), base.source)


def _without_outliers(prior: Prior, rows: Sequence[Row]) -> tuple[list[Row], list[tuple[Row, float]]]:
    """Readings that agree, and those that all others say cannot be, with how far off they are; the worst goes first.

    A row whose printed weight cannot be loses its powder with it: both hang on the same weight.
    """
    kept, gone = list(rows), []
    first = unmeasured(prior)
    while kept:
        offs = [_off(_fit_without(prior, kept, at), row) for at, row in enumerate(kept)]
        strange = [at for at, off in enumerate(offs) if abs(off) > _GATE]
        if not strange:
            break
        worst = max(strange, key=lambda at: abs(_off(first, kept[at])))
        row = kept.pop(worst)
        gone.append((row, offs[worst]))
        if row.what == "ink":
            kept = [other for other in kept if other.weighing.row != row.weighing.row or other.what != "powder"]
    return kept, gone


def _fit_without(prior: Prior, rows: Sequence[Row], at: int) -> Fit:
    return refit(prior, [row.reading for index, row in enumerate(rows) if index != at])


def _off(fit: Fit, row: Row) -> float:
    value, sd = fit.predicted(row.reading)
    return (row.reading.value - value) / sd


def _refuse_shrunken(gone: Sequence[tuple[Row, float]], rows: Sequence[Row]) -> None:
    """Powder that takes weight away is no powder, unless the weight before it was found wrong."""
    wrong = {row.weighing.row for row, _ in gone if row.what == "ink"}
    for row in rows:
        if row.what == "powder" and row.reading.value < 0 and row.weighing.row not in wrong:
            raise PlanError(
                f"{row.weighing.what} shrinks: {row.weighing.powdered_g:g} g powdered after "
                f"{row.weighing.printed_g:g} g printed; weigh it again, with the same tray under it each time."
            )


def _told(row: Row, sds: float) -> str:
    """What is told of a reading that cannot be."""
    how = "more" if sds > 0 else "less"
    why = "was the tare forgotten?" if sds > 0 else "was the tray left off, or another print weighed?"
    return (
        f"{row.weighing.what}: its {row.what} weighs {abs(row.reading.value):.2f} g, far {how} than it can "
        f"({abs(sds):.0f} standard deviations); {why} It is left out"
    )


def _drift(prior: Prior, rows: Sequence[Row]) -> tuple[Drift | None, Fit]:
    """Whether readings lean over the rows, and the constants with that taken off."""
    readings = [row.reading for row in rows]
    plain = refit(prior, readings)
    times = np.array([row.weighing.at for row in rows])
    if len(rows) < _DRIFT_READINGS or float(np.ptp(times)) == 0:
        return None, plain
    elapsed = times - times.min()
    predicted = np.array([plain.predicted(reading)[0] for reading in readings])
    shapes = {"offset": np.ones(len(rows)), "ramp": elapsed, "gain": elapsed * predicted}
    found = []
    for kind, shape in shapes.items():
        leaning = refit(prior, readings, shape)
        if leaning.bias_sd > 0 and abs(leaning.bias) > _DRIFT_GATE * leaning.bias_sd:
            found.append((abs(leaning.bias) / leaning.bias_sd, kind, leaning))
    if not found:
        return None, plain
    sds, kind, leaning = max(found, key=lambda item: item[0])
    row = _first_told(kind, leaning, rows, elapsed)
    return Drift(kind, leaning.bias, sds, row.row, _drift_sentence(kind, leaning.bias, row, elapsed)), leaning


def _first_told(kind: str, fit: Fit, rows: Sequence[Row], elapsed: NDArray[np.float64]) -> Weighing:
    """The first row in which a drift is more than the scale's own noise."""
    for row, time in zip(rows, elapsed.tolist(), strict=True):
        size = {"offset": 1.0, "ramp": time, "gain": time * row.reading.value}[kind]
        if abs(fit.bias) * size > 2 * SCALE_G:
            return row.weighing
    return rows[-1].weighing


def _drift_sentence(kind: str, amount: float, row: Weighing, elapsed: NDArray[np.float64]) -> str:
    sign = "more" if amount > 0 else "less"
    if kind == "offset":
        return (
            f"Every difference weighs {abs(amount):.2f} g {sign} than constants can make it, told from {_in(row)} on: "
            "the scale does not come back to zero; tare it before each weight. It was taken off"
        )
    whole = abs(amount) * float(elapsed.max())
    size = f"{whole:.2f} g" if kind == "ramp" else f"{whole:.1%}"
    return (
        f"The scale drifts: the last row weighs {size} {sign} than it would at first, told from {_in(row)} on; let it "
        "warm up, keep draughts off, tare before each weight. The drift was taken off"
    )


def _in(weighing: Weighing) -> str:
    return f"row {weighing.row}"


def _residual(row: Row, fit: Fit, is_left_out: bool) -> Residual:
    predicted, _ = row.reading.predicted(fit.theta)
    noise = row.reading.sd(predicted) * fit.noise_factor
    off = (row.reading.value - predicted) / noise
    return Residual(row.weighing.name, row.weighing.row, row.what, row.reading.value, predicted, off, is_left_out)


def _not_apart(keys: Sequence[str], fit: Fit, prior: Prior) -> tuple[tuple[str, str, float], ...]:
    """Pairs of constants that were weighed only together: correlated, and each hardly surer than before."""
    sd = np.sqrt(np.clip(np.diag(fit.covariance), 1e-12, None))
    together = fit.covariance / np.outer(sd, sd)
    unsure = sd > _UNSURE * prior.sd
    return tuple(
        (keys[i], keys[j], float(together[i, j]))
        for i in range(len(keys))
        for j in range(i + 1, len(keys))
        if unsure[i] and unsure[j] and abs(together[i, j]) > _APART
    )
