"""The page as it was sent and as it was scanned, one upon the other under a curtain."""

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QImage, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QResizeEvent, QWheelEvent
from PySide6.QtWidgets import QWidget

from swaddon.core.testprint.layout import WIDTH_MM
from swaddon.ui import theme

_MARGIN_PX = 24
_HINT = "Wheel or + − zooms · drag or arrows move · 0 shows the whole page"
_HINT_PLACE = Qt.AlignmentFlag.AlignBottom | Qt.AlignmentFlag.AlignLeft
_NEAR_PX = 8


class PageTable(QWidget):
    """Shows a page; the curtain is dragged, the wheel zooms, a drag beside the curtain moves."""

    def __init__(self) -> None:
        super().__init__()
        self.setAccessibleName("Test page: sent and scanned")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setMinimumSize(320, 240)
        self._sent: QImage | None = None
        self._scanned: QImage | None = None
        self._scale, self._corner = 1.0, QPointF()
        self._is_fitted = True
        self._curtain = 0.5
        self._drags: str = ""
        self._from = QPointF()

    @property
    def curtain(self) -> float:
        """Where the curtain hangs, 0..1 of the width."""
        return self._curtain

    @property
    def shows_scan(self) -> bool:
        return self._scanned is not None

    def show_page(self, sent: NDArray[np.uint8], scanned: NDArray[np.uint8] | None) -> None:
        """Show the page that was sent, and perhaps its scan, both ``uint8 (H, W, 3)`` sRGB of one size."""
        self._sent = _image(sent)
        self._scanned = None if scanned is None else _image(scanned)
        told = "the page as it should come out" if scanned is None else "left of the curtain as sent, right as scanned"
        self.setAccessibleDescription(told)
        if self._is_fitted:
            self.fit()
        self.update()

    def clear(self) -> None:
        """Nothing lies here."""
        self._sent = self._scanned = None
        self.setAccessibleDescription("")
        self.update()

    def fit(self) -> None:
        """The whole page in the middle."""
        if self._sent is None:
            return
        room = QRectF(self.rect()).adjusted(_MARGIN_PX, _MARGIN_PX, -_MARGIN_PX, -_MARGIN_PX)
        self._scale = min(room.width() / self._sent.width(), room.height() / self._sent.height())
        size = QPointF(self._sent.width() * self._scale, self._sent.height() * self._scale)
        self._corner = QPointF(self.rect().center()) - size / 2
        self._is_fitted = True
        self.update()

    def go_to(self, x_mm: float, y_mm: float, px_per_mm: float = 14.0) -> None:
        """Bring a place of the page to the middle."""
        if self._sent is None:
            return
        self._scale = px_per_mm * WIDTH_MM / self._sent.width()
        per_mm = self._sent.width() / WIDTH_MM * self._scale
        self._corner = QPointF(self.rect().center()) - QPointF(x_mm * per_mm, y_mm * per_mm)
        self._is_fitted = False
        self.update()

    def resizeEvent(self, _event: QResizeEvent) -> None:
        if self._is_fitted:
            self.fit()

    def wheelEvent(self, event: QWheelEvent) -> None:
        self._zoom(1.0015 ** event.angleDelta().y(), event.position())

    def _zoom(self, factor: float, at: QPointF) -> None:
        scale = min(max(self._scale * factor, 0.1), 20.0)
        self._corner = at - (at - self._corner) * (scale / self._scale)
        self._scale, self._is_fitted = scale, False
        self.update()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._drags = "curtain" if self._near(event.position()) else "page"
        self._from = event.position()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._drags == "curtain":
            self._hang(event.position().x() / max(self.width(), 1))
        elif self._drags == "page":
            self._corner += event.position() - self._from
            self._from, self._is_fitted = event.position(), False
            self.update()
        else:
            near = self._near(event.position())
            self.setCursor(Qt.CursorShape.SplitHCursor if near else Qt.CursorShape.ArrowCursor)

    def mouseReleaseEvent(self, _event: QMouseEvent) -> None:
        self._drags = ""

    def keyPressEvent(self, event: QKeyEvent) -> None:
        moves = {Qt.Key.Key_Left: (40.0, 0.0), Qt.Key.Key_Right: (-40.0, 0.0), Qt.Key.Key_Up: (0.0, 40.0),
                 Qt.Key.Key_Down: (0.0, -40.0)}  # fmt: skip
        move = moves.get(Qt.Key(event.key()))
        if move is not None and event.modifiers() & Qt.KeyboardModifier.ShiftModifier and move[0]:
            self._hang(self._curtain - move[0] / 2000)
        elif move is not None:
            self._corner += QPointF(*move)
            self._is_fitted = False
            self.update()
        elif event.text() in ("+", "="):
            self._zoom(1.25, QPointF(self.rect().center()))
        elif event.text() == "-":
            self._zoom(0.8, QPointF(self.rect().center()))
        elif event.text() == "0":
            self.fit()
        else:
            super().keyPressEvent(event)

    def _hang(self, share: float) -> None:
        self._curtain = min(max(share, 0.02), 0.98)
        self.update()

    def _near(self, at: QPointF) -> bool:
        return self.shows_scan and abs(at.x() - self._curtain * self.width()) < _NEAR_PX

    def paintEvent(self, _event: QPaintEvent) -> None:
        scheme = theme.current()
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.fillRect(self.rect(), QColor(scheme.table))
        if self._sent is None:
            return
        size = QPointF(self._sent.width() * self._scale, self._sent.height() * self._scale)
        box = QRectF(self._corner, self._corner + size)
        painter.fillRect(box.adjusted(-8, -8, 8, 8), QColor("#3a3a3a"))
        painter.drawImage(box, self._sent)
        if self._scanned is not None:
            x = self._curtain * self.width()
            painter.save()
            painter.setClipRect(QRectF(x, 0, self.width() - x, self.height()))
            painter.drawImage(box, self._scanned)
            painter.restore()
            for colour, thick in ((QColor(0, 0, 0, 140), 4.0), (QColor(255, 255, 255), 1.5)):
                painter.setPen(QPen(colour, thick))
                painter.drawLine(QPointF(x, 0), QPointF(x, self.height()))
            self._tag(painter, "Sent", x - 8, left=False)
            self._tag(painter, "Scanned", x + 8, left=True)
        painter.setPen(QColor(scheme.text))
        painter.drawText(QRectF(self.rect()).adjusted(10, 0, -10, -6), _HINT_PLACE, _HINT)
        if self.hasFocus():
            painter.setPen(QPen(QColor(scheme.accent), 2))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(QRectF(self.rect()).adjusted(1, 1, -1, -1))

    def _tag(self, painter: QPainter, text: str, x: float, left: bool) -> None:
        width = painter.fontMetrics().horizontalAdvance(text) + 16
        box = QRectF(x if left else x - width, 8, width, 24)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(0, 0, 0, 190))
        painter.drawRoundedRect(box, 4, 4)
        painter.setPen(QColor(255, 255, 255))
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, text)


def _image(picture: NDArray[np.uint8]) -> QImage:
    height, width = picture.shape[:2]
    data = np.ascontiguousarray(picture)
    return QImage(data.data, width, height, 3 * width, QImage.Format.Format_RGB888).copy()
