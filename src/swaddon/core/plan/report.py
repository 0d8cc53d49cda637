"""plan.json: the plan as plain values. Names are a contract (docs/plan-json.md): fields may be added, none renamed."""

from typing import Any

from swaddon import __version__
from swaddon.core.artwork.regions import RegionMap
from swaddon.core.colour.spaces import hex_from_rgb
from swaddon.core.count.consumption import Material, total_cost
from swaddon.core.count.hand import Hand
from swaddon.core.count.money import STORED_PLACES, rounded, shares
from swaddon.core.engine import Cache, Run
from swaddon.core.findings.inspection import Fine
from swaddon.core.flow.bound import Rate
from swaddon.core.holes.held import features
from swaddon.core.holes.holes import HoleClass, Zones, screen_for
from swaddon.core.holes.screen import Ruled
from swaddon.core.holes.settings import Screen
from swaddon.core.order.settings import PlanSettings
from swaddon.core.plan.printed_regions import printing
from swaddon.core.plan.report_inks import inks_report
from swaddon.core.plan.saved import savings
from swaddon.core.plan.stages import Plan
from swaddon.core.press.profile import PressProfile
from swaddon.core.schema import document
from swaddon.core.shop.sureness import cost_spread
from swaddon.core.shop.used import travel_mm
from swaddon.core.units import mm_from_px, pixel_area_mm2

SCHEMA = "swaddon-plan/1"


def plan_report(plan: Plan, rate: Rate | None = None) -> dict[str, Any]:
    """The plan as JSON-ready values; lengths in mm, money as decimal strings per shirt.

    ``rate`` is what the shop makes of it in an hour, where a shop is known.
    """
    settings, profile = plan.request.settings, plan.request.profile
    return {
        "schema": SCHEMA,
        "swaddon_version": __version__,
        "artwork": _artwork(plan),
        "inspection": inspection(plan),
        "print": _print(plan),
        "garment": {"rgb": hex_from_rgb(settings.garment)},
        "process": profile.process,
        "profile": profile.name,
        "white": _white(plan),
        "choke": choke(plan),
        "verdict": verdict(plan),
        "knockouts": knockouts(plan),
        "outlines": outlines(plan),
        "alpha": document(settings.alpha_treatment(profile)),
        "regions": regions(plan),
        "screens": screens(plan),
        "hand": hand_report(plan.hand) | {"without_holes": hand_report(plan.whole_hand)},
        **inks_report(plan),
        "mirrored": settings.is_mirrored(profile),
        "materials": _materials(plan.materials),
        "cost": {
            "materials": str(rounded(total_cost(plan.materials), STORED_PLACES)),
            "total": str(rounded(total_cost(plan.materials), STORED_PLACES)),
            "total_exact": f"{total_cost(plan.materials):f}",
            "currency": profile.currency,
            "pm": round(cost_spread(settings.used_by(plan.measures, profile), profile).pm, 6),
        },
        "time": _time(plan, rate),
        "findings": _findings(plan),
        "settings": settings_report(settings, profile),
    }


def _findings(plan: Plan) -> list[dict[str, Any]]:
    """All findings, worst first."""
    return [
        {
            "code": finding.code,
            "severity": finding.severity,
            "text": finding.text,
            "x_mm": round(finding.x_mm, 2),
            "y_mm": round(finding.y_mm, 2),
            "size": round(finding.size, 2),
            "unit": finding.unit,
            "cause": finding.cause,
            "small": finding.is_small,
        }
        for finding in plan.findings
    ]


def _time(plan: Plan, rate: Rate | None) -> dict[str, Any]:
    """Print time and its phases, what the shop makes in an hour, and what the printer would alone."""
    return {
        "print_s": round(plan.time.print_s, 2),
        "fixed_s": plan.time.fixed_s,
        "phases": [
            {"name": phase.name, "bands": phase.bands, "seconds": round(phase.seconds, 2)} for phase in plan.time.phases
        ],
        "travel_mm": round(travel_mm(plan.time, plan.request.profile), 2),
        "shop_per_hour": None if rate is None else round(rate.shop_per_hour, 2),
        "limited_by": "" if rate is None else rate.limited_by,
        "shirts_per_hour": round(plan.time.shirts_per_hour, 2),
    }


