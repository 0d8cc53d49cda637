"""A weigh-in on the table: each weight against what the constants make of it, and the constants before and after."""

import math
from collections.abc import Callable, Sequence

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QScrollArea, QVBoxLayout, QWidget

from swaddon.core.press.profile import PressProfile
from swaddon.core.shop.weigh_in import Residual
from swaddon.session.weigh_ins import Told
from swaddon.ui import theme
from swaddon.ui.stations.cost.weigh_model import ConstantView, constant_views, history_text, standing_views
from swaddon.ui.widgets import button, column, label, row

_EMPTY = (
    "Weigh one print blank, printed and, on film, powdered: every amount gets surer. Its weights go in on the right."
)
_LINE = 34
_MOST_SDS = 4.0


class AgainstPicture(QWidget):
    """Weighed over predicted, in g on logarithmic axes; a hollow cross was left out."""

    def __init__(self) -> None:
        super().__init__()
        self.setAccessibleName("Weighed against predicted")
        self.setMinimumSize(280, 280)
        self._found: tuple[Residual, ...] = ()

    def show_found(self, found: Sequence[Residual]) -> None:
        self._found = tuple(item for item in found if item.weighed_g > 0 and item.predicted_g > 0)
        told = "; ".join(f"{item.name}, {item.what}: {item.weighed_g:.2f} g, {item.sds:+.1f} sd" for item in found)
        self.setAccessibleDescription(told)
        self.setToolTip("\n".join(told.split("; ")))
        self.update()

    def paintEvent(self, _event: QPaintEvent) -> None:
        painter, scheme = QPainter(self), theme.current()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        side = min(self.width(), self.height()) - 52
        area = QRectF(44, 8, side, side)
        painter.setPen(QPen(QColor(scheme.line), 1))
        painter.drawRect(area)
        if not self._found:
            return
        values = [value for item in self._found for value in (item.weighed_g, item.predicted_g)]
        low, high = math.log(min(values) / 1.3), math.log(max(values) * 1.3)

        def place(predicted: float, weighed: float) -> QPointF:
            across, up = ((math.log(value) - low) / (high - low) for value in (predicted, weighed))
            return QPointF(area.left() + across * side, area.bottom() - up * side)

        self._axes(painter, area, low, high)
        painter.setPen(QPen(QColor(scheme.quiet), 1.2, Qt.PenStyle.DashLine))
        painter.drawLine(area.bottomLeft(), area.topRight())
        for item in self._found:
            self.mark(painter, place(item.predicted_g, item.weighed_g), item)

    def _axes(self, painter: QPainter, area: QRectF, low: float, high: float) -> None:
        scheme = theme.current()
        painter.setPen(QColor(scheme.quiet))
        decades = range(math.floor(low / math.log(10)) - 1, math.ceil(high / math.log(10)) + 1)
        for step in (factor * 10**decade for decade in decades for factor in (1, 2, 5)):
            share = (math.log(step) - low) / (high - low)
            if not 0.02 < share < 0.98:
                continue
            x, y = area.left() + share * area.width(), area.bottom() - share * area.height()
            painter.drawLine(QPointF(x, area.bottom()), QPointF(x, area.bottom() + 4))
            painter.drawLine(QPointF(area.left() - 4, y), QPointF(area.left(), y))
            text = f"{step:g}"
            painter.drawText(QRectF(x - 20, area.bottom() + 5, 40, 16), Qt.AlignmentFlag.AlignCenter, text)
            to_the_left = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
            painter.drawText(QRectF(0, y - 8, area.left() - 7, 16), to_the_left, text)
        below = QRectF(area.left(), area.bottom() + 22, area.width(), 18)
        painter.drawText(below, Qt.AlignmentFlag.AlignCenter, "predicted, g (weighed upwards)")

    @staticmethod
    def mark(painter: QPainter, at: QPointF, item: Residual) -> None:
        """One weight: ink round, powder square, what was left out crossed."""
        scheme = theme.current()
        if item.is_left_out:
            painter.setPen(QPen(QColor(scheme.stop), 2))
            for turn in (1, -1):
                painter.drawLine(at + QPointF(-6, -6 * turn), at + QPointF(6, 6 * turn))
            return
        painter.setPen(QPen(QColor(scheme.ground), 1))
        painter.setBrush(QColor(scheme.quiet if item.what == "powder" else scheme.text))
        if item.what == "powder":
            painter.drawRect(QRectF(at.x() - 5, at.y() - 5, 10, 10))
        else:
            painter.drawEllipse(at, 5.5, 5.5)


