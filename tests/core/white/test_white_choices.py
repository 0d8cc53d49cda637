"""What an operator may choose about white: where it lies, how much, in how many hits, and what it is choked by."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from tests.conftest import badge

from swaddon.core.colour.goods import is_dark, is_white
from swaddon.core.colour.spaces import bands_from_srgb8, delta_e_2000, lab_from_bands, lab_from_srgb8, xyz_from_lab
from swaddon.core.holes.settings import HoleSettings, Screen
from swaddon.core.inks.inverse import inverse_table, target_lab
from swaddon.core.inks.separation import NODES, interpolate
from swaddon.core.plan.report_inks import channels, stack
from swaddon.core.plan.stages import make_plan
from swaddon.core.press.registration import Registration
from swaddon.core.proof.optics import FULL_WHITE, Appearance, both_whites, seen, seen_bands, speckle
from swaddon.core.units import px_from_mm
from swaddon.core.white import need, register, underbase
from swaddon.core.white.settings import DesignRule, FixedWhite, WhiteSettings
from swaddon.io import profiles

FILM = profiles.shipped("film")
BLACK, WHITE_SHIRT, CANVAS, ASH = (27, 27, 31), (250, 250, 248), (224, 212, 186), (199, 201, 203)
MM2 = (25.4 / 300) ** 2


def banners() -> np.ndarray:
    """A red block with two white banners in it, 100 × 30 and 60 × 30 px."""
    art = np.zeros((200, 300, 4), np.uint8)
    art[20:180, 20:280] = (200, 30, 40, 255)
    art[40:70, 100:200] = (255, 255, 255, 255)
    art[120:150, 120:180] = (255, 255, 255, 255)
    return art


def test_garments_are_white_dark_or_between():
    assert (is_white(WHITE_SHIRT), is_dark(WHITE_SHIRT)) == (True, False)
    assert (is_white(BLACK), is_dark(BLACK)) == (False, True)
    assert not is_white(CANVAS)
    assert not is_dark(CANVAS)
    assert not is_white(ASH)


def test_a_white_shirt_turns_white_of_the_design_to_bare_cloth_by_itself(make):
    """Common practice, no source: on a white shirt the cloth shows as white, on any other it is a hole."""
    for garment, ink in ((BLACK, True), (WHITE_SHIRT, False), (CANVAS, True)):
        plan = make(banners(), garment=garment)
        assert plan.request.settings.prints_design_white is ink
        assert bool(plan.white_plane[50:60, 110:190].any()) is ink
    kept = make(banners(), garment=WHITE_SHIRT, white=WhiteSettings(design=True))
    assert kept.white_plane[50:60, 110:190].min() == 255


def test_areas_of_white_of_the_design_are_told_largest_first(make):
    first, second = make(banners(), garment=BLACK).checks.design_areas
    assert first.area_mm2 == pytest.approx(100 * 30 * MM2, rel=0.01)
    assert second.area_mm2 == pytest.approx(60 * 30 * MM2, rel=0.01)
    mm = 25.4 / 300
    assert 40 * mm < first.y_mm < 70 * mm < 120 * mm < second.y_mm < 150 * mm
    assert make(badge()[:, :, [0, 0, 0, 3]] // 2, garment=BLACK).checks.design_areas == ()


def test_each_area_is_ink_or_bare_cloth_as_chosen(make):
    one = WhiteSettings(choke_mm=0.1, design_rules=(DesignRule((150, 55), ink=False),))
    plan = make(banners(), garment=BLACK, white=one)
    assert not plan.white_plane[42:68, 102:198].any()
    assert plan.white_plane[120:150, 120:180].min() == 255
    assert not plan.white_plane[80:100, 19].any()
    rim = plan.white_plane[80:110, 100:200]
    assert rim[-15:].min() == 255, "white under colour is pulled in from the bare area only at its edge"
    other = WhiteSettings(choke_mm=0.1, design=False, design_rules=(DesignRule((150, 55), ink=True),))
    turned = make(banners(), garment=BLACK, white=other)
    assert turned.white_plane[42:68, 102:198].min() == 255
    assert not turned.white_plane[122:148, 122:178].any()
    back = replace(one, design_rules=(*one.design_rules, DesignRule((150, 55), ink=True)))
    assert make(banners(), garment=BLACK, white=back).white_plane[50:60, 110:190].min() == 255
    beside = WhiteSettings(design_rules=(DesignRule((5, 5), ink=False),))
    np.testing.assert_array_equal(
        make(banners(), garment=BLACK, white=beside).white_plane, make(banners(), garment=BLACK).white_plane
    )


def tints() -> np.ndarray:
    """Eight patches of 40 × 40 px from dark to pale."""
    art = np.full((60, 340, 4), 0, np.uint8)
    for index in range(8):
        level = 30 + index * 28
        art[10:50, 10 + index * 40 : 50 + index * 40] = (level, min(level + 6, 255), level, 255)
    return art


def test_highlights_only_lie_under_the_lightest_tints_and_need_less_than_solid(make):
    plan = make(tints(), garment=CANVAS, white=WhiteSettings("highlight", choke_mm=0))
    means = [float(plan.white_plane[20:40, 20 + i * 40 : 40 + i * 40].mean()) for i in range(8)]
    assert means[:5] == [0] * 5
    assert means == sorted(means)
    assert means[-1] > 120
    assert 0 < plan.checks.white.of_solid < 0.5


def test_white_only_prints_no_colour_and_gives_the_artworks_luminance(make):
    """Kubelka 1948, backwards: the light of white alone on black cloth is that of the artwork, up to full white."""
    plan = make(tints(), garment=BLACK, white=WhiteSettings("only"))
    assert not plan.cmyk.any()
    look = Appearance.of(BLACK, plan.request.profile)
    for index in range(1, 6):
        amount = float(plan.white_plane[20:40, 20 + index * 40 : 40 + index * 40].mean()) / 255
        seen = seen_bands(np.zeros(4), np.array(amount), bands_from_srgb8(BLACK), look)
        level = 30 + index * 28
        aim = float(xyz_from_lab(lab_from_srgb8((level, level + 6, level)))[1])
        assert float(xyz_from_lab(lab_from_bands(seen))[1]) == pytest.approx(aim, rel=0.08)
    assert plan.white_plane[10, 12] == plan.white_plane[30, 30], "nothing is pulled in"
    colour = next(material for material in plan.materials if material.kind == "colour")
    assert colour.amount == 0


def test_hits_carry_white_and_time(make):
    one, both, three = (
        make(badge(), garment=BLACK, white=WhiteSettings(hits=hits)) for hits in ((1.0,), (1.0, 0.5), (1.0, 1.0, 1.0))
    )
    usual = make(badge(), garment=BLACK)

    def ml(plan) -> float:
        return next(material.amount for material in plan.materials if material.kind == "white")

    assert ml(both) == pytest.approx(1.5 * ml(one))
    assert ml(usual) == pytest.approx(ml(one) * len(FILM.white_slots))
    assert one.request.profile.scatter == FILM.white.scatter
    assert both.request.profile.scatter == pytest.approx(1.5 * FILM.white.scatter)
    assert three.time.print_s > both.time.print_s
    assert three.time.phases[0].bands == three.request.profile.white_rounds * both.time.phases[0].bands or (
        three.time.phases[-1].bands > both.time.phases[-1].bands
    )


def test_a_picked_colour_gets_the_white_that_was_set_and_its_neighbours_no_band(make):
    fixed = WhiteSettings("need", choke_mm=0, fixed=(FixedWhite((200, 30, 40), 0.85),))
    plan = make(banners(), garment=BLACK, white=fixed)
    assert plan.white_plane[80:100, 40:260].mean() / 255 == pytest.approx(0.85, abs=0.01)
    free = make(banners(), garment=BLACK, white=WhiteSettings("need", choke_mm=0))
    assert free.white_plane[80:100, 40:260].mean() / 255 < 0.8
    table = need.with_fixed(np.full((NODES,) * 3, 0.2, np.float32), [((128, 128, 128), 1.0, 6.0)])
    ramp = np.full((1, 256, 4), 255, np.uint8)
    ramp[0, :, :3] = np.arange(256)[:, None]
    assert np.abs(np.diff(need.need_plane(ramp, table)[0].astype(int), 2)).max() <= 10


def test_white_may_be_pulled_in_from_the_holes_of_a_screen_by_its_own_amount(make):
    art = np.full((300, 300, 4), 255, np.uint8)
    art[..., :3] = (200, 30, 40)
    holes = HoleSettings(Screen("round", 25, 52.5, 0.7))
    plain = make(art, garment=BLACK, holes=holes, white=WhiteSettings(choke_mm=0))
    inked = plain.cmyk.any(axis=2)
    np.testing.assert_array_equal(plain.white_plane > 0, inked)
    choked = make(art, garment=BLACK, holes=holes, white=WhiteSettings(choke_mm=0, screen_choke_mm=0.1))
    assert choked.cmyk.any(axis=2).sum() == inked.sum()
    assert 0.5 * inked.sum() < (choked.white_plane > 0).sum() < 0.9 * inked.sum()
    assert (choked.white_plane[0] > 0).any(), "the artboard's edge is no hole"
    assert not ((choked.white_plane > 0) & ~inked).any()


def test_strengthened_inks_come_nearer_on_a_tinted_cloth():
    """Common practice, no source: a blue on yellowish cloth is strengthened to overcome the cloth's own yellow."""
    ground = bands_from_srgb8(CANVAS)
    look = Appearance.of(CANVAS, FILM)
    usual, made = inverse_table(FILM.separation), inverse_table(FILM.separation, tuple(ground.tolist()))
    colours = np.array([(60, 100, 190), (90, 150, 170), (110, 120, 150), (150, 70, 120)], np.uint8)

    def off(table) -> np.ndarray:
        inks = interpolate(table, colours) / 255
        seen = lab_from_bands(seen_bands(inks, np.zeros(len(colours)), ground, look))
        return delta_e_2000(seen, target_lab(colours, FILM.separation))

    assert (off(made) < off(usual)).all()
    assert off(made)[2] < 0.3 * off(usual)[2]
    blue, strengthened = (interpolate(table, colours[:1])[0] for table in (usual, made))
    assert strengthened[2] < blue[2] + 1, "no more yellow than before"


