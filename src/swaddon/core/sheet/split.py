"""A print larger than its medium: cut along the cleanest seams into parts that each fit one sheet.

First into bands from top to bottom, where it is too high, then each band from left to right. A part holds the pixels
between the seams round it, and with an overlap some more of its neighbour's, so that parts laid together give the
print back exactly.
"""

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import partial
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from swaddon.core.artwork.raster import Box, Mask, bounds
from swaddon.core.sheet.grid import BUTT, SplitRules, grid_of, overlap_px
from swaddon.core.sheet.media import Medium
from swaddon.core.sheet.seam import Columns, Seam, Through, find_seam
from swaddon.core.units import MM_PER_INCH

MARK_MM = 5.0
"""Room for alignment marks beyond a seam's ends."""


@dataclass(frozen=True, eq=False)
class Part:
    """What one sheet holds.

    Attributes
    ----------
    number
        From 1 on, row by row.
    box
        On the artboard, in pixels, overlap included.
    left, right
        Columns of the seams at its sides, one for each row of the box, without the overlap; ``None``: the print's edge.
    top, bottom
        Rows of the seams above and below, one for each column of the box; ``None``: the print's edge.
    """

    number: int
    row: int
    column: int
    box: Box
    left: Columns | None
    right: Columns | None
    top: Columns | None
    bottom: Columns | None
    overlap_px: int = 0

    def mask(self) -> Mask:
        """Which pixels of the box belong to the part: ``uint8 (H, W)``, 255 where they do."""
        box = self.box
        rows, columns = np.arange(box.top, box.bottom)[:, None], np.arange(box.left, box.right)[None, :]
        inside = np.ones((box.height, box.width), np.bool_)
        one = self.overlap_px // 2
        other = self.overlap_px - one
        if self.left is not None:
            inside &= columns >= self.left[:, None] - one
        if self.right is not None:
            inside &= columns < self.right[:, None] + other
        if self.top is not None:
            inside &= rows >= self.top[None, :] - one
        if self.bottom is not None:
            inside &= rows < self.bottom[None, :] + other
        return inside.astype(np.uint8) * np.uint8(255)


@dataclass(frozen=True, eq=False)
class Cut:
    """A seam where it lies on the artboard: ``is_level`` where it runs from left to right."""

    seam: Seam
    is_level: bool
    offset: tuple[int, int]
    parts: tuple[int, int]

    @property
    def polyline_mm(self) -> tuple[tuple[float, float], ...]:
        """Corners on the artboard, x and y in mm."""
        mm = MM_PER_INCH / self.seam.ppi
        dx, dy = self.offset[0] * mm, self.offset[1] * mm
        turned = ((y, x) for x, y in self.seam.polyline_mm) if self.is_level else self.seam.polyline_mm
        return tuple((round(x + dx, 4), round(y + dy, 4)) for x, y in turned)


@dataclass(frozen=True, eq=False)
class Split:
    """A print on several sheets; ``turned``: each sheet's medium lies on its side."""

    parts: tuple[Part, ...]
    cuts: tuple[Cut, ...]
    ppi: float
    turned: bool
    rules: SplitRules

    @property
    def crossing_mm(self) -> float:
        """Length over which all seams part printed pixels."""
        return sum(cut.seam.crossing_mm for cut in self.cuts)

    @property
    def lettering_mm(self) -> float:
        return sum(cut.seam.lettering_mm for cut in self.cuts)


