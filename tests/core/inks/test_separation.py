"""The Neugebauer model and its inverse, against the FOGRA39L characterisation table."""

import os
import re
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.interpolate import RegularGridInterpolator
from scipy.optimize import minimize

from swaddon.core import fast
from swaddon.core.colour import spaces as colour
from swaddon.core.inks.inverse import fit_inks, fit_inks_plain, inverse_table, solved, target_lab
from swaddon.core.inks.separation import NODES, demichel_weights, interpolate, separate, separate_plain, transmittance
from swaddon.io import profiles
from swaddon.io.tables import separation_table

FOGRA = Path(__file__).parents[2] / "data" / "FOGRA39L.ti3"
SEARCHED = 60 if "SWADDON_SOAK" in os.environ else 30
SEPARATION = profiles.shipped("film").separation


@pytest.fixture(scope="module")
def fogra() -> tuple[np.ndarray, np.ndarray]:
    """Coverages 0..1 and CIELAB relative to paper of the 1617 patches."""
    rows = [line.split() for line in FOGRA.read_text().splitlines() if re.match(r"^\d+\s", line)]
    data = np.array([row for row in rows if len(row) == 11], float)
    cmyk, xyz = data[:, 1:5] / 100, data[:, 5:8]
    paper = xyz[(cmyk == 0).all(axis=1)][0]
    return cmyk, colour.lab_from_xyz(xyz / paper * colour.WHITE_D50)


def test_the_generic_primaries_fit_fogra39l(fogra):
    """FOGRA39L (Fogra, 2006): the shipped primaries with n = 2 stay near all 1617 measured patches."""
    cmyk, measured = fogra
    assert len(cmyk) == 1617
    seen = colour.lab_from_bands(transmittance(cmyk, SEPARATION.primaries(), SEPARATION.yule_nielsen_n))
    delta = colour.delta_e_2000(seen, measured)
    assert delta.mean() < 1.2
    assert np.percentile(delta, 95) < 2.3


def test_n_of_two_fits_fogra39l_better_than_its_neighbours(fogra):
    cmyk, measured = fogra

    def mean_for(n: float) -> float:
        corners = np.array([[index >> bit & 1 for bit in range(4)] for index in range(16)], float)
        own = [measured[(cmyk == corner).all(axis=1)][0] for corner in corners]
        primaries = np.clip(colour.bands_from_lab(np.array(own)), 1e-4, 1)
        seen = colour.lab_from_bands(transmittance(cmyk, primaries, n))
        return float(colour.delta_e_2000(seen, measured).mean())

    assert mean_for(2.0) < min(mean_for(1.0), mean_for(1.5), mean_for(3.0))


def test_fogra39l_colours_come_back_through_rgb_and_the_inverse(fogra):
    """RGB → CMYK → colour for measured colours that sRGB and the inks both hold."""
    _, measured = fogra
    darkest = SEPARATION.primaries()[-1]
    linear = (colour.bands_from_lab(measured) - darkest) / (1 - darkest)
    rgb_light = linear @ colour.SRGB_FROM_BANDS.T
    inside = ((rgb_light > 0.001) & (rgb_light < 0.999)).all(axis=1) & (measured[:, 0] > 25)
    assert inside.sum() > 500
    rgb = np.rint(colour.srgb_from_linear(rgb_light[inside]) * 255).astype(np.uint8)
    inks = interpolate(separation_table(SEPARATION), rgb) / 255
    seen = colour.lab_from_bands(transmittance(inks, SEPARATION.primaries(), SEPARATION.yule_nielsen_n))
    delta = colour.delta_e_2000(seen, measured[inside])
    assert delta.mean() < 1.5
    assert np.percentile(delta, 95) < 5.5


@given(st.lists(st.floats(0, 1), min_size=4, max_size=4))
def test_demichel_weights_sum_to_one(cmyk):
    """Demichel (1924): the overprints share the whole area."""
    assert demichel_weights(np.array(cmyk)).sum() == pytest.approx(1)


def test_full_inks_give_the_primaries():
    corners = np.array([[index >> bit & 1 for bit in range(4)] for index in range(16)], float)
    primaries = SEPARATION.primaries()
    np.testing.assert_allclose(transmittance(corners, primaries, 2.0), primaries, atol=1e-12)


