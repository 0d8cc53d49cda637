"""The slot rack: the device's slots as bottles, left to right as seen from the front; two change places by drag."""

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QColor, QFocusEvent, QKeyEvent, QMouseEvent, QPainter, QPainterPath, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from swaddon.ui import theme
from swaddon.ui.stations.inks import model

INK_COLOURS = {
    "W": "#f4f4f2",
    "H": "#ffffff",
    "C": "#0096cd",
    "M": "#c8146e",
    "Y": "#eecd00",
    "K": "#18181a",
    "garment": "#6d6d6d",
    "pretreat": "#b9c3c9",
    "powder": "#d9d5cb",
}
_WIDEST, _HEIGHT = 34.0, 48.0
_HOW = "Drag one bottle on another, or: arrows choose, Space takes it, arrows move it, Space puts it down."


def on(ground: QColor) -> QColor:
    """Dark letters on light inks, light ones on dark."""
    return QColor("#111111" if ground.lightness() > 110 else "#ffffff")


class SlotRack(QWidget):
    """Bottles in their slots. Two can change places and nothing else, so no ink can ever sit in two slots."""

    swapped = Signal(int, int)

    def __init__(self) -> None:
        super().__init__()
        self._slots: tuple[model.SlotState, ...] = ()
        self._cursor, self._taken = 0, False
        self._dragged: int | None = None
        self._pointer = QPointF()
        self.setFixedHeight(84)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setCursor(Qt.CursorShape.OpenHandCursor)
        self.setAccessibleName("Ink slots, left to right from the front")

    def show_slots(self, slots: tuple[model.SlotState, ...]) -> None:
        self._slots = slots
        self._cursor = min(self._cursor, len(slots) - 1)
        inks = " ".join(f"{slot.number}: {slot.title}" for slot in slots)
        self.setAccessibleDescription(inks)
        self.setToolTip(f"{inks}\n{_HOW}")
        self.update()

    # where what lies

    @property
    def _width(self) -> float:
        """Of a bottle: twelve of them still stand apart."""
        return min(_WIDEST, self.width() / max(1, len(self._slots)) - 6)

    def _left(self, index: int) -> float:
        across = self.width() / max(1, len(self._slots))
        return index * across + (across - self._width) / 2

    def middle(self, index: int) -> QPointF:
        """The middle of a slot's bottle."""
        return QPointF(self._left(index) + self._width / 2, 38)

    def _at(self, place: QPointF) -> int:
        return max(0, min(int(place.x() / max(1, self.width()) * len(self._slots)), len(self._slots) - 1))

    # hands

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() == Qt.MouseButton.LeftButton and self._slots:
            self._cursor, self._taken = self._at(event.position()), False
            self._dragged, self._pointer = self._cursor, event.position()
            self.setCursor(Qt.CursorShape.ClosedHandCursor)
            self.update()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._dragged is not None:
            self._pointer = event.position()
            self._cursor = self._at(self._pointer)
            self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        dragged, self._dragged = self._dragged, None
        self.setCursor(Qt.CursorShape.OpenHandCursor)
        self.update()
        inside = self.rect().adjusted(-8, -24, 8, 24).contains(event.position().toPoint())
        if dragged is not None and inside and dragged != self._at(event.position()):
            self.swapped.emit(dragged, self._at(event.position()))

    def keyPressEvent(self, event: QKeyEvent) -> None:
        step = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}.get(Qt.Key(event.key()), 0)
        if step and 0 <= self._cursor + step < len(self._slots):
            before, self._cursor = self._cursor, self._cursor + step
            if self._taken:
                self.swapped.emit(before, self._cursor)
        elif event.key() in (Qt.Key.Key_Space, Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self._taken = not self._taken
        elif event.key() == Qt.Key.Key_Escape and self._taken:
            self._taken = False
        elif not step:
            super().keyPressEvent(event)
            return
        self.update()

    def focusOutEvent(self, event: QFocusEvent) -> None:
        self._taken = False
        super().focusOutEvent(event)
        self.update()

    # picture

    def paintEvent(self, _event: QPaintEvent) -> None:
        scheme = theme.current()
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        for index, slot in enumerate(self._slots):
            left = self._left(index)
            if index == self._cursor and (self.hasFocus() or self._dragged is not None):
                painter.setBrush(Qt.BrushStyle.NoBrush)
                painter.setPen(QPen(QColor(scheme.accent), 2 if self._taken or self._dragged is not None else 1))
                painter.drawRoundedRect(QRectF(left - 5, 0.5, self._width + 10, 82), 5, 5)
            if index == self._dragged:
                painter.setOpacity(0.35)
            self._draw(painter, left, -3.0 if self._taken and index == self._cursor else 0.0, slot)
            painter.setOpacity(1.0)
            painter.setPen(QColor(scheme.quiet))
            painter.drawText(QRectF(left - 6, 64, self._width + 12, 18), Qt.AlignmentFlag.AlignCenter, str(slot.number))
        if self._dragged is not None:
            painter.setOpacity(0.9)
            self._draw(painter, self._pointer.x() - self._width / 2, -2.0, self._slots[self._dragged])

    def _draw(self, painter: QPainter, left: float, lift: float, slot: model.SlotState) -> None:
        scheme = theme.current()
        top = 14 + lift
        if not slot.inks:
            painter.setPen(QPen(QColor(scheme.line), 1, Qt.PenStyle.DashLine))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(QRectF(left, top, self._width, _HEIGHT), 6, 6)
            return
        bottle = QPainterPath()
        bottle.setFillRule(Qt.FillRule.WindingFill)
        bottle.addRoundedRect(QRectF(left, top, self._width, _HEIGHT), 6, 6)
        neck = min(12.0, self._width * 0.4)
        bottle.addRect(QRectF(left + (self._width - neck) / 2, top - 11, neck, 13))
        painter.setPen(QPen(QColor(scheme.quiet), 1))
        painter.setBrush(QColor(scheme.raised))
        painter.drawPath(bottle.simplified())
        high = 31 / len(slot.inks)
        for place, ink in enumerate(slot.inks):
            colour = QColor(INK_COLOURS[ink])
            box = QRectF(left + 3, top + 13 + place * high, self._width - 6, high)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(colour)
            painter.drawRoundedRect(box, 3, 3)
            painter.setPen(on(colour))
            painter.drawText(box, Qt.AlignmentFlag.AlignCenter, ink)
