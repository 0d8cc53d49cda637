"""White and choke: exact lengths, what stays, what never grows, and the trade's coverage ladder."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.ndimage import distance_transform_edt
from skimage.morphology import isotropic_erosion
from tests.conftest import badge

from swaddon.core import fast
from swaddon.core.inks.separation import separate
from swaddon.core.knockout.soft import haze, soft_area
from swaddon.core.units import mm_from_px, px_from_mm
from swaddon.core.white import strokes, underbase
from swaddon.io import profiles
from swaddon.io.tables import cache_folder, separation_table

FILM = profiles.shipped("film")
RAMP = underbase.design_ramp(FILM.white)
SOLID = 400.0


def white_of(rgba, choke_px=0.0, limit=SOLID, design=True):
    soft = soft_area(rgba)
    cmyk = separate(rgba, separation_table(FILM.separation))
    coverage = underbase.pull_in(underbase.figure(rgba, soft, RAMP, design), choke_px)
    return underbase.lay(rgba, cmyk, coverage, underbase.print_alpha(rgba, soft, None), RAMP, limit, design)


def edge_at(position: float, size: int = 40) -> np.ndarray:
    """Coverage of a half plane whose edge lies ``position`` pixels from the left."""
    columns = np.clip(position - np.arange(size), 0, 1)
    return np.repeat(np.rint(columns * 255).astype(np.uint8)[None], size, axis=0)


def test_three_pixels_at_300_ppi_are_a_quarter_millimetre():
    """Common practice, no source: the usual start of 3 px is 0.254 mm."""
    assert mm_from_px(3, 300) == pytest.approx(0.254)
    assert px_from_mm(0.25, 720) == pytest.approx(7.09, abs=0.01)


@pytest.mark.parametrize("choke", [0.3, 1.0, 2.5, 2.953, 4.7])
@pytest.mark.parametrize("position", [20.0, 20.25, 20.5, 20.8])
def test_a_straight_edge_moves_by_the_choke_to_a_fiftieth_of_a_millimetre(either_way, choke, position):
    moved = underbase.pull_in(edge_at(position), choke)
    length = moved[20].sum() / 255 - 0.0
    removed = position - length - min(choke, 0)
    left_border = choke  # the artboard's edge is an edge of the figure too
    assert abs(removed - choke - left_border) * 25.4 / 300 < 0.02


def test_choke_of_a_binary_figure_equals_scipys_distance_transform(either_way):
    """Against SciPy: coverage is distance to the outside pixels' centres minus the choke, clipped."""
    rng = np.random.default_rng(1)
    figure = np.zeros((90, 90), np.uint8)
    for _ in range(6):
        y, x, r = rng.integers(20, 70), rng.integers(20, 70), rng.integers(6, 16)
        ys, xs = np.mgrid[0:90, 0:90]
        figure[(ys - y) ** 2 + (xs - x) ** 2 <= r * r] = 255
    distance = distance_transform_edt(np.pad(figure, 1))[1:-1, 1:-1]
    for choke in (0.5, 1.7, 3.0, 6.2):
        wanted = np.clip(distance - choke, 0, 1)
        np.testing.assert_allclose(underbase.pull_in(figure, choke) / 255, wanted, atol=0.006)


def test_whole_pixels_of_choke_are_scikit_images_isotropic_erosion(either_way):
    """Against scikit-image's erosion by distance: the same pixels keep full white."""
    y, x = np.mgrid[0:120, 0:120] - 60
    figure = (((np.hypot(x, y) < 45) & (np.hypot(x - 12, y) > 14)) * 255).astype(np.uint8)
    for choke in (1, 2, 5):
        kept = underbase.pull_in(figure, choke) == 255
        np.testing.assert_array_equal(kept, isotropic_erosion(figure > 0, choke + 0.999))


@given(st.floats(0, 6), st.floats(0, 6))
def test_more_choke_never_adds_white(one, other):
    rgba = badge(90)
    small, large = (white_of(rgba, choke) for choke in sorted((one, other)))
    assert (large.astype(int) <= small).all()


def test_white_of_the_design_keeps_its_edge(either_way):
    """The ring is white ink: it stays to the edge, while white under the red disc alone would be pulled in."""
    rgba = badge()
    choked = white_of(rgba, 3.0)
    ring = (rgba[..., :3].min(axis=2) == 255) & (rgba[..., 3] == 255)
    assert (choked[ring] == 255).all()
    red = np.zeros((40, 40, 4), np.uint8)
    red[10:30, 10:30] = (200, 30, 40, 255)
    pulled = white_of(red, 3.0)
    assert (pulled[13:27, 13:27] == 255).all()
    assert not pulled[10:13].any()


def test_without_design_white_the_lettering_is_bare_and_colour_ends_at_it(either_way):
    rgba = np.zeros((60, 60, 4), np.uint8)
    rgba[10:50, 10:50] = (200, 30, 40, 255)
    rgba[20:40, 20:40] = (255, 255, 255, 255)
    white = white_of(rgba, 2.0, design=False)
    assert not white[20:40, 20:40].any()
    assert not white[18:20, 25:35].any(), "colour next to bare cloth is choked there"
    assert (white[14:16, 25:35] == 255).all()


