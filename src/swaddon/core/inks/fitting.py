"""Inks from a measured chart: the 16 overprints, the Yule-Nielsen factor, and a curve of dot gain per ink.

Forward model as in ``separation.py``, each coverage first passed through its ink's curve. In the n-th root of
reflectance the overprints are linear, so that they follow from the coverages by least squares; the curves are moved by
damped Gauss-Newton steps on CIELAB (Levenberg 1944, Marquardt 1963); n is tried out.
"""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from swaddon.core.colour.spaces import WHITE_D50, bands_from_lab, delta_e_2000, lab_from_bands, lab_from_xyz
from swaddon.core.errors import PlanError
from swaddon.core.inks.separation import covered, demichel_weights
from swaddon.core.press.profile import INKS, PRIMARY_NAMES

Floats = NDArray[np.floating]

LEAST_PATCHES = 40
CURVE_NODES = 11
"""Steps of a curve: 0, 10, … 100 %."""

_HELD_OUT_EVERY = 5
_FACTORS = np.round(np.arange(1.0, 4.01, 0.25), 2)
_STEPS = 12
_STEP = 1e-3
_SMOOTH = 0.1
"""ΔE that a kink of a whole coverage in a curve counts like: patches that say nothing of a node leave it straight."""


@dataclass(frozen=True, eq=False)
class FittedInks:
    """Inks as they were fitted.

    Attributes
    ----------
    primaries_lab
        ``(16, 3)``, CIELAB (D50) relative to the chart's paper, in the order of ``PRIMARY_NAMES``.
    yule_nielsen_n
        The Yule-Nielsen factor.
    curves
        Of C, M, Y and K: coverage in print where 0, 10, … 100 % were sent.
    patches, held_out
        How many patches there were, and how many of them the fit never saw.
    mean_de, p95_de, held_mean_de, held_p95_de
        ΔE00, mean and 95th percentile, of the fitted patches and of those held out.
    """

    primaries_lab: Floats
    yule_nielsen_n: float
    curves: tuple[tuple[float, ...], ...]
    patches: int
    held_out: int
    mean_de: float
    p95_de: float
    held_mean_de: float
    held_p95_de: float

    def seen(self, cmyk: Floats) -> Floats:
        """CIELAB of coverages 0..1 ``(n, 4)`` by the fitted inks."""
        primaries = np.clip(bands_from_lab(self.primaries_lab), 1e-4, 1)
        return lab_of(covered(cmyk, self.curves), primaries ** (1 / self.yule_nielsen_n), self.yule_nielsen_n)


def lab_of(printed: Floats, roots: Floats, n: float) -> Floats:
    """CIELAB of coverages in print, given the n-th roots of the overprints' reflectances."""
    return np.asarray(lab_from_bands(np.maximum(demichel_weights(printed) @ roots, 1e-6) ** n))


def fit_inks(cmyk: Floats, xyz: Floats, progress: Callable[[str, float], None] = lambda _t, _s: None) -> FittedInks:
    """Fit inks to measured patches.

    Parameters
    ----------
    cmyk
        ``(n, 4)``, coverages 0..1 as sent.
    xyz
        ``(n, 3)``, D50, Y of a perfect white 1.

    Raises
    ------
    PlanError
        One sentence: what the chart lacks.
    """
    _check(cmyk)
    paper = xyz[(cmyk <= 1e-6).all(axis=1)].mean(axis=0)
    lab = np.asarray(lab_from_xyz(xyz / paper * WHITE_D50), np.float64)
    held = _held_out(cmyk)
    own = ~held
    best: tuple[float, float, Floats, Floats] | None = None
    curves: Floats | None = None
    for at, n in enumerate(_FACTORS):
        progress("Fitting the inks", at / (len(_FACTORS) + 1))
        roots, curves = _fit(cmyk[own], lab[own], float(n), _STEPS, curves)
        off = float(delta_e_2000(lab_of(_through(cmyk[own], curves), roots, float(n)), lab[own]).mean())
        if best is None or off < best[0]:
            best = off, float(n), roots, curves
    assert best is not None
    _, n, _, start = best
    roots, curves = _fit(cmyk[own], lab[own], n, 2 * _STEPS, start)
    apart = delta_e_2000(lab_of(_through(cmyk, curves), roots, n), lab)
    return FittedInks(
        primaries_lab=np.asarray(lab_from_bands(roots**n)),
        yule_nielsen_n=n,
        curves=tuple(tuple(round(float(v), 4) for v in curve) for curve in curves),
        patches=len(cmyk),
        held_out=int(held.sum()),
        mean_de=float(apart[own].mean()),
        p95_de=float(np.percentile(apart[own], 95)),
        held_mean_de=float(apart[held].mean()),
        held_p95_de=float(np.percentile(apart[held], 95)),
    )


