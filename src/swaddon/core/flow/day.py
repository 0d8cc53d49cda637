"""A day of a shop by discrete events: every piece through its stages, with the machines and hands there are.

Simulated with SimPy in seconds of work; breaks and nights are taken out and put back by the shop's clock. A piece asks
for its machine first and for hands when it has it; hands are given back before anything else is asked for. So hands
never wait for a machine, and since no more pieces are in work than the rack holds, none waits for a place: nothing can
lock, whatever the shop.
"""

from collections import deque
from collections.abc import Callable, Generator, Iterator, Sequence
from dataclasses import dataclass, field, replace
from typing import Any, NamedTuple

import simpy

from swaddon.core.flow.chance import PER_STAGE, Chance
from swaddon.core.flow.places import Kept, Machines, Pool, Steps
from swaddon.core.flow.shop import HANDS, PLATEN, Shop, Stage, is_printer
from swaddon.core.press.working import Gets
from swaddon.core.shop.used import Used


@dataclass(frozen=True)
class Order:
    """Pieces of one kind to be made.

    Attributes
    ----------
    process, print_s
        Way of printing, and the printer's time for one piece.
    due_s
        Seconds of work until it is due; ``None``: whenever.
    priority
        Higher goes first where orders are sorted by it.
    is_pretreated, has_white, pressed_twice
        Whether its pieces go through the stages of pretreatment, of a second pass with white, of a second press.
    parts
        Sheets that each print is split onto: hands and presses are for each, ``print_s`` is of all.
    """

    name: str
    process: str
    print_s: float
    quantity: int
    due_s: float | None = None
    priority: int = 0
    is_pretreated: bool = True
    parts: int = 1
    has_white: bool = True
    pressed_twice: bool = True

    @property
    def gets(self) -> Gets:
        """What each piece gets."""
        return Gets(self.has_white, self.is_pretreated, parts=self.parts, pressed_twice=self.pressed_twice)

    @classmethod
    def of(cls, used: Used, process: str, quantity: int) -> "Order":
        """Pieces of one print as they go through a shop."""
        gets = used.gets
        return cls(
            "", process, max(used.print_s, 0.1), quantity, None, 0, gets.pretreated, gets.parts, gets.white,
            gets.pressed_twice,
        )  # fmt: skip


class Bar(NamedTuple):
    """One stage of one piece: on the machine, or in the hands, from ``start`` to ``end`` (seconds of work).

    ``since`` is when it began to wait for it; ``unit`` the number of the machine.
    """

    order: int
    piece: int
    stage: str
    machine: str
    since: float
    start: float
    end: float
    unit: int = 0


@dataclass(eq=False)
class Day:
    """What became of a day.

    Attributes
    ----------
    bars
        Stages of all pieces as they were done.
    finish
        By order, when its last good piece was done; seconds of work.
    busy_s
        Seconds that each resource was held.
    entered, left
        When each piece went to work, and was done.
    spoiled
        Pieces that were thrown away.
    """

    shop: Shop
    orders: tuple[Order, ...]
    bars: list[Bar] = field(default_factory=list)
    finish: list[float] = field(default_factory=list)
    busy_s: dict[str, float] = field(default_factory=dict)
    entered: list[float] = field(default_factory=list)
    left: list[float] = field(default_factory=list)
    spoiled: int = 0

    @property
    def end_s(self) -> float:
        """When all was done."""
        return max(self.finish, default=0.0)

    @property
    def pieces(self) -> int:
        """Good pieces."""
        return sum(order.quantity for order in self.orders)

    @property
    def per_hour(self) -> float:
        """Good pieces per hour of work, over the whole day."""
        return 3600 * self.pieces / self.end_s if self.end_s else 0.0

    def use(self, resource: str) -> float:
        """Share of its time that a resource was held, 0..1."""
        count = self.shop.counts.get(resource, 0)
        return self.busy_s.get(resource, 0.0) / (count * self.end_s) if count and self.end_s else 0.0

    def waiting(self, machine: str) -> float:
        """Mean number of pieces that waited for a machine."""
        total = sum(bar.start - bar.since for bar in self.bars if bar.machine == machine)
        return total / self.end_s if self.end_s else 0.0

    @property
    def bottleneck(self) -> str:
        """The resource that is used most."""
        return max(self.shop.counts, key=self.use, default="")


