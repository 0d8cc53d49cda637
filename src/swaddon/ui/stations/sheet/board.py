"""A board that sheets lie on, at true scale: zoomed by the wheel, moved by dragging."""

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import (
    QBrush,
    QColor,
    QImage,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QResizeEvent,
    QTransform,
    QWheelEvent,
)
from PySide6.QtWidgets import QWidget

from swaddon.ui import theme

_RIM_PX = 22
_GAP_MM = 18.0
_MOST_FOLDS = 8
_RULER_PX, _RULED_PX = 24, 110


@dataclass(frozen=True)
class _Stretch:
    """A part of a sheet's length, in mm, that is shown in one piece."""

    sheet: int
    begin: float
    end: float


class Board(QWidget):
    """Sheets of some sizes, each with its own mm; those that lie lengthwise run from left to right.

    A long strip is shown in stretches, one below the other.
    """

    def __init__(self, name: str, hint: str, empty: str) -> None:
        super().__init__()
        self.setAccessibleName(name)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setMinimumSize(280, 160)
        self._hint, self._empty = hint, empty
        self._sizes: tuple[tuple[float, float], ...] = ()
        self._lengthwise = False
        self._zoom, self._shift = 1.0, QPointF()
        self._held: QPointF | None = None

    def lay_out(self, sizes: tuple[tuple[float, float], ...], lengthwise: bool) -> None:
        """Show sheets of these widths and heights in mm."""
        if len(sizes) != len(self._sizes) or lengthwise != self._lengthwise:
            self._zoom, self._shift = 1.0, QPointF()
        self._sizes, self._lengthwise = sizes, lengthwise
        self.update()

    def fit(self) -> None:
        """All sheets in sight."""
        self._zoom, self._shift = 1.0, QPointF()
        self.update()

    # geometry

    def _folded(self, folds: int) -> list[_Stretch]:
        """The sheets as they are shown: strips in so many stretches, one below the other."""
        if not self._lengthwise:
            return [_Stretch(sheet, 0.0, height) for sheet, (_, height) in enumerate(self._sizes)]
        out = []
        longest = max(height for _, height in self._sizes) / folds
        for sheet, (_, height) in enumerate(self._sizes):
            count = max(1, math.ceil(height / longest - 1e-9))
            out += [_Stretch(sheet, height * at / count, height * (at + 1) / count) for at in range(count)]
        return out

    def _shown(self) -> tuple[list[_Stretch], list[QRectF]]:
        """What is shown, and where on the board in mm, so that it fills its room best."""
        if not self._sizes:
            return [], []
        room = max(1.0, self.width() - 2 * _RIM_PX) / max(1.0, self.height() - 2 * _RIM_PX)
        best: tuple[list[_Stretch], list[QRectF]] = ([], [])
        least = float("inf")
        for folds in range(1, _MOST_FOLDS + 1 if self._lengthwise else 2):
            stretches = self._folded(folds)
            sizes = [self._size_of(item) for item in stretches]
            for columns in [1] if self._lengthwise else range(1, len(sizes) + 1):
                boxes = _in_columns(sizes, columns, self._gap_for(sizes))
                width, height = max(box.right() for box in boxes), max(box.bottom() for box in boxes)
                need = max(width / room, height)
                if need < 0.98 * least:
                    best, least = (stretches, boxes), need
        return best

    def _gap_for(self, sizes: list[tuple[float, float]]) -> float:
        """Room between sheets in mm; between the stretches of a strip as much as its ruler takes."""
        if not self._lengthwise:
            return _GAP_MM
        wide, high = max(width for width, _ in sizes), sum(height for _, height in sizes)
        down = max(1.0, self.height() - 2 * _RIM_PX - _RULER_PX * (len(sizes) - 1))
        scale = min(max(1.0, self.width() - 2 * _RIM_PX) / wide, down / high)
        return _RULER_PX / scale

    def _size_of(self, item: _Stretch) -> tuple[float, float]:
        width, _ = self._sizes[item.sheet]
        long = item.end - item.begin
        return (long, width) if self._lengthwise else (width, long)

    def _scale_and_corner(self) -> tuple[float, QPointF, list[_Stretch], list[QRectF]]:
        stretches, boxes = self._shown()
        width = max((box.right() for box in boxes), default=1.0)
        height = max((box.bottom() for box in boxes), default=1.0)
        scale = min((self.width() - 2 * _RIM_PX) / width, (self.height() - 2 * _RIM_PX) / height)
        scale = max(0.01, scale) * self._zoom
        corner = QPointF(self.width() - width * scale, self.height() - height * scale) / 2 + self._shift
        return scale, corner, stretches, boxes

    def _transforms(self) -> list[tuple[_Stretch, QTransform]]:
        """Each stretch that is shown, with the way from mm of its sheet to pixels of this widget."""
        scale, corner, stretches, boxes = self._scale_and_corner()
        made = []
        for item, box in zip(stretches, boxes, strict=True):
            out = QTransform()
            out.translate(corner.x() + box.x() * scale, corner.y() + box.y() * scale)
            out.scale(scale, scale)
            if self._lengthwise:  # the sheet's left edge lies below: a strip as it leaves the printer
                out.translate(-item.begin, self._sizes[item.sheet][0])
                out.rotate(-90)
            made.append((item, out))
        return made

    def transform_of(self, sheet: int, y_mm: float = 0.0) -> QTransform:
        """From mm of a sheet (counted from 0) to pixels of this widget, in the stretch that holds a place."""
        found = [pair for pair in self._transforms() if pair[0].sheet == sheet]
        return next((out for item, out in found if item.begin <= y_mm <= item.end), found[-1][1])

    def at(self, point: QPointF) -> tuple[int, QPointF] | None:
        """The sheet under a point, and where on it in mm; ``None``: beside them."""
        for item, transform in self._transforms():
            inverse, _ = transform.inverted()
            place = inverse.map(point)
            if 0 <= place.x() <= self._sizes[item.sheet][0] and item.begin <= place.y() <= item.end:
                return item.sheet, place
        return None

    def go_to(self, sheet: int, x_mm: float, y_mm: float) -> None:
        """Bring a place to the middle, at least three times as large as all in sight."""
        if not 0 <= sheet < len(self._sizes):
            return
        self._zoom = max(3.0, self._zoom)
        place = self.transform_of(sheet, y_mm).map(QPointF(x_mm, y_mm))
        self._shift += QPointF(self.rect().center()) - place
        self.update()

    # hands

    def zoom(self, factor: float, at: QPointF) -> None:
        """Larger or smaller about a point."""
        before = self._scale_and_corner()
        place = (at - before[1]) / before[0]
        self._zoom = min(max(self._zoom * factor, 0.5), 60.0)
        after = self._scale_and_corner()
        self._shift += at - (after[1] + place * after[0])
        self.update()

    def wheelEvent(self, event: QWheelEvent) -> None:
        self.zoom(1.0015 ** event.angleDelta().y(), event.position())

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._held = event.position()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._held is not None:
            self._shift += event.position() - self._held
            self._held = event.position()
            self.update()

    def mouseReleaseEvent(self, _event: QMouseEvent) -> None:
        self._held = None

    def keyPressEvent(self, event: QKeyEvent) -> None:
        middle = QPointF(self.rect().center())
        if event.text() in ("+", "="):
            self.zoom(1.25, middle)
        elif event.text() == "-":
            self.zoom(0.8, middle)
        elif event.text() == "0":
            self.fit()
        else:
            super().keyPressEvent(event)

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self.update()

    # painting

    def paintEvent(self, _event: QPaintEvent) -> None:
        scheme = theme.current()
        painter = QPainter(self)
        painter.setRenderHints(QPainter.RenderHint.Antialiasing | QPainter.RenderHint.SmoothPixmapTransform)
        painter.fillRect(self.rect(), QColor(scheme.table))
        if not self._sizes:
            painter.setPen(QColor(scheme.text))
            box = self.rect().adjusted(40, 20, -40, -20)
            painter.drawText(box, Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap, self._empty)
        for item, transform in self._transforms():
            painter.save()
            painter.setTransform(transform)
            if self._lengthwise:
                painter.setClipRect(QRectF(0, item.begin, self._sizes[item.sheet][0], item.end - item.begin))
            self.paint_sheet(painter, item.sheet)
            painter.restore()
            self._ruler(painter, item, transform)
        painter.setPen(QColor(scheme.text))
        place = Qt.AlignmentFlag.AlignBottom | Qt.AlignmentFlag.AlignLeft
        painter.drawText(QRectF(self.rect()).adjusted(8, 0, -8, -3), place, self._hint)
        if self.hasFocus():
            painter.setPen(QPen(QColor(scheme.accent), 2))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(QRectF(self.rect()).adjusted(1, 1, -1, -1))

    def paint_sheet(self, painter: QPainter, sheet: int) -> None:
        """Paint what lies on a sheet, in its mm."""

    def _ruler(self, painter: QPainter, item: _Stretch, transform: QTransform) -> None:
        """Ticks along the length, in cm."""
        scheme = theme.current()
        px_per_mm = abs(transform.m11()) + abs(transform.m12())
        if px_per_mm * self._size_of(item)[0] < _RULED_PX:
            return
        step = next((each for each in (10, 20, 50, 100, 200, 500, 1000) if each * px_per_mm >= 42), 1000)
        painter.setPen(QPen(QColor(scheme.text), 1))
        font = painter.font()
        font.setPixelSize(11)
        painter.setFont(font)
        first, last = (item.begin, item.end) if self._lengthwise else (0.0, self._sizes[item.sheet][0])
        for mark in range(math.ceil(first / step) * step, int(last) + 1, step):
            place = transform.map(QPointF(0, mark) if self._lengthwise else QPointF(mark, 0))
            down, top = (5, 5) if self._lengthwise else (-5, -19)
            painter.drawLine(place, place + QPointF(0, down))
            painter.drawText(QRectF(place.x() - 24, place.y() + top, 48, 14), Qt.AlignmentFlag.AlignHCenter, _cm(mark))


