"""A whole gang sheet as artwork: its prints found, counted, and taken out."""

import cv2
import numpy as np
import pytest
from scipy.ndimage import label as scipy_label

from swaddon.core.sheet.parts import find_parts


def sheet() -> np.ndarray:
    """Two kinds, five prints, one of them with an islet near by, two of them tight."""
    art = np.zeros((1200, 1000, 4), np.uint8)
    for x, y in ((40, 40), (400, 40), (700, 60)):
        cv2.circle(art, (x + 100, y + 100), 100, (200, 30, 30, 255), -1)
        cv2.circle(art, (x + 100, y + 218), 8, (200, 30, 30, 255), -1)
    art[400:500, 100:300] = art[400:500, 320:520] = (20, 60, 200, 255)
    return art


@pytest.mark.parametrize("background", [None, (255, 255, 255)])
def test_every_print_is_found_with_its_size_and_kind(background):
    art = sheet()
    if background is not None:
        art[art[..., 3] == 0] = (*background, 255)
    found = find_parts(art, background, 18, 40)
    sizes = [(part.box.width, part.box.height) for part in found.parts]
    assert sizes == [(201, 227)] * 3 + [(200, 100)] * 2
    assert [part.kind for part in found.parts] == [1, 1, 1, 2, 2]
    assert found.parts[3].nearest_px == pytest.approx(21, abs=0.2)
    assert found.parts[0].nearest_px == float("inf")


def test_a_part_is_taken_out_without_its_neighbours():
    """A disc in the arm of an angle: their boxes overlap, their pixels do not mix; SciPy labels agree."""
    art = np.zeros((400, 400, 4), np.uint8)
    art[20:380, 20:80] = art[320:380, 20:380] = (10, 120, 10, 255)
    cv2.circle(art, (240, 160), 60, (200, 200, 10, 255), -1)
    found = find_parts(art, None, 10, 40)
    labels, count = scipy_label(art[..., 3] > 0)
    assert count == len(found.parts) == 2
    for part in found.parts:
        own = found.cut_out(art, part)
        box = part.box
        number = labels[box.top : box.bottom, box.left : box.right][own[..., 3] > 0]
        assert len(set(number.tolist())) == 1
        assert np.count_nonzero(own[..., 3]) == np.count_nonzero(labels == number[0])


def test_a_large_sheet_is_searched_on_a_coarse_mask_with_the_same_result():
    art = sheet()
    big = np.asarray(cv2.resize(art, None, fx=5, fy=5, interpolation=cv2.INTER_NEAREST))
    small, large = find_parts(art, None, 18, 40), find_parts(big, None, 90, 200)
    assert large.scale > 1
    assert [part.kind for part in large.parts] == [part.kind for part in small.parts]
    for one, other in zip(small.parts, large.parts, strict=True):
        assert (other.box.left, other.box.top, other.box.right, other.box.bottom) == tuple(
            5 * side for side in (one.box.left, one.box.top, one.box.right, one.box.bottom)
        )


def test_noise_of_thousands_of_specks_is_refused_in_a_sentence():
    art = np.zeros((1200, 1200, 4), np.uint8)
    art[::20, ::20] = 255
    with pytest.raises(ValueError, match="raise the gap"):
        find_parts(art, None, 5, 10)
