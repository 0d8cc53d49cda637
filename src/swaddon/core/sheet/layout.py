"""Where prints lie on their medium: what may be laid, what was laid, and how much medium goes."""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from swaddon.core.sheet.media import Medium
from swaddon.core.sheet.prints import TURNS, Outline, Turn
from swaddon.core.units import MM_PER_INCH

Way = Literal["shape", "box"]

MOST_PRINTS = 2000
"""Most prints that are laid together."""

LONGEST_MM = 60_000.0
"""Longest run of film."""


@dataclass(frozen=True)
class Rules:
    """How prints are laid.

    ``spacing_mm`` is the least distance between printed pixels, ``turns`` whether prints may be turned by quarters,
    ``fill_rings`` whether prints may lie in the openings of others.
    """

    spacing_mm: float = 5.0
    turns: bool = False
    fill_rings: bool = False

    @property
    def allowed(self) -> tuple[Turn, ...]:
        return TURNS if self.turns else (0,)


@dataclass(frozen=True)
class Area:
    """The printable part of a medium in pixels; ``height_px`` 0: as long as it needs."""

    width_px: int
    height_px: int
    left_px: int
    top_px: int
    bottom_px: int
    ppi: float

    @classmethod
    def of(cls, medium: Medium, ppi: float) -> "Area":
        """The printable pixels of a medium: margins to the nearest pixel.

        Raises
        ------
        ValueError
            The margins leave nothing.
        """
        px = ppi / MM_PER_INCH
        left, top, _, bottom = medium.margin_mm
        width, height = medium.printable_mm
        if width <= 0 or (height <= 0 and not medium.is_roll):
            raise ValueError(f"{medium.title} ({medium.size_text}) is smaller than its margins: nothing can be printed")
        left_px, top_px, bottom_px = round(left * px), round(top * px), round(bottom * px)
        # as many pixels as a print of this size has: it fits, and may touch the rim by half a pixel
        across = min(round(width * px), round(medium.width_mm * px) - left_px)
        down = 0 if medium.is_roll else min(round(height * px), round(medium.height_mm * px) - top_px)
        if across < 1 or (down < 1 and not medium.is_roll):
            raise ValueError(f"{medium.title} ({medium.size_text}) leaves no pixel to print on")
        return cls(across, down, left_px, top_px, bottom_px, ppi)

    def takes(self, width_px: int, height_px: int) -> bool:
        """Whether a box of this size fits."""
        return width_px <= self.width_px and (not self.height_px or height_px <= self.height_px)


@dataclass(frozen=True)
class Placed:
    """A print on a sheet: ``piece`` counts the prints from 0, ``sheet`` the sheets; x and y are those of the box round
    its printed pixels, from the upper left of the printable area."""

    piece: int
    sheet: int
    x_px: int
    y_px: int
    turn: Turn = 0


@dataclass(frozen=True)
class Layout:
    """Prints on one or more sheets.

    ``lengths_px`` tells of each sheet how far down it is printed, ``way`` how it was laid.
    """

    placed: tuple[Placed, ...]
    lengths_px: tuple[int, ...]
    way: Way

    @property
    def sheets(self) -> int:
        return len(self.lengths_px)

    @property
    def goal(self) -> tuple[int, int]:
        """What is least in the best layout: sheets, then how far down they are printed in all."""
        return self.sheets, sum(self.lengths_px)


def layout_of(outlines: Sequence[Outline], pieces: Sequence[int], placed: Sequence[Placed], way: Way) -> Layout:
    """A layout with the lengths of its sheets, sheets counted without gaps."""
    used = sorted({item.sheet for item in placed})
    number = {sheet: index for index, sheet in enumerate(used)}
    lengths = [0] * len(used)
    out = []
    for item in placed:
        sheet = number[item.sheet]
        bottom = item.y_px + outlines[pieces[item.piece]].size_px(item.turn)[1]
        lengths[sheet] = max(lengths[sheet], bottom)
        out.append(Placed(item.piece, sheet, item.x_px, item.y_px, item.turn))
    return Layout(tuple(sorted(out, key=lambda item: item.piece)), tuple(lengths), way)


def spacing_px(rules: Rules, ppi: float) -> int:
    """The spacing in whole pixels, no less than it is."""
    return math.ceil(rules.spacing_mm * ppi / MM_PER_INCH - 1e-6)