def test_the_artboards_edge_is_an_edge():
    rgba = np.full((30, 30, 4), 255, np.uint8)
    rgba[..., :3] = (200, 30, 40)
    white = white_of(rgba, 2.0)
    assert not white[:2].any()
    assert (white[2:-2, 2:-2] == 255).all()


@pytest.mark.parametrize(
    ("limit", "light", "two_inks", "three_inks", "black"),
    [(170.0, 1, 0, 0, 0), (280.0, 1, 1, 1, 0), (400.0, 1, 1, 1, 1)],
)
def test_total_coverage_ladder(either_way, limit, light, two_inks, three_inks, black):
    """Common practice, no source: 170 % keeps light colours, 280 % all but black, 400 % everything."""
    coverages = np.array([[60, 30, 20, 0], [255, 255, 0, 0], [230, 230, 230, 0], [178, 178, 178, 230]], np.uint8)
    rgba = np.full((4, 4, 4), 255, np.uint8)
    rgba[..., :3] = 100
    cmyk = np.repeat(coverages[None], 4, axis=0).copy()
    full = np.full((4, 4), 255, np.uint8)
    alpha = underbase.PrintAlpha(full, full)
    white = underbase.lay(rgba, cmyk, full, alpha, RAMP, limit, True)[0] > 0
    assert white.astype(int).tolist() == [light, two_inks, three_inks, black]


def test_no_white_mode_leaves_only_the_design(either_way):
    rgba = badge()
    white = white_of(rgba, 1.0, limit=None)
    assert white[150, 150] == 0
    assert white[150, 30] == 255


@given(st.floats(0, 1))
def test_fade_tables_reproduce_the_blend_into_the_cloth(garment_share):
    """White reaches s² and inks α / s with s = α + (1 − α)√G: their product is the blend, under n = 2."""
    scatter = 9.0
    white, ink = (table / 65280 for table in underbase.fade_tables(garment_share, scatter))
    alpha = np.arange(256) / 255
    ground = garment_share**2
    reached = (ground + (1 - ground) * white * scatter) / (1 + (1 - ground) * white * scatter)
    light = alpha + (1 - alpha) * garment_share
    for root in (0.1, 0.5, 0.9):
        seen = np.sqrt(reached) * (1 - ink + ink * root)
        wanted = alpha * root + (1 - alpha) * garment_share
        for text, within in ((light >= 0.12, 8e-3), (light < 0.12, 0.12)):
            chosen = text & (white < 1) & (alpha > 1.5 / 255)
            np.testing.assert_allclose(seen[chosen], wanted[chosen], atol=within)


def test_dithered_fades_keep_their_mean():
    rgba = np.zeros((128, 128, 4), np.uint8)
    rgba[...] = (255, 160, 40, 40)
    tables = underbase.fade_tables(0.1, 5.0)
    soft = np.full((128, 128), 255, np.uint8)
    alpha = underbase.print_alpha(rgba, soft, tables)
    assert alpha.white.mean() == pytest.approx(tables[0][40] / 256, rel=0.02)


def test_rims_are_not_fades():
    assert not soft_area(badge()).any()
    glow = np.zeros((40, 40, 4), np.uint8)
    glow[10:30, 10:30, 3] = 128
    assert (soft_area(glow)[10:30, 10:30] == 255).all()


def test_thin_contours_of_nearly_full_alpha_are_no_edges(either_way):
    """A line of alpha 254 inside a shape must not be choked like an edge."""
    rgba = np.zeros((60, 60, 4), np.uint8)
    rgba[5:55, 5:55] = (200, 30, 40, 255)
    rgba[30:32, 15:45, 3] = 254
    white = white_of(rgba, 3.0)
    assert (white[10:50, 10:50] >= 254).all()
    assert not haze(rgba, soft_area(rgba)).any()


def test_kernel_and_plain_agree(compiled):
    """Ragged random coverage: every kind of neighbour."""
    rng = np.random.default_rng(3)
    figure = rng.integers(0, 256, (150, 60), dtype=np.uint8)
    figure[rng.random(figure.shape) < 0.97] = 255
    for choke in (0.4, 1.4, 3.0):
        kernel = underbase.pull_in(figure, choke)
        fast.disable()
        plain = underbase.pull_in(figure, choke)
        fast.enable(cache_folder())
        assert np.abs(kernel.astype(int) - plain).max() <= 1


def test_strokes_that_fill_the_artboard_have_a_length():
    """A figure without any edge inside the artboard ends at the artboard's edge: 1 px high, 40 px long."""
    figure = np.full((1, 40), 255, np.uint8)
    none = np.zeros_like(figure)
    lengths = strokes.stroke_lengths(figure, none, none, 5.0, 300.0)
    assert lengths.bare_mm == pytest.approx(40 * 25.4 / 300, rel=0.1)
    assert lengths.saved_mm == 0
