"""Prints of several jobs on shared sheets: laid, counted, and each given its share of the medium by area."""

import math
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace
from itertools import accumulate

from swaddon.core.sheet.boxes import best_boxes
from swaddon.core.sheet.layout import MOST_PRINTS, Area, Layout, Rules, Way, spacing_px
from swaddon.core.sheet.media import Medium
from swaddon.core.sheet.nest import Search, prepared
from swaddon.core.sheet.prints import Outline, Turn
from swaddon.core.units import mm_from_px


@dataclass(frozen=True, eq=False)
class Item:
    """A print with how often it is wanted.

    Attributes
    ----------
    title
        What it is called where it does not fit.
    group
        Prints of different groups never share a sheet.
    """

    title: str
    outline: Outline
    copies: int = 1
    group: str = ""


@dataclass(frozen=True)
class Spot:
    """One copy on a sheet, both counted from 1; x and y are those of the box round its printed pixels, from the upper
    left of the printable area."""

    item: int
    copy: int
    sheet: int
    x_px: int
    y_px: int
    turn: Turn = 0


@dataclass(frozen=True, eq=False)
class Gang:
    """Prints on their sheets.

    ``lengths_px`` tells of each sheet how far down it is printed, ``groups`` whose prints it holds.
    """

    items: tuple[Item, ...]
    medium: Medium
    area: Area
    rules: Rules
    spots: tuple[Spot, ...]
    lengths_px: tuple[int, ...]
    groups: tuple[str, ...]
    way: Way

    @property
    def sheets(self) -> int:
        return len(self.lengths_px)

    @property
    def used_mm(self) -> tuple[float, ...]:
        """Length of medium that each sheet takes: on a roll to the last print, with the rims; else the whole sheet."""
        if not self.medium.is_roll:
            return (self.medium.height_mm,) * self.sheets
        return self.printed_mm

    @property
    def printed_mm(self) -> tuple[float, ...]:
        """How far down each sheet is printed, from its upper edge, with the rim below, as it is written."""
        rims = self.area.top_px + self.area.bottom_px
        return tuple(mm_from_px(rims + length, self.area.ppi) for length in self.lengths_px)

    @property
    def film_mm2(self) -> float:
        """Medium that goes."""
        return sum(self.used_mm) * self.medium.width_mm

    @property
    def filled_share(self) -> float:
        """Share of the medium that the prints' own areas fill, 0..1."""
        own = sum(self._area_mm2(item) * item.copies for item in self.items)
        return own / self.film_mm2 if self.film_mm2 else 0.0

    def _area_mm2(self, item: Item) -> float:
        return item.outline.printed_px * mm_from_px(1, self.area.ppi) ** 2

    def film_of(self, item: int) -> float:
        """Medium in mm² that one copy of an item (from 0) takes: what its sheets take, parted by area."""
        return self.share_of(item, [length * self.medium.width_mm for length in self.used_mm])

    def share_of(self, item: int, of_sheets: Sequence[float]) -> float:
        """What one copy of an item (from 0) takes of something that each sheet takes, on the mean of its copies.

        It is parted by area: that of the outlines with half the spacing round them, so that small prints bear what they
        need.
        """
        claims, totals = self._claims(), [0.0] * self.sheets
        for spot in self.spots:
            totals[spot.sheet - 1] += claims[spot.item]
        own = [
            of_sheets[spot.sheet - 1] * claims[item] / totals[spot.sheet - 1]
            for spot in self.spots
            if spot.item == item
        ]
        return sum(own) / len(own) if own else 0.0

    def _claims(self) -> list[float]:
        half = spacing_px(self.rules, self.area.ppi) / 2
        out = []
        for item in self.items:
            width, height = item.outline.size_px()
            rim = (width + height) * 2 * half + math.pi * half * half
            out.append(item.outline.printed_px + min(rim, (width + 2 * half) * (height + 2 * half)))
        return out

    def moved(self, spot: Spot, to: Spot) -> "Gang":
        """The same sheets with one print elsewhere."""
        spots = tuple(to if other == spot else other for other in self.spots)
        return replace(self, spots=spots, lengths_px=lengths_of(self.items, spots, self.sheets))


def lengths_of(items: Sequence[Item], spots: Sequence[Spot], sheets: int) -> tuple[int, ...]:
    """How far down each sheet is printed, in pixels."""
    lengths = [0] * sheets
    for spot in spots:
        bottom = spot.y_px + items[spot.item].outline.size_px(spot.turn)[1]
        lengths[spot.sheet - 1] = max(lengths[spot.sheet - 1], bottom)
    return tuple(lengths)


