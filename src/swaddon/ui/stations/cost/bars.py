"""Where the money goes, on the table: a bar for each way of the piece, whose parts open on a click."""

from collections.abc import Sequence

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import (
    QBrush,
    QColor,
    QFont,
    QKeyEvent,
    QLinearGradient,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QResizeEvent,
)
from PySide6.QtWidgets import QScrollArea, QVBoxLayout, QWidget

from swaddon.core.colour.spaces import Rgb
from swaddon.ui import theme
from swaddon.ui.stations.cost.model import Bar, MoneyState, Segment
from swaddon.ui.widgets import label, row

_HEAD, _BAR, _WORDS, _GAP = 20, 30, 17, 5
_LEFT, _RIGHT = 4, 150
_ROW = _HEAD + _BAR + _WORDS + _GAP
_ROOMY_PX, _MOST_ZOOM = 840, 1.35
"""Width from which all is drawn larger, and how much at the most: it is read across a counter."""

_FILLS = {
    "white": "#f4f4f4", "film": "#8fa3b0", "sheet": "#a9b3a2", "powder": "#d9d2c2", "pretreat": "#9db8b4",
    "upkeep": "#77716a", "cover": "#8d857b", "labour": "#6f7f8f", "machine": "#5f6a75", "energy": "#857a5a",
    "packaging": "#8a7f72", "spoilage": "#8c5a52",
}  # fmt: skip
_HATCHES = {
    "powder": Qt.BrushStyle.Dense6Pattern,
    "labour": Qt.BrushStyle.BDiagPattern,
    "spoilage": Qt.BrushStyle.DiagCrossPattern,
    "film": Qt.BrushStyle.HorPattern,
    "upkeep": Qt.BrushStyle.Dense5Pattern,
    "machine": Qt.BrushStyle.CrossPattern,
}
_INKS = ("#2f9fd0", "#d0488f", "#d8c23a", "#3c3c3c")
_HINT = "Click a part: its arithmetic opens on the right."


