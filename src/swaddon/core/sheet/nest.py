"""Prints laid by their shape: the arm of a crescent takes a label.

Each print goes where it ends first, searched row by row from the top (bottom-left fill); the order in which prints are
taken, and how they lie, is then varied with a seed (E. Burke et al., "A new bottom-left-fill heuristic algorithm for
the two-dimensional irregular packing problem", Operations Research 54, 2006, describes such a search). A print may lie
where its cells meet no cell of another one widened by the whole spacing.
"""

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from swaddon.core import fast
from swaddon.core.artwork.raster import Mask
from swaddon.core.sheet.boxes import all_boxes, quick_boxes
from swaddon.core.sheet.layout import Area, Layout, Placed, Rules, layout_of
from swaddon.core.sheet.prints import Outline, Turn, cell_px, cells_of

Ints = NDArray[np.int32]

_ENDLESS = 1 << 30
_AT_ONCE = 250
"""Prints that are laid between two questions whether anybody waits: a tenth of a second's worth."""

_SWAPS, _LATE = 0.3, 0.7
"""Shares of the search's steps: two prints change places; up to here, a late one is taken earlier (tried out)."""


@dataclass(frozen=True, eq=False)
class _Choice:
    """One way in which an outline may lie."""

    outline: int
    turn: Turn
    runs: Ints
    fat_runs: Ints
    size: tuple[int, int]
    most: tuple[int, int]