class GangSearch:
    """Lays prints, and looks for shorter layouts; the same seed gives the same sheets.

    ``check`` is called again and again, and raises when nobody waits any more.

    Raises
    ------
    ValueError
        Nothing is to be laid, too much is, or a print is larger than the medium; the text names it.
    """

    def __init__(
        self, items: Sequence[Item], medium: Medium, ppi: float, rules: Rules, way: Way = "shape", seed: int = 0,
        check: Callable[[], None] = lambda: None,
    ) -> None:  # fmt: skip
        self._items, self._medium, self._rules, self._way = tuple(items), medium, rules, way
        self._area = Area.of(medium, ppi)
        self._check()
        self._searches: list[tuple[str, tuple[int, ...], Search | Layout]] = []
        for group in sorted({item.group for item in self._items}):
            own = [index for index, item in enumerate(self._items) if item.group == group]
            pieces = tuple(index for index in own for _ in range(self._items[index].copies))
            outlines = [item.outline for item in self._items]
            if way == "box":
                found: Search | Layout = best_boxes(outlines, pieces, self._area, rules)
            else:
                place = {index: at for at, index in enumerate(own)}
                ready = prepared(
                    [outlines[index] for index in own], [place[piece] for piece in pieces], self._area, rules
                )
                found = Search(ready, seed, check)
            self._searches.append((group, pieces, found))

    def _check(self) -> None:
        count = sum(item.copies for item in self._items)
        if not count:
            raise ValueError("there is nothing to lay on a sheet")
        if self._medium.kind == "plate":
            raise ValueError(f"{self._medium.title} is a heat-press plate: nothing is printed on it")
        if count > MOST_PRINTS:
            most = max(self._items, key=lambda item: item.copies)
            raise ValueError(
                f"{most.title}: {count} prints are too many for one run (at most {MOST_PRINTS}): lay them in several"
            )
        for item in self._items:
            if not any(self._area.takes(*item.outline.size_px(turn)) for turn in self._rules.allowed):
                raise ValueError(self._too_large(item))

    def _too_large(self, item: Item) -> str:
        ppi = self._area.ppi
        width, height = (mm_from_px(side, ppi) for side in item.outline.size_px())
        room = [f"{mm_from_px(side, ppi):.0f}" for side in (self._area.width_px, self._area.height_px) if side]
        fits = self._area.takes(*item.outline.size_px(90))
        hint = "let prints be turned, or " if fits else ""
        return (
            f"{item.title} prints {width:.0f} × {height:.0f} mm, more than {self._medium.title} takes "
            f"({' × '.join(room)} mm): {hint}take a larger medium, print it smaller, or split it"
        )

    @property
    def best(self) -> Gang:
        """The best sheets so far."""
        return self._gang([found if isinstance(found, Layout) else found.best for _, _, found in self._searches])

    @property
    def by_box(self) -> Gang:
        """What boxes would take."""
        return self._gang([found if isinstance(found, Layout) else found.by_box for _, _, found in self._searches])

    def improve(self, steps: int, check: Callable[[], None] = lambda: None) -> Iterator[None]:
        """Take so many steps in each group; yields after each, and asks ``check`` in between."""
        for _, _, found in self._searches:
            if isinstance(found, Search):
                found.check = check
                for _ in found.improve(steps):
                    yield

    def _gang(self, layouts: Sequence[Layout]) -> Gang:
        first = [0, *accumulate(layout.sheets for layout in layouts)]
        spots: list[Spot] = []
        for (_, pieces, _), layout, before in zip(self._searches, layouts, first, strict=False):
            copies: dict[int, int] = {}
            for placed in layout.placed:
                item = pieces[placed.piece]
                copies[item] = copies.get(item, 0) + 1
                spots.append(Spot(item, copies[item], before + placed.sheet + 1, placed.x_px, placed.y_px, placed.turn))
        return Gang(
            items=self._items,
            medium=self._medium,
            area=self._area,
            rules=self._rules,
            spots=tuple(spots),
            lengths_px=tuple(length for layout in layouts for length in layout.lengths_px),
            groups=tuple(
                group
                for (group, _, _), layout in zip(self._searches, layouts, strict=True)
                for _ in range(layout.sheets)
            ),
            way="box" if all(layout.way == "box" for layout in layouts) else "shape",
        )


def steps_for(pieces: int) -> int:
    """How many steps a search takes by itself: some seconds' worth, the same on every machine.

    >>> steps_for(10), steps_for(400)
    (400, 30)
    """
    return max(30, min(400, 8_000 // max(1, pieces)))
