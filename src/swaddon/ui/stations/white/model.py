"""White: how much lies under the colour, and how far it is pulled in."""

from dataclasses import dataclass

from swaddon.core.plan.stages import Plan
from swaddon.core.units import px_from_mm
from swaddon.session.job import Job
from swaddon.session.tally import amount_text

MODES = (("none", "None"), ("solid", "Solid"), ("limit", "By coverage"))
LARGEST_CHOKE_MM = 1.5


@dataclass(frozen=True)
class WhiteState:
    """What the White sheet shows."""

    mode: str
    mode_effect: str
    limit: float
    limit_effect: str
    design: bool
    choke_mm: float
    choke_effect: str
    choke_enabled: bool


def white_state(job: Job, plan: Plan | None) -> WhiteState:
    white = job.settings.white
    ppi = 300.0 if job.profile is None else job.profile.plan_ppi
    px = px_from_mm(white.choke_mm, ppi)
    choke = f"{white.choke_mm:.2f} mm · {px:.1f} px at {ppi:g} ppi"
    mode_effect = ""
    if plan is not None:
        ml = next(material.amount for material in plan.materials if material.kind == "white")
        mode_effect = f"{amount_text(ml, 'ml')} white over {plan.measures.white_mm2 / 100:.0f} cm²"
        if white.mode != "none":
            choke += f" · −{plan.white.pulled_in_share:.1%} white"
    return WhiteState(
        mode=white.mode,
        mode_effect=mode_effect,
        limit=white.limit,
        limit_effect=f"White under colours up to {white.limit:.0f} % total coverage",
        design=white.design,
        choke_mm=white.choke_mm,
        choke_effect=choke,
        choke_enabled=white.mode != "none",
    )
