"""Which ink each slot really prints, from a matrix of cells in which every slot lies with every other."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from swaddon.core.colour.spaces import SRGB_FROM_BANDS
from swaddon.core.press.profile import INKS, PressProfile
from swaddon.core.testprint.find import Found
from swaddon.core.testprint.layout import Page
from swaddon.core.testprint.naming import WORDS
from swaddon.core.testprint.refusal import UnreadablePageError
from swaddon.core.testprint.sample import DARKEST, Sampler

Floats = NDArray[np.float64]

_LEAST_DENSITY = 0.08
_MOST_TURN = 0.35
"""Largest distance between directions of density at which an ink is still told (good prints have under 0.2)."""

_SHINES = 0.45
"""Light of a slot by itself on the card, as a share of the lightest, from which it holds white."""


@dataclass(frozen=True)
class Wiring:
    """What sits where.

    Attributes
    ----------
    sent, printed
        Ink that each slot was sent, and the one that it printed, from the left.
    unlike
        Distance of the worst slot's colour from its ink's; near 0 on a good print.
    """

    sent: tuple[str, ...]
    printed: tuple[str, ...]
    unlike: float

    @property
    def is_right(self) -> bool:
        return self.sent == self.printed

    @property
    def whites_are_right(self) -> bool:
        """Whether white is where it should be, and nowhere else: only then the rest of the page tells anything."""
        return all((one in "WH") == (other in "WH") for one, other in zip(self.sent, self.printed, strict=True))

    def sentences(self, numbers: tuple[int, ...]) -> tuple[str, ...]:
        """What is wrong in plain words, and what to do; ``numbers`` are those of the slots."""
        wrong = [at for at in range(len(self.sent)) if self.sent[at] != self.printed[at]]
        out, told = [], set()
        for at in wrong:
            text = f"Slot {numbers[at]} prints {WORDS[self.printed[at]]} where {WORDS[self.sent[at]]} was sent"
            partner = next(
                (b for b in wrong if b != at and self.sent[b] == self.printed[at] and self.printed[b] == self.sent[at]),
                None,
            )
            if partner is not None and (partner, at) not in told:
                told.add((at, partner))
                text += f": swap {numbers[at]} and {numbers[partner]}"
            elif partner is None:
                home = next((numbers[b] for b in wrong if self.sent[b] == self.printed[at]), None)
                text += f": that bottle belongs in slot {home}" if home else ": two slots hold the same ink"
            out.append(text + ".")
        return tuple(out)


def read_wiring(sampler: Sampler, found: Found, press: PressProfile) -> Wiring:
    """Tell the inks of a page's slots.

    A colour shows over white only: of the cells that a slot shares with slots that hold white, the densest counts. Its
    ink is the one whose direction of density in red, green and blue is nearest; how dense it is does not matter.

    Raises
    ------
    UnreadablePageError
        When a slot's colour is like that of no ink of the press.
    """
    page = sampler.page
    expected = _directions(press)
    if not page.whites:
        return Wiring(page.inks, *_on_paper(sampler, expected))
    shines = _shining(sampler, found)
    white = np.max([sampler.level(page.matrix[at][at]) for at in shines], axis=0)
    printed: list[str] = []
    worst = 0.0
    for at, slot in enumerate(page.slots):
        if at in shines:
            printed.append(slot.ink if slot.ink in "WH" else "W")
            continue
        cells = [page.matrix[i][j] for other in shines for i, j in ((at, other), (other, at))]
        density = np.mean([-np.log10(np.clip(sampler.level(cell) / white, DARKEST, 2)) for cell in cells], axis=0)
        ink, apart = _nearest(density, expected)
        worst = max(worst, apart)
        printed.append(ink)
    _by_elimination(printed, expected)
    _check(worst)
    return Wiring(page.inks, _whites_named(page, printed), worst)


def _by_elimination(printed: list[str], expected: dict[str, Floats]) -> None:
    """The ink that lies under all white, and so shows nowhere, is the one that is left."""
    left = [ink for ink in expected if ink not in printed]
    hidden = [at for at, ink in enumerate(printed) if ink == ""]
    if len(hidden) == 1 and len(left) == 1:
        printed[hidden[0]] = left[0]
    elif hidden:
        raise UnreadablePageError("colours", _UNLIKE)


def _shining(sampler: Sampler, found: Found) -> tuple[int, ...]:
    """Slots that shine by themselves on the card."""
    alone = np.array([sampler.level(line[at]).min() for at, line in enumerate(sampler.page.matrix)])
    shines = tuple(np.flatnonzero(alone > _SHINES * alone.max()).tolist())
    if not shines or not found.slots <= set(shines):
        raise UnreadablePageError("matrix", _UNLIKE)
    return shines


def _on_paper(sampler: Sampler, expected: dict[str, Floats]) -> tuple[tuple[str, ...], float]:
    """Inks of a page without white, by their full tints on bare paper."""
    page, worst, printed = sampler.page, 0.0, []
    for at in range(len(page.slots)):
        steps = page.tints[at]
        paper = sampler.level(steps[0])
        ink, apart = _nearest(-np.log10(np.clip(sampler.level(steps[-1]) / paper, DARKEST, 2)), expected)
        worst = max(worst, apart)
        printed.append(ink)
    _by_elimination(printed, expected)
    _check(worst)
    return tuple(printed), worst


def _whites_named(page: Page, printed: list[str]) -> tuple[str, ...]:
    """White and highlight white look alike: where each was sent it is taken to be."""
    sent = [slot.ink for slot in page.slots if slot.ink in "WH"]
    left = list(sent)
    for at, slot in enumerate(page.slots):
        if printed[at] in "WH" and slot.ink in "WH" and slot.ink in left:
            left.remove(slot.ink)
    out = list(printed)
    for at, slot in enumerate(page.slots):
        if printed[at] in "WH" and slot.ink not in "WH":
            out[at] = left.pop(0) if left else "W"
    return tuple(out)


def _directions(press: PressProfile) -> dict[str, Floats]:
    """Direction of density of each ink of a press, a unit vector in linear sRGB."""
    out = {}
    for ink in press.inks:
        bands = press.separation.primaries()[1 << INKS.index(ink)]
        density = -np.log10(np.clip(bands @ SRGB_FROM_BANDS.T, 0.01, 1))
        out[ink] = density / np.linalg.norm(density)
    return out


def _nearest(density: Floats, expected: dict[str, Floats]) -> tuple[str, float]:
    size = float(np.linalg.norm(density))
    if size < _LEAST_DENSITY:
        return "", 0.0
    apart = {ink: float(np.linalg.norm(density / size - way)) for ink, way in expected.items()}
    best = min(apart, key=lambda ink: apart[ink])
    return best, apart[best]


_UNLIKE = (
    "The colours on the page are like those of no ink of this press: scan it in colour, sharply and without any "
    "correction, or print it again."
)


def _check(worst: float) -> None:
    if worst > _MOST_TURN:
        raise UnreadablePageError("colours", _UNLIKE)
