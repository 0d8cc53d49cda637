"""Places at machines and hands of a simulated day: who is served next, and on which machine."""

from collections.abc import Generator
from dataclasses import dataclass
from heapq import heappop, heappush
from typing import Any

import simpy

Steps = Generator[Any, Any, None]


class Pool:
    """Places, served by rank, then by who asked first; a free one is taken without an event, as most are."""

    def __init__(self, env: simpy.Environment, count: int) -> None:
        self._env, self._free, self._asked = env, count, 0
        self._waiting: list[tuple[int, int, simpy.Event]] = []

    def take(self, rank: int) -> Steps:
        """Wait for a place."""
        if self._free:
            self._free -= 1
            return
        self._asked += 1
        event = self._env.event()
        heappush(self._waiting, (rank, self._asked, event))
        yield event

    def give(self) -> None:
        """Give a place back: to who waits first, if anybody does."""
        if self._waiting:
            heappop(self._waiting)[2].succeed()
        else:
            self._free += 1


class Machines:
    """Machines of one kind, each with what it did last."""

    def __init__(self, env: simpy.Environment, count: int) -> None:
        self.places = Pool(env, count)
        self.free = list(range(count))
        self.last: dict[int, int] = {}
        self.done = dict.fromkeys(range(count), 0)

    def take(self, order: int) -> int:
        """A free machine, if possible one that did this order last."""
        if len(self.free) == 1:
            return self.free.pop()
        unit = next((unit for unit in self.free if self.last.get(unit) == order), self.free[0])
        self.free.remove(unit)
        return unit


@dataclass(frozen=True)
class Kept:
    """One machine in use: which, and since when."""

    machines: Machines
    unit: int
    since: float
    name: str
