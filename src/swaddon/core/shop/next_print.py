"""Which print to weigh next: the one that narrows the constants most, and a routine of patches that tells all of them.

The gain of a print is the drop of the logarithm of the determinant of their covariance (D-optimality; Wald 1943).
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from swaddon.core.press.profile import PressProfile
from swaddon.core.shop.refit import Reading
from swaddon.core.shop.sureness import Z95, Sureness
from swaddon.core.shop.weighing import Print, reading_of

PATCH_MM = 200.0
"""Side of a patch of the routine."""

_NAMES = {"W": "white", "K": "black", "M": "magenta", "C": "cyan", "Y": "yellow"}

Matrix = NDArray[np.float64]


@dataclass(frozen=True)
class Candidate:
    """A print that could be weighed; ``ink`` is that of a patch, empty for a job's own print."""

    name: str
    of: Print
    ink: str = ""


@dataclass(frozen=True)
class NextBest:
    """The print to weigh next: why, and how much it narrows (drop of the log determinant)."""

    candidate: Candidate
    reason: str
    gain: float


def patches(press: PressProfile) -> tuple[Candidate, ...]:
    """The routine: one full patch of each ink, white with all its hits; weighed blank, printed and powdered."""
    area = (PATCH_MM / 1000) ** 2
    inks = [ink for ink in _NAMES if ink in press.inks or (ink == "W" and press.has_white)]
    out = []
    for ink in inks:
        full = dict.fromkeys((*press.inks, *(["W"] if press.has_white else [])), 0.0)
        full[ink] = area * (sum(press.hits) if ink == "W" else 1.0)
        pretreat = area if press.pretreat is not None and ink == "W" else 0.0
        out.append(
            Candidate(f"Patch of {_NAMES[ink]}, {PATCH_MM:g} × {PATCH_MM:g} mm", Print(full, area, pretreat), ink)
        )
    return tuple(out)


def weights_of(of: Print, press: PressProfile, keys: Sequence[str]) -> list[Reading]:
    """The differences that a print gives when it is weighed at every step."""
    kinds = ["ink", *(["powder"] if press.powder is not None else [])]
    if press.pretreat is not None and of.pretreat_m2 > 0:
        kinds.append("pretreat")
    return [reading_of(kind, of, press, keys) for kind in kinds]


def after_weighing(sure: Sureness, readings: Sequence[Reading]) -> Matrix:
    """Covariance of the logarithms of constants as it would be after more readings, ``float64 (n, n)``."""
    theta = np.array([item.value for item in sure.constants])
    inverse = np.linalg.inv(sure.covariance + 1e-12 * np.eye(len(theta)))
    for reading in readings:
        value, slope = reading.predicted(theta)
        if value > 0:
            inverse = inverse + np.outer(slope, slope) / reading.sd(value) ** 2
    return np.asarray(np.linalg.inv(inverse), np.float64)


def next_best(press: PressProfile, sure: Sureness, candidates: Sequence[Candidate]) -> NextBest:
    """The candidate whose weights narrow the constants most, and which of them it narrows."""
    _, before = np.linalg.slogdet(sure.covariance + 1e-12 * np.eye(len(sure.keys)))
    best: tuple[float, Candidate, Matrix] | None = None
    for candidate in candidates:
        after = after_weighing(sure, weights_of(candidate.of, press, sure.keys))
        gain = float(before - np.linalg.slogdet(after)[1])
        if best is None or gain > best[0]:
            best = gain, candidate, after
    assert best is not None
    gain, candidate, after = best
    narrowed = np.sqrt(np.diag(after) / np.maximum(np.diag(sure.covariance), 1e-12))
    at = int(narrowed.argmin())
    item = sure.constants[at]
    spread = math.sqrt(max(0.0, float(after[at, at])))
    reason = (
        f"{item.title}: ± {100 * math.sinh(Z95 * item.log_sd):.0f} % becomes ± {100 * math.sinh(Z95 * spread):.0f} %"
    )
    return NextBest(candidate, reason, gain)
