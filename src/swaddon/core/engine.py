"""Pure stages, their cache, and the runner.

A stage's key is made of its name, its version, the settings it reads and the keys of the stages it needs. Same key,
same result: a change of choke runs the white stage and what hangs on it, nothing else.
"""

import hashlib
import threading
from collections import OrderedDict
from collections.abc import Callable, Hashable, Mapping
from concurrent.futures import FIRST_COMPLETED, Future, ThreadPoolExecutor, wait
from dataclasses import dataclass, fields, is_dataclass
from typing import Any

import numpy as np

from swaddon.core.declared import Declared, declared_values

_AT_ONCE = 2
"""Stages that run at the same time; their kernels share the threads of :mod:`swaddon.core.fast`."""


class Superseded(Exception):  # noqa: N818
    """A newer request has made this run pointless."""


@dataclass(frozen=True)
class Stage:
    """One pure step.

    ``reads`` names all of the request that the step's result depends on besides its needs, as dotted paths; which they
    are may depend on values that are among them. ``run(request, done, note)`` computes it: ``request`` is a view
    through these paths, so that nothing else can be read; ``done`` holds the results of ``needs``.
    """

    name: str
    version: int
    needs: tuple[str, ...]
    reads: Callable[[Any], tuple[str, ...]] | tuple[str, ...]
    run: Callable[[Any, Mapping[str, Any], "Run"], Any]
    title: str = ""

    def paths(self, request: Any) -> tuple[str, ...]:
        """The paths that are read of a request."""
        return self.reads(request) if callable(self.reads) else self.reads

    def result(self, request: Any, done: Mapping[str, Any], run: "Run") -> Any:
        """The step's result; raises ``UndeclaredRead`` when it reads what it did not declare."""
        return self.run(Declared(request, self.paths(request)), done, run)


class Cache:
    """Results by key, bounded in bytes; the least recently used go first."""

    def __init__(self, limit_bytes: int = 1_500_000_000) -> None:
        self._limit = limit_bytes
        self._entries: OrderedDict[str, tuple[Any, int]] = OrderedDict()
        self._bytes = 0
        self._lock = threading.Lock()

    def get(self, key: str) -> Any | None:
        with self._lock:
            entry = self._entries.get(key)
            if entry is None:
                return None
            self._entries.move_to_end(key)
            return entry[0]

    def put(self, key: str, value: Any) -> None:
        size = _frozen_bytes(value)
        with self._lock:
            if key in self._entries:
                self._bytes -= self._entries.pop(key)[1]
            self._entries[key] = (value, size)
            self._bytes += size
            while self._bytes > self._limit and len(self._entries) > 1:
                _, (_, dropped) = self._entries.popitem(last=False)
                self._bytes -= dropped

    def clear(self) -> None:
        """Let go of everything."""
        with self._lock:
            self._entries.clear()
            self._bytes = 0

    @property
    def size_bytes(self) -> int:
        return self._bytes


def _frozen_bytes(value: Any) -> int:
    """Bytes held by the arrays in a result; makes them read-only."""
    if isinstance(value, np.ndarray):
        value.flags.writeable = False
        return int(value.nbytes)
    if isinstance(value, tuple | list):
        return sum(_frozen_bytes(item) for item in value)
    if is_dataclass(value):
        return sum(_frozen_bytes(getattr(value, item.name)) for item in fields(value))
    return 0


class Run:
    """One pass through the stages: results so far, progress, and whether it is still wanted."""

    def __init__(
        self,
        cache: Cache,
        is_wanted: Callable[[], bool] = lambda: True,
        progress: Callable[[str, float], None] = lambda _title, _share: None,
    ) -> None:
        self.cache = cache
        self._is_wanted = is_wanted
        self._progress = progress

    def check(self) -> None:
        """Raise :class:`Superseded` when nobody waits for this run any more."""
        if not self._is_wanted():
            raise Superseded

    def report(self, title: str, share: float) -> None:
        self._progress(title, share)

    def memo(self, parts: Hashable, compute: Callable[[], Any]) -> Any:
        """A by-product worth keeping under its own key."""
        key = key_of(parts)
        value = self.cache.get(key)
        if value is None:
            value = compute()
            self.cache.put(key, value)
        return value


def key_of(*parts: Hashable) -> str:
    """Content key of plain values."""
    return hashlib.blake2b(repr(parts).encode(), digest_size=16).hexdigest()


@dataclass(frozen=True)
class Results:
    """Values and keys of the stages that ran."""

    values: Mapping[str, Any]
    keys: Mapping[str, str]


def stage_keys(stages: tuple[Stage, ...], request: Any) -> dict[str, str]:
    """The keys that the stages' results have or would have, without running anything."""
    keys: dict[str, str] = {}
    for stage in stages:
        upstream = tuple(keys[name] for name in stage.needs)
        paths = stage.paths(request)
        keys[stage.name] = key_of(stage.name, stage.version, paths, declared_values(request, paths), upstream)
    return keys


def needed_by(stages: tuple[Stage, ...], until: tuple[str, ...]) -> tuple[Stage, ...]:
    """Some stages and all that they hang on, in order."""
    names = set(until)
    for stage in reversed(stages):
        if stage.name in names:
            names.update(stage.needs)
    return tuple(stage for stage in stages if stage.name in names)


def run_stages(
    stages: tuple[Stage, ...],
    request: Any,
    run: Run,
    until: tuple[str, ...] = (),
    spare: frozenset[str] = frozenset(),
) -> Results:
    """Run the stages, two at a time, from the cache where possible; with ``until`` only those and what they need.

    A stage starts when all that it needs is there; of several that may start, the first in order goes first. Results of
    stages in ``spare`` are let go after their last use, so that a single run needs less memory.
    """
    keys = stage_keys(stages, request)
    wanted = needed_by(stages, until) if until else stages
    values: dict[str, Any] = {}
    waiting, running = list(wanted), dict[Future[Any], Stage]()

    def start(stage: Stage, pool: ThreadPoolExecutor) -> None:
        run.report(stage.title, (len(wanted) - len(waiting)) / len(wanted))
        waiting.remove(stage)
        needs = {name: values[name] for name in stage.needs} | {"keys": keys}
        running[pool.submit(_result, stage, keys[stage.name], request, needs, run)] = stage

    with ThreadPoolExecutor(_AT_ONCE, thread_name_prefix="stages") as pool:
        while waiting or running:
            run.check()
            ready = [stage for stage in waiting if values.keys() >= set(stage.needs)]
            for stage in ready[: _AT_ONCE - len(running)]:
                start(stage, pool)
            _take_finished(running, values)
            still = {name for later in (*waiting, *running.values()) for name in later.needs}
            for name in spare & values.keys() - still:
                del values[name]
    run.check()
    run.report("", 1.0)
    return Results(values, keys)


def _take_finished(running: dict[Future[Any], Stage], values: dict[str, Any]) -> None:
    """Wait for a stage to finish and take its result; raises what it raised."""
    for future in wait(running, return_when=FIRST_COMPLETED).done:
        values[running.pop(future).name] = future.result()


def _result(stage: Stage, key: str, request: Any, needs: Mapping[str, Any], run: Run) -> Any:
    value = run.cache.get(key)
    if value is None:
        value = stage.result(request, needs, run)
        run.cache.put(key, value)
    return value
