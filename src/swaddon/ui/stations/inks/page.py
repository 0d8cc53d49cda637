"""The Inks sheet: the slot rack, channels in print order, the stack on the finished shirt."""

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QGridLayout, QSizePolicy, QVBoxLayout, QWidget

from swaddon.core.plan.stages import Plan
from swaddon.session.job import Job
from swaddon.session.view_modes import inks_in, together_key
from swaddon.ui import theme
from swaddon.ui.rebuilding import take_away
from swaddon.ui.setting_fields import Tick, choose, tick
from swaddon.ui.station_spec import StationContext
from swaddon.ui.stations.inks import model
from swaddon.ui.stations.inks.lineups import LineUpField
from swaddon.ui.stations.inks.rack import INK_COLOURS, on
from swaddon.ui.stations.inks.recipes import RecipeField
from swaddon.ui.stations.inks.separation import SeparationField
from swaddon.ui.widgets import Field, button, column, give_room, label, row, why_button

_WHY_ORDER = (
    "On the finished shirt white must lie between garment and colour. What prints last on a mirrored film ends up next "
    "to the garment, so film prints colour first and white last; direct printing lays white first."
)
_WHY_POSITION = (
    "On this press the white can be moved to the other end, which turns it from white last to white first. Last is "
    "right for transfers, which are turned over; first for what is printed as it will be seen, such as water-slide "
    "decals."
)
_WHY_GAMUT = (
    "No ink reaches the purest colours of a screen. Nearest prints each of them as the most similar colour there is, "
    "its hue first: right for logos, lettering and flat colours, where each should be as near as it can be. Keep steps "
    "draws strong colours inwards together, so that shades within a glowing blue or a flower stay apart instead of "
    "running into one flat patch: right for photographs and airbrush, at the price of a little strength everywhere."
)


_VIEW_MODES = {"W": "white", "H": "highlight"}


class StackDrawing(QWidget):
    """The finished shirt as a cut: garment below, outermost layer on top."""

    _LAYER = 19

    def __init__(self) -> None:
        super().__init__()
        self._layers: tuple[str, ...] = ()
        self._item = ""
        self.setFixedWidth(84)
        self.setAccessibleName("Stack on the finished shirt")

    def show_stack(self, layers: tuple[str, ...], item: str) -> None:
        self._layers, self._item = layers, item
        self.setFixedHeight(self._LAYER * len(layers) + 4)
        self.setAccessibleDescription(" then ".join(model.LAYER_TITLES[layer] for layer in layers))
        self.update()

    def paintEvent(self, _event: QPaintEvent) -> None:
        scheme = theme.current()
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        for index, layer in enumerate(reversed(self._layers)):
            box = QRectF(0.5, 2.5 + index * self._LAYER, self.width() - 1, self._LAYER - 2)
            colour = QColor(INK_COLOURS[layer])
            painter.setPen(QPen(QColor(scheme.line), 1))
            painter.setBrush(colour)
            painter.drawRect(box)
            painter.setPen(on(colour))
            title = self._item if layer == "garment" else model.LAYER_TITLES[layer]
            painter.drawText(box, Qt.AlignmentFlag.AlignCenter, title)


