"""A shop as its work flows: what it has of each resource, when it is open, and the stages of each process."""

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from functools import cache

from swaddon.core.press.working import ALL, Gets, is_once

PRINTER, PRESS, OVEN, PRETREATER, HANDS = "printer", "heat-press", "oven", "pretreater", "hands"
PLATEN = "platen"
RESOURCES = (PRINTER, PRESS, OVEN, PRETREATER, HANDS, PLATEN)
"""What a shop has some of; the keys of its counts. Without platens, goods are loaded on the printer itself."""


def word_for(resource: str) -> str:
    """A resource in a sentence.

    >>> word_for("heat-press")
    'heat press'
    """
    return resource.replace("-", " ")


@cache
def is_printer(machine: str) -> bool:
    """Whether a machine prints: the shop's printers, or those of one kind, such as ``film-printer``."""
    return machine == PRINTER or machine.endswith(f"-{PRINTER}")


Span = tuple[float, float]
"""Begin and end in minutes of the day."""

_DAY_S = 86_400.0


@dataclass(frozen=True)
class Stage:
    """One stage of a piece (of a gang, where ``is_gang``).

    Attributes
    ----------
    name
        What is done.
    machine
        Resource that is held; empty: a table, a rack.
    hands_s, machine_s, after_s
        Seconds of a pair of hands before the machine runs, of the machine by itself, and of hands after it while it is
        still held. A printer's ``machine_s`` is that of each print, of whatever is being printed.
    attended
        A pair of hands stays while the machine runs.
    rests_s
        Seconds that the piece lies by itself afterwards, to cool or dry.
    is_gang
        Done for all pieces of a gang at once.
    only_pretreated
        Left out for pieces that are not pretreated.
    on_platen
        At a printer: goods are loaded on a platen, which waits for the printer where the shop counts its platens.
    """

    name: str
    machine: str = ""
    hands_s: float = 0.0
    machine_s: float = 0.0
    after_s: float = 0.0
    attended: bool = False
    rests_s: float = 0.0
    is_gang: bool = False
    only_pretreated: bool = False
    on_platen: bool = False

    def is_done(self, gets: Gets) -> bool:
        """Whether a piece that gets so much goes through it.

        >>> Stage("Second pass, feed again").is_done(Gets(white=False, pretreated=True))
        False
        """
        return (gets.pretreated or not self.only_pretreated) and not self.name.lower().startswith(gets.undone)

    def for_parts(self, parts: int) -> "Stage":
        """The same stage for a print of several parts.

        >>> [Stage(name, hands_s=8).for_parts(2).hands_s for name in ("Peel", "Fold and pack")]
        [16, 8]
        """
        if parts == 1 or is_once(self.name):
            return self
        hands_s, machine_s, after_s = parts * self.hands_s, parts * self.machine_s, parts * self.after_s
        return replace(self, hands_s=hands_s, machine_s=machine_s, after_s=after_s)


