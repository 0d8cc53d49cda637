"""A run of shirts on the simulated press: the same plates, each print a little different."""

from collections.abc import Callable, Iterator, Sequence
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from swaddon.core.press.profile import PressProfile, Slot
from swaddon.devices.hidden import Hidden
from swaddon.devices.light import Bands, Light
from swaddon.devices.press import Plane, print_on

_WHITE_SCATTER, _INK_SCATTER = 0.02, 0.01
"""Standard deviations of white and ink from shirt to shirt, as shares (assumed)."""


def shirts(
    planes: Sequence[Plane],
    strengths: Sequence[float],
    slots: tuple[Slot, ...],
    press: PressProfile,
    hidden: Hidden,
    ppi: float,
    garment: Bands,
    count: int,
    seed: int,
    progress: Callable[[str, float], None] = lambda _title, _share: None,
) -> Iterator[Light]:
    """The prints of a run, one after the other; white lies off by the press profile's registration, each time anew."""
    chance = np.random.default_rng([seed, 41])
    for number in range(count):
        off = chance.normal(0, press.registration.sigma_mm, 2) if count > 1 else np.zeros(2)
        here = replace(hidden, shift_mm=(hidden.shift_mm[0] + float(off[0]), hidden.shift_mm[1] + float(off[1])))
        share = np.ones(len(slots))
        if count > 1:
            spread = [_INK_SCATTER if slot.role == "colour" else _WHITE_SCATTER for slot in slots]
            share = chance.normal(1, spread)
        stronger = [hits * float(value) for hits, value in zip(strengths, share, strict=True)]
        laid = [_scaled(plane, float(value), slot) for plane, value, slot in zip(planes, share, slots, strict=True)]

        def told(title: str, done: float, number: int = number) -> None:
            progress(f"{title} shirt {number + 1} of {count}", (number + done) / count)

        yield print_on(laid, slots, press, here, ppi, garment, seed + number, stronger, told)


def _scaled(plane: NDArray[np.uint8], share: float, slot: Slot) -> NDArray[np.uint8]:
    """Colour with more or less ink; white is made more or less by its strength."""
    if slot.role != "colour" or share == 1:
        return plane
    table = np.clip(np.rint(np.arange(256) * share), 0, 255).astype(np.uint8)
    return np.asarray(table[plane], np.uint8)
