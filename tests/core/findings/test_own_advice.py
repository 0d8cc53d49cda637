"""The program does not reproach its own advice: white last, thin white on film, a shift that solid cannot hold."""

from dataclasses import replace

import numpy as np
import pytest
from tests.conftest import badge, coarse

from swaddon.core.plan.outcome import outcome_of
from swaddon.core.plan.stages import make_plan
from swaddon.core.white.settings import WhiteSettings
from swaddon.session.job import ArtworkFile, Job
from swaddon.session.variants_report import facts
from swaddon.ui.stations.white.model import white_state

WHITE, PALE, BLACK = (250, 250, 248), (214, 206, 190), (27, 27, 31)


def found(plan, code):
    return next((finding for finding in plan.findings if finding.code == code), None)


def test_no_advice_of_highlights_stands_beside_white_that_lies_on_top(make):
    art = badge()
    press = replace(coarse("film"), mirrored=False)
    stop = make(art, press, garment=PALE, white=WhiteSettings("solid"), mirrored=False)
    assert not stop.request.profile.white_under_colour
    assert found(stop, "white-on-top").severity == "stop"
    assert found(stop, "white-needless") is None
    job = Job("a", ArtworkFile(stop.request.artwork, b""), stop.request.settings, stop.request.profile)
    assert white_state(job, stop).verdict == ""


def test_on_white_goods_film_offers_thin_white_with_its_reason(make):
    plan = make(badge(), coarse("film"), garment=WHITE, white=WhiteSettings("solid", design=True))
    told = found(plan, "white-on-white")
    assert "opaque" in told.text
    assert "hold" in told.text
    first, thin = told.ways
    assert (first.fix_label, thin.fix_label) == ("Turn white off", "Thin white")
    after = make_plan(replace(plan.request, settings=thin.fix))
    amounts = [next(item for item in each.materials if item.kind == "white").amount for each in (plan, after)]
    assert amounts[1] == pytest.approx(0.4 * amounts[0], rel=0.03)
    assert [way.fix_label for way in found(after, "white-on-white").ways] == ["Turn white off"]
    direct = make(badge(), coarse("direct"), garment=WHITE, white=WhiteSettings("solid", design=True))
    assert "opaque" not in found(direct, "white-on-white").text


def test_white_under_black_may_carry_the_transfer_as_a_school(make):
    art = np.zeros((300, 300, 4), np.uint8)
    art[30:270, 30:270] = (10, 10, 12, 255)
    for press, is_told in (("film", True), ("direct", False)):
        plan = make(art, coarse(press), garment=BLACK, white=WhiteSettings("solid"))
        assert ("carries the transfer" in found(plan, "white-under-black").text) == is_told


def test_beside_an_allowed_shift_the_reach_of_solid_is_told(make):
    """Allowed 3, worst 7.8: solid white reaches no better. Planned with solid white, too."""
    art = badge()
    art[(art[..., :3] > 200).all(axis=2), :3] = (60, 250, 40)
    by_need = make(art, garment=BLACK, white=WhiteSettings("need", allowed_shift=1.0))
    solid = make(art, garment=BLACK, white=WhiteSettings("solid"))
    outcome, full = outcome_of(by_need), outcome_of(solid)
    assert outcome.worst_de > 1.3, "a green that no ink reaches"
    worst = outcome.shifts[0]
    same = next(item for item in full.shifts if item.colour == worst.colour)
    assert worst.solid == pytest.approx(same.delta_e, abs=0.6)
    assert "solid" in outcome.worst_words
    assert "solid" in facts(outcome)
    assert "solid" not in full.worst_words
