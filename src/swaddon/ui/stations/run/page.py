"""The Run sheet: what is handed over, and the steps at the press as a card to work from, each caution at its step."""

from PySide6.QtCore import QPoint, QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPaintEvent, QPen, QResizeEvent
from PySide6.QtWidgets import QGridLayout, QVBoxLayout, QWidget

from swaddon.core.plan.stages import Plan
from swaddon.session.job import Job
from swaddon.ui import theme
from swaddon.ui.fields import TextField
from swaddon.ui.setting_fields import choose
from swaddon.ui.station_spec import StationContext
from swaddon.ui.stations.run import model
from swaddon.ui.widgets import Field, button, column, label, row

_WHY = (
    "The order of the work for this way of printing, as most shops do it. Times, heat and pressure are left to the "
    "makers of film, powder, toner and press: theirs differ, and theirs count."
)

_WHY_HANDOVER = (
    "The next program decides how white must come: as a spot channel of a name that it knows, beside CMYK or beside "
    "RGB, or as a second file. With a wrong name it prints no white at all. CMYK keeps what was separated here; RGB "
    "leaves that to the other program, and with it exact recipes and total coverage. All is flattened to one layer."
)

_CARD_LINES = 6
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
    def __init__(self, context: StationContext) -> None:
        super().__init__()
        self._job: Job | None = None
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(8)
        layout.addWidget(self._handing_over(context))
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

    def _handing_over(self, context: StationContext) -> QWidget:
        """What the next program gets, and the card of what it must be told."""
        self.kind = choose(context, "handover.kind")
        self.colour, self.white = choose(context, "handover.colour"), choose(context, "handover.white")
        self.name = TextField("White is called")
        self.name.feed(lambda text: context.apply(model.name_white_edit(self._job or Job(), text)))
        card = QWidget()
        grid = QGridLayout(card)
        grid.setContentsMargins(0, 4, 0, 0)
        grid.setVerticalSpacing(1)
        grid.setColumnStretch(1, 1)
        self.card = [(label("", "quiet"), label("", "effect", wrap=True)) for _ in range(_CARD_LINES)]
        for down, (head, words) in enumerate(self.card):
            grid.addWidget(head, down, 0, Qt.AlignmentFlag.AlignTop)
            grid.addWidget(words, down, 1)
        self.export = button("Export…", "primary", "download", "Write the files into a folder")
        self.export.clicked.connect(context.export)
        named = row(label("White is called"), self.name)
        part = column(self.kind, self.colour, self.white, named, card, self.export, spacing=6)
        return Field(self.kind.accessibleName(), part, _WHY_HANDOVER)

    def render_job(self, job: Job, plan: Plan | None, _yardstick: Plan | None) -> None:
        self._job = job
        state = model.run_state(job, plan)
        self.kind.show_value(state.handover.kind)
        self.colour.show_value(state.handover.colour)
        self.colour.setVisible(state.asks_colour)
        self.white.show_value(state.handover.white)
        self.white.setVisible(state.asks_white)
        self.name.show_value(state.white_name)
        self.export.setEnabled(plan is not None)
        for index, (head, words) in enumerate(self.card):
            is_told = index < len(state.card)
            head.setText(state.card[index][0] if is_told else "")
            words.setText(state.card[index][1] if is_told else "")
            head.setVisible(is_told)
            words.setVisible(is_told)
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
