"""Scales: a protocol, one that is simulated with its faults, and a reader for scales that send plain text.

What they weigh is told in g. A weight counts when it is steady; waiting for that is the same for all of them.
"""

import os
import re
import select
import termios
import time
import tty
from collections.abc import Callable
from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path
from typing import Protocol

import numpy as np

from swaddon.core.errors import PlanError

Clock = Callable[[], float]

_GRAMS = {"g": 1.0, "kg": 1000.0, "mg": 0.001, "oz": 28.349523125, "lb": 453.59237, "ct": 0.2}
"""Units of weight in g; ounce and pound are exact (international avoirdupois pound, 1959)."""

_LINE = re.compile(r"([+\-−]?)\s*(\d+(?:[.,]\d+)?)\s*(kg|mg|g|oz|lb|ct)?(?![A-Za-z])", re.IGNORECASE)
_UNSTEADY = re.compile(r"^\s*(US|SD|D|\?)\b|\?\s*$|~", re.IGNORECASE)
_LONGEST_LINE = 200
_SPEEDS = {
    1200: termios.B1200, 2400: termios.B2400, 4800: termios.B4800, 9600: termios.B9600, 19200: termios.B19200,
}  # fmt: skip


@dataclass(frozen=True)
class Weight:
    """What a scale shows, and whether it says that it has settled."""

    grams: float
    is_steady: bool = True


class Scale(Protocol):
    """Anything that shows a weight."""

    def read(self) -> Weight | None:
        """What it shows now; ``None``: it said nothing in time."""

    def close(self) -> None:
        """Let go of it."""


def weight_of(line: str) -> Weight:
    """A line of text as scales send it, or as one that acts as a keyboard types it.

    The last number is the weight; without a unit it is grams. ``US``, ``SD``, ``D`` or a question mark say that it has
    not settled.

    Raises
    ------
    ValueError
        When there is no number in it.

    >>> weight_of("ST,GS,+   12.34 g"), weight_of("US,NT,-0.0021kg")
    (Weight(grams=12.34, is_steady=True), Weight(grams=-2.1, is_steady=False))
    """
    found = list(_LINE.finditer(line[:_LONGEST_LINE]))
    if not found:
        raise ValueError(f"“{line.strip()[:40]}” is no weight")
    sign, digits, unit = found[-1].groups()
    grams = float(digits.replace(",", ".")) * _GRAMS[(unit or "g").lower()]
    return Weight(round(-grams if sign in ("-", "−") else grams, 6), _UNSTEADY.search(line) is None)


@dataclass(frozen=True)
class ScaleFaults:
    """What is wrong with a scale.

    Attributes
    ----------
    drift_g_min
        What its zero wanders in a minute.
    draught_g
        Standard deviation of what a draught makes of it.
    tray_g, forgets_at
        Weight of the tray, and the reading (from 1) at which its tare is forgotten; 0: at none.
    """

    drift_g_min: float = 0.0
    draught_g: float = 0.0
    tray_g: float = 9.0
    forgets_at: int = 0


class SimulatedScale:
    """A scale of 0.01 g with faults; what lies on it is said by :meth:`lay`."""

    step_g = 0.01
    noise_g = 0.012

    def __init__(self, seed: int = 0, faults: ScaleFaults | None = None, clock: Clock = time.monotonic) -> None:
        self._chance = np.random.default_rng([seed, 53])
        self._faults, self._clock = faults or ScaleFaults(), clock
        self._start = clock()
        self._load = 0.0
        self._loads = 0

    def lay(self, grams: float) -> None:
        """Lay something on it, tared before; where the tare is forgotten, the tray weighs too."""
        self._loads += 1
        tray = self._faults.tray_g if self._loads == self._faults.forgets_at else 0.0
        self._load = grams + tray

    def read(self) -> Weight | None:
        faults = self._faults
        minutes = (self._clock() - self._start) / 60
        shaken = float(self._chance.normal(0, faults.draught_g)) if faults.draught_g else 0.0
        shown = self._load + faults.drift_g_min * minutes + shaken + float(self._chance.normal(0, self.noise_g))
        return Weight(round(round(shown / self.step_g) * self.step_g, 4), abs(shaken) <= 2 * self.step_g)

    def close(self) -> None:
        """Nothing is held."""


class TextScale:
    """A scale on a serial line (or anything that sends lines of text), 8 data bits, no parity.

    Raises
    ------
    PlanError
        When the device cannot be opened; one sentence.
    """

    def __init__(self, device: Path, baud: int = 9600, patience_s: float = 2.0) -> None:
        if baud not in _SPEEDS:
            raise PlanError(f"A scale at {baud} baud is not read: choose {', '.join(map(str, _SPEEDS))}.")
        try:
            self._file = os.open(device, os.O_RDONLY | os.O_NOCTTY | os.O_NONBLOCK)
        except OSError as error:
            why = (error.strerror or "refused").lower()
            raise PlanError(
                f"The scale at {device} cannot be opened ({why}): is it plugged in and switched on?"
            ) from error
        self._patience_s, self._held = patience_s, b""
        with suppress(termios.error):
            tty.setraw(self._file)
            state = termios.tcgetattr(self._file)
            state[4] = state[5] = _SPEEDS[baud]
            termios.tcsetattr(self._file, termios.TCSANOW, state)

    def read(self) -> Weight | None:
        """The newest whole line that is a weight; lines that are none are passed over."""
        deadline = time.monotonic() + self._patience_s
        while True:
            found = self._newest()
            if found is not None:
                return found
            left = deadline - time.monotonic()
            if left <= 0 or not select.select([self._file], [], [], left)[0]:
                return None
            try:
                more = os.read(self._file, 4096)
            except OSError as error:
                raise PlanError("The scale was unplugged: plug it in again, then weigh.") from error
            if not more:
                return None
            self._held = (self._held + more)[-4 * _LONGEST_LINE :]

    def _newest(self) -> Weight | None:
        *lines, self._held = re.split(rb"[\r\n]+", self._held)
        for line in reversed(lines):
            with suppress(ValueError):
                return weight_of(line.decode("ascii", "replace"))
        return None

    def close(self) -> None:
        with suppress(OSError):
            os.close(self._file)


def settled(
    scale: Scale,
    within_g: float = 0.03,
    alike: int = 4,
    most: int = 60,
    wait: Callable[[], object] = lambda: None,
) -> float:
    """The weight once the scale has settled: the mean of some readings in a row that are alike.

    Raises
    ------
    PlanError
        One sentence: it says nothing, or does not settle.
    """
    row: list[float] = []
    for _ in range(most):
        shown = scale.read()
        if shown is None:
            raise PlanError("The scale says nothing: switch it on, and set it to send its weight continuously.")
        row = [*row, shown.grams][-alike:] if shown.is_steady else []
        if len(row) == alike and max(row) - min(row) <= within_g:
            return round(sum(row) / alike, 4)
        wait()
    raise PlanError("The scale does not settle: keep draughts and hands off, then weigh again.")
