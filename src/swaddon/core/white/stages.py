"""Stages of the white: how much lies under each colour, how far it is pulled in, and how holes cut it."""

from dataclasses import dataclass, field

import cv2
import numpy as np
from numpy.typing import NDArray

from swaddon.core.artwork.placement import PointMap
from swaddon.core.artwork.raster import Mask, Plane, Rgba
from swaddon.core.colour.spaces import Rgb, lab_from_srgb8, xyz_from_lab
from swaddon.core.engine import Run, of, settle, stage
from swaddon.core.holes import holes
from swaddon.core.holes.holes import GiveBack, Zones
from swaddon.core.holes.screen import Cut
from swaddon.core.holes.settings import HoleSettings
from swaddon.core.inks.separation import Table, interpolate
from swaddon.core.inks.settings import Recipe
from swaddon.core.inks.stages import Inks
from swaddon.core.press.profile import Separation, WhiteInk
from swaddon.core.proof.optics import Appearance
from swaddon.core.units import px_from_mm
from swaddon.core.white import need, underbase
from swaddon.core.white.design_white import areas_at
from swaddon.core.white.fine_black import fine_black
from swaddon.core.white.guard import guarded
from swaddon.core.white.need import NeedTable, NodeErrors
from swaddon.core.white.settings import DesignRule, FixedWhite, WhiteMode
from swaddon.core.white.strokes import thin_strokes
from swaddon.core.white.underbase import Choked, PrintAlpha

SOLID_PERCENT = 400.0
"""C+M+Y+K, in percent, that no colour exceeds: under a limit of it white is solid."""


@dataclass(frozen=True)
class ErrorSettings:
    """What every colour comes to on this garment; only white by need asks for it."""

    mode: WhiteMode = of("settings.white.mode")
    separation: Separation | None = of("profile.separation")
    look: Appearance | None = of("look")

    def __post_init__(self) -> None:
        if self.mode != "need":
            settle(self, mode="none", separation=None, look=None)


def colour_errors(table: Table, settings: ErrorSettings) -> NodeErrors | None:
    """ΔE00 of every colour for every amount of white on this garment; ``None`` where white is not by need."""
    if settings.separation is None or settings.look is None:
        return None
    return need.node_errors(settings.separation, table, settings.look)


@dataclass(frozen=True)
class NeedSettings:
    """How white goes by colour.

    ``look`` counts where white is printed alone and, with the ``separation``, for colours that have exact recipes;
    ``ink`` for highlights.
    """

    mode: WhiteMode = of("settings.white.mode")
    allowed_shift: float = of("settings.white.allowed_shift")
    least: float = of("settings.white.least")
    most: float = of("settings.white.most")
    fixed: tuple[FixedWhite, ...] = of("settings.white.fixed")
    ink: WhiteInk | None = of("profile.white")
    recipes: tuple[Recipe, ...] = of("settings.recipes")
    separation: Separation | None = of("profile.separation")
    look: Appearance | None = of("look")

    def __post_init__(self) -> None:
        if self.mode != "need":
            settle(self, allowed_shift=0.0, least=0.0, most=1.0, recipes=())
        if not self.recipes:
            settle(self, separation=None)
        if self.mode not in ("need", "highlight"):
            settle(self, fixed=())
        if self.mode != "highlight":
            settle(self, ink=None)
        if self.mode != "only" and not self.recipes:
            settle(self, look=None)


def need_table(colour_errors: NodeErrors | None, settings: NeedSettings) -> NeedTable | None:
    """White by colour; ``None`` where white does not go by colour."""
    if settings.mode == "only" and settings.look is not None:
        return need.tone_table(settings.look)
    if settings.ink is not None:
        table = need.highlight_table(settings.ink)
    elif colour_errors is not None:
        table = need.need_table(colour_errors, settings.allowed_shift, settings.least, settings.most)
        if settings.separation is not None and settings.look is not None:
            aims = need.white_of_recipes(settings.recipes, settings.separation, settings.look, settings.allowed_shift)
            table = np.clip(need.with_fixed(table, aims), settings.least, settings.most)
    else:
        return None
    return need.with_fixed(table, [(item.colour, item.amount, item.tolerance) for item in settings.fixed])


@dataclass(frozen=True)
class UnderSettings:
    """How white goes by total coverage: up to ``limit`` percent of C+M+Y+K where the mode is ``limit``."""

    mode: WhiteMode = of("settings.white.mode")
    limit: float = of("settings.white.limit")

    def __post_init__(self) -> None:
        if self.mode != "limit":
            settle(self, limit=0.0)

    @property
    def percent(self) -> float | None:
        """Total coverage up to which white lies under a colour; ``None``: by colour, or no white under any."""
        return {"solid": SOLID_PERCENT, "limit": self.limit}.get(self.mode)


