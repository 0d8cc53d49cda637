"""The flow ribbon: every piece of a day as a line through its stages, over the time of day."""

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QBrush, QColor, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QResizeEvent, QWheelEvent
from PySide6.QtWidgets import QHBoxLayout, QSlider, QVBoxLayout, QWidget

from swaddon.core.flow.day import Bar
from swaddon.io.shops import clock_text
from swaddon.session.flow_plans import Flow
from swaddon.ui import theme
from swaddon.ui.progress_line import ProgressLine
from swaddon.ui.stations.cost.flow_model import (
    Strip,
    bar_text,
    flow_text,
    is_bottleneck,
    moment_text,
    stages_of,
    strips,
    word_for,
)
from swaddon.ui.widgets import column, label

_LEFT, _TOP, _BOTTOM, _RIGHT = 12, 8, 26, 12
_GREYS = (0.9, 0.45, 0.72, 0.3, 0.8, 0.55, 0.38, 0.65)
_HATCHES = (
    Qt.BrushStyle.SolidPattern, Qt.BrushStyle.SolidPattern, Qt.BrushStyle.BDiagPattern, Qt.BrushStyle.SolidPattern,
    Qt.BrushStyle.Dense5Pattern, Qt.BrushStyle.FDiagPattern, Qt.BrushStyle.SolidPattern, Qt.BrushStyle.HorPattern,
)  # fmt: skip
_EMPTY = "A day of the shop with this order: every piece as a line through its stages. It comes with the plan."
_STEPS = 2000


def _brush(number: int) -> QBrush:
    """Tone and hatch of a stage: light and dark greys, so that the bottleneck's colour stands out."""
    grey = round(255 * _GREYS[number % len(_GREYS)])
    return QBrush(QColor(grey, grey, grey), _HATCHES[number % len(_HATCHES)])


