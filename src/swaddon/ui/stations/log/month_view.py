"""A month in pictures: pieces, why they were spoiled, what was used against what was planned, time likewise."""

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QColor, QFont, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QSizePolicy, QVBoxLayout, QWidget

from swaddon.core.log.month import Month
from swaddon.session.log_month import Bar, month_bars, month_head
from swaddon.ui import theme
from swaddon.ui.piece_bar import hatch
from swaddon.ui.widgets import Elided, label, scrolled

_LINE, _HEAD, _WORDS, _VALUE = 26, 30, 170, 190


class Bars(QWidget):
    """Groups of bars with their values; a bar against a mark shows used against planned."""

    def __init__(self) -> None:
        super().__init__()
        self._groups: tuple[tuple[str, tuple[Bar, ...]], ...] = ()
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Minimum)

    def show_groups(self, groups: tuple[tuple[str, tuple[Bar, ...]], ...]) -> None:
        self._groups = groups
        told = [f"{title}: " + ", ".join(f"{bar.title} {bar.told}" for bar in bars) for title, bars in groups]
        self.setAccessibleName("; ".join(told))
        self.setMinimumHeight(self.sizeHint().height())
        self.updateGeometry()
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(520, sum(_HEAD + 10 + _LINE * len(bars) for _, bars in self._groups))

    def paintEvent(self, _event: QPaintEvent) -> None:
        scheme = theme.current()
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        head, plain = QFont(theme.FAMILY), QFont(theme.FAMILY)
        head.setPixelSize(14)
        head.setWeight(QFont.Weight.DemiBold)
        plain.setPixelSize(13)
        y = 0.0
        for title, bars in self._groups:
            painter.setFont(head)
            painter.setPen(QColor(scheme.text))
            painter.drawText(QRectF(0, y, self.width(), _HEAD), Qt.AlignmentFlag.AlignVCenter, title)
            y += _HEAD
            painter.setFont(plain)
            for bar in bars:
                self._bar(painter, bar, y)
                y += _LINE
            y += 10

    def _bar(self, painter: QPainter, bar: Bar, y: float) -> None:
        scheme = theme.current()
        painter.setPen(QColor(scheme.quiet))
        words = painter.fontMetrics().elidedText(bar.title, Qt.TextElideMode.ElideRight, _WORDS - 10)
        painter.drawText(QRectF(0, y, _WORDS, _LINE), Qt.AlignmentFlag.AlignVCenter, words)
        room = QRectF(_WORDS, y + 6, max(20, self.width() - _WORDS - _VALUE), _LINE - 12)
        painter.fillRect(room, QColor(scheme.raised))
        colour = {"good": scheme.gain, "bad": scheme.stop, "plain": scheme.note}[bar.kind]
        filled = QRectF(room.left(), room.top(), room.width() * min(1.0, bar.share), room.height())
        if bar.kind == "bad":
            hatch(painter, filled, QColor(colour), QColor(scheme.ground))
        else:
            painter.fillRect(filled, QColor(colour))
        if bar.mark is not None:
            x = room.left() + room.width() * min(1.0, bar.mark)
            painter.setPen(QPen(QColor(scheme.text), 2))
            painter.drawLine(QPointF(x, room.top() - 3), QPointF(x, room.bottom() + 3))
        painter.setPen(QColor(scheme.text))
        value = QRectF(self.width() - _VALUE + 8, y, _VALUE - 8, _LINE)
        painter.drawText(value, Qt.AlignmentFlag.AlignVCenter, bar.told)


class MonthView(QWidget):
    """One month."""

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("panel")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.title, self.head = Elided("", "title"), label("", "value", wrap=True)
        self.bars = Bars()
        self.note = label("", "quiet", wrap=True)
        held = QVBoxLayout()
        held.setContentsMargins(0, 0, 10, 0)
        held.addWidget(self.bars)
        held.addWidget(self.note)
        held.addStretch(1)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(16, 10, 6, 8)
        layout.setSpacing(8)
        layout.addWidget(self.title)
        layout.addWidget(self.head)
        layout.addWidget(scrolled(held), 1)

    def show_month(self, month: Month) -> None:
        """Show the sums of a month."""
        title, head, note = month_head(month)
        self.title.show_text(title)
        self.head.setText(head)
        self.note.setText(note)
        self.bars.show_groups(month_bars(month))
