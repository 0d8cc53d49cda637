"""Prints and bottles on a scale: which weight differences they give, and what constants make of each."""

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from swaddon.core.errors import PlanError
from swaddon.core.press.profile import PressProfile
from swaddon.core.shop.refit import Prior, Reading
from swaddon.core.shop.sureness import first_value, lay_down_key, stated_log_sd, weighable
from swaddon.core.shop.used import Used

SCALE_G = 0.03
"""Standard deviation of the difference of two weights on a scale of 0.01 g (assumed)."""

PRINT_SHARE = 0.025
"""How much prints of one plan differ in weight, as a share, from one to the next (assumed)."""


@dataclass(frozen=True)
class Print:
    """What a print that is weighed is made of: m² of full hits by ink, printed and pretreated area in m²."""

    full_m2: dict[str, float]
    printed_m2: float
    pretreat_m2: float = 0.0

    @classmethod
    def of(cls, used: Used) -> "Print":
        """The print of a plan."""
        return cls(used.full_m2, used.printed_m2, used.pretreat_m2)


@dataclass(frozen=True)
class Weighing:
    """One row of a weigh-in: prints of one plan, or an ink bottle before and after them.

    Attributes
    ----------
    name, row
        What it is called, and its row in the table.
    of
        One of the prints.
    count
        Prints weighed at once; of a bottle, prints that it was used for.
    blank_g, pretreated_g, printed_g, powdered_g
        Weights of all of them at once, in the order of the work; ``None``: not weighed.
    bottle
        Inks that the bottle holds, ``W`` or one of ``CMYK``; empty: prints are weighed.
    before_g, after_g
        Weights of the bottle.
    at
        When it was weighed: minutes, or the place in the table.
    """

    name: str
    row: int
    of: Print
    count: int = 1
    blank_g: float | None = None
    pretreated_g: float | None = None
    printed_g: float | None = None
    powdered_g: float | None = None
    bottle: str = ""
    before_g: float | None = None
    after_g: float | None = None
    at: float = 0.0

    @property
    def what(self) -> str:
        """Its row and name, at the beginning of a sentence."""
        return f"Row {self.row} ({self.name})"


@dataclass(frozen=True, eq=False)
class Row:
    """A reading with the row it is from."""

    weighing: Weighing
    what: str
    reading: Reading


def prior_of(press: PressProfile, keys: Sequence[str]) -> Prior:
    """Constants of a press before anybody measured them."""
    values = [max(first_value(press, key), 1e-6) for key in keys]
    return Prior(np.log(values), np.array([stated_log_sd(press, key) for key in keys]))


def keys_of(press: PressProfile, weighings: Sequence[Weighing]) -> tuple[str, ...]:
    """Constants that weighings of such kinds tell; of bottles, the waste of their inks too."""
    held = "".join(weighing.bottle for weighing in weighings)
    wastes = [waste_key(ink) for ink in held]
    return (*weighable(press), *dict.fromkeys(wastes))


def waste_key(ink: str) -> str:
    """Place of the waste of an ink in the profile's file."""
    return f"supplies.{'white' if ink == 'W' else 'colour'}_ink.waste_share"


def reading_of(
    kind: str, of: Print, press: PressProfile, keys: Sequence[str], grams: float = 0.0, count: int = 1
) -> Reading:
    """A weight difference of prints of a kind as the constants make it.

    ``kind`` is ``ink``, ``powder``, ``ink and powder``, ``pretreat`` or ``bottle`` followed by its inks.
    """
    place = {key: at for at, key in enumerate(keys)}
    linear, times, factor = np.zeros(len(keys)), np.zeros(len(keys)), -1
    inks = kind.removeprefix("bottle ") if kind.startswith("bottle") else "".join(of.full_m2)
    for ink in inks if kind != "pretreat" else "":
        name = "W" if ink == "H" else ink
        supply = press.white_ink if name == "W" else press.colour_ink
        at, full = place[lay_down_key(press, name)], of.full_m2.get(ink, 0.0) * count
        if kind != "powder":
            linear[at] += full * supply.grams
        if kind.startswith("bottle"):
            factor = place[waste_key(name)]
            times[at] += full * supply.grams
        elif "powder" in kind:
            times[at] += full
    if "powder" in kind:
        linear[place["supplies.powder.per_area_g_m2"]] = of.printed_m2 * count
        factor = place["supplies.powder.per_ink_g_ml"]
    if kind == "pretreat" and press.pretreat is not None:
        linear[place["supplies.pretreat.per_area"]] = of.pretreat_m2 * count * press.pretreat.supply.grams
    return Reading(grams, linear, factor, times, SCALE_G, PRINT_SHARE / math.sqrt(count))


def rows_of(weighing: Weighing, press: PressProfile, keys: Sequence[str]) -> list[Row]:
    """The readings of a row: each weight against the one before it."""
    held = set(weighing.of.full_m2)
    known = {*press.inks, *("W" if press.has_white else ""), *("H" if press.has_highlight else "")}
    strange = sorted(ink for ink in held - known if weighing.of.full_m2[ink] > 0)
    if strange:
        raise PlanError(f"{weighing.what} has {strange[0]}, which the press {press.name} does not print.")
    if weighing.bottle:
        return [_bottle(weighing, press, known, keys)]
    steps = (
        ("pretreat", weighing.blank_g, weighing.pretreated_g),
        ("ink", weighing.pretreated_g if weighing.pretreated_g is not None else weighing.blank_g, weighing.printed_g),
        ("powder", weighing.printed_g, weighing.powdered_g),
    )
    if weighing.powdered_g is not None and weighing.printed_g is None:
        steps = (steps[0], ("ink and powder", weighing.blank_g, weighing.powdered_g), ("", None, None))
    out = []
    for kind, before, after in steps:
        if before is None or after is None:
            continue
        if kind == "pretreat" and press.pretreat is None:
            raise PlanError(f"{weighing.what} is weighed pretreated, and {press.name} pretreats nothing.")
        if "powder" in kind and press.powder is None:
            raise PlanError(f"{weighing.what} is weighed powdered, and {press.name} uses no powder.")
        if after < before and kind != "powder":
            raise PlanError(
                f"{weighing.what} shrinks: {after:g} g after {before:g} g before; weigh it again, with the same "
                "tray under it or the tare taken off each time."
            )
        reading = reading_of(kind, weighing.of, press, keys, after - before, weighing.count)
        out.append(Row(weighing, kind, reading))
    return out


def _bottle(weighing: Weighing, press: PressProfile, known: set[str], keys: Sequence[str]) -> Row:
    """A bottle before and after a run."""
    if not set(weighing.bottle) <= known:
        raise PlanError(f"{weighing.what}: {press.name} has no bottle of {weighing.bottle}.")
    if weighing.before_g is None or weighing.after_g is None:
        raise PlanError(f"{weighing.what} needs the bottle’s weight before and after the run.")
    lost = weighing.before_g - weighing.after_g
    if lost < 0:
        raise PlanError(
            f"{weighing.what}: the bottle weighs {-lost:g} g more after the run than before it; was it filled?"
        )
    kind = f"bottle {weighing.bottle}"
    return Row(weighing, kind, reading_of(kind, weighing.of, press, keys, lost, weighing.count))
