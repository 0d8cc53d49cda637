"""A month in sums: prints, what was spoiled and why, what was used against what was planned, time likewise."""

from collections import Counter
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from decimal import Decimal, InvalidOperation

from swaddon.core.log.entry import Entry

SUPPLIES = ("white", "colour", "film", "sheet", "powder", "pretreat")
"""Kinds of material whose use is told, in this order; others follow."""


@dataclass(frozen=True)
class Used:
    """A material in the month: planned for the pieces ordered, and used for all that were begun.

    ``is_measured`` tells whether any of it was measured; the rest is the plan's amount times pieces begun.
    """

    kind: str
    unit: str
    planned: float
    used: float
    is_measured: bool


@dataclass(frozen=True)
class Month:
    """Sums of the runs that ended in a month.

    Attributes
    ----------
    month
        ``YYYY-MM``.
    runs, ordered, good, spoiled
        Runs, pieces ordered, good ones, and spoiled ones by their reason, the most first.
    used
        Materials.
    spoilage_cost
        Materials of the spoiled pieces, by currency.
    print_planned_s, print_taken_s
        Print time of the pieces whose printing was timed: by the plan, and as taken. 0: none was timed.
    planned_s
        Print time of all pieces begun, by the plan.
    worked_s
        Runs from begin to end, without breaks.
    by_process
        Pieces begun by process, the most first.
    """

    month: str
    runs: int
    ordered: int
    good: int
    spoiled: tuple[tuple[str, int], ...]
    used: tuple[Used, ...]
    spoilage_cost: tuple[tuple[str, Decimal], ...]
    print_planned_s: float
    print_taken_s: float
    planned_s: float
    worked_s: float
    by_process: tuple[tuple[str, int], ...]

    @property
    def lost(self) -> int:
        """Pieces spoiled."""
        return sum(count for _, count in self.spoiled)

    @property
    def spoiled_share(self) -> float:
        """Share of the pieces begun that were spoiled, 0..1."""
        return self.lost / (self.good + self.lost) if self.good + self.lost else 0.0


def month_of(month: str, runs: Iterable[Entry]) -> Month:
    """The sums of some runs as they stand; runs without counts or plan count with what they have."""
    spoiled: Counter[str] = Counter()
    pieces: Counter[str] = Counter()
    cost: dict[str, Decimal] = {}
    held = [run for run in runs if run.happened is not None]
    ordered = good = 0
    printed = [0.0, 0.0]
    planned_s = worked_s = 0.0
    for run in held:
        happened, planned = run.happened, run.planned
        assert happened is not None
        good += happened.good
        spoiled.update(dict(happened.spoiled))
        worked_s += happened.taken_s
        if run.ordered is not None:
            ordered += run.ordered.quantity
            pieces[run.ordered.process] += happened.begun
        if planned is None:
            continue
        planned_s += planned.figure("print_s") * happened.begun
        cost[planned.currency] = cost.get(planned.currency, Decimal(0)) + _money(planned.cost) * happened.lost
        timed = next((median for step, _, median in happened.steps if step == "print"), None)
        if timed is not None:
            printed[0] += planned.figure("print_s") * happened.begun
            printed[1] += timed * happened.begun
    return Month(
        month, len(held), ordered, good, _most_first(spoiled), _used(held),
        tuple((currency, total) for currency, total in sorted(cost.items()) if total), printed[0],
        printed[1], planned_s, worked_s,
        _most_first(pieces),
    )  # fmt: skip


def _most_first(counts: Counter[str]) -> tuple[tuple[str, int], ...]:
    return tuple(sorted(((key, count) for key, count in counts.items() if count), key=lambda item: (-item[1], item[0])))


def _money(text: str) -> Decimal:
    try:
        return Decimal(text or "0")
    except InvalidOperation:
        return Decimal(0)


def _used(runs: Sequence[Entry]) -> tuple[Used, ...]:
    """Materials, those that are known first, then others by name."""
    sums: dict[tuple[str, str], list[float]] = {}
    for run in runs:
        happened, planned = run.happened, run.planned
        if happened is None or planned is None:
            continue
        measured = dict(happened.used)
        for key, each in planned.figures:
            if not key.startswith("used:"):
                continue
            _, kind, unit = key.split(":", 2)
            line = sums.setdefault((kind, unit), [0.0, 0.0, 0.0])
            line[0] += each * (run.ordered.quantity if run.ordered is not None else happened.good)
            is_measured = f"{kind}:{unit}" in measured
            line[1] += measured[f"{kind}:{unit}"] if is_measured else each * happened.begun
            line[2] += is_measured
    rank = {kind: at for at, kind in enumerate(SUPPLIES)}
    order = sorted(sums, key=lambda key: (rank.get(key[0], len(rank)), key))
    return tuple(Used(*key, sums[key][0], sums[key][1], bool(sums[key][2])) for key in order)
