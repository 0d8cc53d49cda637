"""How sure the constants of a press are, and what that makes of the cost of a print.

A constant has a lognormal spread: it is positive, and as likely to be twice as large as half as large. What was weighed
together is unsure together: a weigh-in keeps the covariance of the logarithms. First-order propagation of that to a
cost (JCGM 100:2008, 5.1 and 5.2) gives its ±, a 95 % interval as all ± here.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from swaddon.core.press.measured import Measured
from swaddon.core.press.profile import PressProfile
from swaddon.core.shop.used import INK_ROLES, Used

Z95 = 1.96
"""95 % of a normal distribution lie within so many standard deviations."""

ASSUMED_LOG_SD = 0.3
"""Standard deviation of the logarithm of a constant that nobody measured, assumed or the maker's (assumed)."""

WASTE_LOG_SD = 1.0
"""The same of the share of ink that is thrown away, which is a guess until bottles are weighed (assumed)."""

_NAMES = {"W": "white", "C": "cyan", "M": "magenta", "Y": "yellow", "K": "black"}


@dataclass(frozen=True)
class Sure:
    """A constant with its 95 % interval and where it is from."""

    constant: str
    title: str
    unit: str
    value: float
    log_sd: float
    source: str

    @property
    def pm(self) -> float:
        """Half the width of the interval; a value lies within ± it about as often as in the interval itself."""
        return self.value * math.sinh(Z95 * self.log_sd)

    @property
    def low(self) -> float:
        return self.value * math.exp(-Z95 * self.log_sd)

    @property
    def high(self) -> float:
        return self.value * math.exp(Z95 * self.log_sd)


@dataclass(frozen=True, eq=False)
class Sureness:
    """Constants of a press and the covariance of their logarithms, ``float64 (n, n)`` in their order."""

    constants: tuple[Sure, ...]
    covariance: NDArray[np.float64]

    @property
    def keys(self) -> tuple[str, ...]:
        return tuple(item.constant for item in self.constants)

    @property
    def values(self) -> dict[str, float]:
        return {item.constant: item.value for item in self.constants}

    def of(self, constant: str) -> Sure:
        """One of the constants."""
        return next(item for item in self.constants if item.constant == constant)


def lay_down_key(press: PressProfile, ink: str) -> str:
    """Place of an ink's lay-down in the profile's file."""
    return f"lay_down_{press.ink_unit}_m2.{ink}"


def weighable(press: PressProfile) -> tuple[str, ...]:
    """Constants of a press that weights tell."""
    inks = [*(["W"] if press.has_white else []), *press.inks]
    out = [lay_down_key(press, ink) for ink in inks]
    if press.powder is not None:
        out += ["supplies.powder.per_area_g_m2", "supplies.powder.per_ink_g_ml"]
    if press.pretreat is not None:
        out.append("supplies.pretreat.per_area")
    return tuple(out)


def value_of(press: PressProfile, constant: str) -> float:
    """A constant of consumption or time as the press has it."""
    room, _, name = constant.rpartition(".")
    if room.startswith("lay_down"):
        return press.lay_down_per_m2[name]
    if room == "supplies.powder" and press.powder is not None:
        return press.powder.per_area_g_m2 if name == "per_area_g_m2" else press.powder.per_ink_g_ml
    if room == "supplies.pretreat" and press.pretreat is not None:
        return press.pretreat.amount_per_m2
    if name == "waste_share":
        return (press.white_ink if "white" in room else press.colour_ink).waste_share
    if room == "time":
        carriage = press.carriage
        times = {
            "fixed_s": carriage.fixed_s,
            "turn_round_s": carriage.turn_s,
            "carriage_speed_mm_s": carriage.speed_mm_s,
        }
        return times[name]
    raise KeyError(constant)


def words_for(press: PressProfile, constant: str) -> tuple[str, str]:
    """Name and unit of a constant on the bench."""
    room, _, name = constant.rpartition(".")
    if room.startswith("lay_down"):
        return f"Lay-down of {_NAMES[name]}", f"{press.ink_unit}/m²"
    if name == "waste_share":
        return f"Waste of {'white' if 'white' in room else 'colour'}", ""
    return {
        "per_area_g_m2": ("Powder by area", "g/m²"),
        "per_ink_g_ml": ("Powder by ink", f"g/{press.ink_unit}"),
        "per_area": ("Pretreat by area", f"{press.pretreat.supply.unit if press.pretreat else 'ml'}/m²"),
        "fixed_s": ("Fixed time of a print", "s"),
        "turn_round_s": ("Turn-round", "s"),
        "carriage_speed_mm_s": ("Carriage speed", "mm/s"),
    }[name]


def first_value(press: PressProfile, constant: str) -> float:
    """A constant as it was assumed or stated before anybody measured it."""
    first = next((entry for entry in press.measured if entry.constant == constant), None)
    return value_of(press, constant) if first is None or isinstance(first.old, tuple) else float(first.old)


