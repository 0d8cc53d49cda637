"""Cost: what one shirt costs and how long it prints, against the yardstick."""

from dataclasses import dataclass

from swaddon.core.plan.stages import Plan
from swaddon.session.job import Job
from swaddon.session.tally import TallyLine, tally_lines


@dataclass(frozen=True)
class CostState:
    """What the Cost sheet shows."""

    lines: tuple[TallyLine, ...]
    yardstick: str
    can_pin: bool


def cost_state(_job: Job, plan: Plan | None, yardstick: Plan | None) -> CostState:
    if plan is None:
        return CostState((), "", False)
    told = "No yardstick: pin this plan, then change something." if yardstick is None else describe(yardstick)
    return CostState(tally_lines(plan, yardstick), told, True)


def describe(plan: Plan) -> str:
    """A plan in a few words."""
    settings = plan.request.settings
    mode = {"none": "no white", "solid": "solid white", "limit": f"white to {settings.white.limit:.0f} %"}
    return (
        f"Yardstick: {plan.request.profile.process}, {mode[settings.white.mode]}, "
        f"choke {settings.white.choke_mm:.2f} mm, {plan.cost} {plan.request.profile.currency}"
    )
