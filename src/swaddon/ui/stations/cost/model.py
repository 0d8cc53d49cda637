"""Cost: where the money of a piece goes, as bars whose parts open, beside yardstick and other goods."""

from collections.abc import Sequence
from dataclasses import dataclass
from decimal import Decimal

from swaddon.core.colour.spaces import Rgb
from swaddon.core.count.money import at_quantities, money_text, places, shares
from swaddon.core.plan.stages import Plan
from swaddon.core.shop.costing import PRINT_KINDS, Part, pm_text
from swaddon.core.shop.rule import Counted, right_rate, thumb
from swaddon.core.white.settings import WhiteMode
from swaddon.session.costs import Costed
from swaddon.session.levers import BLACK, WHITE, Compared, Lever

SHORT = {
    "white": "White", "colour": "Colour", "film": "Film", "sheet": "Sheets", "powder": "Powder", "pretreat": "Pretreat",
    "upkeep": "Purge", "cover": "Cover sheet", "garment": "Goods", "labour": "Labour", "machine": "Machine",
    "energy": "Energy", "packaging": "Packing", "spoilage": "Spoilage",
}  # fmt: skip


@dataclass(frozen=True)
class Segment:
    """One part of a bar."""

    kind: str
    title: str
    value: float
    text: str


@dataclass(frozen=True)
class Bar:
    """One way of the piece: its parts as shown, and their sum as shown.

    ``key`` is ``plan``, ``yardstick``, ``light`` or ``dark``; ``is_about``: counted on fewer pixels.
    """

    key: str
    title: str
    segments: tuple[Segment, ...]
    total: float
    total_text: str
    garment: Rgb
    is_about: bool = False


@dataclass(frozen=True)
class MoneyState:
    """What the table of money shows: the print alone, and the whole piece, each way at one scale."""

    prints: tuple[Bar, ...] = ()
    wholes: tuple[Bar, ...] = ()
    piece: str = "shirt"
    note: str = ""


@dataclass(frozen=True)
class Opened:
    """The part that is open: its name, and the lines of its arithmetic, the last one the result."""

    title: str
    lines: tuple[str, ...]


@dataclass(frozen=True)
class CostState:
    """What the Cost sheet says."""

    piece: str = "shirt"
    head: str = ""
    whole: str = ""
    surer: str = ""
    yardstick: str = ""
    rule: str = ""
    can_pin: bool = False


def bar_of(key: str, title: str, item: Costed, garment: Rgb, of_print: bool, is_about: bool = False) -> Bar:
    """A way of the piece as a bar."""
    parts = [part for part in item.costing.parts if part.cost and (not of_print or part.kind in PRINT_KINDS)]
    total = sum((part.cost for part in parts), Decimal(0))
    decimals = places(total, (part.cost for part in parts))
    shown = shares((part.cost for part in parts), decimals)
    segments = tuple(
        Segment(part.kind, SHORT[part.kind], float(part.cost), f"{cost}")
        for part, cost in zip(parts, shown, strict=True)
    )
    pm = item.costing.spread.pm if of_print else item.costing.pm
    total_text = f"{money_text(total, decimals)} ± {pm_text(pm)}"
    return Bar(key, title, segments, float(total), total_text, garment, is_about)


def money_state(
    now: Costed | None, garment: Rgb, before: Costed | None, before_garment: Rgb, found: Compared | None
) -> MoneyState:
    """All ways at hand: this plan, the yardstick, and the same picture on light and on dark goods."""
    if now is None:
        return MoneyState()
    ways = [("plan", "This plan", now, garment, False)]
    if before is not None:
        ways.append(("yardstick", "Yardstick", before, before_garment, False))
    if found is not None:
        for key, title, item, colour in (
            ("light", "On white goods, none under colour", found.light, WHITE),
            ("dark", "On black goods", found.dark, BLACK),
        ):
            if item is not None:
                ways.append((key, title, item, colour, True))
    prints = tuple(bar_of(key, title, item, colour, True, about) for key, title, item, colour, about in ways)
    wholes = tuple(bar_of(key, title, item, colour, False, about) for key, title, item, colour, about in ways)
    note = "" if found is None else "Light and dark are counted on fewer pixels, about."
    return MoneyState(prints, wholes, now.piece, note)


