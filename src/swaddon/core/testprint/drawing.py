"""The channels of a test page as planes, drawn with exact coverage of each pixel's area."""

import math
from collections.abc import Iterable
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from swaddon.core.testprint.code import Label, cells
from swaddon.core.testprint.layout import (
    CHOKES_MM,
    CODE_CELL_MM,
    COVERAGES,
    NOZZLE_RIM_MM,
    NOZZLES,
    PERIOD_MM,
    RULINGS_LPI,
    SHARES,
    TINT_MM,
    TONES,
    VERNIER_MM,
    VERNIER_STEPS,
    WIDTH_MM,
    WIDTHS_MM,
    Box,
    Page,
    Target,
)
from swaddon.core.units import MM_PER_INCH

Plane = NDArray[np.uint8]

CHART_PPI = 600.0
HOLE_ANGLE_DEG = 52.5
"""Angle of the ladder of holes: one that avoids most weaves (common practice, no source)."""

_CAP = 0.75
"""Height of a capital letter to the size that is asked for, about."""


@dataclass(frozen=True, eq=False)
class Sheet:
    """Planes being drawn on: ``uint8 (channels, H, W)``, 255 = full."""

    planes: NDArray[np.uint8]
    px: float

    def fill(self, channels: Iterable[int], box: Box, tone: float = 1.0) -> None:
        """Lay a tone, 0..1, over a box, to what is there: boxes that touch leave no seam."""
        part, cover = self._part(box)
        value = np.rint(cover * (255 * tone)).astype(np.uint8)
        for channel in channels:
            plane = self.planes[channel][part]
            cv2.add(plane, value, dst=plane)

    def clear(self, channels: Iterable[int], box: Box) -> None:
        """Take away what lies in a box."""
        part, cover = self._part(box)
        value = np.rint(cover * 255).astype(np.uint8)
        for channel in channels:
            plane = self.planes[channel][part]
            cv2.subtract(plane, value, dst=plane)

    def _part(self, box: Box) -> tuple[tuple[slice, slice], NDArray[np.float64]]:
        rows, down = _edge(box.y * self.px, (box.y + box.height) * self.px, self.planes.shape[1])
        columns, across = _edge(box.x * self.px, (box.x + box.width) * self.px, self.planes.shape[2])
        return (rows, columns), np.outer(down, across)

    def disc(self, channels: Iterable[int], x: float, y: float, diameter: float, *, clears: bool = False) -> None:
        """A round dot, or a round hole."""
        radius = diameter / 2 * self.px
        left, top = (max(0, math.floor(at * self.px - radius - 1)) for at in (x, y))
        size = math.ceil(2 * radius + 3)
        part = slice(top, top + size), slice(left, left + size)
        grid = 4
        at = (np.arange(size * grid) + 0.5) / grid
        inside = np.hypot(*np.meshgrid(at + left - x * self.px, at + top - y * self.px)) <= radius
        cover = inside.reshape(size, grid, size, grid).mean(axis=(1, 3))
        for channel in channels:
            plane = self.planes[channel][part]
            shown = cover[: plane.shape[0], : plane.shape[1]]
            value = np.rint((1 - shown if clears else shown) * 255).astype(np.uint8)
            (np.minimum if clears else np.maximum)(plane, value, out=plane)

    def write(
        self, channels: Iterable[int], x: float, y: float, size: float, text: str, *, clears: bool = False
    ) -> None:
        """Words in a plain line face; ``y`` is their base line, ``size`` the height of a line in mm."""
        scale = size * _CAP * self.px / 21
        thick = max(1, round(size * self.px / 11))
        (width, height), below = cv2.getTextSize(text, cv2.FONT_HERSHEY_SIMPLEX, scale, thick)
        mask = np.zeros((height + below + 2 * thick, width + 2 * thick), np.uint8)
        cv2.putText(mask, text, (thick, height + thick), cv2.FONT_HERSHEY_SIMPLEX, scale, 255, thick, cv2.LINE_AA)
        left, top = round(x * self.px) - thick, round(y * self.px) - height - thick
        part = slice(max(top, 0), top + mask.shape[0]), slice(max(left, 0), left + mask.shape[1])
        for channel in channels:
            plane = self.planes[channel][part]
            shown = mask[: plane.shape[0], : plane.shape[1]]
            if clears:
                np.minimum(plane, 255 - shown, out=plane)
            else:
                np.maximum(plane, shown, out=plane)