def _cm(mm: int) -> str:
    return "0" if not mm else f"{mm / 10:g} cm"


def _in_columns(shown: list[tuple[float, float]], columns: int, gap: float) -> list[QRectF]:
    """Boxes row by row, so many beside each other."""
    out: list[QRectF] = []
    y = 0.0
    for first in range(0, len(shown), columns):
        x, row = 0.0, shown[first : first + columns]
        for width, height in row:
            out.append(QRectF(x, y, width, height))
            x += width + gap
        y += max(height for _, height in row) + gap
    return out


def rgba_image(picture: NDArray[np.uint8]) -> QImage:
    """A picture ``uint8 (H, W, 4)``, sRGB and alpha."""
    data = np.ascontiguousarray(picture)
    height, width = data.shape[:2]
    return QImage(data.data, width, height, 4 * width, QImage.Format.Format_RGBA8888).copy()


def paint_film(painter: QPainter, size: tuple[float, float], printable: QRectF) -> None:
    """A sheet of film or paper, its unprintable rim hatched."""
    box = QRectF(0, 0, *size)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.fillRect(box, QColor(196, 200, 203))
    hatch = QBrush(QColor(120, 124, 128), Qt.BrushStyle.BDiagPattern)
    inverse, _ = painter.transform().inverted()
    hatch.setTransform(inverse)
    rims = (
        QRectF(0, 0, box.width(), printable.top()),
        QRectF(0, printable.bottom(), box.width(), box.height() - printable.bottom()),
        QRectF(0, printable.top(), printable.left(), printable.height()),
        QRectF(printable.right(), printable.top(), box.width() - printable.right(), printable.height()),
    )
    for rim in rims:
        painter.fillRect(rim, hatch)
    painter.setBrush(Qt.BrushStyle.NoBrush)
    pen = QPen(QColor(70, 74, 78), 1)
    pen.setCosmetic(True)
    painter.setPen(pen)
    painter.drawRect(box)
