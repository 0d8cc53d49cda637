"""How many of one print fit a sheet, and what each then takes of it: many labels or decals share one."""

from dataclasses import dataclass

import numpy as np

from swaddon.core.count.measure import Measures
from swaddon.core.count.shared import SheetShare, sheets_of_one
from swaddon.core.count.timing import print_time, sheet_time_s
from swaddon.core.press.profile import PressProfile
from swaddon.core.sheet.media import Medium
from swaddon.core.sheet.room import as_printed
from swaddon.core.units import px_from_mm


@dataclass(frozen=True)
class Fit:
    """Prints in columns and rows on one sheet; ``turned``: each lies on its side."""

    columns: int
    rows: int
    turned: bool = False

    @property
    def count(self) -> int:
        return self.columns * self.rows


def fit_on(width_mm: float, height_mm: float, medium: Medium, press: PressProfile, spacing_mm: float) -> Fit:
    """The most prints of one size in straight rows on a sheet; none on a roll, which is paid by its length.

    >>> from swaddon.io import profiles
    >>> a4 = Medium("a4", "A4", "decal", 210, 297, (5, 5, 5, 5))
    >>> fit_on(90, 60, a4, profiles.shipped("decal"), 5).count
    9
    """
    if medium.is_roll or medium.kind == "platen" or min(width_mm, height_mm) <= 0:
        return Fit(0, 0)
    wide, high = as_printed(medium, press, one_print=True).printable_mm
    ways = []
    for turned, (across, down) in ((False, (width_mm, height_mm)), (True, (height_mm, width_mm))):
        columns, rows = ((room + spacing_mm) // (own + spacing_mm) for room, own in ((wide, across), (high, down)))
        ways.append(Fit(int(columns), int(rows), turned))
    return max(ways, key=lambda fit: fit.count)


def shared_sheet(
    measures: Measures, press: PressProfile, medium: Medium, fit: Fit, quantity: int, width_mm: float, spacing_mm: float
) -> SheetShare:
    """What one piece takes where its order shares sheets: whole sheets are bought, and the last may not be full.

    A single piece takes its place on a sheet that others fill.
    """
    sheets = sheets_of_one(fit.count, quantity)
    size = measures.printed_size_mm
    across, down = reversed(size) if fit.turned else size
    wide, high = (count * (length + spacing_mm) for count, length in ((fit.columns, across), (fit.rows, down)))
    rows = np.ones(max(1, round(px_from_mm(high, measures.ppi))), np.bool_)
    sheet_s = sheet_time_s(press, rows, wide, measures.ppi, measures.white_px > 0)
    alone_s = print_time(measures, press.carriage, press.white_rounds).alone_s
    return SheetShare(
        medium=medium.title,
        film_mm2=round(medium.width_mm * medium.height_mm * sheets, 1),
        sheets=round(sheets, 6),
        time_ratio=round(sheet_s * sheets / alone_s, 6) if alone_s else 1.0,
        width_mm=width_mm,
        press=press.name,
        fits=fit.count,
    )
