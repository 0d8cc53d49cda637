"""Estimators of a test print on small cases that are worked out otherwise."""

import math

import numpy as np
import pytest
from tests.seeds import DAY

from swaddon.core.colour.spaces import SRGB_FROM_BANDS
from swaddon.core.errors import PlanError
from swaddon.core.inks.separation import transmittance
from swaddon.core.press.profile import INKS
from swaddon.core.testprint.constants import ByEye, constants_by_eye, current
from swaddon.core.testprint.find import Found
from swaddon.core.testprint.layout import TONES, WIDTH_MM, Box, page_for
from swaddon.core.testprint.register import _fit
from swaddon.core.testprint.sample import Sampler
from swaddon.core.testprint.scan import Scan
from swaddon.core.testprint.tones import _likeliest, coverages
from swaddon.core.testprint.wiring import Wiring
from swaddon.io import profiles

DIRECT = profiles.shipped("direct")


def kubelka(ratio: float, hits: float, ground: float) -> float:
    """R of hits of a white of a contrast ratio over a ground (Kubelka 1948, no absorption), written anew."""
    scatter = ratio / (1 - ratio) * hits
    return (ground + (1 - ground) * scatter) / (1 + (1 - ground) * scatter)


@pytest.mark.parametrize("ratio", [0.45, 0.7, 0.88])
@pytest.mark.parametrize(("white", "gamma"), [(1.0, 1.0), (1.01, 0.99), (0.99, 1.015)])
def test_opacity_comes_back_from_light_made_by_kubelkas_formula(ratio, white, gamma):
    """One and two hits on a black card, through a scanner whose white and gamma are a little off."""
    seen = [(hits, (white * kubelka(ratio, hits, 0.035)) ** gamma) for hits in (0.0, 1.0, 2.0)]
    found, spread = _likeliest(seen, 0.7)
    assert found == pytest.approx(ratio, abs=0.015)
    assert abs(found - ratio) < 3 * spread


def test_several_hits_are_surer_of_opacity_than_one():
    light = [(hits, kubelka(0.7, hits, 0.035)) for hits in (0.0, 1.0, 2.0)]
    assert _likeliest(light, 0.6)[1] < _likeliest(light[:2], 0.6)[1]


@pytest.mark.parametrize("ink", "CMYK")
def test_gain_is_the_curve_that_the_forward_model_was_given(ink):
    """Steps made by the Neugebauer model with a known curve, seen through one hit of white."""
    tone = np.array(TONES)
    curve = np.clip(tone + 0.6 * tone * (1 - tone), 0, 1)
    cmyk = np.zeros((11, 4))
    cmyk[:, INKS.index(ink)] = curve
    primaries, n = DIRECT.separation.primaries(), DIRECT.separation.yule_nielsen_n
    filtered = transmittance(cmyk, primaries, n)
    shine = kubelka(0.7, 2, 0.0)
    surface = primaries[-1] / (1 - primaries[-1])
    bands = filtered + surface * (1 - filtered) * (1 - shine) / shine
    rgb = bands @ SRGB_FROM_BANDS.T
    found = coverages(rgb, np.zeros((11, 3), bool), DIRECT, ink, 0.7, 2)
    assert found == pytest.approx(curve, abs=0.004)


def test_murray_davies_is_the_case_of_n_1():
    """ISO 12647 terms: a = (1 − R) / (1 − R of full ink) where light does not spread (Murray & Davies 1936)."""
    import dataclasses

    plain = dataclasses.replace(
        DIRECT, separation=dataclasses.replace(DIRECT.separation, yule_nielsen_n=1.0), white=DIRECT.white
    )
    light = np.linspace(1, 0.1, 11)
    rgb = np.repeat(light[:, None], 3, axis=1)
    expected = (1 - light) / (1 - light[-1])
    assert coverages(rgb, np.zeros((11, 3), bool), plain, "K", 0.999, 9) == pytest.approx(expected, abs=1e-3)


def test_a_clipped_ink_is_told_by_its_paler_steps():
    """Cyan is beyond sRGB: its red is cut off at 0 in the darker steps, and the curve still comes back."""
    tone = np.array(TONES)
    curve = tone + 0.4 * tone * (1 - tone)
    cmyk = np.zeros((11, 4))
    cmyk[:, 0] = curve
    rgb = transmittance(cmyk, DIRECT.separation.primaries(), DIRECT.separation.yule_nielsen_n) @ SRGB_FROM_BANDS.T
    assert rgb[-1, 0] < -0.1
    clipped = rgb < 0.001
    found = coverages(np.maximum(rgb, 0), clipped, DIRECT, "C", 0.9999, 99)
    assert found == pytest.approx(curve, abs=0.015)


