"""Where white lies against colour, from pairs of gratings: the phases of their bars (first harmonic) tell the fine
place, a dark square in a white one which period it is."""

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from swaddon.core.testprint.layout import PERIOD_MM, WIDTH_MM, Box, Target
from swaddon.core.testprint.quality import check_flatness, check_sharpness
from swaddon.core.testprint.refusal import UnreadablePageError
from swaddon.core.testprint.sample import Floats, Sampler

LEAST_TARGETS = 5
_FLOOR_MM = 0.0012
"""Standard deviation of a target's place that even a perfect fit is not believed to beat (assumed)."""

_NEAR_MM = 0.02
"""How far a bar may lie from the median of its strip and still count (assumed)."""

_PER_BAR = 64
_LIGHT_BAR = np.exp(1j * math.tau * 0.5)
"""Turns the phase of a strip that is in its place to 0: strips are looked at from three quarters of a period on."""

Place = tuple[float, float]
_WIDENED = 1.3
"""What the fit's own interval lacks: targets share the scanner's wobble."""

_T = {13: 2.16, 11: 2.20, 9: 2.26, 7: 2.36, 5: 2.57}
"""Student's t, two sides, 95 %, by degrees of freedom (from memory)."""


@dataclass(frozen=True)
class RegistrationRead:
    """White against colour: to the right and down in mm, clockwise about the page's middle in degrees, 95 % intervals.

    ``misses`` are what is left at each target, (x, y) in mm.
    """

    shift_mm: tuple[float, float]
    shift_mm_pm: tuple[float, float]
    rotation_deg: float
    rotation_deg_pm: float
    targets: int
    misses: tuple[tuple[float, float], ...]

    def at(self, x_mm: float, y_mm: float, height_mm: float) -> tuple[float, float]:
        """How far white lies off at a place of the page."""
        turn = math.radians(self.rotation_deg)
        x, y = x_mm - WIDTH_MM / 2, y_mm - height_mm / 2
        return self.shift_mm[0] - turn * y, self.shift_mm[1] + turn * x


def read_registration(sampler: Sampler) -> RegistrationRead:
    """Fit shift and rotation over all targets of a page.

    Raises
    ------
    UnreadablePageError
        When too few targets can be read.
    """
    page = sampler.page
    channel = _most_contrast(sampler, page.targets[0])
    places, offs, whites, edges = [], [], list[tuple[float, float]](), list[float]()
    for target in page.targets:
        square = _square(sampler, target.square, channel)
        if square is None:
            continue
        edges.append(max(square.edges))
        off = _offset(sampler, target, square, channel)
        if off is not None:
            (_, y), (x, _) = target.across[1].middle, target.down[1].middle
            places.append((x - WIDTH_MM / 2, y - page.height_mm / 2))  # each value at its own grating
            offs.append(off[0])
            whites.append(off[1])
    check_flatness(whites)
    check_sharpness(edges)
    if len(offs) < LEAST_TARGETS:
        raise UnreadablePageError(
            "targets",
            f"Only {len(offs)} of {len(page.targets)} targets for the place of white can be read: white and colour are "
            "more than 1.5 mm apart, or the page is smeared; print it again.",
        )
    return _fit(np.array(places), np.array(offs))


def _most_contrast(sampler: Sampler, target: Target) -> int:
    """Channel of the scan in which the dark ink stands out most."""
    square = target.square
    dark = sampler.level(square.inset(3.2), 0.3)
    white = sampler.level(Box(square.x, square.y, square.width, 2.0), 0.6)
    return int(np.argmin(dark / np.maximum(white, 1e-3)))


def _offset(sampler: Sampler, target: Target, square: "_Square", channel: int) -> tuple[Place, Place] | None:
    """How far white lies from colour at a target, and from its own place on the page, in mm.

    ``None`` where that cannot be told.
    """
    rough = square.white[0] - square.dark[0], square.white[1] - square.dark[1]
    out, own = [], []
    for strips, is_across, about in ((target.across, True, rough[0]), (target.down, False, rough[1])):
        first, dark, last = (_phases(sampler, strip, is_across, channel) for strip in strips)
        if first is None or dark is None or last is None:
            return None
        # dark bars are light between: half a period on; white off by d turns the other phase by -d
        white = first / np.abs(first) + last / np.abs(last)
        own.append(float(np.median(np.angle(white * _LIGHT_BAR))) / -math.tau * PERIOD_MM)
        apart = np.angle(-dark * np.conj(white)) / math.tau * PERIOD_MM
        apart = about + (apart - about + PERIOD_MM / 2) % PERIOD_MM - PERIOD_MM / 2
        usual = float(np.median(apart))
        if abs(usual - about) > 0.3 * PERIOD_MM:
            return None
        near = apart[np.abs(apart - usual) <= _NEAR_MM]
        out.append(float(near.mean()))
    return (out[0], out[1]), (own[0], own[1])


