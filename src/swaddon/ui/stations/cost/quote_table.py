"""The quote on the table: the customer's page as it will be, and beside it what only the shop sees."""

from collections.abc import Sequence

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QImage, QPainter, QPaintEvent, QPen, QPixmap, QPolygonF
from PySide6.QtWidgets import QLabel, QScrollArea, QVBoxLayout, QWidget

from swaddon.core.flow.shop import word_for
from swaddon.session.quotes import QuoteSheet
from swaddon.ui import theme
from swaddon.ui.widgets import column, give_room, label, row

_EMPTY = "The customer’s page comes with the plan."
_PAGE_PX = 430
_BAR = 54


class Curve(QWidget):
    """Lines over quantity on a logarithmic axis; a mark where two of them cross."""

    def __init__(self, name: str, height: int) -> None:
        super().__init__()
        self.setAccessibleName(name)
        self.setFixedHeight(height)
        self._lines: tuple[tuple[str, tuple[tuple[float, float], ...]], ...] = ()
        self._mark: float | None = None

    def show_lines(
        self, lines: Sequence[tuple[str, Sequence[tuple[float, float]]]], mark: float | None, text: str
    ) -> None:
        """Lines by name, points of quantity and money."""
        self._lines = tuple((name, tuple(points)) for name, points in lines)
        self._mark = mark
        self.setAccessibleDescription(text)
        self.setToolTip(text)
        self.update()

    def paintEvent(self, _event: QPaintEvent) -> None:
        painter, scheme = QPainter(self), theme.current()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        area = QRectF(46, 20, self.width() - 58, self.height() - 42)
        points = [point for _, line in self._lines for point in line]
        if not points:
            return
        most_x, most_y = max(x for x, _ in points), max(y for _, y in points) * 1.05 or 1.0

        def place(x: float, y: float) -> QPointF:
            across = np.log(max(x, 1)) / np.log(max(most_x, 2))
            return QPointF(area.left() + across * area.width(), area.bottom() - y / most_y * area.height())

        self._axes(painter, area, most_x, most_y)
        styles = (Qt.PenStyle.SolidLine, Qt.PenStyle.DashLine)
        left = area.left()
        for at, (name, line) in enumerate(self._lines):
            painter.setPen(QPen(QColor(scheme.text), 1.8, styles[at % 2]))
            painter.drawPolyline(QPolygonF([place(x, y) for x, y in line]))
            painter.drawLine(QPointF(left, 9), QPointF(left + 20, 9))
            painter.setPen(QColor(scheme.quiet))
            painter.drawText(QPointF(left + 25, 13), name)
            left += 40 + painter.fontMetrics().horizontalAdvance(name)
        if self._mark is not None:
            x = place(self._mark, 0).x()
            painter.setPen(QPen(QColor(scheme.gain), 2))
            painter.drawLine(QPointF(x, area.bottom()), QPointF(x, area.top()))

    def _axes(self, painter: QPainter, area: QRectF, most_x: float, most_y: float) -> None:
        scheme = theme.current()
        painter.setPen(QPen(QColor(scheme.line), 1))
        painter.drawLine(area.bottomLeft(), area.bottomRight())
        painter.drawLine(area.bottomLeft(), area.topLeft())
        painter.setPen(QColor(scheme.quiet))
        for count in (1, 2, 5, 10, 20, 50, 100, 200):
            if count <= most_x:
                x = area.left() + np.log(count) / np.log(max(most_x, 2)) * area.width()
                box = QRectF(x - 20, area.bottom() + 3, 40, 16)
                painter.drawText(box, Qt.AlignmentFlag.AlignCenter, str(count))
        to_the_left = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
        for share in (0.0, 0.5, 1.0):
            y = area.bottom() - share / 1.05 * area.height()
            painter.drawText(QRectF(0, y - 8, 40, 16), to_the_left, f"{share * most_y / 1.05:.3g}")


