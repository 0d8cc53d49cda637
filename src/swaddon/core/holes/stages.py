"""Stages of the holes: classes of regions, zones, screens, the mask, and inks with holes in them."""

from collections.abc import Mapping
from dataclasses import dataclass, replace

import cv2
import numpy as np

from swaddon.core.artwork.placement import Placement
from swaddon.core.artwork.raster import Mask, Plane
from swaddon.core.artwork.regions import RegionMap
from swaddon.core.engine import of, stage
from swaddon.core.holes import holes, screen
from swaddon.core.holes.holes import GiveBack, Zones
from swaddon.core.holes.screen import Cut, TileArt
from swaddon.core.holes.settings import HoleSettings, Screen
from swaddon.core.inks.stages import Inks


@dataclass(frozen=True)
class ClassSettings:
    """``hole_structure`` tells where holes are to be, whatever they look like."""

    hole_structure: HoleSettings
    grid_size: tuple[int, int]
    artwork_px_per_mm: float
    placement: Placement = of("settings.placement")


def classes(region_map: RegionMap | None, settings: ClassSettings) -> Zones | None:
    """Classes of the regions on the grid; ``None`` where no holes are cut."""
    if region_map is None:
        return None
    structure, placement = settings.hole_structure, settings.placement
    return holes.zones(region_map, structure, placement, settings.grid_size, settings.artwork_px_per_mm)


def zones(classes: Zones | None, tone: Plane | None) -> Zones | None:
    """Classes of the regions, with screened fades as a class of their own."""
    if tone is None:
        return classes
    plane = np.zeros_like(tone) if classes is None else classes.plane.copy()
    plane[tone > 0] = screen.FADE
    return Zones(plane, (), ()) if classes is None else replace(classes, plane=plane)


@dataclass(frozen=True)
class ScreenSettings:
    """``fade_screen`` is the screen of fades; ``None``: they are not screened."""

    tiles: Mapping[str, TileArt]
    ppi: float
    fade_screen: Screen | None
    holes: HoleSettings = of("settings.holes")


def screens(zones: Zones | None, settings: ScreenSettings) -> Cut:
    """The screens of a plan at its resolution.

    A proxy rules them at its own resolution, so that its cells lie where the plan's do.
    """
    if zones is None:
        return Cut((), None)
    wanted = [holes.screen_for(settings.holes, item.source) or Screen() for item in zones.classes]
    ruled = tuple(screen.rule(item, settings.tiles, settings.ppi) for item in wanted)
    fade = settings.fade_screen
    return Cut(ruled, None if fade is None else screen.rule(fade, settings.tiles, settings.ppi))


@dataclass(frozen=True)
class CutSettings:
    """``origin_px`` is the place on the whole grid of what is cut: left and top."""

    origin_px: tuple[int, int]


def cut(zones: Zones | None, tone: Plane | None, screens: Cut, settings: CutSettings) -> Mask | None:
    """Mask (255 = ink) of all holes; ``None`` without any."""
    if zones is None or not cv2.countNonZero(zones.plane):
        return None
    left, top = settings.origin_px
    return screen.cut(zones.plane, zones.plane if tone is None else tone, screens, left, top)


def inks(separated: Inks, cut: Mask | None, zones: Zones | None, given_back: tuple[GiveBack, ...]) -> Inks:
    """Inks as they are printed: with holes, and with the ink that these give back."""
    if cut is None or zones is None:
        return separated
    return holes.punch(separated, cut, zones.plane, given_back)


STAGES = (
    stage(classes, 1, "Laying out holes"),
    stage(zones, 1),
    stage(screens, 1),
    stage(cut, 1, "Cutting holes"),
    stage(inks, 1, "Cutting inks"),
)
