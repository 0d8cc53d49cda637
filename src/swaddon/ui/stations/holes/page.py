"""The Holes sheet."""

from dataclasses import replace

from PySide6.QtWidgets import QVBoxLayout, QWidget

from swaddon.core.artwork.placement import Point
from swaddon.core.holes.settings import Screen
from swaddon.core.plan.stages import Plan
from swaddon.core.press.processes import USUAL
from swaddon.core.schema import declared
from swaddon.io import profiles
from swaddon.session import parse
from swaddon.session.job import Job
from swaddon.session.selection import Outline, Selection, changed, larger_than, mm_per_px, outlines, within
from swaddon.ui.fields import Choices, SlideRow, TextField
from swaddon.ui.setting_fields import slide, tick
from swaddon.ui.station_spec import StationContext
from swaddon.ui.stations.holes import model
from swaddon.ui.widgets import Choice, Field, Swatch, button, column, give_room, label, row, scrolled

_WHY_KIND = (
    "Holes make big solids soft, breathable and less prone to crack, and save ink; small text and thin lines stay "
    "solid. Common: 35 lpi dots on film, 27 to 30 lpi on toner sheets. Two schools of angle: off the weave (52.5°, "
    "67.5°, 72° for lines) so that nothing drifts, or lines just along it (0 or 90°). Round dots hide in photographs "
    "and fades, lines suit big flat shapes. One-step papers and direct printing need no holes; two-step sheets and "
    "film do."
)
_WHY_GIVE_BACK = (
    "Through holes the eye mixes ink with cloth, so colours look washed out. More ink in what is left brings the mean "
    "colour back as far as inks allow; on dark garments there is often nothing to give back."
)
_WHY_FINE = (
    "Parts of a region narrower than this get no holes, so lettering stays whole unless you choose it by a click."
)


