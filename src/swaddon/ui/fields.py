"""Fields that numbers, texts and choices are entered in."""

import math
from collections.abc import Callable

from PySide6.QtCore import QEvent, QSignalBlocker, Qt, Signal
from PySide6.QtGui import QKeyEvent, QWheelEvent
from PySide6.QtWidgets import QComboBox, QHBoxLayout, QLineEdit, QSlider, QWidget

from swaddon.core.schema import Declared
from swaddon.ui.widgets import GRID, label


class TextField(QLineEdit):
    """A text that is read on Enter or on leaving; a refusal is told in place and keeps what was typed.

    While somebody types, nothing writes over it. The bench's own shortcuts work from it.
    """

    entered = Signal(str)

    def __init__(self, name: str, placeholder: str = "") -> None:
        super().__init__()
        self.setAccessibleName(name)
        self.setPlaceholderText(placeholder)
        self._shown = ""
        self.is_typed = False
        self.textEdited.connect(self._typed_in)
        self.editingFinished.connect(self._finish)

    def show_value(self, text: str) -> None:
        self._shown = text
        if self.is_typed or (self.hasFocus() and self.property("wrong") == "true"):
            return
        with QSignalBlocker(self):
            self.setText(text)
        self.refuse("")

    def feed(self, take: Callable[[str], None]) -> None:
        """Hand each text to ``take``; its ``ValueError`` is the reason to refuse the text in place."""

        def read(text: str) -> None:
            try:
                take(text)
                self.refuse("")
            except ValueError as error:
                self.refuse(f"{error}.")

        self.entered.connect(read)

    def refuse(self, why: str) -> None:
        """Mark the text as wrong and say why; an empty reason clears the mark."""
        wrong = "true" if why else "false"
        self.setToolTip(why)
        if self.property("wrong") != wrong:
            self.setProperty("wrong", wrong)
            self.style().unpolish(self)
            self.style().polish(self)

    def commit(self) -> None:
        """Read what was typed so far, as on leaving."""
        if self.is_typed:
            self._finish()

    def revert(self) -> bool:
        """Take back what was typed or refused; False when there was nothing."""
        if not self.is_typed and self.property("wrong") != "true":
            return False
        self.is_typed = False
        with QSignalBlocker(self):
            self.setText(self._shown)
        self.refuse("")
        return True

    def type_on(self, text: str) -> None:
        """Go on with what was half typed in the field that was here before."""
        self.setText(text)
        self.is_typed = True

    def event(self, event: QEvent) -> bool:
        if (
            isinstance(event, QKeyEvent)
            and event.type() == QEvent.Type.ShortcutOverride
            and event.modifiers() & Qt.KeyboardModifier.ControlModifier
            and event.key() in _BENCH_KEYS
        ):
            event.ignore()
            return False
        return super().event(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Escape:
            self.revert()
        super().keyPressEvent(event)

    def _typed_in(self, _text: str) -> None:
        self.is_typed = True

    def _finish(self) -> None:
        self.is_typed = False
        if self.text() != self._shown:
            self.entered.emit(self.text())


_BENCH_KEYS = (Qt.Key.Key_Z, Qt.Key.Key_Y, Qt.Key.Key_K)
"""With Ctrl: undo, redo, yardstick and curtain, which a text field would keep to itself."""


class Drag(QSlider):
    """A horizontal slider over real numbers. ``moved`` while dragging, ``settled`` when the drag is over.

    Each press of a key is a drag of its own. The wheel moves it only when it has the focus, so that scrolling past sets
    nothing.
    """

    moved = Signal(float)
    settled = Signal()

    def __init__(self, name: str, least: float, most: float, step: float) -> None:
        super().__init__(Qt.Orientation.Horizontal)
        self.setAccessibleName(name)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self._least, self._step = least, step
        self.setRange(0, round((most - least) / step))
        self.setPageStep(max(1, round((most - least) / step / 10)))
        self.valueChanged.connect(lambda value: self.moved.emit(self._least + value * self._step))
        self.sliderReleased.connect(self.settled)

    def show_value(self, value: float) -> None:
        if not self.isSliderDown():
            with QSignalBlocker(self):
                self.setValue(round((value - self._least) / self._step))

    def wheelEvent(self, event: QWheelEvent) -> None:
        if not self.hasFocus():
            event.ignore()
            return
        super().wheelEvent(event)
        self.settled.emit()

    def keyReleaseEvent(self, event: QKeyEvent) -> None:
        super().keyReleaseEvent(event)
        if not event.isAutoRepeat():
            self.settled.emit()


class Choices(QComboBox):
    """A list to choose from; the wheel chooses only when it has the focus."""

    def __init__(self) -> None:
        super().__init__()
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)

    def wheelEvent(self, event: QWheelEvent) -> None:
        if self.hasFocus():
            super().wheelEvent(event)
        else:
            event.ignore()


class SlideRow(QWidget):
    """A number on one line: its name, a slider, and the number to type over, with its unit."""

    moved = Signal(float)
    settled = Signal()

    @classmethod
    def of(cls, field: Declared) -> "SlideRow":
        """A slider of a setting as it is declared."""
        shown = field.slider
        return cls(shown.title, *field.span, shown.step, shown.unit, shown.times)

    def __init__(self, name: str, least: float, most: float, step: float, unit: str = "", scale: float = 1.0) -> None:
        super().__init__()
        self._least, self._most, self._unit, self._scale = least, most, unit, scale
        self.read = self._number
        """Turns typed text into a value; its ``ValueError`` is the reason to refuse the text in place."""
        self._digits = max(0, -math.floor(math.log10(step * scale) + 1e-9))
        self.title = label(name)
        self.title.setFixedWidth(78)
        self.slider = Drag(f"{name} {unit}".strip(), least, most, step)
        self.slider.moved.connect(self._slid)
        self.slider.settled.connect(self.settled)
        self.field = TextField(f"{name}, typed")
        self.field.setFixedWidth(78)
        self.field.setAlignment(Qt.AlignmentFlag.AlignRight)
        self.field.entered.connect(self._typed)
        layout = QHBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(2 * GRID)
        layout.addWidget(self.title)
        layout.addWidget(self.slider, 1)
        layout.addWidget(self.field)

    def show_value(self, value: float) -> None:
        self.slider.show_value(value)
        self.field.show_value(self._text(value))

    def _text(self, value: float) -> str:
        return f"{value * self._scale:.{self._digits}f}{' ' if self._unit else ''}{self._unit}"

    def _slid(self, value: float) -> None:
        self.field.show_value(self._text(value))
        self.moved.emit(value)

    def _typed(self, text: str) -> None:
        try:
            value = self.read(text)
        except ValueError as error:
            self.field.refuse(f"{error}.")
            return
        if not self._least - 1e-9 <= value <= self._most + 1e-9:
            self.field.refuse(f"Between {self._text(self._least)} and {self._text(self._most)}.")
            return
        self.field.refuse("")
        self.moved.emit(value)
        self.settled.emit()

    def _number(self, text: str) -> float:
        digits = text.replace(self._unit, "") if self._unit else text
        try:
            return float(digits.replace(",", ".")) / self._scale
        except ValueError as error:
            raise ValueError(f"“{text}” is not a number") from error