@dataclass(frozen=True, eq=False)
class Prepared:
    """Prints ready to be laid.

    Attributes
    ----------
    choices
        Of each outline, first and last (exclusive) row in ``masks``.
    masks
        Of each way to lie: width and height in cells, first and last (exclusive) row in ``runs``, and the largest x and
        y, in cells, at which it does not stick out of its sheet.
    fats
        First and last (exclusive) row in ``fat_runs``, of each way to lie.
    runs, fat_runs
        Row, begin, end (exclusive) of spans of set cells, from the corner of the print; the widest ``runs`` first.
    """

    outlines: tuple[Outline, ...]
    pieces: tuple[int, ...]
    area: Area
    rules: Rules
    choices: Ints
    masks: Ints
    fats: Ints
    runs: Ints
    fat_runs: Ints
    turns: tuple[Turn, ...]

    @property
    def across(self) -> int:
        """Width of the area in cells."""
        return -(-self.area.width_px // self.cell)

    @property
    def cell(self) -> int:
        return cell_px(self.area.ppi)

    @property
    def sheet_rows(self) -> int:
        """Rows of one sheet in cells; of a roll, more than it can have."""
        return -(-self.area.height_px // self.cell) if self.area.height_px else _ENDLESS


def prepared(outlines: Sequence[Outline], pieces: Sequence[int], area: Area, rules: Rules) -> Prepared:
    """Prints on the grid of cells; ``pieces`` are indices into ``outlines``.

    Raises
    ------
    ValueError
        A print is larger than the area.
    """
    made: list[_Choice] = []
    choices, side = [], cell_px(area.ppi)
    for index, outline in enumerate(outlines):
        first = len(made)
        for turn in rules.allowed:
            made += _choice(outline, index, turn, area, rules, side)
        if len(made) == first:
            raise ValueError(f"print {index + 1} is larger than what can be printed on")
        choices.append((first, len(made)))
    counts = np.cumsum([0, *(len(item.runs) for item in made)])
    fat_counts = np.cumsum([0, *(len(item.fat_runs) for item in made)])
    masks = [(*item.size, counts[index], counts[index + 1], *item.most) for index, item in enumerate(made)]
    return Prepared(
        outlines=tuple(outlines),
        pieces=tuple(pieces),
        area=area,
        rules=rules,
        choices=np.array(choices, np.int32),
        masks=np.array(masks, np.int32),
        fats=np.stack([fat_counts[:-1], fat_counts[1:]], axis=1).astype(np.int32),
        runs=np.concatenate([item.runs for item in made]),
        fat_runs=np.concatenate([item.fat_runs for item in made]),
        turns=tuple(item.turn for item in made),
    )


def _choice(outline: Outline, index: int, turn: Turn, area: Area, rules: Rules, side: int) -> Iterator[_Choice]:
    """An outline turned so; none where it does not fit."""
    if not area.takes(*outline.size_px(turn)):
        return
    cells = cells_of(outline, turn, rules.spacing_mm, rules.fill_rings)
    height, width = cells.thin.shape
    width_px, height_px = outline.size_px(turn)
    most_y = (area.height_px - height_px) // side if area.height_px else _ENDLESS
    runs = runs_of(cells.thin)
    widest = np.argsort(runs[:, 1] - runs[:, 2], kind="stable")
    fat = runs_of(cells.fat) - np.int32(cells.reach)
    most = (area.width_px - width_px) // side, most_y
    yield _Choice(index, turn, np.ascontiguousarray(runs[widest]), fat, (width, height), most)


def runs_of(mask: Mask) -> Ints:
    """Spans of set cells: row, begin, end (exclusive).

    >>> runs_of(np.array([[0, 1, 1, 0, 1]], np.uint8)).tolist()
    [[0, 1, 3], [0, 4, 5]]
    """
    wide = np.pad(mask.astype(np.int8), ((0, 0), (1, 1)))
    steps = np.diff(wide, axis=1)
    rows, begins = np.nonzero(steps == 1)
    _, ends = np.nonzero(steps == -1)
    return np.stack([rows, begins, ends], axis=1).astype(np.int32)


def nest_plain(
    order: Ints,
    first: int,
    choices: Ints,
    masks: Ints,
    fats: Ints,
    runs: Ints,
    fat_runs: Ints,
    sheet_rows: int,
    taken: Mask,
    ends: NDArray[np.int16],
    hints: NDArray[np.int64],
    places: Ints,
) -> int:
    """Lay prints one after the other, each where it ends first; those before ``first`` lie already.

    Parameters
    ----------
    order
        Prints by their row in ``choices``, in the order in which they are laid.
    choices, masks, fats, runs, fat_runs
        See :class:`Prepared`; here ``choices`` has a row for each print.
    sheet_rows
        Rows of one sheet; no print lies across two.
    taken, ends, hints
        Working room, ``(rows, across)``, and a row of two for each of ``masks``; kept from call to call.
    places
        Gets row in ``masks``, y and x in cells, of each print.

    Returns
    -------
    int
        How many lie before the room is full.
    """
    rows, across = taken.shape
    if first == 0:
        taken[...] = ends[...] = hints[...] = 0
    for count, item in enumerate(order[first:], start=first):
        found = []
        for mask in range(*choices[item]):
            place = _first_place(taken, runs[masks[mask, 2] : masks[mask, 3]], masks[mask], sheet_rows)
            if place is not None:
                found.append((place[0] + masks[mask, 1], *place, mask))
        if not found:
            return count
        _, y, x, mask = min(found)
        places[item] = mask, y, x
        sheet = y // sheet_rows * sheet_rows
        for row, begin, end in fat_runs[fats[mask, 0] : fats[mask, 1]]:
            if sheet <= y + row < min(sheet + sheet_rows, rows):
                taken[y + row, max(0, x + begin) : max(0, min(across, x + end))] = 1
    return len(order)


def _first_place(taken: Mask, runs: Ints, mask: Ints, sheet_rows: int) -> tuple[int, int] | None:
    """First place, row by row, at which no run meets a taken cell."""
    height, most_x, most_y = int(mask[1]), int(mask[4]), int(mask[5])
    for y in range(taken.shape[0] - height + 1):
        if y % sheet_rows > most_y:
            continue
        free = np.ones(most_x + 1, bool)
        for row, begin, end in runs:
            sums = np.concatenate([[0], np.cumsum(taken[y + row], dtype=np.int32)])
            free &= sums[end : end + most_x + 1] == sums[begin : begin + most_x + 1]
            if not free.any():
                break
        if free.any():
            return y, int(np.argmax(free))
    return None


class Search:
    """Looks for short layouts: the best so far is ``best``; the same seed takes the same way.

    ``by_box`` is the best layout by boxes so far; the best is never longer. ``check`` is called again and again, and
    raises when nobody waits any more; a search that was left so can be taken up again.
    """

    def __init__(self, ready: Prepared, seed: int = 0, check: Callable[[], None] = lambda: None) -> None:
        self._ready, self.check = ready, check
        self._random = np.random.default_rng(seed)
        self._choices = np.ascontiguousarray(ready.choices[list(ready.pieces)])
        self._rows = self._guessed_rows()
        self.by_box = quick_boxes(ready.outlines, ready.pieces, ready.area, ready.rules)
        self._orders = self._sorted_orders()
        self._order, self._allowed = self._orders[0], self._choices
        self._shape = self._laid(self._order, self._allowed)
        self._late = self._ending_late()
        self.steps = 0

    @property
    def best(self) -> Layout:
        """The shortest layout so far."""
        return min(self._shape[1], self.by_box, key=lambda layout: layout.goal)

    def improve(self, steps: int) -> Iterator[Layout]:
        """Take so many steps; yields the best layout after each."""
        ready = self._ready
        for made in all_boxes(ready.outlines, ready.pieces, ready.area, ready.rules):
            self.by_box = min(self.by_box, made, key=lambda layout: layout.goal)
            yield self.best
        for order in self._orders[1:]:
            self._take(order, self._choices)
            yield self.best
        for _ in range(steps):
            self._take(*self._varied())
            self.steps += 1
            yield self.best

    def _take(self, order: Ints, allowed: Ints) -> None:
        made = self._laid(order, allowed)
        if made[0] <= self._shape[0]:
            self._order, self._allowed, self._shape = order, allowed, made
            self._late = self._ending_late()

    def _ending_late(self) -> Ints:
        """The prints that end last, a tenth of them and one more."""
        layout, ready = self._shape[1], self._ready
        ends = [
            (item.sheet, item.y_px + ready.outlines[ready.pieces[item.piece]].size_px(item.turn)[1])
            for item in layout.placed
        ]
        order = sorted(range(len(ends)), key=lambda piece: ends[piece], reverse=True)
        return np.array(order[: len(order) // 10 + 1], np.int32)

    def _varied(self) -> tuple[Ints, Ints]:
        """The order of now with some prints moved, and now and then one held to one way to lie."""
        order, allowed = self._order.copy(), self._allowed
        count = len(order)
        for _ in range(1 + int(self._random.integers(3))):
            one, other = (int(value) for value in self._random.integers(count, size=2))
            kind = self._random.random()
            if kind < _SWAPS:
                order[one], order[other] = order[other], order[one]
                continue
            if kind < _LATE:  # a print that ends late is taken earlier
                late = int(self._late[int(self._random.integers(len(self._late)))])
                one = int(np.flatnonzero(order == late)[0])
                other = int(self._random.integers(one + 1))
            moved = order[one]
            order = np.insert(np.delete(order, one), other, moved)
        if self._ready.rules.turns and self._random.random() < 0.5:
            allowed, item = allowed.copy(), int(self._random.integers(count))
            first, last = self._choices[item]
            allowed[item] = first, last
            if last - first > 1 and self._random.random() < 0.7:
                only = first + int(self._random.integers(last - first))
                allowed[item] = only, only + 1
        return np.ascontiguousarray(order, np.int32), allowed

    def _laid(self, order: Ints, allowed: Ints) -> tuple[tuple[int, int, float], Layout]:
        """The layout of an order, and what is least in the best one."""
        ready = self._ready
        while True:
            places = np.zeros((len(order), 3), np.int32)
            if self._fits(order, allowed, places):
                break
            self._rows *= 2
            if ready.area.height_px:
                self._rows = -(-self._rows // ready.sheet_rows) * ready.sheet_rows
        layout = self._layout(places)
        # of two equally long ones, the one whose prints lie higher is nearer to a shorter one
        return (*layout.goal, float(places[:, 1].astype(np.int64).sum())), layout

    def _fits(self, order: Ints, allowed: Ints, places: Ints) -> bool:
        """Lay prints in some rows, by and by; whether they are enough."""
        ready, laid = self._ready, 0
        taken = np.zeros((self._rows, ready.across), np.uint8)
        ends, hints = np.zeros(taken.shape, np.int16), np.zeros((len(ready.masks), 2), np.int64)
        while laid < len(order):
            self.check()
            wanted = min(laid + _AT_ONCE, len(order))
            laid = fast.chosen("nest", nest_plain)(
                order[:wanted], laid, allowed, ready.masks, ready.fats, ready.runs, ready.fat_runs,
                min(ready.sheet_rows, self._rows), taken, ends, hints, places,
            )  # fmt: skip
            if laid < wanted:
                return False
        return True

    def _layout(self, places: Ints) -> Layout:
        ready, side = self._ready, self._ready.cell
        placed = []
        for piece, (mask, y, x) in enumerate(places.tolist()):
            sheet, row = divmod(y, ready.sheet_rows)
            placed.append(Placed(piece, sheet, x * side, row * side, ready.turns[mask]))
        return layout_of(ready.outlines, ready.pieces, placed, "shape")

    def _guessed_rows(self) -> int:
        ready = self._ready
        sizes = [ready.masks[ready.choices[piece][0]][:2].astype(np.int64) + 6 for piece in ready.pieces]
        total = sum(int(width * height) for width, height in sizes)
        rows = round(1.6 * total / ready.across) + 2 * max(int(max(size)) for size in sizes)
        if ready.area.height_px:
            rows = -(-rows // ready.sheet_rows) * ready.sheet_rows
        return rows

    def _sorted_orders(self) -> list[Ints]:
        """Orders to begin with: large before small, by several measures."""
        ready = self._ready
        first = ready.masks[self._choices[:, 0]].astype(np.int64)
        width, height = first[:, 0], first[:, 1]
        ink = np.array([outline.printed_px for outline in ready.outlines])[list(ready.pieces)]
        measures = (width * height, np.maximum(width, height), height, ink, width)
        return [np.argsort(-measure, kind="stable").astype(np.int32) for measure in measures]
