"""Holes in a plan: white and colour share them, fine parts stay solid, colour is given back, the hand gets lighter."""

from dataclasses import replace

import numpy as np
import pytest
from skimage.color import deltaE_ciede2000, rgb2lab
from tests.conftest import artwork, badge, coarse

from swaddon.core.artwork.regions import Region, RegionMap
from swaddon.core.colour.spaces import bands_from_srgb8, delta_e_2000, lab_from_bands
from swaddon.core.count.hand import largest_patch_mm2
from swaddon.core.holes import holes
from swaddon.core.holes.holes import give_back, of_colour
from swaddon.core.holes.settings import HoleSettings, RegionRule, Screen
from swaddon.core.knockout.settings import Knockout
from swaddon.core.plan.report import plan_report
from swaddon.core.plan.stages import make_plan
from swaddon.core.proof.optics import Appearance, seen_bands
from swaddon.io import profiles
from swaddon.session.job import request_for

FILM = profiles.shipped("film")
BLACK, WHITE_SHIRT, NAVY = (27, 27, 31), (250, 250, 248), (31, 41, 68)
DOTS = Screen("round", 35, 52.5, 0.8)


def two_colours() -> np.ndarray:
    """A red square of 40 mm and a blue one of 20 mm at 300 ppi, with a bar of 1 mm out of the red one."""
    art = np.zeros((520, 900, 4), np.uint8)
    art[20:492, 20:492] = (200, 30, 40, 255)
    art[200:212, 492:600] = (200, 30, 40, 255)
    art[100:336, 640:876] = (20, 60, 160, 255)
    return art


def test_white_and_colour_share_the_same_holes(make):
    plan = make(two_colours(), garment=BLACK, holes=HoleSettings(DOTS))
    hole = (plan.zones.plane > 0) & ~plan.cmyk.any(axis=2)
    assert hole.any()
    assert not plan.white_plane[hole].any()
    solid = make(two_colours(), garment=BLACK)
    left = (plan.zones.plane > 0) & plan.cmyk.any(axis=2)
    np.testing.assert_array_equal(plan.white_plane[left], solid.white_plane[left], "the choke widens no hole")


def test_the_mean_of_each_region_is_its_share_and_the_report_says_so(make):
    plan = make(two_colours(), garment=BLACK, holes=HoleSettings(DOTS, fine_mm=0))
    for part in (np.s_[60:460, 60:460], np.s_[120:316, 660:856]):
        assert plan.cmyk[part].any(axis=2).mean() == pytest.approx(0.8, abs=0.005)
    report = plan_report(plan)
    assert {entry["share"] for entry in report["screens"]} == {0.8}
    assert len(report["regions"]) == 2
    assert report["regions"][0]["area_mm2"] == pytest.approx(1600 + 9, rel=0.01)
    assert report["hand"]["open_share"] == pytest.approx(0.2, abs=0.01)


def test_fine_parts_stay_solid_unless_their_region_is_named(make):
    bar = np.s_[203:209, 520:590]
    plan = make(two_colours(), garment=BLACK, holes=HoleSettings(DOTS, fine_mm=2.0))
    assert plan.cmyk[bar].any(axis=2).all()
    named = HoleSettings(DOTS, (RegionRule(DOTS, points=((100.0, 100.0),)),), fine_mm=2.0)
    assert not make(two_colours(), garment=BLACK, holes=named).cmyk[bar].any(axis=2).all()


def test_rules_by_point_win_over_rules_by_colour_win_over_the_default(make):
    red, blue = np.s_[60:460, 60:460], np.s_[120:316, 660:856]
    by_colour = HoleSettings(DOTS, (RegionRule(None, colour=(200, 30, 40)),))
    plan = make(two_colours(), garment=BLACK, holes=by_colour)
    assert plan.cmyk[red].any(axis=2).all()
    assert plan.cmyk[blue].any(axis=2).mean() == pytest.approx(0.8, abs=0.01)
    by_point = replace(by_colour, rules=(*by_colour.rules, RegionRule(Screen("line", share=0.5), ((100.0, 100.0),))))
    plan = make(two_colours(), garment=BLACK, holes=by_point)
    assert plan.cmyk[red].any(axis=2).mean() == pytest.approx(0.5, abs=0.01)


def test_a_rule_for_a_colour_takes_regions_within_delta_e_6_of_it():
    """ΔE00 by scikit-image; the greens of the regions rise from that of the rule's red."""
    greens = range(30, 70)
    colours = [(200, green, 40) for green in greens]
    regions = tuple(Region(at, colour, 0, 100, (0, 0, 10, 10), (5, 5), 9.0) for at, colour in enumerate(colours, 1))
    nothing = np.zeros((1, 1), np.int32)
    found = of_colour(RegionMap(nothing, nothing.astype(np.uint16), (), regions, 1), (200, 30, 40))
    lab = rgb2lab(np.array([colours], np.uint8))[0]
    apart = deltaE_ciede2000(lab, lab[:1])
    taken = {region.number for region in found}
    assert taken >= {region.number for region, far in zip(regions, apart, strict=True) if far < 5.7}
    assert not taken & {region.number for region, far in zip(regions, apart, strict=True) if far > 6.3}


