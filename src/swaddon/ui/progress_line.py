"""What is being done, how far it is, and a way to stop it, on one line; hidden while nothing is done."""

from PySide6.QtWidgets import QHBoxLayout, QProgressBar, QWidget

from swaddon.ui.widgets import button, label


class ProgressLine(QWidget):
    """Shown while something runs."""

    def __init__(self, stop: str = "Stop") -> None:
        super().__init__()
        self.bar = QProgressBar()
        self.bar.setTextVisible(False)
        self.step, self.stop = label("", "quiet"), button(stop, "link")
        layout = QHBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(8)
        layout.addWidget(self.step)
        layout.addWidget(self.bar, 1)
        layout.addWidget(self.stop)
        self.hide()

    def show_progress(self, title: str, share: float) -> None:
        """What is being done, and how far it is; an empty title: nothing."""
        self.setVisible(bool(title))
        self.step.setText(title)
        self.bar.setValue(round(100 * share))
