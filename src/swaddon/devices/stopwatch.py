"""A stopwatch with a clock of whose choice."""

import time
from collections.abc import Callable


class Stopwatch:
    """Started and stopped by hand; ``clock`` gives seconds."""

    def __init__(self, clock: Callable[[], float] = time.monotonic) -> None:
        self._clock = clock
        self._since: float | None = None
        self._gone = 0.0

    @property
    def runs(self) -> bool:
        return self._since is not None

    @property
    def seconds(self) -> float:
        """Time gone so far."""
        return self._gone + (0.0 if self._since is None else self._clock() - self._since)

    def start(self) -> None:
        """Go on from where it stands."""
        if self._since is None:
            self._since = self._clock()

    def stop(self) -> float:
        """Stop; the time that it shows."""
        self._gone, self._since = self.seconds, None
        return self._gone

    def reset(self) -> None:
        """Back to 0, stopped."""
        self._gone, self._since = 0.0, None