def test_strengthening_counts_only_where_no_white_lies_under_the_colours(make):
    for mode, changes in (("none", True), ("highlight", True), ("solid", False), ("need", False)):
        before, after = (
            make(banners(), garment=CANVAS, white=WhiteSettings(mode, strengthen=on)).cmyk for on in (False, True)
        )
        assert (before != after).any() == changes


def test_a_flooded_sheet_is_white_from_edge_to_edge(make):
    plan = make(badge(), garment=BLACK, white=WhiteSettings(whole_sheet=True))
    assert plan.white_plane.min() == 255
    assert plan.measures.white_px == plan.white_plane.size


def test_the_worst_case_and_the_squeeze_move_the_recommended_choke():
    edges, block = register.Edges(1.0, 70.0, 15.0), np.zeros((300, 300), np.uint8)
    block[30:270, 30:270] = 255

    def curve(registration: Registration) -> register.ChokeCurve:
        return register.choke_curve(edges, lambda: register.bared_by_choke(block, registration, 300))

    for squeeze in (0.0, 0.05, 0.1):
        worst = curve(Registration(0.2, squeeze, is_worst_case=True))
        assert worst.recommended_mm == pytest.approx(0.2 + squeeze, abs=0.021)
        assert worst.peek[worst.at_mm >= 0.2 + squeeze + 0.005].max() < 0.01 * worst.peek[0]
    calm, squeezed = (curve(Registration(0.1, s)).recommended_mm for s in (0.0, 0.1))
    assert squeezed == pytest.approx(calm + 0.1, abs=0.021)
    assert Registration(0.1, 0.05).reach_mm == pytest.approx(0.25)
    assert Registration(0.1, 0.05, is_worst_case=True).reach_mm == pytest.approx(0.15)


