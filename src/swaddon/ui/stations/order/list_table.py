"""The order list on the table: lines to type, paste and change, and one transfer against several."""

from pathlib import Path

from PySide6.QtCore import QMimeData, QRectF, QSignalBlocker, Qt, Signal
from PySide6.QtGui import (
    QColor,
    QGuiApplication,
    QIcon,
    QKeyEvent,
    QKeySequence,
    QPainter,
    QPaintEvent,
    QPixmap,
)
from PySide6.QtWidgets import QFileDialog, QHeaderView, QLineEdit, QTableWidget, QTableWidgetItem, QVBoxLayout, QWidget

from swaddon.ui import theme
from swaddon.ui.stations.order import list_model
from swaddon.ui.widgets import button, label, row

_SWATCH_PX = 14
_WAY_H = 40


class Entry(QLineEdit):
    """One line to type; several that are pasted are taken at once."""

    taken = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self.setAccessibleName("New line of the order")
        self.setPlaceholderText("New line: navy L 6 – or paste rows of garment, size, pieces, place, print size")
        self.returnPressed.connect(lambda: self.taken.emit(self.text()))

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.matches(QKeySequence.StandardKey.Paste) and self._takes(QGuiApplication.clipboard().mimeData()):
            self.taken.emit(QGuiApplication.clipboard().text())
            return
        super().keyPressEvent(event)

    @staticmethod
    def _takes(data: QMimeData) -> bool:
        return data.hasText() and ("\t" in data.text() or "\n" in data.text().strip())


class Grid(QTableWidget):
    """The lines as a table; rows are pasted, and removed by the key."""

    pasted = Signal(str)
    removed = Signal()

    def __init__(self) -> None:
        super().__init__(0, len(list_model.HEADS))
        self.setAccessibleName("Lines of the order")
        self.setHorizontalHeaderLabels(list(list_model.HEADS))
        self.verticalHeader().hide()
        self.setSelectionBehavior(QTableWidget.SelectionBehavior.SelectItems)
        head = self.horizontalHeader()
        head.setSectionResizeMode(QHeaderView.ResizeMode.ResizeToContents)
        head.setStretchLastSection(True)
        head.setMinimumSectionSize(44)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.matches(QKeySequence.StandardKey.Paste):
            self.pasted.emit(QGuiApplication.clipboard().text())
        elif event.key() == Qt.Key.Key_Delete:
            self.removed.emit()
        else:
            super().keyPressEvent(event)


class Ways(QWidget):
    """Ways of printing the order as bars of their cost; the advised one is filled."""

    def __init__(self) -> None:
        super().__init__()
        self._rows: tuple[list_model.WayRow, ...] = ()
        self.setAccessibleName("One transfer against several")
        self.hide()

    def show_ways(self, rows: tuple[list_model.WayRow, ...]) -> None:
        self._rows = rows
        self.setVisible(bool(rows))
        self.setFixedHeight(_WAY_H * len(rows))
        told = [f"{row.title}: {row.cost}, {row.facts}{', advised' if row.is_advised else ''}" for row in rows]
        self.setAccessibleDescription("; ".join(told))
        self.update()

    def paintEvent(self, _event: QPaintEvent) -> None:
        scheme, painter = theme.current(), QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        left, room = 320, max(60, self.width() - 320 - 110)
        for index, way in enumerate(self._rows):
            top = index * _WAY_H
            painter.setPen(QColor(scheme.text))
            font = painter.font()
            font.setBold(way.is_advised)
            painter.setFont(font)
            title = painter.fontMetrics().elidedText(way.title, Qt.TextElideMode.ElideRight, left - 12)
            painter.drawText(QRectF(0, top, left, 18), Qt.AlignmentFlag.AlignVCenter, title)
            bar = QRectF(left, top + 3, room * way.share, 12)
            painter.setBrush(QColor(scheme.text if way.is_advised else scheme.line))
            painter.setPen(Qt.PenStyle.NoPen)
            painter.drawRoundedRect(bar, 2, 2)
            painter.setPen(QColor(scheme.text))
            painter.drawText(QRectF(bar.right() + 8, top, 110, 18), Qt.AlignmentFlag.AlignVCenter, way.cost)
            font.setBold(False)
            painter.setFont(font)
            painter.setPen(QColor(scheme.quiet))
            painter.drawText(QRectF(0, top + 18, self.width(), 18), Qt.AlignmentFlag.AlignVCenter, way.facts)