class Earnings(QWidget):
    """What each way to sell the picture earns per press-hour: the figure to choose by."""

    def __init__(self) -> None:
        super().__init__()
        self.setAccessibleName("Earned per press-hour")
        self._bars: tuple[tuple[str, str, float], ...] = ()

    def show_bars(self, bars: Sequence[tuple[str, str, float]]) -> None:
        """Title, what is told, and the money per hour."""
        self._bars = tuple(bars)
        self.setFixedHeight(max(1, len(self._bars)) * _BAR)
        self.setAccessibleDescription("; ".join(f"{title}: {text}" for title, text, _ in bars))
        self.update()

    def paintEvent(self, _event: QPaintEvent) -> None:
        painter, scheme = QPainter(self), theme.current()
        most = max((max(0.0, value) for _, _, value in self._bars), default=0.0) or 1.0
        best = max((value for _, _, value in self._bars), default=0.0)
        for at, (title, text, value) in enumerate(self._bars):
            top = at * _BAR
            painter.setPen(QColor(scheme.text))
            painter.drawText(QRectF(0, top, self.width(), 17), Qt.AlignmentFlag.AlignVCenter, title)
            width = max(0.0, value) / most * (self.width() - 8)
            painter.fillRect(QRectF(0, top + 18, width, 12), QColor(scheme.gain if value == best else scheme.quiet))
            painter.setPen(QColor(scheme.quiet))
            painter.drawText(QRectF(0, top + 31, self.width(), 17), Qt.AlignmentFlag.AlignVCenter, text)


class QuoteTable(QWidget):
    """Page, earnings, price over quantity, break-even."""

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("ground")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.page = QLabel(_EMPTY)
        self.page.setAccessibleName("The customer’s page")
        self.page.setFixedWidth(_PAGE_PX)
        self.page.setAlignment(Qt.AlignmentFlag.AlignTop)
        self.earnings = Earnings()
        self.prices, self.even = Curve("Price of one by quantity", 170), Curve("Cost by quantity", 170)
        self.even_text, self.note = label("", "quiet", wrap=True), label("Only you see this side.", "quiet")
        side = column(
            label("Earned per press-hour", "head"),
            self.earnings,
            label("Price of one by quantity", "head"),
            self.prices,
            label("Break-even of two processes", "head"),
            self.even,
            self.even_text,
            self.note,
            1,
            spacing=6,
        )
        both = row(column(self.page, 1), side, spacing=18)
        give_room(both, 1)
        both.setContentsMargins(16, 12, 12, 12)
        area = QScrollArea()
        area.setWidgetResizable(True)
        area.setWidget(both)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(area)

    def show_page(self, picture: np.ndarray | None, is_current: bool = True) -> None:
        """The page as it will be printed, ``uint8 (H, W, 3)``; pale while another one is being worked out."""
        self.page.setEnabled(is_current or picture is None)
        if picture is None:
            self.page.setPixmap(QPixmap())
            self.page.setText(_EMPTY)
            return
        height, width = picture.shape[:2]
        image = QImage(np.ascontiguousarray(picture).data, width, height, 3 * width, QImage.Format.Format_RGB888)
        shown = QPixmap.fromImage(image.copy())
        self.page.setPixmap(shown.scaledToWidth(_PAGE_PX, Qt.TransformationMode.SmoothTransformation))

    def show_quote(self, sheet: QuoteSheet | None) -> None:
        """What only the shop sees."""
        if sheet is None:
            self.earnings.show_bars(())
            self.prices.show_lines((), None, "")
            self.even.show_lines((), None, "")
            self.even_text.setText("")
            return
        currency = sheet.quote.currency
        self.earnings.show_bars(
            [
                (
                    item.title,
                    f"{item.price:f} earns {item.earned:.2f}, {item.per_hour:.0f} an hour by the "
                    f"{word_for(item.limited_by)}: {item.earned_per_hour:f} {currency}",
                    float(item.earned_per_hour),
                )
                for item in sheet.alternatives
            ]
        )
        prices = [(float(count), float(price)) for count, price in sheet.breaks]
        told = ", ".join(f"{count}: {price:f}" for count, price in sheet.breaks)
        self.prices.show_lines([(f"{currency} a {sheet.piece}", prices)], None, told)
        counts = sorted({1, 2, 3, 5, 8, 12, 20, 30, 50, 80, 120, 200})
        lines = [
            (way.title, [(float(count), float(way.cost(count)) / count) for count in counts]) for way in sheet.ways
        ]
        self.even.show_lines(lines, None if sheet.break_even is None else float(sheet.break_even), even_text(sheet))
        self.even_text.setText(even_text(sheet))


def even_text(sheet: QuoteSheet) -> str:
    """From how many pieces on which process costs less."""
    if len(sheet.ways) < 2:
        return "No other process can print this."
    one, other = sheet.ways
    if sheet.break_even is None:
        cheaper = min(sheet.ways, key=lambda way: way.cost(50))
        return f"{cheaper.title} costs less, however many."
    dear = max(sheet.ways, key=lambda way: way.setup)
    return f"From {sheet.break_even} pieces on {dear.title} costs less than {(other if dear is one else one).title}."
