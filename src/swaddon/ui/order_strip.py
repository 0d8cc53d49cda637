"""The strip of an order's lines: a small shirt for each, and for which lines a change counts."""

from collections.abc import Sequence
from dataclasses import dataclass

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QKeyEvent, QPainter, QPaintEvent, QPen, QPixmap
from PySide6.QtWidgets import QHBoxLayout, QPushButton, QScrollArea, QWidget

from swaddon.core.count.money import money_text
from swaddon.core.order.lines import OrderLine
from swaddon.core.plan.outcome import Outcome
from swaddon.core.units import number_of
from swaddon.ui import theme
from swaddon.ui.findings_panel import SIGNS, sign_colour
from swaddon.ui.rebuilding import take_away
from swaddon.ui.small_shirt import draw_small, image_from
from swaddon.ui.widgets import Choice, button, column, label

CARD = QSize(150, 62)
_PICTURE_PX = 54


@dataclass(frozen=True, eq=False)
class LineView:
    """What a card shows of a line; ``outcome`` is ``None`` while it is not counted."""

    line: OrderLine
    outcome: Outcome | None
    problem: str
    height_mm: float


class LineCard(QPushButton):
    """One line: its small shirt, what it is, what a piece costs; a dot when it has settings of its own."""

    def __init__(self) -> None:
        super().__init__()
        self.setFixedSize(CARD)
        self.setProperty("kind", "plain")
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self._view: LineView | None = None
        self._proof: QPixmap | None = None
        self._of: Outcome | None = None
        self.is_current = False

    def show_line(self, view: LineView, is_current: bool) -> None:
        self._view, self.is_current = view, is_current
        if view.outcome is not None and view.outcome is not self._of:
            self._proof, self._of = QPixmap.fromImage(image_from(view.outcome.proof)), view.outcome
        self.setAccessibleName(
            f"Line: {view.line.title}, {number_of(view.line.settings.quantity, 'piece')}{self._told(view)}"
        )
        self.setToolTip(f"{view.line.title}, {view.line.settings.width_mm:.0f} mm wide{self._told(view)}")
        self.update()

    def _told(self, view: LineView) -> str:
        own = f", {len(view.line.own)} of its settings are its own" if view.line.own else ""
        return own + (f". {view.problem}" if view.problem else "")

    @property
    def worst(self) -> str:
        """Severity of the worst that was found on the line; empty: nothing that wants a look."""
        if self._view is None or self._view.outcome is None:
            return ""
        found = {item.severity for item in self._view.outcome.findings}
        return next((severity for severity in ("stop", "look") if severity in found), "")

    def paintEvent(self, _event: QPaintEvent) -> None:
        if self._view is None:
            return
        scheme, painter = theme.current(), QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        box = QRectF(self.rect()).adjusted(0.5, 0.5, -0.5, -0.5)
        if self.is_current or self.underMouse():
            painter.setBrush(QColor(scheme.raised))
            painter.setPen(QColor(scheme.text if self.is_current else scheme.line))
            painter.drawRoundedRect(box, 4, 4)
        if self.hasFocus():
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setPen(QPen(QColor(scheme.accent), 2))
            painter.drawRoundedRect(box.adjusted(1, 1, -1, -1), 4, 4)
        picture = QRectF(4, 4, _PICTURE_PX, _PICTURE_PX)
        draw_small(painter, picture, self._view.line, self._proof, self._view.height_mm)
        self._write(painter, self._view, QRectF(_PICTURE_PX + 10, 5, CARD.width() - _PICTURE_PX - 16, 54))

    def _write(self, painter: QPainter, view: LineView, box: QRectF) -> None:
        scheme, metrics = theme.current(), painter.fontMetrics()
        elide = Qt.TextElideMode.ElideRight
        painter.setPen(QColor(scheme.text))
        painter.drawText(box.topLeft() + _down(13), metrics.elidedText(view.line.garment_name, elide, int(box.width())))
        painter.setPen(QColor(scheme.quiet))
        what = " · ".join(part for part in (view.line.goods.size, f"{view.line.settings.quantity} ×") if part)
        painter.drawText(box.topLeft() + _down(30), metrics.elidedText(what, elide, int(box.width())))
        cost = "…" if view.outcome is None else f"{money_text(view.outcome.cost)} {view.outcome.currency}"
        painter.drawText(box.topLeft() + _down(47), cost)
        if view.line.own:
            painter.setBrush(QColor(scheme.text))
            painter.setPen(Qt.PenStyle.NoPen)
            painter.drawEllipse(QRectF(box.right() - 8, box.top() + 21, 7, 7))
        if self.worst:
            icon = theme.pixmap(SIGNS[self.worst][0], 14, sign_colour(self.worst))
            painter.drawPixmap(QRectF(box.right() - 14, box.top() + 36, 14, 14), icon, QRectF(icon.rect()))


def _down(px: int) -> QPointF:
    return QPointF(0, px)


class OrderStrip(QWidget):
    """The lines side by side; hidden while there is only one."""

    turned = Signal(int)
    listed = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.scope = Choice("A change counts for", (("all", "All lines"), ("alone", "This line")), kind="view")
        self.scope.show_value("all")
        self.scope.chosen.connect(self._scoped)
        self.list = button("Order list", "link", tip="All lines as a table")
        self.list.clicked.connect(self.listed)
        self.note = label("Changes count for", "quiet")
        head = column(self.note, self.scope, self.list, spacing=0)
        head.setFixedWidth(176)
        self._cards = QHBoxLayout()
        self._cards.setContentsMargins(0, 0, 0, 0)
        self._cards.setSpacing(4)
        self._cards.addStretch(1)
        inner = QWidget()
        inner.setLayout(self._cards)
        self._area = QScrollArea()
        self._area.setWidgetResizable(True)
        self._area.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self._area.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self._area.setWidget(inner)
        layout = QHBoxLayout(self)
        layout.setContentsMargins(8, 4, 8, 0)
        layout.setSpacing(8)
        layout.addWidget(head)
        layout.addWidget(self._area, 1)
        self.setFixedHeight(CARD.height() + 16)
        self.cards: list[LineCard] = []
        self._alone, self._at = False, -1
        self.hide()

    @property
    def alone(self) -> bool:
        """Whether a change is for the line at hand only."""
        return self._alone and not self.isHidden()

    def _scoped(self, key: str) -> None:
        self._alone = key == "alone"

    def show_order(self, views: Sequence[LineView], at: int) -> None:
        """Show the lines, one of them at hand."""
        self.setVisible(len(views) > 1)
        if len(views) < 2:
            self._alone = False
            self.scope.show_value("all")
        while len(self.cards) > len(views):
            card = self.cards.pop()
            take_away(card, self._cards)
        while len(self.cards) < len(views):
            card, place = LineCard(), len(self.cards)
            card.clicked.connect(lambda _=False, place=place: self.turned.emit(place))
            self._cards.insertWidget(place, card)
            self.cards.append(card)
        for index, (card, view) in enumerate(zip(self.cards, views, strict=True)):
            card.show_line(view, index == at)
        if self.cards and at != self._at:
            self._area.ensureWidgetVisible(self.cards[at], 40, 0)
        self._at = at

    def keyPressEvent(self, event: QKeyEvent) -> None:
        step = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}.get(Qt.Key(event.key()))
        at = next((index for index, card in enumerate(self.cards) if card.hasFocus()), None)
        if step is None or at is None:
            super().keyPressEvent(event)
            return
        self.cards[(at + step) % len(self.cards)].setFocus()