class ResidualPicture(QWidget):
    """How far each weight is off, in standard deviations, in the order of the table; a drift shows as a slope."""

    def __init__(self) -> None:
        super().__init__()
        self.setAccessibleName("Residuals by row")
        self.setFixedHeight(92)
        self._found: tuple[Residual, ...] = ()

    def show_found(self, found: Sequence[Residual]) -> None:
        self._found = tuple(found)
        told = [f"row {item.row}, {item.what}: {item.sds:+.1f}" for item in found]
        self.setAccessibleDescription("; ".join(told))
        self.setToolTip("\n".join(told))
        self.update()

    def paintEvent(self, _event: QPaintEvent) -> None:
        painter, scheme = QPainter(self), theme.current()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        area = QRectF(44, 4, self.width() - 60, self.height() - 22)
        middle, unit = area.center().y(), area.height() / 2 / _MOST_SDS
        to_the_left = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
        for level, text in ((-2, "−2"), (0, "0"), (2, "+2")):
            y = middle - level * unit
            painter.setPen(QPen(QColor(scheme.line), 1, Qt.PenStyle.SolidLine if level == 0 else Qt.PenStyle.DotLine))
            painter.drawLine(QPointF(area.left(), y), QPointF(area.right(), y))
            painter.setPen(QColor(scheme.quiet))
            painter.drawText(QRectF(0, y - 8, area.left() - 7, 16), to_the_left, text)
        rows = sorted({item.row for item in self._found})
        for item in self._found:
            x = area.left() + (rows.index(item.row) + 0.5) / len(rows) * area.width()
            off = max(-_MOST_SDS, min(_MOST_SDS, item.sds))
            AgainstPicture.mark(painter, QPointF(x, middle - off * unit), item)
        painter.setPen(QColor(scheme.quiet))
        foot = QRectF(area.left(), self.height() - 16, area.width(), 16)
        painter.drawText(foot, Qt.AlignmentFlag.AlignCenter, "standard deviations off, by row")


class ConstantsPicture(QWidget):
    """Each constant on a scale of its own old value: a pale bar before, a dark one with its middle after."""

    def __init__(self) -> None:
        super().__init__()
        self.setAccessibleName("Constants before and after")
        self._found: tuple[ConstantView, ...] = ()

    def show_found(self, found: Sequence[ConstantView]) -> None:
        self._found = tuple(found)
        self.setFixedHeight(max(1, len(found)) * _LINE + 22)
        self.setAccessibleDescription("; ".join(f"{item.title}: {item.text}" for item in found))
        self.update()

    def paintEvent(self, _event: QPaintEvent) -> None:
        painter, scheme = QPainter(self), theme.current()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        width = self.width() - 8.0
        reach = max((abs(math.log(v)) for i in self._found for v in (*i.before, *i.after) if v > 0), default=1.0) * 1.05

        def x(share: float) -> float:
            return 4 + width * (0.5 + math.log(max(share, 1e-6)) / (2 * reach))

        painter.setPen(QPen(QColor(scheme.line), 1))
        painter.drawLine(QPointF(x(1), 0), QPointF(x(1), self.height() - 18))
        for at, item in enumerate(self._found):
            top = at * _LINE
            painter.setPen(QColor(scheme.text if item.is_surer else scheme.quiet))
            painter.drawText(QRectF(4, top, width, 17), Qt.AlignmentFlag.AlignVCenter, f"{item.title}  {item.text}")
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(QColor(scheme.line))
            painter.drawRect(QRectF(x(item.before[0]), top + 21, x(item.before[1]) - x(item.before[0]), 6))
            painter.setBrush(QColor(scheme.gain if item.is_surer else scheme.quiet))
            painter.drawRect(QRectF(x(item.after[0]), top + 19, x(item.after[2]) - x(item.after[0]), 10))
            painter.setPen(QPen(QColor(scheme.text), 2))
            painter.drawLine(QPointF(x(item.after[1]), top + 17), QPointF(x(item.after[1]), top + 31))
        painter.setPen(QColor(scheme.quiet))
        foot = QRectF(4, self.height() - 18, width, 18)
        for share, text in ((1 / 1.5, "÷ 1.5"), (1.0, "as before"), (1.5, "× 1.5")):
            if 4 < x(share) < width:
                box = QRectF(x(share) - 40, foot.top(), 80, 18)
                painter.drawText(box, Qt.AlignmentFlag.AlignCenter, text)


