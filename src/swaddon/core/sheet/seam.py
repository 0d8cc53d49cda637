"""The seam along which a print is cut: the way down that crosses the fewest printed pixels and no lettering.

A seam runs from the upper to the lower edge: in each row of pixels it has one column, left of which lies the first
part. It may step sideways between two rows. What it crosses is counted where both pixels beside it are printed. The
cheapest seam is found row by row (a shortest path in a graph without circles, exact; E. W. Dijkstra 1959 finds the
same), at full resolution.
"""

from collections.abc import Sequence
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from swaddon.core import fast
from swaddon.core.artwork.raster import Mask
from swaddon.core.units import MM_PER_INCH

MOST_TURNS = 25
CLEAR_MM = 1.5
"""How far a seam keeps off the ink where that costs no crossing."""

_LETTERING, _NEAR, _FAR = 2, 1, 0
_PX = 64
"""Price of one printed pixel crossed."""

_LETTERING_TIMES = 4
_CLEAR = 1
STEP_MM = 0.7
"""What a step aside saves at least, as a length of crossing, where nothing else is chosen (assumed)."""

_FAR_OFF = 1 << 29

Columns = NDArray[np.int32]
Through = tuple[float, float]
"""A point that a seam must go through: across and down, in mm from the upper left of the print."""


@dataclass(frozen=True, eq=False)
class Seam:
    """A seam through a print.

    Attributes
    ----------
    columns
        ``int32 (H,)``: in each row, the first column of the second part.
    crossing_mm, lettering_mm
        Length over which it parts printed pixels from each other, and over which it parts lettering, counted at full
        resolution.
    straight_mm
        What the best straight seam would cross.
    """

    columns: Columns
    ppi: float
    crossing_mm: float
    lettering_mm: float
    straight_mm: float

    @property
    def turns(self) -> int:
        """Corners of the seam, two for each step aside."""
        return 2 * _steps(self.columns)

    @property
    def is_straight(self) -> bool:
        return self.turns == 0

    @property
    def polyline_mm(self) -> tuple[tuple[float, float], ...]:
        """Corners of the seam, x and y in mm."""
        mm = MM_PER_INCH / self.ppi
        steps = np.flatnonzero(np.diff(self.columns)) + 1
        points = [(int(self.columns[0]), 0)]
        for y in steps.tolist():
            points += [(int(self.columns[y - 1]), y), (int(self.columns[y]), y)]
        points.append((int(self.columns[-1]), len(self.columns)))
        return tuple((round(x * mm, 4), round(y * mm, 4)) for x, y in points)


def _steps(columns: Columns) -> int:
    """How often a seam steps aside."""
    return int(np.count_nonzero(np.diff(columns)))


def crossing_px(mask: Mask, columns: Columns) -> int:
    """How many pairs of neighbouring set pixels a seam parts."""
    height, width = mask.shape
    rows = np.arange(height)
    inner = (columns > 0) & (columns < width)
    left = mask[rows[inner], columns[inner] - 1] > 0
    right = mask[rows[inner], columns[inner]] > 0
    count = int(np.count_nonzero(left & right))
    for y in (np.flatnonzero(np.diff(columns)) + 1).tolist():
        begin, end = sorted((int(columns[y - 1]), int(columns[y])))
        count += int(np.count_nonzero((mask[y - 1, begin:end] > 0) & (mask[y, begin:end] > 0)))
    return count


def straight_crossings(mask: Mask, first: int, last: int) -> NDArray[np.int64]:
    """What each straight seam crosses in pixels, columns ``first`` to ``last`` (inclusive)."""
    width = mask.shape[1]
    out = np.zeros(last - first + 1, np.int64)
    low, high = max(first, 1), min(last, width - 1)
    if high >= low:
        both = cv2.bitwise_and(
            np.ascontiguousarray(mask[:, low - 1 : high]), np.ascontiguousarray(mask[:, low : high + 1])
        )
        out[low - first : high - first + 1] = np.count_nonzero(both, axis=0)
    return out


