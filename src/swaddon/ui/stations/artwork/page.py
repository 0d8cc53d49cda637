"""The Artwork sheet."""

from collections.abc import Callable

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QGridLayout, QMenu, QPushButton, QVBoxLayout, QWidget

from swaddon.core.errors import PlanError
from swaddon.core.plan.stages import Plan
from swaddon.io import print_areas
from swaddon.session import edits, shop
from swaddon.session.job import Job
from swaddon.session.session import Edit
from swaddon.ui import theme
from swaddon.ui.area_table import AreaTable
from swaddon.ui.fields import TextField
from swaddon.ui.setting_fields import slide
from swaddon.ui.station_spec import StationContext
from swaddon.ui.stations.artwork import model
from swaddon.ui.widgets import Choice, Elided, Field, button, column, label, row, scrolled

_WHY_SIZE = (
    "Everything that follows is counted at this size. 300 ppi at print size is the norm: a picture can be 100 in wide "
    "and still be only right at 16. Adult fronts are commonly printed 3 in (76 mm) below the collar, centred."
)


class FactLine(QPushButton):
    """One line of the card; pressed, it shows the place."""

    def __init__(self, go_to: Callable[[float, float], None]) -> None:
        super().__init__()
        self.setProperty("kind", "plain")
        self._go_to = go_to
        self._place: tuple[float, float] | None = None
        grid = QGridLayout(self)
        grid.setContentsMargins(0, 0, 4, 0)
        grid.setHorizontalSpacing(8)
        self._sign, self._name, self._value = label(), label("", "quiet"), Elided()
        self._sign.setFixedWidth(16)
        self._name.setFixedWidth(88)
        for place, part in enumerate((self._name, self._value, self._sign)):
            part.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
            grid.addWidget(part, 0, place)
        grid.setColumnStretch(1, 1)
        self.setStyleSheet("min-height: 20px; max-height: 20px; padding: 0;")
        self.clicked.connect(self._show_place)

    def show_fact(self, fact: model.Fact) -> None:
        self._place = fact.place
        self._name.setText(fact.name)
        self._value.show_text(fact.value)
        scheme = theme.current()
        sign = {"look": ("triangle-alert", scheme.look), "stop": ("octagon-alert", scheme.stop)}.get(fact.mark)
        if sign is None:
            self._sign.clear()
        else:
            self._sign.setPixmap(theme.pixmap(sign[0], 14, sign[1]))
        self.setEnabled(fact.place is not None)
        self.setAccessibleName(f"{fact.name}: {fact.value}")
        self.setToolTip(f"{fact.name}: {fact.value}" + ("\nPress to see where." if fact.place else ""))

    def _show_place(self) -> None:
        if self._place is not None:
            self._go_to(*self._place)


