"""How many sheets a print larger than its medium takes, and what it costs of them."""

import math
from dataclasses import dataclass, replace
from itertools import pairwise

import numpy as np

from swaddon.core.count.measure import Measures, RoleExtent
from swaddon.core.count.shared import MOST_PARTS, SheetShare
from swaddon.core.count.timing import print_time
from swaddon.core.press.profile import PressProfile
from swaddon.core.sheet.layout import Area
from swaddon.core.sheet.media import Medium
from swaddon.core.sheet.room import SAME_MM
from swaddon.core.sheet.seam import STEP_MM
from swaddon.core.units import MM_PER_INCH, px_from_mm


@dataclass(frozen=True)
class SplitRules:
    """How a print is split.

    ``overlap_mm`` is what neighbours share along a seam, 0 where they butt; ``bent`` lets seams step aside where that
    saves ``step_mm`` of crossing; ``turn`` lets the medium be turned; ``marks`` keeps room for alignment marks beyond
    the ends of the seams where there is any.
    """

    overlap_mm: float = 0.0
    bent: bool = True
    turn: bool = True
    marks: bool = True
    step_mm: float = STEP_MM


BUTT = SplitRules()
"""Parts that meet edge to edge."""


@dataclass(frozen=True)
class Grid:
    """Sheets that a print takes: across and down, whether each lies on its side, and what each takes in pixels."""

    columns: int
    rows: int
    turned: bool
    room_px: tuple[int, int]

    @property
    def count(self) -> int:
        return self.columns * self.rows


def grid_of(
    width_px: int, height_px: int, medium: Medium, ppi: float, rules: SplitRules, longest_mm: float = 0.0
) -> Grid:
    """The fewest sheets of a medium that a printed box takes; ``longest_mm`` is how long a part on a roll may be.

    Raises
    ------
    ValueError
        The medium takes nothing, or it would take too many sheets.
    """
    choices = []
    for turned in [False, True] if rules.turn and medium.kind not in ("roll", "platen") else [False]:
        area = Area.of(laid_on_side(medium) if turned else medium, ppi)
        room = area.width_px, area.height_px or round(px_from_mm(longest_mm, ppi))
        columns, rows = _sheets(width_px, room[0], rules, ppi), _sheets(height_px, room[1], rules, ppi)
        choices.append(Grid(columns, rows, turned, room))
    found = min(choices, key=lambda choice: choice.count)
    if found.count > MOST_PARTS:
        raise ValueError(f"it would take {found.count} sheets, more than {MOST_PARTS}: take a larger medium")
    return found


def split_share(measures: Measures, press: PressProfile, medium: Medium, grid: Grid, width_mm: float) -> SheetShare:
    """What a print takes of the sheets that it is split onto; each is printed as a run of its own."""
    left, top, right, bottom = medium.margin_mm
    high_mm = measures.printed_size_mm[1] / grid.rows
    one_mm2 = medium.width_mm * (high_mm + top + bottom if medium.is_roll else medium.height_mm)
    alone_s = print_time(measures, press.carriage, press.white_rounds).alone_s
    return SheetShare(
        medium=medium.title,
        film_mm2=round(one_mm2 * grid.count, 1),
        sheets=0.0 if medium.is_roll else float(grid.count),
        time_ratio=round(_time_of_parts_s(measures, press, grid) / alone_s, 6) if alone_s else 1.0,
        width_mm=width_mm,
        press=press.name,
        parts=grid.count,
    )


def _time_of_parts_s(measures: Measures, press: PressProfile, grid: Grid) -> float:
    """Print time of all parts: each has its fixed time, its own bands, and its share of the way across."""
    box, total = measures.printed, 0.0
    if box is None:
        return 0.0
    edges = np.linspace(box.top, box.bottom, grid.rows + 1).round().astype(int).tolist()
    for top, bottom in pairwise(edges):
        extents = {
            role: RoleExtent(extent.rows[top:bottom], -(-extent.width_px // grid.columns))
            for role, extent in measures.extents.items()
        }
        part = replace(measures, height_px=bottom - top, extents=extents)
        total += grid.columns * print_time(part, press.carriage, press.white_rounds).alone_s
    return total


def laid_on_side(medium: Medium) -> Medium:
    """A medium turned by a quarter."""
    left, top, right, bottom = medium.margin_mm
    return replace(medium, width_mm=medium.height_mm, height_mm=medium.width_mm, margin_mm=(bottom, left, top, right))


def overlap_px(rules: SplitRules, ppi: float) -> int:
    return round(rules.overlap_mm * ppi / MM_PER_INCH)


def _sheets(length_px: int, room_px: int, rules: SplitRules, ppi: float) -> int:
    """How many sheets a length takes."""
    if not room_px or length_px <= room_px + px_from_mm(SAME_MM, ppi):
        return 1
    overlap = overlap_px(rules, ppi)
    if room_px <= overlap:
        raise ValueError("the overlap is as large as the sheet")
    return math.ceil((length_px - overlap) / (room_px - overlap))
