"""What the next program gets, and the card of what it must be told."""

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QGridLayout, QVBoxLayout, QWidget

from swaddon.core.plan.stages import Plan
from swaddon.session.job import Job
from swaddon.ui.fields import TextField
from swaddon.ui.setting_fields import choose
from swaddon.ui.station_spec import StationContext
from swaddon.ui.stations.run import model
from swaddon.ui.widgets import Field, button, column, label, row

_WHY = (
    "The next program decides how white must come: as a spot channel of a name that it knows, beside CMYK or beside "
    "RGB, or as a second file. With a wrong name it prints no white at all. CMYK keeps what was separated here; RGB "
    "leaves that to the other program, and with it exact recipes and total coverage. All is flattened to one layer."
)
_CARD_LINES = 6


class HandingOver(QWidget):
    """Kind of file, colours, how white travels and what it is called."""

    def __init__(self, context: StationContext) -> None:
        super().__init__()
        self._job = Job()
        self.kind = choose(context, "handover.kind")
        self.colour, self.white = choose(context, "handover.colour"), choose(context, "handover.white")
        self.name = TextField("White is called")
        self.name.feed(lambda text: context.apply(model.name_white_edit(self._job, text)))
        card = QWidget()
        grid = QGridLayout(card)
        grid.setContentsMargins(0, 4, 0, 0)
        grid.setVerticalSpacing(1)
        grid.setColumnStretch(1, 1)
        self.card = [(label("", "quiet"), label("", "effect", wrap=True)) for _ in range(_CARD_LINES)]
        for down, (head, words) in enumerate(self.card):
            grid.addWidget(head, down, 0, Qt.AlignmentFlag.AlignTop)
            grid.addWidget(words, down, 1)
        self.export = button("Export…", "", "download", "Write the files into a folder")
        self.export.clicked.connect(context.export)
        named = row(label("White is called"), self.name)
        part = column(self.kind, self.colour, self.white, named, card, self.export, spacing=6)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(column(Field(self.kind.accessibleName(), part, _WHY)))

    def show_state(self, job: Job, plan: Plan | None, state: model.RunState) -> None:
        self._job = job
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
