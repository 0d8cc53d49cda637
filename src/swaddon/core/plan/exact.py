"""Exact colours of a plan: how each recipe comes out on this garment."""

from dataclasses import dataclass

import cv2
import numpy as np

from swaddon.core.artwork.raster import Plane
from swaddon.core.colour.spaces import (
    Rgb,
    bands_from_srgb8,
    delta_e_2000,
    lab_from_bands,
    lab_from_srgb8,
    srgb8_from_bands,
)
from swaddon.core.inks.settings import Recipe
from swaddon.core.order.request import PlanRequest
from swaddon.core.plan.stages import Plan
from swaddon.core.press.profile import INKS
from swaddon.core.proof.optics import FULL_WHITE, both_whites, seen_bands
from swaddon.core.units import pixel_area_mm2

_ASKED_PX = 400_000


@dataclass(frozen=True)
class HeldColour:
    """A recipe as it comes out.

    Attributes
    ----------
    area_mm2
        Where it holds.
    shown, delta_e
        The colour seen on the garment, with the white that lies there, and its ΔE00 to the colour drawn.
    """

    recipe: Recipe
    area_mm2: float
    shown: Rgb
    delta_e: float


def held_colours(plan: Plan) -> list[HeldColour]:
    """Every recipe of a plan as it comes out, in order."""
    recipes = plan.request.settings.recipes
    plane: Plane | None = plan.results.values["recipe_areas"]
    counts = np.zeros(256) if plane is None else cv2.calcHist([plane], [0], None, [256], [0, 256]).ravel()
    out = []
    for index, recipe in enumerate(recipes, start=1):
        white = 1.0 if plane is None or not counts[index] else _white_under(plan, plane, index)
        shown, delta_e = coming_out(recipe, white, plan.request)
        out.append(HeldColour(recipe, float(counts[index]) * pixel_area_mm2(plan.ppi), shown, delta_e))
    return out


def _white_under(plan: Plan, plane: Plane, index: int) -> float:
    """The usual white where a recipe holds, in units of full underbase; of a large plane every few pixels are asked."""
    for step in (max(1, round((plane.size / _ASKED_PX) ** 0.5)), 1):
        part = (slice(None, None, step),) * 2
        mask = plane[part] == index
        if mask.any():
            light = None if plan.highlight is None else np.ascontiguousarray(plan.highlight[part])
            both = both_whites(np.ascontiguousarray(plan.white_plane[part]), light, plan.request.profile)
            return float(np.median(both[mask])) / FULL_WHITE
    return 1.0


def coming_out(recipe: Recipe, white: float, request: PlanRequest) -> tuple[Rgb, float]:
    """The colour that a recipe shows over so much white (1: full underbase), and its ΔE00 to the colour drawn."""
    has = [ink in request.profile.inks for ink in INKS]
    inks = np.asarray(np.where(has, recipe.inks, 0.0), np.float64)
    ground = bands_from_srgb8(request.settings.garment)
    seen = seen_bands(inks, np.asarray(white), np.asarray(ground, np.float64), request.look)
    r, g, b = (int(value) for value in srgb8_from_bands(seen))
    return (r, g, b), float(delta_e_2000(lab_from_bands(seen), lab_from_srgb8(recipe.colour)))
