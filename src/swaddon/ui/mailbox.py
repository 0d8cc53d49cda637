"""From background threads to the interface."""

from collections.abc import Callable

from PySide6.QtCore import QObject, Qt, Signal


class Mailbox(QObject):
    """Carries calls from background threads into the thread of the interface."""

    arrived = Signal(object)

    def __init__(self) -> None:
        super().__init__()
        self.arrived.connect(lambda call: call(), Qt.ConnectionType.QueuedConnection)

    def post(self, call: Callable[[], None]) -> None:
        self.arrived.emit(call)
