"""The Artwork sheet."""

from PySide6.QtWidgets import QGridLayout, QVBoxLayout, QWidget

from swaddon.core.plan.stages import Plan
from swaddon.session import edits
from swaddon.session.job import Job
from swaddon.ui.station_spec import StationContext
from swaddon.ui.stations.artwork import model
from swaddon.ui.widgets import Choice, Drag, Elided, Field, button, column, label

_WHY_CUT = (
    "Half-transparent pixels print as thin ink. On film the powder has little to hold there and they turn into dirty "
    "haze, so they are cut hard: full from the level on, gone below. Direct printing can keep soft glows and fades; "
    "keep them there."
)


class ArtworkPage(QWidget):
    def __init__(self, context: StationContext) -> None:
        super().__init__()
        self._context = context
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(12)
        self.open = button("Place artwork …", "primary", "image-plus")
        self.open.clicked.connect(context.choose_artwork)
        layout.addWidget(self.open)
        self._facts = QGridLayout()
        self._facts.setContentsMargins(0, 0, 0, 0)
        self._facts.setHorizontalSpacing(12)
        self._facts.setVerticalSpacing(6)
        self._facts.setColumnStretch(1, 1)
        self._values: list[tuple[QWidget, Elided]] = []
        card = QWidget()
        card.setLayout(self._facts)
        layout.addWidget(card)
        self._notes = label("", "quiet", wrap=True)
        layout.addWidget(self._notes)
        self.cut = Choice("Half-transparent pixels", (("keep", "Keep"), ("cut", "Cut hard")))
        self.cut.chosen.connect(lambda key: context.apply(edits.set_half_transparent(None if key == "keep" else 0.5)))
        self.level = Drag("Cut level", 0.05, 0.95, 0.05)
        self.level.moved.connect(lambda value: context.apply(edits.set_half_transparent(round(value, 2))))
        self.level.settled.connect(context.end_drag)
        self.cut_field = Field("Half-transparent pixels", column(self.cut, self.level), _WHY_CUT)
        layout.addWidget(self.cut_field)
        layout.addStretch(1)

    def render_job(self, job: Job, plan: Plan | None, _yardstick: Plan | None) -> None:
        state = model.artwork_state(job, plan, self._context.uses_inches())
        while len(self._values) < len(state.facts):
            name, value = label("", "quiet"), Elided()
            self._facts.addWidget(name, len(self._values), 0)
            self._facts.addWidget(value, len(self._values), 1)
            self._values.append((name, value))
        for (name, value), (title, text) in zip(self._values, state.facts, strict=False):
            name.setText(title)
            value.show_text(text)
        self._notes.setText(state.notes)
        self._notes.setVisible(bool(state.notes))
        self.cut_field.setVisible(state.has_artwork)
        self.cut.show_value("keep" if state.cut_level is None else "cut")
        self.level.setVisible(state.cut_level is not None)
        self.level.show_value(state.cut_level or 0.5)
        level = "" if state.cut_level is None else f"Full from {state.cut_level:.0%} on · "
        self.cut_field.show_effect(level + state.cut_effect)
