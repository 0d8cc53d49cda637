"""A reading in pictures: bottles in their slots, the vernier, gain curves, ladders, and the press over time."""

from collections.abc import Sequence

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QWidget

from swaddon.ui import theme
from swaddon.ui.stations.testprint.model import History, ReadState

INK_COLOURS = {
    "C": "#2f9fd0", "M": "#d0488f", "Y": "#d8c23a", "K": "#1d1d1d", "W": "#f4f4f4", "H": "#ffffff",
}  # fmt: skip


class Picture(QWidget):
    """A small drawing of a part of a reading."""

    def __init__(self, name: str, height: int) -> None:
        super().__init__()
        self.setAccessibleName(name)
        self.setFixedHeight(height)

    def describe(self, text: str) -> None:
        self.setAccessibleDescription(text)
        self.setToolTip(text)
        self.update()

    def paintEvent(self, _event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        self.draw(painter)

    def draw(self, painter: QPainter) -> None:
        raise NotImplementedError


class SlotsPicture(Picture):
    """Each slot with what was sent above and what it printed below."""

    def __init__(self) -> None:
        super().__init__("Slots: sent and printed", 58)
        self._state: ReadState | None = None

    def show_state(self, state: ReadState) -> None:
        self._state = state
        wrong = [str(n) for n, a, b in zip(state.numbers, state.sent, state.printed, strict=True) if a != b]
        self.describe(f"Wrong: slot {', '.join(wrong)}" if wrong else "Every slot prints its ink")

    def draw(self, painter: QPainter) -> None:
        if self._state is None:
            return
        scheme = theme.current()
        step = min(44.0, (self.width() - 52) / max(len(self._state.sent), 1))
        painter.setPen(QColor(scheme.quiet))
        painter.drawText(QRectF(0, 4, 50, 22), Qt.AlignmentFlag.AlignVCenter, "sent")
        painter.drawText(QRectF(0, 32, 50, 22), Qt.AlignmentFlag.AlignVCenter, "printed")
        for at, (sent, printed) in enumerate(zip(self._state.sent, self._state.printed, strict=True)):
            x = 52 + at * step
            self._patch(painter, QRectF(x, 4, step - 6, 22), sent, False)
            self._patch(painter, QRectF(x, 32, step - 6, 22), printed, sent != printed)

    def _patch(self, painter: QPainter, box: QRectF, ink: str, is_wrong: bool) -> None:
        scheme = theme.current()
        painter.setPen(QPen(QColor(scheme.stop if is_wrong else scheme.line), 3 if is_wrong else 1))
        painter.setBrush(QColor(INK_COLOURS[ink]))
        painter.drawRoundedRect(box.adjusted(1, 1, -1, -1), 4, 4)
        painter.setPen(QColor("#ffffff" if ink == "K" else "#101010"))
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, ink)


class VernierPicture(Picture):
    """White lines and dark lines as they meet on the page: one row across, one down."""

    def __init__(self) -> None:
        super().__init__("Vernier: where white lies", 92)
        self._state: ReadState | None = None

    def show_state(self, state: ReadState) -> None:
        self._state = state
        self.describe(state.shift_text)

    def draw(self, painter: QPainter) -> None:
        if self._state is None or self._state.shift_mm is None:
            return
        for row, (words, value) in enumerate(zip(("across", "down"), self._state.shift_mm, strict=True)):
            self._scale(painter, 46.0 * row, words, value)

    def _scale(self, painter: QPainter, top: float, words: str, value: float) -> None:
        scheme, state = theme.current(), self._state
        assert state is not None
        left, width = 52.0, self.width() - 60.0
        painter.setPen(QColor(scheme.quiet))
        painter.drawText(QRectF(0, top + 10, 50, 22), Qt.AlignmentFlag.AlignVCenter, words)
        painter.fillRect(QRectF(left, top + 2, width, 18), QColor("#161616"))
        painter.fillRect(QRectF(left, top + 20, width, 18), QColor("#f0f0f0"))
        pitch, middle = width / 23, left + width / 2
        meets = round(value / state.vernier_mm)
        for line in range(-10, 11):
            white = middle + line * pitch
            dark = middle + (line * (1 + state.vernier_mm) - value) * pitch
            long = 4 if line % 5 == 0 else 0
            is_met = line == meets
            painter.setPen(QPen(QColor(scheme.accent if is_met else "#f0f0f0"), 2.4 if is_met else 1.6))
            painter.drawLine(QPointF(white, top + 8 - long), QPointF(white, top + 20))
            painter.setPen(QPen(QColor(scheme.accent if is_met else "#161616"), 2.4 if is_met else 1.6))
            if left < dark < left + width:
                painter.drawLine(QPointF(dark, top + 20), QPointF(dark, top + 32 + long))


