"""The slots of the press: the rack, and the line-ups that the shop keeps."""

from collections.abc import Callable
from functools import partial
from pathlib import Path

from PySide6.QtWidgets import QFileDialog, QInputDialog, QMenu, QVBoxLayout, QWidget

from swaddon.core.errors import PlanError
from swaddon.core.press.lineup import FACTORY, LineUp, factory
from swaddon.session import shop
from swaddon.ui.saving import save_name
from swaddon.ui.station_spec import StationContext
from swaddon.ui.stations.inks import model
from swaddon.ui.stations.inks.rack import SlotRack
from swaddon.ui.widgets import button, fill, label, row, why_button

_WHY = (
    "A bottle in the wrong slot ruins the print, and nothing on the screen shows it. Here two bottles can only change "
    "places, so no ink can sit twice. Compare the rack with the machine as you stand before it, left to right. "
    "Line-ups differ: white last after the colours, black before yellow, white in the slots of former light inks."
)
_FILES = "Line-up (*.json)"


class LineUpField(QWidget):
    def __init__(self, context: StationContext) -> None:
        super().__init__()
        self._context = context
        self._state: model.LineUpState | None = None
        self.rack = SlotRack()
        self.rack.swapped.connect(self._swapped)
        self.names = button("", "low")
        self.names.setToolTip("Line-ups of this press: take one, keep this one, open or save a file")
        self._menu = QMenu(self.names)
        self._menu.aboutToShow.connect(self._fill_menu)
        self.names.setMenu(self._menu)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(2)
        title = "Slots from the front"
        layout.addWidget(row(label(title, "head"), 1, self.names, why_button(title, _WHY)))
        layout.addWidget(self.rack)

    def render_state(self, state: model.LineUpState) -> None:
        self._state = state
        self.rack.show_slots(state.slots)
        self.names.setText(state.current.name)
        self.names.setAccessibleName(f"Line-up: {state.current.name}")

    def _swapped(self, one: int, other: int) -> None:
        if self._state is not None:
            self._context.apply(model.swap_edit(self._state, one, other))

    def _fill_menu(self) -> None:
        state = self._state
        if state is None:
            return
        entries: list[tuple[str, Callable[[], object]]] = []
        if not state.is_factory:
            entries.append((FACTORY, lambda: self._take(factory(state.press))))
        entries += [(item.name, partial(self._take, item)) for item in state.kept]
        if not state.is_factory:
            entries.append(("Keep this line-up…", self._keep))
            if state.current in state.kept:
                name = state.current.name
                entries.append((f"Forget “{name}”", lambda: self._context.apply(model.forget_lineup(state))))
        entries += [("Open a line-up…", self._choose_open), ("Save this line-up…", self._choose_save)]
        fill(self._menu, entries)

    def _take(self, made: LineUp) -> None:
        if self._state is not None:
            self._context.apply(model.lineup_edit(made, self._state.press, self._state.kept))

    def _keep(self) -> None:
        name, accepted = QInputDialog.getText(self, "Keep this line-up", "What do you call it?")
        if accepted:
            self.keep(name)

    def keep(self, name: str) -> None:
        """Keep the slots as they are, under a name."""
        if self._state is not None:
            self._context.apply(model.keep_lineup(self._state, name))

    def _choose_open(self) -> None:
        name, _ = QFileDialog.getOpenFileName(self, "Open a line-up", "", _FILES)
        if name:
            self.open(Path(name))

    def open(self, path: Path) -> None:
        """Take a line-up from a file; what is wrong with it is told."""
        if self._state is None:
            return
        try:
            made = shop.read_lineup(path, self._state.press)
        except PlanError as error:
            self._context.tell(str(error))
            return
        self._context.tell("")
        self._take(made)

    def _choose_save(self) -> None:
        name, _ = save_name(self, "Save this line-up", "line-up.json", _FILES)
        if name:
            self.save(Path(name))

    def save(self, path: Path) -> None:
        """Write the line-up to a file."""
        if self._state is None:
            return
        try:
            shop.write_lineup(path, self._state.current, self._state.press)
        except PlanError as error:
            self._context.tell(str(error))