class Bars(QWidget):
    """Bars of one sum at one scale. A click, or the arrow keys, open a part of the first."""

    opened = Signal(str)

    def __init__(self, name: str) -> None:
        super().__init__()
        self.setAccessibleName(name)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setMouseTracking(True)
        self._bars: tuple[Bar, ...] = ()
        self._open = ""

    def show_bars(self, bars: Sequence[Bar], opened: str) -> None:
        """Show bars, with one kind of part open."""
        self._bars, self._open = tuple(bars), opened
        self._fit()
        told = [f"{bar.title}: {bar.total_text}" for bar in self._bars]
        self.setAccessibleDescription("; ".join(told))
        self.update()

    @property
    def _zoom(self) -> float:
        """How much larger all is drawn where there is room for it."""
        return min(_MOST_ZOOM, max(1.0, self.width() / _ROOMY_PX))

    def _fit(self) -> None:
        self.setFixedHeight(round(max(1, len(self._bars)) * _ROW * self._zoom))

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._fit()

    @property
    def kinds(self) -> tuple[str, ...]:
        """Kinds of parts of the first bar, left to right."""
        return tuple(segment.kind for segment in self._bars[0].segments) if self._bars else ()

    def boxes(self, at: int) -> list[tuple[Segment, QRectF]]:
        """Where the parts of a bar lie."""
        most, zoom = max((bar.total for bar in self._bars), default=0.0), self._zoom
        room = max(40, self.width() - _LEFT - _RIGHT * zoom)
        x, out = float(_LEFT), []
        for segment in self._bars[at].segments:
            width = segment.value / most * room if most else 0.0
            out.append((segment, QRectF(x, (at * _ROW + _HEAD) * zoom, width, _BAR * zoom)))
            x += width
        return out

    def _at(self, point: QPointF) -> str:
        for at in range(len(self._bars)):
            for segment, box in self.boxes(at):
                if box.adjusted(0, -2, max(0, 3 - box.width()), _WORDS * self._zoom).contains(point):
                    return segment.kind
        return ""

    def mousePressEvent(self, event: QMouseEvent) -> None:
        kind = self._at(event.position())
        if kind:
            self.opened.emit(kind)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        kind = self._at(event.position())
        found = next((item for bar in self._bars[:1] for item in bar.segments if item.kind == kind), None)
        self.setToolTip("" if found is None else f"{found.title} {found.text}")

    def keyPressEvent(self, event: QKeyEvent) -> None:
        turn = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}.get(Qt.Key(event.key()))
        if turn is None or not self.kinds:
            super().keyPressEvent(event)
            return
        at = self.kinds.index(self._open) if self._open in self.kinds else -turn if turn < 0 else -1
        self.opened.emit(self.kinds[(at + turn) % len(self.kinds)])

    def paintEvent(self, _event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        for at, bar in enumerate(self._bars):
            self._draw(painter, at, bar)

    def _draw(self, painter: QPainter, at: int, bar: Bar) -> None:
        scheme, zoom = theme.current(), self._zoom
        top = at * _ROW * zoom
        painter.setFont(_font(13 * zoom, bold=at == 0))
        swatch = QRectF(_LEFT, top + 4 * zoom, 13 * zoom, 13 * zoom)
        painter.setPen(QPen(QColor(scheme.quiet), 1))
        painter.setBrush(QColor(*bar.garment))
        painter.drawRoundedRect(swatch, 3, 3)
        painter.setPen(QColor(scheme.text if at == 0 else scheme.quiet))
        title = bar.title + (", about" if bar.is_about else "")
        painter.drawText(
            QRectF(_LEFT + 20 * zoom, top, self.width() - 30, _HEAD * zoom), Qt.AlignmentFlag.AlignVCenter, title
        )
        end = float(_LEFT)
        boxes = self.boxes(at)
        for segment, box in boxes:
            _fill(painter, segment.kind, box, bar.garment)
            end = box.right()
        for segment, box in boxes:
            if segment.kind == self._open:
                painter.setBrush(Qt.BrushStyle.NoBrush)
                painter.setPen(QPen(QColor(scheme.accent), 2.5))
                painter.drawRect(box.adjusted(0, -1, 0, 1))
        self._words(painter, boxes)
        painter.setPen(QColor(scheme.text))
        painter.setFont(_font((19 if at == 0 else 15) * zoom, bold=at == 0))
        painter.drawText(
            QRectF(end + 10, top + _HEAD * zoom, _RIGHT * zoom - 10, _BAR * zoom),
            Qt.AlignmentFlag.AlignVCenter,
            bar.total_text,
        )

    def _words(self, painter: QPainter, boxes: Sequence[tuple[Segment, QRectF]]) -> None:
        """Names under the parts that are wide enough for them; others have them as tooltip."""
        painter.setFont(_font(12 * self._zoom))
        metrics, free = painter.fontMetrics(), 0.0
        for segment, box in boxes:
            painter.setPen(QColor(theme.current().text if segment.kind == self._open else theme.current().quiet))
            for text in (f"{segment.title} {segment.text}", segment.title):
                width = metrics.horizontalAdvance(text)
                left = max(box.left() + 1, free)
                if left + width <= box.right() + 6:
                    painter.drawText(QPointF(left, box.bottom() + 14 * self._zoom), text)
                    free = left + width + 8
                    break


def _fill(painter: QPainter, kind: str, box: QRectF, garment: Rgb) -> None:
    """One part in its own material: inks as their colours, the garment as its own, others by tone and hatch."""
    painter.setPen(Qt.PenStyle.NoPen)
    if kind == "colour":
        blend = QLinearGradient(box.topLeft(), box.bottomLeft())
        for at, ink in enumerate(_INKS):
            blend.setColorAt(at / 4 + 0.001, QColor(ink))
            blend.setColorAt((at + 1) / 4, QColor(ink))
        painter.fillRect(box, QBrush(blend))
    else:
        painter.fillRect(box, QColor(*garment) if kind == "garment" else QColor(_FILLS[kind]))
        if kind in _HATCHES:
            painter.fillRect(box, QBrush(QColor(0, 0, 0, 70), _HATCHES[kind]))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.setPen(QPen(QColor(theme.current().line), 1))
    painter.drawRect(box)


def _font(size: float, bold: bool = False) -> QFont:
    made = QFont(theme.FAMILY)
    made.setPixelSize(round(size))
    made.setBold(bold)
    return made


class MoneyTable(QWidget):
    """The print alone, and below it the whole piece."""

    opened = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("ground")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.print_head, self.whole_head = label("The print", "title"), label("The whole shirt", "title")
        self.note, hint = label("", "quiet"), label(_HINT, "quiet")
        self.prints, self.wholes = Bars("Where the money of the print goes"), Bars("Where the money of the piece goes")
        inner = QWidget()
        layout = QVBoxLayout(inner)
        layout.setContentsMargins(18, 10, 10, 10)
        layout.setSpacing(6)
        for part in (row(self.print_head, 1, hint), self.prints, self.whole_head, self.wholes, self.note):
            layout.addWidget(part)
        layout.addStretch(1)
        area = QScrollArea()
        area.setWidgetResizable(True)
        area.setWidget(inner)
        whole = QVBoxLayout(self)
        whole.setContentsMargins(0, 0, 0, 0)
        whole.addWidget(area)
        for bars in (self.prints, self.wholes):
            bars.opened.connect(self.opened)

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self.update()

    def show_money(self, state: MoneyState, opened: str) -> None:
        """Show all ways, with one kind of part open."""
        self.whole_head.setText(f"The whole {state.piece}")
        self.prints.show_bars(state.prints, opened)
        self.wholes.show_bars(state.wholes, opened)
        self.note.setText(state.note)
