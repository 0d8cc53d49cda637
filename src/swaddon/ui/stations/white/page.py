"""The White sheet."""

from PySide6.QtWidgets import QVBoxLayout, QWidget

from swaddon.core.plan.stages import Plan
from swaddon.session.job import Job
from swaddon.ui.station_spec import StationContext
from swaddon.ui.stations.white import model
from swaddon.ui.stations.white.amount import AmountField
from swaddon.ui.stations.white.choke import ChokeField
from swaddon.ui.stations.white.design import DesignField
from swaddon.ui.widgets import label, scrolled

_BARE = (
    "This press has no white. Its colours are right on truly white goods only: on anything else they turn dull, on "
    "dark goods they vanish. Choose a press that has white on the Order sheet, or a white garment."
)


class WhitePage(QWidget):
    """How much white, white of the design, and how far it is pulled in."""

    def __init__(self, context: StationContext) -> None:
        super().__init__()
        self.amount = AmountField(context)
        self.design = DesignField(context)
        self.choke = ChokeField(context)
        self.choke.other_ppi_changed.connect(self._render)
        self._shown: tuple[Job, Plan | None] | None = None
        self.bare = label(_BARE, "quiet", wrap=True)
        self.bare.hide()
        inner = QVBoxLayout()
        inner.setContentsMargins(0, 0, 8, 0)
        inner.setSpacing(4)
        for part in (self.bare, self.amount, self.design, self.choke):
            inner.addWidget(part)
        inner.addStretch(1)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(scrolled(inner))

    def render_job(self, job: Job, plan: Plan | None, _yardstick: Plan | None) -> None:
        self._shown = job, plan
        self._render()

    def _render(self) -> None:
        if self._shown is None:
            return
        job, plan = self._shown
        state = model.white_state(job, plan, self.choke.other_ppi)
        has_white = job.profile is None or job.profile.has_white
        self.bare.setVisible(not has_white)
        for part in (self.amount, self.design, self.choke):
            part.setVisible(has_white)
        self.amount.render_state(state, plan)
        self.design.render_state(state)
        self.choke.render_state(state)
