"""Knockout: what goes, what stays, and that the artwork comes back over the removed colour."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from skimage.measure import label as components
from tests.conftest import badge

from swaddon.core.artwork import near
from swaddon.core.colour import spaces as colour
from swaddon.core.knockout import knockout

WHITE, BLACK = (255, 255, 255), (27, 27, 31)


def on_ground(rgba: np.ndarray, ground: tuple[int, int, int]) -> np.ndarray:
    """The artwork flattened on an opaque colour."""
    alpha = rgba[..., 3:] / 255
    flat = rgba[..., :3] * alpha + np.array(ground) * (1 - alpha)
    return np.dstack([np.rint(flat), np.full(rgba.shape[:2], 255)]).astype(np.uint8)


def take(rgba, ground, tolerance=8.0, reach="outside", edge="soft", is_cloth=False):
    found = near.distances(rgba, ground)
    removed = knockout.removed_area(rgba, found, tolerance, reach)
    zone = knockout.soft_zone(rgba, ground, removed, reach, is_cloth) if edge == "soft" else None
    return knockout.knock_out(rgba, ground, removed, zone)


def test_from_outside_keeps_the_same_colour_inside_the_figure(either_way):
    flat = on_ground(badge(), WHITE)
    flat[140:160, 140:160] = (255, 255, 255, 255)
    outside, everywhere = take(flat, WHITE, edge="hard"), take(flat, WHITE, edge="hard", reach="everywhere")
    assert outside[0, 0, 3] == 0
    assert outside[150, 150, 3] == 255
    assert everywhere[150, 150, 3] == 0


def test_outside_equals_the_components_that_touch_the_border(either_way):
    """Against scikit-image: connected components (4-neighbours) that reach the edge."""
    rng = np.random.default_rng(1)
    passable = np.where(rng.random((60, 70)) < 0.62, 255, 0).astype(np.uint8)
    labels = components(passable > 0, connectivity=1)
    border = np.unique(np.concatenate([labels[0], labels[-1], labels[:, 0], labels[:, -1]]))
    wanted = np.isin(labels, border[border > 0])
    np.testing.assert_array_equal(knockout.connected_to_outside(passable) > 0, wanted)


def test_a_second_knockout_of_the_same_colour_changes_nothing(either_way):
    once = take(on_ground(badge(), BLACK), BLACK, edge="hard")
    np.testing.assert_array_equal(take(once, BLACK, edge="hard"), once)


@given(st.floats(0, 40), st.floats(0, 40), st.sampled_from(["outside", "everywhere"]))
def test_a_larger_tolerance_never_removes_less(one, other, reach):
    rgba = on_ground(badge(80), (240, 236, 230))
    found = near.distances(rgba, WHITE)
    small, large = (knockout.removed_area(rgba, found, t, reach) > 0 for t in sorted((one, other)))
    assert not (small & ~large).any()


def test_tolerance_is_delta_e_2000(either_way):
    """A pixel at just under the tolerance goes, one just over stays (ISO/CIE 11664-6)."""
    ramp = np.full((1, 120, 4), 255, np.uint8)
    ramp[0, :, :3] = (255 - np.arange(120))[:, None]
    away = colour.delta_e_2000(colour.lab_from_srgb8(ramp[0, :, :3]), colour.lab_from_srgb8(WHITE))
    removed = knockout.removed_area(ramp, near.distances(ramp, WHITE), 10.0, "everywhere")
    np.testing.assert_array_equal(removed[0] > 0, away <= 10.0)


def test_soft_rim_leaves_no_fringe_of_the_old_background(either_way):
    """The antialiased rim gets its ink back: composed on black no pixel is lighter than ink on black can be."""
    original = badge()
    original[original[..., 3] > 0, :3] = (200, 30, 40)
    cut = take(on_ground(original, WHITE), WHITE)
    alpha_error = np.abs(cut[..., 3].astype(int) - original[..., 3])
    assert np.percentile(alpha_error, 99.9) <= 12
    on_black = on_ground(cut, BLACK)
    assert on_black[..., 1].max() < 60, "a white fringe would show as green and blue"


def test_artwork_over_the_removed_colour_is_the_artwork_again(either_way):
    """Stated error: within the tolerance where pixels were removed, 2/255 elsewhere."""
    flat = on_ground(badge(), WHITE)
    again = on_ground(take(flat, WHITE, tolerance=4.0), WHITE)
    away = colour.delta_e_2000(colour.lab_from_srgb8(flat[..., :3]), colour.lab_from_srgb8(again[..., :3]))
    assert away.max() <= 4.5
    fade = np.zeros((10, 256, 4), np.uint8)
    fade[..., 0], fade[..., 3] = np.arange(256), 255
    back = on_ground(take(fade, (0, 0, 0), tolerance=0.5, is_cloth=True), (0, 0, 0))
    assert np.abs(back.astype(int) - fade).max() <= 2


def test_a_fade_into_the_garment_becomes_a_fade_of_ink(either_way):
    """Colour-to-alpha with the least alpha: red fading to black is full red with falling alpha."""
    fade = np.zeros((10, 256, 4), np.uint8)
    fade[..., 0], fade[..., 3] = np.arange(256), 255
    ink = take(fade, (0, 0, 0), tolerance=0.5, is_cloth=True)
    seen = ink[5, ink[5, :, 3] > 0]
    assert (seen[:, 0] >= 254).all()
    np.testing.assert_allclose(ink[5, 40:, 3], np.arange(40, 256), atol=1)


def test_leaving_out_what_lightness_puts_out_of_reach_changes_no_verdict(either_way):
    rgba = np.random.default_rng(7).integers(0, 256, (90, 90, 4), dtype=np.uint8)
    for tolerance in (3.0, 10.0):
        whole, bounded = (near.distances(rgba, (250, 240, 230), far) for far in (100.0, tolerance))
        np.testing.assert_array_equal(whole.delta_e <= tolerance, bounded.delta_e <= tolerance)


def test_hard_cut_keeps_every_alpha_whole(either_way):
    cut = take(on_ground(badge(), WHITE), WHITE, edge="hard")
    assert set(np.unique(cut[..., 3])) == {0, 255}


def test_kernel_and_plain_agree(compiled):
    rng = np.random.default_rng(2)
    rgba = rng.integers(0, 256, (60, 50, 4), dtype=np.uint8)
    codes = np.unique(rng.integers(0, 1 << 24, 3000))
    plain = np.empty(codes.size, np.float32)
    near.distances_plain(codes, (200, 180, 20), 100.0, plain)
    rows = np.dstack([codes >> 16, codes >> 8 & 255, codes & 255, np.full_like(codes, 255)]).astype(np.uint8)
    found = near.distances(rows, (200, 180, 20))
    np.testing.assert_allclose(found.delta_e, plain, atol=2e-3)
    zone = rng.choice(np.array([0, 1, 2, 255], np.uint8), rgba.shape[:2])
    out = rgba.copy()
    knockout.unmix_plain(rgba, zone, (200, 180, 20), out)
    kernel = knockout.knock_out(rgba, (200, 180, 20), np.zeros(rgba.shape[:2], np.uint8), zone)
    assert np.abs(kernel.astype(int) - out).max() <= 1


@pytest.mark.parametrize("shape", [(1, 1), (1, 7), (9, 1)])
def test_tiny_artwork_passes(either_way, shape):
    rgba = np.full((*shape, 4), 255, np.uint8)
    assert not take(rgba, WHITE)[..., 3].any()
