"""Selected regions: which ones, how a click changes them, and their outlines on the artboard."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

import cv2
import numpy as np
from numpy.typing import NDArray

from swaddon.core.artwork.placement import Point
from swaddon.core.artwork.regions import Region, RegionMap
from swaddon.core.findings.inspection import finest
from swaddon.core.holes.holes import DEFAULT, of_colour, screen_for, sources_of
from swaddon.core.holes.settings import HoleSettings, RegionRule, Screen
from swaddon.core.knockout.outlines import inside
from swaddon.core.order.settings import PlanSettings

Outline = NDArray[np.float32]
"""Corners ``(n, 2)`` of a closed line, x and y in mm on the artboard."""


@dataclass(frozen=True)
class Selection:
    """Region numbers; ``whole_colour`` when they are all regions of one colour and stay so by rule."""

    numbers: tuple[int, ...] = ()
    whole_colour: bool = False

    def clicked(self, region: Region | None, add: bool) -> "Selection":
        """A click takes one region; with ``add`` it joins or leaves the others; beside all it clears."""
        if region is None:
            return self if add else Selection()
        if not add:
            return Selection((region.number,))
        if region.number in self.numbers:
            return Selection(tuple(number for number in self.numbers if number != region.number))
        return Selection((*self.numbers, region.number))

    def of_this_colour(self, found: RegionMap) -> "Selection":
        """All regions of the last selected region's colour."""
        last = self.last(found)
        if last is None:
            return self
        alike = (region.number for region in of_colour(found, last.colour))
        return Selection(tuple(number for number in alike if number not in found.hidden), whole_colour=True)

    def stepped(self, found: RegionMap, by: int) -> "Selection":
        """The next region in order of size, round and round; starts at the largest."""
        order = [region.number for region in sorted(found.printing, key=lambda region: -region.area_px)]
        if not order:
            return Selection()
        if not self.numbers or self.numbers[-1] not in order:
            return Selection((order[0 if by > 0 else -1],))
        return Selection((order[(order.index(self.numbers[-1]) + by) % len(order)],))

    def last(self, found: RegionMap) -> Region | None:
        """The region selected last."""
        return found.regions[self.numbers[-1] - 1] if self.numbers else None

    def regions(self, found: RegionMap) -> tuple[Region, ...]:
        return tuple(found.regions[number - 1] for number in self.numbers)

    def rule(self, found: RegionMap, screen: Screen | None) -> RegionRule:
        """The rule that treats the selected regions so."""
        last = self.last(found)
        if self.whole_colour and last is not None:
            return RegionRule(screen, colour=last.colour)
        return RegionRule(screen, points=tuple(region.anchor for region in self.regions(found)))

    def screen(self, found: RegionMap, settings: HoleSettings) -> Screen | None:
        """The screen that the last selected region has now."""
        last = self.last(found)
        source = DEFAULT if last is None else sources_of(found, settings)[last.number][0]
        return screen_for(settings, source)


def larger_than(found: RegionMap, area_mm2: float, mm_per_px: float) -> Selection:
    """All regions of more than this area."""
    least = area_mm2 / (mm_per_px * found.reduction) ** 2
    return Selection(tuple(region.number for region in found.printing if region.area_px > least))


def within(found: RegionMap, line: Sequence[Point]) -> Selection:
    """All regions that lie inside a closed line, by a point well inside each; corners in artwork pixels."""
    return Selection(tuple(region.number for region in found.printing if inside(line, region.anchor)))


FINEST_UP_TO_MM = 4.0
"""Widths beyond this are told as the widest disc that fits the region."""


def finest_mm(found: RegionMap, region: Region, mm_per_px: float) -> float:
    """Finest width of a region on its ridge, in mm; of wide regions, the width of the largest disc in it."""
    left, top, right, bottom = region.box
    mask = (found.labels[top:bottom, left:right] == region.number).astype(np.uint8) * np.uint8(255)
    ppi = 25.4 / (mm_per_px * found.reduction)
    fine = finest(mask, ppi, up_to_mm=min(FINEST_UP_TO_MM, region.width_px * mm_per_px))
    return region.width_px * mm_per_px if fine is None else fine.width_mm


def mm_per_px(settings: PlanSettings, placed_width_px: int) -> float:
    """Millimetres of print per artwork pixel."""
    return settings.width_mm / placed_width_px


def outlines(
    found: RegionMap, selection: Selection, settings: PlanSettings, size_px: tuple[int, int], height_mm: float
) -> tuple[Outline, ...]:
    """Outlines of the selected regions in mm on the artboard; ``size_px`` is the artwork's width and height."""
    lines = []
    for region in selection.regions(found):
        left, top, right, bottom = region.box
        mask = (found.labels[top:bottom, left:right] == region.number).astype(np.uint8)
        contours, _ = cv2.findContours(np.pad(mask, 1), cv2.RETR_CCOMP, cv2.CHAIN_APPROX_SIMPLE)
        for contour in contours:
            corners = (contour[:, 0, :].astype(np.float32) + np.array([left - 0.5, top - 0.5])) * found.reduction
            lines.append(_on_artboard(corners, settings, size_px, height_mm))
    return tuple(lines)


def _on_artboard(
    corners: NDArray[np.floating], settings: PlanSettings, size_px: tuple[int, int], height_mm: float
) -> Outline:
    box = settings.placement.box(*size_px)
    x, y = (corners[:, 0] - box.left) / box.width, (corners[:, 1] - box.top) / box.height
    for _ in range(settings.placement.quarter_turns % 4):
        x, y = 1 - y, x
    return np.stack([x * settings.width_mm, y * height_mm], axis=1).astype(np.float32)


def artboard_point(point: Point, settings: PlanSettings, size_px: tuple[int, int], height_mm: float) -> Point:
    """An artwork point in mm on the artboard."""
    x, y = settings.placement.to_artboard(point, *size_px)
    return x * settings.width_mm, y * height_mm


def artwork_point(
    x_mm: float, y_mm: float, settings: PlanSettings, size_px: tuple[int, int], height_mm: float
) -> Point | None:
    """The artwork point under a place on the artboard; ``None`` beside the artwork."""
    x, y = x_mm / settings.width_mm, y_mm / height_mm
    if not (0 <= x < 1 and 0 <= y < 1):
        return None
    return settings.placement.to_artwork(x, y, *size_px)


def changed(screen: Screen | None, **changes: object) -> Screen:
    """A screen with some of its values changed; solid starts from the usual screen."""
    return replace(screen or Screen(), **changes)  # type: ignore[arg-type]