class Ribbon(QWidget):
    """Wheel zooms, dragging moves, arrows and + − too; a bar under the pointer is told."""

    told = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self.setAccessibleName("Flow ribbon")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setMinimumHeight(160)
        self._flow: Flow | None = None
        self._strips: tuple[Strip, ...] = ()
        self._stages: dict[str, int] = {}
        self._from, self._span = 0.0, 1.0
        self.moment_s: float | None = None
        self._held: QPointF | None = None

    def show_flow(self, flow: Flow | None) -> None:
        """Show a day from its begin to its end."""
        self._flow = flow
        self._strips = () if flow is None else strips(flow)
        self._stages = {} if flow is None else {name: at for at, name in enumerate(stages_of(flow))}
        self._from, self._span = 0.0, 1.0 if flow is None else max(1.0, flow.day.end_s)
        self.setAccessibleDescription("" if flow is None else flow_text(flow, "piece"))
        self.update()

    def show_moment(self, work_s: float | None) -> None:
        """Mark a moment of the day."""
        self.moment_s = work_s
        self.update()

    @property
    def shown_s(self) -> tuple[float, float]:
        """Begin and end of what is shown, in seconds of work."""
        return self._from, self._from + self._span

    def _area(self) -> QRectF:
        return QRectF(self.rect()).adjusted(_LEFT, _TOP, -_RIGHT, -_BOTTOM)

    def _x(self, work_s: float) -> float:
        area = self._area()
        return area.left() + (work_s - self._from) / self._span * area.width()

    def box_of(self, at: int, bar: Bar) -> QRectF:
        """Where a bar of a line lies."""
        area = self._area()
        height = area.height() / max(1, len(self._strips))
        top = area.top() + at * height
        return QRectF(self._x(bar.start), top, max(0.8, self._x(bar.end) - self._x(bar.start)), max(0.8, height * 0.86))

    def bar_at(self, point: QPointF) -> Bar | None:
        """The bar under a point; ``None``: there is none."""
        area = self._area()
        if not self._strips or not area.contains(point):
            return None
        at = min(len(self._strips) - 1, int((point.y() - area.top()) / area.height() * len(self._strips)))
        return next((bar for bar in self._strips[at].bars if self.box_of(at, bar).contains(point)), None)

    def zoom(self, factor: float, x: float | None = None) -> None:
        """Show less or more of the day about a place."""
        if self._flow is None:
            return
        area = self._area()
        share = 0.5 if x is None else min(1.0, max(0.0, (x - area.left()) / area.width()))
        whole = max(1.0, self._flow.day.end_s)
        middle = self._from + share * self._span
        self._span = min(whole, max(60.0, self._span / factor))
        self._from = min(max(0.0, middle - share * self._span), whole - self._span)
        self.update()

    def move(self, seconds: float) -> None:  # type: ignore[override]
        """Show a later or earlier part of the day."""
        if self._flow is not None:
            whole = max(1.0, self._flow.day.end_s)
            self._from = min(max(0.0, self._from + seconds), whole - self._span)
            self.update()

    def wheelEvent(self, event: QWheelEvent) -> None:
        self.zoom(1.25 if event.angleDelta().y() > 0 else 0.8, event.position().x())

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._held = event.position()

    def mouseReleaseEvent(self, _event: QMouseEvent) -> None:
        self._held = None

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._held is not None:
            self.move((self._held.x() - event.position().x()) / self._area().width() * self._span)
            self._held = event.position()
            return
        bar = self.bar_at(event.position())
        text = "" if bar is None or self._flow is None else bar_text(self._flow, bar)
        self.setToolTip(text)
        self.told.emit(text)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        key = Qt.Key(event.key())
        if key in (Qt.Key.Key_Left, Qt.Key.Key_Right):
            self.move((-0.1 if key == Qt.Key.Key_Left else 0.1) * self._span)
        elif key in (Qt.Key.Key_Plus, Qt.Key.Key_Minus):
            self.zoom(1.25 if key == Qt.Key.Key_Plus else 0.8)
        elif key == Qt.Key.Key_0:
            self.show_flow(self._flow)
        else:
            super().keyPressEvent(event)

    def paintEvent(self, _event: QPaintEvent) -> None:
        painter, scheme = QPainter(self), theme.current()
        if self._flow is None:
            painter.setPen(QColor(scheme.quiet))
            painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap, _EMPTY)
            return
        self._axis(painter)
        painter.setPen(Qt.PenStyle.NoPen)
        start, end = self.shown_s
        for at, strip in enumerate(self._strips):
            for bar in strip.bars:
                if bar.end < start or bar.start > end:
                    continue
                brush = (
                    QBrush(QColor(scheme.look)) if is_bottleneck(self._flow, bar) else _brush(self._stages[bar.stage])
                )
                painter.fillRect(self.box_of(at, bar).intersected(self._area()), brush)
        if self.moment_s is not None and start <= self.moment_s <= end:
            x = self._x(self.moment_s)
            painter.setPen(QPen(QColor(scheme.text), 1.5))
            painter.drawLine(QPointF(x, _TOP), QPointF(x, self.height() - _BOTTOM))

    def _axis(self, painter: QPainter) -> None:
        scheme, area = theme.current(), self._area()
        assert self._flow is not None
        painter.setPen(QPen(QColor(scheme.line), 1))
        painter.drawLine(area.bottomLeft(), area.bottomRight())
        steps = max(2, int(area.width() / 90))
        for step in range(steps + 1):
            x = area.left() + step / steps * area.width()
            painter.setPen(QPen(QColor(scheme.line), 1, Qt.PenStyle.DotLine))
            painter.drawLine(QPointF(x, area.top()), QPointF(x, area.bottom()))
            painter.setPen(QColor(scheme.quiet))
            text = clock_text(self._flow.clock(self._from + step / steps * self._span))
            box = QRectF(x - 60, area.bottom() + 4, 120, 18)
            flag = Qt.AlignmentFlag.AlignHCenter
            if step == 0:
                box, flag = QRectF(x, box.top(), 120, 18), Qt.AlignmentFlag.AlignLeft
            elif step == steps:
                box, flag = QRectF(x - 120, box.top(), 120, 18), Qt.AlignmentFlag.AlignRight
            painter.drawText(box, flag, text)


