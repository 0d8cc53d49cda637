"""Flow: what is asked of the shop, what is told at once, and what the simulated days tell."""

from collections.abc import Sequence
from dataclasses import dataclass

from swaddon.core.flow.bound import Bound, bound
from swaddon.core.flow.day import Bar, Order
from swaddon.core.flow.shop import HANDS, PLATEN, RESOURCES, Shop, is_printer
from swaddon.core.order.lines import OrderLine
from swaddon.core.plan.outcome import Outcome
from swaddon.core.plan.stages import Plan
from swaddon.core.press.profile import PressProfile
from swaddon.core.units import plural
from swaddon.io.orders_file import due_s
from swaddon.io.shops import able, clock_text
from swaddon.session.flow_plans import Flow
from swaddon.session.job import Job

WORDS = {
    "printer": "Printers",
    "heat-press": "Heat presses",
    "oven": "Ovens",
    "pretreater": "Pretreaters",
    HANDS: "Hands",
    PLATEN: "Platens",
}


@dataclass(frozen=True)
class Asked:
    """What is asked of the day: when the job is due, and whether other open jobs are in it."""

    due: str = ""
    with_others: bool = False
    rule: str = ""


def word_for(resource: str) -> str:
    """A resource on the bench."""
    return WORDS.get(resource, resource.replace("-", " ").capitalize())


Counted = tuple[float, bool, bool] | None
"""Print time of a piece of a line in s, whether it is pretreated, and has white; ``None``: not counted yet."""


def counted_of(outcomes: Sequence[Outcome | None], job: Job, plan: Plan | None) -> tuple[Counted, ...]:
    """What is known of each line: by the plan at hand, else as it was counted before."""
    found: list[Counted] = [
        None
        if outcome is None
        else (outcome.print_s, outcome.amount_of("pretreat") > 0, outcome.amount_of("white") > 0)
        for outcome in outcomes
    ]
    if plan is not None and job.file is not None and len(found) == len(job.lines):
        used = {item.kind for item in plan.materials if item.amount > 0}
        found[job.at] = plan.time.print_s, "pretreat" in used, "white" in used
    return tuple(found)


def orders_for(job: Job, counted: Sequence[Counted], shop: Shop, start_min: float, due: str) -> tuple[Order, ...]:
    """Lines of the job at hand that are counted, as pieces of a day.

    Raises
    ------
    ValueError
        One sentence: the shop cannot print them, or the due time is none or in the past.
    """
    if job.profile is None:
        return ()
    able(shop, job.profile.process, job.name)
    until = due_s(due, shop, start_min)
    several = len(job.lines) > 1
    return tuple(
        Order(
            line.title if several else job.name,
            job.profile.process,
            found[0],
            line.settings.quantity,
            until,
            0,
            found[1],
            parts_of(line, job.profile),
            found[2],
            line.settings.pressed_twice(job.profile),
        )
        for line, found in zip(job.lines, counted, strict=True)
        if found is not None and found[0] > 0
    )


def parts_of(line: OrderLine, press: PressProfile) -> int:
    """Sheets that a print of a line is split onto."""
    share = line.settings.share(press)
    return 1 if share is None else share.parts


def instant_text(shop: Shop, orders: Sequence[Order], start_min: float, piece: str) -> str:
    """What the most loaded resource allows, told at once."""
    if not orders:
        return "Counting what the printer takes …"
    found: Bound = bound(shop, orders)
    start = shop.work(start_min * 60)
    end = clock_text(shop.clock(start + found.likely_s) / 60)
    text = (
        f"About {found.likely_per_hour:.0f} {plural(piece)} an hour once it flows, {found.pieces} done by about {end}; "
        f"at best {found.per_hour:.0f} ({word_for(found.bottleneck).lower()})."
    )
    if len({order.print_s for order in orders}) == 1:
        text += f" The printer alone: {3600 / orders[0].print_s:.0f}."
    dues = [order.due_s for order in orders if order.due_s is not None]
    if dues:
        over = found.likely_s - min(dues)
        text += " In time, by this." if over <= 0 else f" Some {over / 60:.0f} min too late, by this."
    return text


def flow_text(flow: Flow, piece: str) -> str:
    """What a simulated day tells."""
    day = flow.day
    end = clock_text(flow.clock(day.end_s))
    return (
        f"{day.per_hour:.1f} {plural(piece)} an hour of work; {day.pieces} good ones done at {end}"
        + (f", {day.spoiled} spoiled and done again" if day.spoiled else "")
        + f". Bottleneck: {word_for(day.bottleneck).lower()}, used {day.use(day.bottleneck):.0%}."
    )


