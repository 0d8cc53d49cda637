"""The page of a test print: what stands where, in mm from its upper left corner.

With white it is made for a black card (or black cloth), where only white shows by itself; a press without white prints
it on white paper. A figure is what shows there: all whites together, or the darkest of the inks.
"""

import datetime
import math
from collections.abc import Iterator
from dataclasses import dataclass
from functools import cached_property

from swaddon.core.press.profile import INKS, PressProfile, Slot

REVISION = 1
"""Raised when anything on the page moves: a page of another revision is refused."""

WIDTH_MM = 190.0
TONES = tuple(step / 10 for step in range(11))
"""Tones of the steps of dot gain, white amount."""

WIDTHS_MM = (0.05, 0.08, 0.1, 0.12, 0.15, 0.2, 0.25, 0.3, 0.4, 0.5)
"""Widths of thin lines and gaps, diameters of dots and holes."""

CHOKES_MM = tuple(round(step * 0.05, 2) for step in range(11))
COVERAGES = tuple(range(100, 401, 50))
"""Total coverages of the ladder, percent."""

RULINGS_LPI = (20.0, 27.0, 35.0, 45.0, 55.0)
SHARES = (0.5, 0.6, 0.7, 0.8, 0.9)
"""Shares of print that the holes of the ladder leave."""

NOZZLES, NOZZLE_MM, NOZZLE_COLUMNS = 64, 25.4 / 180, 8
"""Lines per ink, their pitch (180 nozzles per inch, assumed), and the columns that they are spread over."""

PERIOD_MM = 1.0
"""Period of the gratings that tell where white and colour lie."""

NOZZLE_RIM_MM = 0.7
"""White round a block of lines, on which colour that lies out of its place still shows."""

VERNIER_MM, VERNIER_STEPS = 0.05, 10
"""What one line of the vernier is worth, and the lines on each side of its middle."""

MARKER_MM, MARKER_RIM_MM = 8.0, 1.0
CELL_MM, TINT_MM, PATCH_MM = 6.0, 7.0, 5.0
CODE_CELL_MM, CODE_COLUMNS, CODE_ROWS = 1.2, 12, 9
_CLUSTER_COLUMNS = 3


@dataclass(frozen=True)
class Box:
    """A part of the page."""

    x: float
    y: float
    width: float
    height: float

    @property
    def middle(self) -> tuple[float, float]:
        return self.x + self.width / 2, self.y + self.height / 2

    def inset(self, by: float) -> "Box":
        """Smaller on each side."""
        return Box(self.x + by, self.y + by, self.width - 2 * by, self.height - 2 * by)

    def meets(self, other: "Box") -> bool:
        """Whether they overlap."""
        return (
            self.x < other.x + other.width - 1e-9
            and other.x < self.x + self.width - 1e-9
            and self.y < other.y + other.height - 1e-9
            and other.y < self.y + self.height - 1e-9
        )


@dataclass(frozen=True)
class Marker:
    """A fiducial: one slot's in one corner. ``number`` is that of the ArUco code."""

    number: int
    slot: int
    box: Box


@dataclass(frozen=True)
class Target:
    """Where white and colour are held against each other: a square for the rough place, gratings for the fine one.

    The gratings are in three strips: white bars, dark bars on white, white bars, so that what a scanner does from one
    side to the other cancels.
    """

    square: Box
    across: tuple[Box, Box, Box]
    down: tuple[Box, Box, Box]