def _edge(low: float, high: float, size: int) -> tuple[slice, NDArray[np.float64]]:
    """The pixels that a stretch touches, and how much of each it covers."""
    first, last = max(0, math.floor(low)), min(size, math.ceil(high))
    at = np.arange(first, max(first, last))
    return slice(first, max(first, last)), np.clip(np.minimum(at + 1, high) - np.maximum(at, low), 0, 1)


def draw_page(page: Page, ppi: float = CHART_PPI) -> NDArray[np.uint8]:
    """The planes of a page by channel, ``uint8 (channels, H, W)``, 255 = full."""
    px = ppi / MM_PER_INCH
    size = math.ceil(page.height_mm * px), math.ceil(WIDTH_MM * px)
    sheet = Sheet(np.zeros((len(page.slots), *size), np.uint8), px)
    _frame(sheet, page)
    for i, line in enumerate(page.matrix):
        for j, cell in enumerate(line):
            sheet.fill({i, j}, cell.inset(0.15))
    _tints(sheet, page)
    for channels, boxes in page.hits.items():
        for box in boxes:
            sheet.fill(channels, box)
    for box in page.flats:
        sheet.fill(page.whites, box)
    for target in page.targets:
        _draw_target(sheet, page, target)
    for channel in page.nozzles:
        _draw_nozzles(sheet, page, channel)
    _ladders(sheet, page)
    _screens(sheet, page)
    _fine(sheet, page)
    if page.verniers:
        _verniers(sheet, page)
    _letters(sheet, page)
    _captions(sheet, page)
    return sheet.planes


def _frame(sheet: Sheet, page: Page) -> None:
    """Fiducials, codes and the words at the head."""
    for marker in page.markers:
        box = marker.box
        rim = Box(box.x - 1, box.y - 1, box.width + 2, box.height + 2)
        light = _marker_cells(marker.number)
        step = box.width / len(light)
        channels = (marker.slot,) if page.whites else page.colours
        if page.whites:
            sheet.fill(channels, rim)
        for (y, x), is_light in np.ndenumerate(light):
            cell = Box(box.x + x * step, box.y + y * step, step, step)
            if page.whites and not is_light:
                sheet.clear(channels, cell)
            elif not page.whites and not is_light:
                sheet.fill(channels, cell)
    code = cells(Label.of(page))
    for at, box in enumerate(page.codes):
        channels = (at,) if page.whites else page.colours
        for (y, x), is_light in np.ndenumerate(code):
            if is_light:
                cell = Box(box.x + x * CODE_CELL_MM, box.y + y * CODE_CELL_MM, CODE_CELL_MM, CODE_CELL_MM)
                sheet.fill(channels, cell)
    x, y = page.title_mm
    words = "Test print, revision 1: " + " ".join(page.inks) + f" from the left, {page.day.isoformat()}"
    for line, text in enumerate((f"{page.press}"[:60], words)):
        sheet.write(page.figure, x, y + 2.6 + 3.2 * line, 2.4, text.encode("ascii", "replace").decode())


def _marker_cells(number: int) -> NDArray[np.bool_]:
    """Light cells of a fiducial with its dark border, ``bool (7, 7)``."""
    dictionary = cv2.aruco.getPredefinedDictionary(cv2.aruco.DICT_5X5_50)
    return np.asarray(cv2.aruco.generateImageMarker(dictionary, number, 7) > 0)


def _tints(sheet: Sheet, page: Page) -> None:
    for strips in (page.tints, page.tints_again):
        for channel, boxes in strips.items():
            first, last = min(box.x for box in boxes), max(box.x for box in boxes) + TINT_MM
            sheet.fill(page.whites, Box(first, boxes[0].y, last - first, TINT_MM))
            for tone, box in zip(TONES, boxes, strict=True):
                sheet.fill((channel,), box, tone)


