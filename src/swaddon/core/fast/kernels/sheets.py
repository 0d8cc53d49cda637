"""Sheets: prints laid beside each other by their shape, and the seam along which a print is cut."""

import numpy as np
from numba import njit, types

from swaddon.core.fast.kernels.signatures import OPTIONS, i32, i64, plane, plane_out, reads, writes

_run = reads(i32, 2)
_ends = writes(types.int16, 2)


@njit(**OPTIONS)
def _tell_row(taken, ends, y):
    """Of each cell of a row: where its taken span ends, or, negative, where the next one begins."""
    width = taken.shape[1]
    begin, end = width, width
    for x in range(width - 1, -1, -1):
        if taken[y, x]:
            if x == width - 1 or not taken[y, x + 1]:
                end = x + 1
            begin = x
            ends[y, x] = end
        else:
            ends[y, x] = -begin - 1


@njit(**OPTIONS)
def _first_fit(mask, runs, ends, sheet_rows, y, x):
    """First place from (y, x) on, row by row, at which no run of a mask meets a taken cell; row -1: none."""
    rows = ends.shape[0]
    first, last, most_x, most_y = mask[2], mask[3], mask[4], mask[5]
    hot = first
    while True:
        if y % sheet_rows > most_y:
            y, x = (y // sheet_rows + 1) * sheet_rows, 0
        if y + mask[1] > rows:
            return -1, 0
        while x <= most_x:
            free = True
            at = hot
            for _ in range(first, last):
                row, begin, stop = y + runs[at, 0], x + runs[at, 1], x + runs[at, 2]
                told = ends[row, begin]
                if told >= 0:
                    x = told - runs[at, 1]
                    free = False
                elif -told - 1 < stop:
                    x = ends[row, -told - 1] - runs[at, 1]
                    free = False
                if not free:
                    hot = at
                    break
                at += 1
                if at == last:
                    at = first
            if free:
                return y, x
        y, x = y + 1, 0


@njit(
    i64(
        reads(i32, 1), i64, reads(i32, 2), reads(i32, 2), reads(i32, 2), _run, _run, i64, plane_out, _ends,
        writes(i64, 2), writes(i32, 2),
    ),
    **OPTIONS,
)  # fmt: skip
def nest(order, first, choices, masks, fats, runs, fat_runs, sheet_rows, taken, ends, hints, places):
    """Lay prints one after the other where they end first; see ``nest.nest_plain``."""
    rows, across = taken.shape
    if first == 0:
        taken[...] = 0
        ends[...] = -across - 1
        hints[...] = 0
    for index in range(first, order.size):
        item = order[index]
        best, best_y, best_x, best_end = -1, 0, 0, 0
        for mask in range(choices[item, 0], choices[item, 1]):
            y, x = _first_fit(masks[mask], runs, ends, sheet_rows, hints[mask, 0], hints[mask, 1])
            if y < 0:
                hints[mask, 0] = rows
                continue
            hints[mask, 0], hints[mask, 1] = y, x
            end = y + masks[mask, 1]
            if best < 0 or end < best_end or (end == best_end and (y < best_y or (y == best_y and x < best_x))):
                best, best_y, best_x, best_end = mask, y, x, end
        if best < 0:
            return index
        places[item, 0], places[item, 1], places[item, 2] = best, best_y, best_x
        top = best_y // sheet_rows * sheet_rows
        low, high = max(top, 0), min(top + sheet_rows, rows)
        row_before = -1
        for at in range(fats[best, 0], fats[best, 1]):
            y = best_y + fat_runs[at, 0]
            if y < low or y >= high:
                continue
            if row_before >= 0 and y != row_before:
                _tell_row(taken, ends, row_before)
            row_before = y
            for x in range(max(0, best_x + fat_runs[at, 1]), min(across, best_x + fat_runs[at, 2])):
                taken[y, x] = 1
        if row_before >= 0:
            _tell_row(taken, ends, row_before)
    return order.size


@njit(**OPTIONS)
def _row_prices(one, other, weight, other_weight, ink_price, clear_price, out):
    """Price of cutting between each pixel and another."""
    for x in range(out.size):
        w = max(weight[x], other_weight[x])
        both = np.int32((one[x] != 0) & (other[x] != 0))
        out[x] = clear_price[w] + both * (ink_price[w] - clear_price[w])


@njit(
    types.void(
        plane, plane, reads(i32, 1), reads(i32, 1), reads(i32, 2), i64, i64, writes(types.int16, 2), writes(i32, 1)
    ),
    **OPTIONS,
)
def seam(printed, weight, ink_price, clear_price, through, first, turn, back, least):
    """Cheapest way of a seam down a print to each column it may end at; see ``seam.seam_plain``."""
    height, width = printed.shape
    columns = least.size
    far = np.int32(1 << 30)
    step = np.int32(turn)
    before = np.empty_like(least)
    across = np.zeros(columns, np.int32)
    down = np.zeros(columns + 1, np.int32)
    low, high = max(first, 1), min(first + columns - 1, width - 1)
    least[...] = 0
    for y in range(height):
        if y > 0:
            before[...] = least
            here, above = slice(first, first + columns - 1), y - 1
            _row_prices(
                printed[above, here],
                printed[y, here],
                weight[above, here],
                weight[y, here],
                ink_price,
                clear_price,
                across[: columns - 1],
            )
            swept, came = far, 0
            for at in range(columns):
                own = before[at]
                other = swept + step
                least[at] = min(own, other)
                back[y, at] = came if other < own else at
                came = at if own < swept else came
                swept = min(swept, own) + across[at]
            swept, came = far, 0
            for at in range(columns - 1, -1, -1):
                other = swept + step
                back[y, at] = came if other < least[at] else back[y, at]
                least[at] = min(least[at], other)
                own = before[at]
                came = at if own < swept else came
                swept = min(swept, own) + (across[at - 1] if at > 0 else 0)
        if high >= low:
            left, right = slice(low - 1, high), slice(low, high + 1)
            _row_prices(
                printed[y, left],
                printed[y, right],
                weight[y, left],
                weight[y, right],
                ink_price,
                clear_price,
                down[low - first : high + 1 - first],
            )
        for at in range(columns):
            least[at] += down[at]
        for at in range(through[y, 0]):
            least[at] = far
        for at in range(through[y, 1] + 1, columns):
            least[at] = far
