"""Pure stages, their cache, and the runner.

A stage is a function. Its parameters are named after the stages whose results it needs; besides it may ask for its own
frozen ``settings`` and for the ``run``. Its key is made of its name, its version, these settings and the keys of the
stages it needs. Same key, same result: a change of choke runs the white and what hangs on it, nothing else.
"""

import hashlib
import inspect
import math
import threading
from collections import Counter
from collections.abc import Callable, Hashable, Iterable, Iterator, Mapping
from concurrent.futures import FIRST_COMPLETED, Future, ThreadPoolExecutor, wait
from dataclasses import dataclass, field, fields, is_dataclass
from functools import cache
from typing import Any, TypeVar

import numpy as np
from cachetools import LRUCache

_AT_ONCE = 2
"""Stages that run at the same time; their kernels share the threads of :mod:`swaddon.core.fast`."""

_PATH = "path"

MISSING: Any = object()
"""What is not in a cache; ``None`` is a result like any other."""

Value = TypeVar("Value")


class Superseded(Exception):  # noqa: N818
    """A newer request has made this run pointless."""


def of(path: str) -> Any:
    """A field of a stage's settings that is taken from a request at a dotted path."""
    return field(metadata={_PATH: path})


def settle(settings: object, **values: object) -> None:
    """Set what a stage does not need, given the rest of its settings, to one value, so that it leaves no mark."""
    for name, value in values.items():
        object.__setattr__(settings, name, value)


def path_of(item: Any) -> str:
    """Where a field of a stage's settings is found in a request: at its path, or under its own name."""
    return str(item.metadata.get(_PATH, item.name))


def taken(settings: type[Value], request: Any) -> Value:
    """A stage's settings as they stand in a request."""
    own = (item for item in fields(settings) if item.init)  # type: ignore[arg-type]
    return settings(**{item.name: _at(request, path_of(item)) for item in own})


def _at(value: Any, path: str) -> Any:
    for name in path.split("."):
        value = getattr(value, name)
    return value


@dataclass(frozen=True)
class Stage:
    """One pure step; :func:`stage` makes it of a function."""

    name: str
    version: int
    title: str
    needs: tuple[str, ...]
    settings: type | None
    asks_run: bool
    function: Callable[..., Any]

    def own(self, request: Any) -> str:
        """Content key of the stage's own settings in a request."""
        return "" if self.settings is None else key_of(taken(self.settings, request))

    def key(self, own: str, upstream: Mapping[str, str]) -> str:
        """Content key of the result, given those of its own settings and of the stages before."""
        return key_of(self.name, self.version, own, tuple(upstream[name] for name in self.needs))

    def result(self, request: Any, done: Mapping[str, Any], run: "Run") -> Any:
        """Compute it."""
        values = {name: done[name] for name in self.needs}
        if self.settings is not None:
            values["settings"] = taken(self.settings, request)
        if self.asks_run:
            values["run"] = run
        return self.function(**values)


def stage(function: Callable[..., Any], version: int, title: str = "") -> Stage:
    """A stage of a function: needs, settings and name are read from its signature."""
    parameters = inspect.signature(function).parameters
    needs = tuple(name for name in parameters if name not in ("settings", "run"))
    own = parameters["settings"].annotation if "settings" in parameters else None
    return Stage(function.__name__, version, title, needs, own, "run" in parameters, function)


class Cache:
    """Results by key, bounded in bytes; the least recently used go first. Arrays that results share count once."""

    def __init__(self, limit_bytes: int = 1_500_000_000) -> None:
        self._limit = limit_bytes
        self._entries: LRUCache[str, Any] = LRUCache(math.inf)
        self._holders: Counter[int] = Counter()
        self._bytes = 0
        self._lock = threading.Lock()

    def get(self, key: str) -> Any:
        """A result, or ``MISSING``."""
        with self._lock:
            return self._entries.get(key, MISSING)

    def put(self, key: str, value: Any) -> None:
        with self._lock:
            if key in self._entries:
                self._let_go(self._entries.pop(key))
            self._entries[key] = value
            for array in _arrays(value):
                array.flags.writeable = False
                self._holders[id(array)] += 1
                self._bytes += array.nbytes if self._holders[id(array)] == 1 else 0
            while self._bytes > self._limit and len(self._entries) > 1:
                self._let_go(self._entries.popitem()[1])

    def _let_go(self, value: Any) -> None:
        for array in _arrays(value):
            self._holders[id(array)] -= 1
            if self._holders[id(array)] == 0:
                del self._holders[id(array)]
                self._bytes -= array.nbytes

    def beside(self, limit_bytes: int) -> "Cache":
        """A cache for work that goes on beside, whose results are let go with it."""
        return Cache(limit_bytes)

    def clear(self) -> None:
        """Let go of everything."""
        with self._lock:
            self._entries.clear()
            self._holders.clear()
            self._bytes = 0

    @property
    def size_bytes(self) -> int:
        return self._bytes


