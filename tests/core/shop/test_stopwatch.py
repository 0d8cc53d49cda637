"""Print times by the stopwatch: constants of time from prints of several sizes."""

import numpy as np
import pytest

from swaddon.core.errors import PlanError
from swaddon.core.shop.stopwatch import KEYS, Timing, print_time_pm, time_in
from swaddon.core.shop.sureness import Z95, value_of
from swaddon.io import profiles

FILM = profiles.shipped("film")
PRINTS = ((20, 20 * 90.0), (46, 46 * 240.0), (60, 60 * 380.0), (46, 46 * 120.0))
"""Bands, and how far the carriage goes."""


def timed(theta: np.ndarray, chance: np.random.Generator) -> list[Timing]:
    """Prints as they take, stopped by hand."""
    out = []
    for row, (bands, travel) in enumerate(PRINTS, start=1):
        seconds = theta[0] + bands * theta[1] + travel / theta[2]
        out.append(Timing(f"print {row}", row, bands, travel, float(seconds + chance.normal(0, 0.7))))
    return out


def test_intervals_of_times_hold():
    """200 presses with hidden constants, timed on four prints: 95 % to 5 points."""
    usual = np.array([value_of(FILM, key) for key in KEYS])
    held = []
    for seed in range(200):
        chance = np.random.default_rng([31, seed])
        theta = usual * np.exp(chance.normal(0, 0.3, 3))
        found = time_in(FILM, timed(theta, chance))
        held.append([abs(item.value - true) <= item.pm for item, true in zip(found.after, theta, strict=True)])
    assert abs(np.mean(held) - 0.95) <= 0.05


def test_a_print_that_was_paused_is_left_out_by_name():
    chance = np.random.default_rng(1)
    usual = np.array([value_of(FILM, key) for key in KEYS])
    rows = timed(usual, chance)
    rows[1] = Timing("paused", 2, *PRINTS[1], rows[1].seconds + 90)
    found = time_in(FILM, rows)
    assert len(found.left_out) == 1
    assert "Row 2 (paused)" in found.left_out[0]
    assert [timing.name for timing, _, out in found.residuals if out] == ["paused"]
    assert found.after[0].value == pytest.approx(14, abs=4)


def test_one_time_already_tells_how_long_such_prints_take():
    """The sum is known though its parts are not: ± of the print's time far below that of the fixed time alone."""
    found = time_in(FILM, [Timing("crest", 1, 46, 46 * 240.0, 70.0)])
    pm = print_time_pm(found.after, 46, 46 * 240.0, found.covariance)
    assert pm < 3
    assert found.after[0].pm > pm
    assert found.fit.covariance[0, 0] == pytest.approx(
        (np.arcsinh(found.after[0].pm / found.after[0].value) / Z95) ** 2
    )


def test_without_a_time_there_is_nothing_to_refit():
    with pytest.raises(PlanError, match="No print was timed"):
        time_in(FILM, [])
