"""A press profile: what one device and its supplies do. Plain values; files are read in ``swaddon.io``."""

import math
from dataclasses import dataclass, field, replace
from decimal import Decimal
from typing import Literal

import numpy as np

from swaddon.core.colour.spaces import bands_from_lab
from swaddon.core.press.measured import Measured, latest
from swaddon.core.press.processes import PROCESSES, Process
from swaddon.core.press.registration import Refeed, Registration
from swaddon.core.press.steps import Figures
from swaddon.core.press.working import Stated, Weighed, Working

INKS = ("C", "M", "Y", "K")
"""Colour inks in the order of every ``(..., 4)`` CMYK array."""

PRIMARY_NAMES = tuple(
    "".join(ink for bit, ink in enumerate(INKS) if index >> bit & 1) or "paper" for index in range(16)
)
"""Names of the 16 Neugebauer primaries; bit 0 of the index is C, bit 3 is K."""

Gamut = Literal["hue", "steps"]
Position = Literal["first", "last"]
"""When white is printed: before the colours, or after them."""

Role = Literal["white", "colour", "highlight"]
"""``highlight`` is a white of its own for white of the design, besides the underbase."""


@dataclass(frozen=True)
class Slot:
    """One ink position of the device, counted from the left as seen from the front."""

    number: int
    ink: str
    role: Role


@dataclass(frozen=True)
class Separation:
    """Colour of the inks on full white, and how black takes over from C, M and Y.

    Attributes
    ----------
    primaries_lab
        16 CIELAB (D50) triples relative to full white, in the order of ``PRIMARY_NAMES``.
    yule_nielsen_n
        Yule-Nielsen factor, >= 1.
    black_start
        Common C, M, Y share, 0..1, at which black begins.
    black_strength
        Share of the grey component above ``black_start`` that black takes over, 0..1, where it costs no colour; 0: the
        press has no black.
    total_area_limit
        Largest C+M+Y+K in percent.
    gamut
        Colours beyond the inks: ``hue``: each goes to the nearest one there is; ``steps``: they move inwards together,
        so that steps between them stay.
    tone_curves
        Of each ink, how much it covers in print where 0, 10, … 100 % of it were sent (dot gain), 0..1, rising; none:
        as much as was sent.
    """

    primaries_lab: tuple[tuple[float, float, float], ...]
    yule_nielsen_n: float
    black_start: float
    black_strength: float
    total_area_limit: float
    gamut: Gamut = "hue"
    tone_curves: tuple[tuple[float, ...], ...] = ()

    def primaries(self) -> np.ndarray:
        """``float64 (16, 3)`` band reflectances relative to full white."""
        return np.clip(bands_from_lab(np.array(self.primaries_lab)), 1e-4, 1.0)


@dataclass(frozen=True)
class WhiteInk:
    """What one full hit of white does and where white in the design begins.

    Attributes
    ----------
    contrast_ratio
        Reflectance over black divided by reflectance over white of one full white, 0..1.
    design_from, design_full
        Smallest sRGB component, 0..1, at which a colour begins to count, and counts fully, as white of the
        design.
    default_choke_mm
        Choke that a new job starts with.
    least_stroke_mm
        Narrowest white that prints and holds; the guard leaves that much in thin strokes.
    hits
        Amount of each hit, 0..1 of a full one; empty: one full hit per white slot.
    bleed_share
        Share of white that scatters through the colour over it when it lies full (toner); 0 where none does.
    highlight_from
        Smallest sRGB component, 0..1, from which tints get white in a plan of highlights only.
    """

    contrast_ratio: float
    design_from: float
    design_full: float
    default_choke_mm: float
    least_stroke_mm: float = 0.1
    hits: tuple[float, ...] = ()
    bleed_share: float = 0.0
    highlight_from: float = 0.7

    @property
    def scatter(self) -> float:
        """S·X of one full hit: contrast ratio c gives c / (1 − c) (Kubelka 1948, no absorption)."""
        return self.contrast_ratio / (1 - self.contrast_ratio)


@dataclass(frozen=True)
class Holds:
    """Smallest details, in mm, that survive printing, pressing and washing."""

    line_mm: float = 0.25
    gap_mm: float = 0.2
    dot_mm: float = 0.2
    hole_mm: float = 0.15


