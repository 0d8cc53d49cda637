"""The legend of the trouble view: each kind with its hatch and area; a click goes to its place."""

import numpy as np
from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QIcon, QImage, QPixmap
from PySide6.QtWidgets import QFrame, QPushButton, QVBoxLayout, QWidget

from swaddon.core.plan.trouble import KINDS, Kind, Patch
from swaddon.session.pictures import KIND_TITLES, hatched
from swaddon.ui.rebuilding import take_away


class Legend(QFrame):
    """What the hatches mean; lies on the proof table."""

    go_to = Signal(float, float)

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.setObjectName("popover")
        self._layout = QVBoxLayout(self)
        self._layout.setContentsMargins(8, 6, 8, 6)
        self._layout.setSpacing(0)
        self.lines: list[QPushButton] = []
        self._shown: tuple[Patch, ...] = ()
        self.hide()

    def show_patches(self, patches: tuple[Patch, ...]) -> None:
        """Show the kinds with their areas; empty hides the legend."""
        self.setVisible(bool(patches))
        if patches == self._shown:
            return
        self._shown = patches
        for line in self.lines:
            take_away(line, self._layout)
        self.lines = [self._line(patch) for patch in reversed(patches)]
        for line in self.lines:
            self._layout.addWidget(line)
            line.show()
        self._layout.activate()
        self.adjustSize()

    def _line(self, patch: Patch) -> QPushButton:
        area = f"{patch.area_mm2:.1f} mm²" if patch.area_mm2 >= 0.05 else "none"
        made = QPushButton(f"{KIND_TITLES[patch.kind]}: {area}")
        made.setProperty("kind", "plain")
        made.setStyleSheet("text-align: left; min-height: 22px; max-height: 22px; padding: 0 6px;")
        made.setIcon(QIcon(_swatch(patch.kind)))
        made.setEnabled(patch.area_mm2 >= 0.05)
        made.setCursor(Qt.CursorShape.PointingHandCursor)
        made.clicked.connect(lambda: self.go_to.emit(patch.x_mm, patch.y_mm))
        return made


def _swatch(kind: Kind) -> QPixmap:
    side = 16
    picture = hatched(np.zeros((side, side, 3), np.uint8), np.full((side, side), KINDS.index(kind) + 1, np.uint8))
    image = QImage(picture.data, side, side, 3 * side, QImage.Format.Format_RGB888).copy()
    return QPixmap.fromImage(image)
