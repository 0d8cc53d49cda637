"""Rulers in mm or inches along the proof table, with the print's extent marked."""

import math
from collections.abc import Callable

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QFont, QPainter, QPen

from swaddon.core.units import MM_PER_INCH
from swaddon.ui import theme

RULER_PX = 22
_LEAST_STEP_PX = 46
_MM_STEPS = (1, 2, 5, 10, 20, 50, 100, 200, 500)
_INCH_STEPS = (0.125, 0.25, 0.5, 1, 2, 4, 8, 16)


def draw_rulers(
    painter: QPainter,
    area: QRectF,
    scale: float,
    mm_at: Callable[[QPointF], QPointF],
    size_mm: tuple[float, float],
    inches: bool,
) -> None:
    """Draw both rulers; ``scale`` is logical pixels per mm."""
    scheme = theme.current()
    painter.save()
    font = QFont(theme.CONDENSED)
    font.setPixelSize(11)
    painter.setFont(font)
    unit_mm, steps = (MM_PER_INCH, _INCH_STEPS) if inches else (1.0, _MM_STEPS)
    step = next((s for s in steps if s * unit_mm * scale >= _LEAST_STEP_PX), steps[-1])
    first, last = mm_at(area.topLeft()), mm_at(area.bottomRight())
    painter.fillRect(QRectF(0, 0, area.right(), RULER_PX), QColor(scheme.panel))
    painter.fillRect(QRectF(0, 0, RULER_PX, area.bottom()), QColor(scheme.panel))
    _marks(painter, area, scale, first, last, step, unit_mm, size_mm, horizontal=True)
    _marks(painter, area, scale, first, last, step, unit_mm, size_mm, horizontal=False)
    painter.fillRect(QRectF(0, 0, RULER_PX, RULER_PX), QColor(scheme.panel))
    painter.setPen(QColor(scheme.quiet))
    painter.drawText(QRectF(0, 0, RULER_PX, RULER_PX), Qt.AlignmentFlag.AlignCenter, "in" if inches else "mm")
    painter.restore()


def _marks(
    painter: QPainter,
    area: QRectF,
    scale: float,
    first: QPointF,
    last: QPointF,
    step: float,
    unit_mm: float,
    size_mm: tuple[float, float],
    horizontal: bool,
) -> None:
    scheme = theme.current()
    start, stop = (first.x(), last.x()) if horizontal else (first.y(), last.y())
    origin = area.left() if horizontal else area.top()
    extent = size_mm[0] if horizontal else size_mm[1]
    low, high = origin + (0 - start) * scale, origin + (extent - start) * scale
    band = QRectF(low, RULER_PX - 3, high - low, 3) if horizontal else QRectF(RULER_PX - 3, low, 3, high - low)
    painter.fillRect(band, QColor(scheme.quiet))
    for index in range(math.floor(start / (step * unit_mm)), math.ceil(stop / (step * unit_mm)) + 1):
        at = origin + (index * step * unit_mm - start) * scale
        if at < origin:
            continue
        text = f"{index * step:g}"
        painter.setPen(QPen(QColor(scheme.quiet), 1))
        if horizontal:
            painter.drawLine(QPointF(at, RULER_PX - 7), QPointF(at, RULER_PX))
            painter.setPen(QColor(scheme.text))
            painter.drawText(QRectF(at - 30, 0, 60, RULER_PX - 7), Qt.AlignmentFlag.AlignCenter, text)
        else:
            painter.drawLine(QPointF(RULER_PX - 7, at), QPointF(RULER_PX, at))
            painter.setPen(QColor(scheme.text))
            painter.save()
            painter.translate(RULER_PX - 14, at)
            painter.rotate(-90)
            painter.drawText(QRectF(-30, -8, 60, 14), Qt.AlignmentFlag.AlignCenter, text)
            painter.restore()
