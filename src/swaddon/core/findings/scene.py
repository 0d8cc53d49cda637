"""What findings are: a measured warning, and the scene that it is measured on."""

from collections.abc import Callable, Hashable
from dataclasses import dataclass, replace
from decimal import Decimal
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray

from swaddon.core.artwork.artwork import Artwork
from swaddon.core.artwork.raster import Mask, Plane, Rgba
from swaddon.core.count.coverage import TotalCoverage
from swaddon.core.count.measure import Measures
from swaddon.core.findings.inspection import Inspection
from swaddon.core.holes.screen import Cut
from swaddon.core.knockout.fades import Treated
from swaddon.core.knockout.islands import Island
from swaddon.core.merge import merged
from swaddon.core.order.settings import PlanSettings
from swaddon.core.press.profile import PressProfile
from swaddon.core.press.wares import Ware
from swaddon.core.sheet.grid import SplitRules
from swaddon.core.sheet.media import Medium
from swaddon.core.sheet.room import Room, room_for
from swaddon.core.units import mm_from_px, pixel_area_mm2
from swaddon.core.white.edges import EdgeTrouble
from swaddon.core.white.register import ChokeCurve
from swaddon.core.white.strokes import Strokes
from swaddon.core.white.verdict import WhiteAdvice

Severity = Literal["stop", "look", "note"]

_SMALL_MM2, _SMALL_WORTH = 100.0, Decimal("0.01")
_LINES = frozenset({"peek"})


@dataclass(frozen=True)
class Finding:
    """One measured warning.

    Attributes
    ----------
    fix
        The settings that mend it where it was measured, on ``base``; :meth:`mend` makes the same change to others.
    fix_label
        Names that step.
    others
        Other ways to mend it, each with its label.
    worth
        What mending it saves, in money, where it is about money.
    cause
        Code of the finding that tells the same cause already; empty: it is told by itself.
    has_place
        Whether it lies anywhere on the print; what is wrong with a press does not.
    """

    code: str
    severity: Severity
    text: str
    x_mm: float
    y_mm: float
    size: float
    unit: str
    fix: PlanSettings | None = None
    fix_label: str = ""
    base: PlanSettings | None = None
    has_place: bool = True
    others: tuple[tuple[str, PlanSettings], ...] = ()
    worth: Decimal | None = None
    cause: str = ""

    @property
    def is_small(self) -> bool:
        """Whether it folds into one line with others: under 1 cm², or worth less than a cent.

        A stop never is, and white that peeks out is a line: it is seen at any area.
        """
        if self.severity == "stop" or self.code in _LINES:
            return False
        is_cheap = self.severity == "note" and self.worth is not None and self.worth < _SMALL_WORTH
        return is_cheap or (self.unit == "mm²" and self.size < _SMALL_MM2)

    @property
    def ways(self) -> tuple["Finding", ...]:
        """The finding with each of its fixes, the first one first; none where it has none."""
        if self.fix is None:
            return ()
        return (self, *(replace(self, fix=fix, fix_label=name, others=()) for name, fix in self.others))

    def mend(self, settings: PlanSettings) -> PlanSettings:
        """Settings with what the fix changes, and nothing else of the moment when the finding was made."""
        return settings if self.fix is None or self.base is None else merged(self.base, self.fix, settings)


@dataclass(frozen=True, eq=False)
class Scene:
    """What the findings are measured on; planes and settings of one plan.

    ``fade`` is the white that full white would have, ``uint8 (H, W)``: less than full in fades.
    """

    artwork: Artwork
    settings: PlanSettings
    profile: PressProfile
    art: Rgba
    soft: Mask
    islands: tuple[Island, ...]
    took: tuple[int, ...]
    treated: Treated
    zones: Plane | None
    screens: Cut
    inspection: Inspection
    cmyk: NDArray[np.uint8]
    fade: Plane
    white: Plane
    exceptions: Mask | None
    medium: Medium | None
    split_rules: SplitRules
    ware: Ware
    edges: EdgeTrouble
    strokes: Strokes
    choke: ChokeCurve
    advice: WhiteAdvice
    measures: Measures
    coverage: TotalCoverage
    check: Callable[[], None] = lambda: None
    beside: Callable[[str, Hashable, Callable[[], Any]], Any] = lambda _name, _parts, compute: compute()

    @property
    def pixel_mm2(self) -> float:
        return pixel_area_mm2(self.measures.ppi)

    @property
    def room(self) -> Room:
        """What one print may take up."""
        return room_for(self.profile, self.medium)

    @property
    def item(self) -> str:
        """What is decorated, in a word."""
        return self.ware.item

    @property
    def full_white_per_m2(self) -> float:
        """Lay-down of full white, all hits, in the ink's unit."""
        return self.profile.lay_down_per_m2["W"] * sum(self.profile.hits)

    def centre(self) -> tuple[float, float]:
        """Middle of the print, else of the artboard, in mm."""
        box = self.measures.printed
        if box is None:
            return self.mm(self.measures.width_px / 2, self.measures.height_px / 2)
        return self.mm((box.left + box.right) / 2, (box.top + box.bottom) / 2)

    def mm(self, x_px: float, y_px: float) -> tuple[float, float]:
        return mm_from_px(x_px, self.measures.ppi), mm_from_px(y_px, self.measures.ppi)

    def with_white(self, **changes: object) -> PlanSettings:
        return replace(self.settings, white=replace(self.settings.white, **changes))  # type: ignore[arg-type]
