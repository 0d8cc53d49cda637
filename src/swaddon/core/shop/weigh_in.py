"""What a weigh-in tells of a press: constants refitted, weights that cannot be, a scale that drifts, what stays unsure.

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

_SUSPECT = 1.5
"""By the same measure, about, from which it is worth looking at."""

_DRIFT_GATE = 3.0
_DRIFT_READINGS = 6
_LEANS = ("offset", "ramp", "since blank", "gain")
"""How a drift shows: the same in each difference, more from row to row, more since all blanks were weighed, or as a
share of the weight."""

_COST_OF_A_ROW, _COST_OF_A_DRIFT = 8.0, 4.0
"""What leaving a reading out, and taking a drift off, must be worth in log likelihood (assumed)."""

_UNSURE, _TOGETHER = 0.5, 0.5
"""Share of the spread before, and information that weights have of two constants at once, from which they are told only
together."""


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
    """What the scale, or the press, does over the rows: ``kind`` is one of ``_LEANS``."""

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
    not_apart: tuple[tuple[str, ...], ...]
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
    found = min(_ways(prior, rows), key=lambda way: way.score)
    gone = found.gone
    _refuse_shrunken(gone, rows)
    if not found.kept:
        raise PlanError(f"No weight can be right: {_told(gone[0][0], gone[0][1])}.")
    lean = _lean(found.kind, found.kept, prior)
    fit = refit(prior, [row.reading for row in found.kept], lean, start=found.fit, tells=True)
    drift = None if not found.kind else _drift_of(found, min(row.weighing.at for row in rows))
    spread = np.sqrt(np.clip(np.diag(fit.covariance), 0.0, None))
    was, now = np.exp(prior.mean).tolist(), fit.theta.tolist()
    before = tuple(_sure(press, key, value, sd) for key, value, sd in zip(keys, was, prior.sd, strict=True))
    after = tuple(_sure(press, key, value, sd) for key, value, sd in zip(keys, now, spread, strict=True))
    out = {id(row) for row in rows} - {id(row) for row in found.kept}
    return WeighIn(
        before=before,
        after=after,
        covariance=fit.covariance,
        residuals=tuple(_residual(row, fit, id(row) in out) for row in rows),
        left_out=tuple(LeftOut(row.weighing.name, row.weighing.row, _told(row, sds)) for row, sds in gone),
        drift=drift,
        not_apart=_not_apart(keys, fit, prior, found.kept),
        fit=fit,
    )


def _sure(press: PressProfile, key: str, value: float, sd: float) -> Sure:
    """A constant with a value and spread of its own."""
    base = sure_of(press, key)
    return Sure(key, base.title, base.unit, float(value), float(sd), base.source)


@dataclass(frozen=True, eq=False)
class _Way:
    """One way to read the weights: with what was left out, and the lean that was taken off (empty: none)."""

    kind: str
    fit: Fit
    kept: tuple[Row, ...]
    gone: tuple[tuple[Row, float], ...]
    score: float


def _ways(prior: Prior, rows: Sequence[Row]) -> list[_Way]:
    """The weights as they stand, and with each lean that they show clearly."""
    plain = _without_outliers(prior, rows, "")
    out = [plain]
    times = [row.weighing.at for row in rows]
    if len(rows) < _DRIFT_READINGS or max(times) == min(times):
        return out
    for kind in _LEANS:
        for among in (rows, plain.kept):
            leaning = refit(prior, [row.reading for row in among], _lean(kind, among, prior), start=plain.fit)
            if leaning.bias_sd > 0 and abs(leaning.bias) > _DRIFT_GATE * leaning.bias_sd:
                out.append(_without_outliers(prior, rows, kind))
                break
    return out


def _lean(kind: str, rows: Sequence[Row], prior: Prior) -> NDArray[np.float64] | None:
    """How each reading would lean, per unit of the drift; ``None`` for no kind."""
    if not kind:
        return None
    since = np.array([row.weighing.at for row in rows])
    since = since - since.min()
    if kind == "gain":
        return since * np.array([row.reading.predicted(np.exp(prior.mean))[0] for row in rows])
    if kind == "since blank":
        return since * np.array([row.what != "powder" for row in rows])
    return np.ones(len(rows)) if kind == "offset" else np.asarray(since, np.float64)


def _without_outliers(prior: Prior, rows: Sequence[Row], kind: str) -> _Way:
    """Readings that agree, and those that all others say cannot be, with how far off they are; the worst goes first.

    A row whose printed weight cannot be loses its powder with it: both hang on the same weight.
    """
    lean = _lean(kind, rows, prior)
    leans = dict(zip(map(id, rows), np.zeros(len(rows)) if lean is None else lean, strict=True))

    def fitted(among: Sequence[Row]) -> Fit:
        bias = None if not kind else np.array([leans[id(row)] for row in among])
        return refit(prior, [row.reading for row in among], bias)

    kept, gone, first = list(rows), [], unmeasured(prior)
    while kept:
        whole = fitted(kept)
        offs = [
            _off(fitted([*kept[:at], *kept[at + 1 :]]), row, leans[id(row)])
            if _could_be_strange(whole, row, leans[id(row)])
            else 0.0
            for at, row in enumerate(kept)
        ]
        strange = [at for at, off in enumerate(offs) if abs(off) > _GATE]
        if not strange:
            break
        worst = max(strange, key=lambda at: abs(_off(first, kept[at], 0.0)))
        row = kept.pop(worst)
        gone.append((row, offs[worst]))
        if row.what == "ink":
            kept = [other for other in kept if other.weighing.row != row.weighing.row or other.what != "powder"]
    fit = fitted(kept)
    loss = sum(2.5 * float(np.log1p(_residual_sds(fit, row, leans[id(row)]) ** 2 / 4)) for row in kept)
    lost = len(rows) - len(kept)
    return _Way(kind, fit, tuple(kept), tuple(gone), loss + _COST_OF_A_ROW * lost + _COST_OF_A_DRIFT * bool(kind))


def _could_be_strange(fit: Fit, row: Row, lean: float) -> bool:
    """Whether a reading may be far off what the others say, by its leverage on the fit of all of them."""
    predicted, slope = row.reading.predicted(fit.theta)
    noise = row.reading.sd(predicted) * fit.noise_factor
    off = (row.reading.value - predicted - fit.bias * lean) / noise
    weight = 5 / (4 + off**2)
    leverage = weight * float(slope @ fit.covariance @ slope) / noise**2
    return abs(off) > _SUSPECT * max(1e-3, 1 - leverage) ** 0.5


def _off(fit: Fit, row: Row, lean: float) -> float:
    value, sd = fit.predicted(row.reading)
    return (row.reading.value - value - fit.bias * lean) / float(np.hypot(sd, fit.bias_sd * lean))


def _residual_sds(fit: Fit, row: Row, lean: float) -> float:
    """How far a reading is off the fit, in standard deviations of the noise expected."""
    predicted, _ = row.reading.predicted(fit.theta)
    return (row.reading.value - predicted - fit.bias * lean) / row.reading.sd(predicted)


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


def _drift_of(way: _Way, start: float) -> Drift:
    """What the lean of a way is called."""
    elapsed = np.array([row.weighing.at for row in way.kept]) - start
    row = _first_told(way.kind, way.fit, way.kept, elapsed)
    sds = abs(way.fit.bias) / max(way.fit.bias_sd, 1e-12)
    return Drift(way.kind, way.fit.bias, sds, row.row, _drift_sentence(way.kind, way.fit.bias, row, elapsed))


def _first_told(kind: str, fit: Fit, rows: Sequence[Row], elapsed: NDArray[np.float64]) -> Weighing:
    """The first row in which a drift is more than the scale's own noise."""
    for row, time in zip(rows, elapsed.tolist(), strict=True):
        size = {"offset": 1.0, "gain": time * row.reading.value}.get(kind, time)
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
    size = f"{whole:.1%}" if kind == "gain" else f"{whole:.2f} g"
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


def _not_apart(keys: Sequence[str], fit: Fit, prior: Prior, rows: Sequence[Row]) -> tuple[tuple[str, ...], ...]:
    """Groups of constants that only come together in what was weighed, each of them hardly surer than before."""
    unsure = np.sqrt(np.clip(np.diag(fit.covariance), 0.0, None)) > _UNSURE * prior.sd
    shared = np.zeros((len(keys), len(keys)))
    for row in rows:
        predicted, slope = row.reading.predicted(fit.theta)
        shared += np.abs(np.outer(slope, slope)) / row.reading.sd(predicted) ** 2
    together = (shared > _TOGETHER) & np.outer(unsure, unsure)
    groups, left = [], {at for at in range(len(keys)) if unsure[at] and together[at].sum() > 1}
    while left:
        group, edge = set(), {min(left)}
        while edge:
            group |= edge
            edge = {other for at in edge for other in left if together[at, other]} - group
        groups.append(tuple(keys[at] for at in sorted(group)))
        left -= group
    return tuple(groups)
