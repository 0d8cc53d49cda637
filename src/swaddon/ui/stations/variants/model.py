"""Variants: what may be varied on a job, and the variants that were worked out, sorted, filtered and compared."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field, replace

from swaddon.core.colour.spaces import Rgb, hex_from_rgb
from swaddon.core.count.money import at_quantities, money_text
from swaddon.core.plan.outcome import Outcome
from swaddon.core.plan.variants import (
    AS_IT_IS,
    Axes,
    Choice,
    GarmentChoice,
    UsualHoles,
    Variant,
    Worked,
    differing_colour,
    dominated,
)
from swaddon.core.press.processes import PROCESSES
from swaddon.core.press.profile import PressProfile
from swaddon.io import profiles
from swaddon.session import shop
from swaddon.session.answer import Answer
from swaddon.session.job import ArtworkFile, Job
from swaddon.session.variants import holes_choice, knockout_choice, white_choice
from swaddon.session.variants_report import shift_of

WHITES = {
    "none": "None under colour", "highlight": "Highlights", "need:3": "By need, ΔE 3", "need:6": "By need, ΔE 6",
    "solid": "Solid", "limit:170": "To 170 %", "limit:280": "To 280 %", "limit:400": "To 400 %",
}  # fmt: skip
_LIGHT_AND_DARK = ("Black tee", "White tee")
_TONER_LIMITS = ("limit:170", "limit:280", "limit:400")

SORTS: tuple[tuple[str, str], ...] = (
    ("cost", "Cost"), ("white", "White"), ("time", "Time"), ("hand", "Hand"), ("worst", "Colour"),
)  # fmt: skip
_SORTED_BY: dict[str, Callable[[Outcome], float]] = {
    "cost": lambda outcome: float(outcome.cost),
    "white": lambda outcome: outcome.white_amount,
    "time": lambda outcome: outcome.print_s,
    "hand": lambda outcome: outcome.hand_g_m2,
    "worst": lambda outcome: outcome.worst_de,
}


@dataclass(frozen=True)
class Ticked:
    """The keys that are chosen on each axis."""

    garments: frozenset[str] = frozenset()
    whites: frozenset[str] = frozenset()
    knockouts: frozenset[str] = frozenset({"as it is"})
    holes: frozenset[str] = frozenset({"as it is"})
    presses: frozenset[str] = frozenset()


def garment_choices(job: Job) -> dict[str, GarmentChoice]:
    """The order's garments, then those of the library, by name."""
    found = {line.garment_name: GarmentChoice(line.garment_name, line.settings.garment) for line in job.lines}
    for garment in shop.garments():
        found.setdefault(garment.name, GarmentChoice(garment.name, garment.rgb))
    return found


def presses(job: Job) -> dict[str, PressProfile]:
    """The shop's presses by name; that of the job takes the place of the one of its name."""
    found = {name: shop.press(name) for name in profiles.shipped_names()}
    if job.profile is not None:
        found[job.profile.name] = job.profile
    return found


def _knockouts() -> dict[str, Choice]:
    return {
        "as it is": AS_IT_IS,
        "none": knockout_choice("none"),
        "cloth": replace(knockout_choice("everywhere:garment:8"), title="garment’s colour out"),
    }


def _holes() -> dict[str, Choice]:
    return {
        "as it is": AS_IT_IS,
        "solid": holes_choice("solid"),
        "round": UsualHoles("dots", pattern="round"),
        "line": UsualHoles("lines", pattern="line"),
    }


KNOCKOUTS = ("as it is", "As it is"), ("none", "None"), ("cloth", "Garment’s colour")
HOLES = ("as it is", "As it is"), ("solid", "None"), ("round", "Dots"), ("line", "Lines")
"""What these axes offer, and what it is called."""


def first_ticked(job: Job) -> Ticked:
    """What is compared at first: the order's garments on its press, by the usual white plans."""
    garments = frozenset(line.garment_name for line in job.lines)
    if len(garments) == 1:
        garments |= {name for name in _LIGHT_AND_DARK if name in garment_choices(job)}
    press = frozenset() if job.profile is None else frozenset({job.profile.name})
    return Ticked(garments, frozenset({"none", "need:3", "solid"}), presses=press)


def light_and_dark(job: Job, ticked: Ticked) -> Ticked:
    """The lightest and the darkest goods of the order, or white and black."""
    own = tuple(dict.fromkeys(line.garment_name for line in job.lines))
    known = garment_choices(job)
    pair = frozenset(name for name in _LIGHT_AND_DARK if name in known) if len(own) < 2 else frozenset(own)
    return replace(ticked, garments=pair)


