"""Compiled kernels, when they are ready, and the threads they run on.

Each kernel stands beside a plain NumPy definition in the room that uses it and must give the same result. Compiling
takes seconds, so it happens at set-up (:func:`compile_all`); until then :func:`compiled` gives ``None`` and callers
take the plain way. Nothing here is imported before somebody asks for it.
"""

import hashlib
import itertools
import logging
import os
import shutil
import sys
import threading
from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager
from functools import cache, wraps
from importlib import import_module
from importlib.metadata import version
from pathlib import Path
from types import ModuleType
from typing import Any, Concatenate, ParamSpec, TypeVar

P = ParamSpec("P")
R = TypeVar("R")
Kernel = TypeVar("Kernel", bound=Callable[..., object])

_log = logging.getLogger(__name__)
_THREADS = max(1, min(8, os.cpu_count() or 1))
_ROWS_AT_LEAST = 64
_lock = threading.Lock()
_state: dict[str, ModuleType] = {}


def compiled() -> ModuleType | None:
    """The compiled kernels, or ``None`` while they are not ready."""
    return _state.get("kernels")


def chosen(name: str, plain: Kernel) -> Kernel:
    """The kernel of this name when it is ready, else its plain twin, which takes the same and gives the same."""
    kernels = compiled()
    return plain if kernels is None else getattr(kernels, name)


def instead_of(
    plain: Callable[P, R],
) -> Callable[[Callable[Concatenate[Any, P], R]], Callable[P, R]]:
    """Decorate the compiled form of ``plain``, which takes the kernels besides: it is called when they are ready.

    For twins whose kernels take other things than the function itself; where both take the same, see :func:`chosen`.
    """

    def around(function: Callable[Concatenate[Any, P], R]) -> Callable[P, R]:
        @wraps(function)
        def call(*args: P.args, **named: P.kwargs) -> R:
            kernels = compiled()
            return plain(*args, **named) if kernels is None else function(kernels, *args, **named)

        del call.__wrapped__  # it takes what ``plain`` takes, not what it wraps
        return call

    return around


def is_compiled(cache_dir: Path) -> bool:
    """Whether :func:`compile_all` has finished for this code and this compiler in ``cache_dir``."""
    return _marker(cache_dir).is_file()


def enable(cache_dir: Path) -> bool:
    """Load the kernels when they were compiled before; takes about half a second. False: not compiled yet, or damaged.

    What cannot be loaded is thrown away, so that it is compiled anew.
    """
    if not is_compiled(cache_dir):
        return False
    with _lock:
        if "kernels" not in _state:
            try:
                module = _load(cache_dir)
                with _out_of_sight("scipy"):
                    module.load_usual()
            except Exception as damaged:
                _log.warning("kernels cannot be loaded (%s): they are compiled anew", damaged)
                shutil.rmtree(_home(cache_dir), ignore_errors=True)
                return False
            _state["kernels"] = module
    return True


def disable() -> None:
    """Take the plain way from now on."""
    _state.clear()


def compile_all(cache_dir: Path) -> None:
    """Compile every kernel into ``cache_dir`` (some ten seconds) and load them."""
    with _lock:
        module = _load(cache_dir)
        with _out_of_sight("scipy"):
            module.load_all()
        _marker(cache_dir).write_text("compiled\n")
        _state["kernels"] = module


def _sources() -> list[Path]:
    return sorted(Path(__file__).resolve().with_name("kernels").glob("*.py"))


@cache
def _fingerprint() -> str:
    source = b"".join(file.read_bytes() for file in _sources())
    return hashlib.sha256(source + version("numba").encode()).hexdigest()[:16]


def _marker(cache_dir: Path) -> Path:
    """The file that says "compiled": numba keeps its work by each source's place and time, so this one does too."""
    places = "\n".join(f"{file} {file.stat().st_mtime_ns}" for file in _sources())
    return _home(cache_dir) / f"complete-{hashlib.sha256(places.encode()).hexdigest()[:16]}"


def _home(cache_dir: Path) -> Path:
    return cache_dir / f"kernels-{_fingerprint()}"


def _load(cache_dir: Path) -> ModuleType:
    home = _home(cache_dir)
    home.mkdir(parents=True, exist_ok=True)
    os.environ["NUMBA_CACHE_DIR"] = str(home)
    return import_module("swaddon.core.fast.kernels")


@contextmanager
def _out_of_sight(package: str) -> Iterator[None]:
    """Keep a package from being imported: numba loads SciPy for linear algebra that no kernel uses, at 0.3 s."""
    if package in sys.modules:
        yield
        return
    sys.modules[package] = None  # type: ignore[assignment]
    try:
        yield
    finally:
        del sys.modules[package]


@cache
def _pool() -> ThreadPoolExecutor:
    return ThreadPoolExecutor(_THREADS, thread_name_prefix="rows")


def by_rows(height: int, work: Callable[[slice], object]) -> None:
    """Call ``work`` with row slices that cover ``height``, on a small pool of threads."""
    parts = max(1, min(_THREADS * 2, height // _ROWS_AT_LEAST))
    edges = [height * part // parts for part in range(parts + 1)]
    slices = [slice(start, stop) for start, stop in itertools.pairwise(edges) if stop > start]
    if len(slices) <= 1:
        for rows in slices:
            work(rows)
        return
    for done in [_pool().submit(work, rows) for rows in slices]:
        done.result()