def _draw_target(sheet: Sheet, page: Page, target: Target) -> None:
    sheet.fill(page.whites, target.square)
    sheet.fill(page.dark, target.square.inset(2.5))
    for strips, is_across in ((target.across, True), (target.down, False)):
        for place, strip in enumerate(strips):
            channels = page.dark if place == 1 else page.whites
            if place == 1:
                sheet.fill(page.whites, strip)
            for at in range(round((strip.width if is_across else strip.height) / PERIOD_MM)):
                if is_across:
                    bar = Box(strip.x + at * PERIOD_MM, strip.y, PERIOD_MM / 2, strip.height)
                else:
                    bar = Box(strip.x, strip.y + at * PERIOD_MM, strip.width, PERIOD_MM / 2)
                sheet.fill(channels, bar)


def _draw_nozzles(sheet: Sheet, page: Page, channel: int) -> None:
    if channel in page.colours:
        sheet.fill(page.whites, page.nozzles[channel].inset(-NOZZLE_RIM_MM))
    for number in range(NOZZLES):
        sheet.fill((channel,), page.nozzle_line(channel, number))


def _ladders(sheet: Sheet, page: Page) -> None:
    for tone, box in zip(TONES, page.white_ladder, strict=False):
        sheet.fill(page.whites, box, tone)
        _below(sheet, page, box, f"{100 * tone:.0f}")
    for coverage, box in zip(COVERAGES, page.coverage_ladder, strict=False):
        sheet.fill(page.whites, box)
        sheet.fill(page.colours, box.inset(0.5), min(coverage / 100 / len(page.colours), 1.0))
        _below(sheet, page, box, f"{coverage}")
    for choke, box in zip(CHOKES_MM, page.choke_ladder, strict=False):
        sheet.fill(page.colours, box.inset(0.6))
        sheet.fill(page.whites, box.inset(0.6 + choke))
        _below(sheet, page, box, f"{choke:.2f}".lstrip("0") or "0")


def _below(sheet: Sheet, page: Page, box: Box, text: str) -> None:
    sheet.write(page.figure, box.x + 0.2, box.y + box.height + 1.9, 1.7, text)


def _screens(sheet: Sheet, page: Page) -> None:
    turn = math.radians(HOLE_ANGLE_DEG)
    for lpi, line in zip(RULINGS_LPI, page.screens, strict=True):
        for share, box in zip(SHARES, line, strict=True):
            sheet.fill(page.figure, box)
            for x, y in lattice(box, MM_PER_INCH / lpi, turn):
                sheet.disc(page.figure, x, y, hole_mm(lpi, share), clears=True)
    for lpi, line in zip(RULINGS_LPI, page.screens, strict=True):
        sheet.write(page.figure, line[-1].x + 8.0, line[0].y + 5, 1.7, f"{lpi:.0f}")


def hole_mm(lpi: float, share: float) -> float:
    """Diameter in mm of the round holes of a screen that leaves a share of the print.

    >>> round(hole_mm(25.4, 1 - 0.7853981634), 6)
    1.0
    """
    return MM_PER_INCH / lpi * math.sqrt((1 - share) * 4 / math.pi)


def lattice(box: Box, pitch: float, turn: float) -> list[tuple[float, float]]:
    """Places of holes in a box, whole holes only near its rim."""
    cos, sin = math.cos(turn) * pitch, math.sin(turn) * pitch
    reach = math.ceil(math.hypot(box.width, box.height) / pitch) + 1
    x0, y0 = box.middle
    out = []
    for i in range(-reach, reach + 1):
        for j in range(-reach, reach + 1):
            x, y = x0 + i * cos - j * sin, y0 + i * sin + j * cos
            if abs(x - x0) < box.width / 2 - pitch * 0.4 and abs(y - y0) < box.height / 2 - pitch * 0.4:
                out.append((x, y))
    return out


