"""What is said of the run that is shown: verdict, note, counts put right, photos. What is wrong is told, and waits."""

from collections.abc import Callable, Sequence
from pathlib import Path

from swaddon.core.errors import PlanError
from swaddon.core.log.entry import Happened
from swaddon.session.log_says import put_right, say_note, say_verdict
from swaddon.ui.station_spec import StationContext


class Saying:
    """Keeps what is said; ``head`` gives the run that is shown, empty where none is."""

    def __init__(self, context: StationContext, head: Callable[[], str]) -> None:
        self._context, self._head = context, head

    def verdict(self, looked: tuple[tuple[str, bool], ...], washes: int) -> None:
        """How a piece came out."""
        self._keep(lambda head: say_verdict(self._context.log.keeper, head, looked, washes))

    def note(self, text: str) -> None:
        """A note."""
        self._keep(lambda head: say_note(self._context.log.keeper, head, text))

    def right(self, happened: Happened) -> None:
        """Counts and weights put right."""
        self._keep(lambda head: put_right(self._context.log.keeper, head, happened))

    def photos(self, paths: Sequence[Path]) -> None:
        """Photos, read and scaled in the background."""
        head, keeper = self._head(), self._context.log.keeper
        if head:
            self._context.log.acts.do(lambda _tell: say_note(keeper, head, "", paths), failed=self._context.tell)

    def _keep(self, keep: Callable[[str], object]) -> None:
        head = self._head()
        if not head:
            return
        try:
            keep(head)
        except PlanError as error:
            self._context.tell(str(error))
