"""Inks: which channel prints when, from which slot, and how they lie on the finished shirt."""

from dataclasses import dataclass, replace

import numpy as np

from swaddon.core.colour.spaces import Rgb, hex_from_rgb
from swaddon.core.count.consumption import amount_text
from swaddon.core.inks.inverse import solved
from swaddon.core.inks.separation import interpolate
from swaddon.core.inks.settings import IccChoice, Recipe
from swaddon.core.plan.exact import coming_out, held_colours
from swaddon.core.plan.report_inks import channels, stack
from swaddon.core.plan.stages import Plan
from swaddon.core.press.lineup import LineUp, factory
from swaddon.core.press.processes import USUAL
from swaddon.core.press.profile import Gamut, Position, PressProfile
from swaddon.core.schema import allowed
from swaddon.io import profiles
from swaddon.io.icc import described, output_table
from swaddon.io.tables import separation_table
from swaddon.session import edits, parse, shop
from swaddon.session.constant_words import standing
from swaddon.session.job import Job
from swaddon.session.session import Edit

LAYER_TITLES = {
    "garment": "Garment",
    "pretreat": "Pretreat",
    "powder": "Powder",
    "W": "White",
    "H": "Highlight",
    "C": "Cyan",
    "M": "Magenta",
    "Y": "Yellow",
    "K": "Black",
}


@dataclass(frozen=True)
class ChannelRow:
    """One channel in print order."""

    order: int
    ink: str
    title: str
    slot: int
    coverage: str
    amount: str


@dataclass(frozen=True)
class SlotState:
    """One slot: its number from the left, and its inks; two where one is swapped in for the second pass."""

    number: int
    inks: tuple[str, ...]

    @property
    def title(self) -> str:
        return ", then ".join(LAYER_TITLES[ink] for ink in self.inks) or "empty"


@dataclass(frozen=True)
class LineUpState:
    """The rack, and the line-ups that are kept of this press."""

    press: PressProfile
    current: LineUp
    is_factory: bool
    slots: tuple[SlotState, ...]
    kept: tuple[LineUp, ...]


@dataclass(frozen=True)
class RecipeRow:
    """One exact colour: as drawn, as it comes out, and in words; ``warns`` above what the press takes."""

    colour: Rgb
    shown: Rgb | None
    text: str
    tolerance_de: float
    effect: str
    warns: bool


@dataclass(frozen=True)
class InksState:
    """What the Inks sheet shows; ``stack`` from the garment outward."""

    lineup: LineUpState
    piece: str
    item: str
    rows: tuple[ChannelRow, ...]
    stack: tuple[str, ...]
    mirrored: bool
    mirror_effect: str
    position: Position
    moves_white: bool
    gamut: Gamut
    recipes: tuple[RecipeRow, ...]
    coverage: str
    icc: IccChoice | None
    icc_effect: str
    takes_icc: bool


def inks_state(job: Job, plan: Plan | None) -> InksState:
    profile = job.press or profiles.shipped(USUAL)
    mirrored = job.settings.is_mirrored(profile)
    needs = "mirrored" if profile.mirrored else "not mirrored"
    effect = f"{profile.printing.title} is printed {needs}"
    if mirrored != profile.mirrored:
        effect = f"{effect}: as set now, the print will read backwards on the {job.ware.piece}"
    if plan is None:
        rows = [
            ChannelRow(order, slot.ink, LAYER_TITLES[slot.ink], slot.number, "", "")
            for order, slot in enumerate(profile.slots_in_print_order(), start=1)
        ]
    else:
        rows = [
            ChannelRow(
                order=order,
                ink=entry["ink"],
                title=LAYER_TITLES[entry["ink"]],
                slot=entry["slot"],
                coverage=f"{entry['coverage_mean'] * entry['hit_amount']:.1%}",
                amount=amount_text(entry["amount"], entry["unit"]),
            )
            for order, entry in enumerate(channels(plan), start=1)
        ]
    return InksState(
        lineup=lineup_state(job),
        piece=job.ware.piece,
        item=job.ware.item.capitalize(),
        rows=tuple(rows),
        stack=tuple(stack(profile)),
        mirrored=mirrored,
        mirror_effect=effect,
        position=profile.white_position,
        moves_white=len(profile.white_positions) > 1,
        gamut=job.settings.gamut,
        recipes=_recipe_rows(job, plan, profile),
        coverage=_coverage_text(plan),
        icc=job.settings.icc,
        icc_effect=_icc_effect(job),
        takes_icc=profile.has_black,
    )


CHANGED = "Not kept yet"
"""Name of a line-up that is not one of those kept."""


def lineup_state(job: Job) -> LineUpState:
    press, used = job.profile or profiles.shipped(USUAL), job.press or profiles.shipped(USUAL)
    came, chosen = factory(press), job.settings.lineup
    current = came if chosen is None else chosen
    inks: dict[int, list[str]] = {number: [] for number in range(1, press.slot_count + 1)}
    for slot in used.slots:
        inks[slot.number].append(slot.ink)
    slots = tuple(SlotState(number, tuple(found)) for number, found in inks.items())
    kept = tuple(item for item in shop.memory(press.name).lineups if len(item.slots) == press.slot_count)
    return LineUpState(press, current, chosen is None, slots, kept)


def lineup_edit(made: LineUp, press: PressProfile, kept: tuple[LineUp, ...] = ()) -> Edit:
    """Take a line-up; one that is the press's own is none, one that is kept takes its name."""
    if made.slots == factory(press).slots:
        return edits.change("lineup", None)
    named = next((item for item in kept if item.slots == made.slots), None)
    return edits.change("lineup", named or made)


def swap_edit(state: LineUpState, one: int, other: int) -> Edit:
    return lineup_edit(LineUp(CHANGED, state.current.swapped(one, other).slots), state.press, state.kept)


