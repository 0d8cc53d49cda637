"""What the operator chooses. Plain frozen values: they are compared, hashed, stored and undone."""

from dataclasses import dataclass, field, replace
from typing import Literal

from swaddon.core.colour import Rgb
from swaddon.core.goods import is_white
from swaddon.core.knockout import Edge, Reach
from swaddon.core.placement import Placement, Point
from swaddon.core.profile import Gamut, PressProfile, Registration
from swaddon.core.screen import Screen

WhiteMode = Literal["none", "highlight", "need", "solid", "limit", "only"]
AlphaKind = Literal["keep", "hard", "screen"]


@dataclass(frozen=True)
class Knockout:
    """One colour that goes. ``colour`` ``None`` is the garment's own and follows it; tolerance in ΔE00.

    ``points`` (artwork pixels) name the enclosed areas that go when ``reach`` is ``clicked``. ``clean`` also takes the
    speckle and halo that JPEG leaves round the removed colour.
    """

    colour: Rgb | None
    tolerance: float = 8.0
    reach: Reach = "outside"
    edge: Edge = "soft"
    points: tuple[Point, ...] = ()
    clean: bool = False

    def resolved(self, garment: Rgb) -> Rgb:
        """The colour as sRGB."""
        return garment if self.colour is None else self.colour


@dataclass(frozen=True)
class Keep:
    """What no knockout may take: a colour everywhere, or (with a point in artwork pixels) its area at that point."""

    colour: Rgb
    tolerance: float = 8.0
    point: Point | None = None


@dataclass(frozen=True)
class AlphaTreatment:
    """What becomes of half-transparent pixels.

    Attributes
    ----------
    kind
        ``keep``; ``hard``: full from ``level`` (0..1) on, gone below; ``screen``: fades become dots of the screen,
        rims are cut hard at ``level``.
    screen
        lpi and angle of the screen that fades get.
    haze_below
        Alpha, 0..1, under which a fade is taken away before anything else.
    """

    kind: AlphaKind = "keep"
    level: float = 0.5
    screen: Screen = field(default_factory=Screen)
    haze_below: float = 0.0


@dataclass(frozen=True)
class RegionRule:
    """How some regions are treated: those at ``points`` (artwork pixels), or all of one ``colour``; ``None``: solid."""

    screen: Screen | None
    points: tuple[Point, ...] = ()
    colour: Rgb | None = None


@dataclass(frozen=True)
class HoleSettings:
    """Holes in the print.

    Attributes
    ----------
    default
        Screen of every region without a rule; ``None``: solid.
    rules
        Regions treated otherwise; later rules win, and rules by point win over rules by colour.
    fine_mm
        Parts of a region narrower than this stay solid, unless a rule names the region by point.
    give_back
        Whether colour lost to holes is given back by more ink, up to ``give_back_limit`` times.
    deeper_black
        Share, 0..1, of black added where a holed colour is dark.
    """

    default: Screen | None = None
    rules: tuple[RegionRule, ...] = ()
    fine_mm: float = 2.0
    give_back: bool = False
    give_back_limit: float = 1.5
    deeper_black: float = 0.0

    @property
    def cuts(self) -> bool:
        """Whether any region may get holes."""
        return self.default is not None or any(rule.screen is not None for rule in self.rules)


@dataclass(frozen=True)
class FixedWhite:
    """White, 0..1, that one colour gets whatever it needs: within ``tolerance`` ΔE00, fading out up to twice of it."""

    colour: Rgb
    amount: float
    tolerance: float = 6.0


@dataclass(frozen=True)
class DesignRule:
    """Whether the area of white of the design at a point (artwork pixels) is ink, or bare cloth."""

    point: Point
    ink: bool