@given(st.floats(0, 0.5), st.floats(0, 0.3), st.booleans())
def test_the_choke_without_peek_reaches_as_far_as_white_may_come_to_lie(sigma_mm, squeeze_mm, is_worst_case):
    registration = Registration(sigma_mm, squeeze_mm, is_worst_case)
    assert registration.reach_mm - 1e-6 <= registration.no_peek_mm <= registration.reach_mm + 0.01


def test_no_peek_on_the_one_head_press_is_the_usual_start_of_about_3_px_and_leaves_no_peek(make):
    """Common practice, no source: 3 px is the usual start on one-head machines."""
    assert FILM.registration.no_peek_mm == 0.21
    assert px_from_mm(FILM.registration.no_peek_mm, 300) == pytest.approx(3, abs=0.6)
    plan = make(banners(), garment=BLACK, white=WhiteSettings(choke_mm=FILM.registration.no_peek_mm))
    assert "peek" not in {finding.code for finding in plan.findings}
    less = replace(plan.request.settings, white=WhiteSettings(choke_mm=0.1))
    assert "peek" in {finding.code for finding in make_plan(replace(plan.request, settings=less)).findings}


def test_entered_registration_takes_the_place_of_the_profiles(make):
    plan = make(banners(), garment=BLACK, white=WhiteSettings(registration_mm=0.3, squeeze_mm=0.0, worst_case=True))
    assert plan.request.settings.registration(FILM) == Registration(0.3, 0.0, is_worst_case=True)
    assert plan.choke.recommended_mm == pytest.approx(0.3, abs=0.011)
    usual = make_plan(replace(plan.request, settings=replace(plan.request.settings, white=WhiteSettings())))
    assert usual.request.settings.registration(FILM) == FILM.registration


