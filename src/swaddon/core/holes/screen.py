"""Holes: clustered dots, lines or a tile of one's own, cut into a tone.

A screen is a threshold per phase of its cell: ink stays where the threshold is below the tone. The thresholds are the
ranks of a spot function, so the mean of the result equals the tone (histogram equalisation). They are read at each
pixel's phase, which is locked to the corner of the artboard: preview, command line and export cut the same holes.
"""

import math
from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from functools import lru_cache

import cv2
import numpy as np
from numpy.typing import NDArray

from swaddon.core import fast
from swaddon.core.artwork.raster import Plane
from swaddon.core.holes.settings import Pattern, Screen
from swaddon.core.units import MM_PER_INCH

CELL = 256
"""Phases per side of a threshold cell."""

FULL_TONE = 65535
FADE = 255
"""Class of pixels whose tone is their own alpha."""

_TONE_ERROR = 0.003
_NUDGES = tuple(sign * step / 1000 for step in range(1, 11) for sign in (1, -1))
"""Shares by which a screen's lpi may be moved to hold its tones, smallest first: at most a hundredth."""

_PROBE_PX = 256


Threshold = NDArray[np.uint16]


@dataclass(frozen=True)
class TileArt:
    """A pattern tile: ``uint8 (h, w)``, black is cut out, repeats at its edges. Equal ids are equal tiles."""

    name: str
    content_id: str
    grey: Plane = field(compare=False, repr=False)

    @property
    def content_key(self) -> tuple[str, str]:
        """What tells this tile from others."""
        return self.name, self.content_id

    @property
    def white_share(self) -> float:
        """Share of the tile that stays ink as it is drawn."""
        return float((self.grey >= 128).mean())


Tiles = Mapping[str, TileArt]


def left_share(screen: Screen, tile: TileArt | None) -> float:
    """Share of ink that the screen leaves, 0..1.

    >>> left_share(Screen(share=0.7), None), left_share(Screen(), None)
    (0.7, 0.85)
    """
    share = screen.share
    if share is None:
        share = 0.85 if tile is None else tile.white_share
    return min(max(share * screen.tone, 0.0), 1.0)


def cell_size_px(screen: Screen, tile: TileArt | None, ppi: float) -> tuple[float, float]:
    """Width and height of one cell in pixels.

    >>> cell_size_px(Screen(lpi=30), None, 300)
    (10.0, 10.0)
    """
    if tile is None:
        return ppi / screen.lpi, ppi / screen.lpi
    height, width = tile.grey.shape
    wide = screen.tile_mm * ppi / MM_PER_INCH
    return wide, wide * height / width


def levels(ppi: float, lpi: float) -> int:
    """Tones that a cell can show: (ppi / lpi)² + 1 (textbook halftoning).

    >>> levels(300, 35)
    74
    """
    return int((ppi / lpi) ** 2 + 1e-9) + 1


@lru_cache(maxsize=4)
def _spot_ranks(pattern: Pattern) -> Threshold:
    """Thresholds of the analytic patterns, ``uint16 (CELL, CELL)``; rows are v, columns u."""
    phase = (np.arange(CELL) + 0.5) / CELL - 0.5
    u, v = np.meshgrid(phase, phase)
    spot = v**2 + 1e-9 * u**2 if pattern == "line" else u**2 + v**2
    return ranks(-spot if pattern == "inverted" else spot)


def ranks(values: NDArray[np.floating]) -> Threshold:
    """The rank of each value, spread evenly over 0..65534: thresholds whose histogram is flat.

    >>> ranks(np.array([[0.3, 0.1], [0.2, 0.9]])).tolist()
    [[32767, 0], [16383, 49151]]
    """
    order = np.argsort(values, axis=None, kind="stable")
    out = np.empty(values.size, np.uint16)
    out[order] = (np.arange(values.size) * (FULL_TONE / values.size)).astype(np.uint16)
    return out.reshape(values.shape)


@lru_cache(maxsize=16)
def _thresholds(pattern: Pattern, tile: TileArt | None) -> Threshold:
    return _spot_ranks(pattern) if tile is None else tile_ranks(tile.grey)


def tile_ranks(grey: Plane) -> Threshold:
    """Thresholds of a tile: ranks of the signed distance to its black, so that a share can grow or shrink the holes.

    At the tile's own white share the result is the tile as drawn. The distance wraps round the tile's edges.
    """
    small = np.asarray(cv2.resize(grey, (CELL, CELL), interpolation=cv2.INTER_AREA))
    ink = np.tile((small >= 128).astype(np.uint8), (3, 3))
    if ink.all() or not ink.any():
        return _spot_ranks("round")
    inside = cv2.distanceTransform(ink, cv2.DIST_L2, cv2.DIST_MASK_PRECISE)
    outside = cv2.distanceTransform(1 - ink, cv2.DIST_L2, cv2.DIST_MASK_PRECISE)
    middle = (slice(CELL, 2 * CELL), slice(CELL, 2 * CELL))
    return ranks(outside[middle] - inside[middle])


@dataclass(frozen=True, eq=False)
class Ruled:
    """A screen made ready for one resolution.

    ``steps`` are the phases that one pixel to the right and one down add to u and v, in 2⁻³² cells. ``screen.lpi`` (or
    ``tile_mm``) may differ a little from what was asked: see :func:`rule`.
    """

    asked: Screen
    screen: Screen
    threshold: Threshold
    steps: tuple[int, int, int, int]
    share: float
    tile: TileArt | None

    @property
    def is_nudged(self) -> bool:
        return self.asked != self.screen


