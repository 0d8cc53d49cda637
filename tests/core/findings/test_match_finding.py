"""The finding on ink that lies on cloth of its own colour."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from tests.conftest import badge
from tests.core.findings.test_white_findings import mended, text

from swaddon.core.colour.spaces import bands_from_srgb8, delta_e_2000, lab_from_bands, lab_from_srgb8
from swaddon.core.count.consumption import total_cost
from swaddon.core.findings.match import NEAR_DELTA_E, values_near
from swaddon.core.inks.inverse import target_lab
from swaddon.core.plan.stages import make_plan
from swaddon.core.proof.optics import Appearance, seen_bands
from swaddon.core.white.settings import WhiteSettings

NAVY, BLACK, WHITE_SHIRT = (31, 41, 68), (27, 27, 31), (250, 250, 248)


def two_blocks(first: tuple[int, int, int]) -> np.ndarray:
    """A block of one colour, 200 × 150 px (2.2 cm² at 300 ppi), and a yellow one."""
    art = np.zeros((220, 480, 4), np.uint8)
    art[30:180, 20:220] = (*first, 255)
    art[30:180, 250:450] = (240, 200, 60, 255)
    return art


def off_from_drawn(plan, y: int, x: int) -> float:
    """ΔE00 of the print at a pixel to what is drawn there, by the optical model."""
    garment, profile = plan.request.settings.garment, plan.request.profile
    white = np.asarray(plan.white_plane[y, x] / 255)
    seen = seen_bands(plan.cmyk[y, x] / 255, white, bands_from_srgb8(garment), Appearance.of(garment, profile))
    return float(delta_e_2000(lab_from_bands(seen), target_lab(plan.art[y, x, :3].astype(float), profile.separation)))


@pytest.mark.parametrize(
    ("mode", "how"), [("none", "on the bare cloth"), ("need", "ml of white"), ("solid", "ml of white")]
)
def test_navy_on_navy_is_told_with_its_place_its_difference_and_what_leaving_it_out_saves(make, mode, how):
    """Common practice, no source: any colour on its match must go; printed ink never matches dyed cloth."""
    plan = make(two_blocks(NAVY), garment=NAVY, white=WhiteSettings(mode, choke_mm=0))
    found = text(plan, "ink-on-match")
    assert found.size == pytest.approx(200 * 150 * (25.4 / 300) ** 2, rel=0.02)
    assert 20 < found.x_mm * 300 / 25.4 < 220
    assert how in found.text
    off = off_from_drawn(plan, 100, 100)
    assert f"off by ΔE {off:.1f}" in found.text
    assert found.severity == ("look" if off >= 3 else "note")
    after = mended(plan, "ink-on-match")
    assert after.cmyk[100, 100].max() == 0
    assert after.white_plane[100, 100] == 0
    assert after.cmyk[100, 350].max() > 0
    saved = total_cost(plan.materials) - total_cost(after.materials)
    film = [m.cost for p in (plan, after) for m in p.materials if m.kind == "film"]
    told_money = float(found.text.removesuffix(" EUR less.").split()[-1])
    assert told_money == pytest.approx(float(saved - film[0] + film[1]), rel=0.1)


@pytest.mark.parametrize(("away", "within"), [(10, 3), (26, 9), (34, 9)])
def test_colours_near_the_garments_are_told_too_and_small_areas(make, away, within):
    """Not silent between ΔE 3 and 9, nor under 1 cm²."""
    near = (NAVY[0] + away // 4, NAVY[1] + away // 2, NAVY[2] + away // 2)
    apart = float(delta_e_2000(lab_from_srgb8(near), lab_from_srgb8(NAVY)))
    assert (apart <= 3) == (within == 3)
    assert apart < 9
    art = np.zeros((120, 300, 4), np.uint8)
    art[30:60, 30:60] = (*near, 255)
    art[30:90, 150:270] = (240, 200, 60, 255)
    plan = make(art, garment=NAVY, white=WhiteSettings("need"))
    found = text(plan, "ink-on-match")
    assert found.size == pytest.approx(900 * (25.4 / 300) ** 2, rel=0.05)
    assert found.fix.knockouts[-1].tolerance == within
    if within == 9:
        assert found.severity == "note"
        assert "within ΔE 9" in found.text
    mended(plan, "ink-on-match")


@pytest.mark.parametrize(
    ("colour", "garment", "white"),
    [
        ((230, 120, 40), NAVY, WhiteSettings("need")),
        ((250, 250, 248), WHITE_SHIRT, WhiteSettings("none")),  # white of the design, left bare by itself
        (NAVY, NAVY, WhiteSettings("only")),
    ],
)
def test_nothing_is_told_where_nothing_lies_on_its_match(make, colour, garment, white):
    assert text(make(two_blocks(colour), garment=garment, white=white), "ink-on-match") is None


def test_hair_lines_of_the_garments_colour_are_left_alone(make):
    art = two_blocks(NAVY)
    art[30:180, 28:220] = 0
    assert text(make(art, garment=NAVY, white=WhiteSettings("need")), "ink-on-match") is None
    assert text(make(badge(), garment=BLACK, white=WhiteSettings("need")), "ink-on-match") is None


def test_a_knocked_out_match_stays_silent(make):
    plan = make(two_blocks(NAVY), garment=NAVY, white=WhiteSettings("need"))
    mode = replace(text(plan, "ink-on-match").fix, white=WhiteSettings("none"))
    assert text(make_plan(replace(plan.request, settings=mode)), "ink-on-match") is None


@given(st.tuples(*[st.integers(0, 255)] * 3), st.tuples(*[st.integers(-255, 255)] * 3))
def test_the_quick_first_look_misses_no_match(colour, away):
    other = np.clip(np.add(colour, away), 0, 255).astype(np.uint8)
    least, most = values_near(colour)
    if (other < least).any() or (other > most).any():
        assert delta_e_2000(lab_from_srgb8(colour), lab_from_srgb8(other)) > NEAR_DELTA_E


@pytest.mark.parametrize("colour", [(0, 255, 0), (0, 255, 255), (255, 255, 0), (255, 0, 0), (0, 0, 255), NAVY, BLACK])
def test_the_quick_first_look_holds_every_match_of_pure_and_dark_colours(colour):
    around = [np.unique(np.clip(np.arange(value - 160, value + 161, 4), 0, 255)) for value in colour]
    every = np.stack(np.meshgrid(*around, indexing="ij"), axis=-1).reshape(-1, 3).astype(np.uint8)
    matches = every[delta_e_2000(lab_from_srgb8(every), lab_from_srgb8(colour)) <= NEAR_DELTA_E]
    least, most = values_near(colour)
    assert (matches >= least).all()
    assert (matches <= most).all()
