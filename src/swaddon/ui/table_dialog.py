"""A table to edit in a dialog: rows are added, removed and pasted; a wrong row is told and nothing is kept."""

from collections.abc import Callable, Sequence

from PySide6.QtCore import QSignalBlocker, Qt
from PySide6.QtGui import QColor, QGuiApplication, QIcon, QKeyEvent, QKeySequence, QPixmap
from PySide6.QtWidgets import (
    QComboBox,
    QDialog,
    QDialogButtonBox,
    QHeaderView,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from swaddon.core.errors import sentence
from swaddon.io.spreadsheet import rows_of
from swaddon.ui.widgets import button, label, row

_SWATCH_PX = 14

Cells = tuple[str, ...]
Choices = Sequence[tuple[str, str]]
"""Values of a cell and what they are called."""


class TableDialog(QDialog):
    """Rows of text; ``keep`` gets them on OK and raises ``ValueError`` with one sentence where they are wrong.

    Columns in ``choices`` are chosen from a list; ``under`` lies between the table and its buttons.
    """

    def __init__(
        self,
        parent: QWidget,
        title: str,
        heads: Sequence[str],
        rows: Sequence[Cells],
        keep: Callable[[list[Cells]], None],
        new_row: Cells,
        choices: dict[int, Choices] | None = None,
        under: QWidget | None = None,
        more_buttons: Sequence[QWidget] = (),
        colour_column: int | None = None,
    ) -> None:
        super().__init__(parent.window())
        self.setWindowTitle(title)
        self.resize(640, 480)
        self._keep, self._choices, self._new_row = keep, choices or {}, new_row
        self._colour_column = colour_column
        self.table = QTableWidget(0, len(heads))
        self.table.setAccessibleName(title)
        self.table.setHorizontalHeaderLabels(list(heads))
        self.table.verticalHeader().setVisible(True)
        self.table.horizontalHeader().setSectionResizeMode(0, QHeaderView.ResizeMode.Stretch)
        self.table.cellChanged.connect(self._cell_changed)
        self.show_rows(rows)
        self.add, remove = button("Add a row"), button("Remove the row")
        self.add.clicked.connect(lambda: self._add(self._new_row))
        remove.clicked.connect(lambda: self.table.removeRow(self.table.currentRow()))
        self.wrong = label("", "effect", wrap=True)
        self.wrong.hide()
        buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Ok | QDialogButtonBox.StandardButton.Cancel)
        buttons.accepted.connect(self.accept)
        buttons.rejected.connect(self.reject)
        layout = QVBoxLayout(self)
        layout.addWidget(self.table)
        if under is not None:
            layout.addWidget(under)
        layout.addWidget(self.wrong)
        layout.addWidget(row(self.add, remove, *more_buttons, 1, buttons))

    def show_rows(self, rows: Sequence[Cells]) -> None:
        """Put rows in the place of those there."""
        self.table.setRowCount(0)
        for cells in rows:
            self._add(cells)

    def _add(self, cells: Cells) -> None:
        index = self.table.rowCount()
        self.table.insertRow(index)
        for column in range(self.table.columnCount()):
            text = cells[column] if column < len(cells) else ""
            if column in self._choices:
                self.table.setCellWidget(index, column, _chooser(self._choices[column], text))
            else:
                self.table.setItem(index, column, QTableWidgetItem(text))

    def _cell_changed(self, index: int, column: int) -> None:
        """Show the colour that a cell names beside its text."""
        item = self.table.item(index, column)
        if item is None or column != self._colour_column:
            return
        colour = QColor(item.text().strip())
        picture = QPixmap(_SWATCH_PX, _SWATCH_PX)
        picture.fill(colour if colour.isValid() else Qt.GlobalColor.transparent)
        with QSignalBlocker(self.table):
            item.setIcon(QIcon(picture))

    def rows(self) -> list[Cells]:
        """The cells of every row."""
        columns = range(self.table.columnCount())
        return [tuple(self._text(index, column) for column in columns) for index in range(self.table.rowCount())]

    def _text(self, index: int, column: int) -> str:
        chooser = self.table.cellWidget(index, column)
        if isinstance(chooser, QComboBox):
            return str(chooser.currentData())
        item = self.table.item(index, column)
        return "" if item is None else item.text().strip()

    def tell(self, text: str) -> None:
        """Say what is wrong; empty text takes it away."""
        self.wrong.setText(text)
        self.wrong.setVisible(bool(text))

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.matches(QKeySequence.StandardKey.Paste):
            self.paste(QGuiApplication.clipboard().text())
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self.table.hasFocus():
            self._add(self._new_row)
            self.table.setCurrentCell(self.table.rowCount() - 1, 0)
        else:
            super().keyPressEvent(event)

    def paste(self, text: str) -> None:
        """Add rows copied from a spreadsheet."""
        try:
            for found in rows_of(text):
                self._add(found.cells)
        except ValueError as error:
            self.tell(f"{error}.")

    def accept(self) -> None:
        try:
            self._keep(self.rows())
        except ValueError as error:
            self.tell(sentence(error))
            return
        super().accept()


def _chooser(choices: Choices, value: str) -> QComboBox:
    made = QComboBox()
    for key, title in choices:
        made.addItem(title, key)
    made.setCurrentIndex(max(0, made.findData(value)))
    return made
