"""Marks on the proof table: outlines of what is selected, a place, a tag."""

from collections.abc import Sequence

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPen, QPolygonF

from swaddon.ui import theme
from swaddon.ui.rulers import RULER_PX


def draw_outlines(painter: QPainter, lines: Sequence[QPolygonF]) -> None:
    """Closed lines that show on any colour: dark, light, and dashes of the accent."""
    scheme = theme.current()
    for colour, width, dashes in (
        (QColor(0, 0, 0, 180), 2.5, None),
        (QColor(255, 255, 255), 1.2, None),
        (QColor(scheme.accent), 1.2, [5.0, 5.0]),
    ):
        pen = QPen(colour, width)
        if dashes:
            pen.setDashPattern(dashes)
        painter.setPen(pen)
        for line in lines:
            painter.drawPolygon(line)


def draw_place(painter: QPainter, at: QPointF) -> None:
    """A ring with four ticks round a place."""
    for colour, width in ((QColor(0, 0, 0, 160), 4.0), (QColor(theme.current().look), 2.0)):
        painter.setPen(QPen(colour, width))
        painter.drawEllipse(at, 14, 14)
        for dx, dy in ((0, -1), (0, 1), (-1, 0), (1, 0)):
            painter.drawLine(at + QPointF(dx * 14, dy * 14), at + QPointF(dx * 22, dy * 22))


def draw_tag(painter: QPainter, text: str, x: float, left: bool) -> None:
    """A word in a dark box beside the curtain, at the table's upper edge."""
    width = painter.fontMetrics().horizontalAdvance(text) + 16
    box = QRectF(x if left else x - width, RULER_PX + 12, width, 24)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(QColor(0, 0, 0, 170))
    painter.drawRoundedRect(box, 4, 4)
    painter.setPen(QColor(255, 255, 255))
    painter.drawText(box, Qt.AlignmentFlag.AlignCenter, text)
    painter.setBrush(Qt.BrushStyle.NoBrush)
