"""The table of standard print areas, to edit."""

from collections.abc import Callable

from PySide6.QtWidgets import (
    QDialog,
    QDialogButtonBox,
    QHeaderView,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from swaddon.io.print_areas import PrintArea
from swaddon.ui.widgets import button, label, row

_HEADS = ("Name", "Width mm", "Height mm")


class AreaTable(QDialog):
    """Rows of name, width and height; a wrong row is told and nothing is kept until it is mended."""

    def __init__(
        self, parent: QWidget, areas: tuple[PrintArea, ...], keep: Callable[[tuple[PrintArea, ...]], None]
    ) -> None:
        super().__init__(parent.window())
        self.setWindowTitle("Standard print areas")
        self.resize(460, 420)
        self._keep = keep
        self.table = QTableWidget(0, len(_HEADS))
        self.table.setAccessibleName("Standard print areas")
        self.table.setHorizontalHeaderLabels(_HEADS)
        self.table.verticalHeader().hide()
        self.table.horizontalHeader().setSectionResizeMode(0, QHeaderView.ResizeMode.Stretch)
        for area in areas:
            self._add((area.name, f"{area.width_mm:g}", f"{area.height_mm:g}"))
        add, remove = button("Add a row"), button("Remove the row")
        add.clicked.connect(lambda: self._add(("New area", "250", "300")))
        remove.clicked.connect(lambda: self.table.removeRow(self.table.currentRow()))
        self.wrong = label("", "effect", wrap=True)
        buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Ok | QDialogButtonBox.StandardButton.Cancel)
        buttons.accepted.connect(self.accept)
        buttons.rejected.connect(self.reject)
        layout = QVBoxLayout(self)
        layout.addWidget(self.table)
        layout.addWidget(self.wrong)
        layout.addWidget(row(add, remove, 1, buttons))

    def _add(self, texts: tuple[str, str, str]) -> None:
        index = self.table.rowCount()
        self.table.insertRow(index)
        for column, text in enumerate(texts):
            self.table.setItem(index, column, QTableWidgetItem(text))

    def _text(self, index: int, column: int) -> str:
        item = self.table.item(index, column)
        return "" if item is None else item.text().strip()

    def accept(self) -> None:
        areas = []
        for index in range(self.table.rowCount()):
            name = self._text(index, 0)
            try:
                width, height = (float(self._text(index, column).replace(",", ".")) for column in (1, 2))
            except ValueError:
                width = height = 0.0
            if not name or not (5 <= width <= 2000 and 5 <= height <= 2000):
                self.wrong.setText(f"Row {index + 1} needs a name, and a width and height between 5 and 2000 mm.")
                return
            areas.append(PrintArea(name, width, height))
        self._keep(tuple(areas))
        super().accept()