def test_white_needs_no_ink_and_black_stays_within_the_limit():
    table = separation_table(SEPARATION)
    assert table.shape == (NODES, NODES, NODES, 4)
    assert not table[-1, -1, -1].any()
    assert table.sum(axis=-1).max() <= SEPARATION.total_area_limit / 100 * 255 + 0.1
    assert table[0, 0, 0].sum() > 2.8 * 255, "a limit of 280 % leaves black bare"


def test_the_stored_table_is_the_solved_one():
    """To rounding: it may have been stored by compiled code and be solved by plain code here, or the other way."""
    np.testing.assert_allclose(separation_table(SEPARATION), inverse_table(SEPARATION), atol=1e-3)


def test_a_grey_ramp_separates_without_steps():
    ramp = np.repeat(np.arange(256, dtype=np.uint8)[:, None], 3, axis=1)
    inks = interpolate(separation_table(SEPARATION), ramp)
    assert np.abs(np.diff(inks, axis=0)).max() < 6


def test_interpolation_meets_the_nodes_and_stays_between_them():
    table = separation_table(SEPARATION)
    nodes = np.array([[0, 0, 0], [255, 255, 255], [255, 0, 255]], np.uint8)
    np.testing.assert_allclose(interpolate(table, nodes), table[[0, -1, -1], [0, -1, 0], [0, -1, -1]], atol=1e-3)
    axis = np.linspace(0, 255, NODES)
    trilinear = RegularGridInterpolator((axis, axis, axis), table)
    rgb = np.random.default_rng(4).integers(0, 256, (3000, 3)).astype(np.uint8)
    apart = np.abs(interpolate(table, rgb) - trilinear(rgb))
    assert float(np.percentile(apart, 99)) < 6


def test_kernel_and_plain_separate_alike(compiled):
    rng = np.random.default_rng(5)
    rgba = rng.integers(0, 256, (80, 70, 4), dtype=np.uint8)
    rgba[:20, :, 3] = 255
    table = separation_table(SEPARATION)
    plain = np.empty_like(rgba)
    separate_plain(rgba, table, plain)
    assert fast.compiled() is not None
    assert np.abs(separate(rgba, table).astype(int) - plain).max() <= 1


def test_no_alpha_no_ink(either_way):
    rgba = np.zeros((4, 4, 4), np.uint8)
    assert not separate(rgba, separation_table(SEPARATION)).any()


def _seen(inks: np.ndarray) -> np.ndarray:
    return colour.lab_from_bands(transmittance(inks, SEPARATION.primaries(), SEPARATION.yule_nielsen_n))


def _printed(rgb: np.ndarray) -> np.ndarray:
    return _seen(np.rint(interpolate(separation_table(SEPARATION), rgb.astype(np.uint8))) / 255)


def test_black_is_the_darkest_neutral_that_the_limit_allows_and_dark_greys_differ():
    """Brute force over the mixtures within the limit: none with as little colour is darker by more than 0.5 L*."""
    axis = np.linspace(0, 1, 21)
    every = np.stack(np.meshgrid(axis, axis, axis, [0.8, 0.9, 0.95, 1.0], indexing="ij"), axis=-1).reshape(-1, 4)
    lab = _seen(every[every.sum(axis=1) <= SEPARATION.total_area_limit / 100 + 1e-9])
    darkest = lab[np.hypot(lab[:, 1], lab[:, 2]) < 2, 0].min()
    greys = _printed(np.arange(0, 17, 4)[:, None].repeat(3, axis=1))
    assert greys[0, 0] < darkest + 0.5
    assert greys[0, 0] < 12
    assert (np.diff(greys[:, 0]) > 0.3).all()


@pytest.mark.parametrize(
    ("rgb", "at_most"), [((128, 0, 0), 1.1), ((0, 128, 0), 2.9), ((87, 84, 7), 0.4), ((18, 116, 227), 3.8)]
)
def test_dark_and_strong_colours_come_as_near_as_the_inks_can(rgb, at_most):
    aim = target_lab(np.array([rgb], float), SEPARATION)
    assert colour.delta_e_2000(_printed(np.array([rgb])), aim)[0] <= at_most


