"""What the operator chooses of the white."""

from dataclasses import dataclass
from typing import Annotated, Literal

from annotated_types import Ge, Le, MaxLen

from swaddon.core.artwork.placement import Point
from swaddon.core.colour.spaces import Rgb
from swaddon.core.press.profile import Position
from swaddon.core.schema import Named, Option, Share, Slider
from swaddon.core.units import px_from_mm

WhiteMode = Literal["none", "highlight", "need", "solid", "limit", "only"]


@dataclass(frozen=True)
class FixedWhite:
    """White, 0..1, that one colour gets whatever it needs: within ``tolerance`` ΔE00, fading out up to twice of it."""

    colour: Rgb
    amount: Share
    tolerance: Annotated[float, Ge(0.5), Le(50)] = 6.0


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
    position
        When white is printed; ``None``, or where the press cannot do that: as the press does.
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
    under_fine_black
        Whether white lies under black strokes too fine to cover it; ``None``: where the press has a black of its own.
    registration_mm
        Error of registration (σ) as measured; ``None``: the press profile's.
    """

    mode: Annotated[
        WhiteMode,
        Named(
            "White under colour",
            "Change white",
            (
                ("none", "None under colour"), ("highlight", "Highlights"), ("need", "By need"), ("solid", "Solid"),
                ("limit", "Coverage"), ("only", "White only"),
            ),
        ),
    ] = "solid"  # fmt: skip
    limit: Annotated[float, Ge(0), Le(400), Slider("Coverage", "%", 5, "Change coverage limit", least=100)] = 280.0
    design: (
        Annotated[
            bool,
            Named("Print white of the design", "Change white of the design"),
            Option(
                "--design-white/--no-design-white",
                "Print white that is part of the design, or leave it bare. Default: bare on white garments, else ink.",
            ),
        ]
        | None
    ) = None
    choke_mm: Annotated[float, Ge(0), Le(2), Slider("Choke", "mm", 0.01, "Change choke", most=1)] = 0.25
    allowed_shift: Annotated[float, Ge(0), Le(50), Slider("Allowed", "ΔE", 0.5, "Change allowed shift", most=16)] = 3.0
    least: Annotated[Share, Slider("Least", "%", 0.01, "Change least white", times=100)] = 0.0
    most: Annotated[Share, Slider("Most", "%", 0.01, "Change most white", times=100)] = 1.0
    guard: Annotated[
        bool,
        Named("Guard thin strokes", "Change the guard"),
        Option("--guard/--no-guard", "Leave thin strokes a core of white, or let the choke take it."),
    ] = True
    registration_mm: (
        Annotated[float, Ge(0), Le(2), Slider("Error", "mm", 0.01, "Enter the registration error", most=0.5)] | None
    ) = None
    worst_case: Annotated[bool, Named("This is the worst that occurs", "Change the kind of registration error")] = False
    squeeze_mm: (
        Annotated[
            float,
            Ge(0),
            Le(2),
            Slider("Squeeze", "mm", 0.01, "Enter the squeeze", most=0.3),
            Option("--squeeze", "How far the press squeezes white outwards, in mm or in. Default: the profile's."),
        ]
        | None
    ) = None
    screen_choke_mm: Annotated[
        float,
        Ge(0),
        Le(1),
        Slider("In holes", "mm", 0.01, "Change the choke of the screen", most=0.3),
        Option("--screen-choke", "How far white is pulled in from the holes of a screen, in mm or in. Default: 0mm."),
    ] = 0.0
    fixed: tuple[FixedWhite, ...] = ()
    design_rules: tuple[DesignRule, ...] = ()
    hits: Annotated[tuple[Share, ...], MaxLen(4)] = ()
    strengthen: Annotated[
        bool,
        Named("Strengthen inks for the cloth", "Strengthen inks for the cloth"),
        Option("--strengthen/--no-strengthen", "Solve the inks for the garment's tint where no white lies under them."),
    ] = False
    whole_sheet: Annotated[
        bool,
        Named("The device floods the sheet", "Change the flooding of the sheet"),
        Option("--whole-sheet/--picture-only", "Plan for a device that floods the whole sheet with white, or not."),
    ] = False
    position: (
        Annotated[
            Position,
            Named("White prints", "Move white", (("first", "First"), ("last", "Last"))),
            Option("--white-position", "When white is printed: first or last. Default: as the press does."),
        ]
        | None
    ) = None

    under_fine_black: (
        Annotated[
            bool,
            Named("White under fine black", "Change white under fine black"),
            Option(
                "--white-under-fine-black/--no-white-under-fine-black",
                "White under black strokes thinner than 1 mm. Default: where the press has a black of its own.",
            ),
        ]
        | None
    ) = None

    @property
    def choke_text(self) -> str:
        """The choke in words."""
        return f"{self.choke_mm:.2f} mm"

    def choke_px(self, ppi: float) -> float:
        """The choke in pixels."""
        return px_from_mm(self.choke_mm, ppi)

    @property
    def is_alone(self) -> bool:
        """Whether the artwork is printed in white without any colour."""
        return self.mode == "only"

    @property
    def goes_by_colour(self) -> bool:
        """Whether the white under a colour is read from a table of colours."""
        return self.mode in ("highlight", "need", "only")
