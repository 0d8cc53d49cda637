"""The Knockout sheet."""

from collections.abc import Callable
from dataclasses import replace
from functools import partial

from PySide6.QtWidgets import QGridLayout, QVBoxLayout, QWidget

from swaddon.core.artwork.placement import Point
from swaddon.core.colour.spaces import Rgb, hex_from_rgb
from swaddon.core.holes.settings import Screen
from swaddon.core.knockout.settings import AlphaTreatment, Knockout, Reach
from swaddon.core.plan.saved import Saving
from swaddon.core.plan.stages import Plan
from swaddon.core.schema import declared, named
from swaddon.session import edits
from swaddon.session.job import Job
from swaddon.ui.fields import SlideRow
from swaddon.ui.rebuilding import clear, take_away
from swaddon.ui.setting_fields import Tick
from swaddon.ui.settling import settling
from swaddon.ui.station_spec import StationContext
from swaddon.ui.stations.knockout import model
from swaddon.ui.stations.knockout.enclosed import Enclosed
from swaddon.ui.stations.knockout.outlines import OutlineField
from swaddon.ui.widgets import Choice, Field, Swatch, button, column, give_room, label, row, rule, scrolled, why_button

_SETTLE_MS = 250
_WHY = (
    "What has the garment’s colour should not be printed: printed black never matches dyed black, and every cm² left "
    "out saves white. “From outside” takes only what is connected with the edge and keeps the same colour inside the "
    "figure: right for backgrounds. “Everywhere” also opens loops in letters: right for black on black. “Clicked” "
    "takes only the enclosed areas that you click."
)
_WHY_EDGE = (
    "Soft gives the antialiased rim its ink back, so no fringe of the old background is left; when the colour is the "
    "garment’s own, fades into it become fades of ink. Hard leaves each pixel whole or gone: right for film without "
    "fades."
)

_WHY_KEEP = (
    "What must print although it has a colour that is knocked out: the white of an eye on a white shirt, black "
    "lettering on a black one. Keep a colour everywhere, or only its area at the place you click."
)
_WHY_ALPHA = (
    "Half-transparent pixels print as thin ink. On film the powder has little to hold there and they turn into dirty "
    "haze. Two schools: cut hard (full from a level on, gone below), right for lettering and badges; or a screen, "
    "which turns fades into full dots and melts glows into the cloth. Direct printing can keep them as they are."
)


class KnockoutCard(QWidget):
    """One knockout with its controls."""

    def __init__(self, index: int, context: StationContext) -> None:
        super().__init__()
        self._index, self._context, self._job = index, context, Job()
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 4, 0, 6)
        layout.setSpacing(5)
        self.swatch = Swatch((0, 0, 0), f"Colour of knockout {index + 1}", 24)
        self.swatch.setEnabled(False)
        self.title = label("", "head")
        remove = button("", "plain", "trash-2", "Remove this knockout")
        remove.clicked.connect(lambda: context.apply(edits.remove_knockout(index)))
        self.effect = label("", "effect", wrap=True)
        self.tolerance = SlideRow.of(declared(Knockout, "tolerance"))
        self.tolerance.moved.connect(
            lambda value: context.apply(edits.change_knockout(index, f"tolerance-{index}", tolerance=value))
        )
        self.tolerance.settled.connect(context.end_drag)
        self.reach = Choice.of(named(Knockout, "reach"))
        self.reach.chosen.connect(lambda key: context.apply(edits.change_knockout(index, reach=key)))
        self.edge = Choice.of(named(Knockout, "edge"))
        self.edge.setToolTip(_WHY_EDGE)
        self.edge.chosen.connect(lambda key: context.apply(edits.change_knockout(index, edge=key)))
        self.add_area = button("Click an area", tip="Then click an enclosed area of this colour on the table")
        self.add_area.clicked.connect(self._pick_area)
        self.clean = Tick(named(Knockout, "clean").title)
        self.clean.setToolTip("Takes the speckle and smear within 8 px of what goes; smeared edges stay smeared.")
        self.clean.toggled.connect(lambda on: context.apply(edits.change_knockout(index, clean=on)))
        for item in (
            row(self.swatch, self.title, 1, remove),
            self.effect,
            self.tolerance,
            self.reach,
            row(self.edge, self.add_area),
            self.clean,
            rule(),
        ):
            layout.addWidget(item)

    def _pick_area(self) -> None:
        self._context.pick(lambda _rgb, point: self._context.apply(model.point_edit(self._job, self._index, point)))

    def render_row(self, job: Job, state: model.KnockoutRow) -> None:
        self._job = job
        self.swatch.show_value(state.rgb)
        self.title.setText(state.title)
        self.effect.setText(state.effect)
        self.tolerance.show_value(state.tolerance)
        self.reach.show_value(state.reach)
        self.edge.show_value(state.edge)
        self.add_area.setVisible(state.reach != "everywhere")
        self.clean.setVisible(state.offers_clean)
        self.clean.show_value(state.clean)


