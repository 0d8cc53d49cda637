"""The White sheet."""

from PySide6.QtWidgets import QCheckBox, QVBoxLayout, QWidget

from swaddon.core.plan.stages import Plan
from swaddon.session import edits
from swaddon.session.job import Job
from swaddon.ui.station_spec import StationContext
from swaddon.ui.stations.white import model
from swaddon.ui.widgets import Choice, Drag, Field

_WHY_MODE = (
    "Solid puts white under every colour: safe on any dark garment, dearest and stiffest. By coverage leaves dark, "
    "ink-rich colours bare: 170 % keeps white for light colours only, 280 % for all but black, 400 % for everything. "
    "None is right on white goods, and on pale ones when the tint of the cloth is welcome."
)
_WHY_DESIGN = (
    "White that belongs to the design, such as lettering, is an ink of its own and keeps its edge. Without it the "
    "cloth shows there: right on a white shirt, a hole on any other."
)
_WHY_CHOKE = (
    "White is pulled in so that it cannot peek out when white and colour are not quite in line, or when it is squeezed "
    "under the press. About 0.25 mm (3 px at 300 ppi) is a usual start on one-head machines, more where two passes are "
    "laid by hand. Too much leaves a dull rim and takes the white from fine lines."
)


class WhitePage(QWidget):
    def __init__(self, context: StationContext) -> None:
        super().__init__()
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(16)
        self.mode = Choice("White under colour", model.MODES)
        self.mode.chosen.connect(lambda key: context.apply(edits.set_white("Change white", mode=key)))
        self.mode_field = Field("White under colour", self.mode, _WHY_MODE)
        self.limit = Drag("Total coverage limit in percent", 100, 400, 5)
        self.limit.moved.connect(
            lambda value: context.apply(edits.set_white("Change coverage limit", "limit", limit=value))
        )
        self.limit.settled.connect(context.end_drag)
        self.limit_field = Field("Total coverage limit", self.limit)
        self.design = QCheckBox("Print white of the design")
        self.design.toggled.connect(lambda on: context.apply(edits.set_white("Change white of the design", design=on)))
        self.design_field = Field("White in the design", self.design, _WHY_DESIGN)
        self.choke = Drag("Choke in mm", 0, model.LARGEST_CHOKE_MM, 0.01)
        self.choke.moved.connect(
            lambda value: context.apply(edits.set_white("Change choke", "choke", choke_mm=round(value, 2)))
        )
        self.choke.settled.connect(context.end_drag)
        self.choke_field = Field("Choke", self.choke, _WHY_CHOKE)
        for field in (self.mode_field, self.limit_field, self.design_field, self.choke_field):
            layout.addWidget(field)
        layout.addStretch(1)

    def render_job(self, job: Job, plan: Plan | None, _yardstick: Plan | None) -> None:
        state = model.white_state(job, plan)
        self.mode.show_value(state.mode)
        self.mode_field.show_effect(state.mode_effect)
        self.limit_field.setVisible(state.mode == "limit")
        self.limit.show_value(state.limit)
        self.limit_field.show_effect(state.limit_effect)
        self.design.blockSignals(True)
        self.design.setChecked(state.design)
        self.design.blockSignals(False)
        self.choke.show_value(state.choke_mm)
        self.choke.setEnabled(state.choke_enabled)
        self.choke_field.show_effect(state.choke_effect)
