"""An order as a whole: each line's plan times its quantity, and whether one transfer would do for all garments."""

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass, replace
from decimal import Decimal

from swaddon.core.colour.goods import is_white
from swaddon.core.colour.spaces import Rgb, lab_from_srgb8
from swaddon.core.count.money import money_text
from swaddon.core.order.lines import OrderLine
from swaddon.core.order.settings import PlanSettings
from swaddon.core.plan.outcome import Outcome, Shift

Judge = Callable[[PlanSettings, Sequence[Rgb]], tuple[Outcome, tuple[tuple[Shift, ...], ...]]]
"""Plans settings: what one piece comes to, and its main colours on each of some garments."""

_WORTH = 0.02
"""Share of the cost below which a difference is not worth keeping more transfers apart (assumed)."""

_NO_WORSE = 3.0
"""ΔE00 by which the worst colour may be worse without counting (assumed: what white by need allows by itself)."""


@dataclass(frozen=True)
class Amount:
    """What the order uses of one material."""

    name: str
    kind: str
    unit: str
    amount: float


@dataclass(frozen=True)
class OrderSum:
    """All pieces of an order together.

    ``hand_g_m2`` is the mean of all pieces, ``worst_de`` the worst main colour of any; ``cost`` is exact.
    """

    pieces: int
    amounts: tuple[Amount, ...]
    cost: Decimal
    currency: str
    print_s: float
    hand_g_m2: float
    worst_de: float

    def amount_of(self, kind: str) -> float:
        """Amount of a material; 0 where none is used."""
        return sum(item.amount for item in self.amounts if item.kind == kind)


def order_sum(parts: Iterable[tuple[int, Outcome]], worst: Iterable[float] | None = None) -> OrderSum:
    """The sum of some quantities of pieces; ``worst`` are their worst ΔE00 where they are others than the outcomes'."""
    counted = list(parts)
    pieces = sum(quantity for quantity, _ in counted)
    amounts: dict[str, Amount] = {}
    for quantity, outcome in counted:
        for item in outcome.materials:
            before = amounts.get(item.kind, Amount(item.name, item.kind, item.supply.unit, 0.0))
            amounts[item.kind] = replace(before, amount=before.amount + quantity * item.amount)
    shifts = [outcome.worst_de for _, outcome in counted] if worst is None else list(worst)
    return OrderSum(
        pieces,
        tuple(amounts.values()),
        sum((quantity * outcome.cost for quantity, outcome in counted), Decimal(0)),
        counted[0][1].currency if counted else "",
        sum(quantity * outcome.print_s for quantity, outcome in counted),
        sum(quantity * outcome.hand_g_m2 for quantity, outcome in counted) / max(1, pieces),
        max(shifts, default=0.0),
    )


@dataclass(frozen=True)
class Way:
    """One way of printing an order: how many different transfers it needs, and what it comes to.

    Two garments whose plans print the same pixels share a transfer.
    """

    key: str
    title: str
    kinds: int
    sum: OrderSum


@dataclass(frozen=True)
class OneForAll:
    """The ways side by side, the one that is advised, and why."""

    ways: tuple[Way, ...]
    advised: str
    reason: str


def for_any_garment(settings: PlanSettings, garment: Rgb) -> PlanSettings:
    """Settings of one transfer for any garment: all colours on white, and nothing taken that has the garment's colour.

    A background of the colour of ``garment`` stays taken out: where nothing is printed every cloth shows.
    """
    knockouts = tuple(
        replace(item, colour=item.resolved(garment))
        for item in settings.knockouts
        if item.colour is not None or item.reach == "outside"
    )
    white = replace(settings.white, mode="solid", design=True, strengthen=False)
    return replace(settings, knockouts=knockouts, white=white, garment=garment)


def without_white(settings: PlanSettings) -> PlanSettings:
    """Settings of a transfer for white garments only."""
    white = replace(settings.white, mode="none", design=False, strengthen=False, whole_sheet=False)
    return replace(settings, white=white)


def one_for_all(lines: Sequence[OrderLine], judge: Judge, medium: str) -> OneForAll | None:
    """One transfer for all garments, or one for each; ``None`` where there is nothing to choose.

    ``medium`` is what is printed on first; straight on the garment there is no transfer to share.
    """
    garments = {line.settings.garment for line in lines}
    if medium == "platen" or len(garments) < 2:
        return None
    whites = [line for line in lines if is_white(line.settings.garment)]
    others = [line for line in lines if not is_white(line.settings.garment)]
    ways = [_each("each", "One plan for each garment", lines, judge)]
    if whites and others:
        ways.append(_split(whites, others, judge))
    ways.append(_shared("any", "One transfer for any garment", lines, judge))
    return OneForAll(tuple(ways), *_verdict(ways))


