"""How likely an order is late: a day run many times with chance, and what makes it worse or better."""

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from swaddon.core.flow.day import Order, simulate
from swaddon.core.flow.shop import HANDS, PRESS, Shop

LOW, HIGH = 0.1, 0.4
"""Shares of late days up to which the risk is called low, and from which it is called high (assumed)."""

_Z95 = 1.96
_TOLD = 50
"""How often progress is told."""


@dataclass(frozen=True, eq=False)
class Risk:
    """What became of many days.

    Attributes
    ----------
    finish_s
        ``float64 (runs, orders)``: when each order was done, in seconds of work.
    late_share
        Share of the days on which any order was late; 0 where none is due.
    low, high
        95 % interval of that share (Wilson 1927).
    by_order
        The same share for each order.
    """

    finish_s: NDArray[np.float64]
    late_share: float
    low: float
    high: float
    by_order: tuple[float, ...]

    @property
    def runs(self) -> int:
        return len(self.finish_s)

    @property
    def word(self) -> str:
        """Low, some or high."""
        return "low" if self.late_share <= LOW else "high" if self.late_share >= HIGH else "some"

    def end_s(self, share: float = 0.5) -> float:
        """When all is done on so many of the days."""
        return float(np.quantile(self.finish_s.max(axis=1), share)) if self.runs else 0.0


def wilson(late: int, runs: int) -> tuple[float, float]:
    """95 % interval of a share (Wilson 1927).

    >>> [round(value, 3) for value in wilson(0, 400)]
    [0.0, 0.01]
    """
    if not runs:
        return 0.0, 1.0
    share, square = late / runs, _Z95**2
    middle = (share + square / (2 * runs)) / (1 + square / runs)
    reach = _Z95 * math.sqrt(share * (1 - share) / runs + square / (4 * runs**2)) / (1 + square / runs)
    return max(0.0, middle - reach), min(1.0, middle + reach)


def late_risk(
    shop: Shop,
    orders: Sequence[Order],
    runs: int = 400,
    seed: int = 1,
    sequence: Sequence[int] | None = None,
    progress: Callable[[float], None] = lambda _share: None,
    is_wanted: Callable[[], bool] = lambda: True,
) -> Risk:
    """Run a day many times; the same seed gives the same days. It ends early when it is not wanted any more."""
    ends = []
    for run in range(runs):
        if not is_wanted():
            break
        ends.append(simulate(shop, orders, seed * 100_003 + run, sequence, is_wanted).finish)
        if run % max(1, runs // _TOLD) == 0:
            progress((run + 1) / runs)
    finish = np.array(ends, np.float64).reshape(len(ends), len(orders))
    due = np.array([math.inf if order.due_s is None else order.due_s for order in orders])
    late = finish > due
    any_late = int(late.any(axis=1).sum())
    low, high = wilson(any_late, len(ends))
    share = any_late / len(ends) if ends else 0.0
    by_order = tuple(float(value) for value in (late.mean(axis=0) if ends else np.zeros(len(orders))))
    return Risk(finish, share, low, high, by_order)


@dataclass(frozen=True)
class Worse:
    """A shop that is a little other, and how likely it is late."""

    change: str
    late_share: float
    word: str


def sensitivity(
    shop: Shop,
    orders: Sequence[Order],
    runs: int = 100,
    seed: int = 1,
    sequence: Sequence[int] | None = None,
    is_wanted: Callable[[], bool] = lambda: True,
) -> tuple[Worse, ...]:
    """What makes a day later: slower hands, more stops, more spoilage."""
    others = [
        ("hands 10 % slower", shop.slower_hands(0.1)),
        ("twice the stops", replace(shop, stop_share=min(0.5, 2 * shop.stop_share))),
        ("twice the spoilage", replace(shop, spoilage_share=min(0.5, 2 * shop.spoilage_share))),
    ]
    if shop.counts.get(HANDS, 0) > 1:
        others.append(("one pair of hands less", shop.with_count(HANDS, shop.counts[HANDS] - 1)))
    if shop.counts.get(PRESS, 0) > 1:
        others.append(("one heat press down", shop.with_count(PRESS, shop.counts[PRESS] - 1)))
    out = []
    for change, other in others:
        found = late_risk(other, orders, runs, seed, sequence, is_wanted=is_wanted)
        out.append(Worse(change, found.late_share, found.word))
    return tuple(out)


@dataclass(frozen=True)
class WhatIf:
    """One more of a resource, and the rate that it brings."""

    resource: str
    change: str
    per_hour: float
    gain: float


def what_if(
    shop: Shop,
    orders: Sequence[Order],
    sequence: Sequence[int] | None = None,
    is_wanted: Callable[[], bool] = lambda: True,
) -> tuple[WhatIf, ...]:
    """One more of each resource that the orders need, on a day without chance; the largest gain first."""
    fixed = shop.fixed()
    now = simulate(fixed, orders, 1, sequence, is_wanted)
    needed = {bar.machine for bar in now.bars} | {HANDS}
    out = []
    for resource, count in shop.counts.items():
        if resource not in needed:
            continue
        more = simulate(fixed.with_count(resource, count + 1), orders, 1, sequence, is_wanted)
        words = "one more pair of hands" if resource == HANDS else f"one more {resource.replace('-', ' ')}"
        per_hour = max(now.per_hour, more.per_hour)  # one more may stand idle: it lowers nothing
        out.append(WhatIf(resource, words, per_hour, per_hour - now.per_hour))
    return tuple(sorted(out, key=lambda item: -item.gain))
