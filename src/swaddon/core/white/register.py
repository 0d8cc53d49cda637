"""How much choke: the harm of white that peeks out against the harm of a bare rim, over the error of registration.

The expected areas of both over that error (``misses.py``), times the ΔE00 that each shows, are the two harms in ΔE·mm².

A line between print and cloth is seen as far as it differs from both of them, so its ΔE00 is the smaller of the two: a
bare rim that looks like the cloth only makes the print a little smaller; white between two dark neighbours shines.
"""

from collections.abc import Callable
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from swaddon.core.artwork.raster import Plane, Rgba, pixels
from swaddon.core.colour.spaces import bands_from_srgb8, delta_e_2000, lab_from_bands
from swaddon.core.press.registration import Registration
from swaddon.core.proof.optics import Appearance, seen_bands
from swaddon.core.white.bared import BaredAreas, bared_areas

LARGEST_MM, STEP_MM = 1.0, 0.01
_SAMPLES = 4000
_WHITE_AT_LEAST = 0.1
"""White under a colour below which its edge needs no choke (assumed)."""


@dataclass(frozen=True)
class Edges:
    """Share of a figure's edges where white lies under colour; mean ΔE00 there of peeking white and of bare rims."""

    white_share: float
    peek_delta_e: float
    rim_delta_e: float


@dataclass(frozen=True, eq=False)
class ChokeCurve:
    """Harm in ΔE·mm² of peeking white and of bare rims, for each choke in mm; the least of their sum is recommended.

    ``peek_mm2`` and ``rim_mm2`` are the expected areas of both, where white lies under an edge.
    """

    at_mm: NDArray[np.float64]
    peek: NDArray[np.float64]
    rim: NDArray[np.float64]
    peek_mm2: NDArray[np.float64]
    rim_mm2: NDArray[np.float64]

    def areas_at(self, mm: float) -> tuple[float, float]:
        """Expected areas of one choke in mm²: of white that peeks out, and of rims without white."""
        return float(np.interp(mm, self.at_mm, self.peek_mm2)), float(np.interp(mm, self.at_mm, self.rim_mm2))

    @property
    def total(self) -> NDArray[np.float64]:
        return self.peek + self.rim

    def total_at(self, mm: float) -> float:
        """Harm of one choke, straight between those worked out."""
        return float(np.interp(mm, self.at_mm, self.total))

    @property
    def recommended_mm(self) -> float:
        return round(float(self.at_mm[int(np.argmin(self.total))]), 2)


def edges_of(
    figure: Plane,
    art: Rgba,
    cmyk: NDArray[np.uint8],
    under: Callable[[NDArray[np.uint8], NDArray[np.floating]], NDArray[np.float64]],
    look: Appearance,
) -> Edges:
    """Measure the edges where white lies under colour.

    Parameters
    ----------
    figure
        ``uint8 (H, W)``: coverage of the printed figure before any choke.
    art, cmyk
        ``uint8 (H, W, 4)``: artwork and its inks.
    under
        White under colours, 0..1, by their sRGB ``(n, 3)`` and inks ``(n, 4)``; edges without it need no choke.
    """
    inside = cv2.inRange(figure, 128, 255)
    core = cv2.erode(inside, np.ones((3, 3), np.uint8), borderType=cv2.BORDER_CONSTANT, borderValue=0)
    ys, xs = pixels(np.asarray(cv2.bitwise_and(inside, cv2.bitwise_not(core)), np.uint8))
    if ys.size == 0:
        return Edges(0.0, 0.0, 0.0)
    every = max(1, ys.size // _SAMPLES)
    inks = cmyk[ys[::every], xs[::every]] / 255
    white = under(np.ascontiguousarray(art[ys[::every], xs[::every], :3]), inks)
    has_white = white >= _WHITE_AT_LEAST
    if not has_white.any():
        return Edges(0.0, 0.0, 0.0)
    inks, white = inks[has_white], white[has_white]
    ground = np.asarray(bands_from_srgb8(look.garment), np.float64)
    none, bare = np.zeros_like(inks), np.zeros_like(white)
    with_white = lab_from_bands(seen_bands(inks, white, ground, look))
    without = lab_from_bands(seen_bands(inks, bare, ground, look))
    peeking = lab_from_bands(seen_bands(none, white, ground, look))
    return Edges(
        white_share=float(has_white.mean()),
        peek_delta_e=_stands_out(peeking, with_white, lab_from_bands(ground)),
        rim_delta_e=_stands_out(without, with_white, lab_from_bands(ground)),
    )


def _stands_out(line: NDArray[np.floating], inside: NDArray[np.floating], outside: NDArray[np.floating]) -> float:
    """Mean over the edges of the smaller ΔE00 of a line to its two neighbours (CIELAB)."""
    return float(np.minimum(delta_e_2000(line, inside), delta_e_2000(line, outside)).mean())


def chokes_tried() -> NDArray[np.float64]:
    """The chokes in mm that are weighed."""
    return np.arange(0, LARGEST_MM + STEP_MM / 2, STEP_MM)


def bared_by_choke(figure: Plane, registration: Registration, ppi: float) -> BaredAreas:
    """What a miss of white bares of a figure, for each of the chokes that are weighed."""
    return bared_areas(figure, ppi, registration, chokes_tried())


def choke_curve(edges: Edges, bared: Callable[[], BaredAreas]) -> ChokeCurve:
    """Expected harm against choke; ``bared`` gives the areas, and is asked only where white lies under an edge."""
    choke = chokes_tried()
    if edges.white_share == 0:
        none = np.zeros(choke.size)
        return ChokeCurve(choke, none, none, none, none)
    misregistration = bared()
    peek, rim = (edges.white_share * area for area in (misregistration.peek_mm2, misregistration.rim_mm2))
    return ChokeCurve(choke, peek * edges.peek_delta_e, rim * edges.rim_delta_e, peek, rim)
