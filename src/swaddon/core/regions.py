"""Regions: the artwork divided into contiguous areas of one colour. Antialiased rims belong to one of their sides.

1. A palette: the colours of flat places, gathered greedily by area and settled by k-means in CIELAB.
2. Every pixel with ink gets its palette colour; pixels on a rim (strictly between two unlike neighbours) get none.
3. Connected pixels of one palette colour are a region; specks give their pixels up.
4. What has no region takes that of the neighbour whose colour is nearest, ring by ring.
5. Neighbours that run into each other without an edge are joined: a colour fade is one region.

Found once per artwork at its own pixels, so regions stay the same at any print size.
"""

from collections.abc import Callable
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from swaddon.core import fast
from swaddon.core.colour import Rgb, lab_from_srgb8
from swaddon.core.raster import Mask, Plane, Rgba, halve

LARGEST_PX = 24_000_000
"""Artwork with more pixels is halved before regions are looked for."""

MOST_COLOURS = 24
_BIN_BITS = 5
_FLAT_STEP = 3
_PALETTE_DELTA_E = 9.0
_PALETTE_SHARE = 0.0004
_RIM_STEP = 6
_SAMPLES = 600_000
_SPECK_PX = 12
_RIM_RINGS = 6
_FADE_STEP, _FADE_EDGE_PX = 4.0, 8
"""Neighbours whose colours differ by no more than this per pixel along their border are one fade (assumed)."""
MOST_REGIONS = 4000
_NO_COLOUR = 255
_DEPTH_STEPS = 4
"""Depth is kept in quarter pixels."""

Labels = NDArray[np.int32]
Depths = NDArray[np.uint16]
Check = Callable[[], None]


@dataclass(frozen=True)
class Region:
    """One contiguous area of one colour.

    Attributes
    ----------
    number
        Label, from 1 on.
    colour
        Mean sRGB of its pixels.
    palette
        Index of its palette colour.
    area_px
        Pixels of the labels' grid.
    box
        Left, top, right, bottom on that grid; right and bottom exclusive.
    anchor
        A point in artwork pixels well inside it.
    width_px
        Diameter of the largest disc inside it.
    """

    number: int
    colour: Rgb
    palette: int
    area_px: int
    box: tuple[int, int, int, int]
    anchor: tuple[float, float]
    width_px: float


