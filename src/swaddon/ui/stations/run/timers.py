"""Timers that run: large, each with its step, its clock and what is left of it."""

from collections.abc import Callable, Sequence

from PySide6.QtCore import QRectF, QSize, Qt
from PySide6.QtGui import QColor, QFont, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QPushButton, QSizePolicy, QWidget

from swaddon.core.run.record import Timer
from swaddon.ui import theme
from swaddon.ui.flow import Flow
from swaddon.ui.rebuilding import take_away
from swaddon.ui.stations.run import model

_WIDTH, _HEIGHT = 176, 92


class TimerTile(QPushButton):
    """One timer; a press stops it."""

    def __init__(self, timer: Timer) -> None:
        super().__init__()
        self.timer = timer
        self._state = model.TimerState("", "", 1.0, is_over=False, told="")
        self.setProperty("kind", "tally")
        self.setFixedSize(_WIDTH, _HEIGHT)
        self.setSizePolicy(QSizePolicy.Policy.Fixed, QSizePolicy.Policy.Fixed)

    @property
    def clock(self) -> str:
        """What the clock reads."""
        return self._state.clock

    def show_state(self, state: model.TimerState) -> None:
        if state == self._state:
            return
        self._state = state
        self.setAccessibleName(f"{state.step}: {state.clock} {state.told}; press to stop it")
        self.setToolTip("Press to stop it; how long it ran is kept.")
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(_WIDTH, _HEIGHT)

    def paintEvent(self, _event: QPaintEvent) -> None:
        scheme, state = theme.current(), self._state
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        box = QRectF(self.rect()).adjusted(1.5, 1.5, -1.5, -1.5)
        ground, text = (
            (QColor(scheme.stop), QColor("#101010")) if state.is_over else (QColor(scheme.raised), QColor(scheme.text))
        )
        painter.setPen(QPen(QColor(scheme.accent if self.hasFocus() else scheme.line), 2 if self.hasFocus() else 1))
        painter.setBrush(ground)
        painter.drawRoundedRect(box, 6, 6)
        if not state.is_over and state.left < 1:
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(QColor(scheme.accent))
            painter.drawRect(QRectF(box.left() + 8, box.bottom() - 9, (box.width() - 16) * state.left, 4))
        painter.setPen(text)
        inner = box.adjusted(10, 6, -10, -8)
        painter.drawText(inner, Qt.AlignmentFlag.AlignTop | Qt.AlignmentFlag.AlignLeft, state.step)
        font = QFont(theme.FAMILY)
        font.setPixelSize(38)
        font.setWeight(QFont.Weight.DemiBold)
        painter.setFont(font)
        painter.drawText(inner, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignLeft, state.clock)
        small = QFont(theme.FAMILY)
        small.setPixelSize(12)
        painter.setFont(small)
        words = "■ done – stop" if state.is_over else "stop"
        painter.drawText(inner, Qt.AlignmentFlag.AlignBottom | Qt.AlignmentFlag.AlignRight, words)


class Timers(QWidget):
    """All timers of a run, in the order in which they were started."""

    def __init__(self, stop: Callable[[Timer], None]) -> None:
        super().__init__()
        self._stop = stop
        self._flow = Flow(spacing=6)
        self._flow.setContentsMargins(0, 0, 0, 0)
        self.setLayout(self._flow)
        self.tiles: list[TimerTile] = []

    def show_timers(self, timers: Sequence[Timer], states: Sequence[model.TimerState]) -> None:
        """Show what runs; tiles that are there already stay where they are."""
        if [tile.timer for tile in self.tiles] != list(timers):
            self._make(timers)
        for tile, state in zip(self.tiles, states, strict=True):
            tile.show_state(state)

    def _make(self, timers: Sequence[Timer]) -> None:
        held = {tile.timer: tile for tile in self.tiles}
        for timer, tile in held.items():
            if timer not in timers:
                take_away(tile, self._flow)
        made = []
        for timer in timers:
            made.append(held.get(timer) or self._tile(timer))
        self.tiles = made
        self.setVisible(bool(made))
        self.updateGeometry()

    def _tile(self, timer: Timer) -> TimerTile:
        made = TimerTile(timer)
        made.clicked.connect(lambda: self._stop(timer))
        self._flow.addWidget(made)
        return made