def white_under(
    rgb: NDArray[np.uint8], cmyk: NDArray[np.floating], table: NeedTable | None, percent: float | None
) -> NDArray[np.float64]:
    """White under some colours, 0..1: sRGB ``(n, 3)`` and their inks 0..1 ``(n, 4)``."""
    if table is not None:
        return need.need_of(rgb, table)
    if percent is None:
        return np.zeros(len(rgb))
    return np.asarray(cmyk.sum(axis=-1) * 100 <= percent + 1, np.float64)


@dataclass(frozen=True)
class DesignSettings:
    """From which colour on white of the design is ink, and whether it is printed."""

    prints_design_white: bool = of("settings.prints_design_white")
    ink: WhiteInk = of("profile.white")

    @property
    def ramp(self) -> NDArray[np.uint8]:
        return underbase.design_ramp(self.ink)


@dataclass(frozen=True)
class ExceptionSettings(DesignSettings):
    """Areas of white of the design that are treated otherwise than the rest of it."""

    design_rules: tuple[DesignRule, ...] = of("settings.white.design_rules")
    where: PointMap | None = of("point_map")

    def __post_init__(self) -> None:
        if not self.design_rules:
            settle(self, where=None, prints_design_white=False)


def design_exceptions(art: Rgba, settings: ExceptionSettings) -> Mask | None:
    """White of the design that is treated otherwise than the rest of it; a later choice wins over an earlier."""
    out: Mask | None = None
    for rule in settings.design_rules:
        assert settings.where is not None
        area = areas_at(art, settings.ramp, [settings.where.on_grid(rule.point)])
        if area is None:
            continue
        out = np.zeros_like(area) if out is None else out
        out[area > 0] = 0 if rule.ink == settings.prints_design_white else 255
    return out if out is not None and out.any() else None


def figure(art: Rgba, soft: Mask, design_exceptions: Mask | None, settings: DesignSettings) -> Plane:
    """Coverage of the printed figure before any choke."""
    return underbase.figure(art, soft, settings.ramp, settings.prints_design_white, design_exceptions)


@dataclass(frozen=True)
class ChokeSettings:
    """How far white is pulled in, and whether thin strokes keep a core of it.

    White alone has no colour that it could peek out from under, so it is not pulled in.
    """

    ppi: float
    mode: WhiteMode = of("settings.white.mode")
    choke_mm: float = of("settings.white.choke_mm")
    guard: bool = of("settings.white.guard")
    least_stroke_mm: float = of("profile.white.least_stroke_mm")

    def __post_init__(self) -> None:
        settle(self, mode=self.mode if self.mode in ("none", "only") else "solid")
        if self.mode == "only":
            settle(self, choke_mm=0.0)

    @property
    def choke_px(self) -> float:
        return px_from_mm(self.choke_mm, self.ppi)

    @property
    def least_px(self) -> float:
        return px_from_mm(self.least_stroke_mm, self.ppi)


def choked(figure: Plane, settings: ChokeSettings, run: Run) -> Choked:
    """The figure under the choke."""
    if settings.choke_px == 0:
        return Choked(figure, figure, figure)
    pulled = underbase.pull_in(figure, settings.choke_px)
    if settings.mode == "none" or not settings.guard:
        return Choked(figure, pulled, pulled)
    run.check()
    thin = thin_strokes(figure, settings.choke_px, settings.least_px)
    return Choked(figure, pulled, guarded(figure, pulled, thin, settings.choke_px, settings.least_px), thin)


@dataclass(frozen=True)
class FollowSettings:
    """How white and inks follow alpha in a fade."""

    mode: WhiteMode = of("settings.white.mode")
    garment: Rgb = of("settings.garment")
    look: Appearance | None = of("look")

    def __post_init__(self) -> None:
        settle(self, mode="none" if self.mode == "none" else "solid")
        if self.mode == "none" or (self.look is not None and not self.look.white_under):
            settle(self, look=None, garment=(0, 0, 0))

    @property
    def tables(self) -> underbase.FadeTables | None:
        """White and inks by alpha; ``None``: plain alpha."""
        if self.look is None:
            return None
        luminance = float(xyz_from_lab(lab_from_srgb8(self.garment))[1])
        return underbase.fade_tables(luminance**0.5, self.look.scatter)


def print_alpha(art: Rgba, soft: Mask, settings: FollowSettings) -> PrintAlpha:
    """Alpha that white and inks are printed with: plain alpha where no white lies under the colour."""
    return underbase.print_alpha(art, soft, settings.tables)


def white_alpha(print_alpha: PrintAlpha) -> Plane:
    """Alpha that white is printed with."""
    return print_alpha.white


def ink_alpha(print_alpha: PrintAlpha) -> Plane:
    """Alpha that inks are printed with."""
    return print_alpha.ink