@dataclass(frozen=True)
class Supply:
    """Something bought: its price and the share that is thrown away.

    ``waste_share`` is a share of what ends up on the shirt: 0.25 buys 1.25 times of it. ``note`` tells where the price
    is from; ``density_g_ml`` is what a millilitre weighs (common practice, no source: 1 g ≈ 1 ml of ink).
    """

    name: str
    unit: str
    unit_price: Decimal
    waste_share: float
    note: str = ""
    density_g_ml: float = 1.0

    @property
    def grams(self) -> float:
        """What one unit weighs in g; of a fluid counted in ml by its density."""
        return self.density_g_ml if self.unit == "ml" else 1.0


def _bare(supply: Supply) -> Supply:
    return replace(supply, unit_price=Decimal(0), waste_share=0.0, note="")


@dataclass(frozen=True)
class Powder:
    """Adhesive powder per printed area (g/m²) and per ink volume (g/ml)."""

    per_area_g_m2: float
    per_ink_g_ml: float
    supply: Supply


@dataclass(frozen=True)
class Sheet:
    """Medium or fluid used by area: film (m²), or pretreat with its amount per m².

    ``only_under_white`` is for pretreat: prints without white get none; else light garments get the same as dark ones.
    """

    amount_per_m2: float
    margin_mm: float
    supply: Supply
    only_under_white: bool = True


@dataclass(frozen=True)
class Phase:
    """One travel of the heads over the print: which roles it lays, and in how many passes."""

    name: str
    roles: tuple[Role, ...]
    passes: int


@dataclass(frozen=True)
class Carriage:
    """Time constants of the printer: fixed seconds per print, head height, carriage speed, turn-round.

    ``one_way``: it prints in one direction and comes back empty; ``refeed_s`` is what feeding a second pass takes.
    """

    fixed_s: float
    head_height_mm: float
    speed_mm_s: float
    turn_s: float
    phases: tuple[Phase, ...]
    one_way: bool = False
    refeed_s: float = 0.0


