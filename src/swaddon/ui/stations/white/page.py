"""The White sheet."""

from PySide6.QtWidgets import QCheckBox, QVBoxLayout, QWidget

from swaddon.core.plan.stages import Plan
from swaddon.session import edits
from swaddon.session.job import Job
from swaddon.ui.charts import CurveChart
from swaddon.ui.station_spec import StationContext
from swaddon.ui.stations.white import model
from swaddon.ui.widgets import Choice, Field, Popover, SlideRow, button, column, label, row, scrolled

_WHY_MODE = (
    "Solid puts white under every colour: safe on any dark garment, dearest and stiffest. By need gives each colour "
    "the least white that still holds it on this garment: light colours get more, dark ones less, the garment’s own "
    "none. Coverage leaves ink-rich colours bare: 170 % keeps white for light colours only, 280 % for all but black, "
    "400 % for everything. None is right on white goods, and on pale ones when the tint of the cloth is welcome."
)
_WHY_SHIFT = (
    "How far a colour may drift from the best that any white can give. ΔE 1 is hardly seen side by side, 3 is a usual "
    "limit for garments, 6 is plain. More than is needed makes dark colours duller, never better."
)
_WHY_DESIGN = (
    "White that belongs to the design, such as lettering, is an ink of its own and keeps its edge. Without it the "
    "cloth shows there: right on a white shirt, a hole on any other."
)
_WHY_CHOKE = (
    "White is pulled in so that it cannot peek out when white and colour are not quite in line, or when it is squeezed "
    "under the press. About 0.25 mm (3 px at 300 ppi) is a usual start on one-head machines, more where two passes are "
    "laid by hand. Too much leaves a dull rim; the guard leaves fine lines a core of white all the same. The curve "
    "weighs peeking white against bare rim for the registration you enter; its lowest point is recommended."
)


class WhitePage(QWidget):
    def __init__(self, context: StationContext) -> None:
        super().__init__()
        self._context = context
        self._list = QVBoxLayout()
        self._list.setContentsMargins(0, 0, 8, 0)
        self._list.setSpacing(5)
        self._build_amount()
        self._build_choke()
        self._list.addStretch(1)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(scrolled(self._list))

    def _build_amount(self) -> None:
        self.mode = Choice("White under colour", model.MODES)
        self.mode.chosen.connect(lambda key: self._context.apply(edits.set_white("Change white", mode=key)))
        self.limit = self._slide("Coverage", (100, 400, 5), "%", "limit", "Change coverage limit")
        self.shift = self._slide(
            "Allowed", (0, model.LARGEST_SHIFT, 0.5), "ΔE", "allowed_shift", "Change allowed shift"
        )
        self.least = self._slide("Least", (0, 1, 0.01), "%", "least", "Change least white", 100)
        self.most = self._slide("Most", (0, 1, 0.01), "%", "most", "Change most white", 100)
        self.curve = CurveChart("White against allowed shift", "ΔE", 0.5)
        self.curve.moved.connect(
            lambda value: self._context.apply(
                edits.set_white("Change allowed shift", "allowed_shift", allowed_shift=value)
            )
        )
        self.curve.settled.connect(self._context.end_drag)
        self.mode_field = Field(
            "White under colour",
            column(self.mode, self.limit, self.shift, self.curve, self.least, self.most, spacing=3),
            _WHY_MODE,
        )
        self.shift.setToolTip(_WHY_SHIFT)
        self.design = QCheckBox("Print white of the design")
        self.design.setToolTip(_WHY_DESIGN)
        self.design.toggled.connect(
            lambda on: self._context.apply(edits.set_white("Change white of the design", design=on))
        )
        self.verdict = label("", "effect", wrap=True)
        self.colours = button("By colour", "link")
        self.colours.clicked.connect(self._show_colours)
        told = row(self.verdict, self.colours)
        told.layout().setStretch(0, 1)
        self._told: tuple[str, ...] = ()
        for part in (self.mode_field, told, self.design):
            self._list.addWidget(part)

    def _build_choke(self) -> None:
        self.choke_row = self._slide("Choke", (0, model.LARGEST_CHOKE_MM, 0.01), "mm", "choke_mm", "Change choke")
        self.choke = self.choke_row.slider
        self.chart = CurveChart("Harm against choke", "mm", 0.01)
        self.chart.moved.connect(
            lambda value: self._context.apply(edits.set_white("Change choke", "choke_mm", choke_mm=round(value, 2)))
        )
        self.chart.settled.connect(self._context.end_drag)
        self.recommend = button("")
        self.recommend.clicked.connect(self._take_recommended)
        self.guard = QCheckBox("Guard thin strokes")
        self.guard.toggled.connect(lambda on: self._context.apply(edits.set_white("Change the guard", guard=on)))
        self.registration = self._slide(
            "Registration", (0, 0.5, 0.01), "mm", "registration_mm", "Enter the registration error"
        )
        self.registration.setToolTip("Standard deviation of how far white and colour miss each other, as measured.")
        self.choke_field = Field(
            "Choke",
            column(self.choke_row, row(self.guard, 1, self.recommend), self.chart, self.registration, spacing=3),
            _WHY_CHOKE,
        )
        self._best: float | None = None
        self._list.addWidget(self.choke_field)

    def _slide(
        self, name: str, span: tuple[float, float, float], unit: str, field: str, label_text: str, scale: float = 1.0
    ) -> SlideRow:
        made = SlideRow(name, *span, unit, scale)
        made.moved.connect(
            lambda value: self._context.apply(edits.set_white(label_text, field, **{field: round(value, 3)}))
        )
        made.settled.connect(self._context.end_drag)
        return made

    def _take_recommended(self) -> None:
        if self._best is not None:
            self._context.apply(edits.set_white("Take the recommended choke", choke_mm=self._best))

    def _show_colours(self) -> None:
        Popover(self.colours, column(*(label(text) for text in self._told)), width=360)

    def render_job(self, job: Job, plan: Plan | None, _yardstick: Plan | None) -> None:
        state = model.white_state(job, plan)
        self._show_amount(state)
        for box, on in ((self.design, state.design), (self.guard, state.guard)):
            box.blockSignals(True)
            box.setChecked(on)
            box.blockSignals(False)
        self.verdict.setText(state.verdict)
        self._told = state.colours
        self.colours.setVisible(len(state.colours) > 1)
        self.choke_row.show_value(state.choke_mm)
        self.registration.show_value(state.registration_mm)
        for widget in (self.choke_row, self.chart, self.registration, self.guard):
            widget.setEnabled(state.choke_enabled)
        self._best = state.recommended_mm
        self.recommend.setVisible(self._best is not None)
        self.recommend.setText("" if self._best is None else f"Use {self._best:.2f} mm")
        self.recommend.setEnabled(self._best is not None and abs(self._best - state.choke_mm) > 0.004)
        self.chart.setVisible(bool(state.choke_lines))
        self.chart.show_curves(state.choke_lines, state.choke_mm, self._best)
        self.choke_field.show_effect(state.choke_effect)

    def _show_amount(self, state: model.WhiteState) -> None:
        self.mode.show_value(state.mode)
        self.mode_field.show_effect(state.mode_effect)
        self.limit.setVisible(state.mode == "limit")
        self.limit.show_value(state.limit)
        for part in (self.shift, self.least, self.most, self.curve):
            part.setVisible(state.mode == "need")
        self.shift.show_value(state.allowed_shift)
        self.least.show_value(state.least)
        self.most.show_value(state.most)
        self.curve.show_curves(state.need_curve, state.allowed_shift)
