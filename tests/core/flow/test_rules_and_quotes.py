"""Rules against brute force, the chance of being late, and quotes: margin, mark-up, rounding, sums."""

import itertools
from dataclasses import replace
from decimal import Decimal

import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.stats import binomtest

from swaddon.core.flow.bound import bound, through_s
from swaddon.core.flow.day import Order, simulate
from swaddon.core.flow.quote import (
    Alternative,
    Costs,
    QuoteTerms,
    break_even,
    cents,
    price_of,
    priced,
    rounded_price,
)
from swaddon.core.flow.risk import late_risk, sensitivity, wilson
from swaddon.core.flow.rules import moore_hodgson, sequence_by, try_rules
from swaddon.core.flow.shop import HANDS, PRESS
from swaddon.io.shops import shipped_shop

SHOP = shipped_shop()


@given(st.lists(st.tuples(st.integers(1, 9), st.integers(1, 30)), min_size=1, max_size=6))
def test_fewest_late_is_what_trying_every_order_finds(jobs):
    def late(order):
        clock = count = 0
        for at in order:
            clock += jobs[at][0]
            count += clock > jobs[at][1]
        return count

    assert late(moore_hodgson(jobs)) == min(late(order) for order in itertools.permutations(range(len(jobs))))


def test_each_rule_orders_all_pieces_and_the_best_comes_first():
    orders = [
        Order("large", "direct", 169.0, 40, due_s=30_000.0),
        Order("small", "direct", 57.0, 10, due_s=1_500.0, is_pretreated=False),
        Order("film", "film", 40.0, 12, due_s=3_000.0),
    ]
    for rule in ("entered", "due", "fewest-late", "alternate"):
        sequence = sequence_by(rule, SHOP, orders)
        assert sorted(sequence) == sorted(at for at, order in enumerate(orders) for _ in range(order.quantity))
    tried = try_rules(SHOP, orders)
    assert [item.key for item in tried] == sorted(item.key for item in tried)
    assert tried[0].rule in ("due", "fewest-late")
    assert tried[0].late == 0
    assert next(item for item in tried if item.rule == "entered").late == 2


def test_light_and_dark_in_turn_is_sooner_where_one_press_dries_and_cures():
    """Blocks of light shirts starve behind the press, blocks of dark ones behind the printer; mixed, both are busy."""
    shop = replace(SHOP.fixed(), change_s=0.0, refill_every=0).with_count(PRESS, 1)
    orders = [Order("light", "direct", 57.0, 60), Order("dark", "direct", 169.0, 40, is_pretreated=False)]
    blocks = simulate(shop, orders).end_s
    turns = simulate(shop, orders, 1, sequence_by("alternate", shop, orders)).end_s
    assert turns < 0.95 * blocks


def test_lateness_is_told_as_a_share_with_its_interval():
    order = Order("rush", "direct", 57.0, 30, is_pretreated=False)
    ends = sorted(late_risk(SHOP, [order], 60, 3).finish_s[:, 0].tolist())
    middle = replace(order, due_s=(ends[29] + ends[30]) / 2)
    found = late_risk(SHOP, [middle], 60, 3)
    assert found.late_share == 0.5
    assert found.word == "high"
    assert found.low < 0.5 < found.high
    assert (found.low, found.high) == wilson(30, 60)
    assert late_risk(SHOP, [replace(order, due_s=ends[-1] + 1)], 60, 3).word == "low"
    worse = {item.change: item.late_share for item in sensitivity(SHOP, [middle], 40, 3)}
    assert worse["hands 10 % slower"] >= 0.4
    assert worse["one pair of hands less"] >= 0.5
    assert late_risk(SHOP, [order], 5, 3).late_share == 0


def test_runs_end_when_they_are_not_wanted():
    asked = []
    found = late_risk(
        SHOP, [Order("a", "direct", 57.0, 20)], 400, is_wanted=lambda: len(asked) < 3 and not asked.append(1)
    )
    assert found.runs <= 3