@dataclass(frozen=True)
class PressProfile:
    """Device and supplies of one way of printing; ``source`` is the text that it was read from.

    ``last_slot`` is the number of the last slot where that is empty. ``white_can_go`` says where the white slots can
    sit; empty: only where ``print_order`` has white. ``measured`` tells which constants were measured, oldest first,
    ``stated`` where others are from, ``weighed`` how sure weigh-ins are, oldest first. ``usual_medium`` names what it
    mostly prints on. ``steps`` are figures of steps at the press, ``ways`` the shop's in what schools differ in.
    """

    name: str
    title: str
    process: str
    plan_ppi: float
    currency: str
    mirrored: bool
    slots: tuple[Slot, ...]
    print_order: tuple[Role, ...]
    separation: Separation
    white: WhiteInk
    lay_down_per_m2: dict[str, float]
    white_ink: Supply
    colour_ink: Supply
    carriage: Carriage
    film: Sheet | None = None
    pretreat: Sheet | None = None
    powder: Powder | None = None
    sheet: Supply | None = None
    cures_per_m2: float | None = None
    largest_print_mm: tuple[float, float] = (400.0, 500.0)
    holds: Holds = field(default_factory=Holds)
    registration: Registration = field(default_factory=Registration)
    refeed: Refeed | None = None
    source: str = field(default="", compare=False, repr=False)
    notes: str = ""
    cautions: tuple[str, ...] = field(default=())
    white_can_go: tuple[Position, ...] = ()
    white_name: str = "White"
    last_slot: int = 0
    measured: tuple[Measured, ...] = ()
    working: Working = field(default_factory=Working)
    stated: tuple[Stated, ...] = ()
    weighed: tuple[Weighed, ...] = ()
    usual_medium: str = ""
    steps: tuple[tuple[str, Figures], ...] = ()
    ways: tuple[tuple[str, str], ...] = ()

    @property
    def printing(self) -> Process:
        """The process that the press prints by."""
        return PROCESSES[self.process]

    @property
    def slot_count(self) -> int:
        """How many slots there are, empty ones too; one whose ink is swapped for a second pass counts once."""
        return max(self.last_slot, *(slot.number for slot in self.slots))

    @property
    def ink_unit(self) -> str:
        """Unit of ink or toner, that ``lay_down_per_m2`` counts for a full hit: ml or g."""
        return self.white_ink.unit

    @property
    def medium(self) -> str:
        """What the print is laid on first."""
        return self.printing.medium

    @property
    def ink_name(self) -> str:
        return self.printing.colourant

    @property
    def colour_slots(self) -> tuple[Slot, ...]:
        """Slots that hold a colour ink, left to right."""
        return tuple(slot for slot in self.slots if slot.role == "colour")

    @property
    def inks(self) -> tuple[str, ...]:
        """The colour inks that the press has, in the order of ``INKS``."""
        held = {slot.ink for slot in self.colour_slots}
        return tuple(ink for ink in INKS if ink in held)

    @property
    def has_black(self) -> bool:
        """Whether a slot holds black; without, black is made of C, M and Y."""
        return "K" in self.inks

    @property
    def white_slots(self) -> tuple[Slot, ...]:
        """Slots that hold white, left to right; each is one hit."""
        return tuple(slot for slot in self.slots if slot.role == "white")

    @property
    def has_white(self) -> bool:
        """Whether any slot holds white."""
        return bool(self.white_slots)

    @property
    def hits(self) -> tuple[float, ...]:
        """Amount of each hit of white, 0..1 of a full one, in print order."""
        return (self.white.hits or (1.0,) * len(self.white_slots)) if self.has_white else ()

    @property
    def white_rounds(self) -> int:
        """How often the white heads must pass to lay all hits: each slot lays one at a time."""
        return max(1, math.ceil(len(self.hits) / max(1, len(self.white_slots))))

    @property
    def scatter(self) -> float:
        """S·X of all hits of white."""
        return self.white.scatter * sum(self.hits)

    def with_hits(self, hits: tuple[float, ...]) -> "PressProfile":
        """The same press with other hits of white; none given leaves its own."""
        return replace(self, white=replace(self.white, hits=hits)) if hits else self

    def with_gamut(self, gamut: Gamut) -> "PressProfile":
        """The same press with colours beyond its inks treated so."""
        if gamut == self.separation.gamut:
            return self
        return replace(self, separation=replace(self.separation, gamut=gamut))

    @property
    def highlight_slots(self) -> tuple[Slot, ...]:
        """Slots that hold highlight white, left to right; each is one full hit."""
        return tuple(slot for slot in self.slots if slot.role == "highlight")

    @property
    def has_highlight(self) -> bool:
        """Whether any slot holds highlight white."""
        return bool(self.highlight_slots)

    @property
    def highlight_scatter(self) -> float:
        """S·X of all hits of highlight white."""
        return self.white.scatter * len(self.highlight_slots)

    @property
    def white_position(self) -> Position:
        """When white is printed; on a press that has none, when it would have to be."""
        if not self.has_white:
            return self.printing.white_goes
        return "first" if self.print_order.index("white") < self.print_order.index("colour") else "last"

    @property
    def white_positions(self) -> tuple[Position, ...]:
        """Where white can sit on this press: nowhere, at one end, or at either."""
        return self.white_can_go or ((self.white_position,) if self.has_white else ())

    def of_size(self, width_mm: float, height_mm: float) -> "PressProfile":
        """The same press with the registration that a print of this size has.

        A second pass misses large ones more, and so does white that was measured to lie turned.
        """
        own = self.registration.of_size(width_mm, height_mm)
        if self.refeed is not None:
            own = own.spread_by(self.refeed.spread(width_mm, height_mm))
        return self if own == self.registration else replace(self, registration=own)

    def unpriced(self) -> "PressProfile":
        """The same press with nothing that only money hangs on: no price makes a plan."""
        return replace(
            self,
            currency="",
            white_ink=_bare(self.white_ink),
            colour_ink=_bare(self.colour_ink),
            sheet=self.sheet and _bare(self.sheet),
            film=self.film and replace(self.film, supply=_bare(self.film.supply)),
            pretreat=self.pretreat and replace(self.pretreat, supply=_bare(self.pretreat.supply)),
            powder=self.powder and replace(self.powder, supply=_bare(self.powder.supply)),
            working=Working(),
        )

    def measured_as(self, constant: str) -> Measured | None:
        """How a constant was measured last, by its place in the profile's file; ``None``: it is assumed."""
        return latest(self.measured, constant)

    def with_white(self, position: Position | None) -> "PressProfile":
        """The same press with white moved before or after the colours, where it can go there."""
        if position is None or position == self.white_position or position not in self.white_positions:
            return self
        others = tuple(role for role in self.print_order if role != "white")
        order: tuple[Role, ...] = ("white", *others) if position == "first" else (*others, "white")
        return replace(self, print_order=order)

    def slots_in_print_order(self) -> tuple[Slot, ...]:
        """Slots in the order in which they reach the medium."""
        by_role = {"white": self.white_slots, "colour": self.colour_slots, "highlight": self.highlight_slots}
        return tuple(slot for role in self.print_order for slot in by_role[role])

    @property
    def white_under_colour(self) -> bool:
        """Whether white lies between garment and colour on the finished shirt.

        What is printed last on a mirrored medium ends up next to the garment.
        """
        return (self.white_position == "first") != self.mirrored
