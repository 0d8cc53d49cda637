"""What is kept, watched from the bench: told where it cannot be read or kept, followed where another changes it."""

from PySide6.QtCore import QObject, QTimer

from swaddon.session import kept
from swaddon.session.tray import Tray
from swaddon.ui.shell import Shell

_LOOK_MS = 500
_TRY_MS = 10_000


class KeptWatch(QObject):
    """Looks twice a second whether another program has changed a document, and whether something is to be told."""

    def __init__(self, bench: Shell, tray: Tray) -> None:
        super().__init__(bench)
        self._bench, self._tray = bench, tray
        for every_ms, look in ((_LOOK_MS, self.look), (_TRY_MS, kept.try_again)):
            timer = QTimer(self)
            timer.timeout.connect(look)
            timer.start(every_ms)

    def look(self) -> None:
        """Follow what has changed, and tell what there is to tell."""
        self._bench.log.runs.follow()
        if kept.has_changed():
            self._bench.deck.prices.follow(self._tray)
            self._bench.shop_changed()
        if found := kept.news():
            self._bench.tell("\n".join(found))
