"""The instant answer: no shop is faster than its most loaded resource lets it be (the bottleneck law).

Throughput is at most count ÷ demand of each resource (Denning & Buzen 1978, “The operational analysis of queueing
network models”, asymptotic bounds); what people do beside it costs a little more.
"""

from collections.abc import Sequence
from dataclasses import dataclass

from swaddon.core.flow.day import Order
from swaddon.core.flow.shop import HANDS, PLATEN, Shop, is_printer

ALONE, TOGETHER = 0.85, 0.95
"""Share of the bound that one person, and several, really reach (from simulated days; assumed)."""


@dataclass(frozen=True)
class Bound:
    """Seconds of each resource that orders take, the one that limits, and the least time for all of them."""

    demand_s: dict[str, float]
    bottleneck: str
    least_s: float
    likely_s: float
    pieces: int

    @property
    def per_hour(self) -> float:
        """Most pieces an hour."""
        return 3600 * self.pieces / self.least_s if self.least_s else 0.0

    @property
    def likely_per_hour(self) -> float:
        """About how many it will be."""
        return 3600 * self.pieces / self.likely_s if self.likely_s else 0.0


def demand(shop: Shop, order: Order) -> dict[str, float]:
    """Seconds of each resource that one good piece of an order takes."""
    out = dict.fromkeys(shop.counts, 0.0)
    gang = max(1, min(shop.gangs.get(order.process, 1), shop.rack, order.quantity))
    for stage in shop.route(order.process, order.is_pretreated, order.parts):
        share = 1 / gang if stage.is_gang else 1.0
        hands = (stage.hands_s + stage.after_s) * share
        machine = stage.machine_s * share
        refill = 0.0
        if is_printer(stage.machine):
            machine = order.print_s
            stops = (machine + hands) * shop.stop_share / (1 - shop.stop_share)
            refill = shop.refill_s / shop.refill_every if shop.refill_every else 0.0
            machine += stops
        out[HANDS] += hands + refill + (machine if stage.attended else 0.0)
        if stage.machine:
            out[stage.machine] += hands + refill + machine
        if stage.on_platen and shop.counts.get(PLATEN):
            out[PLATEN] += refill + machine
    return {name: seconds / (1 - shop.spoilage_share) for name, seconds in out.items()}


def bound(shop: Shop, orders: Sequence[Order]) -> Bound:
    """What the resources of a shop allow at best, and what that makes about."""
    total = dict.fromkeys(shop.counts, 0.0)
    for order in orders:
        for name, seconds in demand(shop, order).items():
            total[name] += seconds * order.quantity
    loads = {name: seconds / shop.counts[name] for name, seconds in total.items() if shop.counts[name]}
    worst = max(loads, key=lambda name: loads[name], default="")
    least = loads.get(worst, 0.0)
    reached = ALONE if shop.counts.get(HANDS, 0) <= 1 else TOGETHER
    rest = max((through_s(shop, order) - demand(shop, order).get(worst, 0.0) for order in orders), default=0.0)
    return Bound(total, worst, least, least / reached + max(0.0, rest), sum(order.quantity for order in orders))


def through_s(shop: Shop, order: Order) -> float:
    """Seconds of one piece from begin to end where it waits for nothing; of a gang, those of the gang."""
    gang = max(1, min(shop.gangs.get(order.process, 1), shop.rack, order.quantity))
    out = 0.0
    for stage in shop.route(order.process, order.is_pretreated, order.parts):
        machine = stage.machine_s
        if is_printer(stage.machine):
            machine = order.print_s * (gang if stage.is_gang else 1)
        out += stage.hands_s + machine + stage.after_s + stage.rests_s
    return out
