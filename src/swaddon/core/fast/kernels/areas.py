"""Regions: palette class per pixel, connected areas, and what each area is like."""

import numpy as np
from numba import njit, types

from swaddon.core.fast.kernels.signatures import (
    OPTIONS,
    flag,
    i32,
    i64,
    image,
    plane,
    plane_out,
    reads,
    u8,
    u16,
    u32,
    writes,
)


@njit(**OPTIONS)
def _between(rgba, y, x, v0, u0, v1, u1, step):
    """Whether a pixel lies strictly between two neighbours, by ``step`` or more to either side."""
    most_one = most_other = 0
    for c in range(4):
        value = np.int64(rgba[y, x, c])
        one, other = value - rgba[v0, u0, c], rgba[v1, u1, c] - value
        if one * other < 0:
            return False
        most_one, most_other = max(most_one, abs(one)), max(most_other, abs(other))
    return most_one >= step and most_other >= step


@njit(types.void(image, reads(u32, 2), reads(u8, 1), i64, i64, i64, plane_out), **OPTIONS)
def classify(rgba, codes, table, step, first, stop, out):
    """Palette index, 254 on rims, 255 without ink, for rows ``first`` to ``stop``; see ``palette.classify_plain``.

    ``codes`` are the same pixels as whole words, so that flat places are told at one look.
    """
    height, width = rgba.shape[0], rgba.shape[1]
    last, index = np.uint32(0), np.uint8(255)
    for y in range(first, stop):
        above, below = max(y - 1, 0), min(y + 1, height - 1)
        for x in range(width):
            if rgba[y, x, 3] == 0:
                out[y, x] = 255
                continue
            code = codes[y, x]
            if code != last:
                last = code
                index = table[
                    (np.int64(rgba[y, x, 0] >> 3) << 10) | (np.int64(rgba[y, x, 1] >> 3) << 5) | (rgba[y, x, 2] >> 3)
                ]
            out[y, x] = index
            left, right = max(x - 1, 0), min(x + 1, width - 1)
            if (
                code != codes[y, left] and code != codes[y, right] and _between(rgba, y, x, y, left, y, right, step)
            ) or (
                code != codes[above, x] and code != codes[below, x] and _between(rgba, y, x, above, x, below, x, step)
            ):
                out[y, x] = 254


@njit(types.void(reads(i32, 2), i64, i64, plane_out), **OPTIONS)
def inner(labels, first, stop, out):
    """255 where all four neighbours have the pixel's label, else 0, for rows ``first`` to ``stop``."""
    height, width = labels.shape
    for y in range(first, stop):
        for x in range(width):
            own = labels[y, x]
            same = (
                0 < x < width - 1
                and 0 < y < height - 1
                and labels[y, x - 1] == own
                and labels[y, x + 1] == own
                and labels[y - 1, x] == own
                and labels[y + 1, x] == own
            )
            out[y, x] = 255 if same else 0


@njit(**OPTIONS)
def _root(parents, index):
    while parents[index] != index:
        parents[index] = parents[parents[index]]
        index = parents[index]
    return index


@njit(types.void(plane, writes(i32, 1), writes(i32, 2)), **OPTIONS)
def connect(classes, parents, labels):
    """Union-find over 4-neighbours of one class; 0 where the class is 255, −1 where it is 254."""
    height, width = classes.shape
    count = 0
    parents[0] = 0
    for y in range(height):
        for x in range(width):
            own = classes[y, x]
            if own >= 254:
                labels[y, x] = 0 if own == 255 else -1
                continue
            left = labels[y, x - 1] if x > 0 and classes[y, x - 1] == own else 0
            above = labels[y - 1, x] if y > 0 and classes[y - 1, x] == own else 0
            if left > 0 and above > 0 and left != above:
                one, other = _root(parents, left), _root(parents, above)
                if one < other:
                    parents[other] = one
                else:
                    parents[one] = other
                labels[y, x] = min(one, other)
            elif left > 0:
                labels[y, x] = left
            elif above > 0:
                labels[y, x] = above
            else:
                count += 1
                parents[count] = count
                labels[y, x] = count
    # a parent is never larger than its child, so one pass upwards settles every label
    number = 0
    for index in range(1, count + 1):
        if parents[index] == index:
            number += 1
            parents[index] = -number
        else:
            parents[index] = parents[parents[index]]
    for y in range(height):
        for x in range(width):
            if labels[y, x] > 0:
                labels[y, x] = -parents[labels[y, x]]


