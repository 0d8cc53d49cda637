"""The work at the press as data: steps, the schools that practitioners are of, and what a press does each step with."""

from dataclasses import dataclass
from typing import Literal

Pressure = Literal["light", "medium", "heavy"]

USUAL_TIMES_BAR: dict[Pressure, float] = {"light": 1.5, "medium": 3.0, "heavy": 4.5}
"""Pressure in words as bar, where a profile gives none (assumed)."""


@dataclass(frozen=True)
class Figures:
    """What one step is done with: the shop's own figures, by the makers of its supplies.

    Attributes
    ----------
    temperature_c, time_s
        Heat in °C, time in s; ``None``: the profile does not say.
    pressure, pressure_bar
        In words, and in bar where the press tells it.
    gentler
        Other heats with their times, (°C, s), that the supplies allow as well, hottest first.
    source
        Whose figures these are.
    """

    temperature_c: float | None = None
    time_s: float | None = None
    pressure: Pressure | None = None
    pressure_bar: float | None = None
    gentler: tuple[tuple[float, float], ...] = ()
    source: str = ""

    @property
    def bar(self) -> float | None:
        """Pressure in bar: as told, else by its word."""
        if self.pressure_bar is not None or self.pressure is None:
            return self.pressure_bar
        return USUAL_TIMES_BAR[self.pressure]

    def bearable(self, bears_c: float) -> tuple[float, float] | None:
        """The hottest other setting that goods bear, as °C and s; ``None``: the supplies allow none."""
        return next((pair for pair in self.gentler if pair[0] <= bears_c), None)


@dataclass(frozen=True)
class Way:
    """One way of a school: its key, what it is called, and when it is right."""

    key: str
    title: str
    right_when: str


@dataclass(frozen=True)
class School:
    """What practitioners do in one way or another; the first way is usual where a press says nothing."""

    key: str
    title: str
    ways: tuple[Way, ...]

    def way(self, key: str) -> Way:
        """A way by its key, else the usual one."""
        return next((way for way in self.ways if way.key == key), self.ways[0])


PEEL = School(
    "peel",
    "Peel",
    (
        Way(
            "warm",
            "Warm",
            "Right for film or sheets sold for it, and for solid prints: quick, one press keeps going. Too early and "
            "fine dots stay on the film.",
        ),
        Way(
            "cold",
            "Cold",
            "Right for cold-peel film, and on any film for small lettering and screened work: least lifts. It takes "
            "about two minutes, so a second piece is pressed meanwhile.",
        ),
    ),
)
PRESSES = School(
    "presses",
    "Presses",
    (
        Way(
            "twice",
            "Twice",
            "Right for most: the second press under a cover sheet sinks the print into the cloth, takes the shine off "
            "and makes it last in the wash.",
        ),
        Way(
            "once",
            "Once",
            "Right where the second press pulls specks of fine work onto the cover sheet, or the cloth must not see "
            "heat twice (polyester that bleeds). Wash one first.",
        ),
    ),
)


NAMES = {
    "print": "Printing", "second-pass": "Second pass", "powder": "Powder", "oven": "Oven", "pre-press": "Pre-press",
    "place": "Placing", "press": "Press", "cool-warm": "Cooling", "cool-cold": "Cooling", "rub": "Rubbing",
    "peel": "Peel", "second-press": "Second press", "wipe": "Wiping", "pretreat": "Pretreat", "dry": "Drying",
    "cure": "Cure", "marry": "Marrying", "part": "Parting", "seal": "Sealing", "coat-dry": "Coat drying",
    "soak": "Soaking", "slide": "Sliding on",
}  # fmt: skip
"""What steps are called in a word or two: on timers, in warnings, in the log."""


def step_name(key: str) -> str:
    """What a step is called.

    >>> step_name("cool-cold"), step_name("7")
    ('Cooling', 'Step 7')
    """
    return NAMES.get(key, f"Step {key}")


@dataclass(frozen=True)
class Step:
    """One step of the work at the press.

    Attributes
    ----------
    text, caution
        What is done, and what to beware of in it. ``{place}`` in the text stands for where the print goes.
    bare
        Its words where no white is printed.
    key
        By which a press profile gives its figures; empty: it has none.
    way
        The school and the way of it that the step belongs to; ``None``: it is done in any case.
    on_goods
        Whether its heat goes on the garment.
    runs
        Whether how long it takes is measured by a stopwatch (the printer's work).
    fine_only
        Whether it is for fine or screened work.
    needs
        What a piece must get for the step to be done: white ink, or pretreatment; empty: nothing of its own.
    each_part
        Whether it is done for one part after the other where a print was split onto several sheets.
    """

    text: str
    caution: str = ""
    bare: str = ""
    key: str = ""
    way: tuple[str, str] | None = None
    on_goods: bool = False
    runs: bool = False
    fine_only: bool = False
    needs: Literal["", "white", "pretreat"] = ""
    each_part: bool = False

    def told(self, prints_white: bool) -> str:
        """What is done for a piece with white, or without."""
        return self.text if prints_white or not self.bare else self.bare