def test_shift_and_turn_are_those_of_a_rigid_motion():
    """Offsets made by turning eight places about the middle, with one target that lies."""
    places = np.array([(x, y) for x in (-80, 0, 80) for y in (-100, 0, 100) if (x, y) != (0, 0)], float)
    turn = math.radians(0.07)
    moved = np.stack(
        [places[:, 0] * math.cos(turn) - places[:, 1] * math.sin(turn) + 0.2,
         places[:, 0] * math.sin(turn) + places[:, 1] * math.cos(turn) - 0.1], axis=1
    ) - places  # fmt: skip
    moved[3] += 0.3
    found = _fit(places, moved)
    assert found.targets == 7
    assert found.shift_mm == pytest.approx((0.2, -0.1), abs=1e-3)
    assert found.rotation_deg == pytest.approx(0.07, abs=1e-3)
    assert found.at(WIDTH_MM / 2, 131.0, 262.0) == pytest.approx(found.shift_mm)


def test_a_window_is_taken_straight_from_a_turned_scan():
    """A gradient along the page, drawn turned: a window of it rises evenly, and only across."""
    page = page_for(DIRECT, DAY)
    turn, px = math.radians(7), 12.0
    matrix = np.array(
        [
            [px * math.cos(turn), -px * math.sin(turn), 900.0],
            [px * math.sin(turn), px * math.cos(turn), 90.0],
            [0, 0, 1],
        ]
    )
    y, x = np.mgrid[0:3600, 0:3400]
    mm_x = ((x - 900) * math.cos(turn) + (y - 90) * math.sin(turn)) / px
    pixels = np.repeat(np.clip(mm_x, 0, 190)[..., None], 3, axis=2).astype(np.uint8)
    scan = Scan(pixels, np.tile(np.arange(256, dtype=np.float32), (3, 1)))
    sampler = Sampler(scan, Found(matrix, px * 25.4, 0.0, frozenset(), 7.0), page)
    window = sampler.window(Box(50, 100, 40, 10))[..., 0]
    assert np.ptp(window.mean(axis=1)) < 1.0
    assert window.mean(axis=0)[0] == pytest.approx(50, abs=1.0)
    assert window.mean(axis=0)[-1] == pytest.approx(90, abs=1.0)


def test_wrong_slots_are_told_in_plain_words():
    swapped = Wiring(tuple("CMYKWW"), tuple("CMKYWW"), 0.1)
    assert swapped.sentences((1, 2, 3, 4, 5, 6)) == (
        "Slot 3 prints black where yellow was sent: swap 3 and 4.", "Slot 4 prints yellow where black was sent.",
    )  # fmt: skip
    double = Wiring(tuple("CMYKW"), tuple("CMYYW"), 0.1)
    assert double.sentences((1, 2, 3, 4, 5)) == (
        "Slot 4 prints yellow where black was sent: two slots hold the same ink.",
    )
    turned = Wiring(tuple("CMYK"), tuple("MYCK"), 0.1)
    assert "belongs in slot" in turned.sentences((1, 2, 3, 4))[0]
    assert Wiring(tuple("CMYKW"), tuple("CMYWK"), 0.1).whites_are_right is False


def test_by_eye_gives_the_same_constants():
    """The vernier is worth 0.05 mm a line; widths are those of the page; the rest is as typed."""
    eye = ByEye(across=4, down=-2.5, line=0.15, hole=0.2, no_peek_mm=0.35, most_coverage=250, like_black=0.15)
    found = {item.key: item for item in constants_by_eye(eye, DIRECT)}
    assert found["registration.shift_mm"].new == pytest.approx((0.2, -0.125))
    assert found["holds.line_mm"].new == 0.15
    assert found["white.default_choke_mm"].new == 0.35
    assert found["separation.total_area_limit_percent"].new == 250
    assert 0.4 < found["white.contrast_ratio"].new < 0.9
    assert found["holds.hole_mm"].old == current(DIRECT, "holds.hole_mm") == 0.12


def test_the_step_of_black_that_matches_is_the_lightness_of_one_hit():
    """Worked back: the step's light over two hits of white equals one hit's over black."""
    tone = 0.2
    ratio = constants_by_eye(ByEye(like_black=tone), DIRECT)[0].new
    n, black = DIRECT.separation.yule_nielsen_n, DIRECT.separation.primaries()[8].mean()
    step = (1 - tone + tone * black ** (1 / n)) ** n * kubelka(ratio, 2, 0.0)
    assert step == pytest.approx(kubelka(ratio, 1, 0.0), abs=2e-3)


@pytest.mark.parametrize(
    "eye", [ByEye(across=11), ByEye(line=0.33), ByEye(like_black=1.2), ByEye(like_black=0.6), ByEye(most_coverage=60)]
)  # fmt: skip
def test_what_stands_nowhere_on_the_page_is_refused(eye):
    with pytest.raises(PlanError, match=r"[.]$"):
        constants_by_eye(eye, DIRECT)
