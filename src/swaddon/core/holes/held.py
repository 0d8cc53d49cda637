"""What a screen asks of the process: its smallest ink and hole, and the screen that a press starts with."""

import math
from dataclasses import dataclass, replace

import cv2
import numpy as np

from swaddon.core.artwork.raster import Plane
from swaddon.core.holes.screen import CELL, Ruled, cell_size_px, left_share, levels, tone16
from swaddon.core.holes.settings import HoleSettings, Pattern, Screen
from swaddon.core.press.profile import Holds, PressProfile
from swaddon.core.schema import allowed
from swaddon.core.units import MM_PER_INCH

_HELD_WITHIN = 0.98
"""Share of what the process holds that still counts: ruled for the pixel grid, a cell may be a hundredth smaller."""

LINE_ANGLE = 72.0
"""Angle of stripes off the weave (common practice, no source)."""

LPI_STEP = 0.5


@dataclass(frozen=True)
class Features:
    """What a screen asks of the process: smallest ink and smallest hole in mm, and how many tones a cell has."""

    ink_mm: float
    hole_mm: float
    levels: int

    def fills(self, holds: Holds) -> bool:
        """Whether its holes are too small to stay open."""
        return 0 < self.hole_mm < holds.hole_mm * _HELD_WITHIN

    def washes(self, holds: Holds) -> bool:
        """Whether its ink is too small to hold or to wash."""
        return 0 < self.ink_mm < holds.dot_mm * _HELD_WITHIN

    def is_held(self, holds: Holds) -> bool:
        """Whether the process holds it."""
        return not self.fills(holds) and not self.washes(holds)


def usual_screen(press: PressProfile, pattern: Pattern = "round") -> Screen:
    """The screen of a pattern that a press starts with: its process's ruling, or the next coarser one that it holds.

    At 85 % left, lines are held at a coarser ruling than dots: their holes are 15 % of a cell wide, those between dots
    36 %. Where no ruling is held, the coarsest stands.
    """
    share, (least, _) = left_share(Screen(pattern), None), allowed(Screen, "lpi")

    def is_held(lpi: float) -> bool:
        ink_mm, hole_mm = _smallest(pattern, share, MM_PER_INCH / lpi)
        return ink_mm >= press.holds.dot_mm and hole_mm >= press.holds.hole_mm

    lpi = press.printing.screen_lpi
    while lpi - LPI_STEP >= least and not is_held(lpi):
        lpi -= LPI_STEP
    return Screen(pattern, lpi, LINE_ANGLE if pattern == "line" else Screen.angle)


def ruled_anew(holes: HoleSettings, former: PressProfile, press: PressProfile) -> HoleSettings:
    """Holes on another press: a ruling that the former one starts with follows, a chosen one stays."""

    def ruled(screen: Screen | None) -> Screen | None:
        if screen is None or screen.pattern == "tile" or screen.lpi != usual_screen(former, screen.pattern).lpi:
            return screen
        return replace(screen, lpi=usual_screen(press, screen.pattern).lpi)

    rules = tuple(replace(item, screen=ruled(item.screen)) for item in holes.rules)
    return replace(holes, default=ruled(holes.default), rules=rules)


def features(ruled: Ruled, ppi: float) -> Features:
    """Smallest ink and hole of a screen: exact for dots and lines, measured on the drawing for tiles."""
    screen, share = ruled.screen, ruled.share
    width, height = (side * MM_PER_INCH / ppi for side in cell_size_px(screen, ruled.tile, ppi))
    count = levels(ppi, MM_PER_INCH / min(width, height))
    if screen.pattern == "tile":
        ink = (ruled.threshold < tone16(share)).astype(np.uint8)
        unit = min(width, height) / CELL
        return Features(_narrowest(ink) * unit, _narrowest(1 - ink) * unit, count)
    return Features(*_smallest(screen.pattern, share, width), count)


def _smallest(pattern: Pattern, share: float, cell_mm: float) -> tuple[float, float]:
    """Smallest ink and smallest hole, in mm, of dots, round holes or lines in square cells."""
    if pattern == "line":
        return cell_mm * share, cell_mm * (1 - share)
    dot = _dot_diameter(share if pattern == "round" else 1 - share, cell_mm)
    between = max(math.sqrt(2) * cell_mm - dot, 0.0)
    if pattern == "round":
        return min(dot, cell_mm), between
    return cell_mm - dot if dot < cell_mm else between, min(dot, cell_mm)


def _dot_diameter(share: float, cell_mm: float) -> float:
    """Diameter of round dots that fill ``share`` of square cells; from π/4 on they overlap their neighbours.

    Between four dots the largest circle without ink is √2 · cell less the diameter wide, whether they touch or not.
    """
    if share <= math.pi / 4:
        return 2 * cell_mm * math.sqrt(max(share, 0.0) / math.pi)
    low, high = 0.5, math.sqrt(0.5)
    for _ in range(40):
        radius = (low + high) / 2
        beyond = radius**2 * math.acos(0.5 / radius) - 0.5 * math.sqrt(radius**2 - 0.25)
        low, high = (radius, high) if math.pi * radius**2 - 4 * beyond < share else (low, radius)
    return 2 * cell_mm * low


def _narrowest(mask: Plane) -> float:
    """Twice the inscribed radius of the slimmest part of a wrapped mask, in its pixels."""
    if not mask.any():
        return 0.0
    wide = np.tile(mask, (3, 3))
    depth = cv2.distanceTransform(wide, cv2.DIST_L2, cv2.DIST_MASK_PRECISE)
    _, parts = cv2.connectedComponents(wide)
    inner = np.unique(parts[CELL : 2 * CELL, CELL : 2 * CELL])
    peaks = np.zeros(int(parts.max()) + 1, np.float32)
    np.maximum.at(peaks, parts.ravel(), depth.ravel())
    return 2 * float(peaks[inner[inner > 0]].min())


def weave_offset(screen: Screen) -> float:
    """Degrees between a screen's rows and the nearer of the weave's two axes, 0..45.

    >>> weave_offset(Screen(angle=67.5))
    22.5
    """
    off = screen.angle % 90
    return min(off, 90 - off)
