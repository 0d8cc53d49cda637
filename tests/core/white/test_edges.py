"""Areas of peeking white and bare rims: by coverage, the same for hard and soft edges, by place for a second pass."""

import math
from collections.abc import Callable

import numpy as np
import pytest
from tests.conftest import coarse
from tests.core.white.test_register import EDGES_PX, PPI, figure

from swaddon.core.plan.report import plan_report
from swaddon.core.press.registration import Refeed, Registration
from swaddon.core.white import bared
from swaddon.core.white.edges import bare, peeking
from swaddon.core.white.settings import WhiteSettings
from swaddon.core.white.underbase import Choked, pull_in
from swaddon.session.readout import plan_table
from swaddon.ui.stations.white.model import harms_text

SHAPES = tuple(EDGES_PX)
BLACK = (27, 27, 31)


def hard(soft: np.ndarray) -> np.ndarray:
    return np.where(soft >= 128, np.uint8(255), np.uint8(0))


def peeks_px(shape: np.ndarray, choke_px: float, reach_px: float | Callable) -> float:
    kept = pull_in(shape, choke_px)
    under = np.where(np.minimum(kept, shape) >= 128, np.uint8(255), np.uint8(0))

    def reach(x: np.ndarray, y: np.ndarray) -> np.ndarray:
        return reach_px(x, y) if callable(reach_px) else np.full(np.broadcast_shapes(x.shape, y.shape), reach_px)

    found = peeking(under, Choked(shape, kept, kept), np.zeros_like(shape), choke_px, reach, lambda: None)
    return float(found.sum()) / 255


@pytest.mark.parametrize("edges", ["soft", "hard"])
@pytest.mark.parametrize("kind", SHAPES)
@pytest.mark.parametrize(("choke", "over"), [(0, 0.24), (2.36, 0.24), (2.36, 1.2), (5.9, 0.6)])
def test_white_peeks_out_as_far_as_it_reaches_beyond_the_choke(kind, edges, choke, over):
    """Length of the edge times how far; whole pixels told 4.9 mm² of 64 on hard edges, 176 of 253 on soft ones."""
    if kind == "stripes" and choke > 5:
        pytest.skip("no white is left in strokes so thin")
    shape = figure(kind) if edges == "soft" else hard(figure(kind))
    corners = {"disc": math.pi * over**2, "stripes": 36 * over**2}.get(kind, math.pi * over**2)
    expected = EDGES_PX[kind] * over + corners
    within = 0.12 if kind != "45" else 0.17  # all pixels along an edge at 45° have one of few depths
    assert peeks_px(shape, choke, choke + over) == pytest.approx(expected, rel=within)


@pytest.mark.parametrize("kind", SHAPES)
def test_hard_and_soft_edges_of_one_shape_peek_alike(kind):
    soft, over = figure(kind), (0.24, 0.6, 1.2, 2.0, 4.0)
    told = [[peeks_px(shape, 1.0, 1.0 + by) for by in over] for shape in (soft, hard(soft))]
    np.testing.assert_allclose(told[1], told[0], rtol=0.09 if kind != "45" else 0.34)
    whole = [bared.bared_areas(shape, PPI, Registration(0.08, 0.03), np.array([0.0, 0.1, 0.2])) for shape in
             (soft, hard(soft))]  # fmt: skip
    np.testing.assert_allclose(whole[1].peek_mm2, whole[0].peek_mm2, rtol=0.12)
    np.testing.assert_allclose(whole[1].rim_mm2, whole[0].rim_mm2, rtol=0.12, atol=0.3)


@pytest.mark.parametrize("kind", SHAPES)
def test_a_reach_within_the_choke_peeks_nowhere_and_more_reach_never_less(kind):
    shape = figure(kind)
    told = [peeks_px(shape, 3.0, reach) for reach in np.arange(1.0, 7.0, 0.4)]
    assert told[0] == told[4] == 0
    assert (np.diff(told) >= 0).all()


def test_what_leaves_the_artboard_counts():
    """A box to all borders of the artboard has edges all the same: 4 · 200 px."""
    whole = np.full((200, 200), 255, np.uint8)
    assert peeks_px(whole, 1.0, 2.0) == pytest.approx(4 * 200 * 1.0, rel=0.03)


def test_the_reach_of_a_place_counts_there():
    shape = figure("0")
    left_only = peeks_px(shape, 2.0, lambda x, y: np.where(x < 200, 3.0, 0.0) + 0 * y)
    assert left_only == pytest.approx(peeks_px(shape, 2.0, 3.0) / 2, rel=0.02)


def test_a_rim_counts_by_its_coverage():
    soft = figure("disc")
    for shape in (soft, hard(soft)):
        white = pull_in(shape, 2.4)
        rim = bare(shape, white, shape, np.where(shape > 0, np.uint8(255), np.uint8(0)))
        assert rim.sum() / 255 == pytest.approx(math.pi * (130.4**2 - 128.0**2), rel=0.07)