class OrderList(QWidget):
    """Tells what was typed, pasted and changed; ``said`` is what is wrong with it."""

    entered = Signal(str)
    changed = Signal(int, int, str)
    turned = Signal(int)
    removed = Signal(int)
    opened = Signal(object)
    compared = Signal()
    garments = Signal()
    closed = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("ground")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.grid = Grid()
        self.grid.cellChanged.connect(self._cell_changed)
        self.grid.currentCellChanged.connect(self._moved)
        self.grid.pasted.connect(self.entered)
        self.grid.removed.connect(self._remove)
        self.entry = Entry()
        self.entry.taken.connect(self.entered)
        self.said = label("", "effect", wrap=True)
        self.said.hide()
        self.compare = button("One transfer for all?", tip="Compare one transfer for all garments with one for each")
        self.compare.clicked.connect(self.compared)
        self.ways, self.verdict = Ways(), label("", "head", wrap=True)
        self.verdict.hide()
        self._build()

    def _build(self) -> None:
        add, csv, remove, goods = (button(text) for text in ("Add", "From CSV …", "Remove line", "Garments …"))
        add.setAccessibleName("Add the line")
        add.clicked.connect(lambda: self.entered.emit(self.entry.text()))
        csv.clicked.connect(self._choose)
        remove.clicked.connect(self._remove)
        goods.clicked.connect(self.garments)
        close = button("Back to the print", "link")
        close.clicked.connect(self.closed)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(16, 12, 16, 12)
        layout.setSpacing(8)
        layout.addWidget(row(label("Order list", "title"), 1, close))
        layout.addWidget(self.grid, 1)
        layout.addWidget(row(self.entry, add))
        layout.addWidget(self.said)
        layout.addWidget(row(csv, remove, goods, 1, self.compare))
        layout.addWidget(self.ways)
        layout.addWidget(self.verdict)

    def show_rows(self, rows: tuple[list_model.ListRow, ...], at: int) -> None:
        """Show the lines, one of them at hand; a cell that is being edited stays."""
        with QSignalBlocker(self.grid):
            self.grid.setRowCount(len(rows))
            for index, shown in enumerate(rows):
                for column, text in enumerate(shown.cells):
                    self._show_cell(index, column, text, shown, index == at)
            if self.grid.currentRow() != at:
                self.grid.setCurrentCell(at, max(0, self.grid.currentColumn()))

    def _show_cell(self, index: int, column: int, text: str, shown: list_model.ListRow, is_current: bool) -> None:
        item = self.grid.item(index, column)
        if item is None:
            item = QTableWidgetItem()
            if column not in list_model.ENTERED:
                item.setFlags(item.flags() & ~Qt.ItemFlag.ItemIsEditable)
            self.grid.setItem(index, column, item)
        if item.text() != text:
            item.setText(text)
        font = item.font()
        font.setBold(is_current)
        item.setFont(font)
        item.setToolTip(shown.tip)
        right = column == list_model.PIECES or list_model.WIDTH <= column < len(list_model.HEADS) - 1
        side = Qt.AlignmentFlag.AlignRight if right else Qt.AlignmentFlag.AlignLeft
        item.setTextAlignment(side | Qt.AlignmentFlag.AlignVCenter)
        if column == list_model.GARMENT:
            item.setIcon(_swatch(shown.rgb))

    def show_advice(self, rows: tuple[list_model.WayRow, ...], reason: str) -> None:
        """Show the ways side by side, and which is advised; no rows: nothing to compare, or not compared yet."""
        self.ways.show_ways(rows)
        self.verdict.setText(reason)
        self.verdict.setVisible(bool(reason))

    def show_comparing(self, goes_on: bool) -> None:
        """Whether the comparison is being worked out."""
        self.compare.setText("Comparing …" if goes_on else "One transfer for all?")
        self.compare.setEnabled(not goes_on)

    def say(self, text: str) -> None:
        """Say what is wrong; empty text takes it away."""
        self.said.setText(text)
        self.said.setVisible(bool(text))

    def _cell_changed(self, index: int, column: int) -> None:
        item = self.grid.item(index, column)
        if item is not None:
            self.changed.emit(index, column, item.text())

    def _moved(self, index: int, _column: int, _before: int, _was: int) -> None:
        if index >= 0:
            self.turned.emit(index)

    def _remove(self) -> None:
        self.removed.emit(self.grid.currentRow())

    def _choose(self) -> None:
        name, _ = QFileDialog.getOpenFileName(self, "Lines from CSV", "", "Tables (*.csv *.tsv *.txt)")
        if name:
            self.opened.emit(Path(name))


def _swatch(rgb: tuple[int, int, int]) -> QIcon:
    picture = QPixmap(_SWATCH_PX, _SWATCH_PX)
    picture.fill(QColor(*rgb))
    return QIcon(picture)
