"""The scale that a shop weighs with: typed by hand, on a serial line, or simulated with a press of hidden constants."""

import time
from collections.abc import Mapping
from dataclasses import dataclass
from pathlib import Path
from typing import Literal

from swaddon.core.errors import PlanError
from swaddon.core.press.profile import PressProfile
from swaddon.core.shop.used import Used
from swaddon.core.shop.weighing import Print
from swaddon.devices.scale import Scale, ScaleFaults, SimulatedScale, TextScale, settled
from swaddon.devices.weighed import HiddenPress

Kind = Literal["typed", "simulated", "serial"]
Fault = Literal["none", "drift", "draught", "tare"]
STEPS = ("blank_g", "pretreated_g", "printed_g", "powdered_g")

_FAULTS = {
    "none": ScaleFaults(),
    "drift": ScaleFaults(drift_g_min=0.12),
    "draught": ScaleFaults(draught_g=0.08),
    "tare": ScaleFaults(forgets_at=5),
}
_BETWEEN_S = 30.0
"""Time that passes on a simulated bench between two weights."""

_WAIT_S = 0.1


@dataclass(frozen=True)
class ScaleChoice:
    """Which scale; ``seed`` and ``fault`` are of the simulated one, ``device`` and ``baud`` of a serial one."""

    kind: Kind = "typed"
    seed: int = 1
    fault: Fault = "none"
    device: str = "/dev/ttyUSB0"
    baud: int = 9600

    @property
    def title(self) -> str:
        """What it is called on the bench."""
        if self.kind == "serial":
            return f"Scale at {self.device}"
        if self.kind == "typed":
            return "Typed by hand"
        fault = {"none": "", "drift": ", drifts", "draught": ", in a draught", "tare": ", a tare forgotten"}[self.fault]
        return f"Simulated, press {self.seed}{fault}"


class WeighingBench:
    """Weighs prints step by step on the scale of a choice."""

    def __init__(self, choice: ScaleChoice, press: PressProfile) -> None:
        self._choice, self._press = choice, press
        self._now = 0.0
        self._simulated: SimulatedScale | None = None
        self._hidden = HiddenPress(press, choice.seed)
        self._scale: Scale
        if choice.kind == "simulated":
            self._simulated = SimulatedScale(choice.seed, _FAULTS[choice.fault], lambda: self._now)
            self._scale = self._simulated
        elif choice.kind == "serial":
            self._scale = TextScale(Path(choice.device), choice.baud)
        else:
            raise PlanError("No scale is chosen: type the weights, or choose one.")

    @property
    def choice(self) -> ScaleChoice:
        return self._choice

    def weigh(self, step: str, used: Used, before: Mapping[str, float], count: int) -> float:
        """The weight of prints after a step; ``before`` are their weights so far.

        Raises
        ------
        PlanError
            One sentence: the scale says nothing, or does not settle.
        """
        if self._simulated is None:
            return settled(self._scale, wait=lambda: time.sleep(_WAIT_S))
        self._now += _BETWEEN_S
        self._simulated.lay(self._true_g(step, used, before, count))
        return settled(self._scale)

    def _true_g(self, step: str, used: Used, before: Mapping[str, float], count: int) -> float:
        """What lies on the simulated scale."""
        of = Print.of(used)
        if step == "blank_g":
            return self._hidden.blank_g(used.width_mm, used.height_mm) * count
        held = [before[name] for name in STEPS[: STEPS.index(step)] if name in before]
        if not held:
            raise PlanError("Weigh it blank first: what was printed shows only against that.")
        kind = {"pretreated_g": "pretreat", "printed_g": "ink", "powdered_g": "powder"}[step]
        if step == "powdered_g" and "printed_g" not in before:
            kind = "ink and powder"
        return held[-1] + self._hidden.gained_g(kind, of, count)

    def close(self) -> None:
        """Let go of the scale."""
        self._scale.close()