class AlphaField(QWidget):
    """What becomes of half-transparent pixels."""

    def __init__(self, context: StationContext) -> None:
        super().__init__()
        self._context, self._job = context, Job()
        self.kind = Choice(
            "Half-transparent pixels", (("own", "By process"), ("keep", "Keep"), ("hard", "Cut"), ("screen", "Screen"))
        )
        self.kind.chosen.connect(self._choose)
        self.level = SlideRow.of(declared(AlphaTreatment, "level"))
        self.lpi = SlideRow("Screen", 15, 85, 1, "lpi")
        self.angle = SlideRow.of(declared(Screen, "angle"))
        self.haze = SlideRow.of(declared(AlphaTreatment, "haze_below"))
        self._bind(self.level, lambda value: {"level": value}, "alpha-level")
        self._bind(self.lpi, lambda value: {"screen": replace(self._now().screen, lpi=value)}, "alpha-lpi")
        self._bind(self.angle, lambda value: {"screen": replace(self._now().screen, angle=value)}, "alpha-angle")
        self._bind(self.haze, lambda value: {"haze_below": value}, "alpha-haze")
        self.field = Field(
            "Half-transparent remains",
            column(self.kind, self.level, self.lpi, self.angle, self.haze),
            _WHY_ALPHA,
        )
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(self.field)

    def _now(self) -> AlphaTreatment:
        return model.knockout_state(self._job, None).alpha

    def _bind(self, slide: SlideRow, changes: Callable[[float], dict[str, object]], key: str) -> None:
        slide.moved.connect(lambda value: self._context.apply(model.alpha_edit(self._job, key, **changes(value))))
        slide.settled.connect(self._context.end_drag)

    def _choose(self, key: str) -> None:
        edit = edits.set_alpha(None) if key == "own" else model.alpha_edit(self._job, kind=key)
        self._context.apply(edit)

    def render_state(self, job: Job, state: model.KnockoutState) -> None:
        self._job, alpha = job, state.alpha
        self.kind.show_value("own" if state.alpha_is_own else alpha.kind)
        self.level.setVisible(alpha.kind == "hard")
        self.lpi.setVisible(alpha.kind == "screen")
        self.angle.setVisible(alpha.kind == "screen")
        self.level.show_value(alpha.level)
        self.lpi.show_value(alpha.screen.lpi)
        self.angle.show_value(alpha.screen.angle)
        self.haze.show_value(alpha.haze_below)
        self.field.show_effect(state.alpha_effect)


