"""White of the design: ink or bare cloth, all of it or area by area."""

from PySide6.QtWidgets import QCheckBox, QGridLayout, QVBoxLayout, QWidget

from swaddon.ui.setting_fields import tick
from swaddon.ui.station_spec import StationContext
from swaddon.ui.stations.white import model
from swaddon.ui.widgets import Popover, button, label, row, scrolled

_WHY_DESIGN = (
    "White that belongs to the design, such as lettering, is an ink of its own and keeps its edge. Without it the "
    "cloth shows there: right on a white shirt, a hole on any other."
)
_WHY_FINE_BLACK = (
    "White under black lettering and lines below 1 mm shows beside them as a pale edge, most of all where black is "
    "made of three inks. Without it they stay clean; on a dark garment nobody misses it. With it they are as dense as "
    "the rest."
)


class DesignField(QWidget):
    def __init__(self, context: StationContext) -> None:
        super().__init__()
        self._context = context
        self._state: model.WhiteState | None = None
        self.box = tick(context, "white.design", _WHY_DESIGN)
        self.choose = button("", "link", tip="Choose area by area: white ink, or bare cloth.")
        self.choose.clicked.connect(self._show_areas)
        self.effect = label("", "effect", wrap=True)
        self.fine_black = tick(context, "white.under_fine_black", _WHY_FINE_BLACK)
        self.areas: list[QCheckBox] = []
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(2)
        layout.addWidget(row(self.box, 1, self.choose))
        layout.addWidget(self.effect)
        layout.addWidget(self.fine_black)

    def render_state(self, state: model.WhiteState) -> None:
        self._state = state
        self.box.show_value(state.design)
        self.fine_black.show_value(state.whitens_fine_black)
        self.fine_black.setVisible(state.asks_fine_black)
        self.effect.setText(state.design_effect)
        self.effect.setVisible(bool(state.design_effect))
        self.choose.setVisible(bool(state.areas))
        self.choose.setText(state.areas_text)
        self.choose.setAccessibleName(f"White of the design area by area: {state.areas_text}")

    def _show_areas(self) -> None:
        if self._state is None:
            return
        inner = QVBoxLayout()
        inner.setContentsMargins(0, 0, 0, 0)
        grid = QGridLayout()
        grid.setVerticalSpacing(2)
        self.areas = []
        for down, area in enumerate(self._state.areas):
            box = QCheckBox(area.text)
            box.setAccessibleName(f"Area of {area.text} is ink")
            box.setChecked(area.ink)
            box.toggled.connect(lambda on, area=area: self._turn(area, on))
            go = button("Show", "link")
            go.setAccessibleName(f"Show the area of {area.text}")
            go.clicked.connect(lambda _=False, area=area: self._context.go_to(*area.place_mm))
            grid.addWidget(box, down, 0)
            grid.addWidget(go, down, 1)
            self.areas.append(box)
        inner.addWidget(label("Ticked: white ink. Not ticked: bare cloth.", "quiet"))
        inner.addLayout(grid)
        inner.addStretch(1)
        panel = scrolled(inner)
        panel.setMinimumHeight(min(60 + 34 * len(self.areas), 380))
        Popover(self.choose, panel, width=280)

    def _turn(self, area: model.Area, ink: bool) -> None:
        if self._state is not None:
            self._context.apply(model.area_edit(self._state.settings, area, ink))