def test_the_same_regions_are_cut_at_another_size(make):
    rule = HoleSettings(None, (RegionRule(DOTS, ((700.0, 200.0),)),))
    for width_mm in (50.0, 76.2):
        plan = make(two_colours(), garment=BLACK, width_mm=width_mm, holes=rule)
        height, width = plan.white_plane.shape
        inked = plan.cmyk.any(axis=2)
        assert inked[int(0.25 * height) : int(0.85 * height), int(0.1 * width) : int(0.5 * width)].all()
        blue = inked[int(0.25 * height) : int(0.6 * height), int(0.73 * width) : int(0.95 * width)]
        assert blue.mean() == pytest.approx(0.8, abs=0.02)


def test_holes_follow_crop_and_turn(make):
    from swaddon.core.artwork.placement import Placement

    rule = HoleSettings(None, (RegionRule(DOTS, ((700.0, 200.0),)),))
    plan = make(two_colours(), garment=BLACK, width_mm=40.0, placement=Placement((600, 60, 900, 400), 1), holes=rule)
    assert plan.grid.shape[0] / plan.grid.shape[1] == pytest.approx(300 / 340, rel=0.01)
    middle = plan.cmyk[150:250, 150:300].any(axis=2)
    assert middle.mean() == pytest.approx(0.8, abs=0.03)


def test_what_the_eye_sees_from_afar_is_the_mean_of_the_light(make):
    """The predicted mean colour equals the average of the drawn proof in linear light: ΔE00 under 1."""
    plan = make(two_colours(), garment=WHITE_SHIRT, process="direct", holes=HoleSettings(DOTS))
    look = Appearance.of(WHITE_SHIRT, plan.request.profile)
    part = np.s_[60:460, 60:460]
    ground = bands_from_srgb8(WHITE_SHIRT)
    drawn = seen_bands(plan.cmyk[part] / 255, plan.white_plane[part] / 255, ground, look).mean(axis=(0, 1))
    cmyk = plan.separated[200, 200] / 255
    solid = seen_bands(cmyk, np.array(1.0), ground, look)
    predicted = 0.8 * solid + 0.2 * ground
    assert float(delta_e_2000(lab_from_bands(drawn), lab_from_bands(predicted))) < 1


def test_ink_is_given_back_where_that_helps_and_never_makes_it_worse():
    look = Appearance.of(WHITE_SHIRT, FILM)
    settings = HoleSettings(DOTS, give_back=True, give_back_limit=1.6)
    inks = np.array([[0.1, 0.4, 0.2, 0.0], [0.0, 1.0, 1.0, 0.0]])
    white, share = np.ones(2), np.full(2, 0.8)
    pale, full = give_back(inks, white, share, look, settings)
    assert pale.boost > 1.05
    assert pale.delta_e_after < 0.6 * pale.delta_e_before
    assert full.delta_e_after <= full.delta_e_before + 1e-9
    off = give_back(inks, white, share, look, replace(settings, give_back=False))
    assert [item.boost for item in off] == [1.0, 1.0]
    assert all(item.delta_e_after == item.delta_e_before for item in off)


def test_blacks_are_deepened_by_the_amount_asked(make):
    art = np.zeros((300, 300, 4), np.uint8)
    art[20:280, 20:280] = (40, 40, 44, 255)
    plain = make(art, garment=WHITE_SHIRT, holes=HoleSettings(DOTS))
    deep = make(art, garment=WHITE_SHIRT, holes=HoleSettings(DOTS, deeper_black=0.2))
    black = int(plain.cmyk[..., 3].max())
    assert deep.cmyk[..., 3].max() == pytest.approx(min(255, black + 51), abs=2)


def test_an_unbroken_patch_is_counted_and_holes_break_it():
    """A square of 40 mm is 16 cm²; with holes every 0.7 mm no disc of 3 mm finds ink all over."""
    mask = np.zeros((600, 600), np.uint8)
    mask[50:522, 50:522] = 255
    assert largest_patch_mm2(mask, 300) == pytest.approx(1597, rel=0.06)
    mask[::9, ::9] = 0
    assert largest_patch_mm2(mask, 300) == 0
    assert largest_patch_mm2(np.zeros((3, 3), np.uint8), 300) == 0