def _arrays(value: Any) -> Iterator[np.ndarray]:
    """The arrays in a result."""
    if isinstance(value, np.ndarray):
        yield value
    elif isinstance(value, tuple | list):
        for item in value:
            yield from _arrays(item)
    elif is_dataclass(value):
        for part in fields(value):
            yield from _arrays(getattr(value, part.name))


class Run:
    """One pass through the stages: what is kept of earlier ones, progress, and whether it is still wanted."""

    def __init__(
        self,
        cache: Cache,
        is_wanted: Callable[[], bool] = lambda: True,
        progress: Callable[[str, float], None] = lambda _title, _share: None,
    ) -> None:
        self.cache = cache
        self._is_wanted = is_wanted
        self._progress = progress
        self._keys: Mapping[str, str] = {}

    def is_wanted(self) -> bool:
        """Whether somebody still waits for this run."""
        return self._is_wanted()

    def aside(self, limit_bytes: int) -> "Run":
        """A run that is wanted as long as this one, and keeps its results apart and untold."""
        return Run(self.cache.beside(limit_bytes), self._is_wanted)

    def within(self, keys: Mapping[str, str]) -> "Run":
        """The same run as a stage sees it, among results of these keys."""
        inner = Run(self.cache, self._is_wanted, self._progress)
        inner._keys = keys
        return inner

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
        if value is MISSING:
            value = compute()
            self.cache.put(key, value)
        return value

    def beside(self, name: str, parts: Hashable, compute: Callable[[], Any]) -> Any:
        """A by-product that hangs on the result of one stage, and on ``parts``."""
        return self.memo((self._keys[name], parts), compute)


def key_of(*parts: Any) -> str:
    """Content key of plain values."""
    return hashlib.blake2b(repr(_plain(parts)).encode(), digest_size=16).hexdigest()


def _plain(value: Any) -> Any:
    """A value whose ``repr`` tells it from others; what has a ``content_key`` counts by that, functions not at all."""
    if type(value) in _AS_THEY_ARE or isinstance(value, type):
        return value
    if hasattr(value, "content_key"):
        return value.content_key
    if isinstance(value, np.ndarray):
        return value.shape, value.dtype.str, hashlib.blake2b(value.tobytes()).hexdigest()
    if isinstance(value, dict):
        value = tuple((key, value[key]) for key in sorted(value))
    if isinstance(value, tuple | list):
        return tuple(_plain(item) for item in value)
    if is_dataclass(value):
        return type(value).__name__, *(_plain(getattr(value, name)) for name in _compared(value.__class__))
    return "" if callable(value) else value


_AS_THEY_ARE = frozenset({str, int, float, bool, bytes, type(None)})


@cache
def _compared(kind: type) -> tuple[str, ...]:
    return tuple(item.name for item in fields(kind) if item.compare)


@dataclass(frozen=True)
class Results:
    """Values and keys of the stages that ran."""

    values: Mapping[str, Any] = field(default_factory=dict)
    keys: Mapping[str, str] = field(default_factory=dict)

    def get(self, key: str, name: str) -> Any:
        """The result of a stage if it has this key, else ``MISSING``."""
        return self.values.get(name, MISSING) if self.keys.get(name) == key else MISSING


def stage_keys(stages: tuple[Stage, ...], request: Any, seeds: Mapping[str, str] | None = None) -> dict[str, str]:
    """The keys that the stages' results have or would have, without running anything; ``seeds`` have theirs given."""
    return _chained(stages, {item.name: item.own(request) for item in stages}, seeds or {})


