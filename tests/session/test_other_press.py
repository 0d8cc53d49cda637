"""Another press brings what it starts with; what was chosen stays and is told, with one fix; everywhere alike."""

import itertools
from dataclasses import replace

import pytest
from tests.conftest import badge, coarse

from swaddon.core.order.settings import PlanSettings
from swaddon.core.plan.stages import make_plan
from swaddon.core.plan.variants import Axes, GarmentChoice, variants_of
from swaddon.core.white.settings import WhiteSettings
from swaddon.io import profiles
from swaddon.session import edits
from swaddon.session.job import Job, first_settings
from swaddon.session.ordering import Order, ordered
from swaddon.session.storage import load_artwork, save_job
from swaddon.session.variants import request_of

PRESSES = [name for name in profiles.shipped_names() if profiles.shipped(name).has_white]


def choke(job: Job) -> float:
    return job.settings.white.choke_mm


@pytest.mark.parametrize(("one", "other"), list(itertools.permutations(PRESSES, 2)))
def test_a_choke_that_nobody_touched_follows_the_press(one, other):
    first, second = profiles.shipped(one), profiles.shipped(other)
    job = Job(profile=first, settings=first_settings(first))
    assert choke(edits.set_profile(second).made(job)) == second.white.default_choke_mm
    touched = edits.change("white.choke_mm", 0.62).made(job)
    assert choke(edits.set_profile(second).made(touched)) == 0.62


def test_lines_follow_but_those_with_a_choke_of_their_own(badge_file):
    film, twopass = profiles.shipped("film"), profiles.shipped("toner-twopass")
    job = Job(file=load_artwork(badge_file), profile=film, settings=first_settings(film))
    own = replace(job.settings, white=WhiteSettings(choke_mm=0.31))
    lines = (job.lines[0], replace(job.lines[0], settings=own, own=("white.choke_mm",)), job.lines[0])
    for at in (0, 1):
        changed = edits.set_profile(twopass).made(job.of_lines(lines, at))
        assert [line.settings.white.choke_mm for line in changed.lines] == [0.4, 0.31, 0.4]


def test_a_stored_job_is_planned_on_another_press_from_the_command_line(badge_file, tmp_path):
    film = profiles.shipped("film")
    job = Job(file=load_artwork(badge_file), profile=film, settings=replace(first_settings(film), width_mm=20.0))
    for touched, expected in ((None, 0.4), (0.62, 0.62)):
        stored = job if touched is None else edits.change("white.choke_mm", touched).made(job)
        save_job(tmp_path / "job.swaddon", stored)
        taken = ordered(Order(job=tmp_path / "job.swaddon", profile="toner-twopass"), lambda: None)
        assert choke(taken) == expected


def test_a_variant_is_planned_as_its_press_alone_would_be(badge_file):
    """Every press once had the first one's choke: a two-pass variant told peeking that its own plan does not have."""
    film = coarse("film")
    job = Job(file=load_artwork(badge_file), profile=film, settings=replace(first_settings(film), width_mm=20.0))
    presses = tuple(coarse(name) for name in PRESSES)
    for variant in variants_of(Axes((GarmentChoice("Black", (27, 27, 31)),), presses)):
        asked = request_of(job, variant).settings.white.choke_mm
        assert asked == variant.press.white.default_choke_mm == first_settings(variant.press).white.choke_mm


def test_what_was_chosen_is_told_with_one_fix(make):
    press = coarse("toner-twopass")
    kept = make(badge(200), press, white=WhiteSettings("solid", choke_mm=0.25), garment=(27, 27, 31))
    (finding,) = [finding for finding in kept.findings if finding.code == "choke-kept"]
    assert "0.40 mm" in finding.text
    mended = finding.mend(kept.request.settings)
    assert mended == replace(kept.request.settings, white=replace(kept.request.settings.white, choke_mm=0.4))
    assert "choke-kept" not in {found.code for found in make_plan(replace(kept.request, settings=mended)).findings}
    advised = replace(kept.request.settings.white, choke_mm=kept.choke.recommended_mm)
    plan = make_plan(replace(kept.request, settings=PlanSettings(white=advised, width_mm=16.9)))
    assert "choke-kept" not in {found.code for found in plan.findings}
