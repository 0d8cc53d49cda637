"""The tally of a whole order: each number with the lines that it is the sum of."""

from swaddon.core.count.consumption import amount_text
from swaddon.core.count.money import money_text, places, shares
from swaddon.core.order.lines import OrderLine
from swaddon.core.plan.outcome import Outcome
from swaddon.core.plan.whole_order import Amount
from swaddon.session.order_plans import OrderPlan
from swaddon.session.tally import TallyLine

_MOST_TOLD = 14
"""Lines of an order whose part in a sum is told one by one."""


def order_tally(plan: OrderPlan) -> tuple[TallyLine, ...]:
    """The tally of all pieces, in the order of that of one."""
    total = plan.sum
    lines = [_amount_line(plan, amount) for amount in total.amounts]
    lines.append(_cost_line(plan))
    minutes = [line.settings.quantity * outcome.print_s / 60 for line, outcome in _parts(plan)]
    told = [f"{text}: {value:.1f} min" for text, value in zip(_titles(plan), minutes, strict=True)]
    end = f"= {total.print_s / 60:.1f} min of the printer alone"
    lines.append(TallyLine("time", "Print time", _time_text(total.print_s), "", "same", (*_few(told), end)))
    each = list(zip(_titles(plan), plan.outcomes, strict=True))
    hand = [f"{text}: {outcome.hand_g_m2:.0f} g/m²" for text, outcome in each]
    mean = f"= {total.hand_g_m2:.0f} g/m² in the mean of all pieces"
    lines.append(TallyLine("hand", "Hand", f"{total.hand_g_m2:.0f} g/m²", "mean", "same", (*_few(hand), mean)))
    worst = [f"{text}: ΔE {outcome.worst_de:.1f}" for text, outcome in each]
    end = f"= {total.worst_de:.1f}, the main colour that is furthest from how it was drawn"
    lines.append(TallyLine("worst", "Worst colour", f"ΔE {total.worst_de:.1f}", "", "same", (*_few(worst), end)))
    return tuple(lines)


def _parts(plan: OrderPlan) -> list[tuple[OrderLine, Outcome]]:
    return list(zip(plan.lines, plan.outcomes, strict=True))


def _titles(plan: OrderPlan) -> list[str]:
    return [f"{line.settings.quantity} × {line.title}" for line in plan.lines]


def _few(told: list[str]) -> list[str]:
    """The first of them, and how many more there are."""
    more = len(told) - _MOST_TOLD
    return told if more <= 0 else [*told[:_MOST_TOLD], f"and {more} lines more"]


def _amount_line(plan: OrderPlan, amount: Amount) -> TallyLine:
    told = [
        f"{line.settings.quantity} × {amount_text(outcome.amount_of(amount.kind), amount.unit)} {line.title}"
        for line, outcome in _parts(plan)
    ]
    value = amount_text(amount.amount, amount.unit) if amount.unit != "m²" else f"{amount.amount:.2f} m²"
    return TallyLine(amount.kind, amount.name, value, "", "same", (*_few(told), f"= {value}"))


def _cost_line(plan: OrderPlan) -> TallyLine:
    total = plan.sum
    costs = [line.settings.quantity * outcome.cost for line, outcome in _parts(plan)]
    decimals = places(total.cost, costs)
    told = [f"{title}: {cost}" for cost, title in zip(shares(costs, decimals), _titles(plan), strict=True)]
    value = money_text(total.cost, decimals)
    per = f"per 100 {money_text(total.cost * 100 / total.pieces)} {total.currency}" if total.pieces else ""
    return TallyLine(
        "cost", "Cost", f"{value} {total.currency}", per, "same", (*_few(told), f"= {value} {total.currency}")
    )


def _time_text(seconds: float) -> str:
    """A time of a run.

    >>> _time_text(95), _time_text(4000)
    ('2 min', '1 h 07 min')
    """
    minutes = round(seconds / 60)
    return f"{minutes} min" if minutes < 60 else f"{minutes // 60} h {minutes % 60:02d} min"