def toner_sets(job: Job, ticked: Ticked) -> Ticked:
    """Limits × toner sets and presses of one process, on a light and a dark item."""
    process = (
        "toner-onepass" if job.profile is None or job.profile.printing.colourant != "toner" else job.profile.process
    )
    names = frozenset(name for name, press in presses(job).items() if press.process == process and press.has_white)
    made = light_and_dark(job, ticked)
    return replace(made, whites=frozenset(_TONER_LIMITS), presses=names, knockouts=frozenset({"as it is"}))


def axes_of(job: Job, ticked: Ticked) -> Axes:
    """The axes that are ticked, in the order in which they are offered."""
    whites = tuple(replace(white_choice(key), title=title) for key, title in WHITES.items() if key in ticked.whites)
    return Axes(
        tuple(choice for name, choice in garment_choices(job).items() if name in ticked.garments),
        tuple(press for name, press in presses(job).items() if name in ticked.presses),
        whites or (AS_IT_IS,),
        tuple(choice for key, choice in _knockouts().items() if key in ticked.knockouts) or (AS_IT_IS,),
        tuple(choice for key, choice in _holes().items() if key in ticked.holes) or (AS_IT_IS,),
    )


@dataclass(frozen=True, eq=False)
class CardView:
    """A variant on the ladder.

    ``bars`` are cost, white and time as shares of the largest that is shown; ``against`` is how it differs from the
    pinned one.
    """

    worked: Worked
    title: str
    press: str
    cost: str
    facts: tuple[str, ...]
    bars: tuple[tuple[str, float], ...]
    is_dominated: bool
    is_pinned: bool
    against: str
    found: str
    found_all: str = ""


@dataclass(frozen=True)
class Shown:
    """How variants are looked at."""

    sort: str = "cost"
    hides_dominated: bool = False
    hides_stops: bool = False
    grid: bool = False
    marks: bool = False
    pinned: Variant | None = field(default=None, compare=False)


@dataclass(eq=False)
class Tried:
    """What was worked out of one open job, and what is ticked to be."""

    file: ArtworkFile | None
    ticked: Ticked
    count: int = 0
    answer: Answer[list[Worked]] = field(default_factory=Answer)

    @property
    def found(self) -> list[Worked]:
        """The variants so far; of the job as it was when they were begun."""
        return self.answer.last or []


def question_of(job: Job) -> Job:
    """All of a job that variants depend on: not which line is at hand, and not what it is called or sold for."""
    return replace(job.turned_to(0), name="", customer="", quote=None)


def ladder(found: Sequence[Worked], shown: Shown, quantity: int = 1) -> tuple[tuple[str, tuple[CardView, ...]], ...]:
    """The cards of each garment, as they are sorted and filtered."""
    beaten = dict(zip(map(id, found), dominated(found), strict=True))
    kept = [item for item in found if _is_kept(item, beaten[id(item)], shown)]
    most = {
        key: max((value(item.outcome) for item in kept if item.outcome), default=0.0)
        for key, value in _SORTED_BY.items()
    }
    pinned = next((item for item in found if item.variant == shown.pinned), None)
    garments = list(dict.fromkeys(item.variant.garment.title for item in found))
    apart = len({item.variant.press.name for item in found}) > 1
    out = []
    for garment in garments:
        own = [item for item in kept if item.variant.garment.title == garment]
        own.sort(key=lambda item: _place(item, shown.sort))
        differs = differing_colour([item.outcome for item in own if item.outcome is not None])
        cards = tuple(_card(item, beaten[id(item)], most, pinned, apart, quantity, differs) for item in own)
        if cards:
            out.append((garment, cards))
    return tuple(out)


def _is_kept(item: Worked, is_beaten: bool, shown: Shown) -> bool:
    if shown.hides_dominated and is_beaten:
        return False
    return not (shown.hides_stops and (item.outcome is None or item.outcome.stops))


def _place(item: Worked, sort: str) -> tuple[bool, float]:
    return (True, 0.0) if item.outcome is None else (False, _SORTED_BY[sort](item.outcome))


def ways_of(variant: Variant) -> str:
    """White, knockout and holes of a variant in a few words."""
    parts = (variant.white.title, variant.knockout.title, variant.holes.title)
    return ", ".join(part for part in parts if part != AS_IT_IS.title) or "as it is"


