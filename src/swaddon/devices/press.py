"""The simulated press: channels in, the light that the finished print sends back out.

What it does to them is no model that any reading assumes: white out of its place, squeezed and smeared, lines that
vanish, nozzles that print nothing, tints in a screen, inks of other colours, bottles in the wrong slots.
"""

from collections.abc import Callable, Sequence

import cv2
import numpy as np
from numpy.typing import NDArray

from swaddon.core import fast
from swaddon.core.inks.separation import gloss, transmittance
from swaddon.core.press.profile import INKS, PressProfile, Slot
from swaddon.core.proof.misregistration import Misregistration, grown
from swaddon.core.testprint.layout import NOZZLE_MM, NOZZLES
from swaddon.core.units import MM_PER_INCH
from swaddon.devices.hidden import Hidden

Plane = NDArray[np.uint8]
Light = NDArray[np.uint16]
"""Band reflectances ``(H, W, 3)``, ``FULL_LIGHT`` = 1."""

FULL_LIGHT = 50000
Bands = tuple[float, float, float]
CARD: Bands = (0.033, 0.032, 0.034)
"""Reflectance of the black card (assumed)."""

PAPER: Bands = (0.84, 0.85, 0.84)
"""Reflectance of plain white paper (assumed)."""

_SCREEN_MM, _SCREEN_DEPTH, _MOTTLE = 0.22, 0.55, 0.006


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
    out = np.empty((*laid[0].shape, 3), np.uint16)
    layers = _layers(slots, press, hidden)
    hits = tuple(strengths) or (1.0,) * len(laid)
    mottle = np.random.default_rng([seed, 11]).normal(1, _MOTTLE, (64, 64)).astype(np.float32)
    progress("Printing", 0.8)

    bare = _counts(np.array([medium], np.float32))[0]

    def work(rows: slice) -> None:
        for top in range(rows.start, rows.stop, 64):
            part = slice(top, min(top + 64, rows.stop))
            printed = np.flatnonzero(np.bitwise_or.reduce([plane[part] for plane in laid]))  # three quarters are bare
            y, x = np.divmod(printed, out.shape[1])
            amounts = [plane[part].reshape(-1)[printed] for plane in laid]
            flat = out[part].reshape(-1, 3)
            flat[:] = bare
            flat[printed] = _counts(_lit(amounts, layers, hidden, press, medium, (y + top, x, ppi), mottle, hits))

    fast.by_rows(out.shape[0], work)
    return out


def _counts(light: NDArray[np.float32]) -> Light:
    """Reflectances as ``Light`` holds them."""
    return np.asarray(np.clip(light * FULL_LIGHT + 0.5, 0, 65535), np.uint16)


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


Layer = tuple[tuple[tuple[int, int], ...], tuple[int, ...]]
"""Colours of a layer as (channel, place in ``INKS``), and its whites."""


def _layers(slots: tuple[Slot, ...], press: PressProfile, hidden: Hidden) -> list[Layer]:
    """What lies on what, from the medium upwards, by what the slots really hold."""
    roles = press.print_order[::-1] if press.mirrored else press.print_order
    out = []
    for role in roles:
        here = [at for at, slot in enumerate(slots) if slot.role == role]
        real = {at: slots[hidden.wiring[at]].ink for at in here}
        colours = tuple((at, INKS.index(ink)) for at, ink in real.items() if ink in INKS)
        out.append((colours, tuple(at for at, ink in real.items() if ink not in INKS)))
    return out


Place = tuple[NDArray[np.int64], NDArray[np.int64], float]
"""Rows and columns of some pixels, and their ppi."""


def _lit(
    planes: list[Plane],
    layers: list[Layer],
    hidden: Hidden,
    press: PressProfile,
    medium: Bands,
    place: Place,
    mottle: NDArray[np.float32],
    hits: tuple[float, ...],
) -> NDArray[np.float32]:
    """Some pixels of the print ``(N,)`` by slot as reflectances ``(N, 3)``."""
    count = len(planes[0])
    light = np.empty((count, 3), np.float32)
    light[...] = np.array(medium, np.float32)
    scatter = hidden.contrast_ratio / (1 - hidden.contrast_ratio)
    white = np.zeros(count, np.float32)
    for colours, whites in layers:
        if whites:
            amount = np.zeros(count, np.float32)
            for at in whites:
                amount += planes[at] * np.float32(hits[at] / 255)
            spread = (1 - light) * (amount * scatter)[:, None]
            light = (light + spread) / (1 + spread)
            white = np.maximum(white, np.minimum(amount, 1))
        if colours:
            _colour(light, planes, colours, hidden, press, white, place, mottle)
    return light


def _colour(
    light: NDArray[np.float32],
    planes: list[Plane],
    colours: tuple[tuple[int, int], ...],
    hidden: Hidden,
    press: PressProfile,
    white: NDArray[np.float32],
    place: Place,
    mottle: NDArray[np.float32],
) -> None:
    """Lay the colours of a layer over what is there."""
    there = np.flatnonzero(np.bitwise_or.reduce([planes[at] for at, _ in colours]))
    if not there.size:
        return
    inks = np.zeros((there.size, 4), np.float32)
    for at, ink in colours:
        inks[:, ink] = np.minimum(inks[:, ink] + planes[at][there] / np.float32(255), 1)
    y, x, ppi = place
    filtered = _screened(_filtered(inks, hidden, press), (y[there], x[there], ppi), mottle)
    ground = light[there]
    surface = gloss(hidden.primaries[-1]).astype(np.float32)
    share = (press.white.bleed_share * white[there])[:, None] if press.white_under_colour else np.float32(0)
    light[there] = ground * (share + (1 - share) * filtered) + surface * (1 - filtered) * (1 - ground)


def _filtered(inks: NDArray[np.float32], hidden: Hidden, press: PressProfile) -> NDArray[np.float32]:
    """Transmittance by the overprints, once per distinct mixture."""
    codes = np.rint(inks * 255).astype(np.uint32) @ np.array([1, 256, 65536, 16777216], np.uint32)
    distinct, where = np.unique(codes, return_inverse=True)
    cmyk = np.stack([(distinct >> shift & 255) / 255 for shift in (0, 8, 16, 24)], axis=1)
    found = transmittance(cmyk, hidden.primaries, press.separation.yule_nielsen_n)
    return found.astype(np.float32)[where]


def _screened(filtered: NDArray[np.float32], place: Place, mottle: NDArray[np.float32]) -> NDArray[np.float32]:
    """Tints as dots of the same mean, and a little mottle."""
    y, x, ppi = place
    pitch = ppi / MM_PER_INCH * _SCREEN_MM
    turned, other = (x + y) * (2 * np.pi / pitch), (x - y) * (2 * np.pi / pitch)
    dots = (np.sin(turned * 0.7071) * np.sin(other * 0.7071)).astype(np.float32)[:, None]
    room = np.minimum(filtered - 0.03, 1 - filtered).clip(0) * _SCREEN_DEPTH
    cell = max(1, round(3 * ppi / MM_PER_INCH))
    return (filtered + dots * room) * mottle[y // cell % 64, x // cell % 64][:, None]