def split_print(
    printed: Mask,
    lettering: Mask | None,
    medium: Medium,
    ppi: float,
    rules: SplitRules = BUTT,
    through: Sequence[tuple[Through, ...]] = (),
    check: Callable[[], None] = lambda: None,
    longest_mm: float = 0.0,
) -> Split:
    """Split a print onto sheets of a medium; one part where it fits whole.

    Parameters
    ----------
    printed, lettering
        ``uint8 (H, W)``: the artboard, above 0 where something is printed, and where lettering is.
    through
        Of each seam in the order of ``Split.cuts``, points on the artboard that it goes through, in mm.
    check
        Called between seams; raises to give up.
    longest_mm
        How long a part on a roll may be; 0: as long as it is.

    Raises
    ------
    ValueError
        Nothing is printed, the medium takes nothing, or it would take too many sheets.
    """
    box = bounds(printed)
    if box is None:
        raise ValueError("nothing is printed, so there is nothing to split")
    grid = grid_of(box.width, box.height, medium, ppi, rules, longest_mm)
    worker = _Splitter(printed, lettering, ppi, rules, grid.room_px, check, list(through))
    parts, cuts = worker.split(box, grid.columns, grid.rows)
    return Split(tuple(parts), tuple(cuts), ppi, grid.turned, rules)


class _Splitter:
    def __init__(
        self,
        printed: Mask,
        lettering: Mask | None,
        ppi: float,
        rules: SplitRules,
        room_px: tuple[int, int],
        check: Callable[[], None],
        through: list[tuple[Through, ...]],
    ) -> None:
        self._printed, self._lettering, self._ppi, self._rules = printed, lettering, ppi, rules
        self._room_px, self._check, self._through = room_px, check, through
        self._overlap = overlap_px(rules, ppi)
        self._cuts: list[Cut] = []

    def split(self, box: Box, columns: int, rows: int) -> tuple[list[Part], list[Cut]]:
        parts: list[Part] = []
        levels = self._seams(box, rows, level=True, parts=partial(_rows, columns))
        for row, (top, bottom) in enumerate(_between(levels)):
            band = Box(
                box.left,
                box.top if top is None else int(top.min()) - self._overlap // 2,
                box.right,
                box.bottom if bottom is None else int(bottom.max()) + self._overlap - self._overlap // 2,
            )
            first = row * columns + 1
            seams = self._seams(
                band, columns, level=False, parts=partial(_neighbours, first),
                above=top, below=bottom,
            )  # fmt: skip
            for column, (left, right) in enumerate(_between(seams)):
                parts.append(self._part(band, row, column, (left, right), (top, bottom), first + column))
        return parts, self._cuts

    def _seams(
        self,
        box: Box,
        count: int,
        level: bool,
        parts: Callable[[int], tuple[int, int]],
        above: Columns | None = None,
        below: Columns | None = None,
    ) -> list[Columns]:
        """Seams across a box, in pixels of the artboard, one for each row (or column) of the artboard."""
        own = self._view(self._printed, box, level, above, below)
        letters = None if self._lettering is None else self._view(self._lettering, box, level, above, below)
        length, room = own.shape[1], self._room_px[1 if level else 0]
        start, offset = 0, (box.left, box.top)
        near, far = self._overlap // 2, self._overlap - self._overlap // 2
        out: list[Columns] = []
        for at in range(count - 1):
            self._check()
            left = count - 1 - at
            first = max(start, length + near - (left * room - (left - 1) * self._overlap))
            last = (start - near if at else 0) + room - far
            through = self._own_through(level, offset)
            rules = self._rules
            seam = find_seam(own, letters, self._ppi, first, last, through, rules.bent, rules.step_mm)
            cut = Cut(seam, level, offset, parts(at))
            self._cuts.append(cut)
            out.append(self._on_artboard(seam.columns, box, level))
            start = int(seam.columns.min())
        return out

    def _own_through(self, level: bool, offset: tuple[int, int]) -> tuple[Through, ...]:
        """Points of the next seam, from the corner of what it cuts."""
        index = len(self._cuts)
        points = self._through[index] if index < len(self._through) else ()
        mm = MM_PER_INCH / self._ppi
        moved = [(x - offset[0] * mm, y - offset[1] * mm) for x, y in points]
        return tuple((y, x) if level else (x, y) for x, y in moved)

    def _view(self, mask: Mask, box: Box, level: bool, above: Columns | None, below: Columns | None) -> Mask:
        """A part of a mask, with what belongs to other bands left out; turned where the seam runs level."""
        part = mask[box.top : box.bottom, box.left : box.right]
        if above is not None or below is not None:
            band = Part(0, 0, 0, box, None, None, _cropped(above, box), _cropped(below, box), self._overlap)
            part = np.where(band.mask() > 0, part, 0)
        return np.ascontiguousarray(part.T if level else part)

    def _on_artboard(self, columns: Columns, box: Box, level: bool) -> Columns:
        size = self._printed.shape[1] if level else self._printed.shape[0]
        begin, shift = (box.left, box.top) if level else (box.top, box.left)
        out = np.empty(size, np.int32)
        out[begin : begin + len(columns)] = columns + shift
        out[:begin], out[begin + len(columns) :] = columns[0] + shift, columns[-1] + shift
        return out

    def _part(
        self,
        band: Box,
        row: int,
        column: int,
        sides: tuple[Columns | None, Columns | None],
        ends: tuple[Columns | None, Columns | None],
        number: int,
    ) -> Part:
        near, far = self._overlap // 2, self._overlap - self._overlap // 2
        rows = slice(band.top, band.bottom)
        left, right = (None if side is None else side[rows] for side in sides)
        box = Box(
            band.left if left is None else max(band.left, int(left.min()) - near),
            band.top,
            band.right if right is None else min(band.right, int(right.max()) + far),
            band.bottom,
        )
        top, bottom = (None if end is None else end[box.left : box.right] for end in ends)
        return Part(number, row, column, box, left, right, top, bottom, self._overlap)


