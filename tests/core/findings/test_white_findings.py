"""Findings on white and choke: each is told with its size where it is, mended by its fix, and silent elsewhere."""

from dataclasses import replace

import cv2
import numpy as np
import pytest
from tests.conftest import badge, coarse
from tests.core.white.test_white_choices import banners, blocks

from swaddon.core.colour.spaces import bands_from_srgb8, delta_e_2000, lab_from_bands
from swaddon.core.count.money import money_text
from swaddon.core.inks.inverse import black_point
from swaddon.core.knockout.settings import AlphaTreatment
from swaddon.core.plan.stages import make_plan
from swaddon.core.proof.optics import Appearance, seen_bands
from swaddon.core.units import mm_from_px, px_from_mm
from swaddon.core.white.settings import DesignRule, WhiteSettings
from swaddon.core.white.verdict import TOLERABLE

BLACK, NAVY, WHITE_SHIRT, CANVAS, ASH, PASTEL = (
    (27, 27, 31), (31, 41, 68), (250, 250, 248), (224, 212, 186), (199, 201, 203), (200, 215, 235),
)  # fmt: skip
MM = 25.4 / 300


def text(plan, code: str):
    return next((finding for finding in plan.findings if finding.code == code), None)


def mended(plan, code: str):
    found = text(plan, code)
    assert found is not None
    assert found.fix is not None
    assert found.fix_label
    after = make_plan(replace(plan.request, settings=found.fix))
    assert text(after, code) is None
    return after


def block() -> np.ndarray:
    art = np.zeros((200, 300, 4), np.uint8)
    art[40:160, 40:260] = (200, 30, 40, 255)
    return art


@pytest.mark.parametrize("name", ["film", "film-in-turn", "direct", "toner-onepass"])
def test_what_a_print_gains_without_white_is_what_its_plan_without_gains(make, name):
    """A press that lays colour and white in one pass is no quicker without white: it was said of every press."""
    press = coarse(name)
    white = make(badge(200), press, garment=(252, 252, 250), white=WhiteSettings("solid"))
    bare = make(badge(200), press, garment=(252, 252, 250), white=WhiteSettings("none", design=False))
    (finding,) = [finding for finding in white.findings if finding.code == "white-on-white"]
    saved_s = white.time.print_s - bare.time.print_s
    assert ("quicker" in finding.text) is (saved_s >= 1)
    assert (name in ("film-in-turn", "direct")) is (saved_s >= 1)
    if saved_s >= 1:
        assert f"{saved_s:.0f} s quicker" in finding.text
    ink = sum(item.cost for item in white.materials if item.kind == "white")
    assert f"{money_text(ink)} EUR of ink cheaper" in finding.text


def test_white_peeks_under_a_choke_smaller_than_the_worst_shift(make):
    plan = make(block(), garment=BLACK, white=WhiteSettings(choke_mm=0.05, registration_mm=0.2, squeeze_mm=0.05))
    found = text(plan, "peek")
    assert found.severity == "look"
    assert "0.40 mm" in found.text, "2σ + squeeze − choke"
    assert found.size == pytest.approx(2 * (220 + 120) * MM * 0.4, rel=0.35)
    assert plan.choke.recommended_mm < found.fix.white.choke_mm == 0.45, "least harm is not the end of peeking"
    assert text(mended(plan, "peek"), "bare-rim") is None
    least = replace(plan.request.settings.white, choke_mm=plan.choke.recommended_mm)
    calm = make_plan(replace(plan.request, settings=replace(plan.request.settings, white=least)))
    assert text(calm, "peek") is None, "what is left of it the recommendation accepted"
    enough = make(block(), garment=BLACK, white=WhiteSettings(choke_mm=0.5, registration_mm=0.2, squeeze_mm=0.05))
    assert text(enough, "peek") is None
    assert text(make(block(), garment=WHITE_SHIRT, white=WhiteSettings(choke_mm=0.05)), "peek") is None


def test_a_rim_that_is_always_bare_is_told_with_its_width(make):
    plan = make(block(), garment=BLACK, white=WhiteSettings(choke_mm=0.6))
    found = text(plan, "bare-rim")
    assert found.size == pytest.approx(2 * (220 + 120) * MM * 0.6, rel=0.2)
    assert "0.60 mm" in found.text
    assert mended(plan, "bare-rim").request.settings.white.choke_mm == 0.21, "2 × σ 0.08 + squeeze 0.05"
    usual = make(block(), garment=BLACK, white=WhiteSettings(choke_mm=0.25))
    assert text(usual, "bare-rim") is None, "3 px at 300 ppi is the usual start (common practice, no source)"


