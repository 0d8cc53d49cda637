"""Harm of choke: expected areas of peeking white and bare rim, and the choke that does least."""

import math

import cv2
import numpy as np
import pytest
from scipy import integrate, stats
from tests.conftest import badge

from swaddon.core import fast
from swaddon.core.press.registration import Registration
from swaddon.core.white import bared, register
from swaddon.io.tables import cache_folder

PPI = 300
MM = 25.4 / PPI
CHOKE = np.arange(0, 0.405, 0.01)


def figure(kind: str, size: int = 400, fine: int = 8) -> np.ndarray:
    """An antialiased figure: a turned rectangle, a disc, or stripes with gaps."""
    big = np.zeros((size * fine, size * fine), np.uint8)
    centre = (size * fine / 2, size * fine / 2)
    if kind == "disc":
        cv2.circle(big, (int(centre[0]) + 3, int(centre[1]) - 5), int(130.4 * fine), 255, -1)
    elif kind == "stripes":
        for left in range(30, 360, 40):
            big[40 * fine : 360 * fine, left * fine : (left + 22) * fine] = 255
    else:
        corners = cv2.boxPoints((centre, (240 * fine, 150 * fine), float(kind)))
        cv2.fillPoly(big, [np.rint(corners).astype(np.int32)], 255)
    return np.asarray(cv2.resize(big, (size, size), interpolation=cv2.INTER_AREA))


EDGES_PX = {"disc": 2 * math.pi * 130.4, "stripes": 9 * 2 * (320 + 22)} | dict.fromkeys(
    ("0", "17", "30", "45", "90"), 2 * (240 + 150)
)


@pytest.mark.parametrize("kind", EDGES_PX)
@pytest.mark.parametrize(("sigma", "squeeze"), [(0.08, 0.05), (0.05, 0.02), (0.12, 0.0)])
def test_expected_areas_are_the_integral_over_the_error_at_every_angle(kind, sigma, squeeze):
    """Along an edge, E[(e + s − c)⁺] and E[(c − s − e)⁺] for normal e, by SciPy, within 5 % (12 at 45°)."""
    areas = bared.bared_areas(figure(kind), PPI, Registration(sigma, squeeze), CHOKE)
    normal = stats.norm(scale=sigma)
    within = 0.05 if kind != "45" else 0.12
    for index in (0, 2, 5, 7):
        over = CHOKE[index] - squeeze
        peek = integrate.quad(lambda e, o=over: max(e - o, 0) * normal.pdf(e), -1, 1, points=[over])[0]
        rim = integrate.quad(lambda e, o=over: max(o - e, 0) * normal.pdf(e), -1, 1, points=[over])[0]
        assert areas.peek_mm2[index] == pytest.approx(peek * EDGES_PX[kind] * MM, rel=within)
        assert areas.rim_mm2[index] == pytest.approx(rim * EDGES_PX[kind] * MM, rel=0.05, abs=0.2)


def test_expected_areas_meet_a_monte_carlo_of_lettering():
    """4,000 errors drawn at random move white of lettering, sixteen times as fine, about its place."""
    fine, size, sigma_mm, squeeze_mm = 16, 130, 0.08, 0.05
    big = np.zeros((size * fine, size * fine), np.uint8)
    cv2.putText(big, "Kr", (15 * fine, 90 * fine), cv2.FONT_HERSHEY_SIMPLEX, 2.2 * fine, 255, 9 * fine)
    big = np.where(big > 127, np.uint8(255), np.uint8(0))
    small = np.asarray(cv2.resize(big, (size, size), interpolation=cv2.INTER_AREA))
    areas = bared.bared_areas(small, PPI, Registration(sigma_mm, squeeze_mm), CHOKE)
    inner, outer = (cv2.distanceTransform(part, cv2.DIST_L2, cv2.DIST_MASK_PRECISE) for part in (big, 255 - big))
    depth = np.where(big > 0, inner - 0.5, 0.5 - outer)
    shape = (big > 0).astype(np.float32)
    rng = np.random.default_rng(8)
    shifts = np.rint(rng.normal(0, sigma_mm / MM * fine, (4000, 2))).astype(int)
    for index in (0, 3, 8):
        white = (depth >= (CHOKE[index] - squeeze_mm) / MM * fine).astype(np.float32)
        both = np.fft.irfft2(np.fft.rfft2(shape) * np.conj(np.fft.rfft2(white)), shape.shape)
        hidden = both[shifts[:, 1], shifts[:, 0]]
        peek, rim = float(white.sum()) - hidden.mean(), float(shape.sum()) - hidden.mean()
        assert areas.peek_mm2[index] == pytest.approx(peek * (MM / fine) ** 2, rel=0.06)
        assert areas.rim_mm2[index] == pytest.approx(rim * (MM / fine) ** 2, rel=0.06)


def curve(sigma: float, squeeze: float = 0.05, worst: bool = False) -> register.ChokeCurve:
    edges = register.Edges(1.0, 70.0, 15.0)
    return register.choke_curve(
        edges, lambda: register.bared_by_choke(badge(160)[..., 3].copy(), Registration(sigma, squeeze, worst), PPI)
    )


def test_the_recommended_choke_grows_with_the_registration_error():
    found = [curve(sigma).recommended_mm for sigma in (0.02, 0.05, 0.1, 0.2, 0.3)]
    assert found == sorted(found)
    assert found[-1] > found[0]


@pytest.mark.parametrize("sigma", [0.02, 0.08, 0.2])
def test_more_misregistration_never_lowers_peeking_and_more_choke_never_raises_it(sigma):
    wide, narrow = curve(sigma + 0.05).peek, curve(sigma).peek
    assert (wide >= narrow - 1e-9).all()
    assert (np.diff(narrow) <= 1e-9).all()


def test_the_worst_case_peeks_up_to_its_error_and_no_further():
    found = curve(0.2, 0.05, worst=True)
    assert found.peek[20] > 0
    assert found.peek[35] == pytest.approx(0, abs=0.01 * found.peek[0])


def test_a_figure_of_many_blocks_is_told_from_some_of_them():
    one = figure("stripes", 400)
    many = np.tile(one, (4, 4))
    few, all_ = (bared.bared_areas(part, PPI, Registration(0.08, 0.05), CHOKE).peek_mm2 for part in (one, many))
    assert all_[3] == pytest.approx(16 * few[3], rel=0.03)


@pytest.mark.parametrize("worst", [False, True])
def test_compiled_and_plain_bare_the_same(compiled, worst):
    """A disc, lettering-like stripes and noise, at the array's border too."""
    rng = np.random.default_rng(3)
    shapes = [figure("disc"), figure("stripes"), rng.integers(0, 256, (150, 90)).astype(np.uint8)]
    for shape in shapes:
        quick = bared.bared_areas(shape, PPI, Registration(0.09, 0.04, worst), CHOKE)
        fast.disable()
        plain = bared.bared_areas(shape, PPI, Registration(0.09, 0.04, worst), CHOKE)
        fast.enable(cache_folder())
        np.testing.assert_allclose(quick.peek_mm2, plain.peek_mm2, rtol=1e-9, atol=1e-9)
        np.testing.assert_allclose(quick.rim_mm2, plain.rim_mm2, rtol=1e-9, atol=1e-9)
        assert quick.peek_mm2[0] > 0


def test_no_figure_no_harm():
    empty = np.zeros((50, 50), np.uint8)
    assert not bared.bared_areas(empty, PPI, Registration(0.1, 0.05), CHOKE).peek_mm2.any()
