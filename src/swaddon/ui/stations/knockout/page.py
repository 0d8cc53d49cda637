"""The Knockout sheet."""

from PySide6.QtWidgets import QScrollArea, QVBoxLayout, QWidget

from swaddon.core.colour import Rgb
from swaddon.core.plan.settings import Knockout
from swaddon.core.plan.stages import Plan
from swaddon.session import edits
from swaddon.session.job import Job
from swaddon.ui.station_spec import StationContext
from swaddon.ui.stations.knockout import model
from swaddon.ui.widgets import Choice, Drag, Field, Swatch, button, column, label, row, rule

_WHY = (
    "What has the garment’s colour should not be printed: printed black never matches dyed black, and every cm² left "
    "out saves white. “From outside” takes only what is connected with the edge and keeps the same colour inside the "
    "figure: right for backgrounds. “Everywhere” also opens loops in letters: right for black on black."
)
_WHY_EDGE = (
    "Soft gives the antialiased rim its ink back, so no fringe of the old background is left; when the colour is the "
    "garment’s own, fades into it become fades of ink. Hard leaves each pixel whole or gone: right for film without "
    "fades."
)


class KnockoutCard(QWidget):
    """One knockout with its controls."""

    def __init__(self, index: int, context: StationContext) -> None:
        super().__init__()
        self._index = index
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 4, 0, 8)
        layout.setSpacing(6)
        self.swatch = Swatch((0, 0, 0), f"Colour of knockout {index + 1}", 24)
        self.swatch.setEnabled(False)
        self.title = label("", "head")
        remove = button("", "plain", "trash-2", "Remove this knockout")
        remove.clicked.connect(lambda: context.apply(edits.remove_knockout(index)))
        self.tolerance = Drag(f"Tolerance of knockout {index + 1} in ΔE", 0, 40, 0.5)
        self.tolerance.moved.connect(
            lambda value: context.apply(edits.change_knockout(index, f"tolerance-{index}", tolerance=value))
        )
        self.tolerance.settled.connect(context.end_drag)
        self.tolerance_text = label("", "effect")
        self.tolerance_text.setFixedWidth(58)
        self.reach = Choice("Reach", (("outside", "From outside"), ("everywhere", "Everywhere")))
        self.reach.chosen.connect(lambda key: context.apply(edits.change_knockout(index, reach=key)))
        self.edge = Choice("Edge", (("soft", "Soft"), ("hard", "Hard")))
        self.edge.setToolTip(_WHY_EDGE)
        self.edge.chosen.connect(lambda key: context.apply(edits.change_knockout(index, edge=key)))
        for item in (
            row(self.swatch, self.title, 1, remove),
            row(self.tolerance, self.tolerance_text),
            row(self.reach),
            row(self.edge),
            rule(),
        ):
            layout.addWidget(item)

    def render_row(self, state: model.KnockoutRow) -> None:
        self.swatch.show_value(state.rgb)
        self.title.setText(state.title)
        self.tolerance.show_value(state.tolerance)
        self.tolerance_text.setText(f"ΔE {state.tolerance:g}")
        self.reach.show_value(state.reach)
        self.edge.show_value(state.edge)


class KnockoutPage(QWidget):
    def __init__(self, context: StationContext) -> None:
        super().__init__()
        self._context = context
        self._job = Job()
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(8)
        self.pick = button("Pick a colour on the table", "primary", "pipette")
        self.pick.clicked.connect(lambda: context.pick_colour(self._picked))
        self.background = Swatch((255, 255, 255), "Knock out the background")
        self.background.clicked.connect(self._take_background)
        self.background_text = label("Background", "quiet")
        self.garment = Swatch((0, 0, 0), "Knock out the garment’s colour")
        self.garment.clicked.connect(lambda: context.apply(edits.add_knockout(model.offered(self._job, None))))
        offers = row(self.background, self.background_text, self.garment, label("Garment’s colour", "quiet"), 1)
        self._offer: Rgb | None = None
        self.head = Field("Take out a colour", column(self.pick, offers, spacing=8), _WHY)
        layout.addWidget(self.head)
        layout.addWidget(rule())
        self.cards: list[KnockoutCard] = []
        self._list = QVBoxLayout()
        self._list.setContentsMargins(0, 0, 8, 0)
        self._list.setSpacing(0)
        self._none = label("Nothing is knocked out yet.", "quiet", wrap=True)
        self._list.addWidget(self._none)
        self._list.addStretch(1)
        inner = QWidget()
        inner.setLayout(self._list)
        area = QScrollArea()
        area.setWidgetResizable(True)
        area.setWidget(inner)
        layout.addWidget(area, 1)

    def _picked(self, rgb: Rgb) -> None:
        self._context.apply(edits.add_knockout(Knockout(rgb, model.DEFAULT_TOLERANCE)))

    def _take_background(self) -> None:
        if self._offer is not None:
            self._context.apply(edits.add_knockout(model.offered(self._job, self._offer)))

    def render_job(self, job: Job, plan: Plan | None, _yardstick: Plan | None) -> None:
        self._job = job
        state = model.knockout_state(job, plan)
        self.pick.setEnabled(state.has_artwork)
        self.garment.setEnabled(state.has_artwork)
        self.garment.show_value(state.garment)
        self._offer = state.background
        for widget in (self.background, self.background_text):
            widget.setVisible(state.background is not None)
        if state.background is not None:
            self.background.show_value(state.background)
        self.head.show_effect(state.effect)
        while len(self.cards) > len(state.rows):
            card = self.cards.pop()
            self._list.removeWidget(card)
            card.hide()
            card.deleteLater()
        while len(self.cards) < len(state.rows):
            card = KnockoutCard(len(self.cards), self._context)
            self._list.insertWidget(len(self.cards) + 1, card)
            self.cards.append(card)
        for card, item in zip(self.cards, state.rows, strict=True):
            card.render_row(item)
        self._none.setVisible(not state.rows)