@pytest.mark.parametrize(
    ("garment", "severity"), [(BLACK, "stop"), (NAVY, "stop"), (CANVAS, "look"), (WHITE_SHIRT, None)]
)
def test_missing_white_of_the_design_is_told_on_all_but_white_garments(make, garment, severity):
    plan = make(banners(), garment=garment, white=WhiteSettings(design=False))
    found = text(plan, "design-white-missing")
    assert (found and found.severity) == severity
    if found is not None:
        assert found.size == pytest.approx((100 + 60) * 30 * MM**2, rel=0.02)
        assert 100 * MM < found.x_mm < 200 * MM
        assert mended(plan, "design-white-missing").white_plane[50:60, 110:190].min() == 255


def test_areas_chosen_one_by_one_are_not_missing(make):
    rules = (DesignRule((150, 55), ink=True), DesignRule((150, 135), ink=True))
    chosen = make(banners(), garment=BLACK, white=WhiteSettings(design=False, design_rules=rules))
    assert text(chosen, "design-white-missing") is None


def test_white_that_the_garment_does_not_need_is_noted_with_the_least_that_does(make):
    """Common practice, no source: pastel, ash and natural garments often need no white, or only white highlights."""
    expected = {ASH: "none", PASTEL: "strengthen", CANVAS: "highlight", BLACK: "white", NAVY: "white"}
    for garment, enough in expected.items():
        plan = make(badge(), "direct", garment=garment)
        assert plan.advice.enough == enough
        assert plan.advice.needed is (enough == "white")
        found = text(plan, "white-needless")
        assert (found is None) is (enough == "white")
        if found is not None:
            lighter = mended(plan, "white-needless")
            assert lighter.measures.coverage["W"] < plan.measures.coverage["W"]
            assert lighter.request.settings.white.strengthen is (enough == "strengthen")
            assert lighter.request.settings.white.mode == {"highlight": "highlight"}.get(enough, "none")


def test_the_verdict_is_the_optical_models(make):
    """Each column recomputed for a colour from its recipe, with seen_bands."""
    plan = make(badge(), "direct", garment=PASTEL)
    look = Appearance.of(PASTEL, plan.request.profile)
    ground = bands_from_srgb8(PASTEL)
    darkest = black_point(plan.request.profile.separation)
    for item in plan.advice.colours:
        aim = lab_from_bands(darkest + (1 - darkest) * bands_from_srgb8(item.colour))
        for recipe, white, value in (
            (item.strong_recipe, 0.0, item.strengthened), (item.recipe, 0.0, item.bare), (item.recipe, 1.0, item.solid),
        ):  # fmt: skip
            seen = lab_from_bands(seen_bands(np.array(recipe), np.array(white), ground, look))
            off = float(delta_e_2000(seen, aim))
            assert value == pytest.approx(off, abs=0.05)
        assert item.strengthened <= item.bare
    assert max(i.strengthened - i.by_need for i in plan.advice.colours if i.share > 0.01) <= TOLERABLE


def test_toner_pushed_through_dark_colours_is_told_and_white_by_need_ends_it(make):
    art = blocks((10, 10, 12), (200, 30, 40))
    art = np.repeat(np.repeat(art, 4, axis=0), 4, axis=1)
    plan = make(art, "toner-onepass", garment=(120, 30, 40))
    found = text(plan, "toner-push-through")
    assert found.size == pytest.approx(160 * 160 * MM**2, rel=0.08)
    assert found.x_mm < 160 * MM
    limited = replace(plan.request.settings, white=WhiteSettings("limit", limit=280))
    assert text(make_plan(replace(plan.request, settings=limited)), "toner-push-through") is None
    assert text(make(art, "film", garment=(120, 30, 40)), "toner-push-through") is None


def test_a_flooded_sheet_is_stopped_with_the_white_it_wastes(make):
    plan = make(block(), garment=BLACK, white=WhiteSettings(whole_sheet=True))
    found = text(plan, "white-outside")
    outside = 200 * 300 - 120 * 220
    assert found.severity == "stop"
    assert found.size == pytest.approx(outside * MM**2, rel=0.01)
    ml = outside * MM**2 / 1e6 * sum(plan.request.profile.hits) * plan.request.profile.lay_down_per_m2["W"]
    assert f"{ml:.3f} ml" in found.text
    assert mended(plan, "white-outside").measures.white_px < plan.measures.white_px
    assert text(make(block(), garment=BLACK), "white-outside") is None


def test_more_hits_than_cure_are_stopped_and_lightened(make):
    plan = make(block(), "direct", garment=BLACK, white=WhiteSettings(hits=(1.0,) * 4))
    found = text(plan, "beyond-cure")
    profile = plan.request.profile
    heaviest = 4 * profile.lay_down_per_m2["W"] + plan.cmyk[100, 150].sum() / 255 * profile.lay_down_per_m2["C"]
    assert found.size == pytest.approx(heaviest, rel=0.01)
    assert found.unit == "ml/m²"
    after = mended(plan, "beyond-cure")
    assert 0.5 < after.request.settings.white.hits[0] < 1
    assert text(make(block(), "direct", garment=BLACK), "beyond-cure") is None


