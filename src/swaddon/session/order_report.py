"""A whole order as JSON values and as a table for a terminal."""

from collections.abc import Sequence
from typing import Any

from swaddon import __version__
from swaddon.core.colour.goods import goods_class
from swaddon.core.colour.spaces import hex_from_rgb
from swaddon.core.count.consumption import amount_text
from swaddon.core.count.money import STORED_PLACES, money_text, rounded
from swaddon.core.order.lines import OrderLine
from swaddon.core.plan.outcome import Outcome
from swaddon.core.plan.whole_order import OneForAll, OrderSum
from swaddon.session.job import Job
from swaddon.session.order_plans import OrderPlan

SCHEMA = "swaddon-order/1"


def order_report(
    job: Job, plan: OrderPlan, advice: OneForAll | None, folders: Sequence[str | None] = ()
) -> dict[str, Any]:
    """The order as JSON-ready values. Names are a contract (docs/order-json.md): fields may be added, none renamed."""
    assert job.profile is not None
    places: Sequence[str | None] = folders or [None] * len(plan.lines)
    return {
        "schema": SCHEMA,
        "swaddon_version": __version__,
        "name": job.name,
        "artwork": None if job.file is None else job.file.artwork.file_name,
        "process": job.profile.process,
        "press": job.profile.name,
        "currency": job.profile.currency,
        "lines": [
            _line(job, line, outcome, folder)
            for line, outcome, folder in zip(plan.lines, plan.outcomes, places, strict=True)
        ],
        "total": sum_report(plan.sum),
        "one_for_all": None if advice is None else advice_report(advice),
    }


def _line(job: Job, line: OrderLine, outcome: Outcome, folder: str | None) -> dict[str, Any]:
    settings, goods = line.settings, line.goods
    height_mm = 0.0 if job.file is None else job.file.artwork.height_mm_at(settings.width_mm, settings.placement)
    return {
        "garment": line.garment_name,
        "garment_rgb": hex_from_rgb(settings.garment),
        "class": goods_class(settings.garment),
        "cloth": goods.cloth,
        "size": goods.size,
        "quantity": settings.quantity,
        "place": goods.place,
        "print_size": goods.fit,
        "width_mm": settings.width_mm,
        "height_mm": round(height_mm, 3),
        "own": list(line.own),
        "materials": [
            {"kind": item.kind, "name": item.name, "amount": round(item.amount, 6), "unit": item.supply.unit}
            for item in outcome.materials
        ],
        "white_amount": round(outcome.white_amount, 6),
        "cost": f"{outcome.cost:f}",
        "print_s": round(outcome.print_s, 2),
        "hand_g_m2": round(outcome.hand_g_m2, 2),
        "worst_de": round(outcome.worst_de, 2),
        "findings": [
            {"code": found.code, "severity": found.severity, "text": found.text} for found in outcome.findings
        ],
        "folder": folder,
    }


def sum_report(total: OrderSum) -> dict[str, Any]:
    """All pieces together."""
    return {
        "pieces": total.pieces,
        "materials": [
            {"kind": item.kind, "name": item.name, "amount": round(item.amount, 6), "unit": item.unit}
            for item in total.amounts
        ],
        "cost": str(rounded(total.cost, STORED_PLACES)),
        "cost_exact": f"{total.cost:f}",
        "currency": total.currency,
        "print_s": round(total.print_s, 2),
        "hand_g_m2": round(total.hand_g_m2, 2),
        "worst_de": round(total.worst_de, 2),
    }


def advice_report(advice: OneForAll) -> dict[str, Any]:
    """One transfer for all garments against one for each."""
    return {
        "ways": [
            {"way": way.key, "title": way.title, "transfers": way.kinds, **sum_report(way.sum)} for way in advice.ways
        ],
        "advised": advice.advised,
        "reason": advice.reason,
    }


_HEADS = ("Line", "Pieces", "Print", "White", "Cost", "Time", "Hand", "Worst ΔE")


def order_table(plan: OrderPlan, advice: OneForAll | None) -> str:
    """Lines, their sum and what is advised, for a terminal."""
    rows: list[Sequence[str]] = [_HEADS]
    for line, outcome in zip(plan.lines, plan.outcomes, strict=True):
        rows.append(
            (
                line.title + (" *" if line.own else ""),
                str(line.settings.quantity),
                f"{line.settings.width_mm:.0f} mm",
                _white(outcome),
                money_text(outcome.cost),
                f"{outcome.print_s:.0f} s",
                f"{outcome.hand_g_m2:.0f} g/m²",
                f"{outcome.worst_de:.1f}",
            )
        )
    total = plan.sum
    white = next((item for item in total.amounts if item.kind == "white"), None)
    rows.append(
        (
            "Order", str(total.pieces), "", "" if white is None else amount_text(white.amount, white.unit),
            f"{money_text(total.cost)} {total.currency}", f"{total.print_s / 60:.0f} min",
            f"{total.hand_g_m2:.0f} g/m²", f"{total.worst_de:.1f}",
        )
    )  # fmt: skip
    widths = [max(len(row[column]) for row in rows) for column in range(len(_HEADS))]
    lines = ["  ".join(_justified(row, widths)).rstrip() for row in rows]
    lines += _stops(plan)
    if advice is not None:
        lines.append(advice.reason)
    return "\n".join(lines)


def _justified(row: Sequence[str], widths: Sequence[int]) -> list[str]:
    return [row[0].ljust(widths[0]), *(cell.rjust(width) for cell, width in zip(row[1:], widths[1:], strict=True))]


def _white(outcome: Outcome) -> str:
    found = next((item for item in outcome.materials if item.kind == "white"), None)
    return "none" if found is None else amount_text(found.amount, found.supply.unit)


def _stops(plan: OrderPlan) -> list[str]:
    """What stops a line, or wants a look, each once with the lines that it belongs to."""
    found: dict[tuple[str, str], list[str]] = {}
    for line, outcome in zip(plan.lines, plan.outcomes, strict=True):
        for item in outcome.findings:
            if item.severity != "note":
                found.setdefault((item.severity.capitalize(), item.text), []).append(line.title)
    return [f"{severity}  {text} [{', '.join(dict.fromkeys(titles))}]" for (severity, text), titles in found.items()]