class KnockoutPage(QWidget):
    def __init__(self, context: StationContext) -> None:
        super().__init__()
        self._context = context
        self._job = Job()
        self._plan: Plan | None = None
        self._saved: tuple[Saving, ...] = ()
        self._saved_of: model.SavedOf = ()
        self._later = settling(self, _SETTLE_MS, self._reckon)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(8)
        self.pick = button("Pick on the table", "primary", "pipette", "Then click a colour on the table")
        self.pick.clicked.connect(lambda: context.pick(self._picked))
        self.garment = Swatch((0, 0, 0), "Knock out the garment’s colour")
        self.garment.clicked.connect(lambda: context.apply(edits.add_knockout(model.offered(self._job, None))))
        self.background = button("Background")
        self.background.clicked.connect(self._take_background)
        self._offer: Rgb | None = None
        self._offers = QGridLayout()
        self._offers.setContentsMargins(0, 0, 0, 0)
        self._offers.setHorizontalSpacing(2)
        self._offers.setVerticalSpacing(0)
        self.offers: list[Swatch] = []
        self._shown: tuple[model.Offer, ...] = ()
        self._offers_of: model.OffersOf = ()
        self._kept: tuple[tuple[Rgb, str], ...] = ()
        own = QWidget()
        own.setLayout(self._offers)
        first = row(self.pick, self.garment, label("Garment’s", "quiet"))
        give_room(first, 0)
        self.head = Field("Take out a colour", column(first, self.background, own, spacing=6), _WHY)
        layout.addWidget(self.head)
        layout.addWidget(rule())
        self._build_list(layout)

    def _build_list(self, layout: QVBoxLayout) -> None:
        context = self._context
        self.cards: list[KnockoutCard] = []
        self._list = QVBoxLayout()
        self._list.setContentsMargins(0, 0, 8, 0)
        self._list.setSpacing(4)
        self._none = label("Nothing is knocked out yet.", "quiet", wrap=True)
        self._list.addWidget(self._none)
        self.keep = button("Keep an area", tip="Then click it on the table: its area there is never knocked out")
        self.keep.clicked.connect(lambda: context.pick(self._keep_area))
        self.keep_all = button("Keep a colour", tip="Then click it on the table: this colour is never knocked out")
        self.keep_all.clicked.connect(lambda: context.pick(self._keep_everywhere))
        self._keeps = QVBoxLayout()
        self._keeps.setContentsMargins(0, 0, 0, 0)
        kept = QWidget()
        kept.setLayout(self._keeps)
        offers = row(self.keep, self.keep_all, 1, why_button("Never knock out", _WHY_KEEP))
        self._list.addWidget(column(kept, offers))
        self.outlines = OutlineField(context)
        self._list.addWidget(self.outlines)
        self.alpha = AlphaField(context)
        self._list.addWidget(self.alpha)
        self.enclosed = Enclosed(context)
        self._list.addWidget(self.enclosed)
        self._list.addStretch(1)
        layout.addWidget(scrolled(self._list), 1)

    def _picked(self, rgb: Rgb, _point: Point) -> None:
        self._context.apply(edits.add_knockout(model.offered(self._job, rgb)))

    def _keep_area(self, rgb: Rgb, point: Point) -> None:
        self._context.apply(model.keep_edit(rgb, point))

    def _keep_everywhere(self, rgb: Rgb, _point: Point) -> None:
        self._context.apply(model.keep_edit(rgb, None))

    def _take_background(self) -> None:
        if self._offer is not None:
            self._context.apply(edits.add_knockout(model.offered(self._job, self._offer)))

    def render_job(self, job: Job, plan: Plan | None, _yardstick: Plan | None) -> None:
        self._job = job
        self._context.want_regions()
        self._plan = plan
        known = plan is not None and self._saved_of == model.saved_of(plan)
        if plan is not None and plan.request.settings.knockouts and not known:
            self._later.start()
        state = model.knockout_state(job, plan, self._saved if known else ())
        self._ask_for_offers(job, plan)
        for widget in (self.pick, self.garment, self.keep, self.keep_all):
            widget.setEnabled(state.has_artwork)
        self.garment.show_value(state.garment)
        self._offer = state.background
        self.background.setVisible(state.background is not None)
        if state.background is not None:
            self.background.setText(f"Background {hex_from_rgb(state.background)}")
        self.head.show_effect(state.effect)
        self._show_cards(job, state)
        self.enclosed.render_islands(job, plan)
        self._show_keeps(state)
        self.outlines.render_job(job)
        self.alpha.setVisible(state.has_artwork)
        self.alpha.render_state(job, state)
        self._none.setVisible(not state.rows and not job.settings.outlines)

    def _reckon(self) -> None:
        """Work out what the knockouts save, once the operator has paused."""
        plan = self._plan
        if plan is None or not self.isVisible():
            return
        of = model.saved_of(plan)

        def done(found: tuple[Saving, ...]) -> None:
            self._saved_of, self._saved = of, found
            if self._plan is not None and model.saved_of(self._plan) == of:
                self.render_job(self._job, self._plan, None)

        self._context.in_background(lambda: model.saved(plan), done)

    def _ask_for_offers(self, job: Job, plan: Plan | None) -> None:
        """Have the artwork's colours weighed beside the window; those of another artwork go at once."""
        found = self._context.regions()
        of = model.offers_of(job, found, plan)
        if of == self._offers_of:
            return
        if found is None or self._offers_of[:1] != (found,):
            self._show_offers(())
        self._offers_of = of

        def done(offers: tuple[model.Offer, ...]) -> None:
            if self._offers_of == of:
                self._show_offers(offers)

        if found is not None:
            self._context.in_background(lambda: model.offers(job, found, plan), done)

    def _show_offers(self, offers: tuple[model.Offer, ...]) -> None:
        if offers == self._shown:
            return
        self._shown = offers
        clear(self._offers)
        self.offers = []
        for index, offer in enumerate(offers):
            name = hex_from_rgb(offer.rgb)
            first: Reach = "outside" if offer.outside else "everywhere"
            swatch = Swatch(offer.rgb, f"Knock out {name}, {offer.outside or offer.everywhere}", 24)
            swatch.clicked.connect(partial(self._take_offered, offer.rgb, first))
            self.offers.append(swatch)
            reaches: tuple[tuple[Reach, str], ...] = (("outside", offer.outside), ("everywhere", offer.everywhere))
            choices = []
            for reach, text in reaches:
                if text:
                    word = "outside" if reach == "outside" else "all"
                    take = button(f"{word} {text}", "plain", tip=f"Knock out {name}, {reach}: {text}")
                    take.setStyleSheet("text-align: left; min-height: 16px; max-height: 16px; padding: 0 3px;")
                    take.clicked.connect(partial(self._take_offered, offer.rgb, reach))
                    choices.append(take)
            self._offers.addWidget(swatch, index // 2, 2 * (index % 2))
            self._offers.addWidget(column(*choices, spacing=0), index // 2, 2 * (index % 2) + 1)
            self._offers.setColumnStretch(2 * (index % 2) + 1, 1)

    def _take_offered(self, rgb: Rgb, reach: Reach, _checked: bool = False) -> None:
        self._context.apply(edits.add_knockout(model.offered(self._job, rgb, reach)))

    def _show_cards(self, job: Job, state: model.KnockoutState) -> None:
        while len(self.cards) > len(state.rows):
            card = self.cards.pop()
            take_away(card, self._list)
        while len(self.cards) < len(state.rows):
            card = KnockoutCard(len(self.cards), self._context)
            self._list.insertWidget(len(self.cards) + 1, card)
            self.cards.append(card)
        for card, item in zip(self.cards, state.rows, strict=True):
            card.render_row(job, item)

    def _show_keeps(self, state: model.KnockoutState) -> None:
        if state.keeps == self._kept:
            return
        self._kept = state.keeps
        clear(self._keeps)
        for index, (rgb, text) in enumerate(state.keeps):
            swatch = Swatch(rgb, f"Kept colour {index + 1}", 22)
            swatch.setEnabled(False)
            remove = button("", "plain", "trash-2", f"Knock out {text} again")
            remove.clicked.connect(lambda _=False, index=index: self._context.apply(edits.remove_keep(index)))
            self._keeps.addWidget(row(swatch, label(text), 1, remove))
