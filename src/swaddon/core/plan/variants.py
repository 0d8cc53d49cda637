"""One artwork planned many ways side by side: garments × white × knockouts × holes × presses."""

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace
from itertools import product

from swaddon.core.colour.spaces import Rgb
from swaddon.core.count.money import STORED_PLACES, rounded
from swaddon.core.engine import Run
from swaddon.core.errors import PlanError
from swaddon.core.holes.held import usual_screen
from swaddon.core.holes.settings import Pattern
from swaddon.core.order.request import PlanRequest
from swaddon.core.order.settings import PlanSettings
from swaddon.core.plan.outcome import PROOF_PX, Outcome, outcome_of
from swaddon.core.plan.stages import make_plan
from swaddon.core.press.profile import PressProfile
from swaddon.core.schema import changed

MOST_VARIANTS = 200

_ALIKE_DE = 0.5
"""ΔE00 by which a worst colour may be better without being seen to be (assumed)."""

CACHE_BYTES = 1_000_000_000
"""What is kept between one variant and the next, so that what does not change is not done again."""


@dataclass(frozen=True)
class Choice:
    """One value of an axis: its name, and the settings that it changes, by path."""

    title: str
    changes: tuple[tuple[str, object], ...] = ()

    def on(self, settings: PlanSettings) -> PlanSettings:
        """The settings with this choice taken."""
        for path, value in self.changes:
            settings = changed(settings, path, value)
        return settings

    def at(self, _press: PressProfile) -> "Choice":
        """This choice on a press."""
        return self


@dataclass(frozen=True)
class UsualHoles(Choice):
    """Holes of a pattern as each press starts with them: every variant has those of its own press."""

    pattern: Pattern = "round"

    def at(self, press: PressProfile) -> Choice:
        return Choice(self.title, (("holes.default", usual_screen(press, self.pattern)),))


AS_IT_IS = Choice("as it is")
"""An axis that is not varied."""


@dataclass(frozen=True)
class GarmentChoice:
    """A garment by its name and colour."""

    title: str
    rgb: Rgb


@dataclass(frozen=True)
class Axes:
    """What is varied; each axis has at least one value."""

    garments: tuple[GarmentChoice, ...]
    presses: tuple[PressProfile, ...]
    whites: tuple[Choice, ...] = (AS_IT_IS,)
    knockouts: tuple[Choice, ...] = (AS_IT_IS,)
    holes: tuple[Choice, ...] = (AS_IT_IS,)

    @property
    def count(self) -> int:
        """How many variants they make."""
        sizes = map(len, (self.garments, self.presses, self.whites, self.knockouts, self.holes))
        out = 1
        for size in sizes:
            out *= size
        return out


@dataclass(frozen=True)
class Variant:
    """One value of each axis."""

    garment: GarmentChoice
    press: PressProfile
    white: Choice
    knockout: Choice
    holes: Choice

    @property
    def title(self) -> str:
        """Its values in a few words, without those of axes that are not varied."""
        parts = (self.garment.title, self.press.process, self.white.title, self.knockout.title, self.holes.title)
        return ", ".join(part for part in parts if part != AS_IT_IS.title)

    def on(self, settings: PlanSettings) -> PlanSettings:
        """The settings of an order with this variant taken, the press besides."""
        settings = replace(settings, garment=self.garment.rgb)
        for choice in (self.white, self.knockout, self.holes):
            settings = choice.on(settings)
        return settings


def variants_of(axes: Axes) -> tuple[Variant, ...]:
    """All variants, in the order in which the least has to be done again from one to the next.

    Raises
    ------
    PlanError
        When they are more than ``MOST_VARIANTS``, or an axis has no value.
    """
    if axes.count == 0:
        raise PlanError("Choose at least one garment, one press and one white plan to compare.")
    if axes.count > MOST_VARIANTS:
        raise PlanError(f"That makes {axes.count} variants, more than {MOST_VARIANTS}: choose fewer values.")
    made = product(axes.knockouts, axes.garments, axes.presses, axes.holes, axes.whites)
    return tuple(
        Variant(garment, press, white.at(press), knockout.at(press), holes.at(press))
        for knockout, garment, press, holes, white in made
    )


@dataclass(frozen=True, eq=False)
class Worked:
    """A variant and what it comes to; ``problem`` says in a sentence why it cannot be planned."""

    variant: Variant
    outcome: Outcome | None
    problem: str = ""


def worked_out(
    variants: Sequence[Variant],
    request_of: Callable[[Variant], PlanRequest],
    run: Run,
    longest_px: int = PROOF_PX,
    cache_bytes: int = CACHE_BYTES,
) -> Iterator[Worked]:
    """Plan the variants one after the other; ``run`` is asked whether they are still wanted and told how far it is."""
    inner = run.aside(cache_bytes)
    for index, variant in enumerate(variants):
        run.report(variant.title, index / len(variants))
        run.check()
        try:
            plan = make_plan(request_of(variant), inner, lean=True)
        except PlanError as error:
            yield Worked(variant, None, str(error))
        else:
            yield Worked(variant, outcome_of(plan, longest_px))
    run.report("", 1.0)


def dominated(found: Sequence[Worked]) -> tuple[bool, ...]:
    """Whether another variant on the same garment costs less and is in nothing worse.

    Looked at are the worst colour (to what an eye tells apart), the hand, print time, and findings that stop or want a
    look.
    """
    return tuple(any(_beats(other, item) for other in found) for item in found)


def _beats(one: Worked, other: Worked) -> bool:
    better, worse = one.outcome, other.outcome
    if better is None or worse is None or one.variant.garment != other.variant.garment:
        return False
    if better.currency != worse.currency or rounded(better.cost, STORED_PLACES) >= rounded(worse.cost, STORED_PLACES):
        return False
    return all(
        a <= b + 1e-9
        for a, b in (
            (better.worst_de, worse.worst_de + _ALIKE_DE),
            (better.hand_g_m2, worse.hand_g_m2),
            (better.print_s, worse.print_s),
            (better.stops, worse.stops),
            (better.troubles, worse.troubles),
        )
    )


_SAME_DE = 0.3
"""ΔE00 up to which a colour comes out alike (assumed)."""


def differing_colour(outcomes: Sequence[Outcome]) -> Rgb | None:
    """The colour to compare ways by where every way loses the worst one alike: the worst that comes out differently.

    ``None``: the worst colour tells them apart, or none does.
    """
    by_colour = [{shift.colour: shift.delta_e for shift in outcome.shifts} for outcome in outcomes if outcome.shifts]
    if len(by_colour) < 2 or len({outcome.shifts[0].colour for outcome in outcomes if outcome.shifts}) > 1:
        return None

    def spread(colour: Rgb) -> float:
        found = [shifts[colour] for shifts in by_colour]
        return max(found) - min(found)

    shared = [colour for colour in by_colour[0] if all(colour in shifts for shifts in by_colour)]
    if not shared or spread(next(iter(by_colour[0]))) > _SAME_DE:
        return None
    shared.sort(key=lambda colour: -max(shifts[colour] for shifts in by_colour))
    return next((colour for colour in shared if spread(colour) > _SAME_DE), None)
