"""Half-transparent pixels: kept, cut, or turned into dots that look like the artwork's blend."""

import cv2
import numpy as np
import pytest
from scipy import ndimage
from tests.conftest import badge

from swaddon.core.artwork.raster import resample
from swaddon.core.colour.spaces import linear_from_srgb
from swaddon.core.knockout import fades
from swaddon.core.knockout.settings import AlphaTreatment
from swaddon.core.knockout.soft import soft_area
from swaddon.core.white import underbase

BLACK, WHITE = (0, 0, 0), (255, 255, 255)


def treat(
    art: np.ndarray, treatment: AlphaTreatment, garment: tuple[int, int, int], times: float = 1.0
) -> fades.Treated:
    """Fades found and treated, as the stages do."""
    return fades.treat(art, soft_area(art, fades.rim_enlargement(treatment, times)), treatment, garment)


def glow(rgb=(255, 255, 255)) -> np.ndarray:
    """A ramp of alpha 0 to 255 over 256 px, 60 px high."""
    art = np.zeros((60, 256, 4), np.uint8)
    art[..., :3] = rgb
    art[..., 3] = np.arange(256)
    return art


def test_kept_artwork_is_as_it_was():
    art = glow()
    treated = treat(art, AlphaTreatment("keep"), BLACK)
    assert treated.art is art
    assert treated.tone is None
    assert (treated.soft_before > 0).mean() > 0.9


def test_a_hard_cut_leaves_nothing_half_transparent():
    cut = treat(badge(), AlphaTreatment("hard", 0.5), BLACK)
    assert set(np.unique(cut.art[..., 3])) == {0, 255}
    np.testing.assert_array_equal(cut.art[..., 3] > 0, badge()[..., 3] >= 127.5)
    assert not cut.soft.any()


@pytest.mark.parametrize(
    ("ink", "cloth"), [(WHITE, BLACK), (BLACK, WHITE), ((200, 60, 40), BLACK), (WHITE, (31, 41, 68))]
)
def test_screened_dots_give_the_light_of_the_artworks_blend(ink, cloth):
    """a·F + (1 − a)·G in linear light equals the sRGB blend within a few steps of 8 bits."""
    treated = treat(glow(ink), AlphaTreatment("screen"), cloth)
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
    treated = treat(badge(), AlphaTreatment("screen"), BLACK)
    assert set(np.unique(treated.art[..., 3])) == {0, 255}
    assert treated.tone is None or (treated.tone > 0).mean() < 0.001


@pytest.mark.parametrize("times", [1.3, 2, 4, 7.5])
def test_rims_that_grew_with_a_small_picture_are_cut_and_its_glow_is_screened(times):
    """A cut-out of 40 ppi printed large: its antialiased edge is still an edge, its glow still a glow."""
    art = np.zeros((80, 80, 4), np.uint8)
    art[..., :3] = (200, 40, 30)
    cv2.circle(art, (30, 30), 20, (200, 40, 30, 255), -1, cv2.LINE_AA)
    away = np.hypot(*(np.mgrid[:80, :80] - 60))
    art[..., 3] = np.maximum(art[..., 3], np.where(away < 18, 200 - 11 * away, 0).clip(0, 200))
    large = resample(art, round(80 * times), round(80 * times))
    treated = treat(large, AlphaTreatment("screen"), BLACK, times)
    edge, glow = np.s_[: round(46 * times), : round(40 * times)], np.s_[round(55 * times) :, round(55 * times) :]
    assert treated.tone is not None
    assert not treated.tone[edge].any()
    assert (treated.tone[glow] > 0).mean() > 0.4


@pytest.mark.parametrize("kind", ["keep", "hard", "screen"])
def test_haze_goes_first(kind):
    treated = treat(glow(), AlphaTreatment(kind, 0.05, haze_below=0.3), BLACK)
    present = treated.art[30, 10:70, 3] if treated.tone is None else treated.tone[30, 10:70]
    assert not present.any()
    assert treated.art[30, 120, 3] > 0


GARMENTS = {"black": BLACK, "coal": (27, 27, 31), "mid": (120, 122, 128), "canvas": (224, 212, 186), "white": WHITE}


@pytest.mark.parametrize("cloth", GARMENTS.values(), ids=GARMENTS)
@pytest.mark.parametrize("ink", [WHITE, BLACK, (200, 60, 40), (20, 60, 160)])
def test_the_tone_of_a_fade_rises_from_nothing_with_alpha(ink, cloth):
    """All 256 alphas: what is nearly gone prints as good as nothing, and more alpha never prints less."""
    treated = treat(glow(ink), AlphaTreatment("screen"), cloth)
    tone = np.where(treated.art[30, :, 3] > 0, treated.tone[30], 0).astype(int)
    tone[255] = 255
    assert (np.diff(tone) >= 0).all()
    assert tone[:4].max() <= 2 * 4
    assert tone[0] == 0


@pytest.mark.parametrize("cloth", GARMENTS.values(), ids=GARMENTS)
@pytest.mark.parametrize("process", ["film", "direct"])
@pytest.mark.parametrize("kind", ["keep", "screen"])
def test_flat_alphas_print_in_their_proportion(make, process, cloth, kind):
    """A picture of one faint alpha prints faintly, whatever garment, process and treatment."""
    before = -1.0
    for alpha in (1, 3, 40, 255):
        art = np.full((80, 80, 4), (220, 70, 40, alpha), np.uint8)
        plan = make(art, process, garment=cloth, alpha=AlphaTreatment(kind))
        laid = float(plan.cmyk.max(axis=2).mean() + plan.white_plane.mean()) / 255
        assert laid >= before - 0.01
        if alpha <= 3:
            assert laid < 0.12
        before = laid


@pytest.mark.parametrize("scatter", [1.5, 6.0])
@pytest.mark.parametrize("cloth_share", [0.0, 0.05, 0.1, 0.3, 0.7, 1.0])
def test_white_and_inks_of_a_kept_fade_rise_from_nothing(cloth_share, scatter):
    for table in underbase.fade_tables(cloth_share, scatter):
        steps = table.astype(int)
        assert steps[0] == 0
        assert steps[1] <= 65280 * 0.05
        assert (np.diff(steps) >= 0).all()


@pytest.mark.parametrize("enlargement", [1.0, 1.3, 1.6, 1.9, 2.5, 4.0])
def test_rims_of_a_small_picture_printed_large_are_no_fades_and_its_fades_stay(enlargement):
    """A square with antialiased rims of two pixels, and one that fades over ten, both enlarged by SciPy."""
    steps = {"rim": np.array([0.35, 0.7]), "fade": np.linspace(0.05, 0.95, 10)}
    for kind, rising in steps.items():
        line = np.concatenate([np.zeros(20), rising, np.ones(30), rising[::-1], np.zeros(20)])
        alpha = np.clip(ndimage.zoom(np.outer(line, line) * 255, enlargement, order=1), 0, 255)
        art = np.full((*alpha.shape, 4), 200, np.uint8)
        art[..., 3] = np.rint(alpha)
        middle = soft_area(art, enlargement)[alpha.shape[0] // 2]
        assert (middle > 0).any() == (kind == "fade"), (kind, enlargement)
