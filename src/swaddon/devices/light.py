"""The light that a finished print sends back: inks and white over a medium, with the screen's dots and a mottle."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from swaddon.core import fast
from swaddon.core.inks.separation import gloss, transmittance
from swaddon.core.press.profile import INKS, PressProfile, Slot
from swaddon.core.units import MM_PER_INCH
from swaddon.devices.hidden import Hidden

Light = NDArray[np.uint16]
"""Band reflectances ``(H, W, 3)``, ``FULL_LIGHT`` = 1."""

FULL_LIGHT = 50000
Bands = tuple[float, float, float]

_SCREEN_MM, _SCREEN_DEPTH, _MOTTLE, _MOTTLE_MM = 0.22, 0.55, 0.006, 3.0
_NOTHING, _WHITE = -1, len(INKS)


@dataclass(frozen=True)
class Stack:
    """What lies on what, from the medium upwards, and how it looks.

    Attributes
    ----------
    layers
        By layer and slot what the slot prints there: a place in ``INKS``, ``_WHITE`` or ``_NOTHING``.
    hits
        Hits of white of a full plane, by slot.
    """

    layers: NDArray[np.int64]
    hits: NDArray[np.float32]
    medium: NDArray[np.float32]
    press: PressProfile
    hidden: Hidden
    mottle: NDArray[np.float32]
    ppi: float

    @classmethod
    def of(
        cls,
        slots: tuple[Slot, ...],
        press: PressProfile,
        hidden: Hidden,
        medium: Bands,
        hits: Sequence[float],
        seed: int,
        ppi: float,
    ) -> "Stack":
        """The stack of a press by what its slots really hold; ``seed`` is that of the mottle."""
        roles = press.print_order[::-1] if press.mirrored else press.print_order
        layers = np.full((len(roles), len(slots)), _NOTHING, np.int64)
        for layer, role in enumerate(roles):
            for at, slot in enumerate(slots):
                if slot.role == role:
                    ink = slots[hidden.wiring[at]].ink
                    layers[layer, at] = INKS.index(ink) if ink in INKS else _WHITE
        mottle = np.random.default_rng([seed, 11]).normal(1, _MOTTLE, (64, 64)).astype(np.float32)
        return cls(layers, np.array(hits, np.float32), np.array(medium, np.float32), press, hidden, mottle, ppi)

    @property
    def scatter(self) -> float:
        """S·X of one hit of white."""
        return self.hidden.contrast_ratio / (1 - self.hidden.contrast_ratio)

    @property
    def surface(self) -> NDArray[np.float32]:
        """What the surface of the inks sends back, by band."""
        return gloss(self.hidden.primaries[-1]).astype(np.float32)

    @property
    def pitch_px(self) -> float:
        """From dot to dot of the screen."""
        return self.ppi / MM_PER_INCH * _SCREEN_MM

    @property
    def cell_px(self) -> int:
        """Side of a patch of the mottle."""
        return max(1, round(_MOTTLE_MM * self.ppi / MM_PER_INCH))


def lit_plain(planes: NDArray[np.uint8], top: int, stack: Stack, out: Light) -> None:
    """Light of some rows, from row ``top`` on.

    Parameters
    ----------
    planes
        ``uint8 (S, H, W)`` by slot, 255 = full.
    out
        ``uint16 (H, W, 3)``, written.
    """
    printed = planes.any(axis=0)
    amounts, (y, x) = planes[:, printed].astype(np.float32), np.nonzero(printed)
    light = np.empty((y.size, 3), np.float32)
    light[...] = stack.medium
    white = np.zeros(y.size, np.float32)
    for layer in stack.layers:
        amount = np.asarray((stack.hits / np.float32(255) * (layer == _WHITE)) @ amounts, np.float32)
        spread = (1 - light) * (amount * np.float32(stack.scatter))[:, None]
        light = (light + spread) / (1 + spread)
        white = np.maximum(white, np.minimum(amount, 1))
        inks = [np.minimum(amounts[layer == ink].sum(axis=0), 255) / 255 for ink in range(len(INKS))]
        _lay_colour(light, np.stack(inks, axis=1), white, (y + top, x), stack)
    out[...] = _counts(stack.medium)
    out[printed] = _counts(light)


def _counts(light: NDArray[np.float32]) -> Light:
    """Reflectances as ``Light`` holds them."""
    return np.asarray(np.clip(light * FULL_LIGHT + np.float32(0.5), 0, 65535), np.uint16)


def _lay_colour(
    light: NDArray[np.float32],
    cmyk: NDArray[np.float64],
    white: NDArray[np.float32],
    place: tuple[NDArray[np.int64], NDArray[np.int64]],
    stack: Stack,
) -> None:
    """Lay the colours of a layer over what is there."""
    there = cmyk.any(axis=1)
    if not there.any():
        return
    passed = transmittance(cmyk[there], stack.hidden.primaries, stack.press.separation.yule_nielsen_n)
    tint = _screened(passed.astype(np.float32), place[0][there], place[1][there], stack)
    ground = light[there]
    share = np.float32(stack.press.white.bleed_share if stack.press.white_under_colour else 0) * white[there][:, None]
    light[there] = ground * (share + (1 - share) * tint) + stack.surface * (1 - tint) * (1 - ground)


def _screened(
    passed: NDArray[np.float32], y: NDArray[np.int64], x: NDArray[np.int64], stack: Stack
) -> NDArray[np.float32]:
    """Tints as dots of the same mean, and a little mottle."""
    turned, other = (x + y) * (2 * np.pi / stack.pitch_px), (x - y) * (2 * np.pi / stack.pitch_px)
    dots = (np.sin(turned * 0.7071) * np.sin(other * 0.7071)).astype(np.float32)[:, None]
    room = np.minimum(passed - np.float32(0.03), 1 - passed).clip(0) * np.float32(_SCREEN_DEPTH)
    rows, columns = (at // stack.cell_px % len(stack.mottle) for at in (y, x))
    return np.asarray((passed + dots * room) * stack.mottle[rows, columns][:, None], np.float32)


@fast.instead_of(lit_plain)
def lit(kernels: Any, planes: NDArray[np.uint8], top: int, stack: Stack, out: Light) -> None:
    """:func:`lit_plain`, compiled."""
    press, n = stack.press, stack.press.separation.yule_nielsen_n
    kernels.lit(
        planes, top, stack.layers, stack.hits / np.float32(255), stack.medium, np.float32(stack.scatter),
        np.ascontiguousarray(stack.hidden.primaries, np.float64) ** (1 / n), n, np.float32(press.white.bleed_share),
        press.white_under_colour, stack.surface, stack.pitch_px, np.float32(_SCREEN_DEPTH), stack.mottle,
        stack.cell_px, np.float32(FULL_LIGHT), out,
    )  # fmt: skip
