"""Fine detail of a page: lines, gaps, dots and holes that stood, how far white spreads, screens, and nozzles."""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from swaddon.core.testprint.drawing import HOLE_ANGLE_DEG, hole_mm, lattice
from swaddon.core.testprint.layout import (
    CHOKES_MM,
    NOZZLE_COLUMNS,
    NOZZLE_MM,
    NOZZLES,
    PERIOD_MM,
    RULINGS_LPI,
    SHARES,
    WIDTHS_MM,
    Box,
)
from swaddon.core.testprint.register import RegistrationRead
from swaddon.core.testprint.sample import Floats, Lighting, Sampler
from swaddon.core.units import MM_PER_INCH

_STANDS = {"line": 0.5, "gap": 0.25, "dot": 0.4, "hole": 0.25}
"""Share of its drawn width, or area, from which a feature counts as printed (assumed)."""

_LOST = 0.4
"""Share of the usual line of an ink below which a nozzle counts as blocked."""

_NO_PEEK_MM = 0.02
_INK_LEAVES = 0.08
"""Share of the paper's light that the darkest ink leaves (assumed)."""


@dataclass(frozen=True)
class Fine:
    """What stood.

    Attributes
    ----------
    least_mm
        Of line, gap, dot and hole: the least that stood with all larger ones; ``None`` where none did.
    shown
        Of each kind, what share of each of ``WIDTHS_MM`` was there.
    """

    least_mm: dict[str, float | None]
    shown: dict[str, tuple[float, ...]]


def read_fine(sampler: Sampler, light: Lighting) -> Fine:
    """Lines, gaps, dots and holes, by the light that they add or take."""
    page = sampler.page
    bare = sampler.level(Box(page.fine["line"].x + 28.5, page.fine["line"].y, 2.6, 9.0), 0.5)
    shown: dict[str, tuple[float, ...]] = {}
    least: dict[str, float | None] = {}
    for kind in page.fine:
        shares = []
        for at, width in enumerate(WIDTHS_MM):
            place = page.fine_place(kind, at)
            room = _room(sampler, light, place, kind, bare)
            if kind in ("line", "gap"):
                part = Box(place.x + 0.35, place.y + 0.4, 1.9, place.height - 0.8)
                shares.append(_area(sampler.window(part).mean(axis=2), part, room) / (width * part.height))
                continue
            x, _ = place.middle
            spots = [Box(x - 0.6, place.y + 0.1 + row * 1.3, 1.2, 1.2) for row in range(5)]
            areas = [_area(sampler.window(spot).mean(axis=2), spot, room) for spot in spots]
            shares.append(float(np.median(areas)) / (np.pi * width**2 / 4))
        shown[kind] = tuple(round(float(share), 3) for share in shares)
        least[kind] = _least(shares, _STANDS[kind])
    return Fine(least, shown)


def _room(sampler: Sampler, light: Lighting, place: Box, kind: str, bare: Floats) -> float:
    """Light of the figure less that of its ground, negative where the feature takes light away."""
    page = sampler.page
    full = float(light.level_at(place.middle, page).mean()) if page.whites else float(bare.mean()) * _INK_LEAVES
    return (full - float(bare.mean())) * (1 if kind in ("line", "dot") else -1)


def _area(level: NDArray[np.float32], box: Box, room: float) -> float:
    """Area in mm² of what stands out from the rim of a window."""
    rim = np.concatenate([level[:, :2].ravel(), level[:, -2:].ravel()])
    return float(level.mean() - rim.mean()) / room * box.width * box.height


def _least(shares: list[float], enough: float) -> float | None:
    least = None
    for width, share in zip(WIDTHS_MM[::-1], shares[::-1], strict=True):
        if share < enough:
            break
        least = width
    return least


def read_spread(sampler: Sampler, light: Lighting) -> float:
    """How far white reaches beyond its drawn edge, in mm, from the light of bars that are half of their period."""
    page, out = sampler.page, []
    for target in page.targets:
        bare = sampler.level(Box(target.across[0].x - 0.95, target.across[0].y, 0.9, 10.0), 0.2).mean()
        full = light.level_at(target.across[2].middle, page).mean()
        for strip, is_across in ((target.across[0], True), (target.across[2], True), (target.down[0], False)):
            box = (
                Box(strip.x + 1, strip.y + 0.7, strip.width - 2, strip.height - 1.4)
                if is_across
                else Box(strip.x + 0.7, strip.y + 1, strip.width - 1.4, strip.height - 2)
            )
            share = (float(sampler.window(box).mean()) - bare) / max(full - bare, 1e-3)
            out.append((share - 0.5) * PERIOD_MM / 2)
    return float(np.median(out))


