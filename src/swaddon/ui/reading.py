"""Reading files beside the window: shown, stopped when it is told to, and asked about where a file takes too much."""

from collections.abc import Callable
from functools import partial
from typing import Any

from swaddon.io import apart
from swaddon.session.desk import Desk
from swaddon.ui.asking import ask_trust
from swaddon.ui.shell import Shell


class Reader:
    """Reads in the background, one after the other."""

    def __init__(self, window: Shell, desk: Desk) -> None:
        self._window, self._desk = window, desk
        self.ask_trust: Callable[[str], bool] = partial(ask_trust, window)

    def __call__(self, work: Callable[[], Any], done: Callable[[Any], None]) -> None:
        """Have ``work`` done and ``done`` told of it; a file that takes too much is read without bounds if trusted."""

        def bounded() -> Any:
            try:
                return work()
            except apart.TooHeavyError as error:
                return error

        def finish(result: Any) -> None:
            self._end()
            if not isinstance(result, apart.TooHeavyError):
                self._window.tell("")
                done(result)
            elif self.ask_trust(str(result)):
                apart.trust(result.content)
                self(work, done)
            else:
                self._window.tell(f"{result}.")

        self._window.progress.begin()
        self._desk.in_background(bounded, finish, self._end)

    def _end(self) -> None:
        self._desk.progressed.emit("", 1.0)