Part = tuple[int, Outcome, float, object]
"""Quantity, what a piece comes to, its worst ΔE00 on its garments, and what tells its transfer from others."""


def _way(key: str, title: str, parts: Sequence[Part]) -> Way:
    total = order_sum([(part[0], part[1]) for part in parts], [part[2] for part in parts])
    return Way(key, title, len({part[3] for part in parts}), total)


def _each(key: str, title: str, lines: Sequence[OrderLine], judge: Judge) -> Way:
    parts: list[Part] = []
    for line in lines:
        outcome, _ = judge(line.planned, ())
        parts.append((line.settings.quantity, outcome, outcome.worst_de, outcome.print_id or line.planned))
    return _way(key, title, parts)


def _shared_parts(lines: Sequence[OrderLine], judge: Judge) -> list[Part]:
    """One transfer for each print size and place, with white for any of the garments."""
    main = min((line.settings.garment for line in lines), key=lambda rgb: float(lab_from_srgb8(rgb)[0]))
    groups: dict[PlanSettings, list[OrderLine]] = {}
    for line in lines:
        groups.setdefault(for_any_garment(line.planned, main), []).append(line)
    parts: list[Part] = []
    for settings, group in groups.items():
        outcome, shifts = judge(settings, [line.settings.garment for line in group])
        for line, shift in zip(group, shifts, strict=True):
            worst = shift[0].delta_e if shift else 0.0
            parts.append((line.settings.quantity, outcome, worst, outcome.print_id or settings))
    return parts


def _shared(key: str, title: str, lines: Sequence[OrderLine], judge: Judge) -> Way:
    return _way(key, title, _shared_parts(lines, judge))


def _split(whites: Sequence[OrderLine], others: Sequence[OrderLine], judge: Judge) -> Way:
    parts = _shared_parts(others, judge)
    for line in whites:
        settings = without_white(line.planned)
        outcome, _ = judge(settings, ())
        parts.append((line.settings.quantity, outcome, outcome.worst_de, outcome.print_id or settings))
    return _way("split", "White garments without white, one for others", parts)


def _verdict(ways: Sequence[Way]) -> tuple[str, str]:
    """The key of the way that is advised, and the reason."""
    best = min(way.sum.worst_de for way in ways)
    fit = [way for way in ways if way.sum.worst_de <= best + _NO_WORSE]
    cheapest = min(way.sum.cost for way in fit)
    near = [way for way in fit if way.sum.cost <= cheapest * (1 + Decimal(str(_WORTH)))]
    chosen = min(near, key=lambda way: (way.kinds, way.sum.cost))
    return chosen.key, _reason(chosen, [way for way in ways if way is not chosen])


def _reason(chosen: Way, others: Sequence[Way]) -> str:
    """Why a way is advised, against the cheapest of the others."""
    rival = min(others, key=lambda way: way.sum.cost)
    currency, apart = chosen.sum.currency, rival.sum.cost - chosen.sum.cost
    larger = max(chosen.sum.cost, rival.sum.cost)
    share = abs(float(apart / larger)) if larger else 0.0
    money = f"{money_text(abs(apart))} {currency} ({share:.0%})"
    if apart < 0 and rival.sum.worst_de > chosen.sum.worst_de + _NO_WORSE:
        return (
            f"{chosen.title}: “{rival.title}” would save {money}, but its worst colour is off by "
            f"ΔE {rival.sum.worst_de:.0f} instead of {chosen.sum.worst_de:.0f}."
        )
    if share <= _WORTH and chosen.kinds <= rival.kinds:
        fewer = f"{_transfers(chosen.kinds)} to keep instead of {rival.kinds}, and "
        return (
            f"{chosen.title}: {fewer if chosen.kinds < rival.kinds else ''}no other way saves more than {_WORTH:.0%}."
        )
    text = f"{chosen.title} saves {money} against “{rival.title}”"
    if chosen.kinds > min(way.kinds for way in others):
        return f"{text}, but {_transfers(chosen.kinds)} must be kept apart: on the wrong garment a print is spoiled."
    return f"{text}, with {_transfers(chosen.kinds)} to keep."


def _transfers(count: int) -> str:
    return f"{count} transfer{'s' if count > 1 else ''}"
