"""Which ink sits in which slot, left to right as seen from the front."""

from collections import Counter
from dataclasses import dataclass, replace
from typing import Annotated, Literal

from annotated_types import MaxLen, MinLen

from swaddon.core.errors import PlanError
from swaddon.core.press.profile import PressProfile, Role, Slot

InkInSlot = Literal["C", "M", "Y", "K", "W", "H", ""]
"""An ink, or an empty slot."""

ROLES: dict[str, Role] = {"W": "white", "H": "highlight"}
"""Roles of inks that are no colour."""

FACTORY = "As it came"

_WORDS = {"C": "cyan", "M": "magenta", "Y": "yellow", "K": "black", "W": "white", "H": "highlight white"}


@dataclass(frozen=True)
class LineUp:
    """A line-up by its name.

    Attributes
    ----------
    name
        What the shop calls it.
    slots
        The ink of each slot from the left; empty where none sits.
    """

    name: Annotated[str, MaxLen(60)]
    slots: Annotated[tuple[InkInSlot, ...], MinLen(1), MaxLen(12)]

    def swapped(self, one: int, other: int) -> "LineUp":
        """The same with two slots exchanged, so that no ink can be there twice (slots count from 0).

        >>> LineUp("Mine", ("C", "M", "W")).swapped(0, 2).slots
        ('W', 'M', 'C')
        """
        slots = list(self.slots)
        slots[one], slots[other] = slots[other], slots[one]
        return replace(self, slots=tuple(slots))


def factory(press: PressProfile) -> LineUp:
    """The line-up that the press profile tells of; an ink that is swapped in is not listed."""
    slots: list[InkInSlot] = [""] * press.slot_count
    for slot in reversed(press.slots):
        slots[slot.number - 1] = slot.ink  # type: ignore[call-overload]
    return LineUp(FACTORY, tuple(slots))


def check(lineup: LineUp, press: PressProfile) -> None:
    """Raise ``PlanError`` where a line-up is none of this press: the slot is named.

    Colours and highlight white sit in one slot each; white in one or more.
    """
    if len(lineup.slots) != press.slot_count:
        raise PlanError(
            f"The line-up “{lineup.name}” has {len(lineup.slots)} slots, {press.name} has {press.slot_count}: "
            "take one of this press."
        )
    wanted, seen = Counter(factory(press).slots), dict[str, int]()
    for number, ink in enumerate(lineup.slots, start=1):
        if ink == "":
            continue
        if ink not in wanted:
            raise PlanError(
                f"The line-up “{lineup.name}” has {_WORDS[ink]} in slot {number}, which {press.name} does not print."
            )
        if ink in seen and ink != "W":
            raise PlanError(
                f"The line-up “{lineup.name}” has {_WORDS[ink]} in slot {number} and in slot {seen[ink]}: "
                "each colour sits in one slot."
            )
        seen.setdefault(ink, number)
    missing = [ink for ink in wanted if ink and ink not in seen]
    if missing:
        free = [number for number, ink in enumerate(lineup.slots, start=1) if ink != factory(press).slots[number - 1]]
        home = factory(press).slots.index(missing[0]) + 1
        raise PlanError(
            f"The line-up “{lineup.name}” lacks {_WORDS[missing[0]]}: slot {home if home in free else free[0]} holds "
            f"{_WORDS.get(lineup.slots[(home if home in free else free[0]) - 1], 'nothing')} instead."
        )


def fits(lineup: LineUp, press: PressProfile) -> bool:
    """Whether :func:`check` finds nothing wrong."""
    try:
        check(lineup, press)
    except PlanError:
        return False
    return True


def with_lineup(press: PressProfile, lineup: LineUp | None) -> PressProfile:
    """The press with its inks in other slots; its own where there is none, or one of another press.

    What is swapped in for a second pass goes where the ink sits that it takes out.
    """
    if lineup is None or not fits(lineup, press):
        return press
    base = factory(press).slots
    slots = [
        Slot(number, ink, ROLES.get(ink, "colour")) for number, ink in enumerate(lineup.slots, start=1) if ink != ""
    ]
    listed = {slot.number: slot.ink for slot in slots}
    for slot in press.slots:
        home = base[slot.number - 1]
        if slot.ink != home:
            number = next(number for number, ink in listed.items() if ink == home)
            slots.append(replace(slot, number=number))
    return replace(press, slots=tuple(slots))