def _white(plan: Plan) -> dict[str, Any]:
    """How white is laid, and what the choke did."""
    settings, white, check = plan.request.settings, plan.request.settings.white, plan.checks.white
    return {
        "mode": white.mode,
        "limit": white.limit,
        "choke_mm": white.choke_mm,
        "design": settings.prints_design_white,
        "hits": [round(amount, 4) for amount in plan.request.profile.hits],
        "area_mm2": round(plan.measures.white_mm2, 2),
        "coverage_mean": round(plan.measures.coverage["W"], 6),
        "allowed_shift": white.allowed_shift,
        "saved_vs_solid": round(1 - check.of_solid, 6),
        "guard": white.guard,
        "strokes_saved_mm": round(check.strokes.saved_mm, 1),
        "strokes_bare_mm": round(check.strokes.bare_mm, 1),
    }


def _print(plan: Plan) -> dict[str, Any]:
    """Size and printed area."""
    request, measures = plan.request, plan.measures
    return {
        "width_mm": request.settings.width_mm,
        "height_mm": round(request.height_mm, 3),
        "grid_ppi": plan.ppi,
        "printed_area_mm2": round(measures.printed_mm2, 2),
        "printed_share": round(measures.printed_px / (measures.width_px * measures.height_px), 6),
        "printed_size_mm": [round(side, 3) for side in measures.printed_size_mm],
        "printed_at_mm": [round(place, 3) for place in measures.printed_box_mm[:2]],
        "ink_below_collar_mm": round(request.settings.drop_mm + measures.printed_box_mm[1], 3),
    }


def _artwork(plan: Plan) -> dict[str, Any]:
    """The artwork as it came."""
    artwork, settings = plan.request.artwork, plan.request.settings
    return {
        "file": artwork.file_name,
        "width_px": artwork.width_px,
        "height_px": artwork.height_px,
        "ppi": round(artwork.ppi_at(settings.width_mm, settings.placement), 2),
        "has_alpha": artwork.has_alpha,
        "format": artwork.file_format,
        "profile": artwork.profile,
        "page": artwork.page,
        "stated_width_mm": None if artwork.natural_width_mm is None else round(artwork.natural_width_mm, 2),
    }


def _materials(materials: tuple[Material, ...]) -> list[dict[str, Any]]:
    """One entry per material; the rounded costs sum to the rounded total."""
    costs = shares((material.cost for material in materials), STORED_PLACES)
    return [
        {
            "name": material.name,
            "kind": material.kind,
            "amount": round(material.amount, 4),
            "unit": material.supply.unit,
            "waste_share": material.supply.waste_share,
            "unit_price": str(material.supply.unit_price),
            "cost": str(cost),
            "cost_exact": f"{material.cost:f}",
        }
        for material, cost in zip(materials, costs, strict=True)
    ]


def inspection(plan: Plan) -> dict[str, Any]:
    """What the artwork is like at its print size."""
    seen = plan.inspection
    return {
        "half_transparent_share": round(seen.half_share, 6),
        "fringe_px": round(seen.fringe_px, 2),
        "fade_area_mm2": round(seen.fade_mm2, 2),
        "colours": seen.colours,
        "finest_line": _fine(seen.line),
        "finest_gap": _fine(seen.gap),
        "background": None if seen.background is None else hex_from_rgb(seen.background),
    }


def _fine(fine: Fine | None) -> dict[str, float] | None:
    if fine is None:
        return None
    return {"width_mm": round(fine.width_mm, 3), "x_mm": round(fine.x_mm, 2), "y_mm": round(fine.y_mm, 2)}


