"""What the operator chooses to take out of the artwork, and what becomes of half-transparent pixels."""

from dataclasses import dataclass, field
from typing import Annotated, Literal

from annotated_types import MaxLen, MinLen

from swaddon.core.artwork.background import border_tolerance
from swaddon.core.artwork.placement import Point
from swaddon.core.colour.spaces import Rgb
from swaddon.core.holes.settings import Screen
from swaddon.core.schema import DeltaE, Named, Share, Slider, flat

Reach = Literal["outside", "everywhere", "clicked"]


Edge = Literal["soft", "hard"]


AlphaKind = Literal["keep", "hard", "screen"]


@dataclass(frozen=True)
class Knockout:
    """One colour that goes. ``colour`` ``None`` is the garment's own and follows it; tolerance in ΔE00.

    ``points`` (artwork pixels) name the enclosed areas that go when ``reach`` is ``clicked``, ``kept`` those that stay
    whatever it is. ``clean`` also takes the speckle and halo that JPEG leaves round the removed colour.
    """

    colour: Rgb | None
    tolerance: Annotated[DeltaE, Slider("Tolerance", "ΔE", 0.5, "Change tolerance", most=40)] = 8.0
    reach: Annotated[
        Reach,
        Named(
            "Reach",
            "Change a knockout",
            (("outside", "Outside"), ("everywhere", "Everywhere"), ("clicked", "Clicked")),
        ),
    ] = "outside"
    edge: Annotated[Edge, Named("Edge", "Change a knockout", (("soft", "Soft"), ("hard", "Hard")))] = "soft"
    points: Annotated[tuple[Point, ...], Named("Clicked areas", "Change a knockout")] = ()
    clean: Annotated[bool, Named("Clean up JPEG halo", "Change a knockout")] = False
    kept: Annotated[tuple[Point, ...], Named("Kept areas", "Change a knockout")] = ()

    def resolved(self, garment: Rgb) -> Rgb:
        """The colour as sRGB."""
        return garment if self.colour is None else self.colour


def usual_knockout(colour: Rgb | None, file_format: str, reach: Reach = "outside") -> Knockout:
    """A knockout with the tolerance that its kind of file needs, whichever way it is asked for.

    >>> usual_knockout((0, 0, 0), "JPEG").tolerance
    12.0
    """
    tolerance = max(Knockout(colour).tolerance, border_tolerance(file_format))
    return Knockout(colour, tolerance, reach, clean=file_format == "JPEG")


@dataclass(frozen=True)
class Keep:
    """What no knockout may take: a colour everywhere, or (with a point in artwork pixels) its area at that point."""

    colour: Rgb
    tolerance: DeltaE = 8.0
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
    level: Annotated[Share, Slider("Cut level", "%", 0.05, "Treat fades", 0.05, 0.95, times=100)] = 0.5
    screen: Screen = field(default_factory=Screen, metadata=flat(lpi="lpi", angle="angle"))
    haze_below: Annotated[Share, Slider("Drop haze", "%", 0.01, "Treat fades", most=0.5, times=100)] = 0.0


MOST_CORNERS = 2000


@dataclass(frozen=True)
class OutlineKnockout:
    """A closed line drawn by hand: what becomes of one side of it, whatever its colours.

    Attributes
    ----------
    points
        Its corners in artwork pixels; it must not cross itself.
    side, act
        Which side, and whether that goes or is kept from every knockout.
    """

    points: Annotated[tuple[Point, ...], MinLen(3), MaxLen(MOST_CORNERS)]
    side: Annotated[
        Literal["inside", "outside"],
        Named("Side", "Change an outline", (("inside", "Inside"), ("outside", "Outside"))),
    ] = "outside"
    act: Annotated[
        Literal["knock", "keep"],
        Named("What becomes of it", "Change an outline", (("knock", "Goes"), ("keep", "Stays"))),
    ] = "knock"
