"""One background thread that works on the newest request only."""

import threading
from collections.abc import Callable
from typing import Generic, TypeVar

from swaddon.core.engine import Superseded

T = TypeVar("T")


class NewestWins(Generic[T]):
    """Runs ``work(request, is_wanted)`` for the newest request; older ones are dropped or told to stop.

    ``work`` may raise ``Superseded``; anything else it raises goes to ``failed``. It must check ``is_wanted`` once
    more on delivery, in the thread that receives the result.
    """

    def __init__(
        self,
        name: str,
        work: Callable[[T, Callable[[], bool]], None],
        failed: Callable[[T, Exception], None],
    ) -> None:
        self._work = work
        self._failed = failed
        self._condition = threading.Condition()
        self._waiting: tuple[int, T] | None = None
        self._newest = 0
        self._stopped = False
        self._busy = False
        self._thread = threading.Thread(target=self._loop, name=name, daemon=True)

    def submit(self, request: T) -> None:
        """Ask for something; the thread starts with the first request. Nothing is begun after :meth:`stop`."""
        with self._condition:
            self._newest += 1
            self._waiting = (self._newest, request)
            if self._thread.ident is None and not self._stopped:
                self._thread.start()
            self._condition.notify_all()

    def cancel(self) -> None:
        """Nobody waits any more; a running request stops at its next check."""
        with self._condition:
            self._newest += 1
            self._waiting = None

    @property
    def is_idle(self) -> bool:
        with self._condition:
            return self._waiting is None and not self._busy

    def wait_idle(self, seconds: float) -> None:
        """Return when nothing is waiting or running, at the latest after ``seconds``."""
        with self._condition:
            self._condition.wait_for(lambda: self._waiting is None and not self._busy, seconds)

    def stop(self) -> None:
        """End the thread; returns when it has ended."""
        with self._condition:
            self._stopped = True
            self._newest += 1
            self._condition.notify_all()
        if self._thread.ident is not None:
            self._thread.join(timeout=30)

    def _loop(self) -> None:
        while True:
            with self._condition:
                self._busy = False
                self._condition.notify_all()
                while self._waiting is None and not self._stopped:
                    self._condition.wait()
                if self._stopped or self._waiting is None:
                    return
                number, request = self._waiting
                self._waiting = None
                self._busy = True
            try:
                self._work(request, lambda number=number: number == self._newest)  # type: ignore[misc]
            except Superseded:
                continue
            except Exception as error:
                self._failed(request, error)