def test_hand_gets_lighter_and_softer_with_holes(make):
    plan = make(two_colours(), garment=BLACK, holes=HoleSettings(DOTS))
    assert plan.hand.g_per_m2 < plan.whole_hand.g_per_m2
    assert plan.hand.largest_patch_cm2 < 0.2 * plan.whole_hand.largest_patch_cm2
    assert plan.whole_hand.open_share == 0
    solid = make(two_colours(), garment=BLACK)
    assert solid.hand == solid.whole_hand


@pytest.mark.parametrize("garment", [BLACK, WHITE_SHIRT, NAVY])
def test_one_file_follows_the_garment(make, garment):
    """The same crest on black, white and navy: only the garment changes, the knockout of its colour follows."""
    crest = badge(400)
    alpha = crest[..., 3:] / 255
    flat = crest[..., :3] * alpha + np.array(garment) * (1 - alpha)
    opaque = np.dstack([np.rint(flat), np.full(crest.shape[:2], 255)]).astype(np.uint8)
    knockouts = (Knockout(None, 6.0, "outside", "soft"),)
    plan = make(opaque, garment=garment, knockouts=knockouts, holes=HoleSettings(DOTS))
    assert plan.art[3, 3, 3] == 0
    assert plan.measures.removed_mm2 > 100
    assert not plan.cmyk[0].any()


def test_a_change_of_lpi_reruns_the_cut_and_what_hangs_on_it_only():
    from swaddon.core.engine import stage_keys
    from swaddon.core.order.settings import PlanSettings
    from swaddon.core.plan.stages import STAGES

    request = request_for(artwork(badge()), PlanSettings(width_mm=25.4, holes=HoleSettings(DOTS)), FILM)
    finer = replace(request.settings, holes=HoleSettings(replace(DOTS, lpi=45)))
    before, after = stage_keys(STAGES, request), stage_keys(STAGES, replace(request, settings=finer))
    same = {name for name in before if before[name] == after[name]}
    assert {"placed", "knocked", "treated", "region_map", "zones", "separated", "whole_white", "inspection"} <= same
    assert not {"cut", "inks", "white", "measure"} & same


def test_kernel_and_plain_punch_and_thin_out_alike(compiled):
    from swaddon.core import fast
    from swaddon.io.tables import cache_folder

    rng = np.random.default_rng(6)
    cmyk = rng.integers(0, 256, (90, 80, 4), dtype=np.uint8)
    mask = rng.choice(np.array([0, 255], np.uint8), (90, 80))
    plane = rng.choice(np.array([0, 1, 2, 255], np.uint8), (90, 80))
    given = (holes.GiveBack(1.3, 0.0, 4, 2), holes.GiveBack(1.0, 0.2, 4, 3))
    white, share = rng.integers(0, 65281, (90, 80)).astype(np.uint16), np.full((90, 80), 255, np.uint8)
    shares, boosts = np.ones(256, np.float32), np.ones(256, np.float32)
    shares[1], shares[2], boosts[1] = 0.7, 0.4, 1.3

    def both():
        return holes.punch(cmyk, mask, plane, given), holes.mean_print(cmyk, white, share, plane, mask, shares, boosts)

    quick, quick_mean = both()
    fast.disable()
    plain, plain_mean = both()
    fast.enable(cache_folder())
    np.testing.assert_array_equal(quick, plain)
    for name in ("cmyk", "white", "share"):
        apart = np.abs(getattr(quick_mean, name).astype(int) - getattr(plain_mean, name))
        assert apart.max() <= 1, name


# findings of screens


def codes(plan):
    return {finding.code for finding in plan.findings}


def test_screens_too_fine_or_on_the_weave_are_told_and_mended(make):
    fine = make(two_colours(), garment=BLACK, holes=HoleSettings(Screen("inverted", 65, 52.5, 0.9)))
    assert "hole-small" in codes(fine)
    fix = next(finding for finding in fine.findings if finding.code == "hole-small").fix
    assert "hole-small" not in codes(make_plan(replace(fine.request, settings=fix)))
    weave = make(two_colours(), garment=BLACK, holes=HoleSettings(Screen("line", 20, 2.0, 0.7)))
    assert "screen-on-weave" in codes(weave)
    along = make(two_colours(), garment=BLACK, holes=HoleSettings(Screen("line", 20, 0.0, 0.7)))
    assert "screen-on-weave" not in codes(along)
    rules = (RegionRule(replace(DOTS, angle=55.0), ((700.0, 200.0),)),)
    apart = make(two_colours(), garment=BLACK, holes=HoleSettings(DOTS, rules))
    assert "screens-beat" not in codes(apart), "two screens that only meet overprint nothing"


@pytest.mark.slow
def test_a_print_larger_than_the_film_is_stopped_with_the_width_that_fits(make):
    plan = make(two_colours(), coarse("film"), width_mm=700.0)
    large = next(finding for finding in plan.findings if finding.code == "too-large")
    assert large.severity == "stop"
    assert "too-large" not in codes(make_plan(replace(plan.request, settings=large.fix)))