class GainPicture(Picture):
    """Printed tone over sent tone, measured whole, assumed dashed."""

    def __init__(self) -> None:
        super().__init__("Dot gain: printed over sent", 150)
        self._state: ReadState | None = None

    def show_state(self, state: ReadState) -> None:
        self._state = state
        middle = len(state.tones) // 2
        told = (f"{c.ink} {100 * c.measured[middle]:.0f} % (was {100 * c.assumed[middle]:.0f} %)" for c in state.curves)
        self.describe("50 % prints as " + ", ".join(told))

    def draw(self, painter: QPainter) -> None:
        if self._state is None:
            return
        scheme, state = theme.current(), self._state
        area = QRectF(30, 8, self.width() - 40, self.height() - 28)
        painter.setPen(QPen(QColor(scheme.line), 1))
        for part in range(5):
            y = area.bottom() - part / 4 * area.height()
            painter.drawLine(QPointF(area.left(), y), QPointF(area.right(), y))
        painter.setPen(QColor(scheme.quiet))
        painter.drawText(QRectF(0, area.top() - 8, 28, 16), Qt.AlignmentFlag.AlignRight, "100")
        painter.drawText(QRectF(0, area.bottom() - 8, 28, 16), Qt.AlignmentFlag.AlignRight, "0")
        painter.drawText(QPointF(area.left(), self.height() - 4), "sent 0 %")
        right = "100 %"
        wide = painter.fontMetrics().horizontalAdvance(right)
        painter.drawText(QPointF(area.right() - wide, self.height() - 4), right)
        for curve in state.curves:
            colour = QColor(INK_COLOURS[curve.ink] if curve.ink != "K" else scheme.text)
            for values, style, thick in (
                (curve.assumed, Qt.PenStyle.DashLine, 1.0), (curve.measured, Qt.PenStyle.SolidLine, 2.2),
            ):  # fmt: skip
                painter.setPen(QPen(colour, thick, style))
                painter.drawPolyline(_line(area, state.tones, values))


class LaddersPicture(Picture):
    """Widths of lines, gaps, dots and holes: what stood is full, the last that stood is ringed."""

    def __init__(self) -> None:
        super().__init__("Fine detail: what stood", 110)
        self._state: ReadState | None = None

    def show_state(self, state: ReadState) -> None:
        self._state = state
        told = (f"{ladder.title} {_least(ladder.least_mm)}" for ladder in state.ladders)
        self.describe(", ".join(told))

    def draw(self, painter: QPainter) -> None:
        if self._state is None:
            return
        scheme, state = theme.current(), self._state
        step = (self.width() - 104) / len(state.widths_mm)
        for row, ladder in enumerate(state.ladders):
            top = row * 27.0
            painter.setPen(QColor(scheme.quiet))
            painter.drawText(QRectF(0, top, 46, 24), Qt.AlignmentFlag.AlignVCenter, ladder.title)
            for at, width in enumerate(state.widths_mm):
                x = 48 + at * step
                stood = ladder.least_mm is not None and width >= ladder.least_mm - 1e-9
                size = 3 + 26 * width
                box = QRectF(x + step / 2 - size / 2, top + 12 - size / 2, size, size)
                painter.setPen(QPen(QColor(scheme.text if stood else scheme.line), 1.2))
                painter.setBrush(QColor(scheme.text) if stood else Qt.BrushStyle.NoBrush)
                round_ = ladder.title in ("Dots", "Holes")
                painter.drawEllipse(box) if round_ else painter.drawRect(box.adjusted(0, -2, 0, 2))
                if ladder.least_mm == width:
                    painter.setBrush(Qt.BrushStyle.NoBrush)
                    painter.setPen(QPen(QColor(scheme.accent), 2))
                    painter.drawRoundedRect(QRectF(x + 1, top + 1, step - 2, 22), 4, 4)
            painter.setPen(QColor(scheme.text))
            text = _least(ladder.least_mm)
            painter.drawText(
                QRectF(self.width() - 56, top, 56, 24),
                Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight,
                text,
            )


