"""What becomes of a run: counts, timers and breaks, as the sum of what was noted while it went on.

A run is known by its notes alone, so that it is the same after a restart: notes are only ever added.
"""

from collections import Counter
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field, replace
from statistics import median
from typing import Any, Literal

Do = Literal["begin", "good", "spoiled", "take-back", "start", "stop", "pause", "resume", "use", "end"]
MOST_AT_ONCE = 100_000
"""Most pieces that one note counts."""

MOST_USED = 1e9
"""Below this an amount of material must be, in its unit."""


@dataclass(frozen=True)
class Timer:
    """A timer of one step; ``expected_s`` is ``None`` for a stopwatch."""

    number: int
    step: str
    started: float
    expected_s: float | None

    def left_s(self, now: float) -> float | None:
        """Seconds until it rings, below 0 after that; ``None`` for a stopwatch."""
        return None if self.expected_s is None else self.started + self.expected_s - now


@dataclass(frozen=True)
class Record:
    """A run as far as it went.

    Attributes
    ----------
    began, ended
        When, in s of the epoch; ``None``: not yet.
    counts
        What was counted, in the order of counting: pieces, and why they were spoiled (empty: good).
    timers
        Those that run, in the order in which they were started.
    taken
        Steps whose time was stopped, each with s.
    paused_since, paused_s
        Since when it rests (``None``: it goes on), and how long it rested before.
    used
        What the run used of materials, as measured: ``kind:unit`` and amount.
    notes
        How many notes made it.
    """

    began: float | None = None
    ended: float | None = None
    counts: tuple[tuple[int, str], ...] = ()
    timers: tuple[Timer, ...] = ()
    taken: tuple[tuple[str, float], ...] = ()
    paused_since: float | None = None
    paused_s: float = 0.0
    used: tuple[tuple[str, float], ...] = ()
    notes: int = field(default=0, compare=False)

    @property
    def good(self) -> int:
        """Pieces that are good."""
        return sum(count for count, why in self.counts if not why)

    @property
    def spoiled(self) -> tuple[tuple[str, int], ...]:
        """Why pieces were spoiled, and how many for each reason, the most first."""
        found: Counter[str] = Counter()
        for count, why in self.counts:
            if why:
                found[why] += count
        return tuple(sorted(found.items(), key=lambda item: (-item[1], item[0])))

    @property
    def lost(self) -> int:
        """Pieces that were spoiled."""
        return sum(count for _, count in self.spoiled)

    @property
    def is_open(self) -> bool:
        """Whether it began and has not ended."""
        return self.began is not None and self.ended is None

    @property
    def is_paused(self) -> bool:
        return self.paused_since is not None

    def worked_s(self, now: float) -> float:
        """Time from its begin, without breaks, s; never below 0, whatever the clock was set to."""
        if self.began is None:
            return 0.0
        until = now if self.ended is None else self.ended
        rested = self.paused_s + (0.0 if self.paused_since is None else max(0.0, until - self.paused_since))
        return max(0.0, until - self.began - rested)

    def step_times(self) -> tuple[tuple[str, int, float], ...]:
        """Each timed step with how often it was timed and the median, s."""
        steps: dict[str, list[float]] = {}
        for step, seconds in self.taken:
            steps.setdefault(step, []).append(seconds)
        return tuple((step, len(times), round(median(times), 1)) for step, times in steps.items())

    def noted(self, note: Mapping[str, Any]) -> "Record":
        """The record after one more note; notes that make no sense leave it as it is."""
        act = _ACTS.get(str(note.get("do")))
        at = note.get("at")
        if act is None or not isinstance(at, int | float):
            return self
        return replace(act(self, float(at), note), notes=self.notes + 1)


def record_of(notes: Iterable[Mapping[str, Any]]) -> Record:
    """The record that some notes make, in their order.

    >>> record_of([{"do": "begin", "at": 0.0}, {"do": "good", "at": 60.0, "count": 2}]).good
    2
    """
    made = Record()
    for note in notes:
        made = made.noted(note)
    return made


def _begin(record: Record, at: float, _note: Mapping[str, Any]) -> Record:
    return replace(record, began=at) if record.began is None else record


def _count(record: Record, _at: float, note: Mapping[str, Any]) -> Record:
    count, why = note.get("count", 1), "" if note["do"] == "good" else str(note.get("why") or "other")
    if not record.is_open or not isinstance(count, int) or not 0 < count <= MOST_AT_ONCE:
        return record
    return replace(record, counts=(*record.counts, (count, why)))


def _take_back(record: Record, _at: float, _note: Mapping[str, Any]) -> Record:
    return replace(record, counts=record.counts[:-1]) if record.is_open else record


def _start(record: Record, at: float, note: Mapping[str, Any]) -> Record:
    expected = note.get("expected_s")
    if not record.is_open:
        return record
    named = note.get("timer", record.notes)
    if not isinstance(named, int):
        return record
    number = int(named)
    made = Timer(number, str(note.get("step", "")), at, float(expected) if isinstance(expected, int | float) else None)
    return replace(record, timers=(*record.timers, made))


def _stop(record: Record, at: float, note: Mapping[str, Any]) -> Record:
    stopped = next((timer for timer in record.timers if timer.number == note.get("timer")), None)
    if stopped is None:
        return record
    left = tuple(timer for timer in record.timers if timer is not stopped)
    return replace(record, timers=left, taken=(*record.taken, (stopped.step, max(0.0, at - stopped.started))))


def _pause(record: Record, at: float, _note: Mapping[str, Any]) -> Record:
    return replace(record, paused_since=at) if record.is_open and not record.is_paused else record


def _resume(record: Record, at: float, _note: Mapping[str, Any]) -> Record:
    if record.paused_since is None:
        return record
    return replace(record, paused_since=None, paused_s=record.paused_s + max(0.0, at - record.paused_since))


def _use(record: Record, _at: float, note: Mapping[str, Any]) -> Record:
    kind, amount = str(note.get("kind", ""))[:100], note.get("amount")
    if not record.is_open or not kind or not isinstance(amount, int | float) or not 0 <= amount < MOST_USED:
        return record
    return replace(record, used=tuple((dict(record.used) | {kind: float(amount)}).items()))


def _end(record: Record, at: float, _note: Mapping[str, Any]) -> Record:
    if not record.is_open:
        return record
    return replace(_resume(record, at, {}), ended=at, timers=())


_ACTS = {
    "begin": _begin, "good": _count, "spoiled": _count, "take-back": _take_back, "start": _start, "stop": _stop,
    "pause": _pause, "resume": _resume, "use": _use, "end": _end,
}  # fmt: skip
