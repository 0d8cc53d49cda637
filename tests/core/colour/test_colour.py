"""Colour spaces and differences against published values and general reference libraries."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from skimage import color as reference

from swaddon.core.colour import spaces as colour

# Sharma, Wu, Dalal (2005), "The CIEDE2000 color-difference formula", table 1: a selection, values from memory,
# confirmed below by the implementation of scikit-image.
SHARMA = [
    ((50.0, 2.6772, -79.7751), (50.0, 0.0, -82.7485), 2.0425),
    ((50.0, 3.1571, -77.2803), (50.0, 0.0, -82.7485), 2.8615),
    ((50.0, -1.3802, -84.2814), (50.0, 0.0, -82.7485), 1.0000),
    ((50.0, 0.0, 0.0), (50.0, -1.0, 2.0), 2.3669),
    ((50.0, 2.49, -0.001), (50.0, -2.49, 0.0009), 7.1792),
    ((50.0, 2.49, -0.001), (50.0, -2.49, 0.0011), 7.2195),
    ((50.0, 2.5, 0.0), (73.0, 25.0, -18.0), 27.1492),
    ((50.0, 2.5, 0.0), (56.0, -27.0, -3.0), 31.9030),
    ((60.2574, -34.0099, 36.2677), (60.4626, -34.1751, 39.4387), 1.2644),
    ((22.7233, 20.0904, -46.694), (23.0331, 14.973, -42.5619), 2.0373),
    ((2.0776, 0.0795, -1.135), (0.9033, -0.0636, -0.5514), 0.9082),
]


@pytest.mark.parametrize(("one", "other", "expected"), SHARMA)
def test_ciede2000_gives_the_published_differences(one, other, expected):
    assert float(colour.delta_e_2000(one, other)) == pytest.approx(expected, abs=1e-4)
    assert float(reference.deltaE_ciede2000(one, other)) == pytest.approx(expected, abs=1e-4)


def test_ciede2000_equals_the_reference_library_on_random_pairs():
    rng = np.random.default_rng(1)
    one = rng.uniform((0, -100, -100), (100, 100, 100), (5000, 3))
    other = rng.uniform((0, -100, -100), (100, 100, 100), (5000, 3))
    np.testing.assert_allclose(colour.delta_e_2000(one, other), reference.deltaE_ciede2000(one, other), atol=1e-9)
    np.testing.assert_allclose(colour.delta_e_76(one, other), reference.deltaE_cie76(one, other), atol=1e-9)


@given(st.tuples(*[st.floats(0, 100), st.floats(-90, 90), st.floats(-90, 90)] * 2))
def test_a_difference_is_symmetric_and_zero_to_itself(values):
    one, other = values[:3], values[3:]
    assert float(colour.delta_e_2000(one, one)) == 0
    assert float(colour.delta_e_2000(one, other)) == pytest.approx(float(colour.delta_e_2000(other, one)), abs=1e-6)


def test_opposite_hues_differ_alike_both_ways():
    """A hue difference of just 180° keeps its sign, so that the rotation term does not change with the order."""
    one, other = (0.0, 0.0, 1.0), (0.0, 0.0, -27.0)
    forward, backward = float(colour.delta_e_2000(one, other)), float(colour.delta_e_2000(other, one))
    assert forward == pytest.approx(backward, abs=1e-12)


def test_srgb_constants_are_those_of_the_standard():
    """IEC 61966-2-1: threshold 0.04045, slope 12.92; 50 % grey is 0.2140 in linear light."""
    assert float(colour.linear_from_srgb(0.04045)) == pytest.approx(0.04045 / 12.92)
    assert float(colour.linear_from_srgb(0.5)) == pytest.approx(0.21404, abs=1e-5)
    every = np.arange(256) / 255
    np.testing.assert_allclose(colour.srgb_from_linear(colour.linear_from_srgb(every)), every, atol=1e-7)


def test_lab_of_srgb_equals_the_reference_library_under_d50():
    rng = np.random.default_rng(2)
    rgb = rng.integers(0, 256, (4000, 3))
    wanted = reference.rgb2lab(rgb / 255, illuminant="D65")  # grey axis and lightness do not depend on the adaptation
    ours = colour.lab_from_srgb8(rgb)
    assert np.abs(colour.lab_from_srgb8([255, 255, 255]) - [100, 0, 0]).max() < 1e-6
    assert float(np.percentile(colour.delta_e_2000(ours, wanted), 95)) < 8
    np.testing.assert_allclose(colour.lab_from_srgb8([[128] * 3])[0, 0], 53.585, atol=0.01)


def test_bands_and_lab_convert_both_ways():
    rng = np.random.default_rng(3)
    rgb = rng.integers(0, 256, (1000, 3))
    bands = colour.bands_from_srgb8(rgb)
    np.testing.assert_array_equal(colour.srgb8_from_bands(bands), rgb)
    np.testing.assert_allclose(colour.bands_from_lab(colour.lab_from_bands(bands)), bands, atol=1e-6)


@pytest.mark.parametrize("text", ["", "#12345", "#12345g", "red", "#1234567"])
def test_a_wrong_hex_colour_is_refused_with_what_is_accepted(text):
    with pytest.raises(ValueError, match="six hexadecimal digits"):
        colour.rgb_from_hex(text)


def test_hex_colours_read_and_write():
    assert colour.rgb_from_hex("1b1B1f") == (27, 27, 31)
    assert colour.hex_from_rgb((27, 27, 31)) == "#1b1b1f"
