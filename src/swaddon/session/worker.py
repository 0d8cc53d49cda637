"""One background thread that works on the newest request only, and news of which only the newest counts."""

import threading
from collections.abc import Callable
from typing import Generic, ParamSpec, TypeVar

from swaddon.core.engine import Superseded

T = TypeVar("T")
P = ParamSpec("P")


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


class NewestTold(Generic[P]):
    """Posts calls of ``tell`` to the interface, with the newest values there are when it comes to take one.

    A plan whose stages are all known reports dozens of steps at once; each would paint the window anew.
    """

    def __init__(self, post: Callable[[Callable[[], None]], None], tell: Callable[P, None]) -> None:
        self._post, self._tell = post, tell
        self._lock = threading.Lock()
        self._newest: Callable[[], None] | None = None

    def __call__(self, *args: P.args, **named: P.kwargs) -> None:
        with self._lock:
            waits, self._newest = self._newest is not None, lambda: self._tell(*args, **named)
        if not waits:
            self._post(self._take)

    def _take(self) -> None:
        with self._lock:
            newest, self._newest = self._newest, None
        if newest is not None:
            newest()
