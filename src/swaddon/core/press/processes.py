"""The ways of printing as data: what a process is called, how it lies on the finished item, and how it is done.

Whatever else differs (slots, supplies, times, what a press can do) stands in the press profiles of the process.
"""

from dataclasses import dataclass
from typing import Literal

from swaddon.core.press.steps import PEEL, PRESSES, School, Step

__all__ = ["PROCESSES", "USUAL", "Process", "Step"]


@dataclass(frozen=True)
class Process:
    """One way of printing (common practice, no source).

    Attributes
    ----------
    key
        Name in press profiles, job files and plan.json.
    title
        Name on the bench.
    described
        What a customer reads of it, in the middle of a sentence.
    medium
        What is printed on first: ``film``, ``platen`` or ``sheet``.
    colourant
        ``ink`` or ``toner``.
    flips
        Whether the print is turned over onto what it decorates: then it is printed mirrored, and what is printed last
        lies lowest.
    steps
        What is done, in order.
    schools
        Where practitioners differ in it; steps name the way that they belong to.
    fades
        What becomes of half-transparent pixels where nothing else is chosen.
    thin_ink_fails
        Whether thin ink of a fade has nothing to hold on to.
    passes
        How often the medium goes through the press; with two, white is a file of its own.
    item, piece
        What is decorated, and what one of the order is called, in a word each.
    screen_lpi
        Ruling that holes start with.
    """

    key: str
    title: str
    described: str
    medium: Literal["film", "platen", "sheet"]
    colourant: Literal["ink", "toner"]
    flips: bool
    steps: tuple[Step, ...]
    fades: Literal["keep", "screen"] = "keep"
    thin_ink_fails: bool = False
    passes: Literal[1, 2] = 1
    item: str = "garment"
    piece: str = "shirt"
    screen_lpi: float = 35.0
    schools: tuple[School, ...] = ()

    @property
    def can_split(self) -> bool:
        """Whether a large print may be printed on several sheets that are joined on the item."""
        return self.medium != "platen"

    @property
    def white_goes(self) -> Literal["first", "last"]:
        """When white has to be printed so that it lies between item and colour."""
        return "last" if self.flips else "first"


_HOT = "Hot plate: burns and pinched fingers. Time, heat and pressure are the maker’s to say."
_FUMES = "Curing gives off fumes: use an exhaust or filter, and read the safety data sheets."
_DUST = "Hot fuser and fine toner dust: let it cool, do not breathe it, read the safety data sheets."

_PRESSING = (
    Step("Press the {item} to take moisture out, and to feel the pressure", _HOT, key="pre-press", on_goods=True),
    Step(
        "Lay the print on, face down: {place}",
        "The plate above is hot: keep hands and sleeves clear.",
        key="place",
        each_part=True,
    ),
    Step("Press", _HOT, key="press", on_goods=True, each_part=True),
    Step("Let it cool until it is only warm", key="cool-warm", way=("peel", "warm"), each_part=True),
    Step("Let it cool right down", key="cool-cold", way=("peel", "cold"), each_part=True),
    Step("Rub fine detail down with a cloth", key="rub", fine_only=True, each_part=True),
    Step("Peel slowly and flat; where anything lifts, lay it back and press again", key="peel", each_part=True),
    Step("Press again under a cover sheet", _HOT, key="second-press", way=("presses", "twice"), on_goods=True),
    Step("Wipe the cover sheet, so that remains do not go on the next one", key="wipe"),
)
_FILM_STEPS = (
    Step("Print the film mirrored: colour, then white", bare="Print the film mirrored", key="print", runs=True),
    Step(
        "Powder the wet white, shake off the rest",
        "Fine adhesive powder: ventilate, keep it from eyes and flames.",
        "Powder the wet ink, shake off the rest",
        key="powder",
    ),
    Step("Melt the powder in the oven", _FUMES, key="oven"),
    *_PRESSING,
)
_DIRECT_STEPS = (
    Step(
        "Pretreat the {item} evenly",
        "Spray mist: do not breathe it, protect your eyes, ventilate.",
        key="pretreat",
        needs="pretreat",
    ),
    Step("Dry it", _HOT, key="dry", on_goods=True, needs="pretreat"),
    Step("Load the platen, flat: {place}", key="place"),
    Step("Print white, then colour", bare="Print", key="print", runs=True),
    Step("Cure the print", _FUMES, key="cure", on_goods=True),
)
_TONER_PRESSING = (
    Step("Marry it with the adhesive sheet", _HOT, key="marry"),
    Step("Peel the adhesive sheet off hot, in one go", _HOT, key="part"),
    *_PRESSING,
)
_TONER_STEPS = (
    Step(
        "Print the sheet mirrored: colour and white in one pass", _DUST, "Print the sheet mirrored", key="print",
        runs=True,
    ),
    *_TONER_PRESSING,
)  # fmt: skip
_TWO_PASS_STEPS = (
    Step("Print the colour file, mirrored, on as many sheets as are wanted", key="print", runs=True),
    Step("Take out the black cartridge, put in the white one", _DUST, needs="white"),
    Step("Feed each sheet again: same edge first, same side up, guides tight", needs="white"),
    Step("Print the mask on it", _DUST, key="second-pass", runs=True, needs="white"),
    Step("Put the black cartridge back", _DUST, needs="white"),
    *_TONER_PRESSING,
)
_DECAL_STEPS = (
    Step(
        "Print the decal paper, not mirrored: white first, then colour", _DUST, "Print the decal paper, not mirrored",
        key="print", runs=True,
    ),
    Step("Seal it with clear coat", "Solvent fumes: spray outdoors or under an exhaust, no flames.", key="seal"),
    Step("Let the coat dry", key="coat-dry"),
    Step("Cut it out, soak it until it slides", key="soak"),
    Step("Slide it onto the clean {item}, press the water out from the middle", key="slide"),
    Step("Let it dry; bake it only if its maker says so", "Hot oven: burns; fumes from coats.", key="dry"),
)  # fmt: skip

PROCESSES = {
    process.key: process
    for process in (
        Process(
            "film", "Film", "film transfer", "film", "ink", flips=True, steps=_FILM_STEPS, fades="screen",
            thin_ink_fails=True, schools=(PEEL, PRESSES),
        ),
        Process(
            "direct", "Direct", "printing straight on the cloth", "platen", "ink", flips=False, steps=_DIRECT_STEPS,
        ),
        Process(
            "toner-onepass", "Toner sheet", "toner transfer", "sheet", "toner", flips=True, steps=_TONER_STEPS,
            screen_lpi=27.0, schools=(PEEL, PRESSES),
        ),
        Process(
            "toner-twopass", "Toner twice", "toner transfer in two passes", "sheet", "toner", flips=True,
            steps=_TWO_PASS_STEPS, passes=2, screen_lpi=27.0, schools=(PEEL, PRESSES),
        ),
        Process(
            "decal", "Decal", "water-slide decal", "sheet", "toner", flips=False, steps=_DECAL_STEPS,
            item="item", piece="item", screen_lpi=27.0,
        ),
    )
}  # fmt: skip
"""All processes by key, in the order in which they are offered; the first is that of a new job."""

USUAL = next(iter(PROCESSES))
"""Process, and shipped press profile, of a new job."""
