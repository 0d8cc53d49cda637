"""What the operator chooses of the holes."""

from dataclasses import dataclass
from typing import Annotated, Literal

from annotated_types import Ge, Le, MaxLen

from swaddon.core.artwork.placement import Point
from swaddon.core.colour.spaces import Rgb
from swaddon.core.schema import Degrees, Lpi, Named, Option, Share, Slider

Pattern = Literal["round", "inverted", "line", "tile"]


PATTERNS: tuple[Pattern, ...] = ("round", "inverted", "line", "tile")


@dataclass(frozen=True)
class Screen:
    """One way of cutting holes.

    Attributes
    ----------
    pattern
        ``round``: dots of ink; ``inverted``: round holes; ``line``; ``tile``: a picture whose black is cut out.
    lpi, angle
        Lines per inch, and degrees counter-clockwise from the horizontal. A tile has a width in mm instead of lpi.
    share
        Share of ink left, 0..1; ``None``: as the tile is drawn (0.85 for other patterns).
    tone
        Tone, 0..1, that the region is reduced to before the screen.
    tile, tile_mm
        Name of the tile and its width.
    """

    pattern: Pattern = "round"
    lpi: Annotated[Lpi, Slider("Ruling", "lpi", 0.5, "Change holes", 10, 85)] = 35.0
    angle: Annotated[Degrees, Slider("Angle", "°", 0.5, "Change holes", 0, 90)] = 52.5
    share: Annotated[Share, Slider("Ink left", "%", 0.01, "Change holes", least=0.05, times=100)] | None = 0.85
    tone: Annotated[Share, Slider("Tone before", "%", 0.01, "Change holes", least=0.3, times=100)] = 1.0
    tile: Annotated[str, MaxLen(200)] = ""
    tile_mm: Annotated[float, Ge(0.5), Le(500), Slider("Tile width", "mm", 0.5, "Change holes", 1, 60)] = 8.0


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

    default: Annotated[Screen, Named("Every region", "Treat every region")] | None = None
    rules: tuple[RegionRule, ...] = ()
    fine_mm: Annotated[
        float,
        Ge(0),
        Le(50),
        Slider("Solid under", "mm", 0.1, "Change fine parts", most=10),
        Option("--fine", "Parts narrower than this stay solid, in mm or in. Default: 2mm."),
    ] = 2.0
    give_back: Annotated[bool, Named("Give colour back with more ink", "Give colour back")] = False
    give_back_limit: Annotated[float, Ge(1), Le(3)] = 1.5
    deeper_black: Annotated[
        Share,
        Slider("Deeper black", "%", 0.01, "Deepen blacks", most=0.5, times=100),
        Option("--deeper-black", "Black added to dark colours with holes, as a share 0..1. Default: 0."),
    ] = 0.0

    @property
    def cuts(self) -> bool:
        """Whether any region may get holes."""
        return self.default is not None or any(rule.screen is not None for rule in self.rules)