def test_a_fade_without_white_is_told_where_the_garment_is_dark(make):
    art = np.zeros((200, 300, 4), np.uint8)
    art[40:160, 40:260] = (200, 30, 40, 255)
    art[60:140, 100:200, 3] = 120
    keep = AlphaTreatment("keep")
    bare = make(art, "direct", garment=BLACK, alpha=keep, white=WhiteSettings("limit", limit=150))
    found = text(bare, "haze-bare")
    assert found.size == pytest.approx(80 * 100 * MM**2, rel=0.15)
    assert text(make(art, "direct", garment=BLACK, alpha=keep), "haze-bare") is None
    assert text(mended(bare, "haze-bare"), "haze-bare") is None


# facts of the trade, common practice, no source


def label_text() -> np.ndarray:
    """Four lines of small label lettering, strokes of about 3 px at 300 ppi (0.25 mm)."""
    art = np.zeros((260, 500, 4), np.uint8)
    mask = np.zeros((260, 500), np.uint8)
    for index, words in enumerate(("WASH COLD", "INSIDE OUT", "SIZE L 52", "NO BLEACH")):
        cv2.putText(mask, words, (30, 60 + 50 * index), cv2.FONT_HERSHEY_PLAIN, 1.3, 255, 1)
    art[mask > 0] = (230, 60, 40, 255)
    return art


def test_small_label_text_loses_its_white_to_the_usual_choke_unless_it_is_guarded(make):
    """Common practice, no source: too much choke and fine lines and small label text lose their white altogether."""
    inked = int((label_text()[..., 3] > 0).sum())
    bare = make(label_text(), garment=BLACK, white=WhiteSettings(choke_mm=0.25, guard=False))
    kept = make(label_text(), garment=BLACK, white=WhiteSettings(choke_mm=0.25))
    assert (bare.white_plane > 127).sum() < 0.03 * inked
    assert bare.checks.white.strokes.bare_mm > 60
    assert text(bare, "lost-lines") is not None
    assert (kept.white_plane > 127).sum() > 0.1 * inked
    assert kept.checks.white.strokes.saved_mm > 60
    assert text(kept, "lost-lines") is None


def test_three_pixels_at_300_ppi_are_a_quarter_of_a_millimetre():
    """Common practice, no source: 3 px is the usual start on one-head machines; at 720 ppi that is 7 px."""
    assert mm_from_px(3, 300) == pytest.approx(0.254)
    assert round(px_from_mm(0.254, 720)) == 7


def test_white_is_the_dearest_ink_and_the_slow_half_of_a_dark_shirt(make):
    """Common practice, no source: the same picture direct on white and on black costs several times less ink and prints
    in about a third of the time."""
    art = np.zeros((1200, 1000, 4), np.uint8)
    art[40:1160, 40:960] = (200, 30, 40, 255)
    dark = make(art, "direct", garment=BLACK)
    light = make(art, "direct", garment=WHITE_SHIRT, white=WhiteSettings("none"))

    def ink(plan) -> float:
        return float(sum(m.cost for m in plan.materials if m.kind in ("white", "colour")))

    assert ink(dark) > 3 * ink(light)
    assert light.time.print_s < 0.6 * dark.time.print_s
    alone = sum(phase.seconds for phase in light.time.phases), sum(phase.seconds for phase in dark.time.phases)
    assert alone[1] == pytest.approx(4 * alone[0], rel=0.1), "without the fixed time"


def test_white_off_counts_what_gets_no_white_alone(make):
    """White of the design prints whatever lies under colour: half of this badge is white; all white is no trouble."""
    art = np.zeros((200, 300, 4), np.uint8)
    art[20:180, 20:150] = (250, 250, 250, 255)
    art[20:180, 150:280] = (200, 30, 40, 255)
    made = make(art, garment=BLACK, white=WhiteSettings("none", design=True, choke_mm=0.1))
    found = next(item for item in made.findings if item.code == "white-off-dark")
    assert found.size == pytest.approx(0.5 * made.measures.printed_mm2, rel=0.02)
    assert f"over {found.size / 100:.1f} cm²" in found.text
    art[:, 150:] = 0
    white = make(art, garment=BLACK, white=WhiteSettings("none", design=True, choke_mm=0.1))
    assert white.measures.white_mm2 > 0
    assert "white-off-dark" not in {item.code for item in white.findings}


def test_no_choke_is_no_trouble_where_the_recommendation_says_none(make):
    """Colour within white of the design has no edge where white could peek: ``--choke auto`` gave 0, and was told."""
    art = np.full((160, 200, 4), 255, np.uint8)
    art[40:120, 50:150, :3] = (200, 30, 40)
    made = make(art, garment=BLACK, white=WhiteSettings("solid", choke_mm=0.0))
    assert made.choke.recommended_mm == 0
    assert "choke-zero" not in {item.code for item in made.findings}
    art[:40, :, 3] = 0
    bare = make(art, garment=BLACK, white=WhiteSettings("solid", choke_mm=0.0))
    assert bare.choke.recommended_mm > 0
    assert "choke-zero" in {item.code for item in bare.findings}
