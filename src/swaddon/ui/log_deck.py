"""Runs, timers and the log book on the bench: what goes on in the background, and what rings."""

from collections.abc import Callable

from PySide6.QtCore import QObject, QTimer, Signal
from PySide6.QtWidgets import QApplication, QMainWindow

from swaddon.core.run.record import Timer
from swaddon.devices.chime import Chime, Speaker
from swaddon.session.desk import Desk, Post
from swaddon.session.in_order import InOrder
from swaddon.session.log_keeper import LogKeeper
from swaddon.session.runs import Run, Runs, due
from swaddon.session.side_work import SideWork

_TICK_MS = 200
_RINGS_AT_S = (0.0, 2.0, 4.0)
"""How often a timer rings: so many s after it ran down."""


class LogDeck(QObject):
    """Keeps runs going, rings, and brings entries into the book.

    What is only shown goes by ``finds``, ``reads`` and ``looks``, where the newest wins; what must be done by ``acts``.
    """

    ticked = Signal()
    runs_changed = Signal()
    book_changed = Signal()
    told = Signal(str, str)

    def __init__(
        self, desk: Desk, post: Post, window: QMainWindow, keeper: LogKeeper | None = None, chime: Chime | None = None
    ) -> None:
        super().__init__(window)
        self._window, self._post = window, post
        self.keeper = LogKeeper() if keeper is None else keeper
        self.runs = Runs(self.keeper)
        self.chime: Chime = Speaker() if chime is None else chime
        self.sound: Callable[[], bool] = lambda: True
        self.finds, self.reads, self.looks = (
            SideWork(name, desk, post) for name in ("log-find", "log-read", "log-look")
        )
        self.acts = InOrder("log-act", post)
        self._rung: dict[tuple[str, int], int] = {}
        self._problems = {"run": "", "book": ""}
        self._clock = QTimer(self)
        self._clock.setInterval(_TICK_MS)
        self._clock.timeout.connect(self._tick)
        self.runs.changed.connect(self._changed)
        self.keeper.start(lambda count, wrong: post(lambda: self._heard(count, wrong)))
        self._changed()

    def _changed(self) -> None:
        """Time goes on only where it is told."""
        running = bool(self.runs.all())
        if running != self._clock.isActive():
            self._clock.start() if running else self._clock.stop()
        self._tell("run", self.runs.problem)
        self.runs_changed.emit()

    def _heard(self, count: int, wrong: str) -> None:
        self._tell("book", wrong)
        if count:
            self.book_changed.emit()

    def _tell(self, where: str, wrong: str) -> None:
        """Say once what is wrong, and when it is not any more; ``told`` gives what was told before, and what now."""
        before = self.problem
        self._problems[where] = wrong
        if self.problem != before:
            self.told.emit(before, self.problem)

    @property
    def problem(self) -> str:
        """What is wrong with the book or its journal."""
        return self._problems["run"] or self._problems["book"]

    def _tick(self) -> None:
        now = self.runs.now()
        over = due(self.runs.all(), now)
        self._rung = {(run.uid, timer.number): self._rung.get((run.uid, timer.number), 0) for run, timer in over}
        rings = [self._rings(run, timer, now) for run, timer in over]
        if any(rings):
            if self.sound() and not self.chime.ring():
                QApplication.beep()
            QApplication.alert(self._window)
        self.ticked.emit()

    def _rings(self, run: Run, timer: Timer, now: float) -> bool:
        """Whether a timer that has run down rings just now."""
        times, late = self._rung[run.uid, timer.number], -(timer.left_s(now) or 0.0)
        if times >= len(_RINGS_AT_S) or late < _RINGS_AT_S[times]:
            return False
        self._rung[run.uid, timer.number] = sum(late >= at for at in _RINGS_AT_S)
        return True

    @property
    def is_idle(self) -> bool:
        """Whether nothing is being read, and nothing written into the book."""
        works = (self.keeper, self.finds, self.reads, self.looks, self.acts)
        return all(work.is_idle for work in works)

    def stop(self) -> None:
        """End the background work."""
        self._clock.stop()
        for side in (self.finds, self.reads, self.looks):
            side.stop()
        self.acts.stop()
        self.keeper.close()
        close = getattr(self.chime, "close", None)
        if close is not None:
            close()
