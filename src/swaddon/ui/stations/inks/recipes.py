"""Exact colours: each as drawn and as it comes out, its inks typed as a recipe."""

from PySide6.QtWidgets import QVBoxLayout, QWidget

from swaddon.session.job import Job
from swaddon.ui.fields import TextField
from swaddon.ui.rebuilding import take_away
from swaddon.ui.station_spec import StationContext
from swaddon.ui.stations.inks import model
from swaddon.ui.widgets import Field, Swatch, button, label, row

_WHY = (
    "A brand’s red is given as inks, such as C20 M100 Y100, and must be just that on every job. Click it in the "
    "artwork and type its recipe: every colour within the tolerance (ΔE, the small field) gets these inks, whatever "
    "the separation says. The right patch is how it comes out on this garment with the white that lies there."
)


class RecipeLine(QWidget):
    """One held colour."""

    def __init__(self, index: int, context: StationContext) -> None:
        super().__init__()
        self._index, self._context, self._job = index, context, Job()
        self.drawn = Swatch((0, 0, 0), f"Held colour {index + 1}, as drawn", 24)
        self.shown = Swatch((0, 0, 0), f"Held colour {index + 1}, as it comes out", 24)
        for patch in (self.drawn, self.shown):
            patch.setEnabled(False)
        self.inks = TextField(f"Recipe of held colour {index + 1}", "C20 M100 Y100")
        self.inks.feed(lambda text: context.apply(model.recipe_edit(self._job, index, text)))
        remove = button("", "plain", "trash-2", "Let this colour go")
        remove.clicked.connect(lambda: context.apply(model.remove_recipe(self._job, index)))
        self.effect = label("", "effect", wrap=True)
        self.tolerance = TextField(f"Tolerance of held colour {index + 1}, ΔE", "± ΔE")
        self.tolerance.setFixedWidth(52)
        self.tolerance.feed(lambda text: context.apply(model.tolerance_edit(self._job, index, text)))
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 4)
        layout.setSpacing(2)
        layout.addWidget(row(self.drawn, self.shown, self.inks, self.tolerance, remove, spacing=4))
        layout.addWidget(self.effect)

    def render_row(self, job: Job, state: model.RecipeRow) -> None:
        self._job = job
        self.drawn.show_value(state.colour)
        self.shown.setVisible(state.shown is not None)
        if state.shown is not None:
            self.shown.show_value(state.shown)
        self.inks.show_value(state.text)
        self.tolerance.show_value(f"± {state.tolerance_de:g}")
        self.effect.setText(state.effect)


class RecipeField(QWidget):
    def __init__(self, context: StationContext) -> None:
        super().__init__()
        self._context, self._job = context, Job()
        self.lines: list[RecipeLine] = []
        self.hold = button("Hold a colour exactly", "", "pipette", "Then click the colour on the table")
        self.hold.clicked.connect(self._pick)
        self._list = QVBoxLayout()
        self._list.setContentsMargins(0, 0, 0, 0)
        self._list.setSpacing(2)
        self._list.addWidget(self.hold)
        inner = QWidget()
        inner.setLayout(self._list)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(Field("Exact colours", inner, _WHY))

    def render_state(self, job: Job, rows: tuple[model.RecipeRow, ...]) -> None:
        self._job = job
        while len(self.lines) > len(rows):
            line = self.lines.pop()
            take_away(line, self._list)
        while len(self.lines) < len(rows):
            line = RecipeLine(len(self.lines), self._context)
            self._list.insertWidget(len(self.lines), line)
            self.lines.append(line)
            line.show()
        for line, state in zip(self.lines, rows, strict=True):
            line.render_row(job, state)

    def _pick(self) -> None:
        self._context.pick(lambda rgb, _point: self._context.apply(model.hold_edit(self._job, rgb)))
