"""The table of standard print areas and garment sizes, to edit."""

from collections.abc import Callable
from typing import Any

from PySide6.QtWidgets import QFormLayout, QLineEdit, QWidget

from swaddon.core.order.lines import PLACES
from swaddon.io.print_areas import FITS, PrintArea, SizeTable, twice
from swaddon.ui.table_dialog import Cells, TableDialog

_HEADS = ("Name", "Width mm", "Height mm", "Print size of", "For")
_PLACES = (("", "–"), *((key, place.title) for key, place in PLACES.items()))
_FITS = (("", "–"), *((fit, fit.capitalize()) for fit in FITS))
_MOST_SIZES, _LONGEST_SIZE = 60, 20


class AreaTable(TableDialog):
    """Areas by name, width and height, the lines of an order that take them, and the garment sizes of each fit."""

    def __init__(self, parent: QWidget, table: SizeTable, keep: Callable[[SizeTable], None]) -> None:
        self.sizes = {fit: QLineEdit(", ".join(sizes)) for fit, sizes in table.sizes}
        fields = QWidget()
        form = QFormLayout(fields)
        form.setContentsMargins(0, 0, 0, 0)
        for fit, field in self.sizes.items():
            field.setAccessibleName(f"Garment sizes, {fit}")
            form.addRow(f"Sizes, {fit}", field)
        self._keep_table = keep
        rows = [(area.name, f"{area.width_mm:g}", f"{area.height_mm:g}", area.place, area.fit) for area in table.areas]
        super().__init__(
            parent, "Print areas and sizes", _HEADS, rows, self._take, ("New area", "250", "300", "", ""),
            {3: _PLACES, 4: _FITS}, fields,
        )  # fmt: skip

    def _take(self, rows: list[Cells]) -> None:
        areas = tuple(_area(cells, number) for number, cells in enumerate(rows, start=1))
        again = twice(areas)
        if again is not None:
            raise ValueError(f"“{again.name}” is a second print size for {again.place}, {again.fit}: one is enough")
        self._keep_table(SizeTable(areas, tuple((fit, _sizes(field.text())) for fit, field in self.sizes.items())))


def _area(cells: Cells, number: int) -> PrintArea:
    name, place, fit = cells[0], cells[3], cells[4]
    try:
        width, height = (float(text.replace(",", ".")) for text in cells[1:3])
    except ValueError:
        width = height = 0.0
    if not name or not (5 <= width <= 2000 and 5 <= height <= 2000):
        raise ValueError(f"Row {number} needs a name, and a width and height between 5 and 2000 mm")
    if bool(place) != bool(fit):
        raise ValueError(f"Row {number}: a print size needs both a place and whom it is for, or neither")
    known: Any = (place, fit)
    return PrintArea(name[:80], width, height, *known)


def _sizes(text: str) -> tuple[str, ...]:
    found = tuple(dict.fromkeys(" ".join(part.split()) for part in text.split(",") if part.strip()))
    if len(found) > _MOST_SIZES or any(len(size) > _LONGEST_SIZE for size in found):
        raise ValueError(f"Sizes are up to {_MOST_SIZES} short words with commas between them")
    return found
