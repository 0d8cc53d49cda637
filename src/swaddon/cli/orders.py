"""Whole orders on the command line: every distinct line planned, written and summed."""

import json
from pathlib import Path
from typing import TYPE_CHECKING

from swaddon.cli.options import PlanOptions
from swaddon.cli.progress import TerminalProgress

if TYPE_CHECKING:
    from swaddon.session.job import Job


def saved(job: "Job", options: PlanOptions, recommends_choke: bool) -> "Job":
    """Write the job that was asked for, so that other commands and the bench can follow it; gives it as written."""
    from dataclasses import replace

    path = options.save_job
    assert path is not None
    check_job_file(path, options.overwrite)
    if recommends_choke:
        job = _with_recommended_choke(job)
    if options.artwork is not None and options.job is None:
        job = replace(job, name=options.artwork.stem)
    return written(job, path, options.artwork)


def check_job_file(path: Path, overwrite: bool) -> None:
    """Raises ``ValueError`` where a job is not to be written so."""
    from swaddon.io.jobfile import SUFFIX

    if path.suffix.lower() != SUFFIX:
        raise ValueError(f"--save-job “{path}” is no job file: end its name in {SUFFIX}")
    if path.exists() and not overwrite:
        raise ValueError(f"--save-job “{path}” is there already: give another name, or --overwrite")


def written(job: "Job", path: Path, artwork: Path | None) -> "Job":
    """Write a job, with the file of its artwork where that was given; gives it as written."""
    from dataclasses import replace

    from swaddon.session.job import ArtworkFile
    from swaddon.session.storage import save_job

    assert job.file is not None
    if artwork is not None:
        job = replace(job, file=ArtworkFile(job.file.artwork, artwork.read_bytes()))
    save_job(path, job)
    return job


def _with_recommended_choke(job: "Job") -> "Job":
    from swaddon.core.engine import Cache, Run
    from swaddon.core.plan.stages import with_recommended_choke
    from swaddon.session.ordering import with_chokes

    quiet = Run(Cache())
    return with_chokes(job, lambda made: with_recommended_choke(made, quiet).settings.white.choke_mm)


def plan_order(job: "Job", options: PlanOptions, recommends_choke: bool) -> str:
    """Plan all lines of a job; what is to be printed."""
    from swaddon.core.engine import Cache, Run
    from swaddon.session.order_export import plan_and_write
    from swaddon.session.order_report import order_table

    if options.report is not None:
        raise ValueError("--report is of one plan: leave it out for an order of several lines")
    with TerminalProgress() as progress:
        run = Run(Cache(), progress=progress.report)
        if recommends_choke:
            job = _with_recommended_choke(job)
        whole = plan_and_write(job, run, options.out, options.mirror_files)
    if options.as_json:
        return json.dumps(whole.report, indent=2, ensure_ascii=False)
    text = order_table(whole.plan, whole.advice)
    return text if options.out is None else f"{text}\nWritten to {options.out}"
