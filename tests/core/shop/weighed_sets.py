"""Simulated weigh-ins: presses whose constants are not those of their profile, and prints of them on a scale."""

from dataclasses import dataclass, replace

import numpy as np

from swaddon.core.shop.refit import Reading
from swaddon.core.shop.sureness import lay_down_key, value_of
from swaddon.core.shop.weigh_in import WeighIn
from swaddon.core.shop.weighing import Print, Weighing, reading_of
from swaddon.io import profiles

FILM = profiles.shipped("film")
KEYS = (*(lay_down_key(FILM, ink) for ink in "WCMYK"), "supplies.powder.per_area_g_m2", "supplies.powder.per_ink_g_ml")


@dataclass
class Set:
    """A press with true constants of its own, and its prints."""

    chance: np.random.Generator
    noise_g: float = 0.03
    share: float = 0.025

    def __post_init__(self) -> None:
        usual = np.array([value_of(FILM, key) for key in KEYS])
        self.truth = usual * np.exp(self.chance.normal(0, 0.3, len(KEYS)))

    def print_(self) -> Print:
        """Any print: 0.03 to 0.09 m², a third to nine tenths of it printed, white under most of it."""
        area, share = self.chance.uniform(0.03, 0.09), self.chance.uniform(0.3, 0.9)
        colours = self.chance.dirichlet(np.ones(4)) * self.chance.uniform(0.3, 1.2) * share * area
        white = self.chance.uniform(0.4, 2.0) * share * area
        return Print({"W": white, **dict(zip("CMYK", colours.tolist(), strict=True))}, share * area)

    def grams(self, kind: str, of: Print, count: int = 1) -> float:
        """What the scale says of a difference."""
        value, _ = reading_of(kind, of, FILM, KEYS, count=count).predicted(self.truth)
        return float(value * (1 + self.chance.normal(0, self.share)) + self.chance.normal(0, self.noise_g))

    def weighed(self, row: int, at: float = 0.0) -> Weighing:
        """A print, weighed at every step."""
        of = self.print_()
        blank = float(self.chance.uniform(8, 14))
        printed = blank + max(0.02, self.grams("ink", of))
        return Weighing(
            f"print {row}", row, of, 1, blank, None, printed, printed + max(0.0, self.grams("powder", of)), at=at
        )

    def cost_error(self, found: WeighIn) -> float:
        """How wrong the cost of ink and powder of a new print is."""
        of, theta = self.print_(), np.array([item.value for item in found.after])
        return cost(of, theta) / cost(of, self.truth) - 1


def cost(of: Print, theta: np.ndarray) -> float:
    """Ink and powder of a print at the demo shop's prices."""

    def predicted(reading: Reading) -> float:
        return reading.predicted(theta)[0]

    white = of.full_m2["W"] * theta[0]
    colour = predicted(reading_of("ink", of, FILM, KEYS)) - white
    return 0.085 * white + 0.075 * colour + 0.035 * predicted(reading_of("powder", of, FILM, KEYS))


def with_tare(weighing: Weighing, grams: float = 9.0) -> Weighing:
    """The same row with a tray forgotten under the printed film."""
    assert weighing.printed_g is not None
    return replace(weighing, printed_g=weighing.printed_g + grams)
