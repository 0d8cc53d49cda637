"""Parts of a sheet that are folded away behind their heads."""

from PySide6.QtWidgets import QVBoxLayout, QWidget

from swaddon.ui.widgets import GRID, button, column, row


class Fold(QWidget):
    """A head to press that shows or hides what lies under it; the head tells in short what is set there."""

    def __init__(self, title: str, content: QWidget) -> None:
        super().__init__()
        self._title, self.content = title, content
        self.head = button(title, "link")
        self.head.setCheckable(True)
        self.head.setStyleSheet("padding-left: 0;")
        self.head.toggled.connect(self._turned)
        self.content.hide()
        self.content.setContentsMargins(0, 0, 0, GRID)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(GRID)
        self._line = row(self.head, 1)
        layout.addWidget(self._line)
        layout.addWidget(content)
        self._told = ""
        self.show_note("")

    def give_head(self) -> QWidget:
        """The head, for a line that it shares; what is folded stays here."""
        self._line.hide()
        return self.head

    def setVisible(self, visible: bool) -> None:
        super().setVisible(visible)
        self.head.setVisible(visible)

    def show_note(self, text: str) -> None:
        self._told = text
        self._turned(self.head.isChecked())

    def _turned(self, is_open: bool) -> None:
        self.content.setVisible(is_open)
        self.head.setText(f"{'−' if is_open else '+'} {self._title}" + (f": {self._told}" if self._told else ""))
        self.head.setAccessibleName(f"{self._title} {self._told}, {'open' if is_open else 'closed'}".replace("  ", " "))


def side_by_side(*folds: Fold) -> QWidget:
    """Folds whose heads share a line; each opens under it."""
    return column(row(*(fold.give_head() for fold in folds), 1, spacing=3 * GRID), *folds, spacing=0)