class WeighTable(QWidget):
    """All that a weigh-in tells."""

    def __init__(self, take: Callable[[], None], back: Callable[[], None]) -> None:
        super().__init__()
        self.take, self.back = button("Take the constants", "primary"), button("One step back")
        self.take.setToolTip("Into the press of this job, and of new ones")
        self.back.setToolTip("To the constants before the last weigh-in")
        self.take.clicked.connect(take)
        self.back.clicked.connect(back)
        self.setObjectName("ground")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.head = label("Weigh-in", "title")
        self.empty = label(_EMPTY, "quiet", wrap=True)
        self.against, self.off, self.constants = AgainstPicture(), ResidualPicture(), ConstantsPicture()
        self.sentences, self.next = label("", wrap=True), label("", "head", wrap=True)
        self.apart = label("", "quiet", wrap=True)
        legend = label("● ink   ■ powder   ✕ left out;  line: as predicted", "quiet")
        self.constants_head, self.history = label("", "head"), label("", "quiet", wrap=True)
        self.plots = column(label("Weighed against predicted", "head"), self.against, legend, self.off, 1)
        pictures = row(self.plots, column(self.constants_head, self.constants, self.history, 1), spacing=16)
        inner = QWidget()
        layout = QVBoxLayout(inner)
        layout.setContentsMargins(18, 10, 12, 10)
        layout.setSpacing(8)
        for part in (
            row(self.head, 1, self.back, self.take),
            self.empty,
            self.sentences,
            self.next,
            self.apart,
            pictures,
        ):
            layout.addWidget(part)
        layout.addStretch(1)
        area = QScrollArea()
        area.setWidgetResizable(True)
        area.setWidget(inner)
        whole = QVBoxLayout(self)
        whole.setContentsMargins(0, 0, 0, 0)
        whole.addWidget(area)
        self.show_told(None, "")

    def show_actions(self, tells_more: bool, can_step_back: bool) -> None:
        """Whether there is something to take, and something to go back to."""
        self.take.setEnabled(tells_more)
        self.back.setEnabled(can_step_back)

    def show_told(self, told: Told | None, problem: str, press: PressProfile | None = None) -> None:
        """What was told; or why nothing was, and the constants as they stand."""
        self.empty.setText(problem or _EMPTY)
        self.empty.setVisible(told is None)
        self.plots.setVisible(told is not None)
        self.constants_head.setText("Constants as they stand" if told is None else "Constants, before and after")
        self.history.setText(history_text(press))
        self.history.setVisible(bool(self.history.text()))
        weighed = None if told is None else told.weighed
        sentences = () if told is None else told.sentences
        self.sentences.setText("\n".join(sentences))
        self.sentences.setVisible(bool(sentences))
        best = None if told is None else told.next
        self.next.setText("" if best is None else f"Weigh next: {best.candidate.name}. {best.reason}.")
        self.next.setVisible(best is not None)
        titles = {} if weighed is None else {item.constant: item.title.lower() for item in weighed.after}
        groups = [] if weighed is None else [", ".join(titles[key] for key in group) for group in weighed.not_apart]
        self.apart.setText(f"Not told apart by these prints: {'; '.join(groups)}." if groups else "")
        self.apart.setVisible(bool(groups))
        if told is None:
            self.constants.show_found(() if press is None else standing_views(press))
        else:
            for picture in (self.against, self.off):
                picture.show_found(() if weighed is None else weighed.residuals)
            self.constants.show_found(constant_views(told))