def test_screen_masks_shrink_by_whole_pixels_and_keep_the_artboards_edge():
    mask = np.full((40, 40), 255, np.uint8)
    mask[18:22, 18:22] = 0
    assert underbase.shrunk_screen(mask, 0) is mask
    shrunk = underbase.shrunk_screen(mask, 2)
    assert (shrunk[20, 16:24] == 0).all()
    assert shrunk[0].min() == 255


# toner


@pytest.fixture
def toner(make):
    def build(limit: float, art: np.ndarray, **settings):
        white = WhiteSettings("limit", limit=limit, choke_mm=0)
        return make(art, "toner-onepass", garment=BLACK, white=white, **settings)

    return build


def blocks(*colours) -> np.ndarray:
    art = np.full((40, 40 * len(colours), 4), 255, np.uint8)
    for index, colour in enumerate(colours):
        art[:, 40 * index : 40 * index + 40, :3] = colour
    return art


@pytest.mark.parametrize(
    ("limit", "pale", "two_inks", "dark", "black"),
    [(170, True, False, False, False), (280, True, True, True, False), (400, True, True, True, True)],
)
def test_total_coverage_limits_leave_white_where_the_trade_expects_it(toner, limit, pale, two_inks, dark, black):
    """170 %: light colours only, two full inks stay bare; 280 %: all but black; 400 %: everything.

    Common practice, no source.
    """
    plan = toner(limit, blocks((250, 210, 40), (200, 30, 40), (20, 120, 60), (0, 0, 0)))
    laid = [bool(plan.white_plane[10:30, 40 * i + 10 : 40 * i + 30].min() == 255) for i in range(4)]
    assert laid == [pale, two_inks, dark, black]


def test_white_greys_black_toner_the_more_the_more_there_is(toner):
    """Common practice, no source: at 400 % black turns greyish; on the mean by the profile's share of white light."""
    plan = toner(400, blocks((0, 0, 0)))
    look = Appearance.of(BLACK, plan.request.profile)
    cmyk = plan.cmyk[20, 20] / 255
    ground = bands_from_srgb8(BLACK)
    light = [float(lab_from_bands(seen_bands(cmyk, np.array(w), ground, look))[0]) for w in (0.0, 0.5, 1.0)]
    assert light == sorted(light)
    assert light[-1] > light[0] + 8
    clean = seen_bands(cmyk, np.array(1.0), ground, replace(look, bleed_share=0.0))
    white = seen_bands(np.zeros(4), np.array(1.0), ground, look)
    share = look.bleed_share
    np.testing.assert_allclose(
        seen_bands(cmyk, np.array(1.0), ground, look), share * white + (1 - share) * clean, rtol=0.01
    )


def test_specks_are_as_many_as_give_the_mean_and_melt_into_it_from_afar(either_way):
    look = Appearance.of(BLACK, profiles.shipped("toner-onepass"))
    white = np.full((400, 400), FULL_WHITE, np.uint16)
    near, far = speckle(white, look, px_per_mm=30.0), speckle(white, look, px_per_mm=2.0)
    assert near.max() > 200
    assert np.median(near) == 0
    assert near.mean() / 255 == pytest.approx(look.bleed_share, rel=0.25)
    assert np.ptp(far) == 0
    assert far.mean() / 255 == pytest.approx(look.bleed_share, abs=0.003)
    assert not speckle(white, Appearance.of(BLACK, FILM), px_per_mm=30.0).any()
    black = np.zeros((400, 400, 4), np.uint8)
    black[...] = 230
    picture = seen(black, white, look, through=near)
    assert picture[near > 200].min() > 150
    assert picture[near == 0].max() < 60


