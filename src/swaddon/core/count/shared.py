"""A print's share of the sheet that it was laid on with others, or the sheets that it was split onto."""

from dataclasses import dataclass, replace
from typing import Annotated

from annotated_types import Ge, Le

MOST_PARTS = 64
"""Sheets that one print may be split onto."""


def sheets_of_one(fits: int, quantity: int) -> float:
    """Sheets that one piece takes: whole ones are bought; a single piece takes its place on one that others fill."""
    return 1 / fits if quantity == 1 else -(-quantity // fits) / quantity


@dataclass(frozen=True)
class SheetShare:
    """What one piece takes of its sheet, once its prints were laid on one or it was split onto several.

    Attributes
    ----------
    medium
        What the sheet is called.
    film_mm2
        Its share of the medium by area, with what lies empty between the prints.
    sheets
        Its share of whole sheets; 0 on a roll.
    time_ratio
        Its share of the time that printing the sheet takes, as a multiple of what it takes alone.
    width_mm, press
        The print width and the press for which this holds: a print of another size was not laid yet.
    parts
        Sheets that one print is split onto; 1: it is printed whole.
    fits
        Prints that fit one sheet of their own, so that the share follows the quantity; 0: it stands as it was laid.
    """

    medium: str
    film_mm2: Annotated[float, Ge(0), Le(1e9)]
    sheets: Annotated[float, Ge(0), Le(64)]
    time_ratio: Annotated[float, Ge(0), Le(1000)]
    width_mm: Annotated[float, Ge(1), Le(5000)]
    press: str
    parts: Annotated[int, Ge(1), Le(MOST_PARTS)] = 1
    fits: Annotated[int, Ge(0), Le(100_000)] = 0

    def of(self, quantity: int) -> "SheetShare":
        """The share of one piece of so many, where they fill sheets of their own: the last one may not be full.

        >>> SheetShare("A4", 600.0, 0.1, 0.1, 50.0, "decal", fits=10).of(15).sheets
        0.133333
        """
        if not self.fits or not self.sheets:
            return self
        sheets = sheets_of_one(self.fits, quantity)
        scale = sheets / self.sheets
        return replace(
            self,
            film_mm2=round(self.film_mm2 * scale, 1),
            sheets=round(sheets, 6),
            time_ratio=round(self.time_ratio * scale, 6),
            fits=0,
        )

    def holds(self, width_mm: float, press: str) -> bool:
        """Whether it is of a print of this width on this press."""
        return press == self.press and abs(self.width_mm - width_mm) < 0.01