def choke(plan: Plan) -> dict[str, Any]:
    """Both recommended chokes, and the harm of peeking white and bare rims against choke, in ΔE·mm²."""
    curve = plan.choke
    points = [
        {"choke_mm": round(float(c), 2), "peek": round(float(p), 2), "rim": round(float(r), 2)}
        for c, p, r in zip(curve.at_mm[::5], curve.peek[::5], curve.rim[::5], strict=True)
    ]
    registration = plan.request.registration
    no_peek_mm = registration.no_peek_mm
    chokes = {
        "least_harm": curve.recommended_mm, "no_peek": no_peek_mm, "in_force": plan.request.settings.white.choke_mm
    }  # fmt: skip
    both = {}
    for name, choke_mm in chokes.items():
        peek_mm2, rim_mm2 = curve.areas_at(choke_mm)
        both[name] = {"choke_mm": choke_mm, "peek_mm2": round(peek_mm2, 2), "rim_mm2": round(rim_mm2, 2)}
    reached = {
        "no_peek_at": "everywhere" if registration.spread is None else "corners",
        "sigma_mm": registration.sigma_mm,
        "worst_sigma_mm": round(registration.worst_sigma_mm, 4),
    }
    return {"recommended_mm": curve.recommended_mm, "no_peek_mm": no_peek_mm, **reached, **both, "curve": points}


def verdict(plan: Plan) -> dict[str, Any]:
    """Whether the garment needs white for the artwork's main colours, and how each fares (ΔE00)."""
    return {
        "needs_white": plan.advice.needed,
        "enough": plan.advice.enough,
        "reason": plan.advice.reason,
        "colours": [
            {
                "colour": hex_from_rgb(item.colour),
                "share": round(item.share, 4),
                "without_white": round(item.bare, 2),
                "strengthened": round(item.strengthened, 2),
                "with_highlights": round(item.highlights, 2),
                "by_need": round(item.by_need, 2),
                "solid": round(item.solid, 2),
                "white": round(item.amount, 3),
                "recipe": list(item.recipe),
                "strengthened_recipe": list(item.strong_recipe),
            }
            for item in plan.advice.colours
        ],
    }


def knockouts(plan: Plan) -> list[dict[str, Any]]:
    """One entry per knockout, in order: what it took and thinned, and what a shirt takes less than without it."""
    settings, artboard = plan.request.settings, plan.measures.artboard_mm2
    pixel_mm2, saved_each = pixel_area_mm2(plan.ppi), savings(plan.request, Run(Cache()))
    return [
        {
            "colour": hex_from_rgb(item.resolved(settings.garment)),
            "follows_garment": item.colour is None,
            "tolerance": item.tolerance,
            "reach": item.reach,
            "edge": item.edge,
            "area_mm2": round(plan.took[index] * pixel_mm2, 2),
            "share": round(plan.took[index] * pixel_mm2 / artboard, 6),
            "thinned_mm2": round(plan.thinned[index] * pixel_mm2, 2),
            "enclosed": [
                {
                    "x_mm": round(mm_from_px(island.x_px, plan.request.ppi), 2),
                    "y_mm": round(mm_from_px(island.y_px, plan.request.ppi), 2),
                    "area_mm2": round(island.area_px * pixel_area_mm2(plan.request.ppi), 2),
                    "point_px": [round(part, 1) for part in island.point],
                }
                for island in plan.islands
                if island.knockout == index
            ],
            "saved": {
                "white_ml": round(saved.white, 4),
                "colour_ml": round(saved.colour, 4),
                "powder_g": round(saved.powder, 4),
                "cost": str(rounded(saved.cost, STORED_PLACES)),
            },
        }
        for index, (item, saved) in enumerate(zip(settings.knockouts, saved_each, strict=True))
    ]


def outlines(plan: Plan) -> list[dict[str, Any]]:
    """Outlines drawn by hand: which side of each goes or stays, with its corners in artwork pixels."""
    return [
        {"side": item.side, "act": item.act, "corners": len(item.points), "points_px": [list(p) for p in item.points]}
        for item in plan.request.settings.outlines
    ]