def opened(now: Costed | None, kind: str) -> Opened | None:
    """The arithmetic of a part; ``None`` where there is none of that kind."""
    part = _part(now, kind)
    return None if part is None else Opened(part.title, part.formula)


def _part(now: Costed | None, kind: str) -> Part | None:
    if now is None:
        return None
    return next((part for part in now.costing.parts if part.kind == kind), None)


def cost_state(
    now: Costed | None, yardstick: Plan | None, rate: Decimal, mix: Sequence[Counted], waits_for: str = ""
) -> CostState:
    """The words of the sheet."""
    if now is None:
        return CostState(head=waits_for)
    made, currency, piece = now.costing, now.costing.currency, now.piece
    of_print = money_text(made.of_print, places(made.of_print))
    head = f"{of_print} ± {pm_text(made.spread.pm)} {currency} the print"
    whole = f"{money_text(made.total, 2)} ± {pm_text(made.pm)} {currency} the whole {piece}"
    text = "No yardstick: pin this plan, then change something." if yardstick is None else describe(yardstick)
    return CostState(piece, head, whole, surer_text(now), text, rule_text(now, rate, mix), True)


def surer_text(now: Costed) -> str:
    """What makes most of the ±, and what weighing would make of it."""
    spread, largest = now.costing.spread, now.costing.spread.largest
    if largest is None or not spread.pm:
        return ""
    text = f"Most of the ±: {largest.title.lower()}, {largest.source} ({spread.largest_share:.0%} of it)."
    if now.weighed_pm < 0.8 * spread.pm:
        text += f" Weigh one print: ± {pm_text(spread.pm)} becomes ± {pm_text(now.weighed_pm)}."
    return text


def rule_text(now: Costed, rate: Decimal, mix: Sequence[Counted]) -> str:
    """The rule of thumb on this print, and the rates that would be right."""
    found = thumb(now.counted, rate)
    if found is None:
        return ""
    side = "too dear" if found.error > 0 else "too cheap"
    currency, of = now.costing.currency, "print" if now.used.film_m2 is None else "film"
    right = right_rate((now.counted, *mix))
    many = f"; for the {len(mix) + 1} prints of late {right:.4f}" if mix and right is not None else ""
    return (
        f"{found.rate:f} {currency} per sq in of {of} makes {money_text(found.price)} {currency}: "
        f"{abs(found.error):.0%} {side}. Right here: "
        f"{found.own_rate:.4f}{many}."
    )


def lever_text(lever: Lever, currency: str, quantity: int = 1) -> str:
    """What a lever brings, of a piece and of the order, and what it does to the colours."""
    told = at_quantities(lever.saves, quantity)
    order = f"; {told}" if told else ""
    was, after = lever.worst_de
    colour = f"worst colour ΔE {was:.1f} → {after:.1f}" if abs(after - was) >= 0.05 else "colours as before"
    return f"{lever.title}: −{money_text(lever.saves)} {currency} ({lever.share:.0%}{order}), {colour}"


def describe(plan: Plan) -> str:
    """A plan in a few words."""
    white = plan.request.settings.white
    words: dict[WhiteMode, str] = {
        "none": "no white under colour",
        "highlight": "white under highlights",
        "need": f"white by need to ΔE {white.allowed_shift:g}",
        "solid": "solid white",
        "limit": f"white to {white.limit:.0f} %",
        "only": "white only",
    }
    choke = "" if white.mode in ("none", "only") else f", choke {white.choke_text}"
    return (
        f"Yardstick: {plan.request.profile.process}, {words[white.mode]}{choke}, "
        f"{plan.cost} {plan.request.profile.currency}"
    )
