"""The per-shirt read-out: what a plan uses, costs and takes, each with its arithmetic and its ± to the yardstick."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal

from swaddon.core.count.consumption import Material, amount_text, total_cost
from swaddon.core.count.money import STORED_PLACES, at_quantities, money_text, places, shares
from swaddon.core.count.timing import PrintTime
from swaddon.core.flow.bound import Rate, demand
from swaddon.core.flow.shop import Shop, word_for
from swaddon.core.plan.outcome import NONE_UNDER
from swaddon.core.plan.stages import Plan
from swaddon.core.shop.book import Book
from swaddon.core.shop.costing import PRINT_KINDS, pm_text
from swaddon.core.units import plural
from swaddon.session.costs import Costed, costed_plan
from swaddon.session.one_sheet import shared_by_one_sheet, shared_cost
from swaddon.session.shop_rate import pieces_of, rate_of_plan

Sense = Literal["better", "worse", "same"]


@dataclass(frozen=True)
class TallyLine:
    """One number of the tally.

    ``arithmetic`` are the lines of its sum, last line the result; ``delta`` is empty without a yardstick.
    """

    key: str
    title: str
    value: str
    delta: str
    sense: Sense
    arithmetic: tuple[str, ...]


_UNCHANGED: tuple[str, Sense] = ("", "same")


def tally_lines(
    plan: Plan, yardstick: Plan | None, book: Book | None = None, garment: str = "", shop: Shop | None = None
) -> tuple[TallyLine, ...]:
    """The tally of a plan, in a fixed order; with the shop's prices also what the whole piece costs."""
    before = {} if yardstick is None else {material.kind: material for material in yardstick.materials}
    lines = [_material_line(material, plan, before.get(material.kind), yardstick) for material in plan.materials]
    lines.append(_cost_line(plan, yardstick, None if book is None else costed_plan(plan, book, garment)))
    piece = plan.request.ware.piece
    lines.extend(_time_lines(plan.time, None if yardstick is None else yardstick.time, piece))
    rate = None if shop is None else rate_of_plan(plan, shop)
    if shop is not None and rate is not None:
        lines[-1] = _shop_rate(plan, yardstick, shop, rate)
    lines.append(_hand_line(plan, yardstick))
    return tuple(lines)


def _material_line(material: Material, plan: Plan, before: Material | None, yardstick: Plan | None) -> TallyLine:
    currency = plan.request.profile.currency
    unit, supply = material.supply.unit, material.supply
    arithmetic: tuple[str, ...] = (
        f"{amount_text(material.amount, unit)} on the {plan.request.ware.piece}",
        f"+ {supply.waste_share:.0%} waste = {amount_text(material.bought, unit)} bought",
        f"{material.bought:.4f} {unit} × {supply.unit_price} {currency} per {unit}",
        f"= {money_text(material.cost, max(STORED_PLACES, places(material.cost)))} {currency}",
    )
    delta, sense = _UNCHANGED
    if material.kind == "white" and plan.request.settings.white.mode == "none" and material.amount:
        delta = f"{NONE_UNDER}: the design’s"
    shared = shared_by_one_sheet(plan) if material.kind == "sheet" else None
    if shared is not None:
        fit, share = shared
        less = money_text(shared_cost(plan, share))
        delta = f"{fit.count} fit one: {less}, not {plan.cost}"
        lines = f"{fit.count} fit one sheet of {share.medium}: the print costs {less} instead of {plan.cost} {currency}"
        arithmetic = (*arithmetic[:-1], f"{lines} (Cost › levers)", arithmetic[-1])
    if yardstick is not None:
        was = 0.0 if before is None else before.amount
        delta, sense = _change(was, material.amount, lambda value: amount_text(value, unit))
    return TallyLine(material.kind, material.name, amount_text(material.amount, unit), delta, sense, arithmetic)


def _cost_line(plan: Plan, yardstick: Plan | None, whole: Costed | None) -> TallyLine:
    currency, piece = plan.request.profile.currency, plan.request.ware.piece
    costs = shares((material.cost for material in plan.materials), plan.cost_places)
    parts = [f"{cost} {material.name.lower()}" for cost, material in zip(costs, plan.materials, strict=True)]
    arithmetic = [parts[0], *(f"+ {part}" for part in parts[1:]), f"= {plan.cost} {currency} per {piece}"]
    quantity = plan.request.settings.quantity
    if quantity > 1:
        told = at_quantities(total_cost(plan.materials), quantity)
        arithmetic.append(f"The print for {plural(piece)}, {told} {currency}")
    delta, sense, pm = *_UNCHANGED, ""
    if whole is not None:
        pm = f" ± {pm_text(whole.costing.spread.pm)}"
        arithmetic += _round_it(whole)
        told = at_quantities(whole.costing.total, quantity)
        each = f"whole {money_text(whole.costing.total, 2)}"
        delta = f"{' · '.join(filter(None, (each, told)))} {currency}"
        if told:
            arithmetic.append(f"The whole {plural(piece)}, {told} {currency}")
    if yardstick is not None:
        was, now = float(total_cost(yardstick.materials)), float(total_cost(plan.materials))
        decimals = max(plan.cost_places, yardstick.cost_places)
        delta, sense = _change(was, now, lambda value: f"{value:.{decimals}f}")
    return TallyLine("cost", "Cost", f"{plan.cost}{pm} {currency}", delta, sense, tuple(arithmetic))


