"""Connected areas: specks, borders and merging, on masks small enough to work by hand."""

import numpy as np
import pytest

from swaddon.core.artwork import areas, palette

PAIR = np.array([[1, 1, 2, 2], [1, 1, 2, 2], [3, 3, 3, 3]], np.int32)


def flat(labels: np.ndarray, colours: dict[int, tuple[int, int, int]]) -> np.ndarray:
    art = np.zeros((*labels.shape, 4), np.uint8)
    for number, rgb in colours.items():
        art[labels == number] = (*rgb, 255)
    return art


def test_counts_and_new_numbers(either_way):
    assert areas.label_counts(PAIR).tolist() == [0, 4, 4, 4]
    turned = areas.relabelled(PAIR, np.array([0, 9, 9, 1], np.int32))
    assert turned.tolist() == [[9, 9, 9, 9], [9, 9, 9, 9], [1, 1, 1, 1]]
    gaps = areas.relabelled(PAIR, np.array([0, 2, 5, 9], np.int32))
    assert np.unique(areas.renumbered(gaps)).tolist() == [1, 2, 3]


def test_specks_are_given_away_but_a_lone_area_stays(either_way):
    labels = np.ones((20, 20), np.int32)
    labels[4:6, 4:6] = 2
    assert (areas.without_specks(labels)[4:6, 4:6] == -1).all()
    lone = np.zeros((6, 6), np.int32)
    lone[2, 2] = 1
    np.testing.assert_array_equal(areas.without_specks(lone), lone)


def test_borders_are_counted_side_by_side(compiled):
    """PAIR: 1 and 2 touch on 2 sides, 1 and 3 on 2, 2 and 3 on 2."""
    art = flat(PAIR, {1: (10, 10, 10), 2: (13, 10, 10), 3: (200, 10, 10)})
    for view_mode in (areas._borders, areas.borders_plain):
        pairs, steps = view_mode(art, PAIR, 4)
        found = sorted(zip(pairs.tolist(), steps.tolist(), strict=True))
        assert found == [(6, 3), (6, 3), (7, 190), (7, 190), (11, 187), (11, 187)]


def test_gradual_neighbours_are_joined_and_edges_are_not(either_way):
    labels = np.repeat(np.array([[1] * 10 + [2] * 10 + [3] * 10], np.int32), 20, axis=0)
    art = flat(labels, {1: (100, 100, 100), 2: (103, 100, 100), 3: (180, 100, 100)})
    joined = areas.merged(art, labels)
    assert len(np.unique(joined[:, :20])) == 1
    assert joined[0, 25] != joined[0, 5]


def test_pending_pixels_take_the_neighbour_nearest_in_colour(either_way):
    labels = np.array([[1, -1, -1, 2]], np.int32)
    art = flat(np.array([[1, 0, 0, 2]]), {1: (0, 0, 0), 2: (200, 200, 200)})
    art[0, 1], art[0, 2] = (40, 40, 40, 255), (150, 150, 150, 255)
    areas.grow(art, labels)
    assert labels.tolist() == [[1, 1, 2, 2]]


@pytest.mark.parametrize("value", [0, 128, 255])
def test_flat_artwork_has_one_palette_colour_and_no_rims(either_way, value):
    art = np.full((30, 30, 4), 255, np.uint8)
    art[..., :3] = value
    colours = palette.find_palette(art)
    assert colours == ((value,) * 3,)
    assert (palette.classify(art, colours) == 0).all()
    assert palette.main_colours(art) == [((value,) * 3, 1.0)]


def test_a_rim_lies_strictly_between_its_neighbours(either_way):
    art = np.full((5, 5, 4), 255, np.uint8)
    art[:, :2, :3], art[:, 2, :3], art[:, 3:, :3] = 0, 128, 250
    classes = palette.classify(art, ((0, 0, 0), (250, 250, 250)))
    assert (classes[:, 2] == palette.RIM).all()
    assert (classes[:, :2] == 0).all()
    assert (classes[:, 3:] == 1).all()
    line = np.full((5, 5, 4), 255, np.uint8)
    line[:, 2, :3] = 0
    assert not (palette.classify(line, ((0, 0, 0), (255, 255, 255))) == palette.RIM).any(), "a hairline is no rim"
