"""In which order orders go to work: the rules that shops use, each tried on the day."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass

from swaddon.core.flow.bound import demand
from swaddon.core.flow.day import Day, Order, simulate
from swaddon.core.flow.shop import Shop

RULES = ("entered", "due", "fewest-late", "alternate")

TITLES = {
    "entered": "As entered",
    "due": "Earliest due first",
    "fewest-late": "Fewest late",
    "alternate": "Light and dark in turn",
}


@dataclass(frozen=True, eq=False)
class Tried:
    """A rule with its sequence of pieces and what came of it: time for all, late orders, and tardiness in s."""

    rule: str
    sequence: tuple[int, ...]
    day: Day
    late: int
    tardiness_s: float

    @property
    def title(self) -> str:
        return TITLES[self.rule]

    @property
    def key(self) -> tuple[int, float, float]:
        """Less is better: late orders, then how late, then the end."""
        return self.late, round(self.tardiness_s), self.day.end_s


def sequence_by(rule: str, shop: Shop, orders: Sequence[Order]) -> tuple[int, ...]:
    """Pieces in the order of a rule."""
    places = list(range(len(orders)))
    far = float("inf")

    def due(at: int) -> float:
        found = orders[at].due_s
        return far if found is None else found

    if rule == "due":
        places.sort(key=lambda at: (due(at), -orders[at].priority, at))
    elif rule == "fewest-late":
        places = moore_hodgson([(_work_s(shop, orders, at), due(at)) for at in places])
    elif rule == "alternate":
        return _alternating(orders)
    else:
        places.sort(key=lambda at: (-orders[at].priority, at))
    return tuple(at for place in places for at in [place] * orders[place].quantity)


def moore_hodgson(jobs: Sequence[tuple[float, float]]) -> list[int]:
    """Places of jobs (time, due) on one machine so that fewest are late (Moore 1968, with Hodgson's algorithm).

    >>> moore_hodgson([(4, 5), (3, 6), (2, 4)])
    [2, 1, 0]
    """
    on_time: list[int] = []
    late: list[int] = []
    clock = 0.0
    for at in sorted(range(len(jobs)), key=lambda place: jobs[place][1]):
        on_time.append(at)
        clock += jobs[at][0]
        if clock > jobs[at][1]:
            longest = max(on_time, key=lambda place: jobs[place][0])
            on_time.remove(longest)
            clock -= jobs[longest][0]
            late.append(longest)
    return on_time + sorted(late, key=lambda place: jobs[place][1])


def _work_s(shop: Shop, orders: Sequence[Order], at: int) -> float:
    """Time that an order takes of the resource that limits it."""
    loads = demand(shop, orders[at])
    return orders[at].quantity * max((loads[name] / count for name, count in shop.counts.items() if count), default=0.0)


def _alternating(orders: Sequence[Order]) -> tuple[int, ...]:
    """Pieces of all orders in turn, each order spread evenly over the whole day."""
    places = [
        ((piece + 0.5) / order.quantity, at) for at, order in enumerate(orders) for piece in range(order.quantity)
    ]
    return tuple(at for _, at in sorted(places))


def try_rules(shop: Shop, orders: Sequence[Order], is_wanted: Callable[[], bool] = lambda: True) -> tuple[Tried, ...]:
    """Every rule on a day without chance, the best first."""
    fixed = shop.fixed()
    out = []
    seen = set()
    for rule in RULES:
        sequence = sequence_by(rule, fixed, orders)
        if sequence in seen:
            continue
        seen.add(sequence)
        day = simulate(fixed, orders, 1, sequence, is_wanted)
        over = [
            max(0.0, end - order.due_s)
            for order, end in zip(orders, day.finish, strict=True)
            if order.due_s is not None
        ]
        out.append(Tried(rule, sequence, day, sum(late > 1e-6 for late in over), sum(over)))
    return tuple(sorted(out, key=lambda tried: tried.key))
