"""Processes: the stack on the finished item follows from printing order and flip, and what is wrong is told."""

from dataclasses import replace

import cv2
import numpy as np
import pytest
from tests.conftest import badge

from swaddon.core.errors import PlanError
from swaddon.core.plan.report import plan_report
from swaddon.core.plan.report_inks import stack
from swaddon.core.press.processes import PROCESSES
from swaddon.core.press.registration import Refeed
from swaddon.core.proof.misregistration import Misregistration, worst_case
from swaddon.core.white.settings import WhiteSettings
from swaddon.io import profiles


@pytest.mark.parametrize("name", [name for name in profiles.shipped_names() if profiles.shipped(name).has_white])
def test_on_the_finished_item_white_lies_between_it_and_the_colours(name):
    """The rule behind the table of processes (common practice, no source)."""
    press = profiles.shipped(name)
    layers = stack(press)
    assert layers[0] == "garment"
    assert layers.index("W") < min(layers.index(ink) for ink in "CMY")
    assert press.white_under_colour


@pytest.mark.parametrize(
    ("first", "flips", "under"), [(True, False, True), (True, True, False), (False, True, True), (False, False, False)]
)
def test_order_and_flip_decide_the_stack(first, flips, under):
    order = ("white", "colour") if first else ("colour", "white")
    press = replace(profiles.shipped("film"), print_order=order, mirrored=flips)
    layers = stack(press)
    assert (layers.index("W") < layers.index("C")) == under == press.white_under_colour


@pytest.mark.parametrize("key", PROCESSES)
def test_a_process_has_its_words_and_a_press_of_its_own(key):
    process, press = PROCESSES[key], profiles.shipped(key)
    assert press.process == key
    assert press.mirrored == process.flips
    assert press.white_position == process.white_goes
    assert process.steps
    assert any(step.caution for step in process.steps)


def codes(plan):
    return {finding.code: finding for finding in plan.findings}


def test_a_position_that_a_press_cannot_take_is_left(make):
    plan = make(badge(), garment=(27, 27, 31), white=WhiteSettings(position="first"))
    assert plan.request.profile.print_order == profiles.shipped("film").print_order
    assert "white-on-top" not in codes(plan)


def test_a_print_the_wrong_way_round_is_stopped_and_mended(make):
    found = codes(make(badge(), mirrored=False))["reads-backwards"]
    assert found.severity == "stop"
    assert found.fix.mirrored is None
    assert "reads-backwards" not in codes(make(badge(), mirrored=True))
    assert "reads-backwards" in codes(make(badge(), process="direct", mirrored=True))


def test_mirrored_twice_is_as_it_was():
    rng = np.random.default_rng(3)
    plane = rng.integers(0, 256, (40, 57), np.uint8)
    assert np.array_equal(cv2.flip(cv2.flip(plane, 1), 1), plane)


def test_a_profile_that_contradicts_its_process_is_refused():
    text = (profiles.FOLDER / "film.toml").read_text(encoding="utf-8")
    with pytest.raises(PlanError, match="mirrored must be true"):
        profiles.parse(text.replace("mirrored = true", "mirrored = false"), "film.toml")
    two = (profiles.FOLDER / "toner-twopass.toml").read_text(encoding="utf-8")
    with pytest.raises(PlanError, match="takes 2 passes: refeed is missing"):
        profiles.parse(two.split("[refeed]")[0] + "[[slots]]" + two.split("[[slots]]", 1)[1], "two.toml")
    with pytest.raises(PlanError, match="which no slot before it holds"):
        profiles.parse(two.replace('swaps = "K"', 'swaps = "H"'), "two.toml")


# two passes


def test_the_white_of_a_second_pass_sits_where_black_sat():
    slots = {slot.ink: slot.number for slot in profiles.shipped("toner-twopass").slots}
    assert slots["W"] == slots["K"] == 4


def test_the_error_of_a_second_pass_grows_with_the_print_as_many_prints_show():
    """Against a Monte Carlo of places, errors and directions of edges."""
    refeed, (width, height) = Refeed(0.2, 0.15, 0.3), (150.0, 220.0)
    rng = np.random.default_rng(11)
    n = 400_000
    x, y = rng.uniform(-width / 2, width / 2, n), rng.uniform(-height / 2, height / 2, n)
    turn, stretch = rng.normal(0, np.radians(refeed.skew_deg), n), rng.normal(0, refeed.stretch_percent / 100, n)
    dx = rng.normal(0, refeed.shift_mm, n) - turn * y
    dy = rng.normal(0, refeed.shift_mm, n) + turn * x + stretch * y
    edge = rng.uniform(0, 2 * np.pi, n)
    across = dx * np.cos(edge) + dy * np.sin(edge)
    assert refeed.spread(width, height).mean_mm == pytest.approx(across.std(), rel=0.01)


