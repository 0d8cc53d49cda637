"""How many pieces of a plan the shop makes in an hour: one answer for tally, read-out, plan.json and quote."""

from swaddon.core.flow.bound import Rate, rate_of
from swaddon.core.flow.day import Order
from swaddon.core.flow.shop import Shop
from swaddon.core.plan.stages import Plan

_MANY = 100
"""Pieces that a rate is told of: so many that begin and end do not count."""


def pieces_of(plan: Plan) -> Order:
    """Many pieces of a plan as they go through a shop."""
    press = plan.request.profile
    return Order.of(plan.request.settings.used_by(plan.measures, press), press.process, _MANY)


def rate_of_plan(plan: Plan, shop: Shop) -> Rate | None:
    """The rate of a plan's pieces; ``None`` where nothing prints, or the shop cannot print it."""
    if not shop.can(plan.request.profile.process) or plan.time.print_s <= 0:
        return None
    return rate_of(shop, pieces_of(plan))