def find_seam(
    printed: Mask,
    lettering: Mask | None,
    ppi: float,
    first: int,
    last: int,
    through: Sequence[Through] = (),
    bent: bool = True,
    step_mm: float = STEP_MM,
) -> Seam:
    """The cleanest seam down a print.

    Parameters
    ----------
    printed, lettering
        ``uint8 (H, W)``, above 0 where something is printed, and where lettering is; no lettering: ``None``.
    first, last
        Columns between which it must stay, inclusive.
    through
        Points that it must go through; straight seams go through the first.
    bent, step_mm
        Whether it may step aside, and the length of crossing that a step must save.

    Raises
    ------
    ValueError
        The columns leave no way.
    """
    height, width = printed.shape
    first, last = max(0, first), min(width, last)
    if last < first:
        raise ValueError("there is no room for a seam")
    straight = _straight(printed, first, last, ppi, through)
    best_straight = crossing_px(printed, straight)
    found = [straight]
    if bent and (through or best_straight or _crossed(lettering, straight)):
        found = _bent(
            printed, lettering, ppi, (first, last), _rows_through(height, first, last, through, ppi), straight, step_mm
        )
    allowed = [columns for columns in found if through or crossing_px(printed, columns) <= best_straight]
    chosen = min(
        allowed or [straight],
        key=lambda columns: (
            _crossed(lettering, columns), crossing_px(printed, columns), _steps(columns)
        ),
    )  # fmt: skip
    mm = MM_PER_INCH / ppi
    return Seam(chosen, ppi, crossing_px(printed, chosen) * mm, _crossed(lettering, chosen) * mm, best_straight * mm)


def _crossed(lettering: Mask | None, columns: Columns) -> int:
    return 0 if lettering is None else crossing_px(lettering, columns)


