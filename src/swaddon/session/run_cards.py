"""The run card of a job's line, by the shop's list of garments and the plan where there is one."""

from collections.abc import Sequence
from dataclasses import replace

from swaddon.core.findings import Finding
from swaddon.core.findings.press import heat_findings
from swaddon.core.plan.stages import Plan
from swaddon.core.press.processes import USUAL
from swaddon.core.press.working import Gets
from swaddon.core.run.card import LengthUnit, RunCard, run_card
from swaddon.io import profiles
from swaddon.io.garments import LibraryGarment
from swaddon.session import shop
from swaddon.session.job import Job

CODES = frozenset({"press-too-hot"})


def garment_of(job: Job, garments: Sequence[LibraryGarment] | None = None) -> LibraryGarment | None:
    """The line's garment in the shop's list, by its name."""
    known = shop.garments() if garments is None else garments
    return next((garment for garment in known if garment.name == job.goods.name), None)


def gets_of(plan: Plan) -> Gets:
    """What a piece gets by its plan: the work that is charged for it, and whether it has dots."""
    gets = plan.request.settings.used_by(plan.measures, plan.request.profile).gets
    return replace(gets, dots=plan.treated.tone is not None and bool(plan.treated.tone.any()))


def card_of(
    job: Job, plan: Plan | None = None, unit: LengthUnit = "mm", garments: Sequence[LibraryGarment] | None = None
) -> RunCard:
    """The card of the line at hand."""
    garment = garment_of(job, garments)
    finest = None if plan is None or plan.inspection.line is None else plan.inspection.line.width_mm
    return run_card(
        job.line,
        job.press or profiles.shipped(USUAL),
        job.height_mm,
        bears_c=None if garment is None else garment.heat_c,
        finest_mm=finest,
        print_s=None if plan is None else plan.time.print_s,
        unit=unit,
        gets=None if plan is None else gets_of(plan),
        ink_mm=None if plan is None or plan.measures.printed is None else plan.measures.printed_box_mm,
    )


def run_findings(job: Job, garments: Sequence[LibraryGarment] | None = None) -> tuple[Finding, ...]:
    """What is wrong at the press with the line at hand."""
    garment = garment_of(job, garments)
    if garment is None or garment.heat_c is None or job.profile is None or job.file is None:
        return ()
    return heat_findings(card_of(job, garments=garments), job.settings, garment.name)
