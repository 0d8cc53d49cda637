"""Settings as they come from outside: checked, ranged, and turned into the core's values."""

from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field

from swaddon.core.artwork.placement import Placement
from swaddon.core.colour.spaces import Rgb, rgb_from_hex
from swaddon.core.holes.settings import HoleSettings, RegionRule, Screen
from swaddon.core.knockout.settings import AlphaTreatment, Keep, Knockout
from swaddon.core.order.settings import PlanSettings
from swaddon.core.white.settings import DesignRule, FixedWhite, WhiteSettings

Colour = Annotated[str, Field(pattern="^#[0-9a-fA-F]{6}$")]
Share = Annotated[float, Field(ge=0, le=1)]
Coordinate = Annotated[float, Field(ge=-1e6, le=1e6)]
PointPair = tuple[Coordinate, Coordinate]
Lpi = Annotated[float, Field(ge=5, le=300)]
Angle = Annotated[float, Field(ge=-360, le=360)]


class Strict(BaseModel):
    """A model that refuses what it does not know."""

    model_config = ConfigDict(extra="forbid")


class ScreenModel(Strict):
    pattern: Literal["round", "inverted", "line", "tile"]
    lpi: Lpi = 35.0
    angle: Angle = 52.5
    share: Share | None = 0.85
    tone: Share = 1.0
    tile: Annotated[str, Field(max_length=200)] = ""
    tile_mm: Annotated[float, Field(gt=0.2, le=500)] = 8.0

    def value(self) -> Screen:
        return Screen(self.pattern, self.lpi, self.angle, self.share, self.tone, self.tile, self.tile_mm)


class _Knockout(Strict):
    colour: Colour | None
    tolerance: Annotated[float, Field(ge=0, le=100)]
    reach: Literal["outside", "everywhere", "clicked"]
    edge: Literal["soft", "hard"]
    points: list[PointPair] = []
    clean: bool = False

    def value(self) -> Knockout:
        return Knockout(_rgb(self.colour), self.tolerance, self.reach, self.edge, tuple(self.points), self.clean)


class _Keep(Strict):
    colour: Colour
    tolerance: Annotated[float, Field(ge=0, le=100)]
    point: PointPair | None = None

    def value(self) -> Keep:
        return Keep(rgb_from_hex(self.colour), self.tolerance, self.point)


class _Alpha(Strict):
    kind: Literal["keep", "hard", "screen"]
    level: Share = 0.5
    lpi: Lpi = 35.0
    angle: Angle = 52.5
    haze_below: Share = 0.0

    def value(self) -> AlphaTreatment:
        return AlphaTreatment(self.kind, self.level, Screen("round", self.lpi, self.angle), self.haze_below)


class _Rule(Strict):
    screen: ScreenModel | None
    points: list[PointPair] = []
    colour: Colour | None = None

    def value(self) -> RegionRule:
        screen = None if self.screen is None else self.screen.value()
        return RegionRule(screen, tuple(self.points), _rgb(self.colour))


class _Holes(Strict):
    default: ScreenModel | None = None
    rules: list[_Rule] = []
    fine_mm: Annotated[float, Field(ge=0, le=50)] = 2.0
    give_back: bool = False
    give_back_limit: Annotated[float, Field(ge=1, le=3)] = 1.5
    deeper_black: Share = 0.0

    def value(self) -> HoleSettings:
        return HoleSettings(
            default=None if self.default is None else self.default.value(),
            rules=tuple(rule.value() for rule in self.rules),
            fine_mm=self.fine_mm,
            give_back=self.give_back,
            give_back_limit=self.give_back_limit,
            deeper_black=self.deeper_black,
        )


class _Fixed(Strict):
    colour: Colour
    amount: Share
    tolerance: Annotated[float, Field(gt=0, le=50)] = 6.0

    def value(self) -> FixedWhite:
        return FixedWhite(rgb_from_hex(self.colour), self.amount, self.tolerance)


class _DesignRule(Strict):
    point: PointPair
    ink: bool

    def value(self) -> DesignRule:
        return DesignRule(self.point, self.ink)


class _White(Strict):
    mode: Literal["none", "highlight", "need", "solid", "limit", "only"]
    limit: Annotated[float, Field(ge=0, le=400)]
    design: bool | None
    choke_mm: Annotated[float, Field(ge=0, le=2)]
    allowed_shift: Annotated[float, Field(ge=0, le=50)] = 3.0
    least: Share = 0.0
    most: Share = 1.0
    guard: bool = True
    registration_mm: Annotated[float, Field(ge=0, le=2)] | None = None
    worst_case: bool = False
    squeeze_mm: Annotated[float, Field(ge=0, le=2)] | None = None
    screen_choke_mm: Annotated[float, Field(ge=0, le=1)] = 0.0
    fixed: list[_Fixed] = []
    design_rules: list[_DesignRule] = []
    hits: Annotated[list[Share], Field(max_length=4)] = []
    strengthen: bool = False
    whole_sheet: bool = False

    def value(self) -> WhiteSettings:
        plain = self.model_dump(exclude={"fixed", "design_rules", "hits"})
        return WhiteSettings(
            **plain,
            fixed=tuple(item.value() for item in self.fixed),
            design_rules=tuple(item.value() for item in self.design_rules),
            hits=tuple(self.hits),
        )


class SettingsModel(Strict):
    """Settings of job files since version 2."""

    width_mm: Annotated[float, Field(gt=0, le=5000)]
    garment: Colour
    crop_px: tuple[int, int, int, int] | None = None
    quarter_turns: Annotated[int, Field(ge=0, le=3)] = 0
    drop_mm: Annotated[float, Field(ge=0, le=1000)] = 76.2
    knockouts: list[_Knockout] = []
    keeps: list[_Keep] = []
    alpha: _Alpha | None = None
    holes: _Holes = Field(default_factory=_Holes)
    white: _White
    mirrored: bool | None
    quantity: Annotated[int, Field(ge=1, le=1_000_000)]
    gamut: Literal["hue", "steps"] = "hue"

    def value(self) -> PlanSettings:
        return PlanSettings(
            width_mm=self.width_mm,
            garment=rgb_from_hex(self.garment),
            placement=Placement(self.crop_px, self.quarter_turns),
            drop_mm=self.drop_mm,
            knockouts=tuple(item.value() for item in self.knockouts),
            keeps=tuple(item.value() for item in self.keeps),
            alpha=None if self.alpha is None else self.alpha.value(),
            holes=self.holes.value(),
            white=self.white.value(),
            mirrored=self.mirrored,
            quantity=self.quantity,
            gamut=self.gamut,
        )


def _rgb(colour: str | None) -> Rgb | None:
    return None if colour is None else rgb_from_hex(colour)


def second_version(settings: dict[str, Any]) -> dict[str, Any]:
    """Settings of a version 1 job file as version 2 has them: ``half_transparent`` became ``alpha``."""
    moved = dict(settings)
    level = moved.pop("half_transparent", None)
    moved["alpha"] = {"kind": "keep"} if level is None else {"kind": "hard", "level": level}
    return moved
