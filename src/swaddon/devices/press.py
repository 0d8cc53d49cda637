"""The simulated press: channels in, the light that the finished print sends back out.

What it does to them is no model that any reading assumes: white out of its place, squeezed and smeared, lines that
vanish, nozzles that print nothing, tints in a screen, inks of other colours, bottles in the wrong slots.
"""

from collections.abc import Callable, Sequence

import cv2
import numpy as np
from numpy.typing import NDArray

from swaddon.core import fast
from swaddon.core.press.profile import INKS, PressProfile, Slot
from swaddon.core.proof.misregistration import Misregistration, grown
from swaddon.core.testprint.layout import NOZZLE_MM, NOZZLES
from swaddon.core.units import MM_PER_INCH
from swaddon.devices.hidden import Hidden
from swaddon.devices.light import Bands, Light, Stack, lit

Plane = NDArray[np.uint8]
CARD: Bands = (0.033, 0.032, 0.034)
"""Reflectance of the black card (assumed)."""

PAPER: Bands = (0.84, 0.85, 0.84)
"""Reflectance of plain white paper (assumed)."""

_BAND = 64


def print_on(
    planes: Sequence[Plane],
    slots: tuple[Slot, ...],
    press: PressProfile,
    hidden: Hidden,
    ppi: float,
    medium: Bands,
    seed: int = 0,
    strengths: Sequence[float] = (),
    progress: Callable[[str, float], None] = lambda _title, _share: None,
) -> Light:
    """Print channels as they were sent.

    Parameters
    ----------
    planes
        ``uint8 (H, W)`` by slot, 255 = full; as they are to be seen on the finished item.
    slots
        The slots that they were sent to.
    medium
        Band reflectances of what is printed on.
    seed
        Of the mottle.
    strengths
        Hits of white that a slot lays where its plane is full, by slot; one where none are given.

    Returns
    -------
    ndarray
        ``uint16 (H, W, 3)``, ``FULL_LIGHT`` = all light of the bands.
    """
    laid = []
    for at, plane in enumerate(planes):
        progress("Printing", at / (len(planes) + 2))
        laid.append(_laid(plane, at, slots, hidden, ppi))
    progress("Printing", 0.8)
    stack = Stack.of(slots, press, hidden, medium, tuple(strengths) or (1.0,) * len(laid), seed, ppi)
    out = np.empty((*laid[0].shape, 3), np.uint16)

    def work(rows: slice) -> None:
        for top in range(rows.start, rows.stop, _BAND):
            part = slice(top, min(top + _BAND, rows.stop))
            lit(np.stack([plane[part] for plane in laid]), top, stack, out[part])

    fast.by_rows(out.shape[0], work)
    return out


def _laid(plane: Plane, at: int, slots: tuple[Slot, ...], hidden: Hidden, ppi: float) -> Plane:
    """What a slot's nozzles lay on the medium."""
    px = ppi / MM_PER_INCH
    is_white_head = slots[at].role != "colour"
    ink = slots[hidden.wiring[at]].ink
    plane = _without_blocked(plane, hidden.blocked[at], px)
    if ink in INKS:
        curve = hidden.gain[INKS.index(ink)]
        table = np.interp(np.arange(256) / 255, np.linspace(0, 1, len(curve)), curve)
        plane = np.asarray(cv2.LUT(plane, np.rint(table * 255).astype(np.uint8)), np.uint8)
    if is_white_head:
        plane = _moved(_holding(plane, hidden, px), hidden, px)
        plane = grown(plane, hidden.squeeze_mm * px)
    if hidden.bleed_mm:
        plane = np.asarray(cv2.GaussianBlur(plane, (0, 0), max(hidden.bleed_mm * px, 0.2)), np.uint8)
    if hidden.slur_mm:
        share = min(hidden.slur_mm * px, 1.0) / 2
        plane = np.asarray(cv2.filter2D(plane, -1, np.array([[share, 1 - share, 0.0]])), np.uint8)
    return plane


def _without_blocked(plane: Plane, lost: tuple[int, ...], px: float) -> Plane:
    """Without the rows that blocked nozzles should have printed."""
    if not lost:
        return plane
    edges = np.arange(plane.shape[0] + 1) / px / NOZZLE_MM
    share = np.ones(plane.shape[0])
    for number in lost:
        # how much of each row lies in the stripes of this nozzle
        inside = np.floor((edges - number) / NOZZLES) + np.clip((edges - number) % NOZZLES, 0, 1)
        share -= np.diff(inside) * NOZZLE_MM * px
    rows = np.flatnonzero(share < 1 - 1e-9)
    out = plane.copy()
    out[rows] = np.rint(plane[rows] * np.clip(share[rows], 0, 1)[:, None])
    return out


def _holding(plane: Plane, hidden: Hidden, px: float) -> Plane:
    """Without lines and gaps that are too narrow to stand."""
    ways = ((hidden.line_mm, cv2.erode, cv2.dilate), (hidden.gap_mm, cv2.dilate, cv2.erode))
    for narrow_mm, first, second in ways:
        size = round(narrow_mm * px)
        if size > 1:
            there, back = size // 2, size - 1 - size // 2  # so that even sizes do not move it
            less = first(plane, _round(size), anchor=(there, there))
            plane = np.asarray(second(less, _round(size), anchor=(back, back)), np.uint8)
    return plane


def _round(size: int) -> Plane:
    at = np.arange(size) - (size - 1) / 2
    return (np.hypot(*np.meshgrid(at, at)) <= size / 2).astype(np.uint8)


def _moved(plane: Plane, hidden: Hidden, px: float) -> Plane:
    """White where its heads put it."""
    miss = Misregistration(*hidden.shift_mm, skew_deg=hidden.rotation_deg)
    if miss.is_none:
        return plane
    height, width = plane.shape
    matrix = miss.matrix(px, ((width - 1) / 2, (height - 1) / 2))
    return np.asarray(cv2.warpAffine(plane, matrix, (width, height), flags=cv2.INTER_LINEAR), np.uint8)
