"""The shop's prices as they stand, for all that shows money; other prices reach every open job."""

from typing import ClassVar

from psygnal import Signal

from swaddon.core.flow.shop import Shop
from swaddon.core.shop.book import Book
from swaddon.io.priced import priced_profile, worked_profile
from swaddon.session import shop
from swaddon.session.price_change import take_prices
from swaddon.session.tray import Tray


class Prices:
    """Keeps the table at hand, so that nobody reads it from disk again and again."""

    changed: ClassVar[Signal] = Signal(description="there are other prices")

    def __init__(self) -> None:
        self._book: Book | None = None
        self._shop: Shop | None = None

    def book(self) -> Book:
        """The shop's prices."""
        if self._book is None:
            self._book = shop.book()
        return self._book

    def shop(self) -> Shop:
        """The shop's resources, hours and stages."""
        if self._shop is None:
            self._shop = shop.flow_shop()
        return self._shop

    def take_shop(self, changed: Shop) -> None:
        """Keep another shop; raises ``PlanError`` when it cannot be kept, and uses it all the same."""
        self._shop = changed
        self.changed.emit()
        shop.keep_flow_shop(changed)

    def take(self, tray: Tray, book: Book, press: str, figures: dict[str, float]) -> int:
        """Keep other prices, and figures of a press, and let all open jobs reckon with them; how many jobs changed.

        Raises
        ------
        PlanError
            When they cannot price the press of an open job, or cannot be kept; then nothing changes.
        """
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
        if book != self.book():
            shop.keep_book(book)
        self._book = book
        for uid, edit in edits:
            tray.apply(uid, edit, "prices")
        self.changed.emit()
        return len(edits)