@njit(types.void(reads(i32, 2), writes(i64, 1)), **OPTIONS)
def count_labels(labels, counts):
    """Pixels of each label of 1 and more."""
    for y in range(labels.shape[0]):
        for x in range(labels.shape[1]):
            if labels[y, x] > 0:
                counts[labels[y, x]] += 1


@njit(types.void(writes(i32, 2), reads(i32, 1)), **OPTIONS)
def relabel(labels, turned):
    """Labels of 0 and more turned into others, in place."""
    for y in range(labels.shape[0]):
        for x in range(labels.shape[1]):
            if labels[y, x] >= 0:
                labels[y, x] = turned[labels[y, x]]


@njit(types.void(image, reads(i32, 2), reads(i64, 1), flag, writes(i32, 1)), **OPTIONS)
def adopt(rgba, labels, pending, by_colour, out):
    """Label of the best labelled neighbour of each pending pixel, 0 when it has none; see ``areas.adopt_plain``."""
    height, width = labels.shape
    for index in range(pending.size):
        y, x = pending[index] // width, pending[index] % width
        best, least = 0, 1 << 30
        for turn in range(8):
            dy = (0, 0, -1, 1, -1, -1, 1, 1)[turn]
            dx = (-1, 1, 0, 0, -1, 1, -1, 1)[turn]
            v, u = y + dy, x + dx
            if v < 0 or u < 0 or v >= height or u >= width or labels[v, u] <= 0:
                continue
            away = 0 if turn < 4 else 1
            if by_colour:
                for c in range(3):
                    away += abs(np.int64(rgba[v, u, c]) - np.int64(rgba[y, x, c])) * 4
            if away < least:
                best, least = labels[v, u], away
        out[index] = best


@njit(types.int64(image, reads(i32, 2), i64, writes(i64, 1), writes(u8, 1)), **OPTIONS)
def borders(rgba, labels, count, pairs, steps):
    """Pairs of unlike labels that touch, as low × count + high, and the step of colour between their pixels.

    Gives how many there are; fills the arrays as far as they reach.
    """
    height, width = labels.shape
    found = 0
    for y in range(height):
        for x in range(width):
            own = labels[y, x]
            if own <= 0:
                continue
            for turn in range(2):
                v, u = (y, x + 1) if turn == 0 else (y + 1, x)
                if v == height or u == width:
                    continue
                other = labels[v, u]
                if other <= 0 or other == own:
                    continue
                if found < pairs.size:
                    step = 0
                    for c in range(4):
                        step = max(step, abs(np.int64(rgba[y, x, c]) - np.int64(rgba[v, u, c])))
                    pairs[found] = np.int64(min(own, other)) * count + max(own, other)
                    steps[found] = step
                found += 1
    return found


@njit(types.void(image, reads(i32, 2), reads(u16, 2), writes(i64, 2)), **OPTIONS)
def describe(rgba, labels, depth, stats):
    """Per label: pixels with ink, colour sums, box, greatest depth and where; see ``regions.describe_plain``."""
    for y in range(labels.shape[0]):
        for x in range(labels.shape[1]):
            number = labels[y, x]
            if number == 0 or rgba[y, x, 3] == 0:
                continue
            row = stats[number]
            row[0] += 1
            row[1] += rgba[y, x, 0]
            row[2] += rgba[y, x, 1]
            row[3] += rgba[y, x, 2]
            row[4], row[5] = min(row[4], x), min(row[5], y)
            row[6], row[7] = max(row[6], x + 1), max(row[7], y + 1)
            if depth[y, x] > row[8] or row[0] == 1:
                row[8], row[9], row[10] = depth[y, x], x, y