def regions(plan: Plan) -> list[dict[str, Any]]:
    """The regions of artwork that print, largest first; empty when nothing asks for regions."""
    found, zones, request = plan.regions, plan.zones, plan.request
    if found is None or zones is None:
        return []
    artwork, settings, found = request.artwork, request.settings, printing(found, plan)
    mm = settings.width_mm / artwork.placed_px(settings.placement)[0]
    entries = []
    for region in sorted(found.printing, key=lambda region: -region.area_px):
        x, y = settings.placement.to_artboard(region.anchor, artwork.width_px, artwork.height_px)
        entries.append(
            {
                "number": region.number,
                "colour": hex_from_rgb(region.colour),
                "area_mm2": round(region.area_px * (found.reduction * mm) ** 2, 3),
                "width_mm": round(region.width_px * mm, 3),
                "x_mm": round(x * settings.width_mm, 2),
                "y_mm": round(y * request.height_mm, 2),
                "at_px": list(region.anchor),
                "treatment": _treatment(screen_for(settings.holes, zones.sources[region.number])),
            }
        )
    return entries


def _printing_of(found: RegionMap | None, zones: Zones, item: HoleClass) -> int:
    """How many regions of a class print."""
    if found is None:
        return item.regions
    alike = (region for region in found.printing if found.palette[region.palette] == item.colour)
    return sum(zones.sources[region.number] == item.source for region in alike)


def screens(plan: Plan) -> list[dict[str, Any]]:
    """Every screen in use, with what it asks of the process and gives back in ink; the fades' screen last."""
    entries = []
    if plan.zones is not None:
        classes = zip(plan.zones.classes, plan.screens.ruled, plan.given, strict=True)
        found = None if plan.regions is None else printing(plan.regions, plan)
        for item, ruled, given in classes:
            back = {
                "boost": round(given.boost, 3),
                "deeper_black": given.deeper,
                "delta_e_before": round(given.delta_e_before, 2),
                "delta_e_after": round(given.delta_e_after, 2),
            }
            what = {
                "colour": hex_from_rgb(item.colour),
                "regions": _printing_of(found, plan.zones, item),
                "give_back": back,
            }
            entries.append(_screen(ruled, plan.ppi) | what)
    if plan.screens.fade is not None and plan.treated.tone is not None:
        entries.append(_screen(plan.screens.fade, plan.ppi) | {"colour": None, "regions": 0, "give_back": None})
    return entries


def _screen(ruled: Ruled, ppi: float) -> dict[str, Any]:
    asked, used = ruled.asked, ruled.screen
    held = features(ruled, ppi)
    return {
        "pattern": used.pattern,
        "lpi": round(used.lpi, 4),
        "lpi_asked": asked.lpi,
        "angle": used.angle,
        "share": round(ruled.share, 4),
        "tile": used.tile,
        "tile_mm": round(used.tile_mm, 4),
        "levels": held.levels,
        "smallest_ink_mm": round(held.ink_mm, 3),
        "smallest_hole_mm": round(held.hole_mm, 3),
    }


def hand_report(hand: Hand) -> dict[str, float]:
    """Hand with its units in the names."""
    return {
        "grams": round(hand.grams, 4),
        "g_per_m2": round(hand.g_per_m2, 2),
        "printed_g_per_m2": round(hand.printed_g_per_m2, 2),
        "largest_patch_cm2": round(hand.largest_patch_cm2, 3),
        "open_share": round(hand.open_share, 5),
    }


def settings_report(settings: PlanSettings, profile: PressProfile) -> dict[str, Any]:
    """Everything that makes the run repeatable."""
    return document(settings) | {
        "process": profile.process,
        "profile": profile.name,
        "plan_ppi": profile.plan_ppi,
        "alpha": document(settings.alpha_treatment(profile)),
        "mirrored": settings.is_mirrored(profile),
    }


def _treatment(screen: Screen | None) -> dict[str, Any] | None:
    """One screen; ``None`` is solid."""
    return None if screen is None else document(screen)
