"""Run: what is done at the press, step by step."""

from dataclasses import dataclass

from swaddon.core.press.processes import USUAL
from swaddon.io import profiles
from swaddon.session.job import Job


@dataclass(frozen=True)
class StepState:
    """One step on the card; ``caution`` is told in full where it comes first, and only marked after that."""

    number: int
    text: str
    caution: str
    is_repeated: bool


@dataclass(frozen=True)
class RunState:
    """What the Run sheet shows."""

    title: str
    press: str
    steps: tuple[StepState, ...]
    maker: str


def run_state(job: Job) -> RunState:
    press = job.press or profiles.shipped(USUAL)
    told: set[str] = set()
    steps = []
    for number, step in enumerate(press.printing.steps, start=1):
        steps.append(StepState(number, step.text, step.caution, step.caution in told))
        told.add(step.caution)
    return RunState(press.printing.title, press.title, tuple(steps), " ".join(press.cautions))
