"""White out of its place: where it comes to lie, and that more of it never peeks less."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy import ndimage
from skimage.morphology import dilation, disk

from swaddon.core.press.registration import Registration
from swaddon.core.proof.misregistration import Misregistration, grown, worst_case
from swaddon.core.white.edges import bare, peeking
from swaddon.core.white.underbase import Choked


def disc(radius: float, side: int = 120) -> np.ndarray:
    y, x = np.mgrid[0:side, 0:side] - side / 2 + 0.5
    return ((np.hypot(x, y) <= radius) * 255).astype(np.uint8)


def test_the_worst_case_goes_as_far_as_is_reckoned_with():
    misregistration = worst_case(Registration(0.1, 0.05))
    assert np.hypot(misregistration.dx_mm, misregistration.dy_mm) == pytest.approx(0.2, abs=0.002)
    assert misregistration.squeeze_mm == 0.05
    named = worst_case(Registration(0.1, 0.05, is_worst_case=True))
    assert np.hypot(named.dx_mm, named.dy_mm) == pytest.approx(0.1, abs=0.002)
    assert Misregistration().is_none
    assert not misregistration.is_none
    assert misregistration.moved(0.05, -0.1).dy_mm == pytest.approx(misregistration.dy_mm - 0.1, abs=0.006)


def test_squeezed_white_is_grown_as_a_reference_library_grows_it():
    """Against scikit-image's dilation with a disc, for whole pixels."""
    for reach in (1, 2, 4):
        ours, theirs = grown(disc(20), reach) > 127, dilation(disc(20), disk(reach)) > 127
        np.testing.assert_array_equal(ours, theirs)
    plane = disc(20)
    assert grown(plane, 0) is plane


@given(st.floats(0.05, 4), st.floats(0.05, 4))
def test_more_squeeze_never_takes_white_away(one, other):
    small, large = (grown(disc(12, 60), by).astype(int) for by in sorted((one, other)))
    assert (large >= small).all()
    assert (small >= disc(12, 60)).all()


def test_half_a_pixel_of_squeeze_is_half_a_pixel_of_edge():
    plane = np.zeros((40, 40), np.uint16)
    plane[10:30, 10:30] = 32640
    edge = grown(plane, 0.5)[20, 30]
    assert edge == pytest.approx(32640 / 2, abs=1)


def peeks(choke: float, reach: float, own: np.ndarray | None = None) -> np.ndarray:
    """Coverage of white that comes out of a disc of 40 px, by choke and reach in px."""
    kept = disc(max(40 - choke, 1))
    everywhere = lambda x, y: np.full(np.broadcast_shapes(x.shape, y.shape), reach)  # noqa: E731
    none = np.zeros_like(kept) if own is None else own
    under = np.where(none > 0, np.uint8(0), kept)
    return peeking(under, Choked(disc(40), kept, kept), none, choke, everywhere, lambda: None)


@given(st.floats(0, 8), st.floats(0, 8), st.floats(0, 6))
def test_more_misregistration_never_lowers_peek_and_more_choke_never_raises_it(one, other, choke):
    small, large = (peeks(choke, reach).sum() for reach in sorted((one, other)))
    assert large >= small
    assert peeks(choke + 2, other).sum() <= peeks(choke, other).sum()


def test_peeking_white_is_the_ring_by_scipys_distance():
    """Area within reach of the white and beside the figure, by SciPy's exact distance transform."""
    away = ndimage.distance_transform_edt(disc(38) == 0)
    wanted = np.count_nonzero((away <= 6) & (disc(40) == 0))
    assert peeks(2, 6).sum() / 255 == pytest.approx(wanted, rel=0.06)
    assert not peeks(2, 6, own=disc(40)).any(), "white of the design is meant to be seen"


def test_bare_is_what_asked_for_white_and_has_ink_but_none():
    wanted, white, inked = disc(40), disc(35), disc(40)
    rim = bare(wanted, white, inked, inked)
    assert rim.sum() / 255 == pytest.approx(np.pi * (40**2 - 35**2), rel=0.05)
    assert not bare(wanted, white, inked, np.zeros_like(inked)).any()