class InksPage(QWidget):
    def __init__(self, context: StationContext) -> None:
        super().__init__()
        self._context = context
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(8)
        self.lineup = LineUpField(context)
        layout.addWidget(self.lineup)
        self._grid = QGridLayout()
        self._grid.setContentsMargins(0, 0, 0, 0)
        self._grid.setHorizontalSpacing(5)
        self._grid.setVerticalSpacing(0)
        self._grid.setColumnStretch(1, 1)
        table = QWidget()
        table.setLayout(self._grid)
        self.rows: list[tuple[QWidget, ...]] = []
        self.ticks: dict[str, Tick] = {}
        self._seen = ""
        context.on_seen(self._show_seen)
        self._shown: tuple[model.ChannelRow, ...] = ()
        self.stack = StackDrawing()
        self.on_item = label("", "quiet")
        on_shirt = column(self.stack, self.on_item)
        for part in (table, on_shirt):
            part.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Maximum)
        across = row(table, on_shirt, spacing=8)
        layout.addWidget(Field("Print order", across, _WHY_ORDER))
        self.coverage = label("", "effect", wrap=True)
        self.map = button("Map", "link", tip="See total coverage, with the limit")
        self.map.clicked.connect(lambda: context.see("coverage"))
        self.silhouette = button("One tone", "link", tip="See all that prints in one tone: white lettering too")
        self.silhouette.clicked.connect(lambda: context.see("one-tone"))
        below = row(self.coverage, self.silhouette, self.map, spacing=4)
        give_room(below, 0)
        layout.addWidget(below)
        self.recipes = RecipeField(context)
        layout.addWidget(self.recipes)
        self._build_rest(context, layout)
        layout.addStretch(1)

    def _build_rest(self, context: StationContext, layout: QVBoxLayout) -> None:
        """White's place, mirroring, and how colours become inks."""
        self.position = choose(context, "white.position")
        title = self.position.accessibleName()
        self.position_row = row(label(title), self.position, why_button(title, _WHY_POSITION))
        give_room(self.position_row, 1)
        layout.addWidget(self.position_row)
        self.mirror = tick(context, "mirrored")
        self.mirror_effect = label("", "effect", wrap=True)
        mirrored = row(self.mirror, self.mirror_effect)
        give_room(mirrored, 1)
        layout.addWidget(mirrored)
        self.separation = SeparationField(context)
        layout.addWidget(self.separation)
        self.gamut = choose(context, "gamut")
        self.gamut_field = Field(self.gamut.accessibleName(), self.gamut, _WHY_GAMUT)
        layout.addWidget(self.gamut_field)

    def render_job(self, job: Job, plan: Plan | None, _yardstick: Plan | None) -> None:
        state = model.inks_state(job, plan)
        self.separation.render_state(job, plan, state)
        self.gamut.setEnabled(state.icc is None)
        self.lineup.render_state(state.lineup)
        self.on_item.setText(f"On the {state.piece}")
        self._show_rows(state.rows)
        self.stack.show_stack(state.stack, state.item)
        self.gamut.show_value(state.gamut)
        self.coverage.setText(state.coverage)
        self.recipes.render_state(job, state.recipes)
        self.position_row.setVisible(state.moves_white)
        self.position.show_value(state.position)
        self.mirror.show_value(state.mirrored)
        self.mirror_effect.setText(state.mirror_effect)

    def _show_rows(self, rows: tuple[model.ChannelRow, ...]) -> None:
        if rows == self._shown:
            return
        self._shown = rows
        for widgets in self.rows:
            for widget in widgets:
                take_away(widget, self._grid)
        self.rows, self.ticks = [], {}
        for index, state in enumerate(rows):
            name = button(f"{state.order}. {state.title}", "plain", tip=f"See {state.title.lower()} alone")
            name.setStyleSheet("text-align: left; min-height: 20px; max-height: 20px; padding: 0 4px;")
            view_mode = _VIEW_MODES.get(state.ink, state.ink)
            name.clicked.connect(lambda _=False, view_mode=view_mode: self._context.see(view_mode))
            name.setToolTip(f"Slot {state.slot}; press to see {state.title.lower()} alone")
            cells = (self._tick(state), name, label(state.coverage, "quiet"), label(state.amount, "quiet"))
            for place, cell in enumerate(cells):
                self._grid.addWidget(cell, index, place)
            self.rows.append(cells)
        self._show_seen(self._seen)

    def _tick(self, state: model.ChannelRow) -> Tick:
        """Whether this ink is seen together with the others that are ticked; of several hits the first has it."""
        tick_ = Tick("")
        tick_.setAccessibleName(f"See {state.title.lower()} together with the others ticked, channel {state.order}")
        tick_.setToolTip("Tick several to see them together")
        tick_.setStyleSheet("min-height: 20px; spacing: 0;")
        tick_.setFixedWidth(20)
        if state.ink in self.ticks or state.ink == "H":
            tick_.setVisible(False)
        else:
            self.ticks[state.ink] = tick_
            tick_.toggled.connect(self._see_ticked)
        return tick_

    def _see_ticked(self) -> None:
        inks = [ink for ink, tick_ in self.ticks.items() if tick_.isChecked()]
        self._context.see(together_key(inks) if inks else "footprint")

    def _show_seen(self, view_mode: str) -> None:
        """Tick the inks that are looked at."""
        self._seen = view_mode
        for ink, tick_ in self.ticks.items():
            tick_.show_value(ink in inks_in(view_mode))