class HolesPage(QWidget):
    def __init__(self, context: StationContext) -> None:
        super().__init__()
        self._context = context
        self._job = Job()
        self._plan: Plan | None = None
        self.selection = Selection()
        self._kinds = model.Kinds()
        self._content: str | None = None
        self._widths: dict[tuple[int, float], float] = {}
        self._list = QVBoxLayout()
        self._list.setContentsMargins(0, 0, 2, 0)
        self._list.setSpacing(6)
        self._build_choice()
        self._build_treatment()
        self._build_rest()
        self._list.addStretch(1)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(scrolled(self._list), 1)

    # building

    def _build_choice(self) -> None:
        self.swatch = Swatch((0, 0, 0), "Colour of the selected region", 22)
        self.swatch.setEnabled(False)
        self.facts = label("", "effect", wrap=True)
        text = row(self.swatch, self.facts)
        give_room(text, 1)
        self._list.addWidget(text)
        self.same_colour = button("This colour", tip="Select all regions of the selected one’s colour")
        self.same_colour.clicked.connect(self._select_colour)
        self.larger = button("Over", tip="Select all regions larger than this area")
        self.larger.clicked.connect(self._select_larger)
        self.area = TextField("Area in cm²")
        self.area.setText("5 cm²")
        self.area.setFixedWidth(52)
        self.area.entered.connect(lambda _text: self._select_larger())
        self.outline = button("Draw", tip="Draw round the regions to select, on the table")
        self.outline.clicked.connect(lambda: self._context.draw(self._select_inside, ()))
        self.none = button("None", tip="Treat every region")
        self.none.clicked.connect(lambda: self._select(Selection()))
        self._list.addWidget(row(self.same_colour, self.larger, self.area, self.outline, self.none, spacing=2))

    def _build_treatment(self) -> None:
        self.kind = Choice("Treatment", model.KINDS)
        self.kind.chosen.connect(self._choose_kind)
        self.lpi = self._slide("lpi")
        self.angle = self._slide("angle")
        self.share = self._slide("share")
        self.tone = self._slide("tone")
        self.tile_mm = self._slide("tile_mm")
        self.tile = Choices()
        self.tile.setAccessibleName("Pattern tile")
        self.tile.activated.connect(self._choose_tile)
        self.add_tile = button("Add …", tip="A black-on-white PNG of your own; black is cut out")
        self.add_tile.clicked.connect(lambda: self._context.choose_tile(self._use_tile))
        self.tile_row = row(self.tile, self.add_tile)
        give_room(self.tile_row, 0)
        self.treatment = Field(
            "Every region",
            column(self.kind, self.tile_row, self.lpi, self.tile_mm, self.angle, self.share, self.tone, spacing=3),
            _WHY_KIND,
        )
        self._list.addWidget(self.treatment)

    def _build_rest(self) -> None:
        self.fine = slide(self._context, "holes.fine_mm")
        self.fine.setToolTip(_WHY_FINE)
        self.deeper = slide(self._context, "holes.deeper_black")
        self.give_back = tick(self._context, "holes.give_back")
        self.back_field = Field(
            "After the holes", column(self.fine, self.deeper, self.give_back, spacing=3), _WHY_GIVE_BACK
        )
        self._list.addWidget(self.back_field)

    def _slide(self, value: str) -> SlideRow:
        made = SlideRow.of(declared(Screen, value))
        made.moved.connect(lambda number: self._change(f"holes-{value}", **{value: round(number, 4)}))
        made.settled.connect(self._context.end_drag)
        return made

    # intents

    def _now(self) -> Screen | None:
        return model.holes_state(self._job, None, self._context.regions(), self.selection).screen

    def _apply(self, screen: Screen | None, merge_key: str | None = None) -> None:
        self._context.apply(model.screen_edit(self._context.regions(), self.selection, screen, merge_key))

    def _change(self, merge_key: str, **changes: object) -> None:
        now = self._now()
        if now is not None:
            self._apply(changed(now, **changes), merge_key)

    def _choose_kind(self, kind: str) -> None:
        press = self._job.profile or profiles.shipped(USUAL)
        self._apply(self._kinds.chosen(self._now(), kind, press, tuple(sorted(self._job.all_tiles()))))

    def _choose_tile(self, _index: int) -> None:
        self._use_tile(self.tile.currentText())

    def _use_tile(self, name: str) -> None:
        now = self._now() or Screen()
        self._apply(replace(now, pattern="tile", tile=name, share=now.share if now.pattern == "tile" else None))

    def _select(self, selection: Selection) -> None:
        self.selection, self._kinds = selection, model.Kinds()
        self.render_job(self._job, self._plan, None)

    def _select_colour(self) -> None:
        found = self._context.regions()
        if found is not None:
            self._select(self.selection.of_this_colour(found))

    def _select_larger(self) -> None:
        found, file = self._context.regions(), self._job.file
        try:
            area_cm2 = parse.number(self.area.text().replace("cm²", ""), "Area", 0, 100_000)
        except ValueError as error:
            self.area.refuse(f"{error}.")
            return
        self.area.refuse("")
        if found is not None and file is not None:
            placed = file.artwork.placed_px(self._job.settings.placement)[0]
            self._select(larger_than(found, area_cm2 * 100, mm_per_px(self._job.settings, placed)))

    def _select_inside(self, line: tuple[Point, ...]) -> None:
        found = self._context.regions()
        if found is not None:
            self._select(within(found, line))

    def clicked(self, point: Point | None, adds: bool) -> None:
        """A click on the table selects the region there; with Shift it joins or leaves the others."""
        found = self._context.regions()
        if found is not None:
            region = None if point is None else found.at(*point)
            self._select(self.selection.clicked(region, adds))

    def step(self, by: int) -> None:
        """Walk the regions by size."""
        found = self._context.regions()
        if found is not None:
            self._select(self.selection.stepped(found, by))

    # rendering

    def render_job(self, job: Job, plan: Plan | None, _yardstick: Plan | None) -> None:
        content = None if job.file is None else job.file.artwork.content_id
        if content != self._content:
            self._content, self.selection, self._widths, self._kinds = content, Selection(), {}, model.Kinds()
        if job.profile != self._job.profile:
            self._kinds = model.Kinds()
        self._job, self._plan = job, plan
        self._context.want_regions()
        found = self._context.regions()
        state = model.holes_state(job, plan, found, self.selection, self._widths)
        self._show_selection(job, state)
        self._show_treatment(state)
        self.fine.show_value(state.fine_mm)
        self.give_back.show_value(state.give_back)
        self.deeper.show_value(state.deeper_black)
        self.back_field.show_effect(state.give_back_effect)

    def _show_selection(self, job: Job, state: model.HolesState) -> None:
        found, file = self._context.regions(), job.file
        lines: tuple[Outline, ...] = ()
        if found is not None and file is not None and self.selection.numbers:
            size = (file.artwork.width_px, file.artwork.height_px)
            lines = outlines(found, self.selection, job.settings, size, job.height_mm)
        self._context.outline(lines)
        gave_up = found is None and file is not None and not self._context.finds_regions()
        self.facts.setText(model.GAVE_UP if gave_up else state.selected.text)
        self.swatch.setVisible(state.selected.colour is not None)
        if state.selected.colour is not None:
            self.swatch.show_value(state.selected.colour)
        self.same_colour.setEnabled(state.has_selection)
        self.none.setEnabled(state.has_selection)
        self.larger.setEnabled(found is not None)
        self.outline.setEnabled(found is not None)

    def _show_treatment(self, state: model.HolesState) -> None:
        chosen = len(self.selection.numbers)
        title = "Every region" if not chosen else ("The selected region" if chosen == 1 else f"{chosen} regions")
        self.treatment.show_title(title)
        self.kind.setEnabled(state.ready)
        self.kind.show_value(state.kind)
        screen = state.screen or Screen()
        is_tile, is_cut = state.kind == "tile", state.kind != "solid"
        self.tile_row.setVisible(is_tile)
        self.tile_mm.setVisible(is_tile)
        self.lpi.setVisible(is_cut and not is_tile)
        for part in (self.angle, self.share, self.tone):
            part.setVisible(is_cut)
        if [self.tile.itemText(index) for index in range(self.tile.count())] != list(state.tiles):
            self.tile.clear()
            self.tile.addItems(state.tiles)
        self.tile.setCurrentText(screen.tile)
        self.lpi.show_value(screen.lpi)
        self.angle.show_value(screen.angle)
        self.share.show_value(state.share)
        self.tone.show_value(screen.tone)
        self.tile_mm.show_value(screen.tile_mm)
        self.treatment.show_effect(state.effect)
