"""How much white lies under the colour: way, limits, picked colours, hits, and what the garment needs at all."""

from PySide6.QtWidgets import QGridLayout, QVBoxLayout, QWidget

from swaddon.core.artwork.placement import Point
from swaddon.core.colour.spaces import Rgb, hex_from_rgb
from swaddon.core.plan.stages import Plan
from swaddon.core.press.profile import INKS
from swaddon.core.white.settings import FixedWhite
from swaddon.session import edits
from swaddon.ui.charts import CurveChart
from swaddon.ui.fields import SlideRow
from swaddon.ui.fold import Fold, side_by_side
from swaddon.ui.rebuilding import clear
from swaddon.ui.setting_fields import choose, slide, tick
from swaddon.ui.station_spec import StationContext
from swaddon.ui.stations.white import model
from swaddon.ui.stations.white.ladder import Ladder
from swaddon.ui.widgets import Choice, Field, Popover, Swatch, button, column, give_room, label, row

_WHY_MODE = (
    "Solid puts white under every colour: safe on any dark garment, dearest and stiffest. By need gives each colour the"
    " least white that still holds it on this garment: light colours get more, dark ones less, the garment’s own none. "
    "Coverage leaves ink-rich colours bare: 170 % keeps white for light colours only, 280 % for all but black, 400 % "
    "for everything. Where a press has no black, a full black is C+M+Y, the only colour of 300 %: 280 % leaves just "
    "that bare, and a lower ink limit than 280 % leaves nothing bare. Highlights puts it under the lightest tints only:"
    " enough on many pale garments. None is right on white goods, and on pale ones when the tint of the cloth is "
    "welcome. White only prints the artwork’s lights in white and no colour at all."
)
_WHY_SHIFT = (
    "How far a colour may drift from the best that any white can give. ΔE 1 is hardly seen side by side, 3 is a usual "
    "limit for garments, 6 is plain. More than is needed makes dark colours duller, never better."
)
_WHY_FIX = "Then click it on the table: this colour gets the white you set, whatever it needs."
_WHY_STRENGTHEN = (
    "Solves the inks for what is seen on this cloth, so that a blue overcomes a yellow garment as far as ink can. Only "
    "where no white lies under the colours."
)
_WHY_FLOOD = (
    "Tick this when the device’s own option to fill the whole sheet with white is on. It wastes white: better switch "
    "it off there."
)
_VERDICT_HEADS = ("Colour", "Share", "No white", "Strong", "Lights", "By need", "Solid", *INKS)


