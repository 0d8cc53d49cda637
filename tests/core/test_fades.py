"""Half-transparent pixels: kept, cut, or turned into dots that look like the artwork's blend."""

import numpy as np
import pytest
from tests.conftest import badge

from swaddon.core import fades
from swaddon.core.colour import linear_from_srgb
from swaddon.core.plan.settings import AlphaTreatment

BLACK, WHITE = (0, 0, 0), (255, 255, 255)


def glow(rgb=(255, 255, 255)) -> np.ndarray:
    """A ramp of alpha 0 to 255 over 256 px, 60 px high."""
    art = np.zeros((60, 256, 4), np.uint8)
    art[..., :3] = rgb
    art[..., 3] = np.arange(256)
    return art


def test_kept_artwork_is_as_it_was():
    art = glow()
    treated = fades.treat(art, AlphaTreatment("keep"), BLACK)
    assert treated.art is art
    assert treated.tone is None
    assert (treated.soft_before > 0).mean() > 0.9


def test_a_hard_cut_leaves_nothing_half_transparent():
    cut = fades.treat(badge(), AlphaTreatment("hard", 0.5), BLACK)
    assert set(np.unique(cut.art[..., 3])) == {0, 255}
    np.testing.assert_array_equal(cut.art[..., 3] > 0, badge()[..., 3] >= 127.5)
    assert not cut.soft.any()


@pytest.mark.parametrize(
    ("ink", "cloth"), [(WHITE, BLACK), (BLACK, WHITE), ((200, 60, 40), BLACK), (WHITE, (31, 41, 68))]
)
def test_screened_dots_give_the_light_of_the_artworks_blend(ink, cloth):
    """a·F + (1 − a)·G in linear light equals the sRGB blend within a few steps of 8 bits."""
    treated = fades.treat(glow(ink), AlphaTreatment("screen"), cloth)
    assert treated.tone is not None
    assert (treated.art[treated.tone > 0, 3] == 255).all()
    weights = np.array([0.2225, 0.7169, 0.0606])  # luminance of linear sRGB relative to D50 (Lindbloom's table)
    alpha = np.arange(20, 240)
    f, g = (float(linear_from_srgb(np.array(rgb) / 255) @ weights) for rgb in (ink, cloth))
    share = treated.tone[30, alpha] / 255
    seen = share * f + (1 - share) * g
    wanted = (alpha / 255 * np.sqrt(f) + (1 - alpha / 255) * np.sqrt(g)) ** 2
    assert np.abs(np.sqrt(seen) - np.sqrt(wanted)).max() < 0.03


def test_rims_are_cut_when_fades_are_screened():
    treated = fades.treat(badge(), AlphaTreatment("screen"), BLACK)
    assert set(np.unique(treated.art[..., 3])) == {0, 255}
    assert treated.tone is None or (treated.tone > 0).mean() < 0.001


@pytest.mark.parametrize("kind", ["keep", "hard", "screen"])
def test_haze_goes_first(kind):
    treated = fades.treat(glow(), AlphaTreatment(kind, 0.05, haze_below=0.3), BLACK)
    present = treated.art[30, 10:70, 3] if treated.tone is None else treated.tone[30, 10:70]
    assert not present.any()
    assert treated.art[30, 120, 3] > 0