def stated_log_sd(press: PressProfile, constant: str) -> float:
    """Spread of a constant before it was measured: as stated, else the assumed one."""
    if constant.endswith("waste_share"):
        return WASTE_LOG_SD
    stated = next((item for item in press.stated if item.constant == constant), None)
    return ASSUMED_LOG_SD if stated is None or not stated.percent else math.asinh(stated.percent / 100) / Z95


def sure_of(press: PressProfile, constant: str, log_sd: float | None = None) -> Sure:
    """A constant with its spread; of what weighs nothing yet, the assumed one."""
    title, unit = words_for(press, constant)
    value = value_of(press, constant)
    measured = press.measured_as(constant)
    if measured is not None:
        spread = _measured_log_sd(measured) if log_sd is None else log_sd
        return Sure(constant, title, unit, value, spread, f"measured on {measured.date}")
    stated = next((item for item in press.stated if item.constant == constant), None)
    source = "assumed" if stated is None else stated.source
    return Sure(constant, title, unit, value, stated_log_sd(press, constant) if log_sd is None else log_sd, source)


def _measured_log_sd(measured: Measured) -> float:
    value = float(measured.value) if not isinstance(measured.value, tuple) else 0.0
    return math.asinh(measured.pm / value) / Z95 if value > 0 and measured.pm > 0 else ASSUMED_LOG_SD


def sureness(press: PressProfile, constants: Sequence[str] | None = None) -> Sureness:
    """The constants of consumption (or others) of a press, each with its spread, and how they are unsure together."""
    wastes = [entry.constant for entry in press.measured if entry.constant.endswith("waste_share")]
    keys = list((*weighable(press), *dict.fromkeys(wastes)) if constants is None else constants)
    found = [sure_of(press, key) for key in keys]
    covariance = np.diag([item.log_sd**2 for item in found])
    for weighed in press.weighed:
        held = [(at, keys.index(key)) for at, key in enumerate(weighed.constants) if key in keys]
        table = np.array(weighed.log_covariance)
        for at, row in held:
            covariance[row, :], covariance[:, row] = 0.0, 0.0
            for other, column in held:
                covariance[row, column] = covariance[column, row] = table[at, other]
    spread = np.sqrt(np.clip(np.diag(covariance), 0.0, None))
    sure = tuple(replace(item, log_sd=float(sd)) for item, sd in zip(found, spread, strict=True))
    return Sureness(sure, covariance)


def cost_slopes(used: Used, press: PressProfile, keys: Sequence[str]) -> dict[str, NDArray[np.float64]]:
    """By material, how its cost changes with the logarithm of each constant, in money."""
    out = {material.kind: np.zeros(len(keys)) for material in used.materials}
    price = {item.kind: float(item.supply.unit_price) * (1 + item.supply.waste_share) for item in used.materials}
    powder = press.powder if used.amount("powder") > 0 else None
    for at, key in enumerate(keys):
        room, _, name = key.rpartition(".")
        if room.startswith("lay_down"):
            for ink in ("W", "H") if name == "W" else (name,):
                amount = used.full_m2.get(ink, 0.0) * press.lay_down_per_m2[name]
                out[INK_ROLES[ink]][at] += amount * price[INK_ROLES[ink]]
                if powder is not None:
                    out["powder"][at] += powder.per_ink_g_ml * amount * price["powder"]
        elif name == "per_area_g_m2" and powder is not None:
            out["powder"][at] = powder.per_area_g_m2 * used.printed_m2 * price["powder"]
        elif name == "per_ink_g_ml" and powder is not None:
            volume = used.amount("white") + used.amount("colour")
            out["powder"][at] = powder.per_ink_g_ml * volume * price["powder"]
        elif name == "waste_share":
            kind = "white" if "white" in room else "colour"
            out[kind][at] = used.amount(kind) * price[kind] * (share := value_of(press, key)) / (1 + share)
        elif name == "per_area":
            out["pretreat"][at] = used.amount("pretreat") * price["pretreat"]
    return out


@dataclass(frozen=True)
class CostSpread:
    """± of a cost: of each material and in sum, 95 %; the constant that makes most of it, and its share of it."""

    pm: float
    by_kind: dict[str, float]
    largest: Sure | None
    largest_share: float


def spread_of(slopes: dict[str, NDArray[np.float64]], sure: Sureness) -> CostSpread:
    """What unsure constants make of a cost."""
    total = sum(slopes.values(), np.zeros(len(sure.constants)))
    covariance = sure.covariance
    variance = float(total @ covariance @ total)
    by_kind = {kind: Z95 * math.sqrt(max(0.0, float(part @ covariance @ part))) for kind, part in slopes.items()}
    if variance <= 0:
        return CostSpread(0.0, by_kind, None, 0.0)
    own = np.diag(covariance)
    known = np.where(own > 0, (covariance @ total) ** 2 / np.where(own > 0, own, 1.0), 0.0)
    at = int(known.argmax())
    return CostSpread(Z95 * math.sqrt(variance), by_kind, sure.constants[at], float(known[at]) / variance)


def cost_spread(used: Used, press: PressProfile) -> CostSpread:
    """± of the cost of a print by what its press's constants are unsure."""
    sure = sureness(press)
    return spread_of(cost_slopes(used, press, sure.keys), sure)
