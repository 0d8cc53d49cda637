"""Total coverage: C + M + Y + K at each pixel, against what the press takes."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from swaddon.core import fast
from swaddon.core.artwork.raster import Mask

ROUNDING_PERCENT = 1.0
"""Four inks of 8 bits each can be half a step off: so much above a limit is still the limit."""


@dataclass(frozen=True)
class TotalCoverage:
    """Total coverage of a print in percent, without white.

    Attributes
    ----------
    most_percent, at_px
        The most that lies at one pixel, and where: column and row.
    limit_percent
        What the press takes.
    over_px
        Pixels above the limit.
    """

    most_percent: float
    at_px: tuple[int, int]
    limit_percent: float
    over_px: int


def totals(cmyk: NDArray[np.uint8]) -> NDArray[np.uint16]:
    """C + M + Y + K of ``uint8 (H, W, 4)``, 0..1020, ``uint16 (H, W)``.

    >>> int(totals(np.array([[[255, 204, 51, 0]]], np.uint8))[0, 0])
    510
    """
    pairs = np.ascontiguousarray(cmyk).view(np.uint32)[..., 0]
    pairs = (pairs & 0x00FF00FF) + (pairs >> 8 & 0x00FF00FF)
    return np.asarray((pairs & 0xFFFF) + (pairs >> 16), np.uint16)


def total_coverage_of(cmyk: NDArray[np.uint8], limit_percent: float) -> TotalCoverage:
    """Where most ink lies on one spot, and how much of the print is above the limit.

    >>> inks = np.zeros((2, 3, 4), np.uint8)
    >>> inks[1, 2] = 255, 255, 204, 0
    >>> total_coverage_of(inks, 260)
    TotalCoverage(most_percent=280.0, at_px=(2, 1), limit_percent=260, over_px=1)
    """
    height, width = cmyk.shape[:2]
    most = np.zeros((height, 2), np.int64)
    over = np.zeros(height, np.int64)
    limit = (limit_percent + ROUNDING_PERCENT) * 255 / 100

    def work(rows: slice) -> None:
        total = totals(cmyk[rows])
        at = total.argmax(axis=1)
        most[rows, 0], most[rows, 1] = at, np.take_along_axis(total, at[:, None], 1)[:, 0]
        over[rows] = (total > limit).sum(axis=1)

    fast.by_rows(height, work)
    row = int(most[:, 1].argmax())
    return TotalCoverage(round(float(most[row, 1]) / 2.55, 2), (int(most[row, 0]), row), limit_percent, int(over.sum()))


def over_limit(cmyk: NDArray[np.uint8], limit_percent: float) -> Mask:
    """Pixels, ``uint8 (H, W)``, 255 where more ink lies than the press takes."""
    limit = (limit_percent + ROUNDING_PERCENT) * 255 / 100
    out = np.zeros(cmyk.shape[:2], np.uint8)

    def work(rows: slice) -> None:
        out[rows] = np.where(totals(cmyk[rows]) > limit, 255, 0)

    fast.by_rows(cmyk.shape[0], work)
    return out
