"""plan.json: the plan as plain values. Names are a contract (docs/plan-json.md): fields may be added, none renamed."""

from collections import Counter
from dataclasses import asdict
from typing import Any

from swaddon import __version__
from swaddon.core.colour import hex_from_rgb
from swaddon.core.consumption import Material, ink_ml, rounded, total_cost
from swaddon.core.plan.settings import PlanSettings
from swaddon.core.plan.stages import Plan
from swaddon.core.profile import PressProfile, Slot

SCHEMA = "swaddon-plan/1"


def plan_report(plan: Plan) -> dict[str, Any]:
    """The plan as JSON-ready values; lengths in mm, money as decimal strings per shirt."""
    request, measures = plan.request, plan.measures
    settings, profile = request.settings, request.profile
    return {
        "schema": SCHEMA,
        "swaddon_version": __version__,
        "artwork": {
            "file": request.artwork.file_name,
            "width_px": request.artwork.width_px,
            "height_px": request.artwork.height_px,
            "ppi": round(request.artwork.ppi_at(settings.width_mm), 2),
            "has_alpha": request.artwork.has_alpha,
        },
        "print": {
            "width_mm": settings.width_mm,
            "height_mm": round(request.artwork.height_mm_at(settings.width_mm), 3),
            "grid_ppi": plan.ppi,
            "printed_area_mm2": round(measures.printed_mm2, 2),
            "printed_share": round(measures.printed_px / (measures.width_px * measures.height_px), 6),
        },
        "garment": {"rgb": hex_from_rgb(settings.garment)},
        "process": profile.process,
        "profile": profile.name,
        "white": {
            "mode": settings.white.mode,
            "limit": settings.white.limit,
            "choke_mm": settings.white.choke_mm,
            "design": settings.white.design,
            "area_mm2": round(measures.white_mm2, 2),
            "coverage_mean": round(measures.coverage["W"], 6),
        },
        "channels": channels(plan),
        "stack": stack(profile),
        "mirrored": settings.is_mirrored(profile),
        "materials": [_material(material) for material in plan.materials],
        "cost": {
            "materials": str(rounded(total_cost(plan.materials))),
            "total": plan.cost,
            "currency": profile.currency,
        },
        "time": {
            "print_s": round(plan.time.print_s, 2),
            "fixed_s": plan.time.fixed_s,
            "phases": [
                {"name": phase.name, "bands": phase.bands, "seconds": round(phase.seconds, 2)}
                for phase in plan.time.phases
            ],
            "shirts_per_hour": round(plan.time.shirts_per_hour, 2),
        },
        "findings": [
            {
                "code": finding.code,
                "severity": finding.severity,
                "text": finding.text,
                "x_mm": round(finding.x_mm, 2),
                "y_mm": round(finding.y_mm, 2),
                "size": round(finding.size, 2),
                "unit": finding.unit,
            }
            for finding in plan.findings
        ],
        "settings": settings_report(settings, profile),
    }


def channels(plan: Plan) -> list[dict[str, Any]]:
    """One entry per ink position that prints, in print order."""
    profile, measures = plan.request.profile, plan.measures
    hits: Counter[str] = Counter()
    entries = []
    for slot in profile.slots_in_print_order():
        ink = "W" if slot.role == "white" else slot.ink
        hits[ink] += 1
        entries.append(
            {
                "ink": ink,
                "role": slot.role,
                "hit": hits[ink],
                "slot": slot.number,
                "coverage_mean": round(measures.coverage[ink], 6),
                "amount": round(ink_ml(slot, measures, profile), 4),
                "unit": "ml",
            }
        )
    return entries


def stack(profile: PressProfile) -> list[str]:
    """Layers of the finished shirt from the garment outward."""
    printed = [_layer(slot) for slot in profile.slots_in_print_order()]
    if profile.mirrored:
        printed.reverse()
    below = ["garment"]
    if profile.pretreat is not None:
        below.append("pretreat")
    if profile.powder is not None:
        below.append("powder")
    return below + list(dict.fromkeys(printed))


def _layer(slot: Slot) -> str:
    return "W" if slot.role == "white" else slot.ink


def _material(material: Material) -> dict[str, Any]:
    return {
        "name": material.name,
        "amount": round(material.amount, 4),
        "unit": material.supply.unit,
        "waste_share": material.supply.waste_share,
        "unit_price": str(material.supply.unit_price),
        "cost": str(rounded(material.cost)),
    }


def settings_report(settings: PlanSettings, profile: PressProfile) -> dict[str, Any]:
    """Everything that makes the run repeatable."""
    return {
        "width_mm": settings.width_mm,
        "garment": hex_from_rgb(settings.garment),
        "process": profile.process,
        "profile": profile.name,
        "plan_ppi": profile.plan_ppi,
        "knockouts": [
            {
                "colour": None if item.colour is None else hex_from_rgb(item.colour),
                "tolerance": item.tolerance,
                "reach": item.reach,
                "edge": item.edge,
            }
            for item in settings.knockouts
        ],
        "half_transparent": settings.half_transparent,
        "white": asdict(settings.white),
        "mirrored": settings.is_mirrored(profile),
        "quantity": settings.quantity,
    }
