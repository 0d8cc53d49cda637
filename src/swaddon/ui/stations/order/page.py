"""The Order sheet: the line at hand, how it is printed, and with which settings by name."""

from functools import partial

from PySide6.QtCore import QPoint, QSize
from PySide6.QtGui import QColor, QPixmap
from PySide6.QtWidgets import QComboBox, QGridLayout, QMenu, QPushButton, QStackedWidget, QVBoxLayout, QWidget

from swaddon.core.order.lines import PLACES
from swaddon.core.plan.stages import Plan
from swaddon.core.press.processes import PROCESSES
from swaddon.io.print_areas import FITS
from swaddon.session import edits, order_edits, shop
from swaddon.session.job import Job
from swaddon.session.setting_words import title_of
from swaddon.ui.fields import Choices, TextField
from swaddon.ui.flow import Flow
from swaddon.ui.garment import GARMENTS
from swaddon.ui.rebuilding import clear, take_away
from swaddon.ui.station_spec import StationContext
from swaddon.ui.stations.order import model
from swaddon.ui.stations.order.list_part import ListPart
from swaddon.ui.stations.order.presets_part import PresetsPart
from swaddon.ui.widgets import Choice, Field, Swatch, button, column, fill, give_room, label, row, why_button

_WHY_PROCESS = (
    "Film transfer prints colour first, then white, mirrored; pressed on the shirt, white lies under the colour. "
    "Direct prints white first, then colour, straight on the pretreated garment. Film suits mixed fabrics and stock "
    "of prints; direct feels softer and needs no powder. Toner sheets need no ink and no powder: in one pass where the "
    "printer has white, twice through a common one whose black cartridge is swapped. A decal is slid onto hard goods "
    "and is not turned over, so its white prints first."
)
_WHY_WIDTH = (
    "All that follows is counted on the artwork at this size. 300 ppi at print size is the norm; "
    "adult fronts are commonly 250 to 300 mm (10 to 12 in) wide. Youth, adult and oversize take their width from the "
    "shop’s table of print areas by the place of the print; a width of its own stays whatever the size. One width for "
    "all sizes is cheaper to stock, one for each looks right on each: both are done."
)
_WHY_PRESETS = (
    "Nobody sets everything anew: a preset holds the settings of a kind of job under a name. It is applied in one step "
    "that can be undone, and says before what it changes. One made for other goods is a common mistake, so those for "
    "this garment and process come first."
)
_SWATCH_PX = 14


