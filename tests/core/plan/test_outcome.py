"""What a plan comes to: its worst colour held against the proof's own pixels, and order sums against their parts."""

from dataclasses import replace
from decimal import Decimal

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from skimage.color import deltaE_ciede2000, rgb2lab
from tests.core.white.test_white_choices import blocks

from swaddon.core.count.consumption import Material
from swaddon.core.holes.settings import HoleSettings, Screen
from swaddon.core.knockout.settings import Knockout
from swaddon.core.order.lines import OrderLine
from swaddon.core.order.settings import PlanSettings
from swaddon.core.plan.outcome import Outcome, Shift, colour_shifts, outcome_of, small_proof
from swaddon.core.plan.whole_order import for_any_garment, one_for_all, order_sum, without_white
from swaddon.core.press.profile import Supply
from swaddon.core.white.settings import WhiteSettings

BLACK, NAVY, WHITE = (27, 27, 31), (31, 41, 68), (250, 250, 248)
COLOURS = ((250, 210, 40), (200, 30, 40), (20, 120, 60), (120, 160, 210))


def big() -> np.ndarray:
    return np.repeat(np.repeat(blocks(*COLOURS), 6, axis=0), 6, axis=1)


@pytest.mark.parametrize("garment", [BLACK, WHITE, (150, 160, 170)])
@pytest.mark.parametrize("mode", ["none", "need", "solid"])
def test_the_shift_of_a_colour_is_what_the_proofs_own_pixels_show(make, garment, mode):
    """ΔE00 by scikit-image between the middle of each block on the full proof and as it was drawn.

    A proof is sRGB, so that large shifts beyond its gamut show a little smaller or larger.
    """
    art = big()
    plan = make(art, garment=garment, white=WhiteSettings(mode, choke_mm=0.1))
    proof = small_proof(plan, 10_000)
    assert proof.shape == (*art.shape[:2], 3)
    shifts = {shift.colour: shift.delta_e for shift in colour_shifts(plan, plan.advice)}
    assert len(shifts) == len(COLOURS)
    for colour in COLOURS:
        at = np.argwhere((art[..., :3] == colour).all(axis=-1) & (art[..., 3] == 255))
        y, x = np.median(at, axis=0).astype(int)
        seen, drawn = (rgb2lab(np.array(rgb, float)[None, None] / 255) for rgb in (proof[y, x], colour))
        apart = float(deltaE_ciede2000(seen, drawn)[0, 0])
        assert shifts[colour] == pytest.approx(apart, abs=1.6, rel=0.06), (colour, mode)


def test_the_worst_comes_first_and_another_garment_is_judged_as_its_own_plan_is(make):
    art = big()
    solid = WhiteSettings("solid", choke_mm=0.1)
    on_black, on_white = (make(art, garment=garment, white=solid) for garment in (BLACK, WHITE))
    shifts = colour_shifts(on_black, on_black.advice)
    assert [shift.delta_e for shift in shifts] == sorted((shift.delta_e for shift in shifts), reverse=True)
    there = colour_shifts(on_white, on_white.advice)
    assert colour_shifts(on_black, on_black.advice, WHITE) == there, "the same print on the other garment"


def test_holes_let_the_cloth_through(make):
    art = big()
    whole, holed = (
        make(art, garment=BLACK, holes=holes) for holes in (HoleSettings(), HoleSettings(Screen(share=0.7)))
    )
    assert outcome_of(holed).worst_de > outcome_of(whole).worst_de + 3
    assert outcome_of(holed).open_share == pytest.approx(0.3, abs=0.05)


def test_screened_fades_do_not_count_as_colours(make):
    """A black glow on a white shirt prints as dots whose colour is black, but its tone is not."""
    art = big()
    y, x = np.mgrid[0 : art.shape[0], 0 : art.shape[1]]
    glow = np.zeros_like(art)
    glow[..., 3] = np.clip(200 - np.hypot(x - 60, y - 60), 0, 200).astype(np.uint8)
    both = np.concatenate([art, glow])
    plan = make(both, "film", garment=WHITE)
    assert plan.treated.tone is not None
    assert outcome_of(plan).worst_de < 20


# sums


def outcome(cost: str, grams: float = 1.0, worst: float = 3.0, seconds: float = 60.0) -> Outcome:
    materials = (
        Material("White ink", "white", grams, Supply("White", "ml", Decimal("0.1"), 0.05)),
        Material("Film", "film", 0.07, Supply("Film", "m²", Decimal("2"), 0.25)),
    )
    picture = np.zeros((2, 2, 3), np.uint8)
    shifts = (Shift((1, 2, 3), 1.0, worst),)
    return Outcome(picture, materials, Decimal(cost), "EUR", seconds, 80.0, 0.0, False, None, shifts, ())


@given(st.lists(st.tuples(st.integers(1, 500), st.decimals(0, 50, places=6), st.floats(0, 9)), min_size=1, max_size=12))
def test_the_order_is_the_sum_of_its_lines(parts):
    made = [(quantity, outcome(str(cost), grams)) for quantity, cost, grams in parts]
    total = order_sum(made)
    assert total.pieces == sum(quantity for quantity, _, _ in parts)
    assert total.cost == sum(quantity * cost for quantity, cost, _ in parts), "exact, in Decimal"
    assert total.amount_of("white") == pytest.approx(sum(quantity * grams for quantity, _, grams in parts))
    assert total.amount_of("film") == pytest.approx(0.07 * total.pieces)
    assert total.print_s == pytest.approx(60 * total.pieces)


def lines(*garments: tuple[int, int, int]) -> list[OrderLine]:
    return [OrderLine(PlanSettings(garment=garment, quantity=10)) for garment in garments]


