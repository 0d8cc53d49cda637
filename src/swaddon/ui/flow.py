"""A layout that goes on in the next line where the width ends."""

from PySide6.QtCore import QPoint, QRect, QSize, Qt
from PySide6.QtWidgets import QLayout, QLayoutItem, QWidget


class Flow(QLayout):
    """Widgets beside each other, each as wide as it asks; with ``fills`` the room of a line is shared among them."""

    def __init__(self, spacing: int = 4, fills: bool = False) -> None:
        super().__init__()
        self._items: list[QLayoutItem] = []
        self._fills = fills
        self.setSpacing(spacing)

    def addItem(self, item: QLayoutItem) -> None:
        self._items.append(item)

    def insert(self, index: int, widget: QWidget) -> None:
        """Put a widget at a place among the others."""
        self.addWidget(widget)
        self._items.insert(index, self._items.pop())

    def count(self) -> int:
        return len(self._items)

    def itemAt(self, index: int) -> QLayoutItem | None:
        return self._items[index] if 0 <= index < len(self._items) else None

    def takeAt(self, index: int) -> QLayoutItem | None:
        return self._items.pop(index) if 0 <= index < len(self._items) else None

    def expandingDirections(self) -> Qt.Orientation:
        return Qt.Orientation(0)

    def hasHeightForWidth(self) -> bool:
        return True

    def heightForWidth(self, width: int) -> int:
        return self._placed(QRect(0, 0, width, 0), tells_only=True)

    def sizeHint(self) -> QSize:
        return self.minimumSize()

    def minimumSize(self) -> QSize:
        size = QSize()
        for item in self._shown():
            size = size.expandedTo(item.minimumSize())
        margins = self.contentsMargins()
        return size + QSize(margins.left() + margins.right(), margins.top() + margins.bottom())

    def setGeometry(self, rect: QRect) -> None:
        super().setGeometry(rect)
        self._placed(rect, tells_only=False)

    def _shown(self) -> list[QLayoutItem]:
        return [item for item in self._items if not item.isEmpty()]

    def _placed(self, rect: QRect, tells_only: bool) -> int:
        """Lay the lines out; gives the height that they take."""
        margins = self.contentsMargins()
        inner = rect.marginsRemoved(margins)
        y, lines = inner.y(), self._lines(inner.width())
        for line in lines:
            height = max(item.sizeHint().height() for item in line)
            if not tells_only:
                self._put(line, QRect(inner.x(), y, inner.width(), height), len(lines[0]))
            y += height + self.spacing()
        return max(y - self.spacing(), inner.y()) + margins.bottom() - rect.y()

    def _lines(self, width: int) -> list[list[QLayoutItem]]:
        lines: list[list[QLayoutItem]] = [[]]
        used = 0
        for item in self._shown():
            wide = item.sizeHint().width()
            if lines[-1] and used + wide > width:
                lines.append([])
                used = 0
            lines[-1].append(item)
            used += wide + self.spacing()
        return lines if lines[0] else []

    def _put(self, line: list[QLayoutItem], place: QRect, columns: int) -> None:
        spare = 0
        if self._fills:
            taken = sum(item.sizeHint().width() for item in line) + self.spacing() * (columns - 1)
            spare = max(0, place.width() - taken) // max(columns, len(line))
        x = place.x()
        for item in line:
            size = item.sizeHint()
            item.setGeometry(QRect(QPoint(x, place.y()), QSize(size.width() + spare, place.height())))
            x += size.width() + spare + self.spacing()