def _fine(sheet: Sheet, page: Page) -> None:
    figure = page.figure
    for kind, field in page.fine.items():
        if kind in ("gap", "hole"):
            sheet.fill(figure, field)
        for at, width in enumerate(WIDTHS_MM):
            place = page.fine_place(kind, at)
            x, _ = place.middle
            if kind in ("line", "gap"):
                stroke = Box(x - width / 2, place.y, width, place.height)
                sheet.fill(figure, stroke) if kind == "line" else sheet.clear(figure, stroke)
                continue
            for row in range(5):
                sheet.disc(figure, x, place.y + 0.7 + row * 1.3, width, clears=kind == "hole")


def _verniers(sheet: Sheet, page: Page) -> None:
    """White lines every millimetre, dark ones wider apart by what a line is worth: the pair that meets tells."""
    for way, box in page.verniers.items():
        half = Box(box.x, box.y + 5, box.width, 5) if way == "across" else Box(box.x + 5, box.y, 5, box.height)
        sheet.fill(page.whites, half)
        for at in range(-VERNIER_STEPS, VERNIER_STEPS + 1):
            long = 1.0 if at % 5 == 0 else 0.0
            white, dark = at * PERIOD_MM, at * (PERIOD_MM + VERNIER_MM)
            if way == "across":
                middle = box.x + box.width / 2
                sheet.fill(page.whites, Box(middle + white - 0.1, box.y + 3 - long, 0.2, 2 + long))
                sheet.fill(page.dark, Box(middle + dark - 0.1, box.y + 5, 0.2, 2 + long))
            else:
                middle = box.y + box.height / 2
                sheet.fill(page.whites, Box(box.x + 3 - long, middle + white - 0.1, 2 + long, 0.2))
                sheet.fill(page.dark, Box(box.x + 5, middle + dark - 0.1, 2 + long, 0.2))
            if at % 5 == 0:
                told = f"{at:+d}" if at else "0"
                x, y = (middle + white - 0.9, box.y + 1.8) if way == "across" else (box.x - 0.4, middle + white + 0.6)
                sheet.write(page.whites, x, y, 1.5, told)


def _captions(sheet: Sheet, page: Page) -> None:
    """What each part is, in a few words above it."""
    parts: list[tuple[Box | None, str]] = [
        (page.matrix[0][0] if page.matrix else None, "slot, then slot"),
        (next(iter(page.tints.values()))[1], "dot gain, 0 to 100 %"),
        (page.hits[(page.whites[0],)][0] if page.hits else None, "one hit, all hits"),
        (page.nozzles[0] if page.nozzles else None, "lines of each nozzle, by slot"),
        (page.white_ladder[0] if page.white_ladder else None, "white %"),
        (page.coverage_ladder[0], "total coverage %"),
        (page.choke_ladder[0] if page.choke_ladder else None, "choke mm"),
        (page.screens[0][0], "holes: 50 to 90 % left, lpi"),
        (page.fine["line"], "lines, gaps, dots, holes 0.05 to 0.5 mm"),
        (page.verniers.get("across"), "white to the right: line x 0.05 mm"),
        (page.verniers.get("down"), "down"),
    ]
    for box, words in parts:
        if box is not None:
            rim = NOZZLE_RIM_MM if page.nozzles and box is page.nozzles[0] else 0.0
            sheet.write(page.figure, box.x + 0.2, box.y - 0.7 - rim, 1.5, words)


def _letters(sheet: Sheet, page: Page) -> None:
    """Small letters, light on the card and dark on light."""
    field = page.letters
    words = "Merrowmere 0123456789 aeg"
    sheet.fill(page.whites, Box(field.x, field.y + 21, field.width, 19))
    for row, points in enumerate((4, 5, 6, 8)):
        size = points * MM_PER_INCH / 72
        sheet.write(page.figure, field.x + 1, field.y + 4.4 + row * 4.4, size, f"{points} pt {words}"[: 34 - 2 * row])
        sheet.write(page.dark, field.x + 1, field.y + 25 + row * 4.4, size, f"{points} pt {words}"[: 34 - 2 * row])
