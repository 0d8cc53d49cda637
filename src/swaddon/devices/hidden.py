"""What the simulated press hides: its faults, drawn from a seed."""

from dataclasses import dataclass
from typing import Any

import numpy as np

from swaddon.core.colour.spaces import bands_from_lab
from swaddon.core.inks.separation import ToneCurves
from swaddon.core.press.profile import INKS, PressProfile, Slot
from swaddon.core.testprint.layout import NOZZLES
from swaddon.core.testprint.naming import numbered

_SWAPS, _WHITE_SWAPS = 0.5, 0.12
"""Chances that two colours, and that white and a colour, sit in each other's slots."""


@dataclass(frozen=True, eq=False)
class Hidden:
    """What nobody is told but in ``truth``.

    Attributes
    ----------
    wiring
        Channel whose ink each slot really holds.
    shift_mm, rotation_deg
        Where white lies against colour: to the right and down, and clockwise about the middle of the medium.
    blocked
        Nozzles of each slot that print nothing.
    gain
        Coverage in print of C, M, Y and K where 0, 10, … 100 % were sent.
    contrast_ratio
        Of one hit of white.
    squeeze_mm, bleed_mm, slur_mm
        How far white is squeezed out, the blur of all ink (standard deviation), and the smear to the right.
    line_mm, gap_mm
        Narrowest line and gap that stand.
    primaries
        Band reflectances of the 16 overprints.
    """

    wiring: tuple[int, ...]
    shift_mm: tuple[float, float]
    rotation_deg: float
    blocked: tuple[tuple[int, ...], ...]
    gain: ToneCurves
    contrast_ratio: float
    squeeze_mm: float
    bleed_mm: float
    slur_mm: float
    line_mm: float
    gap_mm: float
    primaries: np.ndarray

    def truth(self, slots: tuple[Slot, ...]) -> dict[str, Any]:
        """All of it under the names that a reading has too."""
        inks = [slots[channel].ink for channel in self.wiring]
        names = numbered(inks)
        return {
            "wiring": inks,
            "shift_mm": [round(value, 5) for value in self.shift_mm],
            "rotation_deg": round(self.rotation_deg, 6),
            "white_contrast_ratio": round(self.contrast_ratio, 5),
            "blocked_nozzles": {name: list(lost) for name, lost in zip(names, self.blocked, strict=True)},
            "gain": {
                ink: {f"{tone / 10:g}": round(value, 4) for tone, value in enumerate(self.gain[INKS.index(ink)])}
                for ink in inks
                if ink in INKS
            },
            "squeeze_mm": round(self.squeeze_mm, 4),
            "line_mm": round(self.line_mm, 4),
            "gap_mm": round(self.gap_mm, 4),
        }


def drawn(press: PressProfile, slots: tuple[Slot, ...], seed: int) -> Hidden:
    """The faults of a seed: what a press of this profile may well have."""
    chance = np.random.default_rng([seed, 7])
    is_ink = press.printing.colourant == "ink"
    lines = (0.085, 0.127) if is_ink else (0.127, 0.169, 0.212, 0.254, 0.297)
    gaps = (0.085, 0.127, 0.169, 0.212)
    lab = np.array(press.separation.primaries_lab)
    lab[1:] += chance.normal(0, (1.5, 3.0, 3.0), (15, 3)) * (lab[1:, :1] > 15)
    blocked = tuple(
        tuple(sorted(chance.choice(NOZZLES, chance.integers(0, 4), replace=False).tolist())) if is_ink else ()
        for _ in slots
    )
    return Hidden(
        wiring=_wiring(slots, chance),
        shift_mm=tuple(chance.uniform(-0.45, 0.45, 2).tolist()),
        rotation_deg=float(chance.uniform(-0.12, 0.12)),
        blocked=blocked,
        gain=tuple(_curve(chance) for _ in INKS),
        contrast_ratio=float(np.clip(press.white.contrast_ratio + chance.uniform(-0.12, 0.1), 0.4, 0.92)),
        squeeze_mm=float(chance.uniform(0, 0.06)),
        bleed_mm=float(chance.uniform(0.012, 0.035)),
        slur_mm=float(chance.uniform(0, 0.03)),
        line_mm=float(chance.choice(lines)),
        gap_mm=float(chance.choice(gaps)),
        primaries=np.clip(bands_from_lab(lab), 1e-3, 1.0),
    )


def _wiring(slots: tuple[Slot, ...], chance: np.random.Generator) -> tuple[int, ...]:
    """Bottles as they sit: right, two colours swapped, several turned round, or white in a colour's slot."""
    out = list(range(len(slots)))
    colours = [at for at, slot in enumerate(slots) if slot.role == "colour"]
    whites = [at for at, slot in enumerate(slots) if slot.role == "white"]
    kind = chance.random()
    if kind < _SWAPS:
        one, other, *more = chance.permutation(colours).tolist()
        out[one], out[other] = out[other], out[one]
        if more and chance.random() < 0.4:
            out[one], out[more[0]] = out[more[0]], out[one]
    elif kind < _SWAPS + _WHITE_SWAPS and whites:
        one, other = int(chance.choice(colours)), int(chance.choice(whites))
        out[one], out[other] = out[other], out[one]
    return tuple(out)


def _curve(chance: np.random.Generator) -> tuple[float, ...]:
    """Dot gain of an ink: a hump of up to 22 points, not quite where it is expected."""
    tone = np.linspace(0, 1, 11)
    height, lean = chance.uniform(0.02, 0.22), chance.uniform(0.75, 1.35)
    hump = 4 * tone**lean * (1 - tone**lean)
    curve = np.maximum.accumulate(np.clip(tone + height * hump, 0, 1))
    return tuple(float(value) for value in curve)


def perfect(press: PressProfile, slots: tuple[Slot, ...]) -> Hidden:
    """A press that prints just what its profile says, without scatter."""
    curves = press.separation.tone_curves or (tuple(float(v) for v in np.linspace(0, 1, 11)),) * 4
    return Hidden(
        wiring=tuple(range(len(slots))), shift_mm=(0.0, 0.0), rotation_deg=0.0, blocked=((),) * len(slots), gain=curves,
        contrast_ratio=press.white.contrast_ratio, squeeze_mm=0.0, bleed_mm=0.0, slur_mm=0.0, line_mm=0.0, gap_mm=0.0,
        primaries=press.separation.primaries(),
    )  # fmt: skip