@pytest.mark.parametrize("hands", [1, 2])
@pytest.mark.parametrize(
    "order",
    [
        Order("l", "direct", 57.0, 120, is_pretreated=False), Order("d", "direct", 169.0, 60),
        Order("f", "film", 45.0, 100), Order("t", "toner-onepass", 14.0, 40), Order("few", "film", 45.0, 6),
    ],
)  # fmt: skip
def test_the_instant_answer_is_near_the_simulated_day(order, hands):
    shop = SHOP.with_count(HANDS, hands)
    day = simulate(replace(shop, spoilage_share=0.0).fixed(), [order])
    found = bound(replace(shop, spoilage_share=0.0), [order])
    assert found.likely_s == pytest.approx(day.end_s, rel=0.22)
    assert found.least_s <= day.end_s
    assert through_s(shop, order) <= day.end_s


# quotes


def test_margin_is_of_the_price_and_markup_of_the_cost():
    """40 % of margin on 6.00 asks 10.00, 40 % of mark-up 8.40 (arithmetic)."""
    assert price_of(Decimal(6), QuoteTerms(percent=40.0)) == Decimal("10.00")
    assert price_of(Decimal(6), QuoteTerms(way="markup", percent=40.0)) == Decimal("8.40")
    with pytest.raises(ValueError, match="below 100"):
        price_of(Decimal(6), QuoteTerms(percent=100.0))


@given(st.decimals("0.01", "900", places=4), st.sampled_from(["0.01", "0.05", "0.10", "0.50", "1.00", "x.99"]))
def test_prices_go_up_to_the_next_step_and_no_further(price, rule):
    made = rounded_price(price, rule)
    step = Decimal(1) if rule == "x.99" else Decimal(rule)
    assert price <= made < price + step
    assert made == made.quantize(Decimal("0.01"))
    assert rule != "x.99" or made % 1 == Decimal("0.99")


@given(
    st.lists(st.tuples(st.integers(1, 200), st.decimals("0.2", "60", places=5)), min_size=1, max_size=6),
    st.floats(0, 90), st.floats(0, 25), st.floats(0, 100), st.decimals("0", "50", places=2),
)  # fmt: skip
def test_parts_of_a_quote_sum_to_its_total(lines, percent, tax, deposit, setup):
    terms = QuoteTerms(percent=percent, tax_percent=tax, deposit_percent=deposit)
    quote = priced([(f"line {at}", count, cost) for at, (count, cost) in enumerate(lines)], setup, terms, "EUR")
    assert quote.net == sum(line.price * line.quantity for line in quote.lines) + quote.setup
    assert quote.total == quote.net + cents(quote.net * Decimal(repr(tax)) / 100)
    assert 0 <= quote.deposit <= quote.total
    for line, (count, cost) in zip(quote.lines, lines, strict=True):
        assert line.cost == cost + setup / quote.pieces
        assert line.quantity == count
        assert line.earned >= line.price * Decimal(repr(percent)) / 100 - Decimal("0.001")


def test_break_even_is_the_first_quantity_that_costs_less():
    film, direct = Costs("Film", Decimal("5.00"), Decimal("6.30")), Costs("Direct", Decimal("5.55"), Decimal("2.80"))
    found = break_even(film, direct)
    assert found == next(count for count in range(1, 100) if film.cost(count) <= direct.cost(count))
    assert break_even(direct, film) == found
    assert break_even(film, Costs("dearer", Decimal(9), Decimal("6.30"))) is None
    assert break_even(film, Costs("better", Decimal(1), Decimal(1))) is None


def test_the_light_shirt_may_be_cheaper_and_earn_more_per_press_hour():
    """Common practice, no source: it prints in a third of the time."""
    dark = Alternative("dark", Decimal(14), Decimal("6.30"), 17.5)
    light = Alternative("light", Decimal(11), Decimal("4.95"), 42.8)
    assert light.price < dark.price
    assert light.earned_per_hour == Decimal("211.86") > dark.earned_per_hour == Decimal("110.25")


@pytest.mark.parametrize(("late", "runs"), [(0, 400), (1, 60), (30, 60), (397, 400), (60, 60)])
def test_the_interval_of_a_chance_is_wilsons(late, runs):
    """Wilson 1927, as SciPy has it."""
    theirs = binomtest(late, runs).proportion_ci(0.95, method="wilson")
    assert wilson(late, runs) == pytest.approx((theirs.low, theirs.high), abs=1e-5)
