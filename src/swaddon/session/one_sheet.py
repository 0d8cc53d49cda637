"""Small prints of a press that is paid by whole sheets: how many share one, and what each costs then."""

from decimal import Decimal

from swaddon.core.count.consumption import materials_of, total_cost
from swaddon.core.count.shared import SheetShare
from swaddon.core.plan.stages import Plan
from swaddon.core.sheet.shared import Fit, fit_on, shared_sheet


def shared_by_one_sheet(plan: Plan) -> tuple[Fit, SheetShare] | None:
    """How many of a small print fit the sheet that each is charged for, and what each takes then.

    ``None`` where just one fits, no sheets are paid for, or the line was laid on a sheet already.
    """
    request, press = plan.request, plan.request.profile
    if press.sheet is None or request.medium is None or request.settings.share(press) is not None:
        return None
    spacing_mm = max(request.spacing_mm, request.medium.cutter_mm)
    fit = fit_on(*plan.measures.printed_size_mm, request.medium, press, spacing_mm)
    if fit.count < 2:
        return None
    quantity, width_mm = request.settings.quantity, request.settings.width_mm
    return fit, shared_sheet(plan.measures, press, request.medium, fit, quantity, width_mm, spacing_mm)


def shared_cost(plan: Plan, share: SheetShare) -> Decimal:
    """What the print costs with its share of a sheet, unrounded."""
    return total_cost(materials_of(plan.measures, plan.request.profile, share))