@dataclass(frozen=True)
class Page:
    """A test page of a press.

    Attributes
    ----------
    press
        Name of the press profile.
    slots
        The slots whose inks print, from the left; every number of a channel counts in this.
    day
        When the page was made.
    """

    press: str
    slots: tuple[Slot, ...]
    day: datetime.date
    has_nozzles: bool

    @cached_property
    def whites(self) -> tuple[int, ...]:
        """Channels of the white that goes under colour."""
        return tuple(at for at, slot in enumerate(self.slots) if slot.role == "white")

    @cached_property
    def highlights(self) -> tuple[int, ...]:
        """Channels of highlight white."""
        return tuple(at for at, slot in enumerate(self.slots) if slot.role == "highlight")

    @cached_property
    def colours(self) -> tuple[int, ...]:
        """Channels of the colour inks, in the order of ``INKS``."""
        held = [(INKS.index(slot.ink), at) for at, slot in enumerate(self.slots) if slot.role == "colour"]
        return tuple(at for _, at in sorted(held))

    @cached_property
    def dark(self) -> tuple[int, ...]:
        """Channels of what is dark: black, or all inks together."""
        black = tuple(at for at in self.colours if self.slots[at].ink == "K")
        return black or self.colours

    @property
    def figure(self) -> tuple[int, ...]:
        """Channels of what shows on the card by itself."""
        return self.whites or self.dark

    @property
    def inks(self) -> tuple[str, ...]:
        return tuple(slot.ink for slot in self.slots)

    # the frame: fiducials and codes

    @property
    def _marked(self) -> tuple[int, ...]:
        """Channels that have fiducials and codes of their own; on paper one set of all inks."""
        return tuple(range(len(self.slots))) if self.whites else (0,)

    @property
    def cluster(self) -> tuple[float, float]:
        """Width and height of a corner's fiducials."""
        pitch = MARKER_MM + 2 * MARKER_RIM_MM
        return pitch * _CLUSTER_COLUMNS, pitch * math.ceil(len(self._marked) / _CLUSTER_COLUMNS)

    @cached_property
    def markers(self) -> tuple[Marker, ...]:
        pitch = MARKER_MM + 2 * MARKER_RIM_MM
        width, height = self.cluster
        out = []
        for corner in range(4):
            left = WIDTH_MM - width if corner % 2 else 0.0
            top = self.height_mm - height if corner // 2 else 0.0
            for place, slot in enumerate(self._marked):
                x, y = left + place % _CLUSTER_COLUMNS * pitch, top + place // _CLUSTER_COLUMNS * pitch
                out.append(Marker(corner * 12 + slot, slot, Box(x + 1, y + 1, MARKER_MM, MARKER_MM)))
        return tuple(out)

    @cached_property
    def codes(self) -> tuple[Box, ...]:
        """One strip of code cells per marked channel."""
        width, height = CODE_COLUMNS * CODE_CELL_MM, CODE_ROWS * CODE_CELL_MM
        return tuple(
            Box(35.0 + at % 6 * (width + 5.6), 1.0 + at // 6 * (height + 2.4), width, height)
            for at in range(len(self._marked))
        )

    @property
    def title_mm(self) -> tuple[float, float]:
        """Where the lines of words begin."""
        last = self.codes[-1]
        return 35.0, last.y + last.height + 1.6

    # the rows of the page

    @property
    def _top(self) -> float:
        return max(self.cluster[1], self.title_mm[1] + 6.0) + 3.0

    @property
    def _matrix_mm(self) -> float:
        return CELL_MM * len(self.slots) if self.whites else 0.0

    @property
    def _rows(self) -> tuple[float, float, float, float, float]:
        """Tops of the rows: targets, matrix and tints, nozzles and ladders, targets, screens and fine detail."""
        first = self._top
        second = first + 14.0
        nozzles = NOZZLES * NOZZLE_MM
        least = second + max(self._matrix_mm, 4 * TINT_MM + 7) + 3.0
        third = math.ceil(least / nozzles) * nozzles  # so that the first line of a block is the first nozzle
        fourth = third + max((2 * math.ceil(len(self.slots) / 3) - 1) * nozzles, 33.0) + 5.0
        return first, second, third, fourth, fourth + 15.0

    @cached_property
    def height_mm(self) -> float:
        """Height of the page: that of one sheet where there are up to six inks."""
        return max(262.0, self._rows[4] + 82.0 + 14.0 + self.cluster[1])

    @cached_property
    def matrix(self) -> tuple[tuple[Box, ...], ...]:
        """Cell of slot i then j, where white lies under every ink in turn."""
        top = self._rows[1]
        count = len(self.slots) if self.whites else 0
        return tuple(
            tuple(Box(j * CELL_MM, top + i * CELL_MM, CELL_MM, CELL_MM) for j in range(count)) for i in range(count)
        )

    @cached_property
    def targets(self) -> tuple[Target, ...]:
        """Corners, and middles of the sides."""
        if not self.whites:
            return ()
        first, _, _, fourth, _ = self._rows
        bottom = self.height_mm - self.cluster[1] - 13.0
        places = [(x, y) for y in (first, bottom) for x in (0.0, 78.0, 156.0)]
        return tuple(_target(x, y) for x, y in (*places, (0.0, fourth), (156.0, fourth)))

    @cached_property
    def tints(self) -> dict[int, tuple[Box, ...]]:
        """Steps of dot gain by colour channel, on white; twice, so that uneven light and wear cancel."""
        left, top = max(self._matrix_mm, 36.0) + 7.0, self._rows[1]
        return {channel: _steps(left + TINT_MM, top + row * TINT_MM) for row, channel in enumerate(self.colours)}

    @cached_property
    def tints_again(self) -> dict[int, tuple[Box, ...]]:
        """The same steps, the other way round and at another place."""
        top = self._rows[4] + 52.0
        return {channel: _steps(46.0, top + row * TINT_MM)[::-1] for row, channel in enumerate(self.colours[::-1])}

    @cached_property
    def hits(self) -> dict[tuple[int, ...], tuple[Box, ...]]:
        """Each white by itself, then all that goes under colour, over the bare card; each twice."""
        if not self.whites:
            return {}
        sets: list[tuple[int, ...]] = [(channel,) for channel in (*self.whites, *self.highlights)]
        if len(self.whites) > 1:
            sets.append(self.whites)
        left, (first, second) = 144.0, (0.0, 26.0)
        if self._matrix_mm > 36:  # beside a large matrix, below the tints
            left, (first, second) = 80.0, (44.0, 58.0)
        step = min(9.0, (189.0 - left) / len(sets), 45.0 / len(sets) if left > 100 else 9.0)
        top, last = self._rows[1], len(sets) - 1
        return {
            one: (
                Box(left + at * step, top + first, step, 8.0),
                Box(left + (last - at) * step, top + second, step, 8.0),
            )
            for at, one in enumerate(sets)
        }

    @cached_property
    def flats(self) -> tuple[Box, ...]:
        """Patches that are alike all over the page, to find out how evenly it is lit."""
        first, second, third, fourth, fifth = self._rows
        left = next(iter(self.tints.values()))[0].x - TINT_MM
        under = second + TINT_MM * len(self.colours) + 1.5
        strip = [(left + at * 13.0, under) for at in range(8)]
        side = [(185.0, second + 10.0), (185.0, third + 12.0), (185.0, fifth + 10), (185.0, fifth + 40)]
        beside = [(37.0, first + 3), (146.0, first + 3), (38.0, fourth + 3), (147.0, fourth + 3)]
        low = self.height_mm - self.cluster[1] - 10.0
        last = [(37.0, low), (146.0, low), (0.0, fifth + 43), (42.0, fifth + 43), (84.0, fifth + 43)]
        return tuple(Box(x, y, PATCH_MM, PATCH_MM) for x, y in (*strip, *side, *beside, *last))

    @cached_property
    def nozzles(self) -> dict[int, Box]:
        """A block of lines per channel; line k is printed by nozzle k."""
        if not self.has_nozzles:
            return {}
        top, height = self._rows[2], NOZZLES * NOZZLE_MM
        return {at: Box(at % 3 * 27.2 + 0.7, top + at // 3 * 2 * height, 25.6, height) for at in range(len(self.slots))}

    def nozzle_line(self, channel: int, number: int) -> Box:
        """The line of a nozzle."""
        block = self.nozzles[channel]
        width = block.width / NOZZLE_COLUMNS
        column = number % NOZZLE_COLUMNS
        return Box(block.x + column * width + 0.2, block.y + number * NOZZLE_MM, width - 0.4, NOZZLE_MM)

    @cached_property
    def white_ladder(self) -> tuple[Box, ...]:
        return self._ladder(88.0, self._rows[2], len(TONES)) if self.whites else ()

    @cached_property
    def coverage_ladder(self) -> tuple[Box, ...]:
        return self._ladder(88.0, self._rows[2] + 12.0, len(COVERAGES))

    @cached_property
    def choke_ladder(self) -> tuple[Box, ...]:
        return self._ladder(88.0, self._rows[2] + 24.0, len(CHOKES_MM)) if self.whites else ()

    def _ladder(self, x: float, y: float, steps: int) -> tuple[Box, ...]:
        return tuple(Box(x + at * 8.5, y, 7.0, 7.0) for at in range(steps))

    @cached_property
    def screens(self) -> tuple[tuple[Box, ...], ...]:
        """Holes by ruling, downwards, and by the share of print that they leave."""
        top = self._rows[4]
        return tuple(
            tuple(Box(at * 8.5, top + row * 8.5, 7.5, 7.5) for at in range(len(SHARES)))
            for row in range(len(RULINGS_LPI))
        )

    @cached_property
    def fine(self) -> dict[str, Box]:
        """Fine detail: lines, gaps, dots and holes of ``WIDTHS_MM``, one below the other."""
        top = self._rows[4]
        return {
            kind: Box(46.0, top + row * 10.5, 2.6 * len(WIDTHS_MM) + 1.0, 8.5)
            for row, kind in enumerate(("line", "gap", "dot", "hole"))
        }

    def fine_place(self, kind: str, at: int) -> Box:
        """Where the feature of the width at ``at`` stands, with room about it."""
        field = self.fine[kind]
        return Box(field.x + 0.5 + 2.6 * at, field.y + 1.0, 2.6, field.height - 2.0)

    @cached_property
    def verniers(self) -> dict[str, Box]:
        """Verniers that tell by eye how far white lies to the right (across) and down."""
        if not self.whites:
            return {}
        top = self._rows[4]
        length = 2 * VERNIER_STEPS + 4.0
        return {"across": Box(78.0, top + 1, length, 10.0), "down": Box(108.0, top, 10.0, length)}

    @property
    def letters(self) -> Box:
        """Where small letters stand."""
        return Box(122.0, self._rows[4], 60.0, 40.0)

    def every_box(self) -> Iterator[tuple[str, Box]]:
        """Everything on the page with a name; no two overlap (but for patches that share an edge)."""
        for marker in self.markers:
            yield f"marker {marker.number}", Box(marker.box.x - 1, marker.box.y - 1, 10, 10)
        for at, code in enumerate(self.codes):
            yield f"code {at}", code
        for at, target in enumerate(self.targets):
            yield f"target {at}", target.square
            for part in (*target.across, *target.down):
                yield f"target {at}", part
        named = {
            "cell": [cell for line in self.matrix for cell in line],
            "tint": [box for strips in (self.tints, self.tints_again) for line in strips.values() for box in line],
            "hit": [box for pair in self.hits.values() for box in pair],
            "screen": [box for line in self.screens for box in line],
            "flat": self.flats,
            "nozzles": self.nozzles.values(),
            "white": self.white_ladder,
            "coverage": self.coverage_ladder,
            "choke": self.choke_ladder,
            "fine": self.fine.values(),
            "vernier": self.verniers.values(),
            "letters": (self.letters,),
        }
        for name, boxes in named.items():
            for box in boxes:
                yield name, box


def _steps(x: float, y: float) -> tuple[Box, ...]:
    return tuple(Box(x + TINT_MM * at, y, TINT_MM, TINT_MM) for at in range(len(TONES)))


def _target(x: float, y: float) -> Target:
    across = (Box(x + 11, y, 11, 3), Box(x + 11, y + 3, 11, 4), Box(x + 11, y + 7, 11, 3))
    down = (Box(x + 23, y, 3.5, 11), Box(x + 26.5, y, 4, 11), Box(x + 30.5, y, 3.5, 11))
    return Target(Box(x, y, 10, 10), across, down)


def page_for(press: PressProfile, day: datetime.date) -> Page:
    """The test page of a press with its line-up."""
    slots = tuple(sorted(press.slots, key=lambda slot: slot.number))
    return Page(press.name, slots, day, has_nozzles=press.printing.colourant == "ink")
