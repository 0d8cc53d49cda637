"""Work that must be done, one after another, in a thread of its own: nothing that comes later takes its place."""

import queue
import threading
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from swaddon.core.engine import Superseded
from swaddon.core.errors import told
from swaddon.session.desk import Post

Progress = Callable[[str, float], None]


@dataclass(frozen=True, eq=False)
class _Asked:
    work: Callable[[Progress], Any]
    done: Callable[[Any], None]
    failed: Callable[[str], None]
    progress: Progress


class InOrder:
    """Does what it is given in the order in which it came; who asked hears of it in the thread of the interface.

    The thread starts with the first thing to do.
    """

    def __init__(self, name: str, post: Post) -> None:
        self._post = post
        self._waiting: queue.SimpleQueue[_Asked | None] = queue.SimpleQueue()
        self._open, self._lock, self._ends = 0, threading.Lock(), False
        self._thread = threading.Thread(target=self._loop, name=name, daemon=True)

    def do(
        self,
        work: Callable[[Progress], Any],
        done: Callable[[Any], None] = lambda _made: None,
        failed: Callable[[str], None] = lambda _text: None,
        progress: Progress = lambda _title, _share: None,
    ) -> None:
        """Do something after all that was asked for before; ``work`` gets a way to tell how far it is."""
        with self._lock:
            self._open += 1
            if self._thread.ident is None and not self._ends:
                self._thread.start()
        self._waiting.put(_Asked(work, done, failed, progress))

    @property
    def is_idle(self) -> bool:
        """Whether all is done and heard of."""
        with self._lock:
            return self._open == 0

    def stop(self) -> None:
        """End the thread: what is being done ends where it next tells how far it is, what waits is not begun."""
        with self._lock:
            self._ends = True
        self._waiting.put(None)
        if self._thread.ident is not None:
            self._thread.join(timeout=30)

    def _loop(self) -> None:
        while (asked := self._waiting.get()) is not None and not self._ends:
            hear, what = self._result(asked)
            self._post(lambda hear=hear, what=what: self._heard(hear, what))  # type: ignore[misc]

    def _result(self, asked: _Asked) -> tuple[Callable[[Any], None], Any]:
        def progress(title: str, share: float) -> None:
            if self._ends:
                raise Superseded
            self._post(lambda: asked.progress(title, share))

        try:
            return asked.done, asked.work(progress)
        except Superseded:
            return asked.failed, "Stopped."
        except Exception as error:
            return asked.failed, told(error)

    def _heard(self, hear: Callable[[Any], None], what: Any) -> None:
        with self._lock:
            self._open -= 1
        hear(what)
