"""Prints of a simulated press on a scale: what they weigh by constants that its profile does not know."""

import numpy as np

from swaddon.core.press.profile import PressProfile
from swaddon.core.shop.sureness import value_of, weighable
from swaddon.core.shop.weighing import PRINT_SHARE, Print, reading_of

_LOG_SD = 0.3
"""How far the constants of simulated presses lie from their profiles: standard deviation of logarithms (assumed)."""

BLANKS_G_M2 = {"film": 105.0, "platen": 0.0, "sheet": 120.0}
"""Mass of what is printed on (assumed); a garment weighs what it weighs."""

GARMENT_G = 152.0


class HiddenPress:
    """A press of a seed; ``truth`` are its constants, by their places in the profile."""

    def __init__(self, press: PressProfile, seed: int) -> None:
        self._press = press
        self._keys = weighable(press)
        chance = np.random.default_rng([seed, 59])
        usual = np.array([value_of(press, key) for key in self._keys])
        self._theta = usual * np.exp(chance.normal(0, _LOG_SD, len(usual)))
        self._chance = chance

    @property
    def truth(self) -> dict[str, float]:
        return dict(zip(self._keys, self._theta.tolist(), strict=True))

    def blank_g(self, width_mm: float, height_mm: float) -> float:
        """What the medium of a print weighs."""
        area = (width_mm + 20) * (height_mm + 20) / 1e6
        per_m2 = BLANKS_G_M2[self._press.medium]
        return (per_m2 * area if per_m2 else GARMENT_G) * float(self._chance.normal(1, 0.004))

    def gained_g(self, kind: str, of: Print, count: int = 1) -> float:
        """What a print gains in a step, each time a little different."""
        grams, _ = reading_of(kind, of, self._press, self._keys, count=count).predicted(self._theta)
        return float(grams * self._chance.normal(1, PRINT_SHARE / count**0.5))
