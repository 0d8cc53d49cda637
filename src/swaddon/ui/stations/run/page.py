"""The Run sheet: the steps at the press as a card to work from, each caution at its step."""

from PySide6.QtCore import QPoint, QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPaintEvent, QPen, QResizeEvent
from PySide6.QtWidgets import QVBoxLayout, QWidget

from swaddon.core.plan.stages import Plan
from swaddon.session.job import Job
from swaddon.ui import theme
from swaddon.ui.station_spec import StationContext
from swaddon.ui.stations.run import model
from swaddon.ui.widgets import Field, column, label

_WHY = (
    "The order of the work for this way of printing, as most shops do it. Times, heat and pressure are left to the "
    "makers of film, powder, toner and press: theirs differ, and theirs count."
)

_MARGIN, _RADIUS = 36, 11


class StepLine(QWidget):
    """One step: its number in a ring on the line through all steps, what to do, and what to beware of."""

    def __init__(self, state: model.StepState, is_last: bool) -> None:
        super().__init__()
        self._state, self._is_last = state, is_last
        layout = QVBoxLayout(self)
        layout.setContentsMargins(_MARGIN, 2, 20, 10)
        layout.setSpacing(2)
        self.text = label(state.text, wrap=True)
        layout.addWidget(self.text)
        self.caution = label(state.caution, "caution", wrap=True)
        self.caution.setContentsMargins(18, 0, 0, 0)
        self.caution.setVisible(bool(state.caution) and not state.is_repeated)
        layout.addWidget(self.caution)
        self.setAccessibleName(f"Step {state.number}: {state.text}")
        self.setAccessibleDescription(state.caution)
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
            at = self.caution.pos() if self.caution.isVisible() else QPoint(self.width() - 16, 2)
            picture = theme.pixmap("triangle-alert", 14, ratio=self.devicePixelRatioF() * 2)
            painter.drawPixmap(QRectF(at.x(), at.y() + 2, 14, 14), picture, QRectF(picture.rect()))


class RunPage(QWidget):
    def __init__(self, _context: StationContext) -> None:
        super().__init__()
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(8)
        self._list = QVBoxLayout()
        self._list.setContentsMargins(0, 4, 0, 0)
        self._list.setSpacing(0)
        inner = QWidget()
        inner.setLayout(self._list)
        self.steps_field = Field("Steps", inner, _WHY)
        self.press = label("", "quiet", wrap=True)
        layout.addWidget(column(self.steps_field, self.press))
        self.maker = label("", "quiet", wrap=True)
        layout.addWidget(self.maker)
        layout.addStretch(1)
        self.steps: list[StepLine] = []
        self._shown: tuple[model.StepState, ...] = ()

    def render_job(self, job: Job, _plan: Plan | None, _yardstick: Plan | None) -> None:
        state = model.run_state(job)
        self.steps_field.show_title(state.title)
        self.press.setText(state.press)
        self.maker.setText(state.maker)
        if state.steps == self._shown:
            return
        self._shown = state.steps
        for line in self.steps:
            self._list.removeWidget(line)
            line.hide()
            line.deleteLater()
        self.steps = [StepLine(step, step is state.steps[-1]) for step in state.steps]
        for line in self.steps:
            self._list.addWidget(line)
