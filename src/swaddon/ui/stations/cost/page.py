"""The Cost sheet: every line opens its arithmetic; pin the plan to compare against it."""

from PySide6.QtWidgets import QScrollArea, QVBoxLayout, QWidget

from swaddon.core.plan.stages import Plan
from swaddon.session.job import Job
from swaddon.session.tally import TallyLine
from swaddon.ui.station_spec import StationContext
from swaddon.ui.stations.cost import model
from swaddon.ui.widgets import Field, button, column, label, row

_WHY = (
    "A price by rule of thumb is wrong as soon as coverage differs. Here each amount is counted from the pixels of the "
    "plan, waste is added, and money is rounded once, at the end, to as many digits as matter. Prices and lay-down are "
    "those of the press profile."
)


class CostLine(QWidget):
    """One line: name, amount, ±; opens and closes its arithmetic."""

    def __init__(self, line: TallyLine) -> None:
        super().__init__()
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        self.head = button(line.title, "plain")
        self.head.setCheckable(True)
        self.head.setStyleSheet("text-align: left;")
        self._value, self._delta = label(line.value, "head"), label(line.delta, "delta")
        layout.addWidget(row(self.head, 1, self._delta, self._value))
        self.arithmetic = label("", "quiet", wrap=True)
        self.arithmetic.setContentsMargins(16, 0, 0, 6)
        self.arithmetic.hide()
        layout.addWidget(self.arithmetic)
        self.head.toggled.connect(self.arithmetic.setVisible)
        self.show_line(line)

    def show_line(self, line: TallyLine) -> None:
        self.head.setText(line.title)
        self.head.setAccessibleName(f"{line.title}: {line.value}, show the arithmetic")
        self._value.setText(line.value)
        self._delta.setText(line.delta)
        self._delta.setVisible(bool(line.delta))
        self.arithmetic.setText("\n".join(line.arithmetic))


class CostPage(QWidget):
    def __init__(self, context: StationContext) -> None:
        super().__init__()
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(8)
        self.pin = button("Pin this plan as yardstick", "primary", "pin")
        self.pin.clicked.connect(context.pin)
        self.pin_field = Field("Per shirt", self.pin, _WHY)
        layout.addWidget(self.pin_field)
        self.lines: dict[str, CostLine] = {}
        self._list = QVBoxLayout()
        self._list.setContentsMargins(0, 0, 8, 0)
        self._list.setSpacing(2)
        self._list.addStretch(1)
        inner = QWidget()
        inner.setLayout(self._list)
        area = QScrollArea()
        area.setWidgetResizable(True)
        area.setWidget(inner)
        layout.addWidget(column(area), 1)

    def render_job(self, job: Job, plan: Plan | None, yardstick: Plan | None) -> None:
        state = model.cost_state(job, plan, yardstick)
        self.pin.setEnabled(state.can_pin)
        self.pin_field.show_title(state.title)
        self.pin_field.show_effect(state.yardstick)
        if [line.key for line in state.lines] != list(self.lines):
            for widget in self.lines.values():
                self._list.removeWidget(widget)
                widget.hide()
                widget.deleteLater()
            self.lines = {line.key: CostLine(line) for line in state.lines}
            for index, widget in enumerate(self.lines.values()):
                self._list.insertWidget(index, widget)
        for line in state.lines:
            self.lines[line.key].show_line(line)