@pytest.mark.parametrize("size", [(60.0, 90.0), (190.0, 270.0)])
def test_expected_areas_of_a_second_pass_meet_a_monte_carlo_by_place(size):
    """Squares all over a print: 20,000 shifts, turns and stretches drawn at random move the white of each."""
    spread = Refeed(0.2, 0.05, 0.08).spread(*size)
    registration, ppi = Registration(squeeze_mm=0.0).spread_by(spread), 100
    width, height = (round(mm / 25.4 * ppi) for mm in size)
    shape = np.zeros((height, width), np.uint8)
    side, step = 24, 59
    corners = [(x, y) for y in range(10, height - side, step) for x in range(10, width - side, step)]
    for x, y in corners:
        shape[y : y + side, x : x + side] = 255
    chokes = np.array([0.0, 0.2, 0.4])
    areas = bared.bared_areas(shape, ppi, registration, chokes)
    rng, mm = np.random.default_rng(4), 25.4 / ppi
    n = 20_000
    parts = rng.normal(0, [0.2, 0.2, spread.turn_rad, spread.stretch], (n, 4))
    middles = np.array([(x + side / 2 - width / 2, y + side / 2 - height / 2) for x, y in corners]) * mm
    dx = parts[:, :1] - parts[:, 2:3] * middles[:, 1]
    dy = parts[:, 1:2] + parts[:, 2:3] * middles[:, 0] + parts[:, 3:] * middles[:, 1]
    whole = side * mm
    for index, choke in enumerate(chokes):
        # What two squares of sides a (white) and b (colour), d apart, have in common along one axis.
        white = whole - 2 * choke
        common = [np.clip((whole + white) / 2 - abs(d), 0, white) for d in (dx, dy)]
        peek = (white**2 - common[0] * common[1]).sum(axis=1).mean()
        assert areas.peek_mm2[index] == pytest.approx(peek, rel=0.06 if choke < 0.3 else 0.1)


def test_the_recommendation_and_the_finding_of_a_second_pass_go_by_place(make):
    """190 × 270 mm: corners reach further than the mean; white passed a mean “no peek” there and nothing was told."""
    art = np.zeros((270, 190, 4), np.uint8)
    for y, x in ((4, 4), (4, 150), (230, 4), (230, 150)):
        art[y : y + 36, x : x + 36] = (200, 30, 40, 255)
    press = coarse("toner-twopass")
    mean = press.of_size(190, 270).registration.sigma_mm
    between = round(2 * mean + press.registration.squeeze_mm + 0.01, 2)
    plan = make(art, press, width_mm=190.0, garment=BLACK, white=WhiteSettings(choke_mm=between))
    registration = plan.request.registration
    assert between < registration.no_peek_mm
    assert (
        registration.no_peek_mm == math.ceil((2 * registration.spread.worst_mm + registration.squeeze_mm) * 100) / 100
    )
    peek, peeks = plan.checks.edges.peek, plan.checks.edges.peek_mm2
    assert peeks > 0.5
    middle = np.s_[peek.shape[0] // 3 : 2 * peek.shape[0] // 3, peek.shape[1] // 3 : 2 * peek.shape[1] // 3]
    assert not peek[middle].any()
    enough = make(art, press, width_mm=190.0, garment=BLACK, white=WhiteSettings(choke_mm=registration.no_peek_mm))
    assert enough.checks.edges.peek_mm2 < 0.1


def test_an_entered_error_is_the_same_everywhere(make):
    art = np.zeros((90, 60, 4), np.uint8)
    art[20:60, 10:50] = (200, 30, 40, 255)
    plan = make(art, coarse("toner-twopass"), width_mm=60.0, white=WhiteSettings(registration_mm=0.1))
    assert plan.request.registration.spread is None
    assert plan.request.registration.no_peek_mm == pytest.approx(0.2 + plan.request.registration.squeeze_mm)


def test_what_the_corners_come_to_is_told_beside_the_recommendation(make):
    """In words where the choke stands, on the sheet, in the table and in plan.json; silent where it hides white."""
    art = np.zeros((270, 190, 4), np.uint8)
    art[10:60, 10:60] = art[200:260, 120:180] = (200, 30, 40, 255)
    press = coarse("toner-twopass")
    for choke_mm, told in ((0.2, True), (0.7, False)):
        plan = make(art, press, width_mm=190.0, garment=BLACK, white=WhiteSettings(choke_mm=choke_mm))
        past = plan.request.registration.reach_mm - choke_mm
        words = harms_text(plan, plan.request.registration)
        assert (f"at corners white may pass by {past:.2f} mm" in words) == told
        assert (f"at corners white may pass it by {past:.2f} mm" in plan_table(plan)) == told
        report = plan_report(plan)["choke"]
        assert report["no_peek_at"] == "corners"
        assert report["worst_sigma_mm"] > report["sigma_mm"]
    film = make(art, coarse("film"), width_mm=190.0, garment=BLACK, white=WhiteSettings(choke_mm=0.05))
    assert "corners" not in harms_text(film, film.request.registration) + plan_table(film)
    assert plan_report(film)["choke"]["no_peek_at"] == "everywhere"
