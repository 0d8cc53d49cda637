"""Whole orders on the command line: every distinct line planned, written and summed."""

import json
import re
from typing import TYPE_CHECKING

from swaddon.cli.options import PlanOptions
from swaddon.cli.progress import TerminalProgress

if TYPE_CHECKING:
    from swaddon.core.order.lines import OrderLine
    from swaddon.core.plan.stages import Plan
    from swaddon.session.job import Job

ORDER_FILE = "order.json"


def plan_order(job: "Job", options: PlanOptions, recommends_choke: bool) -> str:
    """Plan all lines of a job; what is to be printed."""
    from swaddon.core.engine import Cache, Run
    from swaddon.core.plan.stages import with_recommended_choke
    from swaddon.session.order_plans import OrderPlanner
    from swaddon.session.order_report import order_report, order_table
    from swaddon.session.ordering import with_chokes

    if options.report is not None:
        raise ValueError("--report is of one plan: leave it out for an order of several lines")
    planner, folders = OrderPlanner(), dict[int, str]()
    with TerminalProgress() as progress:
        run = Run(Cache(), progress=progress.report)
        if recommends_choke:
            quiet = Run(Cache())
            job = with_chokes(job, lambda made: with_recommended_choke(made, quiet).settings.white.choke_mm)

        def written(line: "OrderLine", plan: "Plan") -> None:
            name = f"{len(set(folders.values())) + 1}-{_slug(line.title)}"
            folders.update({at: name for at, other in enumerate(job.lines) if other.planned == line.planned})
            if options.out is not None:
                _export(plan, options, name)

        for line in planner.work(job, run, done=written):
            if problem := planner.problem(job, line):
                raise ValueError(f"{line.title}: {problem}")
        made = planner.plan(job, run)
        advice = planner.compare(job, run)
    places = [folders[at] if options.out is not None else None for at in range(len(job.lines))]
    report = json.dumps(order_report(job, made, advice, places), indent=2, ensure_ascii=False)
    if options.out is not None:
        _write(options, report)
    if options.as_json:
        return report
    text = order_table(made, advice)
    return text if options.out is None else f"{text}\nWritten to {options.out}"


def _slug(title: str) -> str:
    """A line's title as the name of a folder."""
    return re.sub(r"[^a-z0-9]+", "-", title.lower()).strip("-")[:40] or "line"


def _export(plan: "Plan", options: PlanOptions, name: str) -> None:
    from swaddon.io.export import export_plan, exported_before, words_for

    assert options.out is not None
    folder = options.out / name
    held = exported_before(folder)
    if held is not None and held != words_for(plan) and not options.overwrite:
        raise ValueError(f"“{folder}” holds an export of {held}: give another folder, or --overwrite")
    export_plan(plan, folder, mirror=options.mirror_files)


def _write(options: PlanOptions, report: str) -> None:
    from swaddon.io.whole import whole_file

    assert options.out is not None
    try:
        with whole_file(options.out / ORDER_FILE) as file:
            file.write((report + "\n").encode("utf-8"))
    except OSError as error:
        raise ValueError(f"“{options.out / ORDER_FILE}” could not be written ({error.strerror})") from error
