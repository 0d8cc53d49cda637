"""Stages of the artwork: placed on the grid, knocked out, its fades treated."""

import math
from collections.abc import Mapping
from dataclasses import dataclass
from functools import partial
from typing import Any

import cv2
import numpy as np

from swaddon.core.artwork.raster import Mask, Plane, Rgba, alpha_of, resample
from swaddon.core.colour.spaces import Rgb, delta_e_2000, lab_from_srgb8
from swaddon.core.engine import Run, Stage
from swaddon.core.errors import PlanError
from swaddon.core.knockout import knockout
from swaddon.core.knockout.fades import Treated, treat
from swaddon.core.knockout.settings import Keep, Knockout
from swaddon.core.order.request import LARGEST_GRID_PX, PlanRequest
from swaddon.core.order.settings import PlanSettings


@dataclass(frozen=True, eq=False)
class Knocked:
    """Artwork after the knockouts.

    Attributes
    ----------
    art
        ``uint8 (H, W, 4)``.
    taken
        ``uint8 (H, W)``: ``i + 1`` where knockout ``i`` took the pixel.
    removed_px
        Pixels with ink that the knockouts took.
    """

    art: Rgba
    taken: Plane
    removed_px: int


def _grid(request: PlanRequest, _done: Mapping[str, Any], _run: Run) -> Rgba:
    artwork, placement = request.artwork, request.settings.placement
    if placement.misses(artwork.width_px, artwork.height_px):
        raise PlanError(
            f"The crop {placement.crop} lies beside the artwork of {artwork.width_px} × {artwork.height_px} px: "
            "crop a part of it, or print all of it."
        )
    width, height = request.grid_size
    if width * height > LARGEST_GRID_PX:
        raise PlanError(
            f"This print would need {width} × {height} px at {request.ppi:g} ppi, more than Swaddon plans "
            f"({LARGEST_GRID_PX // 1_000_000} megapixels); choose a smaller print width."
        )
    if artwork.render is None:
        return resample(placement.place(artwork.rgba), width, height)
    return resample(_drawn(request, width), width, height)


def _drawn(request: PlanRequest, width: int) -> Rgba:
    """A drawing rendered so that its printed part is as wide as the grid."""
    artwork, placement = request.artwork, request.settings.placement
    assert artwork.render is not None
    scale = width / artwork.placed_px(placement)[0]
    whole = round(artwork.width_px * scale), round(artwork.height_px * scale)
    if whole[0] * whole[1] > LARGEST_GRID_PX:
        raise PlanError("The cropped drawing would be too large to render at this width; choose a smaller print width.")
    picture = artwork.render(max(1, whole[0]), max(1, whole[1]))
    return placement.scaled(picture.shape[1] / artwork.width_px, picture.shape[0] / artwork.height_px).place(picture)


def _knockout(request: PlanRequest, done: Mapping[str, Any], run: Run) -> Knocked:
    settings = request.settings
    art: Rgba = done["grid"]
    grid, taken = art, np.zeros(art.shape[:2], np.uint8)
    kept = kept_mask(request, art)
    before: tuple[Knockout, ...] = ()
    for index, wanted in enumerate(settings.knockouts):
        run.check()
        colour = wanted.resolved(settings.garment)
        reach = _decade(wanted.tolerance * (knockout.HALO_TOLERANCE if wanted.clean else 1))
        found = run.memo(
            ("distances", done["keys"]["grid"], before, settings.keeps, settings.garment, colour, reach),
            partial(knockout.distances, art, colour, reach),
        )
        points = [request.on_grid(point) for point in wanted.points]
        removed = knockout.removed_area(art, found, wanted.tolerance, wanted.reach, points, kept)
        if wanted.clean:
            removed = knockout.with_halo(art, found, wanted.tolerance, removed, kept)
        zone = None
        if wanted.edge == "soft":
            zone = knockout.soft_zone(art, colour, removed, wanted.reach, same_cloth(colour, settings))
            if kept is not None:
                zone[kept > 0] = 0
        own = np.asarray(cv2.bitwise_and(removed, cv2.inRange(alpha_of(art), 1, 255)), np.uint8)
        taken |= own & np.uint8(min(index + 1, 255))
        art = knockout.knock_out(art, colour, removed, zone)
        before = (*before, wanted)
    return Knocked(art, taken, cv2.countNonZero(alpha_of(grid)) - cv2.countNonZero(alpha_of(art)))


def kept_mask(request: PlanRequest, art: Rgba) -> Mask | None:
    """Mask (255) of all that must stay; ``None`` without a keep list."""
    if not request.settings.knockouts or not request.settings.keeps:
        return None
    masks = [_kept(request, art, keep) for keep in request.settings.keeps]
    out = masks[0]
    for mask in masks[1:]:
        out = np.asarray(cv2.bitwise_or(out, mask), np.uint8)
    return out


def _kept(request: PlanRequest, art: Rgba, keep: Keep) -> Mask:
    point = None if keep.point is None else request.on_grid(keep.point)
    return knockout.kept_area(art, keep.colour, keep.tolerance, point)


def _decade(tolerance: float) -> float:
    """Distances are kept up to the next ten, so that small moves of the tolerance only look them up."""
    return max(10.0, math.ceil(tolerance / 10) * 10.0)


def same_cloth(colour: Rgb, settings: PlanSettings) -> bool:
    """Whether a removed colour counts as the garment's own, so that fades into it become fades of ink."""
    difference = delta_e_2000(lab_from_srgb8(colour), lab_from_srgb8(settings.garment))
    return float(difference) <= knockout.SAME_CLOTH_DELTA_E


_ANY_GARMENT = (0, 0, 0)


def _fades(request: PlanRequest, done: Mapping[str, Any], _run: Run) -> Treated:
    treatment = request.settings.alpha_treatment(request.profile)
    art = done["knockout"].art
    if treatment.kind == "screen":
        return treat(art, treatment, request.settings.garment, request.enlargement)
    return treat(art, treatment, _ANY_GARMENT)


PLACED = ("artwork", "settings.placement", "settings.width_mm", "ppi")
"""What decides where an artwork point lies on the grid."""


def _knockout_reads(request: PlanRequest) -> tuple[str, ...]:
    if not request.settings.knockouts:
        return ("settings.knockouts",)
    return ("settings.knockouts", "settings.keeps", "settings.garment", *PLACED)


TREATMENT = ("settings.alpha", "profile.process")
"""What decides what becomes of half-transparent pixels: chosen, or by process."""


def _fades_reads(request: PlanRequest) -> tuple[str, ...]:
    screened = request.settings.alpha_treatment(request.profile).kind == "screen"
    return (*TREATMENT, *PLACED, "settings.garment") if screened else TREATMENT


ART_STAGES = (
    Stage("grid", 2, (), PLACED, _grid, "Placing the artwork"),
    Stage("knockout", 2, ("grid",), _knockout_reads, _knockout, "Knocking out"),
    Stage("fades", 3, ("knockout",), _fades_reads, _fades, "Treating fades"),
)