def _phases(sampler: Sampler, strip: Box, is_across: bool, channel: int) -> NDArray[np.complex128] | None:
    """First harmonic of each bar of a strip; ``None`` where there are hardly any.

    Each by itself, so that a stripe that a nozzle leaves out spoils one bar and not the strip.
    """
    inside = (
        Box(strip.x + 0.75, strip.y + 0.7, strip.width - 1, strip.height - 1.4)
        if is_across
        else Box(strip.x + 0.7, strip.y + 0.75, strip.width - 1.4, strip.height - 1)
    )
    window = sampler.window(inside)[..., channel]
    profile = np.median(window, axis=0 if is_across else 1).astype(np.float64)
    bars = round((inside.width if is_across else inside.height) / PERIOD_MM)
    at = (np.arange(bars * _PER_BAR) + 0.5) / _PER_BAR
    fine = np.interp(at * profile.size / bars - 0.5, np.arange(profile.size), profile)
    turns = np.exp(-1j * math.tau * at)
    found = (fine * turns).reshape(bars, _PER_BAR).mean(axis=1)
    is_there = float(np.median(np.abs(found))) > 0.04 * max(float(fine.mean()), 0.02)
    return np.asarray(found, np.complex128) if is_there else None


@dataclass(frozen=True)
class _Square:
    """Where the white square and the dark one in it lie, in mm from their place, and how wide white's edges are."""

    white: tuple[float, float]
    dark: tuple[float, float]
    edges: tuple[float, float]


def _square(sampler: Sampler, square: Box, channel: int) -> _Square | None:
    """Places of the squares of a target, from their edges."""
    around = square.inset(-0.8)
    window = sampler.window(around)[..., channel]
    white, dark, wide = [], [], []
    for axis in (1, 0):
        size = window.shape[1 - axis]
        middle = slice(round(size * 0.42), round(size * 0.58))
        profile = np.median(window[middle] if axis == 1 else window[:, middle], axis=1 - axis)
        edges = _edges(profile, around.width if axis == 1 else around.height)
        if edges is None:
            return None
        middle_mm = (around.width if axis == 1 else around.height) / 2
        white.append((edges[0] + edges[3]) / 2 - middle_mm)
        dark.append((edges[1] + edges[2]) / 2 - middle_mm)
        wide.append(_width(profile, round(edges[0] / middle_mm / 2 * profile.size)) * 2 * middle_mm / profile.size)
    return _Square((white[0], white[1]), (dark[0], dark[1]), (wide[0], wide[1]))


def _width(profile: NDArray[np.float32], at: int) -> float:
    """Samples from a tenth to nine tenths of the step up that is at a place."""
    low, high = float(profile[: max(at // 2, 1)].min()), float(np.median(profile[at * 2 : at * 2 + max(at, 4)]))
    around = profile[: at * 2 + 4]
    rises = np.flatnonzero(around > low + 0.1 * (high - low)), np.flatnonzero(around > low + 0.9 * (high - low))
    return float(rises[1][0] - rises[0][0]) if len(rises[0]) and len(rises[1]) else 0.0


def _edges(profile: NDArray[np.float32], length: float) -> list[float] | None:
    """Up, down, up, down: the outer edges of white and those of what is dark in it, in mm."""
    low, high = float(profile.min()), float(np.percentile(profile, 90))
    if high - low < 0.1 * high:
        return None
    above = profile > (low + high) / 2
    turns = np.flatnonzero(np.diff(above.astype(np.int8)))
    runs = [int(turn) for turn in turns]
    if len(runs) < 4:
        return None
    first, last = runs[0], runs[-1]
    inner = [turn for turn in runs[1:-1] if 0.15 < turn / profile.size < 0.85]
    if not inner or not above[first + 1]:
        return None
    return [(turn + 1) / profile.size * length for turn in (first, inner[0], inner[-1], last)]


def _fit(places: Floats, offs: Floats) -> RegistrationRead:
    """Least squares of shift and turn; a target that stands out is left out once."""
    kept = np.ones(len(offs), bool)
    for _ in range(2):
        rows, values = [], []
        for (x, y), (dx, dy) in zip(places[kept], offs[kept], strict=True):
            rows += [(1, 0, -y), (0, 1, x)]
            values += [dx, dy]
        matrix, right = np.array(rows, np.float64), np.array(values)
        found, *_ = np.linalg.lstsq(matrix, right, rcond=None)
        turn = np.stack([-places[:, 1], places[:, 0]], axis=1) * found[2]
        miss = offs - (found[:2] + turn)
        size = np.linalg.norm(miss, axis=1)
        kept = size <= max(3.5 * float(np.median(size)), 0.01)
        if kept.sum() < LEAST_TARGETS:
            raise UnreadablePageError(
                "targets", "The targets for the place of white contradict each other: print it again."
            )
    freedom = max(len(right) - 3, 1)
    spread = math.hypot(math.sqrt(float(((right - matrix @ found) ** 2).sum()) / freedom), _FLOOR_MM)
    cover = np.sqrt(np.diag(np.linalg.inv(matrix.T @ matrix))) * spread * _WIDENED * _T.get(freedom, 2.2)
    return RegistrationRead(
        (float(found[0]), float(found[1])), (float(cover[0]), float(cover[1])), math.degrees(float(found[2])),
        math.degrees(float(cover[2])), int(kept.sum()), tuple((float(x), float(y)) for x, y in miss),
    )  # fmt: skip
