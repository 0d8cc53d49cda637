"""What each knockout saves: the plan without it, less the plan with it."""

from dataclasses import dataclass, replace
from decimal import Decimal

from swaddon.core.count.consumption import total_cost
from swaddon.core.engine import Run
from swaddon.core.order.request import PlanRequest
from swaddon.core.plan.stages import PlannedPrint, plan_print

_MOST_PX = 1_500_000
"""Pixels at which prints are compared: the difference of two plans is told to two digits (assumed)."""


@dataclass(frozen=True)
class Saving:
    """What one knockout leaves out: inks and powder in the press's units, and all that the piece costs less."""

    white: float
    colour: float
    powder: float
    cost: Decimal


def savings(request: PlanRequest, run: Run) -> tuple[Saving, ...]:
    """What each knockout of a request saves, thinned fades and film included; a large print on fewer pixels.

    Raises
    ------
    PlanError
        When it cannot be planned.
    """
    chosen = request.settings.knockouts
    if not chosen:
        return ()
    width, height = request.grid_size
    about = replace(request, ppi=request.ppi * min(1.0, (_MOST_PX / (width * height)) ** 0.5))
    inner = run.aside(300_000_000)
    own = plan_print(about, inner)
    out = []
    for index in range(len(chosen)):
        run.check()
        others = replace(request.settings, knockouts=(*chosen[:index], *chosen[index + 1 :]))
        out.append(_less(plan_print(replace(about, settings=others), inner), own))
    return tuple(out)


def _less(without: PlannedPrint, own: PlannedPrint) -> Saving:
    """What a print takes less than the one without a knockout; film that is saved counts in the money."""

    def amount(kind: str) -> float:
        one, other = (sum(item.amount for item in made.materials if item.kind == kind) for made in (without, own))
        return one - other

    cost = total_cost(without.materials) - total_cost(own.materials)
    return Saving(amount("white"), amount("colour"), amount("powder"), cost)
