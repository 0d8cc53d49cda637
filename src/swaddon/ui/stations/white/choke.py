"""Choke: how far white is pulled in, the curve that recommends it, and the registration that it answers."""

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QVBoxLayout, QWidget

from swaddon.session import edits
from swaddon.ui.charts import CurveChart
from swaddon.ui.fields import TextField
from swaddon.ui.fold import Fold
from swaddon.ui.setting_fields import slide, tick
from swaddon.ui.station_spec import StationContext
from swaddon.ui.stations.white import model
from swaddon.ui.widgets import button, column, label, row, why_button

_WHY_CHOKE = (
    "White is pulled in so that it cannot peek out when white and colour are not quite in line, or when it is squeezed "
    "under the press. About 0.25 mm (3 px at 300 ppi) is a usual start on one-head machines, more where two passes are "
    "laid by hand. Too much leaves a dull rim; the guard leaves fine lines a core of white all the same. The curve "
    "weighs peeking white against bare rim for the registration you enter.\n\n"
    "Two schools. Least harm: the lowest point of the curve; right where a hair of white is not seen, on light cloth "
    "and for viewing at arm’s length. No peek: white stays hidden whatever the registration you entered; right on "
    "black, for close looks and for customers who send shirts back."
)
_WHY_ERROR = (
    "How far white and colour miss each other: the standard deviation of many prints, or the worst that a test page "
    "ever showed."
)


class ChokeField(QWidget):
    other_ppi_changed = Signal()

    def __init__(self, context: StationContext) -> None:
        super().__init__()
        self._context = context
        self._best: float | None = None
        self._no_peek: float | None = None
        self._ppi = 300.0
        self.other_ppi = model.OTHER_PPI
        self.row = slide(context, "white.choke_mm")
        self.row.title.setProperty("role", "head")
        self.chart = CurveChart("Harm against choke", "mm", 0.01)
        self.chart.moved.connect(
            lambda value: context.apply(edits.change("white.choke_mm", round(value, 2), "white.choke_mm"))
        )
        self.chart.settled.connect(context.end_drag)
        self.recommend = button("")
        self.recommend.clicked.connect(lambda: self._take("Take the choke of least harm", self._best))
        self.no_peek = button("")
        self.no_peek.clicked.connect(lambda: self._take("Take the choke that hides white", self._no_peek))
        self.schools = row(self.recommend, self.no_peek, spacing=4)
        self.text, self.harms = label("", "effect", wrap=True), label("", "effect", wrap=True)
        self.guard = tick(context, "white.guard")
        self._build_registration()
        for made in (self.row, self.error, self.squeeze, self.screen_choke):
            made.read = lambda text: model.length_mm(text, self._ppi)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(3)
        guarded = row(self.guard, 1, why_button("Choke", _WHY_CHOKE))
        for part in (
            self.row,
            self.text,
            self.schools,
            guarded,
            self.registration,
            self.screen_choke,
            self.chart,
            self.harms,
        ):
            layout.addWidget(part)

    def _build_registration(self) -> None:
        context = self._context
        self.error = slide(context, "white.registration_mm")
        self.error.setToolTip(_WHY_ERROR)
        self.worst = tick(context, "white.worst_case", _WHY_ERROR)
        self.squeeze = slide(context, "white.squeeze_mm")
        self.squeeze.setToolTip("How far the press squeezes white outwards.")
        self.screen_choke = slide(context, "white.screen_choke_mm")
        self.screen_choke.setToolTip(
            "How far white is pulled in from the holes of a screen; they are not choked otherwise."
        )
        self.other = TextField("Another machine’s ppi")
        self.other.setFixedWidth(78)
        self.other.show_value(f"{model.OTHER_PPI:g} ppi")
        self.other.feed(self._take_ppi)
        text = row(label("Tell pixels at", "quiet"), 1, self.other)
        self.source = label("", "quiet", wrap=True)
        parts = (self.error, self.worst, self.squeeze, self.source, text)
        self.registration = Fold("Registration", column(*parts, spacing=3))

    def _take_ppi(self, text: str) -> None:
        self.other_ppi = model.ppi_from(text)
        self.other.show_value(f"{self.other_ppi:g} ppi")
        self.other_ppi_changed.emit()

    def _take(self, what: str, choke_mm: float | None) -> None:
        if choke_mm is not None:
            self._context.apply(edits.change("white.choke_mm", choke_mm, label=what))

    def render_state(self, state: model.WhiteState) -> None:
        white = state.settings
        self._ppi = state.ppi
        self.row.show_value(white.choke_mm)
        self.error.show_value(state.sigma_mm)
        self.squeeze.show_value(state.squeeze_mm)
        self.screen_choke.show_value(white.screen_choke_mm)
        for box, on in ((self.guard, white.guard), (self.worst, white.worst_case)):
            box.blockSignals(True)
            box.setChecked(on)
            box.blockSignals(False)
        for widget in (self.row, self.chart, self.registration, self.guard, self.screen_choke):
            widget.setEnabled(state.choke_enabled)
        self.screen_choke.setVisible(state.has_screen)
        self.registration.show_note(state.registration_text)
        self.source.setText(state.registration_from)
        self._best, self._no_peek = state.recommended_mm, state.no_peek_mm
        self.schools.setVisible(self._best is not None)
        for press, name, value in (
            (self.recommend, "Least harm", self._best),
            (self.no_peek, "No peek", self._no_peek),
        ):
            press.setText("" if value is None else f"{name} {value:.2f} mm")
            press.setEnabled(value is not None and abs(value - white.choke_mm) > 0.004)
        self.chart.setVisible(bool(state.choke_lines))
        self.chart.show_curves(state.choke_lines, white.choke_mm, self._best, self._no_peek)
        self.text.setText(state.choke_effect)
        self.harms.setText(state.harms)
        self.harms.setVisible(bool(state.harms))
        self.guard.setText("Guard thin strokes" + state.guard_effect)