class _Run:
    """One simulated day."""

    def __init__(self, shop: Shop, orders: Sequence[Order], seed: int, is_wanted: Callable[[], bool]) -> None:
        self.env = simpy.Environment()
        self.day = Day(shop, tuple(orders), finish=[0.0] * len(orders), busy_s=dict.fromkeys(shop.counts, 0.0))
        self.shop, self.orders, self._is_wanted = shop, tuple(orders), is_wanted
        self.routes = [shop.route(order.process, order.gets) for order in orders]
        self.chance = Chance(seed, [len(route) for route in self.routes])
        self.machines = {
            name: Machines(self.env, count) for name, count in shop.counts.items() if count and name != HANDS
        }
        self.hands = Pool(self.env, shop.counts[HANDS])
        self.rack = simpy.Container(self.env, max(1, shop.rack), max(1, shop.rack))
        self.open_pieces = 0
        self.released = 0
        self.finished = self.env.event()
        self.numbers = [0] * len(orders)
        self.again: deque[int] = deque()

    def release(self, sequence: Sequence[int]) -> Steps:
        """Let pieces go to work in their order, in gangs, as the rack has room; spoiled ones again at once."""
        waiting = deque(sequence)
        while waiting or self.again or self.open_pieces:
            if self.again:
                order, count = self.again.popleft(), 1
            elif waiting:
                order, count = self._gang(waiting)
            else:
                yield self.finished
                self.finished = self.env.event()
                continue
            yield self.rack.get(count)
            self.open_pieces += count
            pieces = [self.numbers[order] + at for at in range(count)]
            self.numbers[order] += count
            self.day.entered += [self.env.now] * count
            self.released += 1
            self.env.process(self.gang(order, pieces, self.released))

    def _gang(self, waiting: deque[int]) -> tuple[int, int]:
        order = waiting.popleft()
        most = min(self.shop.gangs.get(self.orders[order].process, 1), max(1, self.shop.rack))
        count = 1
        while count < most and waiting and waiting[0] == order:
            waiting.popleft()
            count += 1
        return order, count

    def gang(self, order: int, pieces: list[int], rank: int) -> Steps:
        """A gang through what is done to it as one, then each piece by itself."""
        route = self.routes[order]
        together = 0
        while len(pieces) > 1 and together < len(route) and route[together].is_gang:
            together += 1
        if together:
            yield from self.stages(order, pieces, (0, together), rank)
            for piece in pieces:
                self.env.process(self.piece(order, piece, together, rank))
            return
        for piece in pieces[1:]:
            self.env.process(self.piece(order, piece, 0, rank))
        yield from self.piece(order, pieces[0], 0, rank)

    def piece(self, order: int, piece: int, first: int, rank: int) -> Steps:
        """One piece through its stages from one on, to its end."""
        yield from self.stages(order, [piece], (first, len(self.routes[order])), rank)
        if self.chance.is_spoiled(self.shop.spoilage_share, order, piece):
            self.day.spoiled += 1
            self.again.append(order)
        else:
            self.day.finish[order] = self.env.now
        self.day.left.append(self.env.now)
        self.open_pieces -= 1
        yield self.rack.put(1)
        if not self.finished.triggered:
            self.finished.succeed()

    def stages(self, order: int, pieces: list[int], span: tuple[int, int], rank: int) -> Steps:
        """Some stages of the route, one after the other; what went to work first is served first.

        ``held`` is the machine of the stage before, given back when the next one is free; ``platen`` lies with its
        goods from loading to unloading.
        """
        held: Kept | None = None
        platen: Kept | None = None
        route = self.routes[order]
        for at in range(*span):
            stage = route[at]
            if not self._is_wanted():
                raise simpy.core.StopSimulation(None)
            since = self.env.now
            kept: Kept | None
            if stage.machine == PLATEN and platen is not None:
                kept, platen = replace(platen, since=since), None
            else:
                kept = yield from self._ask(stage, order, rank)
            if held is not None:
                self._give_back(held)
                held = None
            unit = None if kept is None else kept.unit
            begun = yield from self._work(order, pieces, at, rank, unit, -1.0 if kept is None else self.env.now)
            for piece in pieces:
                bar = Bar(order, piece, stage.name, stage.machine, since, begun, self.env.now, unit or 0)
                self.day.bars.append(bar)
            if kept is not None:
                kept.machines.last[kept.unit] = order
                kept.machines.done[kept.unit] += len(pieces)
                held, platen = self._left_on(kept, stage, _next_machine(route, at), platen)
            if stage.rests_s:
                yield self.env.timeout(stage.rests_s)
        if held is not None:
            self._give_back(held)

    def _ask(self, stage: Stage, order: int, rank: int) -> Generator[Any, Any, Kept | None]:
        """Wait for the machine of a stage."""
        if not stage.machine:
            return None
        machines = self.machines[stage.machine]
        yield from machines.places.take(rank)
        return Kept(machines, machines.take(order), self.env.now, stage.machine)

    def _left_on(
        self, kept: Kept, stage: Stage, following: str, platen: Kept | None
    ) -> tuple[Kept | None, Kept | None]:
        """What goods lie on after a stage: the machine it was done on where that is held, and the platen.

        The time that a platen waits for its printer does not count as use.
        """
        if stage.machine == PLATEN and is_printer(following):
            self.day.busy_s[PLATEN] += self.env.now - kept.since
            return None, kept
        if platen is not None:
            self.day.busy_s[PLATEN] += self.env.now - kept.since
        if self.shop.held_platen and following and following != PLATEN and _bears_goods(stage):
            return kept, platen
        self._give_back(kept)
        return None, platen

    def _work(
        self, order: int, pieces: list[int], at: int, rank: int, unit: int | None, begun: float
    ) -> Generator[Any, Any, float]:
        """Hands, machine, hands; gives when the stage began."""
        stage, scatter, own = self.routes[order][at], self.shop.hand_scatter, (order, pieces[0])
        before = self.chance.scattered(stage.hands_s, scatter, *own, PER_STAGE * at)
        before += self._extra_hands(order, unit, stage, len(pieces))
        machine_s = self._machine_s(order, stage, pieces, PER_STAGE * at + 1)
        if before or stage.attended:
            yield from self.hands.take(rank)
            begun = self.env.now if begun < 0 else begun
            held = self.env.now
            yield self.env.timeout(before + (machine_s if stage.attended else 0.0))
            self.day.busy_s[HANDS] += self.env.now - held
            self.hands.give()
        begun = self.env.now if begun < 0 else begun
        if machine_s and not stage.attended:
            yield self.env.timeout(machine_s)
        after = self.chance.scattered(stage.after_s, scatter, *own, PER_STAGE * at + 2)
        if after:
            yield from self.hands.take(rank)
            yield self.env.timeout(after)
            self.day.busy_s[HANDS] += after
            self.hands.give()
        return begun

    def _extra_hands(self, order: int, unit: int | None, stage: Stage, count: int) -> float:
        """Setting a printer up for another order, and changing what it has used up."""
        if not is_printer(stage.machine) or unit is None:
            return 0.0
        printer, shop = self.machines[stage.machine], self.shop
        extra = shop.change_s if printer.last.get(unit, order) != order else 0.0
        if printer.last.get(unit) != order and self.orders[order].has_white:
            extra += shop.swaps.get(self.orders[order].process, 0.0)
        if shop.refill_every:
            done = printer.done[unit]
            extra += shop.refill_s * ((done + count) // shop.refill_every - done // shop.refill_every)
        return extra

    def _machine_s(self, order: int, stage: Stage, pieces: list[int], time: int) -> float:
        scatter, scattered = self.shop.machine_scatter, self.chance.scattered
        if not is_printer(stage.machine):
            return scattered(stage.machine_s, scatter, order, pieces[0], time)
        own = sum(scattered(self.orders[order].print_s, scatter, order, piece, time) for piece in pieces)
        share, stop_s = self.shop.stop_share, self.shop.stop_s
        if not share:
            return own
        lost = (own + (stage.hands_s + stage.after_s)) * share / (1 - share)
        if not self.shop.machine_scatter:
            return own + lost
        return own + self.chance.stopped_s(lost, stop_s, order, pieces[0])

    def _give_back(self, kept: Kept) -> None:
        self.day.busy_s[kept.name] += self.env.now - kept.since
        kept.machines.free.append(kept.unit)
        kept.machines.free.sort()
        kept.machines.places.give()

    def run(self, sequence: Sequence[int]) -> Day:
        """All pieces in this order."""
        self.env.process(self.release(sequence))
        self.env.run()
        return self.day


def _bears_goods(stage: Stage) -> bool:
    """Whether goods can be left lying on what a stage was done on: a printer, a platen."""
    return is_printer(stage.machine) or stage.machine == PLATEN


def _next_machine(route: tuple[Stage, ...], at: int) -> str:
    """The machine that a piece needs next; empty where hands, a table or a rack come first."""
    return route[at + 1].machine if at + 1 < len(route) else ""


def in_turn(orders: Sequence[Order]) -> Iterator[int]:
    """Every piece of every order, one order after the other."""
    for at, order in enumerate(orders):
        yield from [at] * order.quantity


def simulate(
    shop: Shop,
    orders: Sequence[Order],
    seed: int = 1,
    sequence: Sequence[int] | None = None,
    is_wanted: Callable[[], bool] = lambda: True,
) -> Day:
    """A day of a shop.

    Parameters
    ----------
    sequence
        Index of the order of each piece, in which they go to work; none: as they are entered.
    is_wanted
        Asked at every stage; the day ends unfinished when it says no.
    """
    return _Run(shop, orders, seed, is_wanted).run(list(in_turn(orders)) if sequence is None else sequence)
