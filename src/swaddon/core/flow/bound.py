"""The instant answer: what a shop's resources allow at best, and about how many pieces an hour it really makes.

At best is the bottleneck law: throughput is at most count ÷ demand of each resource (Denning & Buzen 1978, “The
operational analysis of queueing network models”, asymptotic bounds). How far below that a shop stays depends on how
people and machines wait for each other, which no one factor tells: a short day without chance is run for it.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import lru_cache

from swaddon.core.flow.day import Order, simulate
from swaddon.core.flow.shop import HANDS, PLATEN, Shop, is_printer

_DAY_PIECES = 100
"""Pieces of the short day: so many that begin and end do not count for much."""

_CHANCE_KEEPS = 0.985
"""Share of its rate that a day with the shipped scatter keeps, spoiled pieces aside (simulated: 0.9 to 1.06)."""

_MOST_KEPT = 64


@dataclass(frozen=True)
class Bound:
    """Seconds of each resource that orders take, the one that limits, and how long all of them take.

    Attributes
    ----------
    demand_s
        By resource.
    bottleneck
        The resource that limits.
    least_s
        No shop like this is faster, chance aside.
    likely_s
        About how long it takes, with begin and end.
    pieces
        Good pieces.
    likely_per_hour
        About how many pieces an hour once the work flows, however few are ordered.
    """

    demand_s: dict[str, float]
    bottleneck: str
    least_s: float
    likely_s: float
    pieces: int
    likely_per_hour: float

    @property
    def per_hour(self) -> float:
        """Most pieces an hour."""
        return 3600 * self.pieces / self.least_s if self.least_s else 0.0


def demand(shop: Shop, order: Order, counts_refills: bool = False) -> dict[str, float]:
    """Seconds of each resource that one good piece of an order takes.

    Refills are spread over the pieces between two of them; ``counts_refills``: only those count that come in this order
    at least, on its own printers.
    """
    out = dict.fromkeys(shop.counts, 0.0)
    gang = max(1, min(shop.gangs.get(order.process, 1), shop.rack, order.quantity))
    for stage in shop.route(order.process, order.gets):
        share = 1 / gang if stage.is_gang else 1.0
        hands = (stage.hands_s + stage.after_s) * share
        machine = stage.machine_s * share
        refill = 0.0
        if is_printer(stage.machine):
            machine = order.print_s
            stops = (machine + hands) * shop.stop_share / (1 - shop.stop_share)
            refill = _refill_s(shop, order, stage.machine, counts_refills)
            machine += stops
        out[HANDS] += hands + refill + (machine if stage.attended else 0.0)
        if stage.machine:
            out[stage.machine] += hands + refill + machine
        if stage.on_platen and shop.counts.get(PLATEN):
            out[PLATEN] += refill + machine
    return {name: seconds / (1 - shop.spoilage_share) for name, seconds in out.items()}


def _refill_s(shop: Shop, order: Order, printer: str, counts: bool) -> float:
    """Hands of changing what a printer has used up, per piece.

    Each printer may print all but one piece of what lasts before it is changed: an order of fewer needs no change.
    """
    every = shop.refill_every
    if not every:
        return 0.0
    if not counts:
        return shop.refill_s / every
    spared = max(1, shop.counts.get(printer, 1)) * (every - 1)
    changes = -(-max(0, order.quantity - spared) // every)
    return shop.refill_s * changes / order.quantity


def bound(shop: Shop, orders: Sequence[Order]) -> Bound:
    """What the resources of a shop allow at best, and what that makes about."""
    total, steady_s, own_s = dict.fromkeys(shop.counts, 0.0), 0.0, 0.0
    for order in orders:
        for name, seconds in demand(shop, order, counts_refills=True).items():
            total[name] += seconds * order.quantity
        steady_s += 3600 * order.quantity / steady_per_hour(shop, order)
        own_s += order.quantity * max(_loads(shop, demand(shop, order)).values(), default=0.0)
    loads = _loads(shop, total)
    worst = max(loads, key=lambda name: loads[name], default="")
    least, pieces = loads.get(worst, 0.0), sum(order.quantity for order in orders)
    # orders on different machines run side by side: each is as far from its own bound as all are from theirs
    flowing_s = least * steady_s / own_s if len(orders) > 1 and own_s else steady_s
    likely_s = _end_s(_Known(shop), tuple(map(_bare, orders))) if pieces <= _DAY_PIECES else flowing_s
    per_hour = 3600 * pieces / flowing_s if flowing_s else 0.0
    return Bound(total, worst, least, max(least, likely_s), pieces, per_hour)


def _loads(shop: Shop, seconds: dict[str, float]) -> dict[str, float]:
    """Seconds of each resource over how many of it there are."""
    return {name: value / shop.counts[name] for name, value in seconds.items() if shop.counts[name]}


def limiting(shop: Shop, order: Order, machines_only: bool = False) -> tuple[str, float]:
    """The resource that limits an order, and how many pieces an hour it lets through; empty where nothing does."""
    loads = _loads(shop, demand(shop, order))
    if machines_only:
        loads.pop(HANDS, None)
    name = max(loads, key=lambda name: loads[name], default="")
    return (name, 3600 / loads[name]) if loads.get(name) else ("", 0.0)


def steady_per_hour(shop: Shop, order: Order) -> float:
    """About how many pieces of an order a shop makes an hour, whatever its quantity."""
    end_s = _end_s(_Known(shop), (_bare(replace(order, quantity=_DAY_PIECES)),))
    return 3600 * _DAY_PIECES / end_s if end_s else 0.0


def _bare(order: Order) -> Order:
    """What a day's length hangs on of an order."""
    return replace(order, name="", due_s=None, priority=0)


class _Known:
    """A shop by what it is, for the memory of days that were run."""

    def __init__(self, shop: Shop) -> None:
        self.shop, self._told = shop, repr(shop)

    def __eq__(self, other: object) -> bool:
        return isinstance(other, _Known) and self._told == other._told

    def __hash__(self) -> int:
        return hash(self._told)


@lru_cache(maxsize=_MOST_KEPT)
def _end_s(known: _Known, orders: tuple[Order, ...]) -> float:
    """When a few pieces are done, about."""
    kept = _CHANCE_KEEPS * (1 - known.shop.spoilage_share)
    return simulate(known.shop.fixed(), orders).end_s / kept


def through_s(shop: Shop, order: Order) -> float:
    """Seconds of one piece from begin to end where it waits for nothing; of a gang, those of the gang."""
    gang = max(1, min(shop.gangs.get(order.process, 1), shop.rack, order.quantity))
    out = 0.0
    for stage in shop.route(order.process, order.gets):
        machine = stage.machine_s
        if is_printer(stage.machine):
            machine = order.print_s * (gang if stage.is_gang else 1)
        out += stage.hands_s + machine + stage.after_s + stage.rests_s
    return out


@dataclass(frozen=True)
class Rate:
    """Pieces an hour of one print: what the shop makes, what limits it and to what at best, and the printer alone."""

    shop_per_hour: float
    limited_by: str
    best_per_hour: float
    printer_per_hour: float


def rate_of(shop: Shop, order: Order) -> Rate:
    """The rate of an order's pieces once the work flows, however few are ordered."""
    name, best = limiting(shop, order)
    return Rate(steady_per_hour(shop, order), name, best, 3600 / order.print_s)
