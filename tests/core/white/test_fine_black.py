"""Fine black without white: which strokes count, and what becomes of the white under them."""

import numpy as np
import pytest
from scipy import ndimage
from tests.conftest import badge

from swaddon.core.white.fine_black import fine_black_of
from swaddon.core.white.settings import WhiteSettings

PX_PER_MM = 300 / 25.4


def lines(*widths_px, colour=(0, 0, 0)):
    """Upright lines of these widths on a red block, and the columns of their middles."""
    art = np.zeros((120, 40 * len(widths_px) + 40, 4), np.uint8)
    art[...] = (200, 30, 40, 255)
    middles = []
    for index, width in enumerate(widths_px):
        left = 40 * index + 30
        art[20:100, left : left + width] = (*colour, 255)
        middles.append(left + width // 2)
    return art, middles


def test_strokes_below_a_millimetre_count_and_wider_ones_do_not():
    art, middles = lines(3, 8, 20, 30)
    mask = fine_black_of(art, PX_PER_MM)
    assert [bool(mask[60, column]) for column in middles] == [True, True, False, False]
    assert not mask[:, :20].any(), "colour is no black"


def test_what_counts_is_what_an_opening_takes_but_for_corners():
    """Against SciPy's opening with a disc."""
    art, _ = lines(3, 8, 20, 30)
    black = (art[..., :3].max(axis=2) < 72) & (art[..., 3] > 0)
    radius = round(PX_PER_MM) // 2
    y, x = np.mgrid[-radius : radius + 1, -radius : radius + 1]
    taken = black & ~ndimage.binary_opening(black, x**2 + y**2 <= radius**2 + radius * 0.5)
    mask = fine_black_of(art, PX_PER_MM) > 0
    assert not (mask & ~ndimage.binary_dilation(taken)).any()
    for piece in range(1, 3):
        column = slice(40 * (piece - 1) + 25, 40 * piece + 25)
        assert np.array_equal(mask[:, column], taken[:, column])


def test_no_black_is_none_and_wide_black_alone_is_none():
    assert fine_black_of(lines(8, colour=(200, 200, 0))[0], PX_PER_MM) is None
    assert fine_black_of(lines(30)[0], PX_PER_MM) is None


@pytest.mark.parametrize(
    ("process", "asked", "lies"),
    [("toner-no-black", None, False), ("toner-no-black", True, True), ("toner-onepass", None, True),
     ("toner-onepass", False, False)],
)  # fmt: skip
def test_without_black_ink_fine_black_goes_bare_unless_asked(make, process, asked, lies):
    art, (fine, wide) = lines(8, 30)
    plan = make(art, process=process, white=WhiteSettings("solid", choke_mm=0.0, under_fine_black=asked))
    assert (plan.white_plane[60, fine] > 250) == lies
    assert plan.white_plane[60, wide] > 250
    assert plan.white_plane[60, 5] > 250


def test_where_no_white_lies_nothing_is_looked_for(make):
    plan = make(badge(), process="toner-no-black", white=WhiteSettings("none"))
    assert plan.results.values["fine_black"] is None
