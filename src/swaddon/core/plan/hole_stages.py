"""Stages of the holes: regions, their classes, zones, the mask, and the ink given back."""

from collections.abc import Mapping
from dataclasses import replace
from typing import Any

import cv2
import numpy as np

from swaddon.core.artwork import regions
from swaddon.core.artwork.artwork import Artwork
from swaddon.core.artwork.raster import Mask, Plane
from swaddon.core.artwork.regions import RegionMap
from swaddon.core.engine import Run, Stage
from swaddon.core.holes import holes, screen
from swaddon.core.holes.holes import GiveBack, Zones
from swaddon.core.holes.screen import Cut
from swaddon.core.holes.settings import Screen
from swaddon.core.inks.separation import interpolate
from swaddon.core.order.request import LOOK, PlanRequest
from swaddon.core.order.settings import PlanSettings
from swaddon.core.plan.art_stages import PLACED, TREATMENT
from swaddon.core.plan.white_stages import amount_reads, white_under
from swaddon.core.proof.optics import Appearance
from swaddon.core.units import MM_PER_INCH


def needs_regions(settings: PlanSettings) -> bool:
    """Whether the plan depends on the artwork's regions."""
    return settings.holes.cuts


def artwork_regions(artwork: Artwork, run: Run) -> RegionMap:
    """The regions of an artwork, found once and kept."""
    found: RegionMap = run.memo(("regions", artwork.content_id), lambda: regions.find_regions(artwork.rgba, run.check))
    return found


def _regions(request: PlanRequest, _done: Mapping[str, Any], run: Run) -> RegionMap | None:
    return artwork_regions(request.artwork, run) if request.hole_structure.cuts else None


def _classes(request: PlanRequest, done: Mapping[str, Any], _run: Run) -> Zones | None:
    """Classes of the regions."""
    found: RegionMap | None = done["regions"]
    if found is None:
        return None
    settings = request.settings
    px_per_mm = request.artwork.ppi_at(settings.width_mm, settings.placement) / MM_PER_INCH
    return holes.zones(found, request.hole_structure, settings.placement, request.grid_size, px_per_mm)


def _zones(_request: PlanRequest, done: Mapping[str, Any], _run: Run) -> Zones | None:
    """Classes of the regions, with screened fades as a class of their own."""
    laid: Zones | None = done["classes"]
    tone: Plane | None = done["fades"].tone
    if tone is None:
        return laid
    plane = np.zeros_like(tone) if laid is None else laid.plane.copy()
    plane[tone > 0] = screen.FADE
    return Zones(plane, (), ()) if laid is None else replace(laid, plane=plane)


def screens_of(request: PlanRequest, laid: Zones | None) -> Cut:
    """The screens of a plan at its resolution.

    A proxy rules them at its own resolution, so that its cells lie where the plan's do.
    """
    if laid is None:
        return Cut((), None)
    settings = request.settings.holes
    wanted = [holes.screen_for(settings, item.source) or Screen() for item in laid.classes]
    ruled = tuple(screen.rule(item, request.tiles, request.ppi) for item in wanted)
    fade = request.settings.alpha_treatment(request.profile)
    full = Screen("round", fade.screen.lpi, fade.screen.angle, 1.0)
    return Cut(ruled, screen.rule(full, request.tiles, request.ppi) if fade.kind == "screen" else None)


def _cut(request: PlanRequest, done: Mapping[str, Any], _run: Run) -> Mask | None:
    laid: Zones | None = done["zones"]
    if laid is None or not cv2.countNonZero(laid.plane):
        return None
    tone = done["fades"].tone
    return screen.cut(laid.plane, laid.plane if tone is None else tone, screens_of(request, laid))


def _give_back(request: PlanRequest, done: Mapping[str, Any], run: Run) -> tuple[GiveBack, ...]:
    return given_back(request, done["zones"], run)


def given_back(request: PlanRequest, laid: Zones | None, run: Run) -> tuple[GiveBack, ...]:
    """What holes do to the colour of each class, and the ink that is given back."""
    if laid is None or not laid.classes:
        return ()
    look = Appearance.of(request.settings.garment, request.profile)
    rgb = np.array([item.colour for item in laid.classes], np.uint8)
    inks = interpolate(request.table(), rgb).astype(np.float64) / 255
    white = white_under(request, run, rgb, inks)
    share = np.array([ruled.share for ruled in screens_of(request, laid).ruled])
    return holes.give_back(inks, white, share, look, request.settings.holes)


def _screens_read(_request: PlanRequest) -> tuple[str, ...]:
    """What decides the screens of a plan."""
    return ("settings.holes", "tiles", "ppi", *TREATMENT)


def _give_back_reads(request: PlanRequest) -> tuple[str, ...]:
    if not request.settings.holes.cuts:
        return ("settings.holes",)
    return tuple(dict.fromkeys((*_screens_read(request), *LOOK, *amount_reads(request), "solve_table")))


def _region_reads(request: PlanRequest) -> tuple[str, ...]:
    return ("hole_structure", "artwork") if needs_regions(request.settings) else ("hole_structure",)


HOLE_STAGES = (
    Stage("regions", 1, (), _region_reads, _regions, "Finding regions"),
    Stage("classes", 1, ("regions",), ("hole_structure", *PLACED), _classes, "Laying out holes"),
    Stage("zones", 1, ("classes", "fades"), (), _zones),
    Stage("cut", 1, ("fades", "zones"), _screens_read, _cut, "Cutting holes"),
    Stage("give back", 1, ("zones",), _give_back_reads, _give_back),
)
