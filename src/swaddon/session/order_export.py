"""A whole order as files: a folder for each different print, and the order beside them."""

import json
import re
from collections.abc import Sequence
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

from swaddon.core.engine import Run
from swaddon.core.errors import PlanError
from swaddon.core.order.lines import OrderLine
from swaddon.core.plan.stages import Plan
from swaddon.core.plan.variants import CACHE_BYTES
from swaddon.core.plan.whole_order import OneForAll
from swaddon.io.export import export_plan
from swaddon.io.outputs import output_file
from swaddon.io.profiles import reason
from swaddon.session.job import Job
from swaddon.session.order_plans import OrderPlan, OrderPlanner
from swaddon.session.order_report import order_report
from swaddon.session.shop import flow_shop
from swaddon.session.shop_rate import rate_of_plan

ORDER_FILE = "order.json"


@dataclass(frozen=True, eq=False)
class WholeOrder:
    """A planned order, what is advised, the folder of each line (``None``: nothing was written), and its report."""

    plan: OrderPlan
    advice: OneForAll | None
    folders: tuple[str | None, ...]
    report: dict[str, Any]


def plan_and_write(
    job: Job,
    run: Run,
    folder: Path | None = None,
    mirror: bool = False,
    cache_bytes: int = CACHE_BYTES,
) -> WholeOrder:
    """Plan every distinct line of a job, and write each into a folder of its own where one is given.

    Each print is written whole or not at all, ``order.json`` last.

    Raises
    ------
    PlanError
        One sentence: a line cannot be planned, a folder not be written, or another export lies there.
    """
    planner, names = OrderPlanner(), _names(job.lines)

    def write(line: OrderLine, plan: Plan) -> None:
        if folder is not None:
            own = replace(plan.request, settings=line.settings.on(plan.request.press))
            _write_plan(replace(plan, request=own), folder / names[job.lines.index(line)], mirror)

    for line in planner.work(job, run, done=write, cache_bytes=cache_bytes):
        if problem := planner.problem(job, line):
            raise PlanError(f"{line.title}: {problem}")
    made, advice = planner.plan(job, run), planner.compare(job, run, cache_bytes)
    folders = tuple(name if folder is not None else None for name in names)
    report = order_report(job, made, advice, folders)
    if folder is not None:
        _write_report(report, folder)
    return WholeOrder(made, advice, folders, report)


def _names(lines: Sequence[OrderLine]) -> list[str]:
    """The folder of each line; lines of the same print share one."""
    found: list[str] = []
    for line in lines:
        same = next((name for other, name in zip(lines, found, strict=False) if other.planned == line.planned), None)
        found.append(same or f"{len(set(found)) + 1}-{_slug(line.title)}")
    return found


def _slug(title: str) -> str:
    """A line's title as the name of a folder."""
    return re.sub(r"[^a-z0-9]+", "-", title.lower()).strip("-")[:40] or "line"


def _write_plan(plan: Plan, folder: Path, mirror: bool) -> None:
    export_plan(plan, folder, mirror=mirror, rate=rate_of_plan(plan, flow_shop()))


def _write_report(report: dict[str, Any], folder: Path) -> None:
    try:
        with output_file(folder / ORDER_FILE) as file:
            file.write((json.dumps(report, indent=2, ensure_ascii=False) + "\n").encode("utf-8"))
    except OSError as error:
        raise PlanError(f"“{folder / ORDER_FILE}” could not be written ({reason(error)}).") from error