class Legend(QWidget):
    """Tone and hatch of each stage, and the bottleneck's."""

    def __init__(self) -> None:
        super().__init__()
        self._looks: dict[str, int] = {}
        self._worst = ""

    def show_day(self, flow: Flow) -> None:
        """Stages of a day; those on the bottleneck are named with it, since they are drawn in its colour."""
        names = stages_of(flow)
        marked = {bar.stage for bar in flow.day.bars if is_bottleneck(flow, bar)}
        self._looks = {name: at for at, name in enumerate(names) if name not in marked}
        found = ", ".join(name.lower() for name in names if name in marked)
        self._worst = word_for(flow.day.bottleneck).lower() + (f" ({found})" if found else "")
        self._fit()
        self.setAccessibleDescription(f"Bottleneck: {self._worst}; stages: {', '.join(self._looks)}")
        self.update()

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._fit()

    def _fit(self) -> None:
        """As many lines as the names need."""
        lines, x = 1, float(_LEFT)
        for name in (f"Bottleneck: {self._worst}", *self._looks):
            width = 34 + self.fontMetrics().horizontalAdvance(name)
            if x > _LEFT and x + width > self.width():
                lines, x = lines + 1, float(_LEFT)
            x += width
        self.setFixedHeight(22 * lines)

    def paintEvent(self, _event: QPaintEvent) -> None:
        painter, scheme = QPainter(self), theme.current()
        x, y = float(_LEFT), 0.0
        entries = [(QBrush(QColor(scheme.look)), f"Bottleneck: {self._worst}")] if self._worst else []
        entries += [(_brush(at), name) for name, at in self._looks.items()]
        for brush, name in entries:
            width = painter.fontMetrics().horizontalAdvance(name)
            if x > _LEFT and x + 34 + width > self.width():
                x, y = float(_LEFT), y + 22
            painter.fillRect(QRectF(x, y + 5, 16, 12), brush)
            painter.setPen(QPen(QColor(scheme.line), 1))
            painter.drawRect(QRectF(x, y + 5, 16, 12))
            painter.setPen(QColor(scheme.quiet))
            painter.drawText(QRectF(x + 21, y, width + 4, 22), Qt.AlignmentFlag.AlignVCenter, name)
            x += 34 + width


class FlowTable(QWidget):
    """The ribbon, the moment of the day under it, and what is told of the day."""

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("ground")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self._flow: Flow | None = None
        self.head, self.facts = label("Flow of the day", "title"), label("", wrap=True)
        self.risk = label("", "head", wrap=True)
        self.ribbon, self.legend = Ribbon(), Legend()
        self.told = label("", "quiet", wrap=True)
        self.told.setMinimumHeight(34)
        self.ribbon.told.connect(self._tell)
        self.slider = QSlider(Qt.Orientation.Horizontal)
        self.slider.setAccessibleName("Moment of the day")
        self.slider.setRange(0, _STEPS)
        self.slider.valueChanged.connect(self._moved)
        self.progress = ProgressLine()
        self.stop, self.show_progress = self.progress.stop, self.progress.show_progress
        moment = QWidget()
        across = QHBoxLayout(moment)
        across.setContentsMargins(_LEFT, 0, _RIGHT, 0)
        across.addWidget(label("Replay", "quiet"))
        across.addWidget(self.slider, 1)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(16, 10, 12, 8)
        layout.setSpacing(4)
        layout.addWidget(column(self.head, self.facts, self.risk, self.progress))
        layout.addWidget(self.legend)
        layout.addWidget(self.ribbon, 1)
        layout.addWidget(moment)
        layout.addWidget(self.told)

    def show_flow(self, flow: Flow | None, facts: str, risk: str) -> None:
        """Show a day and what is told of it."""
        if flow is not self._flow and (flow is None or self._flow is None or flow.day is not self._flow.day):
            self.ribbon.show_flow(flow)
            self.ribbon.show_moment(None)
            self.slider.setEnabled(flow is not None)
            self.told.setText("Point at a bar, or move the slider through the day; the wheel zooms.")
        self._flow = flow
        if flow is not None:
            self.legend.show_day(flow)
        self.facts.setText(facts)
        self.risk.setText(risk)
        self.risk.setVisible(bool(risk))

    def _tell(self, text: str) -> None:
        if text:
            self.told.setText(text)

    def _moved(self, value: int) -> None:
        if self._flow is None:
            return
        moment = value / _STEPS * self._flow.day.end_s
        self.ribbon.show_moment(moment)
        self.told.setText(moment_text(self._flow, moment))
