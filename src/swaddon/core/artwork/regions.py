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
from swaddon.core.artwork.areas import Labels, connected, grow, merged, renumbered, without_specks
from swaddon.core.artwork.palette import classify, find_palette
from swaddon.core.artwork.raster import Mask, Rgba, halve
from swaddon.core.colour.spaces import Rgb, lab_from_srgb8

LARGEST_PX = 24_000_000
"""Artwork with more pixels is halved before regions are looked for."""

_DEPTH_STEPS = 4
"""Depth is kept in quarter pixels."""

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
    hidden
        Numbers of regions that do not print: nobody walks to them or selects them.
    """

    labels: Labels
    depth: Depths
    palette: tuple[Rgb, ...]
    regions: tuple[Region, ...]
    reduction: int
    hidden: frozenset[int] = frozenset()

    @property
    def printing(self) -> tuple[Region, ...]:
        """The regions that there is anything to do with."""
        return tuple(region for region in self.regions if region.number not in self.hidden)

    def at(self, x: float, y: float) -> Region | None:
        """The region at a point in artwork pixels."""
        column, row = int(x // self.reduction), int(y // self.reduction)
        height, width = self.labels.shape
        if not (0 <= column < width and 0 <= row < height):
            return None
        number = int(self.labels[row, column])
        return self.regions[number - 1] if number and number not in self.hidden else None

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
    labels = renumbered(merged(rgba, labels))
    depth = depths(labels)
    check()
    return RegionMap(labels, depth, palette, _describe(rgba, labels, depth, palette, reduction), reduction)


def depths(labels: Labels) -> Depths:
    """``uint16``: distance of each pixel's centre to its region's edge, in quarter pixels."""
    inner = np.empty(labels.shape, np.uint8)
    kernel = fast.chosen("inner", inner_plain)
    fast.by_rows(labels.shape[0], lambda rows: kernel(labels, rows.start, rows.stop, inner))
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
    stats = np.zeros((count, 11), np.int64)
    stats[:, 4:6] = np.iinfo(np.int32).max
    fast.chosen("describe", describe_plain)(rgba, labels, depth, stats)
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
