"""Numbers under the pointer: how much of each ink lies there."""

from swaddon.core.plan.stages import Plan
from swaddon.core.press.profile import INKS
from swaddon.core.units import px_from_mm


def inks_at(plan: Plan, x_mm: float, y_mm: float) -> str:
    """Each ink at a place in percent, all colour inks together, and what that weighs; empty beside the print."""
    column, row = int(px_from_mm(x_mm, plan.ppi)), int(px_from_mm(y_mm, plan.ppi))
    height, width = plan.white_plane.shape
    if x_mm < 0 or y_mm < 0 or row >= height or column >= width:
        return ""
    press = plan.request.profile
    shares = {ink: float(plan.cmyk[row, column, INKS.index(ink)]) / 255 for ink in press.inks}
    white = float(plan.white_plane[row, column]) / 255
    light = 0.0 if plan.highlight is None else float(plan.highlight[row, column]) / 255
    lay = press.lay_down_per_m2
    load = sum(share * lay[ink] for ink, share in shares.items())
    load += lay["W"] * (white * sum(press.hits) + light * len(press.highlight_slots))
    parts = [f"{ink} {share:.0%}" for ink, share in shares.items()] + ([f"W {white:.0%}"] if press.has_white else [])
    if plan.highlight is not None:
        parts.append(f"H {light:.0%}")
    total = sum(shares.values())
    return f"{'  '.join(parts)}  ·  {total:.0%} of colour  ·  {load:.1f} {press.ink_unit}/m²".replace("%", " %")
