"""The Sheet station: the gang, the split, the prints found on a whole sheet, or the shirt."""

from PySide6.QtWidgets import QStackedWidget, QVBoxLayout, QWidget

from swaddon.core.plan.stages import Plan
from swaddon.session.job import Job
from swaddon.ui.station_spec import StationContext
from swaddon.ui.stations.sheet.finding import Finding
from swaddon.ui.stations.sheet.ganging import Ganging
from swaddon.ui.stations.sheet.splitting import Splitting
from swaddon.ui.widgets import Choice

_PARTS = (("gang", "Gang"), ("split", "Split"), ("parts", "Take apart"), ("shirt", "Shirt"))


class SheetPage(QWidget):
    def __init__(self, context: StationContext) -> None:
        super().__init__()
        self._context = context
        self.shown = "gang"
        self.gang, self.split, self.parts = Ganging(context), Splitting(context), Finding(context)
        self._works: dict[str, Ganging | Splitting | Finding] = {
            "gang": self.gang,
            "split": self.split,
            "parts": self.parts,
        }
        self.own_table = QStackedWidget()
        self.part = Choice("Show", _PARTS, columns=2)
        self.part.chosen.connect(self.show_part)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 10, 0)
        layout.setSpacing(8)
        layout.addWidget(self.part)
        for work in self._works.values():
            self.own_table.addWidget(work.table)
            layout.addWidget(work.sheet)
        layout.addStretch(1)
        self.show_part("gang")

    @property
    def shows_own_table(self) -> bool:
        """Whether a sheet lies on the table, in the place of the shirt."""
        return self._context.job().file is not None and self.shown != "shirt"

    def show_part(self, key: str) -> None:
        """The gang, the split, the prints of a whole sheet, or the shirt."""
        self.shown = key
        self.part.show_value(key)
        for name, work in self._works.items():
            work.is_shown = name == key
            work.sheet.setVisible(name == key)
        if key in self._works:
            self.own_table.setCurrentWidget(self._works[key].table)
            self._works[key].show()
        self._context.show_table()

    def render_job(self, job: Job, plan: Plan | None, _yardstick: Plan | None) -> None:
        self.part.button_for("shirt").setText(job.ware.piece.capitalize())
        self.gang.show()
        self.split.show_plan(plan)
        self.parts.show()
