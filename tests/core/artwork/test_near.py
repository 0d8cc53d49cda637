"""Colours that an artwork has, each once."""

import numpy as np
import pytest

from swaddon.core.artwork.near import codes_of, colours_in, near
from swaddon.core.artwork.near import distances as distances_of
from swaddon.core.colour.spaces import delta_e_2000, lab_from_srgb8
from swaddon.core.knockout.knockout import colour_counts


def _pictures() -> dict[str, np.ndarray]:
    rng = np.random.default_rng(3)
    noise = rng.integers(0, 256, (37, 53, 4), np.uint8)
    noise[..., 3] *= rng.random(noise.shape[:2]) < 0.7
    ends = np.array([[[0, 0, 0, 255], [255, 255, 255, 1], [0, 0, 1, 0], [255, 255, 254, 9]]], np.uint8)
    return {"noise": noise, "ends": ends, "empty": np.zeros((3, 4, 4), np.uint8)}


@pytest.mark.parametrize("name", ["noise", "ends", "empty"])
def test_colours_and_their_counts_are_those_that_numpy_finds(either_way, name):
    """Also the first and the last of all 2²⁴, and a picture without ink."""
    art = _pictures()[name]
    codes = np.unique(codes_of(art)[art[..., 3] > 0])
    np.testing.assert_array_equal(colours_in(art), codes)
    chosen = np.full(art.shape[:2], 255, np.uint8)
    chosen[::2] = 0
    found, many = colour_counts(art, chosen)
    inked = codes_of(art)[(art[..., 3] > 0) & (chosen > 0)]
    some, counts = np.unique(inked, return_counts=True)
    np.testing.assert_array_equal(found, some)
    np.testing.assert_array_equal(many, counts)


def test_pixels_near_a_colour_are_those_within_delta_e(either_way):
    art = _pictures()["noise"]
    apart = delta_e_2000(lab_from_srgb8(art[..., :3]), lab_from_srgb8((120, 90, 60)))
    mask = near(art, distances_of(art, (120, 90, 60)), 25.0)
    np.testing.assert_array_equal(mask > 0, (apart <= 25.0) & (art[..., 3] > 0))
