"""A plan as a table for a terminal."""

from swaddon.core.count.money import shares
from swaddon.core.plan.report import plan_report
from swaddon.core.plan.stages import Plan


def plan_table(plan: Plan) -> str:
    """Names and values, one a line, findings last."""
    report = plan_report(plan)
    size, artwork, white = report["print"], report["artwork"], report["white"]
    cost, time, choke = report["cost"], report["time"], plan.request.settings.white.choke_text
    rows = [
        ("Print", f"{size['width_mm']:.1f} × {size['height_mm']:.1f} mm, {size['printed_share']:.1%} of it printed"),
        ("Artwork", f"{artwork['width_px']} × {artwork['height_px']} px, {artwork['ppi']:.0f} ppi"),
        (
            "White",
            f"{white['mode']}, choke {choke}, {white['area_mm2'] / 100:.1f} cm²",
        ),
        ("Stack", " · ".join(report["stack"]) + (" (print mirrored)" if report["mirrored"] else "")),
    ]
    costs = shares((material.cost for material in plan.materials), plan.cost_places)
    for line, spent in zip(report["materials"], costs, strict=True):
        rows.append((line["name"], f"{line['amount']:.3f} {line['unit']}, {spent} {cost['currency']}"))
    piece = plan.request.profile.printing.piece
    rows.append((f"Cost per {piece}", f"{plan.cost} {cost['currency']}"))
    rows.append(("Print time", f"{time['print_s']:.0f} s, {time['shirts_per_hour']:.1f} {piece}s per hour"))
    for item in report["findings"]:
        rows.append((item["severity"].capitalize(), f"{item['text']} [{item['x_mm']:.0f}, {item['y_mm']:.0f} mm]"))
    return "\n".join(f"{name:<15} {value}" for name, value in rows)
