"""Inspection: widths measured on drawings of known widths, and knockout savings against whole plans."""

import math
from dataclasses import replace

import cv2
import numpy as np
import pytest
from tests.conftest import artwork, badge

from swaddon.core.artwork import near
from swaddon.core.engine import Cache, Run
from swaddon.core.findings import inspection
from swaddon.core.knockout import knockout
from swaddon.core.knockout.settings import Keep, Knockout
from swaddon.core.order.settings import PlanSettings
from swaddon.core.plan.saved import Saving, savings
from swaddon.core.plan.stages import make_plan
from swaddon.core.white.settings import WhiteSettings
from swaddon.io import profiles
from swaddon.session.job import request_for

BLACK = (27, 27, 31)


def stripe(width_px: float, degrees: float, size: int = 400) -> np.ndarray:
    """Coverage of an antialiased line beside a disc that is no line."""
    big = np.zeros((size * 4, size * 4), np.uint8)
    turn = math.radians(degrees)
    along, across = np.array([math.cos(turn), math.sin(turn)]), np.array([-math.sin(turn), math.cos(turn)])
    corners = [s * 500 * along + t * width_px * 2 * across + size * 2 for s, t in ((-1, -1), (1, -1), (1, 1), (-1, 1))]
    cv2.fillPoly(big, [np.round(np.array(corners) * 16 - 8).astype(np.int32)], 255, cv2.LINE_8, 4)
    cv2.circle(big, (300, 1300), 200, 255, -1)
    return cv2.resize(big, (size, size), interpolation=cv2.INTER_AREA)


@pytest.mark.parametrize("width_px", [2.0, 3.0, 4.6, 6.0])
@pytest.mark.parametrize("degrees", [0, 17, 45, 90])
def test_the_finest_line_has_its_width_within_a_twentieth_of_a_millimetre(width_px, degrees):
    coverage = stripe(width_px, degrees)
    for beyond in (0, 255):
        fine = inspection.finest(coverage, 300, beyond)
        assert fine is not None
        assert fine.width_mm == pytest.approx(width_px * 25.4 / 300, abs=0.05)
        x, y = round(fine.x_mm / 25.4 * 300), round(fine.y_mm / 25.4 * 300)
        assert coverage[y - 2 : y + 2, x - 2 : x + 2].max() > 127


def test_wide_shapes_and_nothing_have_no_fine_line():
    disc = np.zeros((300, 300), np.uint8)
    cv2.circle(disc, (150, 150), 100, 255, -1)
    square = np.zeros((300, 300), np.uint8)
    square[60:240, 60:240] = 255
    for coverage in (disc, square, np.zeros((50, 50), np.uint8)):
        assert inspection.finest(coverage, 300) is None


def test_the_card_counts_what_came_in(make):
    plan = make(badge(), garment=BLACK)
    seen = plan.inspection
    assert seen.half_share == pytest.approx(((badge()[..., 3] % 255) > 0).sum() / (badge()[..., 3] > 0).sum())
    assert 0.5 < seen.fringe_px < 2
    assert seen.colours == len(np.unique(badge()[badge()[..., 3] > 0, :3], axis=0))
    assert seen.background is None
    assert seen.fade_mm2 == pytest.approx(0, abs=0.2)


def test_a_knockout_saves_what_the_plan_without_it_costs_more(make):
    """Against the whole plan with and without it, film included."""
    flat = badge()
    flat[flat[..., 3] < 255] = (240, 200, 60, 255)
    white = WhiteSettings(choke_mm=0)
    with_it = make(flat, garment=BLACK, white=white, knockouts=(Knockout((240, 200, 60), 5, "outside", "hard"),))
    without = make(flat, garment=BLACK, white=white)
    (saved,) = savings(with_it.request, Run(Cache()))
    assert saved == less(without, with_it)
    assert with_it.took[0] == pytest.approx((badge()[..., 3] < 255).sum(), rel=0.01)


def less(without, with_it) -> Saving:
    amounts = [{m.kind: m.amount for m in plan.materials} for plan in (without, with_it)]
    inks = (amounts[0].get(kind, 0) - amounts[1].get(kind, 0) for kind in ("white", "colour", "powder"))
    return Saving(*inks, sum(m.cost for m in without.materials) - sum(m.cost for m in with_it.materials))


# what a knockout takes, and what it must not


def eyes() -> np.ndarray:
    """White all round a blue face with two white eyes."""
    art = np.full((200, 200, 4), 255, np.uint8)
    cv2.circle(art, (100, 100), 80, (40, 80, 160, 255), -1)
    for x in (70, 130):
        cv2.circle(art, (x, 90), 14, (255, 255, 255, 255), -1)
    return art


def test_clicked_areas_go_and_others_stay(make):
    white = (255, 255, 255)
    one = make(eyes(), knockouts=(Knockout(white, 5, "clicked", "hard", ((70.0, 90.0),)),))
    assert (one.art[90, 70, 3], one.art[90, 130, 3], one.art[2, 2, 3]) == (0, 255, 255)
    both = make(eyes(), knockouts=(Knockout(white, 5, "outside", "hard", ((70.0, 90.0),)),))
    assert (both.art[90, 70, 3], both.art[90, 130, 3], both.art[2, 2, 3]) == (0, 255, 0)


