"""Screens: the mean is the tone, the phase is the artboard's, and features are what is drawn."""

import cv2
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from skimage.measure import label, regionprops

from swaddon.core.holes import held, screen
from swaddon.core.holes.screen import FADE, Cut, TileArt
from swaddon.core.holes.settings import Screen
from swaddon.io.tiles import shipped_tiles

TILES = shipped_tiles()


def cut_flat(wanted: Screen, ppi: float = 300.0, size: int = 800, x0: int = 0, y0: int = 0) -> np.ndarray:
    ruled = screen.rule(wanted, TILES, ppi)
    zones = np.ones((size, size), np.uint8)
    return screen.cut(zones, zones, Cut((ruled,), None), x0, y0)


@pytest.mark.parametrize("pattern", ["round", "inverted", "line"])
@pytest.mark.parametrize(("lpi", "angle"), [(35, 52.5), (30, 0), (27, 67.5), (55, 0), (60, 45), (45, 72)])
@pytest.mark.parametrize("share", [0.1, 0.5, 0.85])
def test_the_mean_of_a_screen_is_its_tone(compiled, pattern, lpi, angle, share):
    """±0.5 %, also where the cell is commensurable with the pixel grid (300/30 and 300/60 at 0°)."""
    assert (cut_flat(Screen(pattern, lpi, angle, share)) > 0).mean() == pytest.approx(share, abs=0.005)


@given(st.floats(15, 85), st.floats(0, 90), st.floats(0.05, 0.95), st.floats(0.3, 1.0))
def test_share_and_tone_multiply_to_the_mean(compiled, lpi, angle, share, tone):
    mask = cut_flat(Screen("round", lpi, angle, share, tone))
    assert (mask > 0).mean() == pytest.approx(share * tone, abs=0.005)


def test_a_commensurable_screen_is_nudged_and_says_so():
    ruled = screen.rule(Screen("round", 60, 0.0), TILES, 300)
    assert ruled.is_nudged
    assert ruled.screen.lpi == pytest.approx(60, rel=0.05)
    assert ruled.asked.lpi == 60
    assert not screen.rule(Screen("round", 35, 52.5), TILES, 300).is_nudged


@pytest.mark.parametrize("name", sorted(TILES))
def test_a_tile_as_drawn_keeps_its_own_share_and_another_share_keeps_its_mean(compiled, name):
    drawn = cut_flat(Screen("tile", share=None, tile=name, tile_mm=10))
    assert (drawn > 0).mean() == pytest.approx(TILES[name].white_share, abs=0.02)
    wider = cut_flat(Screen("tile", share=0.6, tile=name, tile_mm=10), size=1200)
    assert (wider > 0).mean() == pytest.approx(0.6, abs=0.02)


def test_a_tile_at_its_own_size_is_the_drawing(compiled):
    """One tile pixel per plan pixel at 0°: black is cut, white stays."""
    grey = np.full((256, 256), 255, np.uint8)
    grey[60:120, 30:200] = 0
    tiles = {"box": TileArt("box", "box-id", grey)}
    ruled = screen.rule(Screen("tile", angle=0, share=None, tile="box", tile_mm=256 / 300 * 25.4), tiles, 300)
    zones = np.ones((256, 256), np.uint8)
    mask = screen.cut(zones, zones, Cut((ruled,), None))
    assert ((mask > 0) == (grey > 127)).mean() > 0.995


def test_a_part_is_cut_as_the_whole_is(either_way):
    whole = cut_flat(Screen("inverted", 35, 52.5, 0.8), size=300)
    part = cut_flat(Screen("inverted", 35, 52.5, 0.8), size=100, x0=130, y0=90)
    np.testing.assert_array_equal(part, whole[90:190, 130:230])


def test_round_and_inverted_dots_are_each_others_negative(compiled):
    dots, holes = (cut_flat(Screen(pattern, 35, 52.5, 0.5)) > 0 for pattern in ("round", "inverted"))
    assert (dots ^ holes).mean() > 0.99


def test_classes_fades_and_solid_parts_are_told_apart(either_way):
    zones = np.zeros((200, 600), np.uint8)
    zones[:, 200:400], zones[:, 400:] = 1, FADE
    tone = np.full((200, 600), 64, np.uint8)
    full = screen.rule(Screen(share=1.0), TILES, 300)
    mask = screen.cut(zones, tone, Cut((screen.rule(Screen(share=0.7), TILES, 300),), full)) > 0
    assert mask[:, :200].all()
    assert mask[:, 200:400].mean() == pytest.approx(0.7, abs=0.01)
    assert mask[:, 400:].mean() == pytest.approx(64 / 255, abs=0.01)