class AmountField(QWidget):
    """Way of laying white, with what belongs to each way."""

    def __init__(self, context: StationContext) -> None:
        super().__init__()
        self._context = context
        self._state: model.WhiteState | None = None
        self._plan: Plan | None = None
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(4)
        self._build_modes()
        self._build_fixed()
        self._build_hits()
        self.field = Field(
            "White under colour",
            column(self.mode, self.limit, self.ladder, self.shift, self.curve, self.strengthen, spacing=3),
            _WHY_MODE,
        )  # fmt: skip
        self.verdict = label("", "effect", wrap=True)
        self.colours = button("By colour", "link")
        self.colours.clicked.connect(self._show_colours)
        text = row(self.verdict, self.colours)
        give_room(text, 0)
        for part in (self.field, text, side_by_side(self.limits, self.hits)):
            layout.addWidget(part)

    def _build_modes(self) -> None:
        context = self._context
        self.mode = choose(context, "white.mode", columns=3)
        self.mode.keep_whole("none")
        self.limit = slide(context, "white.limit")
        self.ladder = Ladder(context, lambda: self._plan)
        self.shift = slide(context, "white.allowed_shift")
        self.shift.setToolTip(_WHY_SHIFT)
        self.least = slide(context, "white.least")
        self.most = slide(context, "white.most")
        self.curve = CurveChart("White against allowed shift", "ΔE", 0.5)
        self.curve.moved.connect(
            lambda value: context.apply(edits.change("white.allowed_shift", value, "white.allowed_shift"))
        )
        self.curve.settled.connect(context.end_drag)
        self.strengthen = tick(context, "white.strengthen", _WHY_STRENGTHEN)

    def _build_fixed(self) -> None:
        self.pick = button("Fix the white of a colour", icon="pipette", tip=_WHY_FIX)
        self.pick.clicked.connect(lambda: self._context.pick(self._picked))
        self._fixed_rows = QVBoxLayout()
        self._fixed_rows.setContentsMargins(0, 0, 0, 0)
        self._fixed_rows.setSpacing(2)
        self.slides: list[SlideRow] = []
        self._shown: tuple[Rgb, ...] = ()
        holder = QWidget()
        holder.setLayout(self._fixed_rows)
        self.fixed = column(holder, row(self.pick, 1), spacing=2)
        self.limits = Fold("By hand", column(self.least, self.most, self.fixed, spacing=3))

    def _build_hits(self) -> None:
        self.count = Choice("Hits", [(str(n), str(n)) for n in range(1, model.MOST_HITS + 1)])
        self.count.chosen.connect(self._take_count)
        self.hit_slides = [SlideRow(f"Hit {n + 1}", 0, 1, 0.01, "%", 100) for n in range(model.MOST_HITS)]
        for index, made in enumerate(self.hit_slides):
            made.moved.connect(lambda value, index=index: self._take_hit(index, value))
            made.settled.connect(self._context.end_drag)
        self.flood = tick(self._context, "white.whole_sheet", _WHY_FLOOD)
        self.opacity = label("", "quiet", wrap=True)
        self.hits = Fold("Hits", column(self.count, *self.hit_slides, self.opacity, self.flood, spacing=3))

    def _picked(self, rgb: Rgb, _point: Point) -> None:
        if self._state is not None:
            self._context.apply(model.fix_edit(self._state.settings, rgb))

    def _take_count(self, key: str) -> None:
        if self._state is not None:
            self._context.apply(model.hit_count_edit(self._state.hits, int(key)))

    def _take_hit(self, index: int, value: float) -> None:
        if self._state is not None:
            self._context.apply(model.hits_edit(self._state.hits, index, value))

    def _show_colours(self) -> None:
        if self._state is None:
            return
        table = QWidget()
        grid = QGridLayout(table)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setHorizontalSpacing(14)
        for across, head in enumerate(_VERDICT_HEADS):
            grid.addWidget(label(head, "quiet"), 0, across)
        for down, line in enumerate(self._state.colours, start=1):
            swatch = Swatch(line.rgb, hex_from_rgb(line.rgb), 22)
            swatch.setEnabled(False)
            grid.addWidget(swatch, down, 0)
            for across, text in enumerate((line.share, *line.values, *line.recipe), start=1):
                grid.addWidget(label(text), down, across)
        legend = label(
            "ΔE to the colour drawn: without white; without white, inks strengthened for the cloth; white under "
            "highlights only; white by need; solid white. C, M, Y, K: what strengthening does to the recipe, where it "
            "helps.",
            "quiet",
            wrap=True,
        )
        Popover(self.colours, column(table, legend, spacing=8), width=720)

    def render_state(self, state: model.WhiteState, plan: Plan | None) -> None:
        self._state, self._plan = state, plan
        white = state.settings
        self.mode.show_value(white.mode)
        self.field.show_effect(state.strengthen_effect)
        for part, modes in (
            (self.limit, ("limit",)),
            (self.ladder, ("limit",)),
            (self.shift, ("need",)),
            (self.curve, ("need",)),
            (self.least, ("need",)),
            (self.most, ("need",)),
            (self.limits, ("need", "highlight")),
            (self.strengthen, ("none", "highlight")),
        ):
            part.setVisible(white.mode in modes)
        self.limits.show_note(model.by_hand(white))
        self.limit.show_value(white.limit)
        self.shift.show_value(white.allowed_shift)
        self.least.show_value(white.least)
        self.most.show_value(white.most)
        self.curve.show_curves(state.need_curve, white.allowed_shift, text=state.need_note)
        self.strengthen.show_value(white.strengthen)
        self.flood.show_value(white.whole_sheet)
        self.ladder.setEnabled(plan is not None)
        self.verdict.setText(" · ".join(text for text in (state.mode_effect, state.verdict) if text))
        self.colours.setVisible(bool(state.colours))
        self._show_fixed(white.fixed)
        self.hits.show_note(state.hits_text)
        self.opacity.setText(state.opacity_text)
        self.count.show_value(str(len(state.hits)))
        for index, made in enumerate(self.hit_slides):
            made.setVisible(index < len(state.hits))
            if index < len(state.hits):
                made.show_value(state.hits[index])

    def _show_fixed(self, fixed: tuple[FixedWhite, ...]) -> None:
        colours = tuple(item.colour for item in fixed)
        if colours != self._shown:
            self._shown = colours
            clear(self._fixed_rows)
            self.slides = []
            for index, colour in enumerate(colours):
                self._fixed_rows.addWidget(self._fixed_row(index, colour))
        for made, item in zip(self.slides, fixed, strict=True):
            made.show_value(item.amount)

    def _fixed_row(self, index: int, colour: Rgb) -> QWidget:
        swatch = Swatch(colour, f"Fixed white of {hex_from_rgb(colour)}", 22)
        swatch.setEnabled(False)
        made = SlideRow(hex_from_rgb(colour), 0, 1, 0.01, "%", 100)
        made.moved.connect(lambda value: self._change_fixed(index, value))
        made.settled.connect(self._context.end_drag)
        remove = button("", "plain", "trash-2", f"Let {hex_from_rgb(colour)} go by need again")
        remove.clicked.connect(lambda: self._change_fixed(index, None))
        self.slides.append(made)
        line = row(swatch, made, remove, spacing=4)
        give_room(line, 1)
        return line

    def _change_fixed(self, index: int, amount: float | None) -> None:
        if self._state is not None:
            self._context.apply(model.fixed_edit(self._state.settings, index, amount))