def _rows(columns: int, at: int) -> tuple[int, int]:
    """The first parts of a row and the next one."""
    return at * columns + 1, (at + 1) * columns + 1


def _neighbours(first: int, at: int) -> tuple[int, int]:
    return first + at, first + at + 1


def _cropped(seam: Columns | None, box: Box) -> Columns | None:
    return None if seam is None else seam[box.left : box.right]


def _between(seams: list[Columns]) -> list[tuple[Columns | None, Columns | None]]:
    """What lies on both sides of each part."""
    edges: list[Columns | None] = [None, *seams, None]
    return list(pairwise(edges))


def together(parts: Sequence[Part], planes: Sequence[NDArray[np.uint8]], shape: tuple[int, ...]) -> NDArray[np.uint8]:
    """Planes of the parts laid together again; what overlaps is the same on both."""
    out = np.zeros(shape, np.uint8)
    for part, plane in zip(parts, planes, strict=True):
        box = part.box
        np.maximum(
            out[box.top : box.bottom, box.left : box.right], plane, out=out[box.top : box.bottom, box.left : box.right]
        )
    return out


@dataclass(frozen=True)
class Going:
    """One press of a plate over a transfer: its upper left corner on the transfer in mm, and what it covers."""

    x_mm: float
    y_mm: float
    width_mm: float
    height_mm: float


def press_plan(width_mm: float, height_mm: float, plate: Medium, overlap_mm: float = 20.0) -> tuple[Going, ...]:
    """How a heat-press plate goes over a transfer that may be larger: places that overlap, row by row.

    A plate is laid the way it needs fewer goes. The overlap is assumed: what a plate's edge presses poorly.

    >>> plate = Medium("p", "Plate", "plate", 380, 280)
    >>> [(go.x_mm, go.width_mm) for go in press_plan(500, 200, plate)]
    [(0.0, 260.0), (240.0, 260.0)]
    """
    ways = []
    for wide, high in ((plate.width_mm, plate.height_mm), (plate.height_mm, plate.width_mm)):
        across, down = _goes(width_mm, wide, overlap_mm), _goes(height_mm, high, overlap_mm)
        ways.append((len(across) * len(down), across, down))
    _, across, down = min(ways, key=lambda way: way[0])
    return tuple(Going(x, y, width, height) for y, height in down for x, width in across)


def _goes(length: float, room: float, overlap: float) -> list[tuple[float, float]]:
    if length <= room:
        return [(0, length)]
    count = math.ceil((length - overlap) / max(1.0, room - overlap))
    each = (length + (count - 1) * overlap) / count
    return [(round(index * (each - overlap), 3), round(each, 3)) for index in range(count)]
