"""Test pages printed on the simulated press and read back, for any seed."""

import datetime
from dataclasses import dataclass
from functools import lru_cache
from typing import Any

import numpy as np

from swaddon.core.press.profile import PressProfile
from swaddon.core.testprint.drawing import draw_page
from swaddon.core.testprint.layout import Page, page_for
from swaddon.core.testprint.reading import read_page, told
from swaddon.core.testprint.scan import Scan
from swaddon.devices.hidden import Hidden, drawn
from swaddon.devices.press import CARD, PAPER, print_on
from swaddon.devices.scanner import Scanner, scan
from swaddon.io import profiles
from swaddon.io.scans import wide_meaning

DAY = datetime.date(2026, 11, 28)
WIDE = wide_meaning()


@dataclass(frozen=True)
class Outcome:
    """What was hidden, and what was read."""

    press: str
    seed: int
    ppi: float
    truth: dict[str, Any]
    read: dict[str, Any]

    @property
    def is_whole(self) -> bool:
        return bool(self.read["is_whole"])

    def shift_off(self) -> np.ndarray:
        return np.abs(np.array(self.read["shift_mm"]) - self.truth["shift_mm"])

    def rotation_off(self) -> float:
        return abs(self.read["rotation_deg"] - self.truth["rotation_deg"])

    def contrast_off(self) -> float:
        return abs(self.read["white_contrast_ratio"] - self.truth["white_contrast_ratio"])

    def gain_off(self) -> float:
        """Largest error of a step of an ink."""
        return max(
            abs(self.read["gain"][ink][tone] - value)
            for ink, curve in self.truth["gain"].items()
            for tone, value in curve.items()
        )

    def held(self) -> list[bool]:
        """Whether the truth lies within each interval of place and turn."""
        shift = (self.shift_off() <= self.read["shift_mm_pm"]).tolist()
        return [*shift, self.rotation_off() <= self.read["rotation_deg_pm"]]

    def missed_nozzles(self) -> list[tuple[str, int]]:
        read = self.read["blocked_nozzles"]
        return [(ink, n) for ink, lost in self.truth["blocked_nozzles"].items() for n in lost if n not in read[ink]]

    def false_nozzles(self) -> list[tuple[str, int]]:
        true = self.truth["blocked_nozzles"]
        return [(ink, n) for ink, lost in self.read["blocked_nozzles"].items() for n in lost if n not in true[ink]]


@lru_cache(maxsize=2)
def drawn_page(press: str) -> tuple[Page, np.ndarray]:
    page = page_for(profiles.shipped(press), DAY)
    return page, draw_page(page, 600.0)


def printed(press: PressProfile, seed: int, hidden: Hidden | None = None) -> np.ndarray:
    """The light of a test page printed on the press of a seed."""
    page, planes = drawn_page(press.name)
    faults = hidden or drawn(press, page.slots, seed)
    return print_on(planes, page.slots, press, faults, 600.0, CARD if page.whites else PAPER, seed)


def scanned(press: PressProfile, seed: int, ppi: float, hidden: Hidden | None = None, wide: bool = True) -> Scan:
    """A test page printed on the press of a seed, and scanned."""
    card = CARD if press.has_white else PAPER
    light = printed(press, seed, hidden)
    pixels = scan(light, 600.0, ppi, Scanner.drawn(seed), seed, card, is_wide=wide)
    return Scan(pixels, *WIDE) if wide else Scan(pixels)


def outcome(name: str, seed: int, ppi: float) -> Outcome:
    """Print, scan and read."""
    press = profiles.shipped(name)
    page, _ = drawn_page(name)
    hidden = drawn(press, page.slots, seed)
    read = told(read_page(scanned(press, seed, ppi), press))
    return Outcome(name, seed, ppi, hidden.truth(page.slots), read)