def test_kept_areas_and_colours_are_never_knocked_out(make):
    everywhere = (Knockout((255, 255, 255), 5, "everywhere", "soft"),)
    one = make(eyes(), knockouts=everywhere, keeps=(Keep((255, 255, 255), 5, (130.0, 90.0)),))
    assert (one.art[90, 70, 3], one.art[90, 130, 3], one.art[2, 2, 3]) == (0, 255, 0)
    all_white = make(eyes(), knockouts=everywhere, keeps=(Keep((255, 255, 255), 5),))
    assert (all_white.art[..., 3] == 255).all()


def test_jpeg_halo_goes_with_its_background():
    """A red disc on white through a real JPEG: nothing near white is left within a block of the removed area."""
    art = np.full((200, 200, 3), 255, np.uint8)
    cv2.circle(art, (100, 100), 70, (40, 30, 200), -1)
    packed = cv2.imdecode(cv2.imencode(".jpg", art, [cv2.IMWRITE_JPEG_QUALITY, 45])[1], cv2.IMREAD_COLOR)
    rgba = np.dstack([packed[..., ::-1], np.full((200, 200), 255, np.uint8)])
    found = near.distances(rgba, (255, 255, 255), 30)
    removed = knockout.removed_area(rgba, found, 6, "outside")
    whole = knockout.with_halo(rgba, found, 6, removed)
    assert ((whole > 0) & (removed == 0)).sum() > 50
    assert (whole >= removed).all()
    pale = (rgba[..., 1] > 225) & (whole == 0)
    assert pale.sum() < 20
    assert whole[100, 100] == 0


def test_colours_are_counted_where_chosen(either_way):
    art = eyes()
    chosen = np.zeros((200, 200), np.uint8)
    chosen[:100] = 255
    codes, counts = knockout.colour_counts(art, chosen)
    assert counts.sum() == 100 * 200
    white = counts[codes == 0xFFFFFF][0]
    assert white == (art[:100, :, :3] == 255).all(axis=2).sum()


def test_lean_plans_hold_the_same_numbers(make):
    plan = make(badge(), knockouts=(Knockout((255, 255, 255), 5, "everywhere", "soft"),))
    lean = make_plan(plan.request, lean=True)
    assert lean.grid is None
    assert lean.measures.coverage == plan.measures.coverage
    assert (lean.took, lean.thinned) == (plan.took, plan.thinned)
    assert lean.cost == plan.cost


def glow() -> np.ndarray:
    """A disc that glows into black, and a bar: most of what goes is fade."""
    ys, xs = np.mgrid[:240, :240]
    away = np.hypot(ys - 120, xs - 120)
    share = np.clip(1 - (away - 40) / 70, 0, 1)
    art = np.zeros((240, 240, 4), np.uint8)
    art[..., :3] = (share[..., None] * np.array([250, 190, 60])).astype(np.uint8)
    art[200:220, 30:210, :3] = (230, 230, 225)
    art[..., 3] = 255
    return art


@pytest.mark.parametrize("garment", [(0, 0, 0), (27, 27, 31)])
@pytest.mark.parametrize("white", [WhiteSettings(choke_mm=0.25), WhiteSettings("need", choke_mm=0.25)])
def test_what_thins_is_saved_as_well(make, garment, white):
    """A glow that fades into the shirt: 0.3 cm² went, and 0.29 ml less was printed."""
    chosen = (Knockout(None, 6, "outside", "soft"),)
    with_it = make(glow(), garment=garment, white=white, knockouts=chosen)
    without = make(glow(), garment=garment, white=white)
    assert with_it.thinned[0] > 0.2 * with_it.took[0]
    assert savings(with_it.request, Run(Cache())) == (less(without, with_it),)


def test_a_large_print_is_compared_on_fewer_pixels_to_two_digits(compiled):
    """6 megapixels, against whole plans with and without."""
    chosen = (Knockout(None, 6, "outside", "soft"),)
    white = WhiteSettings(choke_mm=0.25)
    settings = PlanSettings(width_mm=210.0, garment=BLACK, white=white, knockouts=chosen)
    request = request_for(artwork(glow()), settings, profiles.shipped("film"))
    assert request.grid_size[0] > 2400
    plans = [make_plan(replace(request, settings=replace(settings, knockouts=own)), lean=True) for own in ((), chosen)]
    (saved,), whole = savings(request, Run(Cache())), less(*plans)
    for name in ("white", "colour", "powder"):
        assert getattr(saved, name) == pytest.approx(getattr(whole, name), rel=0.03), name
    assert float(saved.cost) == pytest.approx(float(whole.cost), rel=0.03)


def test_each_of_two_knockouts_tells_its_own(make):
    art = eyes()
    art[:40] = (240, 200, 60, 255)
    white, yellow = Knockout((255, 255, 255), 5, "outside", "soft"), Knockout((240, 200, 60), 5, "outside", "soft")
    both, only = make(art, garment=BLACK, knockouts=(white, yellow)), make(art, garment=BLACK, knockouts=(white,))
    found = savings(both.request, Run(Cache()))
    assert found[1] == less(only, both)
    assert found[0].white > 0 < found[1].white
