"""What a plan is made of."""

from dataclasses import dataclass, field, replace
from functools import cached_property

from swaddon.core.artwork.artwork import Artwork
from swaddon.core.artwork.placement import PointMap
from swaddon.core.holes.holes import structure
from swaddon.core.holes.screen import Tiles
from swaddon.core.holes.settings import HoleSettings, Screen
from swaddon.core.inks.separation import Table
from swaddon.core.inks.stages import SolveTable
from swaddon.core.knockout.settings import AlphaTreatment
from swaddon.core.order.settings import PlanSettings
from swaddon.core.press.profile import PressProfile
from swaddon.core.press.registration import Registration
from swaddon.core.press.wares import Ware, ware_of
from swaddon.core.proof.optics import Appearance
from swaddon.core.sheet.grid import BUTT, SplitRules
from swaddon.core.sheet.media import Medium
from swaddon.core.units import MM_PER_INCH, px_from_mm
from swaddon.core.white.stages import DesignSettings


@dataclass(frozen=True, eq=False)
class PlanRequest:
    """What a plan is made of. Stages take their settings from its attributes, by path.

    ``press`` is the press profile as it is stored, ``profile`` as these settings use it.
    ``solve_table`` gives the inverse of a separation, or what a profile of one's own says; it may take a while, so it
    is asked for in the stage.
    ``ppi`` below the profile's gives a proxy: same stages, fewer pixels. ``tiles`` are the pattern tiles by name.
    ``origin_px`` is left and top of a part on the whole grid. ``medium`` is what it is printed on, ``split_rules`` how
    it is cut where it is larger than that, ``spacing_mm`` how far apart small prints lie on it. ``called`` is what is
    decorated; ``None``: what the process usually does.
    """

    artwork: Artwork
    settings: PlanSettings
    press: PressProfile
    solve_table: SolveTable
    ppi: float
    tiles: Tiles = field(default_factory=dict)
    origin_px: tuple[int, int] = (0, 0)
    medium: Medium | None = None
    split_rules: SplitRules = BUTT
    spacing_mm: float = 5.0
    called: Ware | None = None

    @cached_property
    def profile(self) -> PressProfile:
        """The press profile as the settings use it."""
        return self.settings.used(self.press, self.height_mm)

    @cached_property
    def ware(self) -> Ware:
        """What is decorated, in words."""
        return self.called or ware_of(self.press.printing)

    @cached_property
    def look(self) -> Appearance:
        """What the look of a print depends on."""
        return Appearance.of(self.settings.garment, self.profile)

    @property
    def treatment(self) -> AlphaTreatment:
        """What becomes of half-transparent pixels: chosen, or the process's own."""
        return self.settings.alpha_treatment(self.profile)

    @property
    def fade_screen(self) -> Screen | None:
        """The screen of fades; ``None``: they are not screened."""
        treatment = self.treatment
        return replace(treatment.screen, pattern="round", share=1.0) if treatment.kind == "screen" else None

    @property
    def registration(self) -> Registration:
        """Registration as measured and entered, else the press profile's."""
        return self.settings.registration(self.profile)

    @property
    def spares_fine_black(self) -> bool:
        """Whether fine black goes without white."""
        return not self.settings.whitens_fine_black(self.profile)

    @property
    def design_settings(self) -> DesignSettings:
        """White of the design: from which colour on, and whether it is printed."""
        return DesignSettings(self.settings.prints_design_white, self.profile.white)

    @property
    def hole_structure(self) -> HoleSettings:
        """Where holes are to be, whatever they look like."""
        return structure(self.settings.holes)

    @property
    def height_mm(self) -> float:
        """Height of the artboard."""
        return self.artwork.height_mm_at(self.settings.width_mm, self.settings.placement)

    @property
    def grid_size(self) -> tuple[int, int]:
        """Width and height of the plan grid in pixels."""
        width, height = px_from_mm(self.settings.width_mm, self.ppi), px_from_mm(self.height_mm, self.ppi)
        return max(1, round(width)), max(1, round(height))

    @property
    def enlargement(self) -> float:
        """Pixels of the grid per pixel of the artwork, 1 for a drawing."""
        return 1.0 if self.artwork.render is not None else self.ppi / self._artwork_ppi

    @property
    def artwork_px_per_mm(self) -> float:
        """Pixels of the artwork per mm of the print."""
        return self._artwork_ppi / MM_PER_INCH

    @property
    def _artwork_ppi(self) -> float:
        return self.artwork.ppi_at(self.settings.width_mm, self.settings.placement)

    @property
    def point_map(self) -> PointMap:
        """Where points of the artwork lie on the grid."""
        return PointMap(self.settings.placement, self.artwork.width_px, self.artwork.height_px, self.grid_size)

    def table(self) -> Table:
        """The profile's inverse separation."""
        return self.solve_table(self.profile.separation, self.settings.icc)
