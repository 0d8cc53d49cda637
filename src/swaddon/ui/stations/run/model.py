"""Run: what is done at the press step by step, and how far it is."""

from dataclasses import dataclass, replace

from swaddon.core.log.troubles import AT_PRESS, TROUBLES, trouble_title
from swaddon.core.order.handover import HandOver, check_white_name
from swaddon.core.order.settings import PlanSettings
from swaddon.core.plan.stages import Plan
from swaddon.core.press.processes import USUAL
from swaddon.core.press.steps import School, step_name
from swaddon.core.run.card import CardStep, RunCard
from swaddon.core.run.record import Timer
from swaddon.core.schema import options
from swaddon.io import handover, profiles
from swaddon.session import edits, parse, shop
from swaddon.session.figure_words import clock_text, figures_text, heat_c, heat_text, time_text
from swaddon.session.job import Job
from swaddon.session.log_words import figure_text
from swaddon.session.preferences import Preferences
from swaddon.session.run_cards import card_of, garment_of
from swaddon.session.runs import Run
from swaddon.session.session import Edit

REASONS = tuple((trouble.key, trouble.title) for trouble in (*AT_PRESS[:-1], *TROUBLES, AT_PRESS[-1]))
"""Why a piece is spoiled: what happens at the press first, then what is seen on the print."""

_MOST_DIGITS = 10


@dataclass(frozen=True)
class StepState:
    """One step on the card; ``caution`` is told in full where it comes first, and only marked after that.

    ``chips`` are heat, time and pressure in words, ``timer`` what its timer is called (empty: it has none), ``digit``
    the key that starts it, ``is_too_hot`` whether the goods do not bear it.
    """

    number: int
    text: str
    caution: str
    is_repeated: bool
    chips: tuple[str, ...] = ()
    timer: str = ""
    digit: str = ""
    is_too_hot: bool = False
    source: str = ""


@dataclass(frozen=True)
class RunState:
    """What the Run station shows besides counts and timers."""

    title: str
    press: str
    steps: tuple[StepState, ...]
    maker: str
    handover: HandOver
    white_name: str
    asks_colour: bool
    asks_white: bool
    card: tuple[tuple[str, str], ...]
    made: RunCard
    schools: tuple[tuple[School, str], ...]
    heat_of: str
    heat: str
    time: str


def run_state(job: Job, plan: Plan | None = None, preferences: Preferences | None = None) -> RunState:
    asked = preferences or Preferences()
    press = job.press or profiles.shipped(USUAL)
    made = card_of(job, plan, "in" if asked.inches else "mm")
    told: set[str] = set()
    steps = []
    bears = {conflict.step: conflict.bears_c for conflict in made.conflicts}
    for step in made.steps:
        steps.append(
            StepState(
                step.number,
                step.text,
                step.caution,
                step.caution in told,
                figures_text(step.figures, asked),
                _timer(step),
                str(step.number % _MOST_DIGITS) if step.is_timed and step.number <= _MOST_DIGITS else "",
                step.key in bears,
                step.figures.source,
            )
        )
        told.add(step.caution)
    chosen, pressing = job.settings.handover, made.main
    return RunState(
        title=press.printing.title,
        press=press.title,
        steps=tuple(steps),
        maker=" ".join([*_bears(job, asked), *press.cautions]),
        handover=chosen,
        white_name=chosen.white_name or press.white_name,
        asks_colour=chosen.kind in ("tiff", "pdf"),
        asks_white=chosen.kind in ("tiff", "pdf"),
        card=() if plan is None else handover.card(plan).lines,
        made=made,
        schools=tuple((school, way.key) for school, way in made.schools),
        heat_of="" if pressing is None else f"{step_name(pressing.key)} at",
        heat="" if pressing is None or pressing.figures.temperature_c is None
        else heat_text(pressing.figures.temperature_c, asked),
        time="" if pressing is None or pressing.figures.time_s is None else time_text(pressing.figures.time_s),
    )  # fmt: skip


def is_planned(job: Job, plan: Plan) -> bool:
    """Whether a plan is of the job as it is now: what is noted and printed of it must not be that of before."""
    request = job.request()
    if request is None or plan.request.artwork is not request.artwork or not plan.checks.is_current:
        return False
    same = plan.request.settings == request.settings and plan.request.press == request.press
    return same and (plan.request.medium, plan.request.split_rules) == (request.medium, request.split_rules)


