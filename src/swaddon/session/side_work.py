"""Long work beside plan and pictures of the line at hand, in a thread of its own; the newest wins."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from swaddon.core.engine import Run
from swaddon.core.errors import told
from swaddon.session.desk import Desk, Post
from swaddon.session.worker import NewestWins

Tell = Callable[[Any], None]


@dataclass(frozen=True, eq=False)
class Asked:
    """Work, and who is to hear of it, each in the thread of the interface.

    ``work`` gets the run, which says whether it is still wanted, and ``step``, by which it hands over what is done;
    what it returns goes to ``done``. ``failed`` gets a sentence, ``progress`` title and share of what is being done;
    ``stopped`` hears when it was given up.
    """

    work: Callable[[Run, Tell], Any]
    done: Tell
    step: Tell
    failed: Callable[[str], None]
    progress: Callable[[str, float], None]
    stopped: Callable[[], None]


class SideWork:
    """Does one thing at a time, after what the bench itself waits for."""

    def __init__(self, name: str, desk: Desk, post: Post) -> None:
        self._desk, self._post = desk, post
        self._worker = NewestWins[Asked](name, self._work, self._work_failed)
        self._open: Asked | None = None

    @property
    def is_idle(self) -> bool:
        return self._worker.is_idle

    def start(
        self,
        work: Callable[[Run, Tell], Any],
        done: Tell,
        failed: Callable[[str], None],
        step: Tell = lambda _found: None,
        progress: Callable[[str, float], None] = lambda _title, _share: None,
        stopped: Callable[[], None] = lambda: None,
    ) -> None:
        """Begin; what was begun before is given up."""
        self.cancel()
        self._open = Asked(work, done, step, failed, progress, stopped)
        self._worker.submit(self._open)

    def cancel(self) -> None:
        """Give up what is being done; who asked for it hears that it was stopped, and nothing more."""
        self._worker.cancel()
        given_up, self._open = self._open, None
        if given_up is not None:
            given_up.stopped()

    def _end(self, asked: Asked, hear: Callable[..., None], *what: Any) -> None:
        """The last that is heard of something, in the thread of the interface; nothing where it was given up."""
        if asked is self._open:
            self._open = None
            hear(*what)

    def stop(self) -> None:
        """End the thread."""
        self._worker.stop()

    def _work(self, asked: Asked, is_wanted: Callable[[], bool]) -> None:
        def tell(hear: Callable[..., None], *what: Any) -> None:
            self._post(lambda: hear(*what) if is_wanted() else None)

        def still_wanted() -> bool:
            self._desk.let_go_first()
            return is_wanted()

        run = Run(self._desk.cache.beside(1), still_wanted, lambda title, share: tell(asked.progress, title, share))
        made = asked.work(run, lambda found: tell(asked.step, found))
        self._post(lambda: self._end(asked, asked.done, made))

    def _work_failed(self, asked: Asked, error: Exception) -> None:
        text = told(error)
        self._post(lambda: self._end(asked, asked.failed, text))
