"""Cloth, white and colour: limits of Kubelka-Munk, and that pictures show the model's own numbers."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from swaddon.core.colour import spaces as colour
from swaddon.core.inks.separation import over_ground, transmittance
from swaddon.core.proof.optics import Appearance, fine_white, seen, seen_bands, white_over
from swaddon.io import profiles

FILM = profiles.shipped("film")


@given(st.floats(0, 1), st.floats(0, 50))
def test_white_lies_between_cloth_and_full_white(ground, amount):
    value = float(white_over(np.array(ground), amount))
    assert ground - 1e-12 <= value <= 1


def test_kubelka_munk_limits():
    """Kubelka (1948), scattering only: no white shows the cloth, endless white is 1, S·X = 4 on black gives 0.8."""
    assert float(white_over(np.array(0.3), 0.0)) == pytest.approx(0.3)
    assert float(white_over(np.array(0.3), 1e9)) == pytest.approx(1.0)
    assert float(white_over(np.array(0.0), 4.0)) == pytest.approx(0.8)


def test_hand_worked_white_on_grey():
    """Rg = 0.5, S·X = 2: (0.5 + 0.5·2) / (1 + 0.5·2) = 0.75."""
    assert float(white_over(np.array(0.5), 2.0)) == pytest.approx(0.75)


def test_contrast_ratio_gives_its_own_scatter():
    """Contrast ratio c over black and white: R over black is c when white over white is 1."""
    assert float(white_over(np.array(0.0), FILM.white.scatter)) == pytest.approx(FILM.white.contrast_ratio)


def test_the_picture_shows_the_models_value_within_one_step(either_way):
    rng = np.random.default_rng(1)
    cmyk = rng.integers(0, 256, (40, 30, 4), dtype=np.uint8)
    white = rng.integers(0, 256, (40, 30), dtype=np.uint8)
    for garment in ((27, 27, 31), (224, 212, 186)):
        look = Appearance.of(garment, FILM)
        ground = np.broadcast_to(colour.bands_from_srgb8(garment), (40, 30, 3))
        wanted = colour.srgb8_from_bands(seen_bands(cmyk / 255, white / 255, ground, look))
        assert np.abs(seen(cmyk, fine_white(white), look).astype(int) - wanted).max() <= 1


def test_bare_cloth_shows_its_own_colour(either_way):
    look = Appearance.of((31, 41, 68), FILM)
    picture = seen(np.zeros((2, 2, 4), np.uint8), np.zeros((2, 2), np.uint16), look)
    assert (picture == (31, 41, 68)).all()


def test_white_on_top_of_colour_looks_like_white_on_top():
    """The decal mistake: colour first, white last, not flipped; the picture is covered."""
    under = Appearance.of((27, 27, 31), FILM)
    over = Appearance(under.garment, under.primaries, under.yule_nielsen_n, under.scatter, white_under=False)
    magenta = np.zeros((1, 1, 4), np.uint8)
    magenta[..., 1] = 255
    white = fine_white(np.full((1, 1), 255, np.uint8))
    shown, covered = (seen(magenta, white, look)[0, 0].astype(int) for look in (under, over))
    assert shown[0] - shown[1] > 100, "magenta on white is magenta"
    assert covered.max() - covered.min() < 30, "white on magenta is nearly white"


def test_without_white_colours_vanish_on_black():
    look = Appearance.of((27, 27, 31), FILM)
    yellow = np.zeros((1, 1, 4), np.uint8)
    yellow[..., 2] = 255
    bare = seen(yellow, np.zeros((1, 1), np.uint16), look)
    assert colour.lightness(tuple(int(v) for v in bare[0, 0])) < 15


@given(st.tuples(*[st.floats(0, 1)] * 4), st.floats(0, 1), st.floats(0, 1))
def test_inks_over_a_ground_are_the_filter_on_white_and_the_ground_without_ink(cmyk, ground, other):
    """R·T + s·(1 − T) / (1 − s)·(1 − R): T on white, R without ink, never under the darkest print's s with all inks."""
    look = Appearance.of((27, 27, 31), FILM)
    filtered = transmittance(np.array(cmyk), look.primaries, look.yule_nielsen_n)
    darkest, plane = look.primaries[-1], np.full(3, ground)
    np.testing.assert_allclose(over_ground(filtered, np.ones(3), darkest), filtered, atol=1e-12)
    np.testing.assert_allclose(over_ground(np.ones(3), plane, darkest), plane, atol=1e-12)
    np.testing.assert_allclose(over_ground(darkest, plane, darkest), darkest, atol=1e-12)
    low, high = (over_ground(filtered, np.full(3, level), darkest) for level in sorted((ground, other)))
    assert (high >= low - 1e-12).all() or (filtered < darkest).any(), "a lighter ground never looks darker"


def test_black_ink_on_a_black_shirt_is_a_black_print_and_no_darker():
    look = Appearance.of((27, 27, 31), FILM)
    black = seen_bands(np.ones(4), np.array(0.0), colour.bands_from_srgb8(look.garment), look)
    np.testing.assert_allclose(black, look.primaries[-1], atol=1e-9)
    navy = seen_bands(np.array([0.95, 0.9, 0.2, 0.4]), np.array(0.0), colour.bands_from_srgb8((31, 41, 68)), look)
    assert 5 < float(colour.lab_from_bands(navy)[0]) < 14
