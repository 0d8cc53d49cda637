"""Fine black, and its stage: lettering and thin lines that may go without white.

A black of C, M and Y already lies in three layers. White under strokes of it that are hardly wider than the press
meets its own marks shows beside them as a pale edge, so fine text stays cleaner without.
"""

from dataclasses import dataclass

import cv2
import numpy as np

from swaddon.core.artwork.raster import Mask, Rgba
from swaddon.core.engine import of, settle
from swaddon.core.units import px_from_mm
from swaddon.core.white.settings import WhiteMode

FINE_MM = 1.0
"""Strokes narrower than this are fine (assumed)."""

BLACK_BELOW = 72
"""Colours whose sRGB values are all below this count as black (assumed)."""


def fine_black_of(art: Rgba, fine_px: float) -> Mask | None:
    """Mask, ``uint8 (H, W)``, of black strokes narrower than ``fine_px``; ``None`` where there are none.

    What an opening with a disc takes away is fine, but for the corners of wide shapes.

    >>> art = np.zeros((40, 60, 4), np.uint8)
    >>> art[4:36, 4:36, 3] = 255  # a wide black square
    >>> art[4:36, 50:54, 3] = 255  # a line 4 px wide
    >>> mask = fine_black_of(art, 12.0)
    >>> bool(mask[20, 51]), bool(mask[20, 20]), bool(mask[5, 5])
    (True, False, False)
    """
    black = np.asarray(cv2.inRange(art, (0, 0, 0, 1), (BLACK_BELOW - 1,) * 3 + (255,)), np.uint8)
    if not black.any():
        return None
    side = max(3, round(fine_px) | 1)
    disc = cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (side, side))
    wide = cv2.morphologyEx(black, cv2.MORPH_OPEN, disc)
    fine = cv2.subtract(black, wide)
    count, labels, stats, _ = cv2.connectedComponentsWithStats(fine, connectivity=8)
    if count == 1:
        return None
    beside = np.zeros(count, np.bool_)
    beside[np.unique(labels[(cv2.dilate(wide, np.ones((3, 3), np.uint8)) > 0) & (fine > 0)])] = True
    corner = beside & (stats[:, cv2.CC_STAT_AREA] < (fine_px / 2) ** 2)
    corner[0] = True
    if corner.all():
        return None
    return np.where(corner, 0, 255).astype(np.uint8)[labels]


@dataclass(frozen=True)
class FineBlackSettings:
    """Whether fine black goes without white, where white lies under any colour."""

    ppi: float
    is_spared: bool = of("spares_fine_black")
    mode: WhiteMode = of("settings.white.mode")

    def __post_init__(self) -> None:
        settle(self, is_spared=self.is_spared and self.mode not in ("none", "only"), mode="solid")
        if not self.is_spared:
            settle(self, ppi=0.0)


def fine_black(art: Rgba, settings: FineBlackSettings) -> Mask | None:
    """Fine black that goes without white; ``None``: none does."""
    return fine_black_of(art, px_from_mm(FINE_MM, settings.ppi)) if settings.is_spared else None
