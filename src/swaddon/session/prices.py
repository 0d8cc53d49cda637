"""The shop's prices as they stand, for all that shows money; other prices reach every open job."""

from contextlib import suppress
from typing import ClassVar

from psygnal import Signal

from swaddon.core.errors import PlanError
from swaddon.core.flow.shop import Shop
from swaddon.core.shop.book import Book
from swaddon.io.priced import priced_profile, worked_profile
from swaddon.session import shop
from swaddon.session.price_change import take_prices
from swaddon.session.session import Edit
from swaddon.session.tray import Tray


class Prices:
    """Prices and shop as they are kept, also where another program has changed them since."""

    changed: ClassVar[Signal] = Signal(description="there are other prices")

    def __init__(self) -> None:
        self._own = shop.own_book()

    def book(self) -> Book:
        """The shop's prices."""
        return shop.book()

    def shop(self) -> Shop:
        """The shop's resources, hours and stages."""
        return shop.flow_shop()

    def take_shop(self, changed: Shop) -> None:
        """Keep another shop, and use it also where it cannot be kept."""
        shop.keep_flow_shop(changed)
        self.changed.emit()

    def take(self, tray: Tray, book: Book, press: str, figures: dict[str, float]) -> int:
        """Keep other prices, and figures of a press, and let all open jobs reckon with them; how many jobs changed.

        Raises
        ------
        PlanError
            When they cannot price the press of an open job, or cannot be kept; then nothing changes.
        """
        edits = _edits(tray, book, press, figures)
        if book != self.book():
            shop.keep_book(book)
            self._own = book
        return self._apply(tray, edits)

    def follow(self, tray: Tray) -> None:
        """Let all open jobs reckon with prices that another program has kept, where they can price all of them."""
        before, self._own = self._own, shop.own_book()
        edits: list[tuple[int, Edit]] = []
        if self._own is not None and self._own != before:
            with suppress(PlanError):
                edits = _edits(tray, self._own, "", {})
        self._apply(tray, edits)

    def _apply(self, tray: Tray, edits: list[tuple[int, Edit]]) -> int:
        for uid, edit in edits:
            tray.apply(uid, edit, "prices")
        self.changed.emit()
        return len(edits)


def _edits(tray: Tray, book: Book, press: str, figures: dict[str, float]) -> list[tuple[int, Edit]]:
    """What other prices change in open jobs; raises ``PlanError`` where they cannot price the press of one."""
    edits = []
    for index in range(len(tray)):
        held = tray.snapshot(index)
        if held.job.profile is None:
            continue
        made = priced_profile(held.job.profile, book)
        if held.job.profile.name == press and figures:
            made = worked_profile(made, **figures)
        if made is not held.job.profile:
            edits.append((held.uid, take_prices(made)))
    return edits
