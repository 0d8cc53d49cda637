"""The run card: each step with the shop's figures, where the print goes, and where goods and heat do not agree."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from itertools import groupby
from typing import Literal

from swaddon.core.order.lines import PLACES, OrderLine
from swaddon.core.press.profile import PressProfile
from swaddon.core.press.steps import Figures, School, Step, Way
from swaddon.core.press.working import Gets
from swaddon.core.units import MM_PER_INCH

FINE_MM = 0.6
"""Finest line or dot below which a print is rubbed down before it is peeled (assumed)."""

LengthUnit = Literal["mm", "in"]

_MAIN = ("press", "cure")
"""Steps whose heat and time a line may set for itself; a process has one of them, or none."""


@dataclass(frozen=True)
class CardStep:
    """One step on the card.

    Attributes
    ----------
    number, key, text, caution
        Its place, the name of its figures, what is done, and what to beware of.
    figures
        Heat, time and pressure that it is done with.
    expected_s
        How long it should take, s, by figures or by the plan; ``None``: nobody knows.
    counts_down
        Whether its timer rings at the end of that time, instead of measuring how long it takes.
    on_goods
        Whether its heat goes on the garment.
    """

    number: int
    key: str
    text: str
    caution: str
    figures: Figures
    expected_s: float | None
    counts_down: bool
    on_goods: bool

    @property
    def is_timed(self) -> bool:
        """Whether it has a timer."""
        return self.counts_down or self.expected_s is not None


_TOLD_MM = 2.0
"""By how much ink and artboard must lie apart to be told apart on a card (assumed)."""


@dataclass(frozen=True)
class Placing:
    """Where the print goes on the goods, in mm.

    Attributes
    ----------
    shape, item, place
        Of the goods, what they are called, and which part of them.
    drop_mm
        Distance from the collar or edge to the artboard.
    ink_mm
        Where on the artboard the ink lies: left, top, width, height. What lies on the goods is the ink: margins and a
        background that was taken out are no print.
    artboard_mm
        Width and height of the artboard.
    """

    shape: str
    item: str
    place: str
    drop_mm: float
    ink_mm: tuple[float, float, float, float]
    artboard_mm: tuple[float, float]

    @property
    def ink_drop_mm(self) -> float:
        """Distance from the collar or edge to the top of the ink."""
        return self.drop_mm + self.ink_mm[1]

    @property
    def aside_mm(self) -> float:
        """How far right of the artboard's middle that of the ink lies."""
        return self.ink_mm[0] + self.ink_mm[2] / 2 - self.artboard_mm[0] / 2

    def words(self, unit: LengthUnit = "mm") -> str:
        """Where it goes, for the middle of a sentence; where the artboard lies otherwise, that too."""
        if not self.drop_mm:
            return "where it belongs, straight"

        def far(mm: float) -> str:
            return f"{mm / MM_PER_INCH:.3g} in" if unit == "in" else f"{mm:.0f} mm"

        edge = "the upper edge" if self.shape in ("tote", "sleeve") or self.item != "garment" else "the collar"
        centred = "centred"
        if abs(self.aside_mm) >= _TOLD_MM:
            side = "right" if self.aside_mm > 0 else "left"
            centred = f"its middle {far(abs(self.aside_mm))} {side} of the centre line"
        out = f"{far(self.ink_drop_mm)} below {edge}, {centred}"
        return (
            out if self.ink_mm[1] < _TOLD_MM else f"{out} (top of the ink; the artboard begins at {far(self.drop_mm)})"
        )


@dataclass(frozen=True)
class Conflict:
    """A step (by its key) that is hotter than the goods bear, and what its supplies allow instead, (°C, s)."""

    step: str
    temperature_c: float
    bears_c: float
    instead: tuple[float, float] | None


@dataclass(frozen=True)
class RunCard:
    """All that is worked by at the press."""

    title: str
    press: str
    steps: tuple[CardStep, ...]
    schools: tuple[tuple[School, Way], ...]
    placing: Placing
    mirrored: bool
    white_last: bool | None
    conflicts: tuple[Conflict, ...]
    cautions: tuple[str, ...]

    @property
    def main(self) -> CardStep | None:
        """The step whose heat and time a line may set for itself: pressing the print on, or curing it."""
        return next((step for key in _MAIN if (step := self.step(key)) is not None), None)

    def step(self, key: str) -> CardStep | None:
        """A step by its key."""
        return next((step for step in self.steps if step.key == key), None)

    @property
    def marks(self) -> tuple[str, ...]:
        """How the medium is printed, in a few words each."""
        out = ["Printed mirrored" if self.mirrored else "Not mirrored"]
        if self.white_last is not None:
            out.append("White last" if self.white_last else "White first")
        return tuple(out)


