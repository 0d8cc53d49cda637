"""Run: what is done at the press, step by step."""

from dataclasses import dataclass, replace

from swaddon.core.order.handover import HandOver, check_white_name
from swaddon.core.order.settings import PlanSettings
from swaddon.core.plan.stages import Plan
from swaddon.core.press.processes import USUAL
from swaddon.core.schema import options
from swaddon.io import handover, profiles
from swaddon.session import edits, parse, shop
from swaddon.session.job import Job
from swaddon.session.session import Edit


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
    handover: HandOver
    white_name: str
    asks_colour: bool
    asks_white: bool
    card: tuple[tuple[str, str], ...]


def run_state(job: Job, plan: Plan | None = None) -> RunState:
    press = job.press or profiles.shipped(USUAL)
    told: set[str] = set()
    steps = []
    for number, step in enumerate(press.printing.steps, start=1):
        steps.append(StepState(number, step.told(press.has_white), step.caution, step.caution in told))
        told.add(step.caution)
    chosen = job.settings.handover
    return RunState(
        title=press.printing.title,
        press=press.title,
        steps=tuple(steps),
        maker=" ".join([*_bears(job), *press.cautions]),
        handover=chosen,
        white_name=chosen.white_name or press.white_name,
        asks_colour=chosen.kind in ("tiff", "pdf"),
        asks_white=chosen.kind in ("tiff", "pdf"),
        card=() if plan is None else handover.card(plan).lines,
    )


def _bears(job: Job) -> list[str]:
    """What heat the line's garment bears, as the shop's library has it."""
    found = next((garment for garment in shop.garments() if garment.name == job.goods.name), None)
    if found is None or found.heat_c is None:
        return []
    return [f"{found.name} bears {found.heat_c:g} °C by the shop’s own list; its maker’s word decides."]


def name_white_edit(job: Job, text: str) -> Edit:
    """Name the white channel; the shop keeps the name for this press.

    Raises ``ValueError`` with one sentence.
    """
    own = named_text(text)
    check_white_name(own)
    press = (job.profile or profiles.shipped(USUAL)).name
    shop.keep(press, replace(shop.memory(press), white_name=own))
    return edits.change("handover.white_name", own)


def named_text(text: str) -> str:
    """A name as it may be."""
    entry = next(item for item in options(PlanSettings) if item.path == "handover.white_name")
    return parse.short_text(text.strip(), "The name of the white channel", entry.longest, entry.pattern)