@dataclass(frozen=True, eq=False)
class Ground:
    """What white is laid on: artwork after knockout and fades, its inks, alpha of white and inks, the white that each
    colour needs, and white of the design that is treated otherwise."""

    art: Rgba
    cmyk: Inks
    alpha: PrintAlpha
    need: NeedTable | None
    exceptions: Mask | None
    design: DesignSettings = field(repr=False)

    def white_over(self, coverage: Plane, percent: float | None) -> Plane:
        """White within a figure that is already choked; by colour when ``percent`` is ``None``."""
        plane = None if percent is not None or self.need is None else need.need_plane(self.art, self.need)
        return underbase.lay(
            self.art,
            self.cmyk,
            coverage,
            self.alpha,
            self.design.ramp,
            percent,
            self.design.prints_design_white,
            plane,
            self.exceptions,
        )


def ground(
    art: Rgba,
    separated: Inks,
    print_alpha: PrintAlpha,
    need_table: NeedTable | None,
    design_exceptions: Mask | None,
    settings: DesignSettings,
) -> Ground:
    """What white is laid on."""
    return Ground(art, separated, print_alpha, need_table, design_exceptions, settings)


@dataclass(frozen=True)
class LaySettings(UnderSettings):
    """How much white, and whether the device floods the whole sheet with it."""

    whole_sheet: bool = of("settings.white.whole_sheet")


def whole_white(ground: Ground, choked: Choked, fine_black: Mask | None, settings: LaySettings) -> Plane:
    """The white before any holes, ``uint8 (H, W)``, 255 = full."""
    if settings.whole_sheet:
        return np.full(ground.art.shape[:2], 255, np.uint8)
    out = ground.white_over(choked.kept, settings.percent)
    if fine_black is not None:
        out[fine_black > 0] = 0
    return out


@dataclass(frozen=True)
class HighlightSettings:
    """Whether the press has a white of its own for white of the design."""

    whole_sheet: bool = of("settings.white.whole_sheet")
    has_highlight: bool = of("profile.has_highlight")


def whole_highlight(ground: Ground, settings: HighlightSettings) -> Plane | None:
    """White of the design as a channel of its own, where the press has one; under no colour and never pulled in."""
    if not settings.has_highlight or settings.whole_sheet:
        return None
    full = np.full(ground.art.shape[:2], 255, np.uint8)
    return Ground(ground.art, ground.cmyk, ground.alpha, None, ground.exceptions, ground.design).white_over(full, None)


@dataclass(frozen=True)
class HoledSettings:
    """The screen's own choke: how far white is pulled in from its holes."""

    ppi: float
    screen_choke_mm: float = of("settings.white.screen_choke_mm")


def kept_by_holes(cut: Mask | None, settings: HoledSettings) -> Mask | None:
    """Where holes leave white: white and colour share them, and only the screen's own choke widens them for white."""
    return None if cut is None else underbase.shrunk_screen(cut, px_from_mm(settings.screen_choke_mm, settings.ppi))


def white(whole_white: Plane, kept_by_holes: Mask | None) -> Plane:
    """The white that is printed."""
    return whole_white if kept_by_holes is None else np.asarray(cv2.bitwise_and(whole_white, kept_by_holes), np.uint8)


def highlight(whole_highlight: Plane | None, kept_by_holes: Mask | None) -> Plane | None:
    """The highlight white that is printed."""
    return None if whole_highlight is None else white(whole_highlight, kept_by_holes)


@dataclass(frozen=True)
class GiveBackSettings(UnderSettings):
    """How lost colour is given back on this garment."""

    holes: HoleSettings = of("settings.holes")
    look: Appearance | None = of("look")

    def __post_init__(self) -> None:
        super().__post_init__()
        if not self.holes.cuts:
            settle(self, look=None, mode="none", limit=0.0)


def given_back(
    zones: Zones | None, screens: Cut, table: Table, need_table: NeedTable | None, settings: GiveBackSettings
) -> tuple[GiveBack, ...]:
    """What holes do to the colour of each class, and the ink that is given back."""
    if zones is None or not zones.classes or settings.look is None:
        return ()
    rgb = np.array([item.colour for item in zones.classes], np.uint8)
    cmyk = interpolate(table, rgb).astype(np.float64) / 255
    white = white_under(rgb, cmyk, need_table, settings.percent)
    share = np.array([ruled.share for ruled in screens.ruled])
    return holes.give_back(cmyk, white, share, settings.look, settings.holes)


STAGES = (
    stage(colour_errors, 1, "Weighing white by colour"),
    stage(need_table, 2),
    stage(given_back, 1),
    stage(design_exceptions, 1),
    stage(figure, 1),
    stage(print_alpha, 1, "Following fades"),
    stage(white_alpha, 1),
    stage(ink_alpha, 1),
    stage(choked, 3, "Pulling white in"),
    stage(ground, 1),
    stage(fine_black, 1),
    stage(whole_white, 5, "Laying white"),
    stage(whole_highlight, 1),
    stage(kept_by_holes, 1),
    stage(highlight, 1),
    stage(white, 5),
)
