"""Whole orders on the command line: every distinct line planned, written and summed."""

import json
from typing import TYPE_CHECKING

from swaddon.cli.options import PlanOptions
from swaddon.cli.progress import TerminalProgress

if TYPE_CHECKING:
    from swaddon.session.job import Job


def plan_order(job: "Job", options: PlanOptions, recommends_choke: bool) -> str:
    """Plan all lines of a job; what is to be printed."""
    from swaddon.core.engine import Cache, Run
    from swaddon.core.plan.stages import with_recommended_choke
    from swaddon.session.order_export import plan_and_write
    from swaddon.session.order_report import order_table
    from swaddon.session.ordering import with_chokes

    if options.report is not None:
        raise ValueError("--report is of one plan: leave it out for an order of several lines")
    with TerminalProgress() as progress:
        run = Run(Cache(), progress=progress.report)
        if recommends_choke:
            quiet = Run(Cache())
            job = with_chokes(job, lambda made: with_recommended_choke(made, quiet).settings.white.choke_mm)
        whole = plan_and_write(job, run, options.out, options.mirror_files, options.overwrite)
    if options.as_json:
        return json.dumps(whole.report, indent=2, ensure_ascii=False)
    text = order_table(whole.plan, whole.advice)
    return text if options.out is None else f"{text}\nWritten to {options.out}"
