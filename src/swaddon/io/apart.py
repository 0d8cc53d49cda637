"""Decoders in a process of their own, with bounds on memory and computing: what a file asks for cannot hurt the bench.

One helper (``python -m swaddon.io.apart``) imports the decoders once and forks for every file. The fork bounds itself,
reads the file from anonymous memory, and leaves its pictures there; sizes and words come back as JSON, so that a
decoder that was taken over can hand out nothing but pictures. A drawing that has no end ends in one sentence.
"""

import atexit
import hashlib
import importlib
import json
import mmap
import os
import resource
import select
import signal
import socket
import subprocess
import sys
import threading
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager, suppress
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from swaddon.core.engine import Superseded
from swaddon.core.errors import PlanError

Arrays = list[NDArray[Any]]
Work = Callable[..., tuple[Any, Arrays]]
Watch = Callable[[str, float], None]

MOST_CPU_S, MOST_BYTES = 10.0, 1_000_000_000
"""Computing that one file may take, and memory besides the picture itself, unless it is trusted."""

_WALL_S, _POLL_S, _SHOWN_AFTER_S = 60.0, 0.05, 1.0
_MESSAGE = 190_000
_PRELOADED = ("swaddon.io.drawings", "swaddon.io.layers", "swaddon.io.tiff_in")

_lock = threading.Lock()
_helper: "tuple[socket.socket, subprocess.Popen[bytes]] | None" = None
_own = threading.local()
_trusted: set[str | None] = set()
_given_up = threading.Event()


class TooHeavyError(PlanError):
    """A file takes more than the bounds; whoever trusts its ``content`` (a hash) may read it without."""

    def __init__(self, text: str, content: str) -> None:
        super().__init__(text)
        self.content = content


def trust(content: str | None) -> None:
    """Read the file with this content without bounds from now on; ``None``: every file."""
    _trusted.add(content)


def give_up() -> None:
    """End whatever is read, in every thread: the program ends."""
    _given_up.set()


def renew() -> None:
    """Read every file within the bounds, as at the start."""
    _trusted.clear()
    _given_up.clear()


def _content(data: bytes) -> str:
    return hashlib.blake2b(data, digest_size=16).hexdigest()


@contextmanager
def watched(watch: Watch) -> Iterator[None]:
    """Tell ``watch`` of the work of this thread that takes long, by name and seconds; it may raise to stop it."""
    _own.watch, before = watch, getattr(_own, "watch", None)
    try:
        yield
    finally:
        _own.watch = before


def run(work: Work, data: bytes, name: str, *rest: Any) -> tuple[Any, Arrays]:
    """What ``work(data, name, *rest)`` gives, worked out apart: a JSON value and arrays, which are read-only.

    Parameters
    ----------
    work
        A function of a module; ``rest`` are JSON values.

    Raises
    ------
    TooHeavyError
        It takes more computing or memory than the bounds.
    PlanError
        What ``work`` says.
    ValueError
        It ended with anything else: the file is damaged.
    """
    is_trusted = bool(_trusted) and (None in _trusted or _content(data) in _trusted)
    bounds = None if is_trusted else [MOST_CPU_S, MOST_BYTES + 2 * len(data)]
    asked = {"work": [work.__module__, work.__name__], "rest": [name, *rest], "bounds": bounds}
    try:
        ours, theirs = socket.socketpair(socket.AF_UNIX, socket.SOCK_SEQPACKET)
        with ours, _in_memory([data]) as (held,):
            with theirs:
                _send_to_helper(theirs.fileno(), held)
            ours.send(json.dumps(asked).encode())
            answer, kept = _answer(ours, name, None if is_trusted else _WALL_S)
    except OSError as error:
        why = (error.strerror or "the system refused it").lower()
        raise PlanError(f"“{name}” could not be read ({why}): close what else is open, and try again.") from error
    try:
        return _taken(answer, kept)
    except _TooMuch as much:
        raise TooHeavyError(_too_heavy(name), _content(data)) from much
    finally:
        for handle in kept:
            os.close(handle)


