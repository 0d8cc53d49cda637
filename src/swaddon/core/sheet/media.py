"""What prints go on, and what they are pressed with: rolls, cut film, toner sheets, decal paper, platens, plates."""

from dataclasses import dataclass
from typing import Literal

Kind = Literal["roll", "cut", "sheet", "decal", "platen", "plate"]
KINDS: dict[Kind, str] = {
    "roll": "roll film",
    "cut": "cut film",
    "sheet": "toner sheet",
    "decal": "decal paper",
    "platen": "platen",
    "plate": "heat-press plate",
}


@dataclass(frozen=True)
class Medium:
    """A medium with the rim that its device cannot print.

    Attributes
    ----------
    width_mm, height_mm
        Whole size; a roll has the height 0, or, where ``left_mm`` is known, as much as is left on it.
    margin_mm
        What cannot be printed on each side: left, top, right, bottom.
    cutter_mm
        Least distance between two prints that scissors or a cutter can part, 0 where nobody cuts.
    left_mm
        Length of film left on a roll; ``None``: not known.
    placing_mm
        How far off a second transfer is laid by hand on this plate (assumed); 0 for what is not pressed.
    """

    name: str
    title: str
    kind: Kind
    width_mm: float
    height_mm: float = 0.0
    margin_mm: tuple[float, float, float, float] = (0.0, 0.0, 0.0, 0.0)
    cutter_mm: float = 0.0
    left_mm: float | None = None
    placing_mm: float = 0.0

    @property
    def is_roll(self) -> bool:
        """Whether prints go on as long as they need."""
        return self.kind == "roll" and not self.height_mm

    @property
    def printable_mm(self) -> tuple[float, float]:
        """Width and height that can be printed; the height of a roll is 0.

        >>> Medium("a4", "A4", "sheet", 210, 297, (5, 5, 5, 10)).printable_mm
        (200, 282)
        """
        left, top, right, bottom = self.margin_mm
        return self.width_mm - left - right, 0.0 if self.is_roll else self.height_mm - top - bottom

    @property
    def size_text(self) -> str:
        """The size in words.

        >>> Medium("a4", "A4", "sheet", 210, 297).size_text, Medium("r", "Roll", "roll", 600).size_text
        ('210 × 297 mm', '600 mm wide')
        """
        if self.is_roll:
            return f"{self.width_mm:g} mm wide"
        return f"{self.width_mm:g} × {self.height_mm:g} mm"