@dataclass(frozen=True, eq=False)
class RegionMap:
    """All regions of an artwork.

    Attributes
    ----------
    labels
        ``int32 (H, W)``: 0 where there is no ink and none nearby, else the region's number.
    depth
        ``uint16 (H, W)``: distance to the region's edge in quarter pixels.
    palette
        Palette colours, sRGB.
    reduction
        Artwork pixels per label pixel: 1, 2, 4 …
    """

    labels: Labels
    depth: Depths
    palette: tuple[Rgb, ...]
    regions: tuple[Region, ...]
    reduction: int

    def at(self, x: float, y: float) -> Region | None:
        """The region at a point in artwork pixels."""
        column, row = int(x // self.reduction), int(y // self.reduction)
        height, width = self.labels.shape
        if not (0 <= column < width and 0 <= row < height):
            return None
        number = int(self.labels[row, column])
        return self.regions[number - 1] if number else None

    def mask(self, numbers: set[int]) -> Mask:
        """Mask (255) of some regions on the labels' grid."""
        wanted = np.zeros(len(self.regions) + 1, np.uint8)
        wanted[list(numbers)] = 255
        return wanted[self.labels]


def find_regions(rgba: Rgba, check: Check = lambda: None) -> RegionMap:
    """Divide artwork into regions.

    Parameters
    ----------
    rgba
        ``uint8 (H, W, 4)``, straight alpha.
    check
        Called between steps; raises to give up.
    """
    reduction = 1
    while rgba.shape[0] * rgba.shape[1] > LARGEST_PX and min(rgba.shape[:2]) > 1:
        rgba, reduction = halve(rgba), reduction * 2
    palette = find_palette(rgba)
    check()
    classes = classify(rgba, palette)
    check()
    labels = connected(classes)
    labels = without_specks(labels)
    check()
    grow(rgba, labels)
    check()
    labels = _renumbered(merged(rgba, labels))
    depth = depths(labels)
    check()
    return RegionMap(labels, depth, palette, _describe(rgba, labels, depth, palette, reduction), reduction)


# 1 palette


def find_palette(rgba: Rgba) -> tuple[Rgb, ...]:
    """At most ``MOST_COLOURS`` colours that the flat places of an artwork have, by area."""
    step = max(1, int((rgba.shape[0] * rgba.shape[1] / _SAMPLES) ** 0.5))
    counts, sums = _flat_histogram(rgba, step)
    used = np.flatnonzero(counts)
    if used.size == 0:
        return ()
    weight = counts[used].astype(np.float64)
    mean = sums[used] / weight[:, None]
    lab = lab_from_srgb8(mean)
    chosen: list[int] = []
    least = weight.sum() * _PALETTE_SHARE
    for index in np.argsort(-weight, kind="stable"):
        if len(chosen) == MOST_COLOURS or (chosen and weight[index] < least):
            break
        if not chosen or np.sqrt(((lab[chosen] - lab[index]) ** 2).sum(axis=1)).min() >= _PALETTE_DELTA_E:
            chosen.append(int(index))
    centres = lab[chosen]
    nearest = np.zeros(len(lab), np.intp)
    for _ in range(4):
        nearest = ((lab[:, None, :] - centres[None]) ** 2).sum(axis=2).argmin(axis=1)
        total = np.bincount(nearest, weight, len(centres))
        sums_lab = np.stack([np.bincount(nearest, weight * lab[:, c], len(centres)) for c in range(3)], axis=1)
        centres = np.where(total[:, None] > 0, sums_lab / np.maximum(total, 1e-9)[:, None], centres)
    colours = np.stack([np.bincount(nearest, weight * mean[:, c], len(centres)) for c in range(3)], axis=1)
    area = np.maximum(np.bincount(nearest, weight, len(centres)), 1e-9)
    return tuple((round(r), round(g), round(b)) for r, g, b in (colours / area[:, None]).tolist())


def _flat_histogram(rgba: Rgba, step: int) -> tuple[NDArray[np.int64], NDArray[np.float64]]:
    """Counts and colour sums per 5-bit colour, over pixels like their right and lower neighbour; else over all."""
    part = np.ascontiguousarray(rgba[: rgba.shape[0] - 1 : step, : rgba.shape[1] - 1 : step])
    right = np.ascontiguousarray(rgba[: rgba.shape[0] - 1 : step, 1::step][:, : part.shape[1]])
    below = np.ascontiguousarray(rgba[1::step, : rgba.shape[1] - 1 : step][: part.shape[0]])
    if part.size == 0:
        part = right = below = rgba
    inked = part[..., 3] >= 128
    apart = np.maximum(cv2.absdiff(part, right), cv2.absdiff(part, below)).max(axis=2)
    flat = inked & (apart <= _FLAT_STEP)
    pixels = part[flat if flat.any() else inked][:, :3]
    shift = 8 - _BIN_BITS
    wide = pixels.astype(np.int64) >> shift
    bins = (wide[:, 0] << 2 * _BIN_BITS) | (wide[:, 1] << _BIN_BITS) | wide[:, 2]
    size = 1 << 3 * _BIN_BITS
    counts = np.bincount(bins, minlength=size).astype(np.int64)
    sums = np.stack([np.bincount(bins, pixels[:, c].astype(np.float64), size) for c in range(3)], axis=1)
    return counts, sums.astype(np.float64)


# 2 classes


def _palette_table(palette: tuple[Rgb, ...]) -> NDArray[np.uint8]:
    """``uint8 (64³,)``: index of the nearest palette colour of each 6-bit sRGB colour."""
    axis = (np.arange(64) * 255 / 63).astype(np.float64)
    rgb = np.stack(np.meshgrid(axis, axis, axis, indexing="ij"), axis=-1).reshape(-1, 3)
    lab = lab_from_srgb8(rgb).astype(np.float32)
    centres = lab_from_srgb8(np.array(palette)).astype(np.float32)
    best = np.zeros(len(lab), np.uint8)
    least = np.full(len(lab), np.inf, np.float32)
    for index, centre in enumerate(centres):
        away = ((lab - centre) ** 2).sum(axis=1)
        closer = away < least
        best[closer], least[closer] = index, away[closer]
    return best


def classify(rgba: Rgba, palette: tuple[Rgb, ...]) -> Plane:
    """``uint8 (H, W)``: palette index of each pixel; 254 on rims, 255 where there is no ink."""
    out = np.full(rgba.shape[:2], _NO_COLOUR, np.uint8)
    if not palette:
        return out
    table = _palette_table(palette)
    kernels = fast.compiled()
    if kernels is None:
        classify_plain(rgba, table, out)
    else:
        codes = np.ascontiguousarray(rgba).view(np.uint32)[..., 0]
        fast.by_rows(
            rgba.shape[0], lambda rows: kernels.classify(rgba, codes, table, _RIM_STEP, rows.start, rows.stop, out)
        )
    return out


def classify_plain(rgba: Rgba, table: NDArray[np.uint8], out: Plane) -> None:
    """:func:`classify` in plain NumPy."""
    six = (rgba[..., :3] >> 2).astype(np.int64)
    index = table[six[..., 0] << 12 | six[..., 1] << 6 | six[..., 2]]
    wide = rgba.astype(np.int16)
    rim = np.zeros(rgba.shape[:2], np.bool_)
    for axis in (0, 1):
        before, after = _shifted(wide, axis, 1), _shifted(wide, axis, -1)
        first, second = wide - before, after - wide
        between = (first * second >= 0).all(axis=2)
        rim |= between & (np.abs(first).max(axis=2) >= _RIM_STEP) & (np.abs(second).max(axis=2) >= _RIM_STEP)
    out[...] = np.where(rim, 254, index)
    out[rgba[..., 3] == 0] = _NO_COLOUR


def _shifted(wide: NDArray[np.int16], axis: int, by: int) -> NDArray[np.int16]:
    """The picture moved by one pixel, its border repeated."""
    moved = np.roll(wide, by, axis)
    edge = [slice(None)] * 3
    edge[axis] = slice(0, 1) if by > 0 else slice(-1, None)
    moved[tuple(edge)] = wide[tuple(edge)]
    return moved


# 3 connected areas


def connected(classes: Plane) -> Labels:
    """Labels of 4-connected pixels of one palette colour; 0 where there is none, −1 on rims."""
    kernels = fast.compiled()
    if kernels is None:
        return connected_plain(classes)
    labels = np.empty(classes.shape, np.int32)
    parents = np.empty(classes.size + 1, np.int32)
    kernels.connect(classes, parents, labels)
    return labels


def connected_plain(classes: Plane) -> Labels:
    """:func:`connected` colour by colour with OpenCV."""
    labels = np.where(classes == 254, -1, 0).astype(np.int32)
    count = 0
    for colour in np.unique(classes[classes < 254]):
        found, parts = cv2.connectedComponents((classes == colour).astype(np.uint8), connectivity=4)
        labels = np.where(parts > 0, parts + count, labels)
        count += found - 1
    return np.asarray(labels, np.int32)


def without_specks(labels: Labels) -> Labels:
    """Labels with −1 (to be given away) where an area is a speck; a lone area stays.

    A speck has fewer pixels than ``_SPECK_PX``, or, in artwork of more than ``MOST_REGIONS`` areas, so few that no more
    than that are left.
    """
    counts = label_counts(labels)
    least = _SPECK_PX
    while int((counts[1:] >= least).sum()) > MOST_REGIONS:
        least *= 2
    small = counts < least
    small[0] = False
    if small[1:].all():
        return labels
    turned = np.arange(counts.size, dtype=np.int32)
    turned[small] = -1
    return relabelled(labels, turned)


def label_counts(labels: Labels) -> NDArray[np.int64]:
    """Pixels of each label; ``[0]`` is 0."""
    counts = np.zeros(max(int(labels.max()), 0) + 1, np.int64)
    kernels = fast.compiled()
    if kernels is None:
        counts += np.bincount(np.maximum(labels, 0).ravel(), minlength=counts.size)
        counts[0] = 0
    else:
        kernels.count_labels(labels, counts)
    return counts


def relabelled(labels: Labels, turned: NDArray[np.int32]) -> Labels:
    """Labels of 0 and more turned into others; −1 stays."""
    kernels = fast.compiled()
    if kernels is None:
        return np.where(labels < 0, labels, turned[np.maximum(labels, 0)]).astype(np.int32)
    out = labels.copy()
    fast.by_rows(out.shape[0], lambda rows: kernels.relabel(out[rows], turned))
    return out


# 4 rims


def grow(rgba: Rgba, labels: Labels) -> None:
    """Give pixels of −1 the label of the neighbour nearest in colour, ring by ring; in place.

    What is further than ``_RIM_RINGS`` from any area is texture: each such place becomes an area of its own. Afterwards
    labels also reach two pixels beyond the ink, so that resampled artwork finds one everywhere.
    """
    pending = np.flatnonzero(labels.ravel() == -1)
    pending = _rings(rgba, labels, pending, _RIM_RINGS)
    if pending.size:
        texture = np.zeros(labels.shape, np.uint8)
        texture.ravel()[pending] = 1
        _, parts, stats, _ = cv2.connectedComponentsWithStats(texture, connectivity=8)
        large = stats[:, cv2.CC_STAT_AREA] >= _SPECK_PX
        if not (labels > 0).any():
            large[1:] = True
        large[0] = False
        numbers = np.where(large, np.cumsum(large) + max(int(labels.max()), 0), -1)
        labels.ravel()[pending] = numbers[parts.ravel()[pending]]
        pending = pending[labels.ravel()[pending] == -1]
        _rings(rgba, labels, pending, pending.size)
    labels[labels == -1] = 0
    inked = (labels > 0).view(np.uint8)
    beside = np.flatnonzero(cv2.subtract(cv2.dilate(inked, np.ones((5, 5), np.uint8)), inked))
    for _ in range(2):
        taken = _adopted(rgba, labels, beside, by_colour=False)
        labels.ravel()[beside] = taken
        beside = beside[taken == 0]


def _rings(rgba: Rgba, labels: Labels, pending: NDArray[np.int64], most: int) -> NDArray[np.int64]:
    """Up to ``most`` rings of adoption; the pixels that are left."""
    for _ in range(most):
        if pending.size == 0:
            break
        found = _adopted(rgba, labels, pending, by_colour=True)
        if not found.any():
            break
        taken = found > 0
        labels.ravel()[pending[taken]] = found[taken]
        pending = pending[~taken]
    return pending


def _adopted(rgba: Rgba, labels: Labels, pending: NDArray[np.int64], by_colour: bool) -> Labels:
    """The label each pending pixel takes from its neighbours, 0 when none has one."""
    out = np.zeros(pending.size, np.int32)
    kernels = fast.compiled()
    way = adopt_plain if kernels is None else kernels.adopt
    fast.by_rows(pending.size, lambda part: way(rgba, labels, pending[part], by_colour, out[part]))
    return out


def adopt_plain(rgba: Rgba, labels: Labels, pending: NDArray[np.int64], by_colour: bool, out: Labels) -> None:
    """Labels for pending pixels in plain NumPy: nearest in colour, edge neighbours before corner neighbours."""
    height, width = labels.shape
    ys, xs = np.divmod(pending, width)
    least = np.full(pending.size, 1 << 30, np.int64)
    own = rgba[ys, xs, :3].astype(np.int64)
    out.fill(0)
    for turn, (dy, dx) in enumerate(((0, -1), (0, 1), (-1, 0), (1, 0), (-1, -1), (-1, 1), (1, -1), (1, 1))):
        v, u = ys + dy, xs + dx
        inside = (v >= 0) & (u >= 0) & (v < height) & (u < width)
        v, u = np.clip(v, 0, height - 1), np.clip(u, 0, width - 1)
        label = np.where(inside, labels[v, u], 0)
        away = np.full(pending.size, 0 if turn < 4 else 1, np.int64)
        if by_colour:
            away += np.abs(rgba[v, u, :3].astype(np.int64) - own).sum(axis=1) * 4
        closer = (label > 0) & (away < least)
        out[closer], least[closer] = label[closer], away[closer]


# 5 colour fades


def merged(rgba: Rgba, labels: Labels) -> Labels:
    """Labels with neighbours joined where one colour runs into the other without an edge (a colour fade)."""
    lows, highs, steps = [], [], []
    for one, other in (
        ((slice(None), slice(None, -1)), (slice(None), slice(1, None))),
        ((slice(None, -1), slice(None)), (slice(1, None), slice(None))),
    ):
        ys, xs = np.nonzero((labels[one] != labels[other]) & (labels[one] > 0) & (labels[other] > 0))
        first, second = labels[one][ys, xs], labels[other][ys, xs]
        apart = np.abs(rgba[one][ys, xs].astype(np.int16) - rgba[other][ys, xs]).max(axis=1)
        lows.append(np.minimum(first, second).astype(np.int64))
        highs.append(np.maximum(first, second).astype(np.int64))
        steps.append(apart)
    count = max(int(labels.max()), 0) + 1
    pairs, place = np.unique(np.concatenate(lows) * count + np.concatenate(highs), return_inverse=True)
    size = np.bincount(place, minlength=pairs.size)
    step = np.bincount(place, np.concatenate(steps), pairs.size) / np.maximum(size, 1)
    gradual = pairs[(step <= _FADE_STEP) & (size >= _FADE_EDGE_PX)]
    parents = np.arange(count, dtype=np.int32)
    for low, high in zip((gradual // count).tolist(), (gradual % count).tolist(), strict=True):
        first_root, second_root = _root(parents, low), _root(parents, high)
        parents[max(first_root, second_root)] = min(first_root, second_root)
    for number in range(count):
        parents[number] = parents[parents[number]]
    return relabelled(labels, parents)


def _root(parents: Labels, number: int) -> int:
    while parents[number] != number:
        number = int(parents[number])
    return number


def _renumbered(labels: Labels) -> Labels:
    """Labels 1, 2, 3 … without gaps."""
    used = np.flatnonzero(label_counts(labels))
    turned = np.zeros(max(int(labels.max()), 0) + 1, np.int32)
    turned[used] = np.arange(1, used.size + 1)
    return relabelled(labels, turned)


# depth and description


def depths(labels: Labels) -> Depths:
    """``uint16``: distance of each pixel's centre to its region's edge, in quarter pixels."""
    inner = np.empty(labels.shape, np.uint8)
    kernels = fast.compiled()
    way = inner_plain if kernels is None else kernels.inner
    fast.by_rows(labels.shape[0], lambda rows: way(labels, rows.start, rows.stop, inner))
    away = cv2.distanceTransform(inner, cv2.DIST_L2, cv2.DIST_MASK_5)
    out = np.minimum((away + np.float32(0.5)) * _DEPTH_STEPS, 65535).astype(np.uint16)
    out[labels == 0] = 0
    return out


def inner_plain(labels: Labels, first: int, stop: int, out: Mask) -> None:
    """255 where all four neighbours exist and have the pixel's label, rows ``first`` to ``stop``, in plain NumPy."""
    padded = np.pad(labels, 1, constant_values=-2)
    own = padded[1:-1, 1:-1]
    same = (
        (padded[1:-1, :-2] == own) & (padded[1:-1, 2:] == own) & (padded[:-2, 1:-1] == own) & (padded[2:, 1:-1] == own)
    )
    out[first:stop] = np.where(same, np.uint8(255), np.uint8(0))[first:stop]


def _describe(
    rgba: Rgba, labels: Labels, depth: Depths, palette: tuple[Rgb, ...], reduction: int
) -> tuple[Region, ...]:
    """Area, colour, box, anchor and width of every region."""
    count = int(labels.max()) + 1
    kernels = fast.compiled()
    stats = np.zeros((count, 11), np.int64)
    stats[:, 4:6] = np.iinfo(np.int32).max
    way = describe_plain if kernels is None else kernels.describe
    way(rgba, labels, depth, stats)
    if count == 1:
        return ()
    area = np.maximum(stats[:, 0], 1)
    colours = np.rint(stats[:, 1:4] / area[:, None]).astype(int)
    centres = lab_from_srgb8(np.array(palette))
    nearest = ((lab_from_srgb8(colours)[:, None] - centres[None]) ** 2).sum(axis=2).argmin(axis=1)
    return tuple(
        Region(
            number=number,
            colour=(int(colours[number][0]), int(colours[number][1]), int(colours[number][2])),
            palette=int(nearest[number]),
            area_px=int(stats[number, 0]),
            box=(int(stats[number, 4]), int(stats[number, 5]), int(stats[number, 6]), int(stats[number, 7])),
            anchor=((float(stats[number, 9]) + 0.5) * reduction, (float(stats[number, 10]) + 0.5) * reduction),
            width_px=2 * float(stats[number, 8]) / _DEPTH_STEPS * reduction,
        )
        for number in range(1, count)
    )


def describe_plain(rgba: Rgba, labels: Labels, depth: Depths, stats: NDArray[np.int64]) -> None:
    """Per label: pixels with ink, colour sums, box, greatest depth and where it is; in plain NumPy."""
    inked = rgba[..., 3] > 0
    ys, xs = np.nonzero(inked & (labels > 0))
    number = labels[ys, xs]
    stats[:, 0] = np.bincount(number, minlength=len(stats))
    for c in range(3):
        stats[:, 1 + c] = np.bincount(number, rgba[ys, xs, c], len(stats))
    np.minimum.at(stats[:, 4], number, xs)
    np.minimum.at(stats[:, 5], number, ys)
    np.maximum.at(stats[:, 6], number, xs + 1)
    np.maximum.at(stats[:, 7], number, ys + 1)
    deep = depth[ys, xs].astype(np.int64)
    order = np.lexsort((xs, ys, -deep, number))
    first = order[np.r_[True, np.diff(number[order]) > 0]] if order.size else order
    stats[number[first], 8], stats[number[first], 9], stats[number[first], 10] = deep[first], xs[first], ys[first]


def fine_free(found: RegionMap, radius_px: float) -> Mask:
    """Mask (255) of the places that a disc of this radius (label pixels) covers without leaving its region."""
    if radius_px <= 0.5:
        return np.full(found.labels.shape, 255, np.uint8)
    core = cv2.inRange(found.depth, int(radius_px * _DEPTH_STEPS), 65535)
    away = cv2.distanceTransform(cv2.bitwise_not(core), cv2.DIST_L2, cv2.DIST_MASK_5)
    return np.asarray(cv2.inRange(away, -1.0, float(radius_px)), np.uint8)
