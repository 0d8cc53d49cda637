"""Stages that hold the white against what it is for: strokes it keeps, edges, registration, need of this garment."""

from dataclasses import dataclass, field
from functools import partial

import cv2
import numpy as np
from numpy.typing import NDArray

from swaddon.core.artwork.palette import main_colours
from swaddon.core.artwork.raster import Plane, Rgba
from swaddon.core.engine import Run, of, settle, stage
from swaddon.core.inks.separation import Table
from swaddon.core.inks.stages import Inks
from swaddon.core.press.profile import Separation, WhiteInk
from swaddon.core.press.registration import Registration
from swaddon.core.proof.optics import Appearance, printed_share
from swaddon.core.units import mm_from_px, px_from_mm
from swaddon.core.white import underbase
from swaddon.core.white.design_white import DesignArea, own_mask
from swaddon.core.white.design_white import design_areas as areas_of
from swaddon.core.white.edges import UNDER, EdgeTrouble, Reach, area_mm2, bare, peeking
from swaddon.core.white.need import NeedTable, NodeErrors, shift_curve
from swaddon.core.white.register import ChokeCurve, bared_by_choke, edges_of
from swaddon.core.white.register import choke_curve as curve_of
from swaddon.core.white.settings import WhiteMode
from swaddon.core.white.stages import SOLID_PERCENT, ChokeSettings, Ground, UnderSettings, white_under
from swaddon.core.white.strokes import Strokes, stroke_lengths, thin_strokes
from swaddon.core.white.underbase import Choked
from swaddon.core.white.verdict import WhiteAdvice, enough_white, verdicts


@dataclass(frozen=True)
class WhiteCheck:
    """What the choke did to thin strokes, white as a share of solid white, and the share that the choke took, 0..1."""

    strokes: Strokes = field(default_factory=Strokes)
    of_solid: float = 1.0
    taken_share: float = 0.0


@dataclass(frozen=True)
class CheckSettings(ChokeSettings):
    """The choke, and how white is laid."""

    white_mode: WhiteMode = of("settings.white.mode")
    whole_sheet: bool = of("settings.white.whole_sheet")


def white_check(ground: Ground, choked: Choked, whole_white: Plane, settings: CheckSettings, run: Run) -> WhiteCheck:
    """What the choke did."""
    if settings.mode == "none" or settings.whole_sheet:
        return WhiteCheck()
    strokes, of_solid = Strokes(), 1.0
    if settings.choke_px > 0:
        thin = choked.thin
        if thin is None:
            thin = thin_strokes(choked.figure, settings.choke_px, settings.least_px)
        run.check()
        reach_px = settings.choke_px + settings.least_px
        strokes = stroke_lengths(thin, choked.pulled, choked.kept, reach_px, settings.ppi)
    if settings.white_mode != "solid":
        solid = cv2.sumElems(ground.white_over(choked.kept, SOLID_PERCENT))[0]
        of_solid = cv2.sumElems(whole_white)[0] / solid if solid > 0 else 1.0
    return WhiteCheck(strokes, of_solid, choked.taken_share)


@dataclass(frozen=True)
class AreaSettings:
    """From which colour on white of the design is ink."""

    ppi: float
    ink: WhiteInk = of("profile.white")


def design_areas(art: Rgba, settings: AreaSettings) -> tuple[DesignArea, ...]:
    """Areas of white of the design."""
    return areas_of(art, underbase.design_ramp(settings.ink), settings.ppi)


@dataclass(frozen=True)
class EdgeSettings(UnderSettings):
    """How white is laid, and how far it may come to lie beside its place."""

    ppi: float = of("ppi")
    registration: Registration = of("registration")
    choke_mm: float = of("settings.white.choke_mm")
    whole_sheet: bool = of("settings.white.whole_sheet")

    def reach(self, height: int, width: int) -> Reach:
        """How far white may come to lie outside its place on a grid, in pixels."""

        def at(x: NDArray[np.float64], y: NDArray[np.float64]) -> NDArray[np.float64]:
            from_middle = (
                mm_from_px(1, self.ppi) * (places - half) for places, half in ((x, width / 2), (y, height / 2))
            )
            return self.registration.reaches_mm(*from_middle) * px_from_mm(1, self.ppi)

        return at