def _answer(ours: socket.socket, name: str, most_s: float | None) -> tuple[dict[str, Any], list[int]]:
    """All that comes back until the end is told; when nobody wants it any more, closing ``ours`` ends the work."""
    said: dict[str, Any] = {}
    kept: list[int] = []
    begun = time.monotonic()
    watch: Watch | None = getattr(_own, "watch", None)
    try:
        while "ended" not in said:
            took = time.monotonic() - begun
            if _given_up.is_set():
                raise Superseded
            if watch is not None:
                watch(name if took > _SHOWN_AFTER_S else "", took)
            if most_s is not None and took > most_s:
                said["ended"] = signal.SIGKILL
                return said, kept
            if not select.select([ours], [], [], _POLL_S)[0]:
                continue
            message, handles, _, _ = socket.recv_fds(ours, _MESSAGE, 16)
            kept += handles
            if not message:
                raise ValueError("the decoder ended without a word")
            said.update(json.loads(message))
    except BaseException:
        for handle in kept:
            os.close(handle)
        raise
    return said, kept


class _TooMuch(Exception):  # noqa: N818 - told by TooHeavyError, which knows the file
    pass


def _too_heavy(name: str) -> str:
    return (
        f"“{name}” takes more than {MOST_CPU_S:.0f} s of computing or {MOST_BYTES / 1e9:.0f} GB of memory to draw: "
        "export it as PNG at print size"
    )


def _taken(said: dict[str, Any], kept: list[int]) -> tuple[Any, Arrays]:
    if "refused" in said:
        raise PlanError(str(said["refused"]))
    was_ended = "arrays" not in said and said["ended"] in (signal.SIGXCPU, signal.SIGKILL, signal.SIGABRT)
    if "heavy" in said or was_ended:
        raise _TooMuch
    if "arrays" not in said:
        raise ValueError(str(said.get("failed", "the decoder broke down")))
    arrays: Arrays = []
    for (kind, shape), handle in zip(said["arrays"], kept, strict=True):
        wanted = np.dtype(kind)
        count = int(np.prod(shape, dtype=np.int64))
        if wanted.kind not in "uf" or os.fstat(handle).st_size < count * wanted.itemsize:
            raise ValueError("a picture that is shorter than it says")
        room = mmap.mmap(handle, max(1, count * wanted.itemsize), access=mmap.ACCESS_READ)
        arrays.append(np.frombuffer(room, wanted, count).reshape(shape))
    return said["value"], arrays


@contextmanager
def _in_memory(parts: list[Any]) -> Iterator[list[int]]:
    """Handles of anonymous memory that holds some bytes each."""
    handles = []
    try:
        for part in parts:
            handle = os.memfd_create("swaddon")
            handles.append(handle)
            size = memoryview(part).nbytes
            left = memoryview(part).cast("B") if size else memoryview(b"\0")  # nothing cannot be mapped
            while left:
                left = left[os.write(handle, left[: 1 << 28]) :]
        yield handles
    finally:
        for handle in handles:
            os.close(handle)


# the helper, from outside


def begin() -> None:
    """Have the helper start, so that the first file does not wait for it."""
    with _lock, suppress(OSError):
        _started()


def _send_to_helper(reply: int, held: int) -> None:
    with _lock:
        for is_last in (False, True):
            try:
                socket.send_fds(_started()[0], [b"file"], [reply, held])
                return
            except OSError:
                end()
                if is_last:
                    raise


def _started() -> "tuple[socket.socket, subprocess.Popen[bytes]]":
    global _helper  # noqa: PLW0603 - one helper for the whole program
    if _helper is not None and _helper[1].poll() is not None:
        end()
    if _helper is None:
        ours, theirs = socket.socketpair(socket.AF_UNIX, socket.SOCK_SEQPACKET)
        with theirs:
            quiet = {**os.environ, "OPENBLAS_NUM_THREADS": "1", "OMP_NUM_THREADS": "1"}
            command = [sys.executable, "-m", "swaddon.io.apart", str(theirs.fileno())]
            process = subprocess.Popen(
                command, pass_fds=[theirs.fileno()], stdin=subprocess.DEVNULL, stdout=subprocess.DEVNULL,
                stderr=subprocess.DEVNULL, env=quiet, start_new_session=True,
            )  # fmt: skip
        _helper = ours, process
        atexit.unregister(end)
        atexit.register(end)
    return _helper


