"""The loupe: a piece of the print much enlarged, with a scale in real millimetres."""

import math

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QFont, QImage, QPainter, QPainterPath, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from swaddon.core.units import MM_PER_INCH
from swaddon.session.view import View
from swaddon.ui import theme

SIDE_PX = 252
_ENLARGED, _LEAST_SCALE, _MOST_SCALE = 6.0, 24.0, 160.0
_MM_STEPS = (0.1, 0.2, 0.5, 1.0, 2.0, 5.0)
_INCH_STEPS = (0.005, 0.01, 0.02, 0.05, 0.1, 0.2)
_LEAST_TICK_PX = 7


class Loupe(QWidget):
    """Lies on the proof table; shows what is under the pointer, or the middle of the table."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
        self.setFixedSize(SIDE_PX, SIDE_PX)
        self.setAccessibleName("Loupe")
        self.inches = False
        self.view: View | None = None
        self._image: QImage | None = None
        self._scale = _LEAST_SCALE
        self.hide()

    def aim(self, centre_mm: QPointF, table_scale: float) -> View:
        """The view that the loupe needs to show a place of the artboard; ``table_scale`` is logical px per mm."""
        ratio = self.devicePixelRatioF()
        self._scale = min(max(_ENLARGED * table_scale, _LEAST_SCALE), _MOST_SCALE)
        side = round(SIDE_PX * ratio)
        half_mm = SIDE_PX / self._scale / 2
        self.view = View(side, side, self._scale * ratio, centre_mm.x() - half_mm, centre_mm.y() - half_mm)
        return self.view

    def show_image(self, image: QImage) -> None:
        image.setDevicePixelRatio(self.devicePixelRatioF())
        self._image = image
        self.update()

    @property
    def tick(self) -> tuple[float, float]:
        """Step of the scale in its unit, and in logical pixels."""
        unit_mm, steps = (MM_PER_INCH, _INCH_STEPS) if self.inches else (1.0, _MM_STEPS)
        step = next((s for s in steps if s * unit_mm * self._scale >= _LEAST_TICK_PX), steps[-1])
        return step, step * unit_mm * self._scale

    def paintEvent(self, _event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        box = QRectF(self.rect()).adjusted(1, 1, -1, -1)
        frame = QPainterPath()
        frame.addRoundedRect(box, 8, 8)
        painter.save()
        painter.setClipPath(frame)
        painter.fillRect(box, QColor(theme.current().table))
        if self._image is not None:
            painter.drawImage(0, 0, self._image)
        self._draw_scale(painter, box)
        painter.restore()
        middle = box.center()
        for colour, width in ((QColor(0, 0, 0, 150), 3.0), (QColor(255, 255, 255), 1.0)):
            painter.setPen(QPen(colour, width))
            painter.drawLine(middle - QPointF(7, 0), middle + QPointF(7, 0))
            painter.drawLine(middle - QPointF(0, 7), middle + QPointF(0, 7))
        for colour, width in ((QColor(0, 0, 0, 200), 3.0), (QColor(255, 255, 255, 220), 1.2)):
            painter.setPen(QPen(colour, width))
            painter.drawPath(frame)

    def _draw_scale(self, painter: QPainter, box: QRectF) -> None:
        step, step_px = self.tick
        painter.fillRect(QRectF(box.left(), box.bottom() - 34, box.width(), 34), QColor(0, 0, 0, 150))
        font = QFont(theme.CONDENSED)
        font.setPixelSize(12)
        painter.setFont(font)
        painter.setPen(QPen(QColor(255, 255, 255), 1))
        left, base = box.left() + 12, box.bottom() - 29
        for index in range(math.floor((box.width() - 60) / step_px) + 1):
            x = left + index * step_px
            painter.drawLine(QPointF(x, base), QPointF(x, base + (8 if index % 5 == 0 else 4)))
            if index % 10 == 0 or (index % 5 == 0 and step_px > 14):
                painter.drawText(QRectF(x - 20, base + 9, 40, 14), Qt.AlignmentFlag.AlignCenter, f"{index * step:g}")
        unit = "in" if self.inches else "mm"
        painter.drawText(QRectF(box.right() - 36, base, 28, 16), Qt.AlignmentFlag.AlignRight, unit)