def _timer(step: CardStep) -> str:
    """What the timer of a step is called."""
    if not step.is_timed:
        return ""
    expected = "" if step.expected_s is None else time_text(step.expected_s)
    return expected if step.counts_down else f"about {expected}"


def _bears(job: Job, preferences: Preferences) -> list[str]:
    """What heat the line's garment bears, as the shop's library has it."""
    found = garment_of(job)
    if found is None or found.heat_c is None:
        return []
    bears = heat_text(found.heat_c, preferences)
    return [f"{found.name} bears {bears} by the shop’s own list; its maker’s word decides."]


# counting


@dataclass(frozen=True)
class TimerState:
    """A timer that runs: its step, the clock's reading, how much is left (0..1), and whether it is over."""

    step: str
    clock: str
    left: float
    is_over: bool
    told: str


@dataclass(frozen=True)
class CountState:
    """How far a run is."""

    good: int
    lost: int
    wanted: int
    took: str
    is_paused: bool
    reasons: str

    @property
    def told(self) -> str:
        """In a few words."""
        return f"{self.good} of {self.wanted} good" + (f" · {self.lost} spoiled" if self.lost else "")


def count_state(run: Run, now: float) -> CountState:
    record = run.record
    reasons = ", ".join(f"{count} {trouble_title(why).lower()}" for why, count in record.spoiled)
    took = time_text(record.worked_s(now) // 60 * 60) if record.worked_s(now) >= 60 else "under a minute"
    return CountState(record.good, record.lost, run.wanted, took, record.is_paused, reasons)


def timer_state(timer: Timer, now: float) -> TimerState:
    title = step_name(timer.step)
    left = timer.left_s(now)
    if left is None:
        ran = max(0.0, now - timer.started)
        return TimerState(title, clock_text(ran), 1.0, is_over=False, told="running")
    share = 0.0 if not timer.expected_s else min(1.0, max(0.0, left / timer.expected_s))
    return TimerState(title, clock_text(left), share, is_over=left <= 0, told="done" if left <= 0 else "left")


def materials_of(run: Run) -> tuple[tuple[str, str], ...]:
    """Materials of a run, whose use may be measured: key, and title with its unit."""
    keys = () if run.entry.planned is None else tuple(key for key, _ in run.entry.planned.figures)
    out = []
    for key in keys:
        if key.startswith("used:"):
            _, kind, unit = key.split(":", 2)
            out.append((f"{kind}:{unit}", f"{figure_text(key, 0)[0]}, {'m²' if unit == 'm2' else unit}"))
    return tuple(out)


def used_told(run: Run) -> str:
    """What was measured so far."""
    told = []
    for key, amount in run.record.used:
        kind, _, unit = key.partition(":")
        told.append(f"{kind} {amount:g} {'m²' if unit == 'm2' else unit}")
    return ", ".join(told)


def amount_of(text: str) -> float:
    """How much of a material; raises ``ValueError`` with one sentence."""
    return parse.number(text, "What was used", 0, 1_000_000)


# edits


def heat_edit(text: str, preferences: Preferences) -> Edit:
    """Press at another heat; raises ``ValueError`` with one sentence."""
    if not text.strip():
        return edits.change("at_press.temperature_c", 0.0)
    value = parse.number(text.strip().rstrip("°CcFf ") or text, "The press’s heat", 0, 1000)
    celsius = heat_c(value, replace(preferences, fahrenheit=_says(text, "f", preferences.fahrenheit)))
    if not _LEAST_C <= celsius <= _MOST_C:
        span = f"{heat_text(_LEAST_C, preferences)} to {heat_text(_MOST_C, preferences)}"
        raise ValueError(f"The press takes {span}; leave the field empty for the press profile’s heat")
    return edits.change("at_press.temperature_c", celsius)


_LEAST_C, _MOST_C = 60.0, 260.0


def _says(text: str, sign: str, usual: bool) -> bool:
    last = text.strip().lower()[-1:]
    return last == sign if last in "cf" else usual


def time_edit(text: str) -> Edit:
    """Press for another time; raises ``ValueError`` with one sentence."""
    if not text.strip():
        return edits.change("at_press.time_s", 0.0)
    value = parse.number(text.strip().rstrip("s ") or text, "The press’s time in s", 1, 3600)
    return edits.change("at_press.time_s", round(value, 1))


def count_of(text: str) -> int:
    """How many pieces; raises ``ValueError`` with one sentence."""
    return round(parse.number(text, "How many", 1, 10_000))


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