def _check(cmyk: Floats) -> None:
    if len(cmyk) < LEAST_PATCHES:
        raise PlanError(
            f"The chart has {len(cmyk)} patches: at least {LEAST_PATCHES} are needed, with paper, full inks, their "
            "overprints and steps."
        )
    if not (cmyk <= 1e-6).all(axis=1).any():
        raise PlanError("The chart has no patch without ink: print and measure the bare white too.")
    for ink, name in enumerate(INKS):
        if not cmyk[:, ink].max() > 0.99:
            raise PlanError(f"The chart has no patch with full {name}: print and measure one.")
    weights = demichel_weights(cmyk)
    if np.linalg.matrix_rank(weights, tol=0.05) < len(PRIMARY_NAMES):
        least = PRIMARY_NAMES[int(np.argmin(weights.max(axis=0)))]
        raise PlanError(f"The chart’s patches do not tell all 16 overprints apart: it lacks such as full {least}.")


def _held_out(cmyk: Floats) -> NDArray[np.bool_]:
    """Every fifth patch that is no full overprint: the fit never sees it."""
    tone = ((cmyk > 1e-6) & (cmyk < 1 - 1e-6)).any(axis=1)
    out = np.zeros(len(cmyk), np.bool_)
    out[np.flatnonzero(tone)[2::_HELD_OUT_EVERY]] = True
    return out


def _through(cmyk: Floats, curves: Floats) -> Floats:
    return np.asarray(covered(cmyk, tuple(tuple(curve) for curve in curves)), np.float64)


def _fit(cmyk: Floats, lab: Floats, n: float, steps: int, start: Floats | None = None) -> tuple[Floats, Floats]:
    """Roots of the overprints and curves for one n."""
    curves = np.tile(np.linspace(0, 1, CURVE_NODES), (4, 1)) if start is None else start.copy()
    reflect = np.clip(bands_from_lab(lab), 1e-5, 1.2) ** (1 / n)
    hats = _hats(cmyk)
    printed = _through(cmyk, curves)
    roots = _roots(printed, reflect)
    damping = 1e-2
    off = _residual(printed, lab, roots, curves, n)
    for _ in range(steps):
        jacobian = _jacobian(printed, roots, n, hats)
        normal = jacobian.T @ jacobian
        step = np.linalg.solve(normal + damping * np.diag(np.diag(normal) + 1e-6), -jacobian.T @ off)
        trial = curves.copy()
        trial[:, 1:-1] += step.reshape(4, -1)
        trial = np.maximum.accumulate(np.clip(trial, 0, 1), axis=1)
        moved = _through(cmyk, trial)
        new = _roots(moved, reflect)
        result = _residual(moved, lab, new, trial, n)
        if result @ result < off @ off:
            curves, printed, roots, off, damping = trial, moved, new, result, damping * 0.3
        else:
            damping *= 10
    return roots, curves


def _hats(cmyk: Floats) -> Floats:
    """How much each inner node of its ink's curve counts for a coverage that was sent, ``(n, 4, nodes - 2)``."""
    steps, units = np.linspace(0, 1, CURVE_NODES), np.eye(CURVE_NODES)[1:-1]
    return np.stack([np.interp(cmyk, steps, unit) for unit in units], axis=-1)


def _jacobian(printed: Floats, roots: Floats, n: float, hats: Floats) -> Floats:
    """How the residual follows the inner nodes of the curves.

    A coverage in print is linear in the nodes of its curve. So CIELAB is moved once for each ink and not once for each
    node (chain rule), which takes a ninth of the time.
    """
    here = lab_of(printed, roots, n)
    columns = []
    for ink in range(4):
        moved = printed.copy()
        moved[:, ink] += _STEP
        slope = (lab_of(moved, roots, n) - here) / _STEP
        columns.append((slope[:, :, None] * hats[:, ink, None, :]).reshape(here.size, -1))
    weight = _SMOOTH * len(here) ** 0.5
    kinks = np.diff(np.eye(CURVE_NODES)[1:-1], n=2, axis=1).T * weight
    return np.concatenate([np.concatenate(columns, axis=1), np.kron(np.eye(4), kinks)])


def _roots(printed: Floats, reflect: Floats) -> Floats:
    """Least squares of the overprints' roots, within what reflects."""
    weights = demichel_weights(printed)
    found, *_ = np.linalg.lstsq(weights, reflect, rcond=1e-6)
    return np.clip(found, 0.02, 1.0)


def _residual(printed: Floats, lab: Floats, roots: Floats, curves: Floats, n: float) -> Floats:
    off = (lab_of(printed, roots, n) - lab).ravel()
    kinks = np.diff(curves, n=2, axis=1).ravel() * _SMOOTH * len(lab) ** 0.5
    return np.concatenate([off, kinks])