@dataclass(frozen=True)
class Shop:
    """A shop.

    Attributes
    ----------
    counts
        How many of each resource; a resource that is not named is not there.
    routes
        Stages by process, in order; the one on a printer is the print.
    gangs
        By process, how many pieces are printed, powdered and cured as one; 1 where nothing is said.
    rack
        Pieces that may be in work at once, those at machines included.
    held_platen
        A printed garment stays on its platen, and so on its printer where platens are not counted, until the next
        machine is free.
    open, breaks
        Hours of the day in which work goes on, and pauses in them.
    stop_share, stop_s
        Share of its time that a printer stands still for cleaning and faults, and how long a stop takes.
    change_s
        Hands at a printer when it begins another order.
    swaps
        By process, hands at the printer once for each order that has white: a cartridge taken out and put back.
    refill_every, refill_s
        Pieces after which film, ink or cartridge is changed (0: never), and the hands it takes.
    spoilage_share
        Pieces that are thrown away and done again.
    hand_scatter, machine_scatter
        Standard deviations of times from piece to piece, as shares.
    """

    name: str
    counts: Mapping[str, int]
    routes: Mapping[str, tuple[Stage, ...]]
    gangs: Mapping[str, int] = field(default_factory=dict)
    rack: int = 24
    held_platen: bool = False
    open: tuple[Span, ...] = ((480.0, 1020.0),)
    breaks: tuple[Span, ...] = ()
    stop_share: float = 0.0
    stop_s: float = 90.0
    change_s: float = 0.0
    swaps: Mapping[str, float] = field(default_factory=dict)
    refill_every: int = 0
    refill_s: float = 0.0
    spoilage_share: float = 0.0
    hand_scatter: float = 0.0
    machine_scatter: float = 0.0

    def with_count(self, resource: str, count: int) -> "Shop":
        """The same shop with another number of a resource."""
        return replace(self, counts={**self.counts, resource: count})

    def route(self, process: str, gets: Gets = ALL) -> tuple[Stage, ...]:
        """Stages of a piece; where platens are counted, a print on one is loaded, printed and unloaded apart.

        Stages of work that it does not get are left out, by ``only_pretreated`` or by their names as in a profile's
        figures; what a print that is split onto several sheets takes, each stage takes for each of its parts.

        >>> stage = Stage("Print", PRINTER, hands_s=14, after_s=6, on_platen=True)
        >>> shop = Shop("", {PRINTER: 1, PLATEN: 2}, {"direct": (stage,)})
        >>> [(each.name, each.machine, each.hands_s) for each in shop.route("direct")]
        [('Load', 'platen', 14), ('Print', 'printer', 0.0), ('Unload', 'platen', 6)]
        """
        out: list[Stage] = []
        done = (stage for stage in self.routes[process] if stage.is_done(gets))
        for stage in (item.for_parts(gets.parts) for item in done):
            if stage.on_platen and self.counts.get(PLATEN):
                out += [
                    Stage("Load", PLATEN, stage.hands_s, is_gang=stage.is_gang),
                    replace(stage, hands_s=0.0, after_s=0.0, rests_s=0.0),
                    Stage("Unload", PLATEN, stage.after_s, rests_s=stage.rests_s, is_gang=stage.is_gang),
                ]
            else:
                out.append(stage)
        return tuple(out)

    def can(self, process: str) -> bool:
        """Whether it has every machine that a process needs."""
        return process in self.routes and all(
            not stage.machine or self.counts.get(stage.machine) for stage in self.routes[process]
        )

    def without(self, resource: str) -> "Shop":
        """The same shop without a resource."""
        return replace(self, counts={name: count for name, count in self.counts.items() if name != resource})

    def fixed(self) -> "Shop":
        """The same shop where every time is what it is stated to be, and nothing goes wrong."""
        return replace(self, hand_scatter=0.0, machine_scatter=0.0, spoilage_share=0.0)

    def slower_hands(self, share: float) -> "Shop":
        """The same shop with hands that take longer by a share."""
        return replace(
            self,
            routes={
                process: tuple(
                    replace(stage, hands_s=stage.hands_s * (1 + share), after_s=stage.after_s * (1 + share))
                    for stage in route
                )
                for process, route in self.routes.items()
            },
        )

    @property
    def spans(self) -> tuple[Span, ...]:
        """Open hours of one day without the breaks, in seconds."""
        out = []
        for start, end in sorted(self.open):
            at = start
            for pause, until in sorted(self.breaks):
                if at < pause < end:
                    out.append((at, pause))
                if start <= until and pause < end:
                    at = max(at, until)
            if at < end:
                out.append((at, end))
        return tuple((start * 60, end * 60) for start, end in out if end > start)

    def clock(self, work_s: float) -> float:
        """Time of day, in s from midnight of the first day, when so much work is done; days follow each other.

        >>> shop = Shop("", {}, {}, open=((480.0, 600.0),), breaks=((540.0, 550.0),))
        >>> shop.clock(0) / 60, shop.clock(3600) / 60, shop.clock(3601) / 60 > 550, shop.clock(7000) / 86400 > 1
        (480.0, 540.0, True, True)
        """
        spans, day, left = self.spans, 0.0, work_s
        a_day = sum(end - start for start, end in spans)
        if a_day <= 0:
            return work_s
        if left > a_day:
            days = int((left - 1e-9) // a_day)
            day, left = days * _DAY_S, left - days * a_day
        for start, end in spans:
            if left <= end - start:
                return day + start + left
            left -= end - start
        return day + spans[-1][1]

    def work(self, clock_s: float) -> float:
        """Seconds of work that can be done until a time of day; the inverse of :meth:`clock` within open hours."""
        spans = self.spans
        a_day = sum(end - start for start, end in spans)
        days, rest = divmod(clock_s, _DAY_S)
        return days * a_day + sum(min(max(rest - start, 0.0), end - start) for start, end in spans)