class ArtworkPage(QWidget):
    def __init__(self, context: StationContext) -> None:
        super().__init__()
        self._context = context
        self._job = Job()
        layout = QVBoxLayout()
        layout.setContentsMargins(0, 0, 8, 0)
        layout.setSpacing(8)
        self.open = button("Place artwork …", "primary", "image-plus")
        self.open.clicked.connect(context.choose_artwork)
        layout.addWidget(self.open)
        self._card = QVBoxLayout()
        self._card.setContentsMargins(0, 0, 0, 0)
        self._card.setSpacing(0)
        self.facts: list[FactLine] = []
        card = QWidget()
        card.setLayout(self._card)
        layout.addWidget(card)
        self._notes = label("", "quiet", wrap=True)
        layout.addWidget(self._notes)
        self._build_placing(layout)
        layout.addStretch(1)
        whole = QVBoxLayout(self)
        whole.setContentsMargins(0, 0, 0, 0)
        whole.addWidget(scrolled(layout))

    def _build_placing(self, layout: QVBoxLayout) -> None:
        self.page = Choice("Page", (("previous", "‹ Page"), ("next", "Page ›")))
        self.page.chosen.connect(self._turn_page)
        self.crop = button("Crop to content")
        self.crop.clicked.connect(self._crop)
        self.turn = button("Turn 90°")
        self.turn.clicked.connect(lambda: self._context.apply(edits.turn()))
        self.width_mm = TextField("Print width")
        self.height_mm = TextField("Print height")
        self.width_mm.feed(lambda text: self._context.apply(model.width_edit(text, self._context.uses_inches())))
        self.height_mm.feed(
            lambda text: self._context.apply(model.height_edit(text, self._job, self._context.uses_inches()))
        )
        self.areas = button("Areas")
        self.areas.setToolTip("Standard print areas of shirt sizes")
        self._menu = QMenu(self.areas)
        self._menu.aboutToShow.connect(self._fill_menu)
        self.areas.setMenu(self._menu)
        self.drop = slide(self._context, "drop_mm")
        self.stated = button("", "link", tip="Print it as wide as its file says")
        self.stated.clicked.connect(lambda: self._context.apply(edits.set_stated_width()))
        size = row(self.width_mm, label("×", "quiet"), self.height_mm, self.areas, spacing=4)
        self.placing = Field(
            "Print size",
            column(size, row(self.stated, 1), self.drop, row(self.crop, self.turn, self.page), spacing=6),
            _WHY_SIZE,
        )
        layout.addWidget(self.placing)

    def _turn_page(self, which: str) -> None:
        if self._job.file is not None:
            artwork = self._job.file.artwork
            page = artwork.page + (1 if which == "next" else -1)
            if 1 <= page <= artwork.pages:
                self._context.show_page(page)

    def _crop(self) -> None:
        job = self._job

        def found(edit: Edit | None) -> None:
            if edit is None:
                self._context.tell("There is nothing to crop away: the content reaches every edge.")
            elif self._job.file is job.file:
                self._context.apply(edit)

        self._context.in_background(lambda: model.crop_edit(job), found)

    def _fill_menu(self) -> None:
        self._menu.clear()
        table = shop.sizes()
        for area in table.areas:
            text = f"{area.name}   {area.width_mm:g} × {area.height_mm:g} mm"
            action = self._menu.addAction(text)
            action.triggered.connect(lambda _=False, area=area: self._context.apply(model.area_edit(area, self._job)))
        self._menu.addSeparator()
        self._menu.addAction("Edit this table …").triggered.connect(lambda: self.edit_areas(table).open())

    def edit_areas(self, table: print_areas.SizeTable) -> AreaTable:
        """The table to edit; kept on OK."""
        return AreaTable(self, table, self._keep_areas)

    def _keep_areas(self, table: print_areas.SizeTable) -> None:
        try:
            shop.keep_sizes(table)
        except PlanError as error:
            self._context.tell(str(error))

    def render_job(self, job: Job, plan: Plan | None, _yardstick: Plan | None) -> None:
        self._job = job
        state = model.artwork_state(job, plan, self._context.uses_inches())
        while len(self.facts) < len(state.facts):
            line = FactLine(self._context.go_to)
            self._card.addWidget(line)
            self.facts.append(line)
        for index, line in enumerate(self.facts):
            line.setVisible(index < len(state.facts))
            if index < len(state.facts):
                line.show_fact(state.facts[index])
        self._notes.setText(state.notes)
        self._notes.setVisible(bool(state.notes))
        self.placing.setVisible(state.has_artwork)
        self.width_mm.show_value(state.width)
        self.height_mm.show_value(state.height)
        self.stated.setText(state.stated)
        self.stated.setVisible(bool(state.stated))
        self.drop.setVisible(state.has_collar)
        self.drop.show_value(state.drop_mm)
        self.crop.setText("Print all of it" if state.is_cropped else "Crop to content")
        self.page.setVisible(state.pages > 1)
        self.placing.show_effect(state.fits + (f" · page {state.page} of {state.pages}" if state.pages > 1 else ""))