@pytest.mark.slow
def test_inks_are_as_near_as_a_search_without_a_black_policy_finds():
    """In gamut mean ≤ 0.3, 95 % ≤ 1, most 2 ΔE00; elsewhere never more than 1 worse than SciPy's best of three starts.

    Colours more than 10 ΔE00 out of reach are left out: there ΔE00 calls a grey nearer than a duller blue.
    """
    rng = np.random.default_rng(2)
    rgb = rng.integers(0, 256, (SEARCHED, 3))
    aim = target_lab(rgb.astype(float), SEPARATION)
    limit = {"type": "ineq", "fun": lambda inks: SEPARATION.total_area_limit / 100 - inks.sum()}

    def nearest(target: np.ndarray) -> float:
        starts = rng.random((3, 4)) * (0.8, 0.8, 0.8, 0.4)

        def off(inks: np.ndarray) -> float:
            return float(colour.delta_e_2000(_seen(np.clip(inks, 0, 1)), target))

        return min(
            minimize(off, start, method="SLSQP", bounds=[(0, 1)] * 4, constraints=[limit]).fun for start in starts
        )

    best = np.array([nearest(target) for target in aim])
    made = colour.delta_e_2000(_printed(rgb), aim)
    inside = best < 0.3
    assert inside.sum() > SEARCHED / 4
    assert made[inside].mean() <= 0.3
    assert np.percentile(made[inside], 95) <= 1.0
    assert made[inside].max() <= 2.0
    assert (made - best)[best < 10].max() <= 1.0


def test_ramps_of_inks_have_no_jumps():
    for full in ((255, 0, 0), (0, 255, 0), (0, 0, 255), (255, 255, 0), (0, 255, 255), (255, 0, 255)):
        for end in (0, 255):
            share = np.linspace(0, 1, 256)[:, None]
            ramp = np.rint(end * (1 - share) + np.array(full) * share).astype(np.uint8)
            inks = interpolate(separation_table(SEPARATION), ramp)
            assert np.abs(np.diff(inks, 2, axis=0)).max() < 10


def _flat_steps(gamut: str) -> int:
    """Most steps of 100 along ramps of full colours that print alike (ΔE00 < 0.02) though they are drawn apart."""
    table, most = separation_table(replace(SEPARATION, gamut=gamut)), 0
    for full in ((255, 0, 0), (0, 255, 0), (0, 0, 255), (255, 255, 0), (0, 255, 255), (255, 0, 255)):
        for end in (0, 128, 255):
            share = np.linspace(0, 1, 101)[:, None]
            ramp = np.rint(end * (1 - share) + np.array(full) * share).astype(np.uint8)
            drawn, made = colour.lab_from_srgb8(ramp), _seen(interpolate(table, ramp) / 255)
            apart = colour.delta_e_2000(drawn[1:], drawn[:-1]) > 0.15
            most = max(most, int((apart & (colour.delta_e_2000(made[1:], made[:-1]) < 0.02)).sum()))
    return most


def test_keeping_steps_keeps_them_and_costs_strength():
    assert _flat_steps("hue") > 10
    assert _flat_steps("steps") <= 3
    greys = np.arange(0, 256, 15)[:, None].repeat(3, axis=1).astype(np.uint8)
    other = separation_table(replace(SEPARATION, gamut="steps"))
    np.testing.assert_allclose(interpolate(other, greys), interpolate(separation_table(SEPARATION), greys), atol=1.0)


def test_a_press_without_black_gets_none():
    bare = replace(SEPARATION, black_strength=0.0)
    assert solved(np.array([[0.0, 0, 0], [90, 40, 20]]), bare)[:, 3].max() == 0


@pytest.mark.parametrize("ground", [(1.0, 1.0, 1.0), (0.02, 0.03, 0.05)])
@pytest.mark.parametrize("name", ["film", "toner-no-black"])
def test_inks_fitted_by_compiled_and_by_plain_code_are_the_same(compiled, name, ground):
    """Random colours, with tone curves and without black; both take the same steps."""
    separation = profiles.shipped(name).separation
    rng = np.random.default_rng(2)
    curves = tuple(tuple((np.linspace(0, 1, 6) ** power).tolist()) for power in (0.7, 0.8, 0.9, 1.0))
    for own in (separation, replace(separation, tone_curves=curves)):
        aims = target_lab(rng.integers(0, 256, (300, 3)).astype(float), own)
        black, most = rng.uniform(0, 1, 300), np.array([1.0, 1.0, 1.0, float(own.black_strength > 0)])
        start = np.minimum(rng.uniform(0.1, 0.6, (300, 4)), most)
        ours, plain = start.copy(), start.copy()
        fit_inks(ours, aims, black, most, own, np.array(ground))
        fit_inks_plain(plain, aims, black, most, own, np.array(ground))
        assert np.abs(ours - plain).max() < 1e-6
        assert np.abs(ours - start).max() > 0.1