def _card(
    item: Worked,
    is_beaten: bool,
    most: dict[str, float],
    pinned: Worked | None,
    tells_press: bool,
    quantity: int,
    differs: Rgb | None = None,
) -> CardView:
    variant, outcome = item.variant, item.outcome
    press = f"{PROCESSES[variant.press.process].title} · {variant.press.title}" if tells_press else ""
    is_pinned = pinned is not None and pinned.variant == variant
    if outcome is None:
        return CardView(item, ways_of(variant), press, "", (), (), False, is_pinned, "", item.problem)
    order = at_quantities(outcome.cost, quantity)
    facts = (
        *((f"{order} {outcome.currency}",) if order else ()),
        f"{outcome.white_words.capitalize()} · {outcome.print_s:.0f} s",
        f"Hand {outcome.hand_g_m2:.0f} g/m² · {outcome.worst_words}",
        *_instead(outcome, differs),
    )
    bars = tuple(
        (name, _SORTED_BY[key](outcome) / most[key] if most[key] else 0.0)
        for key, name in (("cost", "Cost"), ("white", "White"), ("time", "Time"))
    )
    serious = [finding for finding in outcome.findings if finding.severity != "note"]
    words = "" if not serious else f"{serious[0].severity.capitalize()}: {serious[0].text}"
    cost = f"{money_text(outcome.cost)} {outcome.currency}"
    against = "" if is_pinned or pinned is None else _against(outcome, pinned)
    told = "\n".join(f"{finding.severity.capitalize()}: {finding.text}" for finding in serious)
    return CardView(item, ways_of(variant), press, cost, facts, bars, is_beaten, is_pinned, against, words, told)


def _instead(outcome: Outcome, colour: Rgb | None) -> tuple[str, ...]:
    """The colour in which ways differ that lose the worst one alike."""
    told = None if colour is None else shift_of(outcome, colour)
    return () if colour is None or told is None else (f"As in all; {hex_from_rgb(colour)} ΔE {told:.1f}",)


def _against(outcome: Outcome, pinned: Worked) -> str:
    """How a variant differs from the pinned one."""
    other = pinned.outcome
    if other is None or other.currency != outcome.currency:
        return ""
    cost, white = outcome.cost - other.cost, outcome.white_amount - other.white_amount
    return (
        f"Against the pinned: {_signed(money_text(abs(cost)), cost >= 0)} {outcome.currency}, "
        f"white {_signed(f'{abs(white):.2f}', white >= 0)}, "
        f"{_signed(f'{abs(outcome.print_s - other.print_s):.0f}', outcome.print_s >= other.print_s)} s"
    )


def _signed(text: str, is_more: bool) -> str:
    return ("+" if is_more else "−") + text


def reference_for(item: Worked, found: Sequence[Worked], pinned: Variant | None) -> Worked | None:
    """What a variant's differences are marked against: the pinned one, else the first, of its garment."""
    same = [other for other in found if other.variant.garment == item.variant.garment and other.outcome is not None]
    own = next((other for other in same if other.variant == pinned), None)
    if own is None and pinned is not None:
        alike = replace(pinned, garment=item.variant.garment)
        own = next((other for other in same if other.variant == alike), None)
    return own or (same[0] if same else None)


@dataclass(frozen=True)
class GridView:
    """Rows of white, knockout and holes against columns of garment and press."""

    columns: tuple[str, ...]
    rows: tuple[tuple[str, tuple[Worked | None, ...]], ...]


def grid(found: Sequence[Worked]) -> GridView:
    """The variants as a table: light against dark, and toner sets and presses, at one look."""
    heads = list(dict.fromkeys((item.variant.garment, item.variant.press.name) for item in found))
    heads.sort(key=lambda head: [item.variant.garment for item in found].index(head[0]))
    presses_apart = len({name for _, name in heads}) > 1
    titles = {item.variant.press.name: item.variant.press.title for item in found}
    columns = tuple(f"{garment.title}\n{titles[name]}" if presses_apart else garment.title for garment, name in heads)
    rows = []
    for ways in dict.fromkeys(ways_of(item.variant) for item in found):
        own = {(item.variant.garment, item.variant.press.name): item for item in found if ways_of(item.variant) == ways}
        rows.append((ways, tuple(own.get(head) for head in heads)))
    return GridView(columns, tuple(rows))
