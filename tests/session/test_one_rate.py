"""Tally, read-out, plan.json and quote tell one rate: the shop's first, the printer's alone beside it."""

import pytest
from tests.conftest import badge

from swaddon.core.plan.report import plan_report
from swaddon.session.costs import costed_plan
from swaddon.session.flow_plans import order_of
from swaddon.session.job import Job
from swaddon.session.quotes import press_hour_rate
from swaddon.session.readout import plan_table
from swaddon.session.shop import book, flow_shop
from swaddon.session.shop_rate import pieces_of, rate_of_plan
from swaddon.session.tally import tally_lines


@pytest.mark.parametrize("quantity", [1, 36])
def test_one_rate_everywhere(make, quantity):
    plan, shop = make(badge(), quantity=quantity), flow_shop()
    rate = rate_of_plan(plan, shop)
    (line,) = [item for item in tally_lines(plan, None, book(), shop=shop) if item.key == "rate"]
    assert line.value == f"{rate.shop_per_hour:.1f}"
    assert f"printer alone {plan.time.shirts_per_hour:.0f}" in line.delta
    time = plan_report(plan, rate)["time"]
    assert time["shop_per_hour"] == round(rate.shop_per_hour, 2) < time["shirts_per_hour"]
    assert time["limited_by"] == rate.limited_by
    assert f"about {rate.shop_per_hour:.1f}, by the" in plan_table(plan, rate)
    assert plan_report(plan)["time"]["shop_per_hour"] is None
    name, per_hour = press_hour_rate(shop, costed_plan(plan, book()))
    assert per_hour >= rate.best_per_hour
    assert name in shop.counts
    assert order_of(Job(), plan).print_s == pieces_of(plan).print_s
