"""White: how much lies under the colour, whether it is needed at all, and how far it is pulled in."""

from dataclasses import dataclass

from swaddon.core.colour import hex_from_rgb
from swaddon.core.plan.stages import Plan
from swaddon.core.units import px_from_mm
from swaddon.session.curves import Line, choke_lines, need_lines, white_amount
from swaddon.session.job import Job
from swaddon.session.tally import amount_text

MODES = (
    ("none", "None"), ("highlight", "Highlights"), ("need", "By need"), ("solid", "Solid"), ("limit", "Coverage"),
    ("only", "White only"),
)  # fmt: skip
LARGEST_CHOKE_MM = 1.0
LARGEST_SHIFT = 16.0
OTHER_PPI = 720


@dataclass(frozen=True)
class WhiteState:
    """What the White sheet shows."""

    mode: str
    mode_effect: str
    limit: float
    allowed_shift: float
    least: float
    most: float
    need_curve: tuple[Line, ...]
    verdict: str
    colours: tuple[str, ...]
    design: bool
    choke_mm: float
    choke_effect: str
    choke_enabled: bool
    guard: bool
    registration_mm: float
    choke_lines: tuple[Line, ...]
    recommended_mm: float | None


def white_state(job: Job, plan: Plan | None) -> WhiteState:
    white, profile = job.settings.white, job.profile
    sigma = 0.0 if profile is None else profile.registration.sigma_mm
    return WhiteState(
        mode=white.mode,
        mode_effect="" if plan is None else _mode_effect(plan),
        limit=white.limit,
        allowed_shift=white.allowed_shift,
        least=white.least,
        most=white.most,
        need_curve=() if plan is None else need_lines(plan),
        verdict="" if plan is None else plan.advice.reason,
        colours=() if plan is None else _colours(plan),
        design=job.settings.prints_design_white,
        choke_mm=white.choke_mm,
        choke_effect=_choke_effect(job, plan),
        choke_enabled=white.mode != "none",
        guard=white.guard,
        registration_mm=sigma if white.registration_mm is None else white.registration_mm,
        choke_lines=() if plan is None else choke_lines(plan),
        recommended_mm=None if plan is None or white.mode == "none" else plan.choke.recommended_mm,
    )


def _mode_effect(plan: Plan) -> str:
    amount = amount_text(white_amount(plan), plan.request.profile.ink_unit)
    text = f"{amount} white over {plan.measures.white_mm2 / 100:.0f} cm²"
    mode = plan.request.settings.white.mode
    if mode in ("need", "limit"):
        text += f" · {1 - plan.checks.white.of_solid:.0%} less than solid"
    return text


def _colours(plan: Plan) -> tuple[str, ...]:
    """One line per main colour: how far off it is without white, by need, and on solid white."""
    lines = ["Colour, share of the figure: ΔE without white · by need · solid"]
    lines += [
        f"{hex_from_rgb(item.colour)}, {item.share:.0%}: {item.bare:.0f} · {item.by_need:.0f} · {item.solid:.0f}"
        for item in plan.advice.colours
    ]
    return tuple(lines)


def _choke_effect(job: Job, plan: Plan | None) -> str:
    white = job.settings.white
    ppi = 300.0 if job.profile is None else job.profile.plan_ppi
    px, other = px_from_mm(white.choke_mm, ppi), px_from_mm(white.choke_mm, OTHER_PPI)
    text = f"{white.choke_mm:.2f} mm is {px:.1f} px at {ppi:g} ppi, {other:.0f} at {OTHER_PPI}"
    if plan is None or white.mode == "none":
        return text
    text += f" · −{plan.checks.white.taken_share:.1%} white"
    strokes = plan.checks.white.strokes
    if strokes.saved_mm >= 1:
        text += f" · {strokes.saved_mm:.0f} mm of thin strokes kept"
    if strokes.bare_mm >= 1:
        text += f" · {strokes.bare_mm:.0f} mm of thin strokes bare"
    return text
