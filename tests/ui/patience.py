"""Waiting for conditions: events are taken as they come, and nothing is slept through."""

import time
from collections.abc import Callable
from typing import Any

from PySide6.QtCore import QCoreApplication, QEvent, QTimer
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QWidget

from swaddon.ui.bench import Bench

_POLL_MS = 12
_PATIENCE_S = 240.0
"""After this something hangs, however loaded the machine is."""


def take_events() -> None:
    """Take what waits: sizes, pictures, calls from the background, and what is to be deleted."""
    for _ in range(2):
        QCoreApplication.processEvents()
        QCoreApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)


def as_soon_as(holds: Callable[[], Any]) -> None:
    """Let the window live until a condition holds for the first time, which may be for a moment only."""
    end = time.monotonic() + _PATIENCE_S
    while not holds():
        assert time.monotonic() < end, "waited in vain"
        QTest.qWait(_POLL_MS)


def until(holds: Callable[[], Any]) -> None:
    """Let the window live until a condition holds, also after all events that wait were taken."""
    end = time.monotonic() + _PATIENCE_S
    while True:
        as_soon_as(holds)
        take_events()
        if holds():
            return
        assert time.monotonic() < end, "waited in vain"


def has_delivered(bench: Bench) -> bool:
    """Whether files, plan and pictures are done and shown."""

    def rests() -> bool:
        planned = bench.session.job.file is None or bench.desk.is_current
        return planned and bench.desk.is_idle and bench.mailbox.is_empty

    if not rests():
        return False
    bench.desk.wait_for_files()
    return rests()


def is_quiet(window: QWidget) -> bool:
    """Whether nothing below a window waits for its moment."""
    return not any(timer.isSingleShot() and timer.isActive() for timer in window.findChildren(QTimer))


def until_rest(bench: Bench, *works: Any) -> None:
    """Until plans are made and shown, and all that was asked of ``works`` in the background."""
    until(lambda: has_delivered(bench) and is_quiet(bench) and all(work.is_idle for work in works))
