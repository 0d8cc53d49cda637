"""The command finder: type a few letters of any action and run it."""

from collections.abc import Iterable

from PySide6.QtCore import Qt
from PySide6.QtGui import QAction, QKeyEvent, QKeySequence
from PySide6.QtWidgets import QDialog, QLineEdit, QListWidget, QListWidgetItem, QVBoxLayout, QWidget


class CommandFinder(QDialog):
    """All actions, filtered by the letters typed, in any order of words."""

    def __init__(self, actions: Iterable[QAction], parent: QWidget) -> None:
        super().__init__(parent)
        self.setWindowTitle("Find a command")
        self.setFixedSize(460, 380)
        layout = QVBoxLayout(self)
        self.field = QLineEdit()
        self.field.setPlaceholderText("Type a command, such as “choke” or “export”")
        self.field.setAccessibleName("Command")
        self.list = QListWidget()
        self.list.setAccessibleName("Commands")
        layout.addWidget(self.field)
        layout.addWidget(self.list)
        self._actions = [action for action in actions if action.isEnabled() and action.isVisible() and action.text()]
        self.field.textChanged.connect(self._filter)
        self.field.returnPressed.connect(self._run)
        self.list.itemActivated.connect(lambda _item: self._run())
        self._filter("")

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in (Qt.Key.Key_Down, Qt.Key.Key_Up):
            step = 1 if event.key() == Qt.Key.Key_Down else -1
            self.list.setCurrentRow(min(max(0, self.list.currentRow() + step), self.list.count() - 1))
        else:
            super().keyPressEvent(event)

    def _filter(self, text: str) -> None:
        words = text.lower().split()
        self.list.clear()
        for action in self._actions:
            title = action.text().replace("&", "")
            if all(word in title.lower() for word in words):
                keys = action.shortcut().toString(QKeySequence.SequenceFormat.NativeText)
                item = QListWidgetItem(f"{title}    {keys}" if keys else title)
                item.setData(Qt.ItemDataRole.UserRole, action)
                self.list.addItem(item)
        self.list.setCurrentRow(0)

    def _run(self) -> None:
        item = self.list.currentItem()
        if item is not None:
            self.accept()
            item.data(Qt.ItemDataRole.UserRole).trigger()