class OrderPage(QWidget):
    def __init__(self, context: StationContext) -> None:
        super().__init__()
        self._context, self._job = context, Job()
        self.list_part = ListPart(context, lambda: self.show_part(""))
        self.presets_part = PresetsPart(context, lambda: self.show_part(""))
        self.own_table = QStackedWidget()
        self.own_table.addWidget(self.list_part.table)
        self.own_table.addWidget(self.presets_part.table)
        self.part = ""
        self._build()

    @property
    def shows_own_table(self) -> bool:
        """Whether the order list or the presets lie on the table in the place of the shirt."""
        return self.part != ""

    def show_part(self, part: str) -> None:
        """Lay the order list (``list``), the presets (``presets``) or the shirt on the table."""
        self.part = part
        self.list_button.setChecked(part == "list")
        self.presets_button.setChecked(part == "presets")
        if part == "presets":
            self.own_table.setCurrentWidget(self.presets_part.table)
            self.presets_part.show_job(self._job)
        else:
            self.presets_part.forget()
        if part == "list":
            self.own_table.setCurrentWidget(self.list_part.table)
            self.list_part.show_job(self._job)
            self.list_part.table.entry.setFocus()
        self._context.show_table()

    def _build(self) -> None:
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 8, 0)
        layout.setSpacing(10)
        self.name = TextField("Job name")
        self.name.entered.connect(lambda text: self._context.apply(model.name_edit(text)))
        self.list_button = button("Order list", tip="All lines as a table, to type, paste and change")
        self.list_button.setCheckable(True)
        self.list_button.clicked.connect(lambda on: self.show_part("list" if on else ""))
        titled = row(self.name, self.list_button)
        give_room(titled, 0)
        self.own = self._own_row()
        titles = [(key, process.title) for key, process in PROCESSES.items()]
        self.process = Choice("Process", titles, columns=3)
        self.process.chosen.connect(lambda key: self._context.apply(model.press_edit(key)))
        self.press = Choices()
        self.press.setAccessibleName("Press")
        self.press.activated.connect(self._press_chosen)
        _narrow(self.press, 90)
        self.process_field = Field("Process", column(self.process, self.press), _WHY_PROCESS)
        self.presets_button = button("Compare …", tip="A small proof of each on this artwork")
        self.presets_button.setCheckable(True)
        self.presets_button.clicked.connect(lambda on: self.show_part("presets" if on else ""))
        self.offered = label("", "effect")
        self.offers: dict[str, QPushButton] = {}
        self._offers = Flow(spacing=2)
        self._offers.setContentsMargins(0, 0, 0, 0)
        self._offers.addWidget(self.offered)
        offers = QWidget()
        offers.setLayout(self._offers)
        why = why_button("Settings by name", _WHY_PRESETS)
        self.presets = column(row(label("Settings by name", "head"), 1, why, self.presets_button), offers, spacing=0)
        self.cautions = label("", "caution", wrap=True)
        for field in (
            titled, self._garment_field(), self._facts_row(), self._print_field(), self.own,
            self.process_field, self.presets, self.cautions,
        ):  # fmt: skip
            layout.addWidget(field)
        layout.addStretch(1)

    def _own_row(self) -> QWidget:
        self.put_back = button("Follow the order", "low", tip="Take these settings from the order again")
        self.put_back.clicked.connect(self._ask_put_back)
        self.put_back_menu = QMenu(self.put_back)
        self.own_told = label("", "effect", wrap=True)
        own = row(self.own_told, self.put_back)
        give_room(own, 0)
        return own

    def _ask_put_back(self) -> None:
        """Put the only setting back at once; of several, ask which."""
        own = self._job.own
        if len(own) == 1:
            self._context.apply(order_edits.put_back_setting(own[0]))
            return
        entries = [(title_of(path), partial(self._put_back, path)) for path in own]
        fill(self.put_back_menu, [*entries, ("All of them", self._put_all_back)])
        self.put_back_menu.popup(self.put_back.mapToGlobal(QPoint(0, self.put_back.height())))

    def _put_back(self, path: str) -> None:
        self._context.apply(order_edits.put_back_setting(path))

    def _put_all_back(self) -> None:
        self._context.apply(order_edits.put_back_all())

    def _garment_field(self) -> Field:
        """Garments of the library, the first of them as swatches, and any other colour."""
        self.swatches: dict[str, Swatch] = {}
        self._swatches = QGridLayout()
        self._swatches.setContentsMargins(0, 0, 0, 0)
        self._swatches.setSpacing(4)
        colours = QWidget()
        colours.setLayout(self._swatches)
        self.goods = QComboBox()
        self.goods.setAccessibleName("Garment of the library")
        self.goods.setIconSize(QSize(_SWATCH_PX, _SWATCH_PX))
        self.goods.activated.connect(self._goods_chosen)
        _narrow(self.goods, 90)
        self.garment = TextField("Garment colour", "#rrggbb")
        self.garment.setFixedWidth(92)
        self.garment.feed(lambda text: self._context.apply(model.garment_edit(text)))
        chosen = row(self.goods, self.garment, spacing=4)
        give_room(chosen, 0)
        self.garment_field = Field("Garment", column(colours, chosen))
        return self.garment_field

    def _facts_row(self) -> QWidget:
        self.garment_size, self.place, self.cloth = Choices(), Choices(), Choices()
        for box, name in (
            (self.garment_size, "Garment size"),
            (self.place, "Place of the print"),
            (self.cloth, "Shape"),
        ):
            box.setAccessibleName(name)
            _narrow(box, 60)
        for key, place in PLACES.items():
            self.place.addItem(place.title, key)
        for piece in GARMENTS.values():
            self.cloth.addItem(piece.title, piece.key)
        self.garment_size.activated.connect(lambda at: self._of_line(model.size_edit, self.garment_size.itemData(at)))
        self.place.activated.connect(lambda at: self._of_line(model.place_edit, self.place.itemData(at)))
        self.cloth.activated.connect(lambda at: self._context.apply(edits.set_cloth(self.cloth.itemData(at))))
        self.quantity = TextField("Quantity")
        self.quantity.feed(lambda text: self._context.apply(model.quantity_edit(text)))
        pieces = Field("Pieces", self.quantity)
        pieces.setFixedWidth(58)
        fields = row(
            Field("Size", self.garment_size), Field("Place", self.place), Field("Shape", self.cloth), pieces, spacing=6
        )
        give_room(fields, 2)
        return fields

    def _print_field(self) -> Field:
        self.fit = Choices()
        self.fit.setAccessibleName("Print size")
        for fit in (*FITS, "own"):
            self.fit.addItem(fit.capitalize(), fit)
        _narrow(self.fit, 92)
        self.fit.activated.connect(lambda at: self._of_line(model.fit_edit, self.fit.itemData(at)))
        self.width_mm = TextField("Print width")
        self.width_mm.feed(lambda text: self._context.apply(model.width_edit(text, self._context.uses_inches())))
        self.units = Choice("Units", (("mm", "mm"), ("in", "in")))
        self.units.chosen.connect(lambda key: self._context.set_inches(key == "in"))
        self.width_field = Field("Print width", row(self.fit, self.width_mm, self.units, spacing=6), _WHY_WIDTH)
        return self.width_field

    def render_job(self, job: Job, _plan: Plan | None, _yardstick: Plan | None) -> None:
        self._job = job
        state = model.order_state(job, self._context.uses_inches())
        self.name.show_value(state.name)
        self.list_button.setText(f"{len(job.lines)} lines" if len(job.lines) > 1 else "Order list")
        self._show_goods(state)
        self.garment.show_value(state.garment_text)
        _fill(self.garment_size, [("", "–"), *((size, size) for size in state.sizes)], state.size)
        self.place.setCurrentIndex(self.place.findData(state.place))
        self.cloth.setCurrentIndex(self.cloth.findData(state.cloth))
        self.fit.setCurrentIndex(self.fit.findData(state.fit))
        self.own.setVisible(bool(state.own))
        self.own_told.setText(f"Own on this line: {state.own}")
        self.process.show_value(state.process)
        _fill(self.press, state.presses, state.press)
        self.garment_field.show_title(state.item)
        self.garment_field.show_effect(state.garment_told)
        self.process_field.show_effect(state.press_note)
        self.width_mm.show_value(state.width)
        self.width_field.show_effect(state.width_effect)
        self.units.show_value("in" if self._context.uses_inches() else "mm")
        self.quantity.show_value(state.quantity)
        self._show_offers(job)
        self.presets_button.setEnabled(job.file is not None)
        self.cautions.setText("\n".join(state.notes))
        if self.part == "list":
            self.list_part.show_job(job)
        elif self.part == "presets":
            self.presets_part.show_job(job)

    def _show_offers(self, job: Job) -> None:
        """Names of the presets that suit; a press applies one, its tip says what that changes."""
        self.offered.setText(self.presets_part.offered_text(job))
        views = self.presets_part.offered(job)
        if [view.preset.name for view in views] != list(self.offers):
            for old in self.offers.values():
                take_away(old, self._offers)
            self.offers = {}
            for view in views:
                made = button(view.preset.name, "link")
                made.setAccessibleName(f"Apply {view.preset.name}")
                made.clicked.connect(lambda _=False, preset=view.preset: self.presets_part.apply_to(self._job, preset))
                self._offers.addWidget(made)
                self.offers[view.preset.name] = made
        for view in views:
            self.offers[view.preset.name].setToolTip(f"{view.preset.why}\n{view.changes}")
            self.offers[view.preset.name].setEnabled(not view.in_use and job.file is not None)

    def _show_goods(self, state: model.OrderState) -> None:
        garments = shop.garments()
        names = [garment.name for garment in garments]
        if names != [self.goods.itemData(index) for index in range(self.goods.count()) if self.goods.itemData(index)]:
            self.goods.clear()
            self.goods.addItem("Own colour", "")
            for garment in garments:
                picture = QPixmap(_SWATCH_PX, _SWATCH_PX)
                picture.fill(QColor(*garment.rgb))
                self.goods.addItem(picture, garment.name, garment.name)
            self._make_swatches()
        self.goods.setCurrentIndex(max(0, self.goods.findData(state.garment_name)))
        for garment in garments[: model.MOST_SWATCHES]:
            self.swatches[garment.name].show_value(garment.rgb, garment.rgb == state.garment)

    def _make_swatches(self) -> None:
        clear(self._swatches)
        self.swatches = {}
        for index, garment in enumerate(shop.garments()[: model.MOST_SWATCHES]):
            swatch = Swatch(garment.rgb, f"Garment {garment.name}", 24)
            swatch.clicked.connect(lambda _=False, name=garment.name: self._take_goods(name))
            self._swatches.addWidget(swatch, 0, index)
            self.swatches[garment.name] = swatch

    def _goods_chosen(self, index: int) -> None:
        if name := self.goods.itemData(index):
            self._take_goods(name)

    def _take_goods(self, name: str) -> None:
        self._of_line(model.goods_edit, name)

    def _of_line(self, make: model.LineEdit, value: str) -> None:
        self._context.apply(make(self._job.at, value))

    def _press_chosen(self, index: int) -> None:
        key = self.press.itemData(index)
        if key != model.OWN:
            self._context.apply(model.press_edit(key))


def _narrow(box: QComboBox, width: int) -> None:
    """Let a box be as narrow as this; its list opens as wide as it needs."""
    box.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
    box.setMinimumContentsLength(1)
    box.setMinimumWidth(width)


def _fill(box: QComboBox, items: "model.Items", current: str) -> None:
    """Offer items, one of them current."""
    if tuple((box.itemData(index), box.itemText(index)) for index in range(box.count())) != tuple(items):
        box.clear()
        for key, title in items:
            box.addItem(title, key)
    box.setCurrentIndex(box.findData(current))