def judged(costs: dict[str, tuple[str, float]]):
    """A judge that knows what each way costs and how far its worst colour is off."""

    def judge(settings, garments):
        key = {"none": "bare", "solid": "any"}.get(settings.white.mode, "own")
        cost, worst = costs[key]
        made = outcome(cost, worst=worst)
        return made, tuple(made.shifts for _ in garments)

    return judge


NEED = WhiteSettings("need")


def needing(*garments):
    return [replace(line, settings=replace(line.settings, white=NEED)) for line in lines(*garments)]


def test_straight_on_the_garment_and_on_one_garment_there_is_nothing_to_share():
    judge = judged({"own": ("1", 3.0), "any": ("1", 3.0), "bare": ("1", 3.0)})
    assert one_for_all(needing(BLACK, WHITE), judge, "platen") is None
    assert one_for_all(needing(BLACK, BLACK), judge, "film") is None


@pytest.mark.parametrize(
    ("own", "any_", "bare", "advised", "says"),
    [
        (("0.60", 4.0), ("0.80", 4.0), ("0.30", 2.0), "split", "must be kept apart"),
        (("0.20", 4.0), ("0.80", 4.0), ("0.30", 2.0), "each", "must be kept apart"),
        (("0.80", 4.0), ("0.80", 4.0), ("0.80", 2.0), "any", "1 transfer to keep instead of 2"),
        (("0.20", 30.0), ("0.80", 4.0), ("0.79", 2.0), "any", "its worst colour is off by ΔE 30 instead of 4"),
        (("0.90", 4.0), ("0.40", 4.0), ("0.80", 2.0), "any", "with 1 transfer to keep"),
    ],
)
def test_the_verdict_names_the_cheapest_way_that_is_no_worse_and_why(own, any_, bare, advised, says):
    found = one_for_all(needing(BLACK, WHITE), judged({"own": own, "any": any_, "bare": bare}), "film")
    assert found is not None
    assert [way.key for way in found.ways] == ["each", "split", "any"]
    assert found.advised == advised
    assert says in found.reason


def test_one_transfer_for_all_prints_every_colour_on_white_and_takes_nothing_of_one_garments_colour():
    outside, inside, box = Knockout(None, 4.0), Knockout(None, 4.0, "everywhere"), Knockout((255, 0, 0), 4.0)
    settings = PlanSettings(garment=NAVY, knockouts=(outside, inside, box), white=NEED)
    made = for_any_garment(settings, BLACK)
    assert made.knockouts == (replace(outside, colour=BLACK), box)
    assert (made.white.mode, made.white.design) == ("solid", True)
    assert without_white(settings).white.mode == "none"


def test_plans_that_print_the_same_pixels_share_a_transfer(make):
    """Solid white on black and on navy is one film; on white goods white of the design stays bare."""
    art, solid = big(), WhiteSettings("solid", choke_mm=0.1)
    art[:20, :20] = 255

    def judge(settings, garments):
        plan = make(art, garment=settings.garment, white=settings.white)
        shifts = tuple(colour_shifts(plan, plan.advice, garment) for garment in garments)
        return outcome_of(plan, identifies=True), shifts

    wanted = [replace(line, settings=replace(line.settings, white=solid)) for line in lines(BLACK, NAVY, WHITE)]
    found = one_for_all(wanted, judge, "film")
    assert found is not None
    assert [way.kinds for way in found.ways] == [2, 2, 1]


def test_ways_are_counted_on_real_plans_and_one_film_is_judged_on_every_garment(make):
    art = big()
    plans = {}

    def judge(settings, garments):
        plan = plans[settings] = make(
            art, **{name: getattr(settings, name) for name in ("garment", "white", "knockouts")}
        )
        return outcome_of(plan), tuple(colour_shifts(plan, plan.advice, garment) for garment in garments)

    found = one_for_all(needing(BLACK, NAVY, WHITE), judge, "film")
    assert found is not None
    ways = {way.key: way for way in found.ways}
    assert [ways[key].kinds for key in ("each", "split", "any")] == [3, 2, 1]
    assert (
        ways["each"].sum.amount_of("white") < ways["split"].sum.amount_of("white") < ways["any"].sum.amount_of("white")
    )
    solid = next(plan for settings, plan in plans.items() if settings.white.mode == "solid")
    worst = max(colour_shifts(solid, solid.advice, garment)[0].delta_e for garment in (BLACK, NAVY, WHITE))
    assert ways["any"].sum.worst_de == pytest.approx(worst)


def test_dots_and_rims_at_the_chokes_edge_are_no_colour(make):
    """A soft knockout left bright dots beside the edge, where white is pulled in: 63 was told where solid reaches 9."""
    art = np.zeros((300, 300, 4), np.uint8)
    art[60:240, 60:240] = (230, 60, 60, 255)
    art[..., :3][~(art[..., 3] > 0)] = 0
    cyan = np.zeros((300, 300), bool)
    cyan[56:60, 60:240] = cyan[240:244, 60:240] = True
    art[cyan] = (90, 230, 250, 255)
    art[120:180, 120:180] = (90, 230, 250, 255)
    plan = make(art, garment=(27, 27, 31), white=WhiteSettings("solid", choke_mm=0.4))
    shifts = {item.colour: item for item in colour_shifts(plan, plan.advice)}
    (own,) = [item for colour, item in shifts.items() if colour[2] > 200]
    assert own.delta_e == pytest.approx(own.solid, abs=0.6)
    only_rims = art.copy()
    only_rims[120:180, 120:180] = (230, 60, 60, 255)
    made = make(only_rims, garment=(27, 27, 31), white=WhiteSettings("solid", choke_mm=0.4))
    rims = colour_shifts(made, made.advice)
    assert max(item.delta_e for item in rims) < 15, "a colour that stands at edges alone is a rim, and told as such"
