"""The tally bar: the per-shirt numbers, always in sight. Pressing one opens its arithmetic."""

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import QLayout, QPushButton, QVBoxLayout, QWidget

from swaddon.session.tally import TallyLine
from swaddon.ui import theme
from swaddon.ui.flow import Flow
from swaddon.ui.rebuilding import take_away
from swaddon.ui.widgets import Popover, button, column, label


class TallyCell(QPushButton):
    """One number with its name and its ± to the yardstick."""

    def __init__(self) -> None:
        super().__init__()
        self.setProperty("kind", "tally")
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(6, 3, 6, 3)
        layout.setSpacing(0)
        layout.setSizeConstraint(QLayout.SizeConstraint.SetMinimumSize)
        self._title, self._value, self._delta = label("", "quiet"), label("–", "value"), label("", "delta")
        for item in (self._title, self._value, self._delta):
            item.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
            layout.addWidget(item)
        self._line: TallyLine | None = None
        self.clicked.connect(self.open_arithmetic)

    def show_line(self, line: TallyLine) -> None:
        self._line = line
        self._title.setText(line.title)
        self._value.setText(line.value)
        self._delta.setText(line.delta)
        scheme = theme.current()
        colour = {"better": scheme.gain, "worse": scheme.loss, "same": scheme.quiet}[line.sense]
        self._delta.setStyleSheet(f"color: {colour};")
        self.setAccessibleName(f"{line.title}: {line.value} {line.delta}")
        self.setToolTip("\n".join(line.arithmetic))

    def show_current(self, is_current: bool) -> None:
        self._value.setEnabled(is_current)

    @property
    def line(self) -> TallyLine | None:
        return self._line

    def open_arithmetic(self) -> None:
        if self._line is not None:
            lines = [label(text, "head" if text.startswith("=") else None, wrap=True) for text in self._line.arithmetic]
            Popover(self, column(label(self._line.title, "title"), *lines), width=340)


class Tally(QWidget):
    """All numbers of the current plan side by side, or of the whole order."""

    whole_asked = Signal(bool)

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("panel")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self._layout = Flow(spacing=4, fills=True)
        self._layout.setContentsMargins(12, 2, 12, 2)
        self.setLayout(self._layout)
        self._head, self._note = label("Per shirt", "head"), label("", "delta")
        self.whole = button("Whole order", "link")
        self.whole.setCheckable(True)
        self.whole.toggled.connect(self._toggled)
        self.whole.hide()
        head = column(self._head, self.whole, self._note, spacing=0)
        self._note.setMinimumWidth(76)
        self._layout.addWidget(head)
        self._empty = label("Numbers appear as soon as there is artwork.", "quiet")
        self._layout.addWidget(self._empty)
        policy = self.sizePolicy()
        policy.setHeightForWidth(True)
        self.setSizePolicy(policy)
        self.cells: dict[str, TallyCell] = {}
        self._told, self._piece = "", "shirt"

    @property
    def shows_whole(self) -> bool:
        """Whether the numbers are those of the whole order."""
        return self.whole.isChecked()

    def offer_whole(self, offers: bool) -> None:
        """Whether there is more than one piece to sum."""
        self.whole.setVisible(offers)
        if not offers and self.whole.isChecked():
            self.whole.setChecked(False)

    def _toggled(self, whole: bool) -> None:
        self.whole.setText(f"Per {self._piece}" if whole else "Whole order")
        self._head.setText("Whole order" if whole else f"Per {self._piece}")
        self.whole_asked.emit(whole)

    def show_waiting(self, note: str) -> None:
        """Some lines are not counted yet: what stands there is of before."""
        self._told = note
        self.show_current(False, note)

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._fit()

    def _fit(self) -> None:
        self.setFixedHeight(max(70, self._layout.heightForWidth(self.width())))

    def show_current(self, is_current: bool, what: str = "counting …") -> None:
        """Whether the numbers are those of the job as it is now; others look pale."""
        self._note.setText(self._told if is_current else what)
        for cell in self.cells.values():
            cell.show_current(is_current)

    def show_piece(self, piece: str) -> None:
        """Say what one of the order is called."""
        self._piece = piece
        self._head.setText("Whole order" if self.shows_whole else f"Per {piece}")
        self.whole.setText(f"Per {piece}" if self.shows_whole else "Whole order")

    def show_lines(self, lines: tuple[TallyLine, ...], note: str) -> None:
        self._told = note
        self._note.setText(note)
        self._empty.setVisible(not lines)
        keys = [line.key for line in lines]
        if keys != list(self.cells):
            for cell in self.cells.values():
                take_away(cell, self._layout)
            self.cells = {key: TallyCell() for key in keys}
            for index, cell in enumerate(self.cells.values()):
                self._layout.insert(1 + index, cell)
        for line in lines:
            self.cells[line.key].show_line(line)
            self.cells[line.key].show_current(True)
        self._layout.invalidate()
        self._fit()
