"""Inks in plan.json: slots, channels, passes, exact colours, total coverage, and the stack on the finished item."""

from typing import Any

from swaddon.core.colour.spaces import hex_from_rgb
from swaddon.core.count.consumption import ink_amount
from swaddon.core.plan.exact import held_colours
from swaddon.core.plan.stages import Plan
from swaddon.core.press.lineup import factory
from swaddon.core.press.profile import INKS, PressProfile
from swaddon.core.units import pixel_area_mm2


def inks_report(plan: Plan) -> dict[str, Any]:
    """All that plan.json tells of the inks."""
    profile = plan.request.profile
    return {
        "recipes": recipes(plan),
        "lineup": lineup(plan),
        "channels": channels(plan),
        "total_coverage": coverage(plan),
        "passes": passes(profile),
        "stack": stack(profile),
    }


def recipes(plan: Plan) -> list[dict[str, Any]]:
    """Each exact colour: where it holds, and how it will look here, with ΔE00 to the colour drawn."""
    return [
        {
            "colour": hex_from_rgb(item.recipe.colour),
            "inks_percent": {
                ink: round(share * 100, 3) for ink, share in zip(INKS, item.recipe.inks, strict=True) if share
            },
            "tolerance": item.recipe.tolerance_de,
            "total_percent": item.recipe.total_percent,
            "area_mm2": round(item.area_mm2, 2),
            "shown": hex_from_rgb(item.shown),
            "delta_e": round(item.delta_e, 2),
        }
        for item in held_colours(plan)
    ]


def lineup(plan: Plan) -> dict[str, Any]:
    """Which ink sits in which slot, left to right seen from the front; ``null`` in an empty one."""
    chosen = plan.request.settings.lineup
    used = factory(plan.request.profile)
    return {"name": used.name if chosen is None else chosen.name, "slots": [ink or None for ink in used.slots]}


def coverage(plan: Plan) -> dict[str, float]:
    """C + M + Y + K against what the press takes."""
    found = plan.coverage
    return {
        "most_percent": round(found.most_percent, 1),
        "limit_percent": found.limit_percent,
        "over_mm2": round(found.over_px * pixel_area_mm2(plan.ppi), 2),
    }


def channels(plan: Plan) -> list[dict[str, Any]]:
    """One entry per hit of each ink, in print order."""
    profile, measures = plan.request.profile, plan.measures
    whites = profile.white_slots
    hits = {
        "white": [("W", whites[hit % len(whites)], hit + 1, amount) for hit, amount in enumerate(profile.hits)],
        "colour": [(slot.ink, slot, 1, 1.0) for slot in profile.colour_slots],
        "highlight": [("H", slot, hit, 1.0) for hit, slot in enumerate(profile.highlight_slots, start=1)],
    }
    return [
        {
            "ink": ink,
            "role": slot.role,
            "hit": hit,
            "hit_amount": round(amount, 4),
            "slot": slot.number,
            "coverage_mean": round(measures.coverage[ink], 6),
            "amount": round(ink_amount(ink, measures, profile) * amount, 4),
            "unit": profile.ink_unit,
        }
        for role in profile.print_order
        for ink, slot, hit, amount in hits[role]
    ]


def passes(profile: PressProfile) -> list[dict[str, Any]]:
    """What each pass of the medium through the press prints, in order."""
    printed = list(dict.fromkeys(slot.ink for slot in profile.slots_in_print_order()))
    if profile.printing.passes == 1:
        return [{"number": 1, "inks": printed, "files": []}]
    colours = [ink for ink in printed if ink in profile.inks]
    return [
        {"number": 1, "inks": colours, "files": ["colour.pdf", "colour.png"]},
        {"number": 2, "inks": [ink for ink in printed if ink not in colours], "files": ["mask.pdf", "mask.png"]},
    ]


def stack(profile: PressProfile) -> list[str]:
    """Layers of the finished shirt from the garment outward."""
    printed = [slot.ink for slot in profile.slots_in_print_order()]
    if profile.mirrored:
        printed.reverse()
    below = ["garment"]
    if profile.pretreat is not None:
        below.append("pretreat")
    if profile.powder is not None:
        below.append("powder")
    return below + list(dict.fromkeys(printed))
