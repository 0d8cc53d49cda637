"""Prints like one: all runs' numbers are held in memory and only the new ones are fetched."""

import threading
from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

from swaddon.core.log.entry import Entry
from swaddon.core.log.likeness import WIDTH, Parts, distances, features_of, parts

if TYPE_CHECKING:
    from swaddon.store.book import LogBook

_LOOKED_BACK = 500
"""Places that are fetched again: on a server a lower place may be written after a higher one."""


@dataclass(frozen=True)
class Like:
    """A run that is like another: its place in the book, how it stands, and how far apart they are."""

    n: int
    entry: Entry
    parts: Parts


class Likeness:
    """Finds runs like one."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._places: NDArray[np.int64] = np.zeros(0, np.int64)
        self._processes: list[str] = []
        self._features: NDArray[np.float32] = np.zeros((0, WIDTH), np.float32)
        self._seen: str = ""

    def nearest(self, book: "LogBook", entry: Entry, most: int = 20) -> list[Like]:
        """Runs that are most like one, the nearest first; without itself.

        Raises
        ------
        StoreError
            One sentence.
        """
        own = features_of(entry)
        if own is None or entry.ordered is None:
            return []
        with self._lock:
            self._refresh(book)
            same = np.array([process == entry.ordered.process for process in self._processes], bool)
            far = distances(own, self._features, same)
            order = np.argsort(far, kind="stable")[: most + 1]
            places, features = self._places[order], self._features[order]
        found = {item.n: item.entry for item in book.at_places([int(n) for n in places])}
        out = [
            Like(int(n), found[int(n)], parts(own, features[at]))
            for at, n in enumerate(places)
            if int(n) in found and found[int(n)].uid != entry.head
        ]
        return out[:most]

    def _refresh(self, book: "LogBook") -> None:
        address = str(book.engine.url)
        if address != self._seen:
            self._places, self._processes = np.zeros(0, np.int64), []
            self._features, self._seen = np.zeros((0, WIDTH), np.float32), address
        after = max(0, int(self._places[-1]) - _LOOKED_BACK) if len(self._places) else 0
        places, processes, features = book.features(after)
        keep = int(np.searchsorted(self._places, after, side="right"))
        self._places = np.concatenate([self._places[:keep], places])
        self._processes = self._processes[:keep] + processes
        self._features = np.concatenate([self._features[:keep], features])