def _straight(printed: Mask, first: int, last: int, ppi: float, through: Sequence[Through]) -> Columns:
    """The best straight seam; of equally good ones, the one in the middle of the widest gap."""
    if through:
        at = min(max(round(through[0][0] * ppi / MM_PER_INCH), first), last)
        return np.full(printed.shape[0], at, np.int32)
    counts = straight_crossings(printed, first, last)
    good = np.flatnonzero(counts == counts.min())
    groups = np.split(good, np.flatnonzero(np.diff(good) > 1) + 1)
    widest = max(groups, key=len)
    return np.full(printed.shape[0], first + int(widest[len(widest) // 2]), np.int32)


def _rows_through(height: int, first: int, last: int, through: Sequence[Through], ppi: float) -> NDArray[np.int32]:
    """Of each row, the columns from ``first`` on between which the seam must lie."""
    rows = np.zeros((height, 2), np.int32)
    rows[:, 1] = last - first
    px = ppi / MM_PER_INCH
    for x, y in through:
        row = min(max(round(y * px), 0), height - 1)
        rows[row] = min(max(round(x * px) - first, 0), last - first)
    return rows


def _bent(
    printed: Mask,
    lettering: Mask | None,
    ppi: float,
    window: tuple[int, int],
    through: NDArray[np.int32],
    straight: Columns,
    step_mm: float,
) -> list[Columns]:
    """The straight seam and bent ones: kept off ink and lettering, and counting crossings alone."""
    weight = _weights(printed, lettering, ppi)
    careful = np.array([_PX, _PX, _PX * _LETTERING_TIMES], np.int32), np.array([0, _CLEAR, _CLEAR], np.int32)
    plain = np.array([_PX, _PX, _PX], np.int32), np.zeros(3, np.int32)
    found = [straight]
    for ink_price, clear_price in (careful, plain):
        turn = round(step_mm * ppi / MM_PER_INCH * _PX)
        while True:
            columns = _cheapest(printed, weight, ink_price, clear_price, through, window[0], turn)
            if 2 * _steps(columns) <= MOST_TURNS:
                break
            turn = max(turn * 3 // 2, _PX)
        found.append(columns)
        best = crossing_px(printed, straight)
        if crossing_px(printed, columns) <= best:
            break
    return found


def _weights(printed: Mask, lettering: Mask | None, ppi: float) -> Mask:
    """Where lettering is, where ink is near, and where neither is."""
    height, width = printed.shape
    scale = 4
    small = (max(1, width // scale), max(1, height // scale))
    little = (cv2.resize(np.asarray(printed), small, interpolation=cv2.INTER_AREA) > 0).astype(np.uint8)
    away = np.asarray(cv2.distanceTransform(1 - little, cv2.DIST_L2, cv2.DIST_MASK_5))
    near = (away * scale < CLEAR_MM * ppi / MM_PER_INCH).astype(np.uint8) * np.uint8(_NEAR)
    weight = np.asarray(cv2.resize(near, (width, height), interpolation=cv2.INTER_NEAREST), np.uint8)
    if lettering is not None:
        weight[lettering > 0] = _LETTERING
    return np.ascontiguousarray(weight)


def _cheapest(
    printed: Mask,
    weight: Mask,
    ink_price: NDArray[np.int32],
    clear_price: NDArray[np.int32],
    through: NDArray[np.int32],
    first: int,
    turn: int,
) -> Columns:
    count = int(through[:, 1].max()) + 1
    back = np.zeros((printed.shape[0], count), np.int16)
    least = np.zeros(count, np.int32)
    find = fast.chosen("seam", seam_plain)
    find(printed, weight, ink_price, clear_price, through, first, turn, back, least)
    if least.min() >= _FAR_OFF:
        raise ValueError("there is no way for a seam through these points")
    good = np.flatnonzero(least == least.min())
    at = int(good[len(good) // 2])
    columns = np.zeros(printed.shape[0], np.int32)
    for y in range(printed.shape[0] - 1, -1, -1):
        columns[y] = first + at
        at = int(back[y, at]) if y else at
    return columns


def seam_plain(
    printed: Mask,
    weight: Mask,
    ink_price: NDArray[np.int32],
    clear_price: NDArray[np.int32],
    through: NDArray[np.int32],
    first: int,
    turn: int,
    back: NDArray[np.int16],
    least: NDArray[np.int32],
) -> None:
    """Cheapest way of a seam to each column that it may end at.

    Parameters
    ----------
    printed, weight
        ``uint8 (H, W)``: what is printed; which of the prices holds at a pixel (of two pixels the higher one).
    ink_price, clear_price
        Price of parting two printed pixels, and any other two.
    through
        ``int32 (H, 2)``: columns from ``first`` on between which it must lie, in each row.
    turn
        Price of a step aside, in whichever row.
    back
        Gets, for each row and column, the column in the row above.
    least
        Gets the price of each column in the last row.
    """
    height, width = printed.shape
    columns = np.arange(least.size)
    cuts = np.clip(first + columns, 1, max(1, width - 1))
    inner = (first + columns > 0) & (first + columns < width)
    least[...] = 0
    for y in range(height):
        if y:
            before = least.copy()
            x = first + columns[:-1]
            steps = _prices(printed[y - 1, x], printed[y, x], weight[y - 1, x], weight[y, x], ink_price, clear_price)
            sums = np.concatenate([[0], np.cumsum(steps)])
            ways = before[None, :] + np.abs(sums[:, None] - sums[None, :]) + turn
            ways[columns, columns] = before
            back[y] = np.argmin(ways, axis=1)
            least[...] = np.min(ways, axis=1)
        own = _prices(
            printed[y, cuts - 1], printed[y, cuts % width], weight[y, cuts - 1], weight[y, cuts % width],
            ink_price, clear_price,
        )  # fmt: skip
        least[...] += np.where(inner, own, 0)
        least[(columns < through[y, 0]) | (columns > through[y, 1])] = 2 * _FAR_OFF


def _prices(
    one: NDArray[np.uint8],
    other: NDArray[np.uint8],
    one_weight: NDArray[np.uint8],
    other_weight: NDArray[np.uint8],
    ink_price: NDArray[np.int32],
    clear_price: NDArray[np.int32],
) -> NDArray[np.int32]:
    weight = np.maximum(one_weight, other_weight)
    return np.where((one > 0) & (other > 0), ink_price[weight], clear_price[weight])