def end() -> None:
    """Let the helper go; the next file starts another one."""
    global _helper  # noqa: PLW0603
    if _helper is not None:
        _helper[0].close()
        _helper[1].wait()
        _helper = None


# the helper, from inside


def serve(handle: int) -> None:
    """Fork for every file until the program that asks is gone."""
    signal.signal(signal.SIGCHLD, signal.SIG_IGN)
    for module in _PRELOADED:
        importlib.import_module(module)
    with socket.socket(fileno=handle) as asks:
        while True:
            message, handles, _, _ = socket.recv_fds(asks, 64, 4)
            if not message:
                return
            if os.fork() == 0:
                asks.close()
                os._exit(_watch_over(*handles))
            for own in handles:
                os.close(own)


def _watch_over(reply: int, held: int) -> int:
    """Fork once more for the work, and tell how that ended: nobody else can."""
    signal.signal(signal.SIGCHLD, signal.SIG_DFL)
    with socket.socket(fileno=reply) as answers, suppress(OSError, ValueError, KeyError):
        asked = json.loads(answers.recv(_MESSAGE))
        pid = os.fork()
        if pid == 0:
            os._exit(_work(answers, held, asked))
        status = _end_of(pid, answers)
        answers.send(json.dumps({"ended": os.WTERMSIG(status) if os.WIFSIGNALED(status) else 0}).encode())
    return 0


def _end_of(pid: int, answers: socket.socket) -> int:
    """How the work ended; it is ended as soon as nobody listens, stopped, killed or closed as the program may be."""
    ended = os.pidfd_open(pid)
    while True:
        ready, _, _ = select.select([answers.fileno(), ended], [], [])
        if ended not in ready and not answers.recv(1):
            os.kill(pid, signal.SIGKILL)
            ready = [ended]
        if ended in ready:
            return os.waitpid(pid, 0)[1]


def _work(answers: socket.socket, held: int, asked: dict[str, Any]) -> int:
    """Do the work within its bounds, and hand out what it gave."""
    if asked["bounds"] is not None:
        _bound(*asked["bounds"])
    said: dict[str, Any] = {}
    arrays: Arrays = []
    try:
        with mmap.mmap(held, 0, access=mmap.ACCESS_READ) as room:
            data = room[:]
        module, name = asked["work"]
        value, arrays = getattr(importlib.import_module(module), name)(data, *asked["rest"])
        arrays = [np.ascontiguousarray(array) for array in arrays]
        said = {"value": value, "arrays": [[array.dtype.str, array.shape] for array in arrays]}
    except PlanError as error:
        said = {"refused": str(error)}
    except MemoryError:
        said = {"heavy": True}
    except BaseException as error:  # whatever stops a decoder is told outside
        said = {"failed": f"{type(error).__name__}: {error}"[:500]}
    with suppress(OSError), _in_memory(list(arrays) if "arrays" in said else []) as handles:
        socket.send_fds(answers, [json.dumps(said).encode()], handles)
        return 0
    return 1


def _bound(cpu_s: float, memory_bytes: float) -> None:
    taken = int(Path("/proc/self/statm").read_text(encoding="ascii").split()[0]) * resource.getpagesize()
    resource.setrlimit(resource.RLIMIT_AS, (taken + int(memory_bytes), resource.RLIM_INFINITY))
    resource.setrlimit(resource.RLIMIT_CPU, (int(cpu_s), int(cpu_s) + 1))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))


def make_room(count: int) -> None:
    """Let this work take so many bytes more: those of the picture itself, once its honest size is known."""
    bound, most = resource.getrlimit(resource.RLIMIT_AS)
    if bound != resource.RLIM_INFINITY:
        resource.setrlimit(resource.RLIMIT_AS, (bound + count, most))


if __name__ == "__main__":
    serve(int(sys.argv[1]))
