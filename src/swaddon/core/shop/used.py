"""What one print uses, apart from any constant: areas, counts and times that constants are multiplied with."""

from dataclasses import dataclass

from swaddon.core.count.consumption import Material, materials_of
from swaddon.core.count.measure import Measures
from swaddon.core.count.shared import SheetShare
from swaddon.core.count.timing import PrintTime, print_time
from swaddon.core.press.profile import PressProfile
from swaddon.core.press.working import Gets
from swaddon.core.units import MM_PER_INCH

INK_ROLES = {"W": "white", "H": "white", "C": "colour", "M": "colour", "Y": "colour", "K": "colour"}
"""Which material of a print an ink counts to."""


@dataclass(frozen=True)
class Used:
    """One print.

    Attributes
    ----------
    full_m2
        By ink, m² of full hits: coverage × area × hits; only inks that the press has.
    printed_m2
        Area with any ink.
    pretreat_m2
        Area that is pretreated; 0 where none is.
    width_mm, height_mm
        The artboard.
    bands, travel_mm
        Bands that the carriage prints in all phases, and how far it goes over them.
    printed_size_mm
        Box round what is printed.
    materials, print_s
        As the press profile's constants make them.
    share
        Its share of the sheet that it was laid on; ``None``: it was laid on none.
    pressed_twice
        Whether a transfer is pressed again after it was peeled.
    film_m2
        Film that is charged, waste aside; ``None``: none is.
    """

    full_m2: dict[str, float]
    printed_m2: float
    pretreat_m2: float
    width_mm: float
    height_mm: float
    printed_size_mm: tuple[float, float]
    bands: int
    travel_mm: float
    materials: tuple[Material, ...]
    print_s: float
    share: SheetShare | None = None
    pressed_twice: bool = True
    film_m2: float | None = None

    @property
    def gets(self) -> Gets:
        """What work it gets: it follows from what is on it."""
        parts = 1 if self.share is None else self.share.parts
        return Gets(
            self.amount("white") > 0, self.amount("pretreat") > 0, parts=parts, pressed_twice=self.pressed_twice
        )

    @property
    def square_inches(self) -> float:
        """Area that a price per square inch is asked for: the film that is charged, else the box round the print."""
        film_m2 = self.film_m2 if self.film_m2 is not None else self.printed_size_mm[0] * self.printed_size_mm[1] / 1e6
        return film_m2 * 1e6 / MM_PER_INCH**2

    def amount(self, kind: str) -> float:
        """Amount of a material on the piece; 0 where it uses none."""
        return sum(item.amount for item in self.materials if item.kind == kind)


def used_by(
    measures: Measures, press: PressProfile, share: SheetShare | None = None, pressed_twice: bool = True
) -> Used:
    """What a plan's counts use on its press; ``share`` is that of the sheet that it was laid on."""
    area = measures.artboard_mm2 / 1e6
    hits = {"W": sum(press.hits), "H": float(len(press.highlight_slots))}
    inks = [*press.inks, *(["W"] if press.has_white else []), *(["H"] if press.has_highlight else [])]
    materials = materials_of(measures, press, share)
    time = print_time(measures, press.carriage, press.white_rounds, share)
    width = measures.width_px * MM_PER_INCH / measures.ppi
    return Used(
        full_m2={ink: measures.coverage[ink] * area * hits.get(ink, 1.0) for ink in inks},
        printed_m2=measures.printed_mm2 / 1e6,
        pretreat_m2=pretreated_m2(materials, press),
        width_mm=width,
        height_mm=measures.height_px * MM_PER_INCH / measures.ppi,
        printed_size_mm=measures.printed_size_mm,
        bands=sum(phase.bands for phase in time.phases),
        travel_mm=travel_mm(time, press),
        materials=materials,
        print_s=time.print_s,
        share=share,
        pressed_twice=pressed_twice,
        film_m2=film_m2(materials, press),
    )


def film_m2(materials: tuple[Material, ...], press: PressProfile) -> float | None:
    """Area of the film among some materials."""
    if press.film is None:
        return None
    return sum(item.amount for item in materials if item.kind == "film") / press.film.amount_per_m2


def pretreated_m2(materials: tuple[Material, ...], press: PressProfile) -> float:
    """Area that the pretreat among some materials covers."""
    if press.pretreat is None:
        return 0.0
    return sum(item.amount for item in materials if item.kind == "pretreat") / press.pretreat.amount_per_m2


def travel_mm(time: PrintTime, press: PressProfile) -> float:
    """How far the carriage goes over all bands."""
    carriage = press.carriage
    seconds = sum(phase.seconds - phase.bands * carriage.turn_s for phase in time.phases)
    return max(0.0, seconds) * carriage.speed_mm_s