def test_kernel_and_plain_cut_alike(compiled):
    from swaddon.core import fast
    from swaddon.io.tables import cache_folder

    rng = np.random.default_rng(3)
    zones = rng.choice(np.array([0, 1, 2, FADE], np.uint8), (120, 150))
    tone = rng.integers(0, 256, zones.shape, dtype=np.uint8)
    ruled = tuple(screen.rule(Screen(p, 40, 20, 0.6), TILES, 300) for p in ("line", "round"))
    screens = Cut(ruled, screen.rule(Screen(share=1.0), TILES, 300))
    quick = screen.cut(zones, tone, screens, 7, 9)
    fast.disable()
    plain = screen.cut(zones, tone, screens, 7, 9)
    fast.enable(cache_folder())
    np.testing.assert_array_equal(quick, plain)


@pytest.mark.parametrize(("ppi", "lpi", "tones"), [(300, 30, 101), (600, 60, 101), (1200, 150, 65), (300, 75, 17)])
def test_levels_are_those_of_the_textbook(ppi, lpi, tones):
    """(ppi / lpi)² + 1, textbook halftoning."""
    assert screen.levels(ppi, lpi) == tones


@pytest.mark.parametrize(("pattern", "share"), [("round", 0.3), ("inverted", 0.75)])
def test_dot_and_hole_diameters_are_those_of_what_is_drawn(compiled, pattern, share):
    """Drawn at 2400 ppi and measured by scikit-image's equivalent diameter."""
    wanted = Screen(pattern, 30, 20, share)
    mask = cut_flat(wanted, 2400, 900) > 0
    text = held.features(screen.rule(wanted, TILES, 2400), 2400)
    spots = regionprops(label(mask if pattern == "round" else ~mask))
    whole = [spot for spot in spots if min(spot.bbox[:2]) > 0 and max(spot.bbox[2:]) < 900]
    measured = np.median([spot.equivalent_diameter_area for spot in whole]) * 25.4 / 2400
    assert (text.ink_mm if pattern == "round" else text.hole_mm) == pytest.approx(measured, rel=0.04)


def test_line_widths_are_shares_of_the_period():
    text = held.features(screen.rule(Screen("line", 25.4, 72, 0.7), TILES, 300), 300)
    assert (text.ink_mm, text.hole_mm) == pytest.approx((0.7, 0.3), rel=0.01)


@pytest.mark.parametrize(("angle", "off"), [(0, 0), (90, 0), (3, 3), (88, 2), (72, 18), (52.5, 37.5)])
def test_weave_offset_is_the_angle_to_the_nearer_yarn(angle, off):
    assert held.weave_offset(Screen("line", angle=angle)) == pytest.approx(off)


@pytest.mark.parametrize("share", [0.3, 0.6, 0.7, 0.78, 0.8, 0.85, 0.92])
def test_holes_between_round_dots_are_as_wide_as_the_largest_circle_that_fits(share):
    """Whether the dots touch or not: drawn finely, the deepest point between them is half a hole from ink."""
    ruled = screen.rule(Screen("round", 25.4, 0, share), TILES, 2400)
    text = held.features(ruled, 2400).hole_mm
    fine = 400
    at = (np.arange(3 * fine) + 0.5) / fine % 1 - 0.5
    u, v = np.meshgrid(at, at)
    spot = np.hypot(u, v)
    hole = spot >= np.quantile(spot[:fine, :fine], share)
    deepest = cv2.distanceTransform(hole.astype(np.uint8), cv2.DIST_L2, cv2.DIST_MASK_PRECISE)
    assert text == pytest.approx(2 * deepest[fine : 2 * fine, fine : 2 * fine].max() / fine, abs=0.01)


@pytest.mark.parametrize("ppi", [300, 360, 600])
@pytest.mark.parametrize("pattern", ["round", "line", "inverted"])
def test_every_usual_screen_holds_its_tones_with_a_nudge_of_at_most_a_percent(pattern, ppi):
    """Also lines along the pixel grid, where the last try used to be taken instead of the best."""
    for lpi in (15, 20, 25, 30, 35, 45, 55, 75):
        for angle in (0, 22.5, 45, 52.5, 72, 90):
            ruled = screen.rule(Screen(pattern, lpi, angle, 0.5), TILES, ppi)
            assert abs(ruled.screen.lpi / lpi - 1) <= 0.0101
            seen = screen.thresholds_at(ruled.threshold, ruled.steps, 0, 0, 700, 700)
            for share in (0.2, 0.5, 0.85):
                assert (seen < screen.tone16(share)).mean() == pytest.approx(share, abs=0.008), (lpi, angle)


def test_the_slimmest_bar_and_gap_of_a_tile_are_measured_on_its_drawing(compiled):
    """Bars of 2 and of 0.5 mm in a tile of 8 mm, between them gaps of 1.75 and 3.75 mm."""
    grey = np.full((64, 64), 255, np.uint8)
    grey[:16] = grey[30:34] = 0
    drawn = screen.rule(Screen("tile", tile="bars", tile_mm=8, share=None), {"bars": TileArt("bars", "b", grey)}, 300)
    found = held.features(drawn, 300)
    assert sorted((found.ink_mm, found.hole_mm)) == pytest.approx([0.5, 1.75], abs=0.1)
