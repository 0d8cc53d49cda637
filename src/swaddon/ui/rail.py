"""The rail: the stations in the order of the work, each with its state by shape and colour."""

from collections.abc import Sequence

from PySide6.QtCore import QEvent, QPointF, QRectF, QSize, Qt, QTimer, Signal
from PySide6.QtGui import QColor, QPainter, QPaintEvent, QPen, QPolygonF, QResizeEvent
from PySide6.QtWidgets import QButtonGroup, QPushButton, QVBoxLayout, QWidget

from swaddon.ui import theme
from swaddon.ui.station_spec import StationSpec

_WIDTH, _HEIGHT, _LEAST_HEIGHT, _GAP, _EDGE = 92, 62, 32, 2, 4
STATES = ("untouched", "fine", "look", "stop")


class RailButton(QPushButton):
    """One station: icon, name, state."""

    def __init__(self, spec: StationSpec) -> None:
        super().__init__()
        self.setCheckable(True)
        self._spec = spec
        self._state = "untouched"
        self.setProperty("kind", "rail")
        self.setFixedSize(_WIDTH, _HEIGHT)
        self.setToolTip(f"{spec.title} ({spec.shortcut})")
        self.setAccessibleName(f"Station {spec.title}")

    @property
    def state(self) -> str:
        return self._state

    def show_state(self, state: str) -> None:
        self._state = state
        self.setAccessibleDescription(state)
        self.update()

    def paintEvent(self, _event: QPaintEvent) -> None:
        scheme = theme.current()
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        box = QRectF(self.rect())
        if self.isChecked():
            painter.fillRect(box, QColor(scheme.raised))
            painter.fillRect(QRectF(0, 0, 3, box.height()), QColor(scheme.accent))
        elif self.underMouse():
            painter.fillRect(box, QColor(scheme.panel))
        if self.hasFocus():
            painter.setPen(QPen(QColor(scheme.accent), 1))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(box.adjusted(4.5, 2.5, -2.5, -2.5))
        picture = theme.pixmap(f"station-{self._spec.key}", 24, ratio=self.devicePixelRatioF() * 2)
        size = min(24.0, box.height() - 22)  # in a low window the icon gives way, the word stays
        top = max(2.0, (box.height() - size - 24) / 2 + 2)
        painter.drawPixmap(QRectF(box.width() / 2 - size / 2, top, size, size), picture, QRectF(picture.rect()))
        painter.setPen(QColor(scheme.text))
        words = QRectF(0, top + size + max(0.0, min(4.0, box.height() - 50)), box.width(), 20)
        painter.drawText(words, Qt.AlignmentFlag.AlignCenter, self._spec.title)
        self._paint_state(painter, QPointF(box.width() - 15, min(15.0, box.height() / 3)))

    def _paint_state(self, painter: QPainter, at: QPointF) -> None:
        scheme = theme.current()
        painter.setPen(Qt.PenStyle.NoPen)
        if self._state == "fine":
            painter.setPen(QPen(QColor(scheme.gain), 2))
            painter.drawPolyline(QPolygonF([at + QPointF(-4, 0), at + QPointF(-1, 3), at + QPointF(4, -4)]))
        elif self._state == "look":
            painter.setBrush(QColor(scheme.look))
            painter.drawPolygon(QPolygonF([at + QPointF(0, -5), at + QPointF(5, 4), at + QPointF(-5, 4)]))
        elif self._state == "stop":
            painter.setBrush(QColor(scheme.stop))
            painter.drawRect(QRectF(at.x() - 4.5, at.y() - 4.5, 9, 9))


class Rail(QWidget):
    """Buttons of all stations."""

    chosen = Signal(str)

    def __init__(self, specs: Sequence[StationSpec]) -> None:
        super().__init__()
        self.setObjectName("ground")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, _EDGE, 0, _EDGE)
        layout.setSpacing(_GAP)
        group = QButtonGroup(self)
        self.buttons: dict[str, RailButton] = {}
        for spec in specs:
            made = RailButton(spec)
            made.clicked.connect(lambda _=False, key=spec.key: self.chosen.emit(key))
            group.addButton(made)
            self.buttons[spec.key] = made
            layout.addWidget(made)
        layout.addStretch(1)

    def minimumSizeHint(self) -> QSize:
        return QSize(_WIDTH, len(self.buttons) * (_LEAST_HEIGHT + _GAP) + 2 * _EDGE)

    def resizeEvent(self, event: QResizeEvent) -> None:
        """In a low window the buttons are lower, so that all of them are there whole."""
        self._fit()
        super().resizeEvent(event)

    def changeEvent(self, event: QEvent) -> None:
        """Another scheme gives the buttons the height of its style: they get their own again."""
        super().changeEvent(event)
        if event.type() == QEvent.Type.StyleChange:
            QTimer.singleShot(0, self, self._fit)

    def _fit(self) -> None:
        room = (self.height() - 2 * _EDGE) // len(self.buttons) - _GAP
        for button in self.buttons.values():
            button.setFixedHeight(min(max(room, _LEAST_HEIGHT), _HEIGHT))

    def show_station(self, key: str) -> None:
        self.buttons[key].setChecked(True)

    def show_states(self, states: dict[str, str]) -> None:
        for key, state in states.items():
            self.buttons[key].show_state(state)
