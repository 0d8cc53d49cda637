"""The screen that a press starts with: held by the press itself, and followed from press to press."""

import itertools
from dataclasses import replace

import pytest

from swaddon.core.holes.held import LPI_STEP, features, usual_screen
from swaddon.core.holes.screen import rule
from swaddon.core.holes.settings import PATTERNS, HoleSettings, RegionRule, Screen
from swaddon.core.plan.variants import Axes, GarmentChoice, UsualHoles, variants_of
from swaddon.io import profiles
from swaddon.session import edits
from swaddon.session.job import Job, first_settings

PRESSES = profiles.shipped_names()
RULED = tuple(pattern for pattern in PATTERNS if pattern != "tile")


@pytest.mark.parametrize("pattern", RULED)
@pytest.mark.parametrize("name", PRESSES)
def test_a_press_holds_what_it_starts_with_and_not_the_next_finer(name, pattern):
    """Lines started at 27 lpi on toner once: holes of 0.14 mm, where 0.25 mm stay open."""
    press = profiles.shipped(name)
    usual = usual_screen(press, pattern)
    assert features(rule(usual, {}, press.plan_ppi), press.plan_ppi).is_held(press.holds)
    assert usual.lpi <= press.printing.screen_lpi
    if usual.lpi < press.printing.screen_lpi:
        what = features(rule(replace(usual, lpi=usual.lpi + LPI_STEP), {}, press.plan_ppi), press.plan_ppi)
        assert what.ink_mm < press.holds.dot_mm * 1.01 or what.hole_mm < press.holds.hole_mm * 1.01


def test_lines_of_film_and_toner_by_hand():
    """15 % of 25.4 / lpi is the hole: 25.4 · 0.15 / 0.15 = 25.4 lpi on film, / 0.25 = 15.2 lpi on toner; next half."""
    assert usual_screen(profiles.shipped("film"), "line").lpi == 25.0
    assert usual_screen(profiles.shipped("toner-onepass"), "line").lpi == 15.0
    assert usual_screen(profiles.shipped("film")) == Screen("round", 35.0, 52.5)


def test_a_press_with_coarse_holes_starts_coarser():
    film = profiles.shipped("film")
    own = replace(film, holds=replace(film.holds, hole_mm=0.6))
    assert 14 < usual_screen(own).lpi < 16, "holes of 36 % of a cell: 25.4 · 0.358 / 0.6 = 15.2"
    none = replace(film, holds=replace(film.holds, hole_mm=9.0))
    assert usual_screen(none).lpi == pytest.approx(5.0), "the coarsest there is"


@pytest.mark.parametrize("pattern", RULED)
@pytest.mark.parametrize(("one", "other"), list(itertools.permutations(PRESSES, 2)))
def test_a_ruling_that_nobody_touched_follows_the_press(one, other, pattern):
    first, second = profiles.shipped(one), profiles.shipped(other)
    start, goal = usual_screen(first, pattern), usual_screen(second, pattern)
    rules = (RegionRule(replace(start, share=0.7), ((1.0, 1.0),)), RegionRule(None, ((2.0, 2.0),)))
    settings = replace(first_settings(first), holes=HoleSettings(start, rules))
    taken = edits.set_profile(second).made(Job(profile=first, settings=settings)).settings.holes
    assert taken.default == goal
    assert [item.screen for item in taken.rules] == [replace(goal, share=0.7), None]
    touched = replace(settings, holes=HoleSettings(replace(start, lpi=22.5)))
    stays = edits.set_profile(second).made(Job(profile=first, settings=touched)).settings.holes
    assert stays.default is not None
    assert stays.default.lpi == 22.5


def test_variants_have_the_holes_of_their_own_press():
    presses = tuple(map(profiles.shipped, PRESSES))
    axes = Axes((GarmentChoice("black", (27, 27, 31)),), presses, holes=(UsualHoles("lines", pattern="line"),))
    for variant in variants_of(axes):
        settings = variant.on(first_settings(variant.press))
        assert settings.holes.default == usual_screen(variant.press, "line")