def read_screens(sampler: Sampler, light: Lighting) -> dict[str, tuple[float, ...]]:
    """Of each ruling, how much of the holes drawn is open, 0..1, by ``SHARES``."""
    page, turn = sampler.page, np.radians(HOLE_ANGLE_DEG)
    bare = sampler.level(Box(page.fine["line"].x + 28.5, page.fine["line"].y, 2.6, 9.0), 0.5)
    out = {}
    for lpi, line in zip(RULINGS_LPI, page.screens, strict=True):
        open_shares = []
        for share, box in zip(SHARES, line, strict=True):
            whole = float(sampler.window(box.inset(-0.3)).mean()) * (box.width + 0.6) * (box.height + 0.6)
            rim = (box.width + 0.6) * (box.height + 0.6) - box.width * box.height
            full = light.level_at(box.middle, page)
            if not page.whites:
                full = np.asarray(bare * 0.1)
            light_lost = float(full.mean()) * box.width * box.height + float(bare.mean()) * rim - whole
            drawn = len(lattice(box, MM_PER_INCH / lpi, float(turn))) * np.pi * hole_mm(lpi, share) ** 2 / 4
            opened = light_lost / max(float(full.mean() - bare.mean()), 1e-3)
            open_shares.append(round(float(np.clip(opened / drawn, 0, 1.5)), 3))
        out[f"{lpi:g}"] = tuple(open_shares)
    return out


def read_coverage(sampler: Sampler, light: Lighting) -> tuple[float, ...]:
    """Light of the steps of total coverage over that of bare white; where it falls no more, more ink is lost."""
    page = sampler.page
    return tuple(
        round(float((sampler.level(box, 1.8) / light.level_at(box.middle, page)).mean()), 4)
        for box in page.coverage_ladder
    )


def read_no_peek(sampler: Sampler, light: Lighting) -> float | None:
    """The least choke of the ladder beyond which no white shows; ``None`` where it still does at the largest."""
    page, least = sampler.page, None
    for choke, box in zip(CHOKES_MM[::-1], page.choke_ladder[::-1], strict=False):
        around = box.inset(-0.4)
        window = sampler.window(around).mean(axis=2)
        dark = float(np.percentile(window, 20))
        full = float(light.level_at(box.middle, page).mean())
        core = max(2, round(window.shape[0] * 0.22))
        ring = window.copy()
        ring[core:-core, core:-core] = dark
        white_mm2 = float(np.maximum(ring - 1.5 * dark - 0.01, 0).mean()) / max(full - dark, 1e-3) * around.width**2
        if white_mm2 / box.width > _NO_PEEK_MM:
            break
        least = choke
    return least


def read_nozzles(
    sampler: Sampler, registration: RegistrationRead | None, check: Callable[[], None] = lambda: None
) -> dict[int, tuple[int, ...]]:
    """Blocked nozzles by channel: lines that are hardly there.

    A line is held against the same rows of columns that have none there, so that a stripe of the white below does not
    count.
    """
    page, out = sampler.page, {}
    for channel, block in page.nozzles.items():
        check()
        dx, dy = (0.0, 0.0)
        if channel in page.colours and registration is not None:
            dx, dy = registration.at(*block.middle, page.height_mm)
        room = 0.4
        around = Box(block.x - dx, block.y - dy - room, block.width, block.height + 2 * room)
        window = sampler.window(around)
        strength = _strengths(window, room, block)
        usual = float(np.median(strength))
        lost = np.flatnonzero(strength < _LOST * usual) if usual > 0 else np.arange(0)
        out[channel] = tuple(int(number) for number in lost)
    return out


def _strengths(window: np.ndarray, room: float, block: Box) -> Floats:
    """How much each line of a block stands out, in the channel of the scan where they do most."""
    per_mm = window.shape[0] / (block.height + 2 * room)
    width = window.shape[1] / NOZZLE_COLUMNS
    columns = np.stack(
        [
            np.median(window[:, round(at * width + 0.14 * width) : round((at + 1) * width - 0.14 * width)], axis=1)
            for at in range(NOZZLE_COLUMNS)
        ],
        axis=1,
    )
    found = np.zeros((NOZZLES, 3))
    for number in range(NOZZLES):
        column = number % NOZZLE_COLUMNS
        middle = (room + (number + 0.5) * NOZZLE_MM) * per_mm
        rows = slice(round(middle - 0.16 * per_mm), round(middle + 0.16 * per_mm) + 1)
        others = [at for at in range(NOZZLE_COLUMNS) if min(abs(at - column), NOZZLE_COLUMNS - abs(at - column)) >= 3]
        found[number] = (columns[rows, column] - np.median(columns[rows][:, others], axis=1)).mean(axis=0)
    best = int(np.argmax(np.abs(np.median(found, axis=0))))
    sign = 1.0 if float(np.median(found[:, best])) > 0 else -1.0
    return np.asarray(sign * found[:, best], np.float64)
