"""A plan as a table for a terminal."""

from swaddon.core.count.money import shares
from swaddon.core.findings.told import small_words, told
from swaddon.core.flow.bound import Rate
from swaddon.core.flow.shop import word_for
from swaddon.core.plan.outcome import NONE_UNDER
from swaddon.core.plan.report import plan_report
from swaddon.core.plan.stages import Plan
from swaddon.core.units import plural


def _past_corners(plan: Plan) -> str:
    """How far white may pass the choke at the corners, where its error grows from the middle of the print."""
    registration, white = plan.request.registration, plan.request.settings.white
    past_mm = registration.reach_mm - white.choke_mm
    if registration.spread is None or past_mm <= 0 or white.mode in ("none", "only"):
        return ""
    return f" (at corners white may pass it by {past_mm:.2f} mm)"


def _mode_words(plan: Plan) -> str:
    """The way of white; where none lies under colours, the white of the design still prints."""
    mode = plan.request.settings.white.mode
    if mode != "none":
        return mode
    return f"{NONE_UNDER}; white of the design" if plan.measures.white_px else NONE_UNDER


def plan_table(plan: Plan, rate: Rate | None = None) -> str:
    """Names and values, one a line, findings last; ``rate`` is what the shop makes of it in an hour."""
    report = plan_report(plan, rate)
    size, artwork, white = report["print"], report["artwork"], report["white"]
    cost, time, choke = report["cost"], report["time"], plan.request.settings.white.choke_text
    rows = [
        ("Print", f"{size['width_mm']:.1f} × {size['height_mm']:.1f} mm, {size['printed_share']:.1%} of it printed"),
        ("Artwork", f"{artwork['width_px']} × {artwork['height_px']} px, {artwork['ppi']:.0f} ppi"),
        (
            "White",
            f"{_mode_words(plan)}, choke {choke}{_past_corners(plan)}, {white['area_mm2'] / 100:.1f} cm²",
        ),
        (
            "Stack",
            " · ".join([plan.request.ware.item, *report["stack"][1:]])
            + (" (print mirrored)" if report["mirrored"] else ""),
        ),
    ]
    costs = shares((material.cost for material in plan.materials), plan.cost_places)
    for line, spent in zip(report["materials"], costs, strict=True):
        rows.append((line["name"], f"{line['amount']:.3f} {line['unit']}, {spent} {cost['currency']}"))
    piece = plan.request.ware.piece
    rows.append((f"Cost per {piece}", f"{plan.cost} {cost['currency']}"))
    alone = f"printer alone {time['shirts_per_hour']:.1f}"
    if rate is None:
        rows.append(("Print time", f"{time['print_s']:.0f} s, {alone} {plural(piece)} per hour"))
    else:
        made = f"about {rate.shop_per_hour:.1f}, by the {word_for(rate.limited_by)}; {alone}"
        rows += [("Print time", f"{time['print_s']:.0f} s"), (f"{plural(piece).capitalize()} per hour", made)]
    large, small = told(plan.findings)
    for found in large if len(small) > 1 else (*large, *small):
        place = f"[{found.x_mm:.0f}, {found.y_mm:.0f} mm]"
        rows.append((found.severity.capitalize(), f"{found.text} {place}"))
    if len(small) > 1:
        rows.append(("Note", f"{small_words(small)}: {', '.join(item.code for item in small)} (plan.json)"))
    return "\n".join(f"{name:<15} {value}" for name, value in rows)