def rule(screen: Screen, tiles: Tiles, ppi: float) -> Ruled:
    """Make a screen ready for ``ppi``.

    A cell that is commensurable with the pixel grid sees only a few of its thresholds and misses the tone by up to some
    percent; its lpi is then nudged, by at most a percent, until the mean over a patch holds every tone, or to the best
    there is. A tile is so much larger than a pixel that it needs none.
    """
    tile = tiles.get(screen.tile) if screen.pattern == "tile" else None
    if screen.pattern == "tile" and tile is None:
        screen = replace(screen, pattern="round")
    return _ruled(screen, tile, ppi)


@lru_cache(maxsize=32)
def _ruled(screen: Screen, tile: TileArt | None, ppi: float) -> Ruled:
    threshold = _thresholds(screen.pattern, tile)
    used, least = screen, math.inf
    for nudge in (0.0, *_NUDGES) if tile is None else ():
        tried = replace(screen, lpi=screen.lpi * (1 + nudge)) if nudge else screen
        error = _tone_error(threshold, _steps(tried, tile, ppi))
        if error < least:
            used, least = tried, error
        if error <= _TONE_ERROR:
            break
    return Ruled(screen, used, threshold, _steps(used, tile, ppi), left_share(screen, tile), tile)


def _steps(screen: Screen, tile: TileArt | None, ppi: float) -> tuple[int, int, int, int]:
    width, height = cell_size_px(screen, tile, ppi)
    angle = math.radians(screen.angle)
    cos, sin = math.cos(angle), math.sin(angle)
    parts = (cos / width, -sin / width, sin / height, cos / height)
    return tuple(round(part * 2**32) % 2**32 for part in parts)  # type: ignore[return-value]


def _tone_error(threshold: Threshold, steps: tuple[int, int, int, int]) -> float:
    """Largest error of any tone over a patch of ``_PROBE_PX``²: distance of the two cumulative histograms."""
    seen = np.sort(thresholds_at(threshold, steps, 0, 0, _PROBE_PX, _PROBE_PX), axis=None)
    wanted = (np.arange(seen.size) + 0.5) / seen.size
    return float(np.abs(seen / FULL_TONE - wanted).max())


def thresholds_at(
    threshold: Threshold, steps: tuple[int, int, int, int], x0: int, y0: int, width: int, height: int
) -> Threshold:
    """Thresholds of the pixels from (x0, y0) on, ``uint16 (height, width)``; phase 0 at the artboard's corner."""
    x = np.arange(x0, x0 + width, dtype=np.uint32)[None, :]
    y = np.arange(y0, y0 + height, dtype=np.uint32)[:, None]
    ux, uy, vx, vy = (np.uint32(step) for step in steps)
    half_u, half_v = (int(ux) + int(uy)) // 2 % 2**32, (int(vx) + int(vy)) // 2 % 2**32
    u = (x * ux + y * uy + np.uint32(half_u)) >> np.uint32(24)
    v = (x * vx + y * vy + np.uint32(half_v)) >> np.uint32(24)
    return threshold[v, u]


def tone16(share: float) -> int:
    """A tone of 0..1 on the scale of the thresholds; full tone lies above every threshold.

    >>> tone16(0.0), tone16(0.5), tone16(1.0)
    (0, 32768, 65535)
    """
    return round(min(max(share, 0.0), 1.0) * FULL_TONE)


@dataclass(frozen=True, eq=False)
class Cut:
    """The screens of a plan: class ``i + 1`` of the zones gets ``ruled[i]``; class ``FADE`` the screen ``fade``."""

    ruled: tuple[Ruled, ...]
    fade: Ruled | None


def cut(zones: Plane, tone: Plane, screens: Cut, x0: int = 0, y0: int = 0) -> Plane:
    """The mask of what stays: 255 = ink, 0 = hole.

    Parameters
    ----------
    zones
        ``uint8 (H, W)``: 0 = solid, else the pixel's class.
    tone
        ``uint8 (H, W)``: tone of fades, read where the class is ``FADE``.
    x0, y0
        Position of the first pixel on the plan's grid, so that a part is cut as the whole is.
    """
    every = (*screens.ruled, *([screens.fade] if screens.fade is not None else []))
    out = np.empty(zones.shape, np.uint8)
    if not every:
        out.fill(255)
        return out
    thresholds = np.ascontiguousarray(np.stack([item.threshold for item in every]))
    steps = np.array([item.steps for item in every], np.uint32)
    tones = np.array([tone16(item.share) for item in every], np.uint16)
    kernel = fast.chosen("cut", cut_plain)
    has_fade = screens.fade is not None
    fast.by_rows(
        zones.shape[0],
        lambda rows: kernel(
            zones[rows], tone[rows], thresholds, steps, tones, has_fade, x0, y0 + rows.start, out[rows]
        ),
    )
    return out


def cut_plain(
    zones: Plane,
    tone: Plane,
    thresholds: NDArray[np.uint16],
    steps: NDArray[np.uint32],
    tones: NDArray[np.uint16],
    has_fade: bool,
    x0: int,
    y0: int,
    out: Plane,
) -> None:
    """:func:`cut` in plain NumPy."""
    height, width = zones.shape
    out.fill(255)
    for index in range(len(steps)):
        is_fade = has_fade and index == len(steps) - 1
        chosen = zones == (FADE if is_fade else index + 1)
        if not chosen.any():
            continue
        step = tuple(int(value) for value in steps[index])
        limit = thresholds_at(thresholds[index], step, x0, y0, width, height)  # type: ignore[arg-type]
        wanted = tone.astype(np.uint16) * np.uint16(257) if is_fade else tones[index]
        out[chosen & (limit >= wanted)] = 0