def run_card(
    line: OrderLine,
    press: PressProfile,
    height_mm: float,
    bears_c: float | None = None,
    finest_mm: float | None = None,
    print_s: float | None = None,
    unit: LengthUnit = "mm",
    ink_mm: tuple[float, float, float, float] | None = None,
    gets: Gets | None = None,
) -> RunCard:
    """The card of one line.

    Parameters
    ----------
    press
        As the line uses it.
    height_mm
        Of the print.
    bears_c
        Heat that the garment bears, °C; ``None``: the shop's list does not say.
    finest_mm
        Finest line of the artwork, mm; ``None``: not known.
    print_s
        What printing one piece takes by the plan, s.
    ink_mm
        Where on the artboard the plan's ink lies: left, top, width, height; ``None``: on all of it.
    gets
        What the plan prints; ``None``: all that the press can.
    """
    gets = gets or Gets(press.has_white, press.pretreat is not None)
    process, settings = press.printing, line.settings
    schools = tuple((school, settings.at_press.way(school, press)) for school in process.schools)
    artboard = settings.width_mm, height_mm
    ware = line.ware(process)
    drop_mm = settings.drop_mm if ware.is_cloth else 0.0  # a mug or a tin has no collar
    where = PLACES[line.goods.place].title
    placing = Placing(line.shape, ware.item, where, drop_mm, ink_mm or (0.0, 0.0, *artboard), artboard)
    is_fine = gets.dots or (finest_mm is not None and finest_mm < FINE_MM) or settings.holes.default is not None
    is_fine |= any(rule.screen is not None for rule in settings.holes.rules)
    ways = {school.key: way.key for school, way in schools}
    figures = dict(press.steps)
    steps: list[CardStep] = []
    done = [step for step in process.steps if _is_done(step, ways, is_fine, gets)]
    for step, part in in_parts(done, gets.parts):
        own = _used(step, figures.get(step.key, Figures()), line)
        text = _of_part(step.told(gets.white).format(place=placing.words(unit), item=ware.item), step, part, gets.parts)
        expected = print_s if step.runs and step.key == "print" else own.time_s
        timed = own.time_s is not None and not step.runs
        steps.append(CardStep(len(steps) + 1, step.key, text, step.caution, own, expected, timed, step.on_goods))
    return RunCard(
        title=process.title,
        press=press.title,
        steps=tuple(steps),
        schools=schools,
        placing=placing,
        mirrored=settings.is_mirrored(press),
        white_last=None if not gets.white else press.white_position == "last",
        conflicts=_conflicts(steps, figures, bears_c),
        cautions=press.cautions,
    )


def in_parts(steps: Sequence[Step], parts: int) -> Iterator[tuple[Step, int]]:
    """Steps with the part of the print that each is done for, 0 for all: parts are laid one after the other."""
    for of_part, some in groupby(steps, lambda step: step.each_part and parts > 1):
        once = list(some)
        for part in range(1, parts + 1) if of_part else (0,):
            yield from ((step, part) for step in once)


def _of_part(text: str, step: Step, part: int, parts: int) -> str:
    """The words of a step for one of several sheets."""
    if part and step.key == "place":
        marks = "" if part == 1 else ", on its marks against the part before"
        return f"Part {part} of {parts}{marks}: {text[0].lower()}{text[1:]}"
    if part:
        return f"{text} (part {part})"
    return f"{text}, on {parts} sheets" if parts > 1 and step.key == "print" else text


def _is_done(step: Step, ways: dict[str, str], is_fine: bool, gets: Gets) -> bool:
    """Whether a step is done: by the schools that are followed, for fine work, with what the piece gets."""
    if step.way and ways.get(step.way[0]) != step.way[1]:
        return False
    if step.fine_only and not is_fine:
        return False
    return {"": True, "white": gets.white, "pretreat": gets.pretreated}[step.needs]


def _used(step: Step, figures: Figures, line: OrderLine) -> Figures:
    """Figures of a step as the line uses them; nothing that goes on the goods gets hotter than the press itself."""
    own, hot = line.settings.at_press, figures.temperature_c
    is_press = step.key in _MAIN
    asked = own.temperature_c if is_press or (step.on_goods and hot is not None and own.temperature_c < hot) else 0.0
    if asked:
        slower = figures.bearable(asked) if hot is not None and asked < hot else None
        figures = replace(figures, temperature_c=asked, time_s=figures.time_s if slower is None else slower[1])
    return replace(figures, time_s=own.time_s) if is_press and own.time_s else figures


def _conflicts(steps: list[CardStep], figures: dict[str, Figures], bears_c: float | None) -> tuple[Conflict, ...]:
    """Steps that are hotter than the goods bear, the hottest first."""
    if bears_c is None:
        return ()
    by_key = {step.key: step for step in steps}
    found = [
        Conflict(step.key, step.figures.temperature_c, bears_c, figures[step.key].bearable(bears_c))
        for step in by_key.values()
        if step.on_goods and step.figures.temperature_c is not None and step.figures.temperature_c > bears_c
    ]
    return tuple(sorted(found, key=lambda conflict: -conflict.temperature_c))
