"""Work that begins once the operator has paused: after the last of several changes, not after each."""

from collections.abc import Callable

from PySide6.QtCore import QObject, QTimer

SHARE = 1.0
"""Share of the pauses that is really waited for; tests, whose hands are quick, set it lower."""


def settling(parent: QObject, after_ms: int, begin: Callable[[], object]) -> QTimer:
    """A timer that, once started, begins when it was not started again for so many milliseconds."""
    timer = QTimer(parent)
    timer.setSingleShot(True)
    timer.setInterval(round(after_ms * SHARE))
    timer.timeout.connect(begin)
    return timer