def _chained(stages: tuple[Stage, ...], owns: Mapping[str, str], seeds: Mapping[str, str]) -> dict[str, str]:
    keys = dict(seeds)
    for item in stages:
        if item.name not in keys:
            keys[item.name] = item.key(owns[item.name], keys)
    return keys


def needed_by(stages: tuple[Stage, ...], until: tuple[str, ...], seeds: frozenset[str]) -> tuple[Stage, ...]:
    """Some stages and all that they hang on, in order; seeds need nothing."""
    names = set(until)
    for item in reversed(stages):
        if item.name in names and item.name not in seeds:
            names.update(item.needs)
    return tuple(item for item in stages if item.name in names and item.name not in seeds)


def run_stages(
    stages: tuple[Stage, ...],
    request: Any,
    run: Run,
    until: tuple[str, ...] = (),
    spare: frozenset[str] = frozenset(),
    known: Results | None = None,
    seeds: Results | None = None,
) -> Results:
    """Run the stages, two at a time, from the cache where possible; with ``until`` only those and what they need.

    A stage starts when all that it needs is there; of several that may start, the first in order goes first. Results of
    stages in ``spare`` are let go after their last use, so that a single run needs less memory. Results that are
    ``known`` are taken where their keys are the same; ``seeds`` take the place of their stages, whatever the request.

    Besides its key a result has a second one, by which it is found as well: a stage that gives nothing, or passes on
    what it got, leaves no mark on it. So what hangs on the inks is not done again where holes could have changed them
    and there are none.
    """
    seeds, known = seeds or Results(), known or Results()
    wanted = needed_by(stages, until or tuple(item.name for item in stages), frozenset(seeds.values))
    owns = {item.name: item.own(request) for item in wanted}
    keys = _chained(wanted, owns, seeds.keys)
    values: dict[str, Any] = dict(seeds.values)
    waiting, running = list(wanted), dict[Future[Any], Stage]()
    marks = dict(seeds.keys)
    inner = run.within(marks)

    def start(item: Stage, pool: ThreadPoolExecutor) -> None:
        run.report(item.title, (len(wanted) - len(waiting)) / len(wanted))
        waiting.remove(item)
        needs = {name: values[name] for name in item.needs}
        marks[item.name] = item.key(owns[item.name], marks)
        both = dict.fromkeys((keys[item.name], marks[item.name]))
        value = _found(item, both, inner.cache, known)
        if value is MISSING:
            running[pool.submit(_made, item, both, request, needs, inner)] = item
        else:
            _take(item, value, values, marks)

    with ThreadPoolExecutor(_AT_ONCE, thread_name_prefix="stages") as pool:
        while waiting or running:
            run.check()
            ready = [item for item in waiting if values.keys() >= set(item.needs)]
            for item in ready[: _AT_ONCE - len(running)]:
                start(item, pool)
            for future in wait(running, return_when=FIRST_COMPLETED).done if running else ():
                _take(running.pop(future), future.result(), values, marks)
            still = {name for later in (*waiting, *running.values()) for name in later.needs}
            for name in spare & values.keys() - still:
                del values[name]
    run.check()
    run.report("", 1.0)
    return Results(values, keys)


def _take(item: Stage, value: Any, values: dict[str, Any], marks: dict[str, str]) -> None:
    """Take a stage's result, and what mark it leaves."""
    values[item.name] = value
    if value is None or (isinstance(value, tuple) and not value):
        marks[item.name] = key_of("nothing", value)
    else:
        passed_on = (name for name in item.needs if values.get(name) is value)
        marks[item.name] = next((marks[name] for name in passed_on), marks[item.name])


def _found(item: Stage, keys: Iterable[str], cache: Cache, known: Results) -> Any:
    """A result by its key, or its second one; else ``MISSING``."""
    for key in keys:
        value = known.get(key, item.name)
        if value is MISSING:
            value = cache.get(key)
        if value is not MISSING:
            return value
    return MISSING


def _made(item: Stage, keys: Iterable[str], request: Any, needs: Mapping[str, Any], run: Run) -> Any:
    """A result that is computed now, and kept under both keys."""
    value = item.result(request, needs, run)
    for key in keys:
        run.cache.put(key, value)
    return value