@pytest.mark.parametrize("place", [(0, 0), (95, 135), (-95, 135), (95, 0), (40, -120)])
def test_the_error_at_a_place_is_what_many_prints_show_there(place):
    """By the worst direction: σ along each of 180 directions of 400,000 errors drawn at random."""
    spread = Refeed(0.2, 0.05, 0.08).spread(190, 270)
    rng, n, (x, y) = np.random.default_rng(12), 400_000, place
    turn, stretch = rng.normal(0, spread.turn_rad, n), rng.normal(0, spread.stretch, n)
    error = np.stack([rng.normal(0, 0.2, n) - turn * y, rng.normal(0, 0.2, n) + turn * x + stretch * y])
    np.testing.assert_allclose(np.cov(error), spread.covariance(x, y), atol=4e-4)
    ways = np.radians(np.arange(180))
    across = np.sqrt([(np.array([np.cos(way), np.sin(way)]) @ error).var() for way in ways])
    assert spread.sigma_mm(x, y) == pytest.approx(across.max(), rel=0.01)
    assert spread.sigma_mm(x, y) <= spread.worst_mm + 1e-12


def test_the_choke_that_hides_white_follows_the_second_pass(make):
    press = profiles.shipped("toner-twopass")
    small, large = (make(badge(), width_mm=mm, process="toner-twopass") for mm in (20.0, 180.0))
    for plan in (small, large):
        size = plan.request.settings.width_mm, plan.request.height_mm
        assert plan.request.registration.sigma_mm == pytest.approx(press.refeed.spread(*size).mean_mm, abs=1e-3)
        assert plan.request.registration.worst_sigma_mm == pytest.approx(press.refeed.spread(*size).worst_mm)
    assert large.request.registration.no_peek_mm > small.request.registration.no_peek_mm
    assert small.request.registration.sigma_mm > press.registration.sigma_mm


def test_the_worst_second_pass_is_shown_turned_and_stretched():
    press = profiles.shipped("toner-twopass")
    registration = press.of_size(190, 270).registration
    shown = worst_case(registration)
    corner = np.array([190.0, 270.0, 1.0])
    moved = shown.matrix(1.0, (95.0, 135.0)) @ corner - corner[:2]
    assert np.hypot(*moved) == pytest.approx(registration.reach_mm - registration.squeeze_mm, rel=0.01)
    assert registration.reach_mm == registration.reaches_mm(np.array([95.0]), np.array([135.0]))[0]
    assert shown.skew_deg > 0 < shown.stretch_percent


def test_the_worst_draw_is_the_likeliest_of_those_that_reach_so_far():
    """Of 300,000 misses drawn at random, those near its length at the corner lie about it in the mean."""
    spread = Refeed(0.2, 0.05, 0.08).spread(190, 270)
    right, down, turn, stretch = spread.worst_draw()
    way = np.array([right - turn * 135, down + turn * 95 + stretch * 135])
    assert np.hypot(*way) == pytest.approx(2 * spread.worst_mm, rel=1e-6)
    rng, n = np.random.default_rng(13), 300_000
    parts = rng.normal(0, [0.2, 0.2, spread.turn_rad, spread.stretch], (n, 4))
    moved = np.stack([parts[:, 0] - parts[:, 2] * 135, parts[:, 1] + parts[:, 2] * 95 + parts[:, 3] * 135], axis=1)
    along = moved @ way / np.hypot(*way)
    alike = parts[abs(along - np.hypot(*way)) < 0.02]
    np.testing.assert_allclose(alike.mean(axis=0), (right, down, turn, stretch), rtol=0.1, atol=3e-3)


def test_a_turn_moves_the_corners_and_leaves_the_middle():
    turned = Misregistration(skew_deg=1.0)
    matrix = turned.matrix(10.0, (500.0, 300.0))
    assert matrix @ np.array([500.0, 300.0, 1.0]) == pytest.approx([500.0, 300.0])
    away = np.hypot(50.0, 30.0) * 2 * np.sin(np.radians(0.5))
    assert turned.furthest_mm(100.0, 60.0) == pytest.approx(away)


def test_passes_tell_what_each_of_them_prints(make):
    one, two = (plan_report(make(badge(), process=name))["passes"] for name in ("film", "toner-twopass"))
    assert one == [{"number": 1, "inks": ["C", "M", "Y", "K", "W"], "files": []}]
    assert [item["inks"] for item in two] == [["C", "M", "Y", "K"], ["W"]]
    assert two[1]["files"] == ["mask.pdf", "mask.png"]
