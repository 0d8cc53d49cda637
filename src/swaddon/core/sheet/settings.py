"""How an order's prints are laid on their medium, as the job keeps it."""

from dataclasses import dataclass
from typing import Annotated

from annotated_types import Ge, Le, MaxLen

from swaddon.core.schema import Named, Slider
from swaddon.core.sheet.grid import SplitRules
from swaddon.core.sheet.layout import MOST_PRINTS, Rules, Way
from swaddon.core.sheet.seam import STEP_MM, Through

LARGEST_SPACING_MM = 200.0


@dataclass(frozen=True)
class PlacedPrint:
    """A print that was put somewhere by hand: which one, its sheet, and the corner of its printed box in pixels from
    that of the printable area."""

    job: Annotated[str, MaxLen(200)]
    line: Annotated[int, Ge(1), Le(1000)]
    number: Annotated[int, Ge(1), Le(MOST_PRINTS)]
    sheet: Annotated[int, Ge(1), Le(MOST_PRINTS)]
    x_px: Annotated[int, Ge(0), Le(10_000_000)]
    y_px: Annotated[int, Ge(0), Le(10_000_000)]
    turn: Annotated[int, Ge(0), Le(270)] = 0


@dataclass(frozen=True)
class DraggedPoint:
    """A point that the seam of some number was dragged through, in mm on the artboard."""

    seam: Annotated[int, Ge(0), Le(64)]
    x_mm: Annotated[float, Ge(0), Le(10_000)]
    y_mm: Annotated[float, Ge(0), Le(10_000)]


@dataclass(frozen=True)
class SheetSettings:
    """What decides a sheet.

    Attributes
    ----------
    medium
        Name of the medium; empty: the usual one of the press.
    spacing_mm
        Least distance between printed pixels of two prints.
    way
        By shape, or by the boxes round the prints.
    turns, fill_rings
        Whether prints may be turned by quarters, and lie in the openings of others.
    apart
        Whether each garment gets sheets of its own.
    tags
        Whether a tag is printed beside each print.
    seed
        What the search for short layouts starts from.
    overlap_mm, bent, plate
        How a print that is larger than its medium is cut, and the heat-press plate that it is pressed with.
    placed
        Prints as they were put by hand; empty: as they are laid.
    dragged
        Points that seams were dragged through.
    """

    medium: Annotated[str, MaxLen(40)] = ""
    spacing_mm: Annotated[
        float, Ge(0), Le(LARGEST_SPACING_MM), Slider("Spacing", "mm", 0.5, "Change the spacing", most=20)
    ] = 5.0
    way: Annotated[Way, Named("Laid by", "Lay prints otherwise", (("shape", "Shape"), ("box", "Boxes")))] = "shape"
    turns: Annotated[bool, Named("Turn prints", "Let prints be turned")] = True
    fill_rings: Annotated[bool, Named("Fill openings", "Fill openings")] = False
    apart: Annotated[bool, Named("Garments apart", "Part garments")] = False
    tags: Annotated[bool, Named("Tags", "Print tags")] = False
    seed: Annotated[int, Ge(0), Le(1_000_000)] = 0
    overlap_mm: Annotated[float, Ge(0), Le(20), Slider("Overlap", "mm", 0.5, "Change the overlap")] = 0.0
    bent: Annotated[bool, Named("Seam may bend", "Bend the seam")] = True
    step_mm: Annotated[float, Ge(0), Le(20), Slider("A step saves", "mm", 0.1, "Change the seam’s steps", most=5)] = (
        STEP_MM
    )
    plate: Annotated[str, MaxLen(40)] = ""
    placed: Annotated[tuple[PlacedPrint, ...], MaxLen(MOST_PRINTS), Named("Prints by hand", "Move a print")] = ()
    dragged: Annotated[tuple[DraggedPoint, ...], MaxLen(64), Named("Dragged seam", "Drag the seam")] = ()

    @property
    def rules(self) -> Rules:
        return Rules(self.spacing_mm, self.turns, self.fill_rings)

    def through(self) -> tuple[tuple[Through, ...], ...]:
        """Of each seam, the points that it was dragged through."""
        count = max((point.seam + 1 for point in self.dragged), default=0)
        return tuple(
            tuple((point.x_mm, point.y_mm) for point in self.dragged if point.seam == seam) for seam in range(count)
        )

    @property
    def split_rules(self) -> SplitRules:
        return SplitRules(self.overlap_mm, self.bent, step_mm=self.step_mm)