def test_toner_is_counted_in_grams_and_sheets(make):
    plan = make(badge(), "toner-onepass", garment=BLACK)
    by_kind = {material.kind: material for material in plan.materials}
    assert by_kind["white"].supply.unit == by_kind["colour"].supply.unit == "g"
    assert by_kind["white"].name == "White toner"
    grams = plan.white_plane.mean() / 255 * 300 * 300 * MM2 / 1e6 * 11.0
    assert by_kind["white"].amount == pytest.approx(grams, rel=1e-6)
    assert by_kind["sheet"].amount == 1.0
    assert plan.time.print_s == pytest.approx(6 + 7.5, abs=0.01)
    nothing = make(np.zeros((40, 40, 4), np.uint8), "toner-onepass", garment=BLACK)
    assert {m.kind: m.amount for m in nothing.materials}["sheet"] == 0


# highlight white


def test_highlight_white_is_a_channel_of_its_own_where_the_press_has_one(make):
    profile = profiles.shipped("direct-highlight")
    request = make(banners(), "direct", garment=BLACK).request
    plan = make_plan(replace(request, press=profile))
    assert plan.highlight is not None
    assert plan.highlight[50:60, 110:190].min() == 255
    assert not plan.highlight[80:110].any(), "only where the design is white"
    assert plan.white_plane[50:60, 110:190].min() == 255, "on the underbase"
    whites = [entry for entry in channels(plan) if entry["ink"] in "WH"]
    assert [(entry["ink"], entry["role"], entry["slot"]) for entry in whites] == [
        ("W", "white", 5), ("H", "highlight", 6),
    ]  # fmt: skip
    area_m2 = plan.measures.artboard_mm2 / 1e6
    ml = (plan.white_plane.mean() + plan.highlight.mean()) / 255 * area_m2 * profile.lay_down_per_m2["W"]
    assert next(m.amount for m in plan.materials if m.kind == "white") == pytest.approx(ml, rel=1e-6)
    assert stack(profile) == ["garment", "pretreat", "W", "C", "M", "Y", "K", "H"]
    assert make(banners(), "direct", garment=BLACK).highlight is None


def test_holes_are_cut_in_highlight_white_and_reckoned_against_the_whole_of_it(make):
    holes = HoleSettings(Screen("round", 25, 52.5, 0.7), fine_mm=0)
    request = make(banners(), "direct", garment=BLACK, holes=holes).request
    plan = make_plan(replace(request, press=profiles.shipped("direct-highlight")))
    whole, cut = plan.whole_measures.coverage["H"], plan.measures.coverage["H"]
    assert cut == pytest.approx(0.7 * whole, rel=0.05)
    assert whole * 200 * 300 == pytest.approx((100 + 60) * 30, rel=0.02)


def test_underbase_and_highlight_scatter_together(make):
    """Kubelka 1948: two layers of white are one with the sum of their scatter."""
    profile = profiles.shipped("direct-highlight")
    look = Appearance.of(BLACK, profile)
    full = np.full((1, 1), 255, np.uint8)
    one = seen(np.zeros((1, 1, 4), np.uint8), both_whites(full, None, profile), look)
    two = seen(np.zeros((1, 1, 4), np.uint8), both_whites(full, full, profile), look)
    double = replace(look, scatter=2 * look.scatter)
    wanted = seen(np.zeros((1, 1, 4), np.uint8), both_whites(full, None, profile), double)
    assert two.min() > one.max()
    assert np.abs(two.astype(int) - wanted).max() <= 1


@pytest.mark.parametrize("mode", ["highlight", "need", "solid", "limit", "only"])
@pytest.mark.parametrize("name", ["film", "direct-highlight", "toner-onepass"])
def test_hits_of_nothing_are_as_no_white_and_told_on_a_dark_garment(make, mode, name):
    """Warnings fail the test: nothing is divided by white that is not there."""
    art = np.zeros((120, 160, 4), np.uint8)
    art[20:100, 20:140] = (200, 60, 30, 255)
    art[20:100, 90:140, 3] = np.linspace(255, 0, 50).astype(np.uint8)
    plan = make(art, name, garment=BLACK, white=WhiteSettings(mode, hits=(0.0, 0.0)))
    assert next(material.amount for material in plan.materials if material.kind == "white") == 0
    found = next(finding for finding in plan.findings if finding.code == "white-off-dark")
    mended = make_plan(replace(plan.request, settings=found.fix))
    assert next(material.amount for material in mended.materials if material.kind == "white") > 0
