"""Pieces of a run as a bar: good ones, spoiled ones under a hatch, and what is still to do."""

from PySide6.QtCore import QPointF, QRectF
from PySide6.QtGui import QColor, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from swaddon.ui import theme
from swaddon.ui.widgets import plain_tip

_HEIGHT, _HATCH = 14, 6


class PieceBar(QWidget):
    """Good and spoiled pieces, to scale of what was ordered."""

    def __init__(self, name: str) -> None:
        super().__init__()
        self._good, self._lost, self._wanted = 0, 0, 0
        self.setFixedHeight(_HEIGHT)
        self.setAccessibleName(name)

    def show_pieces(self, good: int, lost: int, wanted: int, reasons: str) -> None:
        """Show the pieces; ``reasons`` is why they were spoiled, in words."""
        self._good, self._lost, self._wanted = good, lost, wanted
        self.setAccessibleDescription(f"{good} good, {lost} spoiled of {wanted}")
        self.setToolTip(plain_tip(reasons))
        self.update()

    def paintEvent(self, _event: QPaintEvent) -> None:
        scheme = theme.current()
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        box = QRectF(self.rect())
        whole = max(self._wanted, self._good + self._lost, 1)
        good, lost = box.width() * self._good / whole, box.width() * self._lost / whole
        painter.fillRect(box, QColor(scheme.raised))
        painter.fillRect(QRectF(0, 0, good, box.height()), QColor(scheme.gain))
        spoiled = QRectF(good, 0, lost, box.height())
        hatch(painter, spoiled, QColor(scheme.stop), QColor(scheme.ground))


def hatch(painter: QPainter, box: QRectF, colour: QColor, lines: QColor) -> None:
    """Fill a box with a colour under slanted lines: spoiled is told by shape too."""
    if box.width() <= 0:
        return
    painter.save()
    painter.fillRect(box, colour)
    painter.setClipRect(box)
    painter.setPen(QPen(lines, 1.5))
    for at in range(int(box.left() - box.height()), int(box.right() + box.height()), _HATCH):
        painter.drawLine(QPointF(at, box.bottom()), QPointF(at + box.height(), box.top()))
    painter.restore()
