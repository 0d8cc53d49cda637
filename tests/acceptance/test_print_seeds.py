"""Test pages on presses with hidden faults, read back: one for each press here, 200 with ``make soak``."""

import multiprocessing
import os
import sys
from concurrent.futures import ProcessPoolExecutor

import numpy as np
import pytest
from tests.seeds import Outcome, outcome

from swaddon.core.errors import PlanError

SOAK = int(os.environ.get("SWADDON_SEEDS", "0"))
SEEDS = SOAK or 3
FIRST = int(os.environ.get("SWADDON_FIRST_SEED", "0"))
PRESSES = ("direct", "film", "toner-onepass")


def _resolutions(seed: int) -> tuple[float, ...]:
    """Both in the long form, one or the other in the short."""
    return (600.0, 300.0) if SOAK else (600.0,) if seed % 3 == 0 else (300.0,)


CASES = [
    (PRESSES[seed % 3 if SOAK else seed % 4 % 3], seed, ppi)
    for seed in range(FIRST, FIRST + SEEDS)
    for ppi in _resolutions(seed)
]


Case = tuple[str, int, float]


def one(case: Case) -> Outcome | str:
    try:
        return outcome(*case)
    except PlanError as error:
        return str(error)


@pytest.mark.skipif(SOAK > 0, reason="the long form tries more of them")
@pytest.mark.parametrize("case", CASES)
def test_what_a_press_hides_is_read_back(case):
    """Wiring, place of white, opacity, gain, and at 600 ppi every blocked nozzle."""
    made = outcome(*case)
    assert made.read["wiring"] == made.truth["wiring"]
    if not made.is_whole:
        return
    assert made.shift_off().max() <= 0.02
    assert made.rotation_off() <= 0.005
    assert made.contrast_off() <= 0.02
    assert made.gain_off() <= 0.015
    if made.ppi == 600:
        assert (made.missed_nozzles(), made.false_nozzles()) == ([], [])


@pytest.fixture(scope="module")
def tried() -> dict[Case, Outcome | str]:
    """Every case of the long form once: what was read, or why it was refused."""
    if not SOAK:
        pytest.skip("only in the long form, make soak")
    with ProcessPoolExecutor(2, mp_context=multiprocessing.get_context("spawn")) as pool:
        return dict(zip(CASES, pool.map(one, CASES), strict=True))


@pytest.fixture(scope="module")
def outcomes(tried: dict[Case, Outcome | str]) -> list[Outcome]:
    return [made for made in tried.values() if isinstance(made, Outcome)]


def test_no_good_scan_is_refused(tried):
    assert {case: made for case, made in tried.items() if isinstance(made, str)} == {}


def test_every_wiring_is_right(outcomes):
    assert [o.read["wiring"] for o in outcomes] == [o.truth["wiring"] for o in outcomes]


def test_place_of_white_opacity_and_gain_are_as_hidden(outcomes):
    whole = [o for o in outcomes if o.is_whole]
    assert whole
    shift = np.concatenate([o.shift_off() for o in whole])
    rotation = np.array([o.rotation_off() for o in whole])
    contrast = np.array([o.contrast_off() for o in whole])
    gain = np.array([o.gain_off() for o in whole])
    held = np.mean([held for o in whole for held in o.held()])
    lines = [
        f"{name}: median {np.median(values):.4f}, 95 % {np.percentile(values, 95):.4f}, most {values.max():.4f}"
        for name, values in (("shift mm", shift), ("rotation °", rotation), ("contrast", contrast), ("gain", gain))
    ]
    sure = np.mean([o.contrast_off() <= o.read["white_contrast_ratio_pm"] for o in whole])
    lines.append(f"{len(whole)} pages whole; within ± place {held:.3f}, contrast {sure:.3f}")
    sys.stdout.write("\n" + "\n".join(lines) + "\n")
    assert shift.max() <= 0.02
    assert rotation.max() <= 0.005
    assert contrast.max() <= 0.02
    assert gain.max() <= 0.015
    assert held >= 0.9 or len(whole) < 30
    assert held <= 0.99 or len(whole) < 100


def test_no_blocked_nozzle_is_missed_at_600_ppi(outcomes):
    fine = [o for o in outcomes if o.ppi == 600 and o.is_whole]
    assert [o.missed_nozzles() for o in fine] == [[] for _ in fine]
    assert sum(len(o.false_nozzles()) for o in fine) <= len(fine) // 20