def keep_lineup(state: LineUpState, name: str) -> Edit:
    """Keep the slots as they are under a name of the shop's."""
    made = LineUp(name.strip()[:60] or "Mine", state.current.slots)
    shop.keep(state.press.name, shop.memory(state.press.name).with_lineup(made))
    return edits.change("lineup", made)


def forget_lineup(state: LineUpState) -> Edit:
    """Forget the line-up of this name, and go back to the factory's."""
    shop.keep(state.press.name, shop.memory(state.press.name).without_lineup(state.current.name))
    return edits.change("lineup", None)


def _recipe_rows(job: Job, plan: Plan | None, press: PressProfile) -> tuple[RecipeRow, ...]:
    limit = press.separation.total_area_limit
    known = [] if plan is None else held_colours(plan)
    rows = []
    for recipe in job.settings.recipes:
        found = next((item for item in known if item.recipe == recipe), None)
        over = f" · {recipe.total_percent:.0f} % in all, above the {limit:.0f} % it takes"
        told = "" if found is None else f"shows at ΔE {found.delta_e:.1f} · {found.area_mm2 / 100:.1f} cm²"
        if found is not None and found.area_mm2 == 0:
            told = "no colour of the artwork is that near"
        warns = recipe.total_percent > limit
        shown = None if found is None else found.shown
        text = told + (over if warns else "")
        rows.append(RecipeRow(recipe.colour, shown, recipe.text, recipe.tolerance_de, text, warns))
    return tuple(rows)


def _coverage_text(plan: Plan | None) -> str:
    if plan is None:
        return ""
    found = plan.coverage
    return f"Up to {found.most_percent:.0f} % of {found.limit_percent:.0f} %"


def hold_edit(job: Job, colour: Rgb) -> Edit:
    """Hold a colour of the artwork exactly, at first with the inks that it gets now, rounded to whole percent."""
    press = job.press or profiles.shipped(USUAL)
    inks = solved(np.array([colour], np.float64), press.separation)[0]
    c, m, y, k = (round(float(share), 2) for share in inks)
    others = tuple(item for item in job.settings.recipes if item.colour != colour)
    return edits.change("recipes", (*others, Recipe(colour, (c, m, y, k))), label=f"Hold {hex_from_rgb(colour)}")


def recipe_edit(job: Job, index: int, text: str) -> Edit:
    """Other inks for a held colour, as typed; raises ``ValueError`` with one sentence."""
    inks = parse.recipe_inks(text)
    press = job.press or profiles.shipped(USUAL)
    if inks[3] and not press.has_black:
        raise ValueError("This press has no black")
    return _with_recipe(job, index, replace(job.settings.recipes[index], inks=inks))


def tolerance_edit(job: Job, index: int, text: str) -> Edit:
    """Another tolerance of a held colour, as typed; raises ``ValueError`` with one sentence."""
    plain = text.replace("±", "").replace("ΔE", "").strip()
    tolerance = parse.number(plain, "The tolerance", *allowed(Recipe, "tolerance_de"))
    return _with_recipe(job, index, replace(job.settings.recipes[index], tolerance_de=tolerance))


def remove_recipe(job: Job, index: int) -> Edit:
    rest = job.settings.recipes[:index] + job.settings.recipes[index + 1 :]
    return edits.change("recipes", rest, label="Let a colour go")


def _with_recipe(job: Job, index: int, recipe: Recipe) -> Edit:
    items = list(job.settings.recipes)
    items[index] = recipe
    return edits.change("recipes", tuple(items))


INTENTS = {
    "perceptual": "Perceptual draws all colours in together, so that steps stay: photographs.",
    "relative": "Relative keeps what the inks reach and takes the nearest for the rest: logos, flat colours.",
    "saturation": "Saturation keeps colours strong at the price of their hue: charts and signs.",
    "absolute": "Absolute also prints the tint of the paper that the profile was made for: proofs only.",
}
"""Each intent in a sentence."""


def _gain_text(press: PressProfile) -> str:
    """Dot gain that the built-in separation reckons with, and where it is from."""
    found = {standing(press, f"separation.tone_curves.{ink}") for ink in press.inks}
    if found == {"assumed"}:
        return "Dot gain: assumed" + ("" if press.separation.tone_curves else ", none")
    return f"Dot gain: {' / '.join(sorted(found))}"


def _icc_effect(job: Job) -> str:
    if job.settings.icc is None or job.icc is None:
        return "" if job.profile is None else _gain_text(job.profile)
    return f"{described(job.icc)}. {INTENTS[job.settings.icc.intent]}"


@dataclass(frozen=True)
class SeparationRow:
    """One main colour, separated both ways, each with the colour that its inks show on this garment and its ΔE."""

    colour: Rgb
    built_in: str
    built_in_shows: Rgb
    built_in_de: float
    icc: str
    icc_shows: Rgb
    icc_de: float


def separations(job: Job, plan: Plan) -> tuple[SeparationRow, ...]:
    """The artwork's main colours by the built-in separation and by the colour profile, side by side."""
    if job.icc is None or job.settings.icc is None:
        return ()
    rows = []
    built_in, icc = separation_table(plan.request.profile.separation), output_table(job.icc, job.settings.icc)
    for item in plan.advice.colours[:8]:
        made = []
        for table in (built_in, icc):
            c, m, y, k = (round(float(v) / 255, 2) for v in interpolate(table, np.array(item.colour, np.uint8)))
            recipe = Recipe(item.colour, (c, m, y, k))
            made.append((recipe.text, *coming_out(recipe, 1.0, plan.request)))
        rows.append(SeparationRow(item.colour, *made[0], *made[1]))
    return tuple(rows)
