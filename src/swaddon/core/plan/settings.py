"""What the operator chooses. Plain frozen values: they are compared, hashed, stored and undone."""

from dataclasses import dataclass, field
from typing import Literal

from swaddon.core.colour import Rgb
from swaddon.core.knockout import Edge, Reach
from swaddon.core.profile import PressProfile

WhiteMode = Literal["none", "solid", "limit"]


@dataclass(frozen=True)
class Knockout:
    """One colour that goes. ``colour`` ``None`` is the garment's own and follows it; tolerance in ΔE00."""

    colour: Rgb | None
    tolerance: float = 8.0
    reach: Reach = "outside"
    edge: Edge = "soft"

    def resolved(self, garment: Rgb) -> Rgb:
        """The colour as sRGB."""
        return garment if self.colour is None else self.colour


@dataclass(frozen=True)
class WhiteSettings:
    """White under colour and in the design. ``limit`` is C+M+Y+K in percent, used by mode ``limit``."""

    mode: WhiteMode = "solid"
    limit: float = 280.0
    design: bool = True
    choke_mm: float = 0.25


@dataclass(frozen=True)
class PlanSettings:
    """Everything that decides a plan besides artwork and profile.

    ``half_transparent`` is ``None`` to keep half-transparent pixels, else the alpha (0..1) of a hard cut.
    ``mirrored`` is ``None`` for what the process needs.
    """

    width_mm: float = 250.0
    garment: Rgb = (27, 27, 31)
    knockouts: tuple[Knockout, ...] = ()
    half_transparent: float | None = None
    white: WhiteSettings = field(default_factory=WhiteSettings)
    mirrored: bool | None = None
    quantity: int = 1

    def is_mirrored(self, profile: PressProfile) -> bool:
        """Whether the medium is printed mirrored."""
        return profile.mirrored if self.mirrored is None else self.mirrored
