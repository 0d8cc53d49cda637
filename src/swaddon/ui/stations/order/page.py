"""The Order sheet."""

from PySide6.QtWidgets import QGridLayout, QVBoxLayout, QWidget

from swaddon.core.plan.stages import Plan
from swaddon.core.press.processes import PROCESSES
from swaddon.session import edits
from swaddon.session.job import Job
from swaddon.ui.fields import Choices, TextField
from swaddon.ui.garment import GARMENTS
from swaddon.ui.station_spec import StationContext
from swaddon.ui.stations.order import model
from swaddon.ui.widgets import Choice, Field, Swatch, column, label, row

_WHY_PROCESS = (
    "Film transfer prints colour first, then white, mirrored; pressed on the shirt, white lies under the colour. "
    "Direct prints white first, then colour, straight on the pretreated garment. Film suits mixed fabrics and stock "
    "of prints; direct feels softer and needs no powder. Toner sheets need no ink and no powder: in one pass where the "
    "printer has white, twice through a common one whose black cartridge is swapped. A decal is slid onto hard goods "
    "and is not turned over, so its white prints first."
)
_WHY_WIDTH = (
    "All that follows is counted on the artwork at this size. 300 ppi at print size is the norm; "
    "adult fronts are commonly 250 to 300 mm (10 to 12 in) wide."
)


class OrderPage(QWidget):
    def __init__(self, context: StationContext) -> None:
        super().__init__()
        self._context = context
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(12)
        self.name = TextField("Job name")
        self.name.entered.connect(lambda text: context.apply(model.name_edit(text)))
        garment = self._garment_field(context)
        titles = [(key, process.title) for key, process in PROCESSES.items()]
        self.process = Choice("Process", titles, columns=3)
        self.process.chosen.connect(lambda key: context.apply(model.press_edit(key)))
        self.press = Choices()
        self.press.setAccessibleName("Press")
        self.press.activated.connect(self._press_chosen)
        self.process_field = Field("Process", column(self.process, self.press), _WHY_PROCESS)
        self.width_mm = TextField("Print width")
        self.width_mm.feed(lambda text: context.apply(model.width_edit(text, context.uses_inches())))
        self.units = Choice("Units", (("mm", "mm"), ("in", "in")))
        self.units.chosen.connect(lambda key: context.set_inches(key == "in"))
        self.quantity = TextField("Quantity")
        self.quantity.feed(lambda text: context.apply(model.quantity_edit(text)))
        self.width_field = Field("Print width", row(self.width_mm, self.units), _WHY_WIDTH)
        quantity = Field("Quantity", self.quantity)
        quantity.setFixedWidth(78)
        titled = row(Field("Job", self.name), quantity)
        self.cautions = label("", "caution", wrap=True)
        for field in (
            titled,
            garment,
            self.process_field,
            self.width_field,
            self.cautions,
        ):
            layout.addWidget(field)
        layout.addStretch(1)

    def _garment_field(self, context: StationContext) -> Field:
        """Colours of usual garments, any other colour, and the shape."""
        self.swatches: dict[str, Swatch] = {}
        grid = QGridLayout()
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setSpacing(4)
        for index, (title, rgb) in enumerate(model.GARMENT_COLOURS):
            swatch = Swatch(rgb, f"Garment {title}")
            swatch.clicked.connect(lambda _=False, rgb=rgb: context.apply(edits.set_garment(rgb)))
            grid.addWidget(swatch, 0, index)
            self.swatches[title] = swatch
        colours = QWidget()
        colours.setLayout(grid)
        self.garment = TextField("Garment colour", "#rrggbb")
        self.garment.feed(lambda text: context.apply(model.garment_edit(text)))
        self.cloth = Choice("Garment shape", [(piece.key, piece.title) for piece in GARMENTS.values()], columns=3)
        self.cloth.chosen.connect(lambda key: context.apply(edits.set_cloth(key)))
        self.garment_field = Field("Garment", column(colours, row(self.garment, spacing=4), self.cloth))
        return self.garment_field

    def render_job(self, job: Job, _plan: Plan | None, _yardstick: Plan | None) -> None:
        state = model.order_state(job, self._context.uses_inches())
        self.name.show_value(state.name)
        self.garment.show_value(state.garment_text)
        for (_, rgb), swatch in zip(model.GARMENT_COLOURS, self.swatches.values(), strict=True):
            swatch.show_value(rgb, rgb == state.garment)
        self.cloth.show_value(state.cloth)
        self.process.show_value(state.process)
        self._show_presses(state.presses, state.press)
        self.garment_field.show_title(state.item)
        self.process_field.show_effect(state.press_note)
        self.width_mm.show_value(state.width)
        self.width_field.show_effect(state.width_effect)
        self.units.show_value("in" if self._context.uses_inches() else "mm")
        self.quantity.show_value(state.quantity)
        self.cautions.setText("\n".join(state.notes))

    def _show_presses(self, presses: tuple[tuple[str, str], ...], current: str) -> None:
        held = tuple((self.press.itemData(index), self.press.itemText(index)) for index in range(self.press.count()))
        if held != presses:
            self.press.clear()
            for key, title in presses:
                self.press.addItem(title, key)
        self.press.setCurrentIndex(self.press.findData(current))

    def _press_chosen(self, index: int) -> None:
        key = self.press.itemData(index)
        if key != model.OWN:
            self._context.apply(model.press_edit(key))
