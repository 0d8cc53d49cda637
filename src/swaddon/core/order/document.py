"""Settings as plain values, for job files and plan.json alike. Colours are ``#rrggbb``, lengths mm, angles degrees."""

from typing import Any

from swaddon.core.colour.spaces import Rgb, hex_from_rgb
from swaddon.core.holes.settings import HoleSettings, Screen
from swaddon.core.knockout.settings import AlphaTreatment
from swaddon.core.order.settings import PlanSettings


def settings_document(settings: PlanSettings) -> dict[str, Any]:
    """Everything that the operator chose, JSON-ready."""
    crop = settings.placement.crop
    return {
        "width_mm": settings.width_mm,
        "garment": hex_from_rgb(settings.garment),
        "crop_px": None if crop is None else list(crop),
        "quarter_turns": settings.placement.quarter_turns,
        "drop_mm": settings.drop_mm,
        "knockouts": [
            {
                "colour": _hex(item.colour),
                "tolerance": item.tolerance,
                "reach": item.reach,
                "edge": item.edge,
                "points": [list(point) for point in item.points],
                "clean": item.clean,
            }
            for item in settings.knockouts
        ],
        "keeps": [
            {
                "colour": hex_from_rgb(item.colour),
                "tolerance": item.tolerance,
                "point": None if item.point is None else list(item.point),
            }
            for item in settings.keeps
        ],
        "alpha": None if settings.alpha is None else alpha_document(settings.alpha),
        "holes": holes_document(settings.holes),
        "white": {
            "mode": settings.white.mode,
            "limit": settings.white.limit,
            "design": settings.white.design,
            "choke_mm": settings.white.choke_mm,
            "allowed_shift": settings.white.allowed_shift,
            "least": settings.white.least,
            "most": settings.white.most,
            "guard": settings.white.guard,
            "registration_mm": settings.white.registration_mm,
            "worst_case": settings.white.worst_case,
            "squeeze_mm": settings.white.squeeze_mm,
            "screen_choke_mm": settings.white.screen_choke_mm,
            "fixed": [
                {"colour": hex_from_rgb(item.colour), "amount": item.amount, "tolerance": item.tolerance}
                for item in settings.white.fixed
            ],
            "design_rules": [{"point": list(rule.point), "ink": rule.ink} for rule in settings.white.design_rules],
            "hits": list(settings.white.hits),
            "strengthen": settings.white.strengthen,
            "whole_sheet": settings.white.whole_sheet,
        },
        "mirrored": settings.mirrored,
        "quantity": settings.quantity,
        "gamut": settings.gamut,
    }


def alpha_document(alpha: AlphaTreatment) -> dict[str, Any]:
    return {
        "kind": alpha.kind,
        "level": alpha.level,
        "lpi": alpha.screen.lpi,
        "angle": alpha.screen.angle,
        "haze_below": alpha.haze_below,
    }


def holes_document(holes: HoleSettings) -> dict[str, Any]:
    return {
        "default": screen_document(holes.default),
        "rules": [
            {
                "screen": screen_document(rule.screen),
                "points": [list(point) for point in rule.points],
                "colour": _hex(rule.colour),
            }
            for rule in holes.rules
        ],
        "fine_mm": holes.fine_mm,
        "give_back": holes.give_back,
        "give_back_limit": holes.give_back_limit,
        "deeper_black": holes.deeper_black,
    }


def screen_document(screen: Screen | None) -> dict[str, Any] | None:
    """One screen; ``None`` is solid."""
    if screen is None:
        return None
    return {
        "pattern": screen.pattern,
        "lpi": screen.lpi,
        "angle": screen.angle,
        "share": screen.share,
        "tone": screen.tone,
        "tile": screen.tile,
        "tile_mm": screen.tile_mm,
    }


def _hex(colour: Rgb | None) -> str | None:
    return None if colour is None else hex_from_rgb(colour)
