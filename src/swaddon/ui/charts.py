"""Small charts: lines over one axis, a recommended point, and today's point that can be dragged along the axis."""

from collections.abc import Sequence

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QWidget

from swaddon.session.curves import Line, height_at
from swaddon.ui import theme

_LEFT, _RIGHT, _TOP, _BOTTOM = 10, 10, 17, 14


_STYLES = {"solid": Qt.PenStyle.SolidLine, "dash": Qt.PenStyle.DashLine, "dot": Qt.PenStyle.DotLine}


class CurveChart(QWidget):
    """Lines over one axis. Dragging, or the arrow keys, move today's point; ``moved`` then ``settled``."""

    moved = Signal(float)
    settled = Signal()

    def __init__(self, name: str, unit: str, step: float) -> None:
        super().__init__()
        self.setAccessibleName(name)
        self.setFixedHeight(50)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self._unit, self._step = unit, step
        self._lines: tuple[Line, ...] = ()
        self._today: float | None = None
        self._best: float | None = None
        self._safe: float | None = None
        self._told = ""
        self._most = (1.0, 1.0)

    def show_curves(
        self,
        lines: Sequence[Line],
        today: float | None,
        best: float | None = None,
        safe: float | None = None,
        text: str = "",
    ) -> None:
        """Show lines with today's place on the axis and what is told of it; perhaps the best place and a safe one."""
        self._lines, self._today, self._best, self._safe, self._told = tuple(lines), today, best, safe, text
        points = [point for line in self._lines for point in line.points]
        self._most = (
            max((x for x, _ in points), default=1.0) or 1.0,
            max((y for _, y in points), default=1.0) or 1.0,
        )
        today_text = "" if today is None else f"today {today:g} {self._unit}" + (f", {text}" if text else "")
        advice = [
            f", {name} {at:g} {self._unit}" for name, at in (("recommended", best), ("safe", safe)) if at is not None
        ]
        self.setAccessibleDescription(today_text + "".join(advice))
        self.update()

    def _area(self) -> QRectF:
        return QRectF(self.rect()).adjusted(_LEFT, _TOP, -_RIGHT, -_BOTTOM)

    def _at(self, x: float, y: float) -> QPointF:
        area = self._area()
        return QPointF(
            area.left() + x / self._most[0] * area.width(), area.bottom() - y / self._most[1] * area.height()
        )

    def _height(self, x: float) -> float:
        return height_at(self._lines[0].points, x) if self._lines else 0.0

    def paintEvent(self, _event: QPaintEvent) -> None:
        scheme = theme.current()
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        area = self._area()
        painter.setPen(QPen(QColor(scheme.accent if self.hasFocus() else scheme.line), 1))
        painter.drawLine(area.bottomLeft(), area.bottomRight())
        if not self._lines or not self._lines[0].points:
            painter.setPen(QColor(scheme.quiet))
            painter.drawText(area, Qt.AlignmentFlag.AlignCenter, "The curve follows with the plan.")
            return
        left = area.left()
        for line in self._lines:
            painter.setPen(QPen(QColor(scheme.text), 1.6, _STYLES[line.style]))
            painter.drawPolyline(QPolygonF([self._at(x, y) for x, y in line.points]))
            painter.drawLine(QPointF(left, 9), QPointF(left + 18, 9))
            painter.setPen(QColor(scheme.quiet))
            painter.drawText(QPointF(left + 22, 13), line.name)
            left += 34 + painter.fontMetrics().horizontalAdvance(line.name)
        self._draw_points(painter)

    def _draw_points(self, painter: QPainter) -> None:
        scheme, area = theme.current(), self._area()
        painter.setPen(QColor(scheme.quiet))
        painter.drawText(QPointF(area.left(), self.height() - 2), f"0 {self._unit}")
        most = f"{self._most[0]:g}"
        painter.drawText(QPointF(area.right() - painter.fontMetrics().horizontalAdvance(most), self.height() - 2), most)
        if self._told:
            painter.setPen(QColor(scheme.text))
            painter.drawText(
                QPointF(area.right() - painter.fontMetrics().horizontalAdvance(self._told), 13), self._told
            )
        for value, pen in (
            (self._safe, QPen(QColor(scheme.quiet), 1, Qt.PenStyle.DashLine)),
            (self._best, QPen(QColor(scheme.gain), 2)),
        ):
            if value is not None:
                x = self._at(min(value, self._most[0]), 0).x()
                painter.setPen(pen)
                painter.drawLine(QPointF(x, area.bottom()), QPointF(x, area.top()))
        if self._today is not None:
            at = self._at(min(self._today, self._most[0]), self._height(self._today))
            painter.setPen(QPen(QColor(scheme.panel), 2))
            painter.setBrush(QColor(scheme.text))
            painter.drawEllipse(at, 6, 6)

    def _move_to(self, x_px: float) -> None:
        area = self._area()
        share = min(max((x_px - area.left()) / max(area.width(), 1), 0.0), 1.0)
        value = round(share * self._most[0] / self._step) * self._step
        if self._lines and value != self._today:
            self._today = value
            self.update()
            self.moved.emit(value)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._move_to(event.position().x())

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if event.buttons() & Qt.MouseButton.LeftButton:
            self._move_to(event.position().x())

    def mouseReleaseEvent(self, _event: QMouseEvent) -> None:
        self.settled.emit()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        turn = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}.get(Qt.Key(event.key()))
        if turn is None or self._today is None or not self._lines:
            super().keyPressEvent(event)
            return
        self._today = min(max(self._today + turn * self._step, 0.0), self._most[0])
        self.update()
        self.moved.emit(self._today)
        self.settled.emit()
