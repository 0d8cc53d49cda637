"""From background threads to the interface."""

import threading
from collections.abc import Callable

from PySide6.QtCore import QObject, Qt, Signal


class Mailbox(QObject):
    """Carries calls from background threads into the thread of the interface."""

    arrived = Signal(object)

    def __init__(self) -> None:
        super().__init__()
        self._lock, self._under_way = threading.Lock(), 0
        self.arrived.connect(self._take, Qt.ConnectionType.QueuedConnection)

    @property
    def is_empty(self) -> bool:
        """Whether every call that was posted has been made."""
        return self._under_way == 0

    def post(self, call: Callable[[], None]) -> None:
        with self._lock:
            self._under_way += 1
        self.arrived.emit(call)

    def _take(self, call: Callable[[], None]) -> None:
        try:
            call()
        finally:
            with self._lock:
                self._under_way -= 1