@dataclass(frozen=True)
class WhiteSettings:
    """White under colour and in the design.

    Attributes
    ----------
    mode
        ``none``; ``highlight``: under the lightest tints only; ``need``: the least that holds each colour; ``solid``;
        ``limit``: under colours of little ink; ``only``: the artwork in white alone, without any colour.
    limit
        C+M+Y+K in percent, used by mode ``limit``.
    design
        Whether white of the design is printed; ``None``: on all but white garments.
    design_rules
        Areas of white of the design that are treated otherwise.
    fixed
        Colours whose white is set by hand, where white goes by colour (``need``, ``highlight``).
    hits
        Amount of each hit, 0..1 of a full one; empty: one full hit per white slot.
    screen_choke_mm
        How far white is pulled in from the holes of a screen.
    worst_case
        Whether the registration error is the largest that occurs instead of a standard deviation.
    squeeze_mm
        How far the press squeezes white outwards; ``None``: the press profile's.
    strengthen
        Whether inks are solved for this garment's tint, where no white lies under them.
    whole_sheet
        Whether the device floods the whole artboard with white instead of the picture's.
    allowed_shift, least, most
        Used by mode ``need``: ΔE00 that a colour may lose, and the least and most white, 0..1.
    guard
        Whether thin strokes keep a core of white that the choke would take.
    registration_mm
        Error of registration (σ) as measured; ``None``: the press profile's.
    """

    mode: WhiteMode = "solid"
    limit: float = 280.0
    design: bool | None = None
    choke_mm: float = 0.25
    allowed_shift: float = 3.0
    least: float = 0.0
    most: float = 1.0
    guard: bool = True
    registration_mm: float | None = None
    worst_case: bool = False
    squeeze_mm: float | None = None
    screen_choke_mm: float = 0.0
    fixed: tuple[FixedWhite, ...] = ()
    design_rules: tuple[DesignRule, ...] = ()
    hits: tuple[float, ...] = ()
    strengthen: bool = False
    whole_sheet: bool = False

    @property
    def goes_by_colour(self) -> bool:
        """Whether the white under a colour is read from a table of colours."""
        return self.mode in ("highlight", "need", "only")


@dataclass(frozen=True)
class PlanSettings:
    """Everything that decides a plan besides artwork and profile.

    ``alpha`` is ``None`` for what the process needs, ``mirrored`` likewise. ``drop_mm`` is the distance from the
    collar to the print; it places the print on the garment and changes no pixel. ``gamut`` says what becomes of colours
    beyond the inks (``profile.Separation``).
    """

    width_mm: float = 250.0
    garment: Rgb = (27, 27, 31)
    placement: Placement = field(default_factory=Placement)
    drop_mm: float = 76.2
    knockouts: tuple[Knockout, ...] = ()
    keeps: tuple[Keep, ...] = ()
    alpha: AlphaTreatment | None = None
    holes: HoleSettings = field(default_factory=HoleSettings)
    white: WhiteSettings = field(default_factory=WhiteSettings)
    mirrored: bool | None = None
    quantity: int = 1
    gamut: Gamut = "hue"

    def scaled(self, factor: float) -> "PlanSettings":
        """The same settings for artwork of ``factor`` times the pixels on a side: every artwork point moves along."""

        def moved(points: tuple[Point, ...]) -> tuple[Point, ...]:
            return tuple((x * factor, y * factor) for x, y in points)

        rules = tuple(replace(rule, points=moved(rule.points)) for rule in self.holes.rules)
        white = tuple(replace(rule, point=moved((rule.point,))[0]) for rule in self.white.design_rules)
        return replace(
            self,
            placement=self.placement.scaled(factor, factor),
            knockouts=tuple(replace(item, points=moved(item.points)) for item in self.knockouts),
            keeps=tuple(
                item if item.point is None else replace(item, point=moved((item.point,))[0]) for item in self.keeps
            ),
            holes=replace(self.holes, rules=rules),
            white=replace(self.white, design_rules=white),
        )

    @property
    def prints_design_white(self) -> bool:
        """Whether white of the design is ink: as chosen, else on all but white garments, whose cloth shows as well."""
        return not is_white(self.garment) if self.white.design is None else self.white.design

    @property
    def strengthens(self) -> bool:
        """Whether inks are solved for the garment's tint: only where no white lies under the colours."""
        return self.white.strengthen and self.white.mode in ("none", "highlight")

    def registration(self, profile: PressProfile) -> Registration:
        """Registration as measured and entered, else the press profile's."""
        own, white = profile.registration, self.white
        return Registration(
            own.sigma_mm if white.registration_mm is None else white.registration_mm,
            own.squeeze_mm if white.squeeze_mm is None else white.squeeze_mm,
            white.worst_case,
        )

    def is_mirrored(self, profile: PressProfile) -> bool:
        """Whether the medium is printed mirrored."""
        return profile.mirrored if self.mirrored is None else self.mirrored

    def alpha_treatment(self, profile: PressProfile) -> AlphaTreatment:
        """What becomes of half-transparent pixels: chosen, or the process's own.

        Film has nothing to hold thin ink with, so fades are screened; direct printing keeps them.
        """
        if self.alpha is not None:
            return self.alpha
        return default_alpha(profile)


def default_alpha(profile: PressProfile) -> AlphaTreatment:
    """The process's own treatment of half-transparent pixels (common practice, no source)."""
    return AlphaTreatment("screen" if profile.process == "film" else "keep")
