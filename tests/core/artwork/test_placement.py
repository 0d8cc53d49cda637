"""Crop and quarter turns: points stay on their motif."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from tests.conftest import badge

from swaddon.core.artwork.placement import Placement, content_box

PLACEMENTS = st.builds(
    Placement, st.none() | st.tuples(st.integers(0, 40), st.integers(0, 30), st.integers(50, 90), st.integers(40, 60)),
    st.integers(0, 3),
)  # fmt: skip


@given(PLACEMENTS, st.floats(0, 90), st.floats(0, 60))
def test_a_point_comes_back_from_the_artboard(placement, x, y):
    u, v = placement.to_artboard((x, y), 90, 60)
    assert placement.to_artwork(u, v, 90, 60) == pytest.approx((x, y))


@given(PLACEMENTS, st.integers(0, 89), st.integers(0, 59))
def test_a_point_lies_on_the_pixel_that_was_placed(placement, x, y):
    plane = np.arange(90 * 60, dtype=np.int64).reshape(60, 90)
    placed = placement.place(plane)
    width, height = placement.size(90, 60)
    assert placed.shape == (height, width)
    u, v = placement.to_artboard((x + 0.5, y + 0.5), 90, 60)
    if 0 <= u < 1 and 0 <= v < 1:
        assert placed[int(v * height), int(u * width)] == plane[y, x]


def test_four_turns_are_none():
    placement = Placement((1, 2, 30, 40))
    assert placement.turned().turned().turned().turned() == placement


def test_content_leaves_out_nothing_and_the_colour_all_round():
    art = np.zeros((100, 120, 4), np.uint8)
    art[30:60, 20:90] = (200, 30, 40, 255)
    box = content_box(art, None)
    assert (box.left, box.top, box.right, box.bottom) == (20, 30, 90, 60)
    art[art[..., 3] == 0] = (255, 255, 255, 255)
    assert content_box(art, (255, 255, 255)) == box
    assert content_box(np.zeros((5, 5, 4), np.uint8), None) is None
    assert content_box(badge(), None).width == pytest.approx(255, abs=3)
