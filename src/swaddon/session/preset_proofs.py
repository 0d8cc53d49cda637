"""What a preset would make of a job: the job's own plan with it, at fewer pixels."""

from dataclasses import replace

from swaddon.core.engine import Run
from swaddon.core.errors import PlanError
from swaddon.core.order.presets import Preset
from swaddon.core.order.request import PlanRequest
from swaddon.core.plan.outcome import Outcome, outcome_of
from swaddon.core.plan.stages import make_plan
from swaddon.session.job import Job
from swaddon.session.presets import apply_preset, check_tiles

PROOF_PPI = 150.0
"""Resolution that presets are compared at: enough for the holes of usual screens, a quarter of the pixels."""


_FINE_PX = 4_000_000
"""Prints of so many pixels are compared as they are: on a small label 150 ppi miss a tenth of the white."""


def about(request: PlanRequest) -> PlanRequest:
    """The request on fewer pixels, for comparing; a small print stays as it is."""
    width, height = request.grid_size
    if width * height <= _FINE_PX:
        return request
    return replace(request, ppi=max(min(request.ppi, PROOF_PPI), request.ppi * (_FINE_PX / (width * height)) ** 0.5))


def preset_outcome(job: Job, preset: Preset, run: Run) -> Outcome:
    """What a piece comes to with a preset, about.

    Raises
    ------
    PlanError
        When it cannot be planned.
    """
    check_tiles(preset, job)
    request = apply_preset(preset).made(job).request()
    if request is None:
        raise PlanError("There is no artwork yet.")
    return outcome_of(make_plan(replace(request, ppi=min(request.ppi, PROOF_PPI)), run, lean=True))