def risk_text(flow: Flow) -> str:
    """How likely it is late, and what makes it worse."""
    risk = flow.risk
    if risk is None or all(order.due_s is None for order in flow.orders):
        return ""
    text = f"Late on {risk.late_share:.0%} of {risk.runs} days ({risk.low:.0%} to {risk.high:.0%}): {risk.word}."
    start_by = flow.start_by_min
    if start_by is not None:
        text += (
            " Whenever you start today, it is not in time on nine days of ten."
            if start_by < 0
            else f" Start by {clock_text(start_by)} to be in time on nine days of ten."
        )
    worse = [item for item in flow.worse if item.late_share > risk.late_share + 0.02]
    if worse:
        worst = max(worse, key=lambda item: item.late_share)
        text += f" With {worst.change}: {worst.late_share:.0%}, {worst.word}."
    return text


_WORTH = 0.05
"""Gain in pieces an hour that is told; below it the order of the pieces decides, either way."""


def what_if_text(flow: Flow) -> str:
    """What one more of each would bring."""
    lines = [
        f"{item.change.capitalize()}: " + (f"+{item.gain:.1f} an hour" if item.gain >= _WORTH else "nothing")
        for item in flow.what_if
    ]
    return "\n".join(lines)


def rules_text(flow: Flow) -> tuple[tuple[str, str], ...]:
    """Each rule with what comes of it."""
    first = flow.tried[-1].day.end_s
    out = []
    for item in flow.tried:
        gain = (first - item.day.end_s) / 60
        late = f", {item.late} late by {item.tardiness_s / 60:.0f} min" if item.late else ""
        earlier = f", {gain:.0f} min sooner" if gain >= 1 else ""
        out.append((item.rule, f"{item.title}: done {clock_text(flow.clock(item.day.end_s))}{late}{earlier}"))
    return tuple(out)


@dataclass(frozen=True)
class Strip:
    """One piece as a line of the ribbon: its stages."""

    order: int
    bars: tuple[Bar, ...]


def strips(flow: Flow) -> tuple[Strip, ...]:
    """Every piece, in the order in which they went to work."""
    held: dict[tuple[int, int], list[Bar]] = {}
    for bar in flow.day.bars:
        held.setdefault((bar.order, bar.piece), []).append(bar)
    found = [Strip(order, tuple(sorted(bars, key=lambda bar: bar.start))) for (order, _), bars in held.items()]
    return tuple(sorted(found, key=lambda strip: strip.bars[0].start))


def stages_of(flow: Flow) -> tuple[str, ...]:
    """Names of stages, in the order of the work."""
    names: dict[str, None] = {}
    for order in flow.orders:
        for stage in flow.shop.route(order.process, order.gets):
            names.setdefault(stage.name)
    return tuple(names)


def bar_text(flow: Flow, bar: Bar) -> str:
    """One stage of one piece, told."""
    order = flow.orders[bar.order]
    unit = ""
    if bar.machine and flow.shop.counts.get(bar.machine, 1) > 1:
        unit = f" on {bar.machine.replace('-', ' ')} {bar.unit + 1}"
    waited = bar.start - bar.since
    wait = f", after waiting {_span(waited)}" if waited >= 1 else ""
    return (
        f"{order.name}, piece {bar.piece + 1}: {bar.stage}{unit}, {clock_text(flow.clock(bar.start))}, "
        f"{_span(bar.end - bar.start)}{wait}"
    )


def _span(seconds: float) -> str:
    return f"{seconds:.0f} s" if seconds < 120 else f"{seconds / 60:.0f} min"


def moment_text(flow: Flow, work_s: float) -> str:
    """Where all pieces are at a moment of the day."""
    done = sum(left <= work_s for left in flow.day.left)
    at: dict[str, int] = {}
    waiting: dict[str, int] = {}
    for bar in flow.day.bars:
        if bar.start <= work_s < bar.end:
            at[bar.stage] = at.get(bar.stage, 0) + 1
        elif bar.since <= work_s < bar.start:
            waiting[bar.stage] = waiting.get(bar.stage, 0) + 1
    parts = [f"{count} at {stage.lower()}" for stage, count in at.items()]
    parts += [f"{count} waiting for {stage.lower()}" for stage, count in waiting.items()]
    return f"{clock_text(flow.clock(work_s))}: {done} done; " + (", ".join(parts) if parts else "nothing in work")


def is_bottleneck(flow: Flow, bar: Bar) -> bool:
    """Whether a bar lies on what limits the day."""
    worst = flow.day.bottleneck
    return bar.machine == worst or (worst == HANDS and not bar.machine)


def counts_of(shop: Shop) -> tuple[tuple[str, int], ...]:
    """What the shop has of each resource, printers first; none of what it does not name."""
    counts = {**dict.fromkeys(RESOURCES, 0), **shop.counts}
    return tuple(sorted(counts.items(), key=lambda item: (not is_printer(item[0]), item[0] == HANDS)))
