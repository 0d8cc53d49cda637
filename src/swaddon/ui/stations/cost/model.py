"""Cost: what one shirt costs and how long it prints, against the yardstick."""

from dataclasses import dataclass

from swaddon.core.plan.stages import Plan
from swaddon.core.white.settings import WhiteMode
from swaddon.session.job import Job
from swaddon.session.tally import TallyLine, tally_lines


@dataclass(frozen=True)
class CostState:
    """What the Cost sheet shows."""

    lines: tuple[TallyLine, ...]
    yardstick: str
    can_pin: bool
    title: str = "Per shirt"


def cost_state(_job: Job, plan: Plan | None, yardstick: Plan | None) -> CostState:
    if plan is None:
        return CostState((), "", False)
    text = "No yardstick: pin this plan, then change something." if yardstick is None else describe(yardstick)
    return CostState(tally_lines(plan, yardstick), text, True, f"Per {plan.request.profile.printing.piece}")


def describe(plan: Plan) -> str:
    """A plan in a few words."""
    white = plan.request.settings.white
    words: dict[WhiteMode, str] = {
        "none": "no white",
        "highlight": "white under highlights",
        "need": f"white by need to ΔE {white.allowed_shift:g}",
        "solid": "solid white",
        "limit": f"white to {white.limit:.0f} %",
        "only": "white only",
    }
    choke = "" if white.mode in ("none", "only") else f", choke {white.choke_text}"
    return (
        f"Yardstick: {plan.request.profile.process}, {words[white.mode]}{choke}, "
        f"{plan.cost} {plan.request.profile.currency}"
    )