def edges(ground: Ground, choked: Choked, inks: Inks, white: Plane, settings: EdgeSettings, run: Run) -> EdgeTrouble:
    """What the edges of the white come to, on the print as it is cut."""
    none = np.zeros_like(white)
    if settings.mode in ("none", "only") or settings.whole_sheet:
        return EdgeTrouble(none, none)
    own = own_mask(ground.art, ground.design.ramp)
    under = cv2.bitwise_and(cv2.inRange(white, UNDER, 255), cv2.bitwise_not(own))
    under = np.asarray(cv2.bitwise_and(under, cv2.inRange(choked.kept, 128, 255)), np.uint8)
    choke_px = px_from_mm(settings.choke_mm, settings.ppi)
    beyond = peeking(under, choked, own, choke_px, settings.reach(*white.shape), run.check)
    run.check()
    plain = settings.mode == "solid" and ground.design.prints_design_white and ground.exceptions is None
    if plain:
        wanted = ground.alpha.white
    else:
        printed = Ground(ground.art, inks, ground.alpha, ground.need, ground.exceptions, ground.design)
        wanted = printed.white_over(np.full_like(white, 255), settings.percent)
    rim = bare(wanted, white, choked.figure, printed_share(inks, none))
    margin = (beyond.shape[0] - white.shape[0]) // 2
    peek = np.ascontiguousarray(beyond[margin:-margin, margin:-margin])
    return EdgeTrouble(peek, rim, area_mm2(beyond, settings.ppi), area_mm2(rim, settings.ppi))


@dataclass(frozen=True)
class CurveSettings(UnderSettings):
    """How white is laid and how far it may miss, on this garment."""

    ppi: float = of("ppi")
    registration: Registration = of("registration")
    look: Appearance = of("look")


def choke_curve(ground: Ground, figure: Plane, settings: CurveSettings, run: Run) -> ChokeCurve:
    """Harm of peeking white and of bare rims against choke, at this plan's edges."""
    registration, ppi = settings.registration, settings.ppi
    ramp = ground.design.ramp

    def pulled_in(rgb: NDArray[np.uint8], cmyk: NDArray[np.floating]) -> NDArray[np.float64]:
        """White under colour that the choke concerns: white of the design keeps its edge."""
        return white_under(rgb, cmyk, ground.need, settings.percent) * (1 - ramp[rgb.min(axis=1)] / 255)

    found = edges_of(figure, ground.art, ground.cmyk, pulled_in, settings.look)
    areas = partial(bared_by_choke, figure, registration, ppi)
    return curve_of(found, lambda: run.beside("figure", ("bared", registration, ppi), areas))


@dataclass(frozen=True)
class AdviceSettings:
    """What the verdict on this garment hangs on besides the white by need.

    How white is laid counts only where it is by need.
    """

    white_mode: WhiteMode = of("settings.white.mode")
    allowed_shift: float = of("settings.white.allowed_shift")
    least: float = of("settings.white.least")
    most: float = of("settings.white.most")
    look: Appearance = of("look")
    separation: Separation = of("profile.separation")
    ink: WhiteInk = of("profile.white")

    def __post_init__(self) -> None:
        if self.white_mode != "need":
            settle(self, white_mode="solid", least=0.0, most=1.0)


def advice(
    art: Rgba,
    table: Table,
    need_table: NeedTable | None,
    colour_errors: NodeErrors | None,
    settings: AdviceSettings,
    run: Run,
) -> WhiteAdvice:
    """Whether this garment needs white for these colours, and what each allowed shift would take."""
    by_need = need_table if settings.white_mode == "need" else None
    look, shift = settings.look, settings.allowed_shift
    colours = run.beside("art", "main colours", partial(main_colours, art))
    found = verdicts(colours, settings.separation, settings.ink, table, look, shift, by_need)
    curve: tuple[tuple[float, float], ...] = ()
    if colour_errors is not None:
        curve = shift_curve(colour_errors, art, settings.least, settings.most)
    return WhiteAdvice(found, *enough_white(found), curve)


STAGES = (
    stage(white_check, 3, "Following thin strokes"),
    stage(edges, 1, "Following edges"),
    stage(design_areas, 1, "Finding white of the design"),
    stage(choke_curve, 3, "Weighing the choke"),
    stage(advice, 2, "Asking who needs white"),
)