def _round_it(whole: Costed) -> list[str]:
    """How sure the cost of the print is, and what comes round it."""
    made, currency = whole.costing, whole.costing.currency
    others = [part for part in made.parts if part.kind not in PRINT_KINDS]
    decimals = places(made.total, (part.cost for part in others))
    out = [f"± {pm_text(made.spread.pm)} {currency} by what its constants are unsure"]
    if made.spread.largest is not None:
        out[0] += f", most of it {made.spread.largest.title.lower()} ({made.spread.largest.source})"
    shown = shares((made.of_print, *(part.cost for part in others)), decimals)
    told = ", ".join(f"{part.title.lower()} {cost}" for part, cost in zip(others, shown[1:], strict=True))
    if told:
        out.append(f"Round the print: {told}")
    out.append(f"= {sum(shown)} {currency} the whole {whole.piece}")
    return out


def _time_lines(time: PrintTime, before: PrintTime | None, piece: str) -> list[TallyLine]:
    arithmetic = [f"{time.fixed_s:.0f} s loading and heads"]
    arithmetic += [f"+ {phase.name}: {phase.bands} bands = {phase.seconds:.1f} s" for phase in time.phases]
    arithmetic.append(f"= {time.print_s:.1f} s per {piece}")
    rate = (
        f"3600 s ÷ {time.print_s:.1f} s per {piece}",
        f"= {time.shirts_per_hour:.1f} {plural(piece)} per hour of the printer alone",
        "Pretreating, pressing and curing are not counted here.",
    )
    (delta_s, sense_s), (delta_h, sense_h) = _UNCHANGED, _UNCHANGED
    if before is not None:
        delta_s, sense_s = _change(before.print_s, time.print_s, lambda value: f"{value:.0f} s")
        delta_h, sense_h = _change(
            before.shirts_per_hour, time.shirts_per_hour, lambda value: f"{value:.1f}", more_is_better=True
        )
    return [
        TallyLine("time", "Print time", f"{time.print_s:.0f} s", delta_s, sense_s, tuple(arithmetic)),
        TallyLine(
            "rate", f"{plural(piece).capitalize()} per hour", f"{time.shirts_per_hour:.1f}", delta_h, sense_h, rate
        ),
    ]


def _shop_rate(plan: Plan, yardstick: Plan | None, shop: Shop, found: Rate) -> TallyLine:
    """What the shop makes in an hour, by its most loaded resource, with the printer's own rate beside it."""
    piece = plan.request.ware.piece
    lines = []
    for name, seconds in demand(shop, pieces_of(plan)).items():
        if count := shop.counts[name] if seconds else 0:
            lines.append(f"{word_for(name)}: {seconds:.0f} s a {piece} ÷ {count} = {seconds / count:.0f} s")
    lines.append(f"at best {found.best_per_hour:.1f} an hour, by the {word_for(found.limited_by)}")
    lines.append(
        f"= about {found.shop_per_hour:.1f} {plural(piece)} per hour, as people and machines wait for each other"
    )
    lines.append(f"The printer alone: {found.printer_per_hour:.1f} an hour. Days with chance: Cost › Flow.")
    delta, sense = f"printer alone {found.printer_per_hour:.0f}", _UNCHANGED[1]
    before = None if yardstick is None else rate_of_plan(yardstick, shop)
    if before is not None:
        delta, sense = _change(
            before.shop_per_hour, found.shop_per_hour, lambda value: f"{value:.1f}", more_is_better=True
        )
    title = f"{plural(piece).capitalize()} per hour"
    return TallyLine("rate", title, f"{found.shop_per_hour:.1f}", delta, sense, tuple(lines))


def _hand_line(plan: Plan, yardstick: Plan | None) -> TallyLine:
    """How the print feels: mass per area, and what the holes made of it."""
    now, whole = plan.hand, plan.whole_hand
    arithmetic = [
        f"{amount_text(now.grams, 'g')} of ink and powder",
        f"= {now.g_per_m2:.1f} g per m² of the artwork, {now.printed_g_per_m2:.1f} g per m² of what prints of it",
        f"largest unbroken patch {now.largest_patch_cm2:.1f} cm²",
        f"{now.open_share:.1%} of what prints is open",
    ]
    if now != whole:
        arithmetic.append(
            f"Solid it would be {whole.g_per_m2:.1f} g/m², patch {whole.largest_patch_cm2:.1f} cm², nothing open."
        )
    arithmetic.append("= lighter and more open is softer on the body")
    delta, sense = _UNCHANGED if now == whole else (f"solid {whole.g_per_m2:.0f}", _UNCHANGED[1])
    if yardstick is not None:
        delta, sense = _change(yardstick.hand.g_per_m2, now.g_per_m2, lambda value: f"{value:.0f} g/m²")
    return TallyLine(
        "hand", "Hand", f"{amount_text(now.grams, 'g')} · {now.g_per_m2:.0f} g/m²", delta, sense, tuple(arithmetic)
    )


def _change(was: float, now: float, text: Callable[[float], str], more_is_better: bool = False) -> tuple[str, Sense]:
    difference = now - was
    shown = text(abs(difference))
    if shown == text(0.0):
        return "± 0", "same"
    share = f" ({difference / was:+.0%})" if was > 0 else ""
    sign = "+" if difference > 0 else "−"
    better = (difference > 0) == more_is_better
    return f"{sign}{shown}{share}".replace("(-", "(−"), "better" if better else "worse"
