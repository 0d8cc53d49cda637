"""Print time of a carriage printer: fixed time plus, per phase, non-empty bands × (travel + turn-round).

Where it prints one way only, the carriage comes back empty: twice the travel. A second pass of the medium is fed again.
"""

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from swaddon.core.count.measure import Measures
from swaddon.core.count.shared import SheetShare
from swaddon.core.press.profile import Carriage, Phase, PressProfile
from swaddon.core.units import mm_from_px, px_from_mm


@dataclass(frozen=True)
class PhaseTime:
    """Bands that a phase prints, and the seconds that takes."""

    name: str
    bands: int
    seconds: float


@dataclass(frozen=True)
class PrintTime:
    """Print time of one shirt in seconds; zero when nothing prints."""

    fixed_s: float
    phases: tuple[PhaseTime, ...]
    ratio: float = 1.0
    """Its share of the time of the sheet that it is printed on with others, as a multiple of its own."""

    @property
    def print_s(self) -> float:
        return self.alone_s * self.ratio

    @property
    def alone_s(self) -> float:
        """What it takes when nothing is printed beside it."""
        return self.fixed_s + sum(phase.seconds for phase in self.phases)

    @property
    def shirts_per_hour(self) -> float:
        """Shirts per hour of the printer alone; 0 when nothing prints."""
        return 3600 / self.print_s if self.print_s > 0 else 0.0


def print_time(
    measures: Measures, carriage: Carriage, white_rounds: int = 1, share: SheetShare | None = None
) -> PrintTime:
    """Time of each phase, and of the whole print; white that needs more hits than slots goes round again."""
    phases = tuple(
        _phase_time(phase, measures, carriage, white_rounds if "white" in phase.roles else 1)
        for phase in carriage.phases
    )
    printing = any(phase.bands for phase in phases)
    fixed_s = carriage.fixed_s + carriage.refeed_s if printing else 0.0
    return PrintTime(fixed_s, phases, 1.0 if share is None else share.time_ratio)


def sheet_time_s(press: PressProfile, rows: NDArray[np.bool_], width_mm: float, ppi: float, has_white: bool) -> float:
    """Time in s that a whole sheet takes: ``rows`` tells which of its pixel rows print, ``width_mm`` how wide at most.

    A phase that lays nothing but white goes over it only where some print has white.
    """
    if not rows.any():
        return 0.0
    carriage, total = press.carriage, press.carriage.fixed_s + press.carriage.refeed_s
    for phase in carriage.phases:
        if not has_white and not any(role == "colour" for role in phase.roles):
            continue
        rounds = press.white_rounds if "white" in phase.roles else 1
        bands = rounds * non_empty_bands(rows, px_from_mm(carriage.head_height_mm / phase.passes, ppi))
        ways = 2 if carriage.one_way else 1
        total += bands * (ways * width_mm / carriage.speed_mm_s + carriage.turn_s)
    return total


def _phase_time(phase: Phase, measures: Measures, carriage: Carriage, rounds: int) -> PhaseTime:
    rows = np.zeros(measures.height_px, np.bool_)
    width_px = 0
    for role in phase.roles:
        extent = measures.extents[role]
        rows |= extent.rows
        width_px = max(width_px, extent.width_px)
    count = rounds * non_empty_bands(rows, px_from_mm(carriage.head_height_mm / phase.passes, measures.ppi))
    ways = 2 if carriage.one_way else 1
    travel_s = ways * mm_from_px(width_px, measures.ppi) / carriage.speed_mm_s + carriage.turn_s
    return PhaseTime(phase.name, count, count * travel_s)


def non_empty_bands(rows: NDArray[np.bool_], band_px: float) -> int:
    """Bands of ``band_px`` rows, counted from the top, in which any row prints.

    >>> rows = np.zeros(100, bool)
    >>> rows[[5, 8, 95]] = True
    >>> non_empty_bands(rows, 20.0)
    2
    """
    printed = np.flatnonzero(rows)
    return len({math.floor(row / band_px) for row in printed.tolist()})
