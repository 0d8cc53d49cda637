"""How colours become inks: the built-in separation, or an ICC profile of one's own, and both side by side."""

from pathlib import Path

from PySide6.QtWidgets import QFileDialog, QGridLayout, QVBoxLayout, QWidget

from swaddon.core.colour.spaces import hex_from_rgb
from swaddon.core.errors import PlanError
from swaddon.core.plan.stages import Plan
from swaddon.io.icc import read_icc
from swaddon.session import edits
from swaddon.session.job import Job
from swaddon.ui.setting_fields import choose, tick
from swaddon.ui.station_spec import StationContext
from swaddon.ui.stations.inks import model
from swaddon.ui.widgets import Choice, Field, Popover, Swatch, button, label, row

_WHY = (
    "The built-in separation solves the inks of this press for every colour on white. A CMYK output profile that was "
    "measured on your own press, textile and white knows more: it then says which inks a colour gets. Black point "
    "compensation lifts the artwork’s black to the darkest print there is, so that shadows keep their steps; without "
    "it everything darker than the inks turns to one black."
)


class SeparationField(QWidget):
    def __init__(self, context: StationContext) -> None:
        super().__init__()
        self._context, self._job = context, Job()
        self._plan: Plan | None = None
        self.kind = Choice("Separation", (("built-in", "Built in"), ("icc", "ICC profile…")))
        self.kind.chosen.connect(self._choose)
        self.intent = choose(context, "icc.intent", columns=2)
        self.black_point = tick(context, "icc.black_point")
        self.both = button("Side by side", "link", tip="Main colours by both separations")
        self.both.clicked.connect(self.show_both)
        self.more = row(self.black_point, 1, self.both)
        inner = QVBoxLayout()
        inner.setContentsMargins(0, 0, 0, 0)
        inner.setSpacing(4)
        for part in (self.kind, self.intent, self.more):
            inner.addWidget(part)
        box = QWidget()
        box.setLayout(inner)
        self.field = Field("Separation", box, _WHY)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(self.field)

    def render_state(self, job: Job, plan: Plan | None, state: model.InksState) -> None:
        self._job, self._plan = job, plan
        self.setVisible(state.takes_icc)
        has_icc = state.icc is not None
        self.kind.show_value("icc" if has_icc else "built-in")
        self.intent.setVisible(has_icc)
        self.more.setVisible(has_icc)
        if state.icc is not None:
            self.intent.show_value(state.icc.intent)
            self.black_point.show_value(state.icc.black_point)
        self.both.setEnabled(plan is not None)
        self.field.show_effect(state.icc_effect)

    def _choose(self, key: str) -> None:
        if key == "built-in":
            self._context.apply(edits.set_icc(None))
            return
        self.kind.show_value("icc" if self._job.settings.icc is not None else "built-in")
        name, _ = QFileDialog.getOpenFileName(self, "Open a CMYK output profile", "", "ICC profile (*.icc *.icm)")
        if name:
            self.open(Path(name))

    def open(self, path: Path) -> None:
        """Separate by a profile from a file; what is wrong with it is told."""
        try:
            file = read_icc(path)
        except PlanError as error:
            self._context.tell(str(error))
            return
        self._context.tell("")
        self._context.apply(edits.set_icc(file))

    def show_both(self) -> None:
        """The main colours by both separations."""
        if self._plan is None:
            return
        table = QWidget()
        grid = QGridLayout(table)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setHorizontalSpacing(10)
        for across, head in enumerate(("Drawn", "Built in", "", "", "Profile", "", "")):
            grid.addWidget(label(head, "quiet"), 0, across)
        for down, line in enumerate(model.separations(self._job, self._plan), start=1):
            cells = (
                _patch(line.colour),
                _patch(line.built_in_shows), label(line.built_in), label(f"ΔE {line.built_in_de:.1f}", "quiet"),
                _patch(line.icc_shows), label(line.icc), label(f"ΔE {line.icc_de:.1f}", "quiet"),
            )  # fmt: skip
            for across, cell in enumerate(cells):
                grid.addWidget(cell, down, across)
        text = "As both look on this garment over full white, by the inks of this press."
        grid.addWidget(label(text, "quiet"), grid.rowCount(), 0, 1, 7)
        Popover(self.both, table, width=520)


def _patch(rgb: tuple[int, int, int]) -> Swatch:
    made = Swatch(rgb, hex_from_rgb(rgb), 22)
    made.setEnabled(False)
    return made