class HistoryPicture(Picture):
    """White's place and opacity of a press over its tests, oldest at the left."""

    def __init__(self) -> None:
        super().__init__("The press over time", 120)
        self._history: History | None = None

    def show_history(self, shown: History) -> None:
        self._history = shown
        last = f"last {shown.shifts[-1][1]:+.2f}, {shown.shifts[-1][2]:+.2f} mm" if shown.shifts else "none yet"
        self.describe(f"Place of white over {len(shown.shifts)} tests: {last}")

    def draw(self, painter: QPainter) -> None:
        if self._history is None or not (self._history.shifts or self._history.ratios):
            return
        scheme, shown = theme.current(), self._history
        upper = QRectF(34, 6, self.width() - 44, 62)
        reach = max([0.2, *(abs(value) for _, right, down in shown.shifts for value in (right, down))])
        painter.setPen(QPen(QColor(scheme.line), 1))
        painter.drawLine(QPointF(upper.left(), upper.center().y()), QPointF(upper.right(), upper.center().y()))
        painter.setPen(QColor(scheme.quiet))
        painter.drawText(QRectF(0, upper.top(), 32, 14), Qt.AlignmentFlag.AlignRight, f"{reach:+.1f}")
        painter.drawText(QRectF(0, upper.bottom() - 14, 32, 14), Qt.AlignmentFlag.AlignRight, f"{-reach:+.1f}")
        for which, colour in ((1, scheme.accent), (2, scheme.look)):
            points = [(at, point[which] / reach / 2 + 0.5) for at, point in enumerate(shown.shifts)]
            self._dots(painter, upper, points, colour)
        lower = QRectF(34, 78, self.width() - 44, 24)
        self._dots(painter, lower, [(at, ratio) for at, (_, ratio) in enumerate(shown.ratios)], scheme.text)
        painter.setPen(QColor(scheme.accent))
        painter.drawText(QPointF(34, self.height() - 3), "right")
        painter.setPen(QColor(scheme.look))
        painter.drawText(QPointF(80, self.height() - 3), "down, mm")
        painter.setPen(QColor(scheme.text))
        painter.drawText(QPointF(160, self.height() - 3), "contrast ratio")

    def _dots(self, painter: QPainter, area: QRectF, points: Sequence[tuple[int, float]], colour: str) -> None:
        """Values 0..1 by the order of the tests."""
        most = max(len(points) - 1, 1)
        line = [
            QPointF(area.left() + at / most * area.width(), area.bottom() - value * area.height())
            for at, value in points
        ]
        painter.setPen(QPen(QColor(colour), 1.6))
        painter.drawPolyline(QPolygonF(line))
        painter.setBrush(QColor(colour))
        for point in line:
            painter.drawEllipse(point, 2.6, 2.6)
        painter.setBrush(Qt.BrushStyle.NoBrush)


def _line(area: QRectF, tones: Sequence[float], values: Sequence[float]) -> QPolygonF:
    return QPolygonF([
        QPointF(area.left() + tone * area.width(), area.bottom() - value * area.height())
        for tone, value in zip(tones, values, strict=True)
    ])  # fmt: skip


def _least(value: float | None) -> str:
    return "none" if value is None else f"{value:g} mm"
