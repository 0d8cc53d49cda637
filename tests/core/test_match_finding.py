"""The finding on ink that lies on cloth of its own colour."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from tests.conftest import badge
from tests.core.test_white_findings import mended, told

from swaddon.core.colour import bands_from_srgb8, delta_e_2000, lab_from_bands, lab_from_srgb8
from swaddon.core.findings.match import MATCH_DELTA_E, values_near
from swaddon.core.optics import Appearance, seen_bands
from swaddon.core.plan.settings import WhiteSettings
from swaddon.core.plan.stages import make_plan

NAVY, BLACK, WHITE_SHIRT = (31, 41, 68), (27, 27, 31), (250, 250, 248)


def two_blocks(first: tuple[int, int, int]) -> np.ndarray:
    """A block of one colour, 200 × 150 px (2.2 cm² at 300 ppi), and a yellow one."""
    art = np.zeros((220, 480, 4), np.uint8)
    art[30:180, 20:220] = (*first, 255)
    art[30:180, 250:450] = (240, 200, 60, 255)
    return art


def test_navy_on_navy_is_told_with_its_place_and_the_models_difference_and_knocked_out(make):
    """Common practice, no source: any colour on its match must go; printed ink never matches dyed cloth."""
    plan = make(two_blocks(NAVY), garment=NAVY, white=WhiteSettings("need"))
    found = told(plan, "ink-on-match")
    assert found.size == pytest.approx(200 * 150 * (25.4 / 300) ** 2, rel=0.02)
    assert 20 < found.x_mm * 300 / 25.4 < 220
    inks = plan.cmyk[100, 100] / 255
    ground = bands_from_srgb8(NAVY)
    seen = seen_bands(inks, np.zeros(()), ground, Appearance.of(NAVY, plan.request.profile))
    off = float(delta_e_2000(lab_from_bands(seen), lab_from_bands(ground)))
    assert f"ΔE {off:.0f} here" in found.text
    assert found.severity == ("look" if off >= 3 else "note")
    after = mended(plan, "ink-on-match")
    assert after.cmyk[100, 100].max() == 0
    assert after.cmyk[100, 350].max() > 0
    assert after.measures.printed_px < plan.measures.printed_px


@pytest.mark.parametrize(
    ("colour", "garment", "white"),
    [
        (NAVY, NAVY, WhiteSettings("solid")),  # white lies under it: not on the cloth
        (BLACK, NAVY, WhiteSettings("need")),
        ((250, 250, 248), WHITE_SHIRT, WhiteSettings("none")),  # white of the design, left bare by itself
        (NAVY, NAVY, WhiteSettings("only")),
    ],
)
def test_nothing_is_told_where_no_ink_lies_on_its_match(make, colour, garment, white):
    assert told(make(two_blocks(colour), garment=garment, white=white), "ink-on-match") is None


def test_a_little_ink_on_its_match_is_left_alone(make):
    art = two_blocks(NAVY)
    art[30:180, 60:220] = 0
    assert told(make(art, garment=NAVY, white=WhiteSettings("need")), "ink-on-match") is None
    assert told(make(badge(), garment=BLACK, white=WhiteSettings("need")), "ink-on-match") is None


def test_a_knocked_out_match_stays_silent(make):
    plan = make(two_blocks(NAVY), garment=NAVY, white=WhiteSettings("need"))
    mode = replace(told(plan, "ink-on-match").fix, white=WhiteSettings("none"))
    assert told(make_plan(replace(plan.request, settings=mode)), "ink-on-match") is None


@given(st.tuples(*[st.integers(0, 255)] * 3), st.tuples(*[st.integers(-255, 255)] * 3))
def test_the_quick_first_look_misses_no_match(colour, away):
    other = np.clip(np.add(colour, away), 0, 255).astype(np.uint8)
    least, most = values_near(colour)
    if (other < least).any() or (other > most).any():
        assert delta_e_2000(lab_from_srgb8(colour), lab_from_srgb8(other)) > MATCH_DELTA_E


@pytest.mark.parametrize("colour", [(0, 255, 0), (0, 255, 255), (255, 255, 0), (255, 0, 0), (0, 0, 255), NAVY, BLACK])
def test_the_quick_first_look_holds_every_match_of_pure_and_dark_colours(colour):
    around = [np.unique(np.clip(np.arange(value - 120, value + 121, 3), 0, 255)) for value in colour]
    every = np.stack(np.meshgrid(*around, indexing="ij"), axis=-1).reshape(-1, 3).astype(np.uint8)
    matches = every[delta_e_2000(lab_from_srgb8(every), lab_from_srgb8(colour)) <= MATCH_DELTA_E]
    least, most = values_near(colour)
    assert (matches >= least).all()
    assert (matches <= most).all()
