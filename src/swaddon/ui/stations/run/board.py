"""The run card on the table: where the print goes, how far the run is, timers, and each step with its figures."""

from collections.abc import Callable, Sequence
from typing import ClassVar

from PySide6.QtCore import QPoint, QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QKeyEvent, QPainter, QPaintEvent, QPen, QResizeEvent
from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from swaddon.core.run.record import Timer
from swaddon.ui import theme
from swaddon.ui.piece_bar import PieceBar
from swaddon.ui.rebuilding import clear
from swaddon.ui.stations.run import model
from swaddon.ui.stations.run.placing import PlacingView
from swaddon.ui.stations.run.timers import Timers
from swaddon.ui.widgets import Elided, button, column, hidden_unless, label, row, scrolled

_MARGIN, _RADIUS = 36, 11


class StepLine(QWidget):
    """One step: its number in a ring on the line through all steps, what to do and with what, and what to beware of."""

    timed = Signal()

    def __init__(self, state: model.StepState, is_last: bool) -> None:
        super().__init__()
        self._state, self._is_last = state, is_last
        layout = QVBoxLayout(self)
        layout.setContentsMargins(_MARGIN, 2, 4, 8)
        layout.setSpacing(2)
        self.text = label(state.text, "step", wrap=True)
        self.timer = button(state.timer, "low", "timer" if state.timer else "")
        hidden_unless(self.timer, bool(state.timer))
        self.timer.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.timer.setToolTip("Start the timer of this step" + (f" (key {state.digit})" if state.digit else ""))
        self.timer.setAccessibleName(f"Start the timer of step {state.number}: {state.timer}")
        self.timer.clicked.connect(self.timed)
        head = QHBoxLayout()
        head.setSpacing(8)
        head.addWidget(self.text, 1)
        head.addWidget(self.timer, 0, Qt.AlignmentFlag.AlignTop)
        layout.addLayout(head)
        self.figures = label("   ".join(state.chips), "figures")
        hidden_unless(self.figures, bool(state.chips))
        self.figures.setToolTip(f"By {state.source}" if state.source else "The shop’s own figures")
        layout.addWidget(self.figures)
        self.heat = label("■ Hotter than the garment bears", "stop")
        hidden_unless(self.heat, state.is_too_hot)
        layout.addWidget(self.heat)
        self.caution = label(state.caution, "caution", wrap=True)
        self.caution.setContentsMargins(18, 0, 0, 0)
        hidden_unless(self.caution, bool(state.caution) and not state.is_repeated)
        layout.addWidget(self.caution)
        self.setAccessibleName(f"Step {state.number}: {state.text}")
        self.setAccessibleDescription("; ".join(filter(None, (*state.chips, state.caution))))
        self.setToolTip(state.caution)

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self.update()

    def paintEvent(self, _event: QPaintEvent) -> None:
        scheme = theme.current()
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        middle = QPointF(_RADIUS + 1.5, _RADIUS + 2)
        painter.setPen(QPen(QColor(scheme.line), 2))
        if not self._is_last:
            painter.drawLine(middle, QPointF(middle.x(), self.height()))
        if self._state.number > 1:
            painter.drawLine(QPointF(middle.x(), 0), middle)
        painter.setPen(QPen(QColor(scheme.quiet), 1.5))
        painter.setBrush(QColor(scheme.raised))
        painter.drawEllipse(middle, _RADIUS, _RADIUS)
        painter.setPen(QColor(scheme.text))
        ring = QRectF(middle.x() - _RADIUS, middle.y() - _RADIUS, 2 * _RADIUS, 2 * _RADIUS)
        painter.drawText(ring, Qt.AlignmentFlag.AlignCenter, str(self._state.number))
        if self._state.caution:
            shown = self.caution.isVisible()
            at = self.caution.pos() if shown else QPoint(int(middle.x()) - 7, int(middle.y() + _RADIUS) + 2)
            if shown or self.height() > at.y() + 16:
                picture = theme.pixmap("triangle-alert", 14, ratio=self.devicePixelRatioF() * 2)
                painter.drawPixmap(QRectF(at.x(), at.y() + 2, 14, 14), picture, QRectF(picture.rect()))


class RunBoard(QWidget):
    """The card; its keys work while it has the focus.

    ``asked`` gives what a key asks for: ``good``, ``spoiled``, ``count-back``, ``rest``.
    """

    asked = Signal(str)
    timed = Signal(int)
    _KEYS: ClassVar = {
        Qt.Key.Key_Space: "good", Qt.Key.Key_X: "spoiled", Qt.Key.Key_Backspace: "count-back", Qt.Key.Key_P: "rest",
    }  # fmt: skip

    def __init__(self, stop: Callable[[Timer], None]) -> None:
        super().__init__()
        self.setObjectName("panel")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Run card")
        self.title = Elided("", "title")
        self.count = label("", "count")
        self.bar, self.told = PieceBar("How far the run is"), Elided("", "quiet")
        self.timers = Timers(stop)
        self.placing = PlacingView()
        self.marks, self.where = label("", "head", wrap=True), label("", "quiet", wrap=True)
        left = column(self.placing, self.marks, self.where, spacing=4)
        left.layout().setStretch(0, 1)  # type: ignore[union-attr]
        self._list = QVBoxLayout()
        self._list.setContentsMargins(0, 4, 0, 0)
        self._list.setSpacing(0)
        self._area = scrolled(self._list)
        body = QHBoxLayout()
        body.setSpacing(16)
        body.addWidget(left, 2)
        body.addWidget(self._area, 3)
        head = row(self.title, self.count)
        head.layout().setStretch(0, 1)  # type: ignore[union-attr]
        layout = QVBoxLayout(self)
        layout.setContentsMargins(16, 10, 8, 8)
        layout.setSpacing(6)
        for item in (head, self.bar, self.told, self.timers):
            layout.addWidget(item)
        layout.addLayout(body, 1)
        self.steps: list[StepLine] = []
        self._shown: tuple[model.StepState, ...] = ()
        self._digits: dict[str, int] = {}

    def minimumSizeHint(self) -> QSize:
        return QSize(300, 200)

    def show_steps(self, steps: Sequence[model.StepState]) -> None:
        """Show the steps; nothing is made anew where they are the same."""
        if tuple(steps) == self._shown:
            return
        self._shown = tuple(steps)
        clear(self._list)
        self.steps = [StepLine(step, step is steps[-1]) for step in steps]
        self._digits = {step.digit: at for at, step in enumerate(steps) if step.digit}
        for at, line in enumerate(self.steps):
            line.timed.connect(lambda at=at: self.timed.emit(at))
            self._list.addWidget(line)
        self._list.addStretch(1)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        digit = chr(event.key()) if Qt.Key.Key_0 <= event.key() <= Qt.Key.Key_9 else ""
        plain = not event.modifiers() & ~Qt.KeyboardModifier.KeypadModifier
        if plain and digit in self._digits:
            self.timed.emit(self._digits[digit])
        elif plain and event.key() in self._KEYS:
            self.asked.emit(self._KEYS[Qt.Key(event.key())])
        else:
            super().keyPressEvent(event)
