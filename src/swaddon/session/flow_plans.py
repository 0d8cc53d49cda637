"""A day of the shop with open jobs or entered orders: rates, finish, bottleneck, rules, risk, what one more brings."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

from swaddon.core.engine import Run
from swaddon.core.errors import PlanError
from swaddon.core.flow.bound import Bound, bound
from swaddon.core.flow.day import Day, Order, simulate
from swaddon.core.flow.risk import Risk, WhatIf, Worse, late_risk, sensitivity, what_if
from swaddon.core.flow.rules import Tried, try_rules
from swaddon.core.flow.shop import HANDS, Shop
from swaddon.core.order.lines import OrderLine
from swaddon.core.plan.stages import Plan
from swaddon.core.units import number_of
from swaddon.io.shops import clock_text
from swaddon.io.spreadsheet import write_rows
from swaddon.session.job import Job
from swaddon.session.order_plans import OrderPlanner

SCHEMA = "swaddon-flow/1"
START_BY_SHARE = 0.9
"""Share of days on which an order that starts at its latest is still done in time."""


@dataclass(frozen=True, eq=False)
class Flow:
    """What is told of a day.

    Attributes
    ----------
    start_min
        When work begins, in minutes of the day.
    bound
        The instant answer.
    day
        One day as it may go, with chance, by the rule that is used.
    tried
        Every rule on a day without chance, the best first.
    """

    shop: Shop
    orders: tuple[Order, ...]
    start_min: float
    bound: Bound
    day: Day
    tried: tuple[Tried, ...]
    what_if: tuple[WhatIf, ...]
    risk: Risk | None = None
    worse: tuple[Worse, ...] = ()

    def clock(self, work_s: float) -> float:
        """Minutes of the day when so much work is done since the start."""
        return self.shop.clock(self.shop.work(self.start_min * 60) + work_s) / 60

    @property
    def start_by_min(self) -> float | None:
        """Latest begin that is in time on nine days of ten; ``None``: nothing is due, or no runs were made."""
        dues = [order.due_s for order in self.orders if order.due_s is not None]
        if not dues or self.risk is None or not self.risk.runs:
            return None
        slack = []
        for at, order in enumerate(self.orders):
            if order.due_s is not None:
                ends = sorted(self.risk.finish_s[:, at].tolist())
                slack.append(order.due_s - ends[min(len(ends) - 1, int(START_BY_SHARE * len(ends)))])
        start = self.shop.work(self.start_min * 60) + min(slack)
        return self.shop.clock(max(0.0, start)) / 60 if start >= 0 else -1.0


def opening_min(shop: Shop) -> float:
    """When the shop opens, in minutes of the day."""
    return shop.spans[0][0] / 60


def order_of(job: Job, plan: Plan, name: str = "", due_s: float | None = None) -> Order:
    """A line of a job as pieces of a day."""
    used = plan.request.settings.used_by(plan.measures, plan.request.profile)
    made = Order.of(used, plan.request.profile.process, job.settings.quantity)
    return replace(made, name=name or job.name, due_s=due_s)


def orders_of_job(job: Job, run: Run, due_s: float | None = None) -> tuple[Order, ...]:
    """Every line of a job, each distinct print planned once; raises ``PlanError`` where one cannot be."""
    planner, found = OrderPlanner(), {}

    def done(line: OrderLine, plan: Plan) -> None:
        found[line.planned] = plan

    for line in planner.work(job, run, done=done):
        if problem := planner.problem(job, line):
            raise PlanError(f"{line.title}: {problem}")
    several = len(job.lines) > 1
    return tuple(
        replace(
            order_of(job, found[line.planned], f"{job.name}, {line.title}" if several else job.name, due_s),
            quantity=line.settings.quantity,
        )
        for line in job.lines
    )


def planned_flow(
    shop: Shop, orders: Sequence[Order], start_min: float, seed: int = 1, rule: str = "", run: Run | None = None
) -> Flow:
    """A day: its bound, all rules, one day with chance by the best or a chosen rule, and what one more would bring."""
    wanted: Callable[[], bool] = (lambda: True) if run is None else run.is_wanted
    tried = try_rules(shop, orders, wanted)
    chosen = next((item for item in tried if item.rule == rule), tried[0])
    day = simulate(shop, orders, seed, chosen.sequence, wanted)
    more = what_if(shop, orders, chosen.sequence, wanted)
    return Flow(shop, tuple(orders), start_min, bound(shop, orders), day, tried, more)


def with_risk(
    flow: Flow,
    runs: int,
    seed: int = 1,
    rule: str = "",
    run: Run | None = None,
    told: Callable[[str, float], None] = lambda _title, _share: None,
) -> Flow:
    """The same day run many times, and what makes it later."""
    wanted: Callable[[], bool] = (lambda: True) if run is None else run.is_wanted
    sequence = next((item.sequence for item in flow.tried if item.rule == rule), flow.tried[0].sequence)
    found = late_risk(
        flow.shop, flow.orders, runs, seed, sequence, lambda share: told("Running the day", 0.75 * share), wanted
    )
    worse: tuple[Worse, ...] = ()
    if any(order.due_s is not None for order in flow.orders):
        told("Trying what makes it later", 0.8)
        worse = sensitivity(flow.shop, flow.orders, max(20, runs // 10), seed, sequence, wanted)
    told("", 1.0)
    return replace(flow, risk=found, worse=worse)


def flow_report(flow: Flow) -> dict[str, Any]:
    """A day as JSON-ready values (docs/flow.md)."""
    day = flow.day
    return {
        "schema": SCHEMA,
        "shop": flow.shop.name,
        "pieces": day.pieces,
        "start": clock_text(flow.start_min),
        "finish": clock_text(flow.clock(day.end_s)),
        "finish_s": round(day.end_s, 1),
        "shirts_per_hour": round(day.per_hour, 2),
        "bound_per_hour": round(flow.bound.per_hour, 2),
        "likely_per_hour": round(flow.bound.likely_per_hour, 2),
        "bottleneck": day.bottleneck,
        "spoiled": day.spoiled,
        "resources": [
            {
                "name": name, "count": count, "use": round(day.use(name), 4),
                "waiting": round(day.waiting(name), 3) if name != HANDS else None,
            }
            for name, count in flow.shop.counts.items()
        ],
        "orders": _orders(flow),
        "rules": [
            {
                "rule": item.rule, "title": item.title, "late": item.late, "tardiness_s": round(item.tardiness_s, 1),
                "finish": clock_text(flow.clock(item.day.end_s)), "shirts_per_hour": round(item.day.per_hour, 2),
            }
            for item in flow.tried
        ],
        "what_if": [
            {
                "change": item.change, "resource": item.resource, "shirts_per_hour": round(item.per_hour, 2),
                "gain": round(item.gain, 2),
            }
            for item in flow.what_if
        ],
        **_lateness(flow),
    }  # fmt: skip


def _orders(flow: Flow) -> list[dict[str, Any]]:
    """Each order with its end."""
    return [
        {
            "name": order.name, "process": order.process, "quantity": order.quantity, "print_s": order.print_s,
            "printer_per_hour": round(3600 / order.print_s, 2),
            "finish": clock_text(flow.clock(end)), "finish_s": round(end, 1),
            "due_s": order.due_s, "late": order.due_s is not None and end > order.due_s,
            "late_share": None if flow.risk is None else round(flow.risk.by_order[at], 4),
        }
        for at, (order, end) in enumerate(zip(flow.orders, flow.day.finish, strict=True))
    ]  # fmt: skip


def _lateness(flow: Flow) -> dict[str, Any]:
    """The chance of being late, where days were run."""
    risk, start_by = flow.risk, flow.start_by_min
    return {
        "runs": 0 if risk is None else risk.runs,
        "late_share": None if risk is None else round(risk.late_share, 4),
        "late_interval": None if risk is None else [round(risk.low, 4), round(risk.high, 4)],
        "late_risk": None if risk is None else risk.word,
        "start_by": None if start_by is None else "never" if start_by < 0 else clock_text(start_by),
        "worse": [
            {"change": item.change, "late_share": round(item.late_share, 4), "late_risk": item.word}
            for item in flow.worse
        ],
    }


def _alone(report: dict[str, Any]) -> str:
    """What the printer would make alone, where one process is made."""
    rates = {item["printer_per_hour"] for item in report["orders"]}
    return f"; printer alone {rates.pop():.1f}" if len(rates) == 1 else ""


def flow_table(report: dict[str, Any]) -> str:
    """A day in a few lines for a terminal."""
    rows = [
        f"{number_of(report['pieces'], 'piece')} from {report['start']}: done at {report['finish']}, "
        f"{report['shirts_per_hour']:.1f} an hour (steady {report['likely_per_hour']:.1f}, at best "
        f"{report['bound_per_hour']:.1f}{_alone(report)})",
        f"Bottleneck: {report['bottleneck']}",
    ]
    rows += [
        f"  {item['name']:<12} {item['count']} × {item['use']:>4.0%} used"
        + (f", {item['waiting']:.1f} waiting" if item["waiting"] is not None else "")
        for item in report["resources"]
    ]
    rows += [
        f"{item['change'].capitalize()}: {item['shirts_per_hour']:.1f} an hour ({item['gain']:+.1f})"
        for item in report["what_if"]
    ]
    rows += [
        f"{item['title']:<24} done {item['finish']}, {item['late']} late"
        + (f" by {item['tardiness_s'] / 60:.0f} min" if item["late"] else "")
        for item in report["rules"]
    ]
    if report["late_share"] is not None:
        low, high = report["late_interval"]
        rows.append(
            f"Late on {report['late_share']:.0%} of {report['runs']} days ({low:.0%} to {high:.0%}): "
            f"{report['late_risk']}"
        )
        if report["start_by"] is not None:
            rows.append(f"Start by {report['start_by']} to be in time on nine days of ten")
        rows += [f"  with {item['change']}: {item['late_share']:.0%}, {item['late_risk']}" for item in report["worse"]]
    return "\n".join(rows)


def write_bars(path: Path, flow: Flow) -> None:
    """Write every stage of every piece of the day as CSV; raises ``PlanError``."""
    heads = ("order", "piece", "stage", "machine", "unit", "waits_since_s", "start_s", "end_s")
    rows = [
        (
            flow.orders[bar.order].name, str(bar.piece + 1), bar.stage, bar.machine, str(bar.unit + 1),
            f"{bar.since:.1f}", f"{bar.start:.1f}", f"{bar.end:.1f}",
        )
        for bar in flow.day.bars
    ]  # fmt: skip
    write_rows(path, [heads, *rows])
