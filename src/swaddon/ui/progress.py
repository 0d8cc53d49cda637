"""Progress of work that takes longer than half a second, with a way to stop it."""

from collections.abc import Callable

from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QHBoxLayout, QProgressBar, QWidget

from swaddon.ui.widgets import button, label

_SHOW_AFTER_MS = 500


class ProgressStrip(QWidget):
    """Hidden until something has run for half a second; says when it was stopped, and offers to go on."""

    def __init__(self, stop: Callable[[], None], go_on: Callable[[], None]) -> None:
        super().__init__()
        layout = QHBoxLayout(self)
        layout.setContentsMargins(16, 0, 16, 2)
        self._text = label("", "quiet")
        self._bar = QProgressBar()
        self._bar.setTextVisible(False)
        self._bar.setRange(0, 100)
        self._bar.setAccessibleName("Progress")
        self.stop = button("Stop", "link", tip="Give up this computation; the last finished plan stays")
        self.stop.clicked.connect(stop)
        self.go_on = button("Go on", "link", tip="Take the computation up again")
        self.go_on.clicked.connect(go_on)
        self.go_on.hide()
        for item in (self._text, self._bar, self.stop, self.go_on):
            layout.addWidget(item)
        layout.setStretchFactor(self._bar, 1)
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.setInterval(_SHOW_AFTER_MS)
        self._timer.timeout.connect(self.show)
        self.hide()

    def show_stopped(self) -> None:
        """The plan was stopped: what is shown is of before the last change."""
        self._timer.stop()
        self._text.setText("Stopped: numbers and findings are those of before the last change.")
        self._running(False)
        self.show()

    def _running(self, runs: bool) -> None:
        for item in (self._bar, self.stop):
            item.setVisible(runs)
        self.go_on.setVisible(not runs)

    def begin(self) -> None:
        """Something has begun; show it when it lasts."""
        self._running(True)
        if not self.isVisible():
            self._text.setText("")
            self._bar.setValue(0)
            self._timer.start()

    def finish(self) -> None:
        self._timer.stop()
        self.hide()

    def show_progress(self, title: str, share: float) -> None:
        """What is being done and how much of it is; an empty title is the end."""
        self._text.setText(title)
        if title:
            self._running(True)
        self._bar.setValue(round(share * 100))
        if not title:
            self.finish()
