"""Where the print goes: the garment to scale, its proof on it, and the distances by which it is laid."""

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QColor, QFont, QPainter, QPaintEvent, QPen, QPixmap
from PySide6.QtWidgets import QSizePolicy, QWidget

from swaddon.core.order.lines import OrderLine
from swaddon.core.run.card import Placing
from swaddon.core.units import inches_from_mm
from swaddon.ui import theme
from swaddon.ui.garment import Garment, garment

_EDGE = 14.0


class PlacingView(QWidget):
    """The garment with its print and its measures."""

    def __init__(self) -> None:
        super().__init__()
        self._line, self._inches = OrderLine.__new__(OrderLine), False
        self._placing = Placing("", "", "", 0.0, (0.0, 0.0, 0.0, 0.0), (0.0, 0.0))
        self._is_set = False
        self._proof: QPixmap | None = None
        self.setMinimumSize(200, 180)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setAccessibleName("Where the print goes")

    def sizeHint(self) -> QSize:
        return QSize(300, 380)

    def show_line(self, line: OrderLine, placing: Placing, proof: QPixmap | None, inches: bool, words: str) -> None:
        """Show a line's garment with its print."""
        self._line, self._placing, self._proof, self._inches = line, placing, proof, inches
        self._is_set = True
        self.setAccessibleDescription(words)
        self.update()

    def paintEvent(self, _event: QPaintEvent) -> None:
        if not self._is_set:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        piece = garment(self._line.shape)
        box = QRectF(self.rect()).adjusted(_EDGE, _EDGE, -_EDGE, -_EDGE)
        outline = piece.outline.boundingRect()
        scale = min(box.width() / outline.width(), box.height() / outline.height())
        place = self._place(piece)
        painter.save()
        painter.translate(box.center())
        painter.scale(scale, scale)
        painter.translate(-outline.center())
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(*self._line.settings.garment))
        painter.drawPath(piece.outline)
        piece.draw_shading(painter)
        if self._proof is not None:
            painter.setClipPath(piece.outline)
            painter.drawPixmap(place, self._proof, QRectF(self._proof.rect()))
        to_screen = painter.transform()
        painter.restore()
        self._measure(painter, to_screen.mapRect(self._ink(place)), to_screen.map(QPointF(0, 0)), piece)

    def _place(self, piece: Garment) -> QRectF:
        width, height = self._placing.artboard_mm
        top = self._placing.drop_mm if piece.has_collar else piece.print_top_mm
        return QRectF(-width / 2, top, width, height)

    def _ink(self, place: QRectF) -> QRectF:
        """Where the ink lies within the artboard."""
        left, top, width, height = self._placing.ink_mm
        return QRectF(place.left() + left, place.top() + top, width, height)

    def _measure(self, painter: QPainter, place: QRectF, middle: QPointF, piece: Garment) -> None:
        """The middle line, how far below the collar, and the print's size."""
        line = QColor("#ffffff") if sum(self._line.settings.garment) < 384 else QColor("#202020")
        font = QFont(theme.FAMILY)
        font.setPixelSize(12)
        font.setWeight(QFont.Weight.DemiBold)
        painter.setFont(font)
        painter.setPen(QPen(line, 1, Qt.PenStyle.DashLine))
        painter.drawLine(QPointF(middle.x(), middle.y()), QPointF(middle.x(), place.top()))
        painter.drawLine(QPointF(middle.x(), place.bottom()), QPointF(middle.x(), place.bottom() + 8))
        painter.setPen(QPen(line, 1))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(place)
        if piece.has_collar and place.top() - middle.y() > 8:
            at = middle.x()
            for end, way in ((middle.y(), 1), (place.top(), -1)):
                painter.drawLine(QPointF(at, end), QPointF(at - 3, end + 5 * way))
                painter.drawLine(QPointF(at, end), QPointF(at + 3, end + 5 * way))
            self._words(painter, QPointF(at + 8, (middle.y() + place.top()) / 2), self._told(self._placing.ink_drop_mm))
        width, height = self._placing.ink_mm[2:]
        size = f"{self._told(width, unit=False)} × {self._told(height)}"
        self._words(painter, QPointF(place.left() + 4, min(place.bottom() + 14, self.height() - 10)), size)

    def _words(self, painter: QPainter, at: QPointF, text: str) -> None:
        """Words on a ground of their own, so that they are read on any cloth."""
        scheme = theme.current()
        box = QRectF(painter.fontMetrics().boundingRect(text)).adjusted(-4, -2, 4, 2)
        box.moveLeft(at.x())
        box.moveTop(at.y() - box.height() / 2)
        pen = painter.pen()
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(scheme.panel))
        painter.drawRoundedRect(box, 3, 3)
        painter.setPen(QColor(scheme.text))
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, text)
        painter.setPen(pen)

    def _told(self, length_mm: float, unit: bool = True) -> str:
        if self._inches:
            return f"{inches_from_mm(length_mm):.3g}" + (" in" if unit else "")
        return f"{length_mm:.0f}" + (" mm" if unit else "")
