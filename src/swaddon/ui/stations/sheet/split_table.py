"""A print with its seams, or its parts laid together with a little miss: where it would show."""

from itertools import pairwise

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QColor, QImage, QMouseEvent, QPainter, QPen, QPolygonF
from PySide6.QtWidgets import QVBoxLayout, QWidget

from swaddon.core.plan.outcome import small_proof
from swaddon.core.sheet.split import Going
from swaddon.core.units import mm_from_px
from swaddon.session.splits import SplitPlan
from swaddon.ui import theme
from swaddon.ui.progress_line import ProgressLine
from swaddon.ui.stations.sheet.board import Board, rgba_image
from swaddon.ui.widgets import label

_HINT = "Drag a seam · wheel zooms · 0 shows all"
_EMPTY = "The print and its seams come here with the plan."
_PICTURE_PX = 1400
_NEAR_PX = 9


class Seams(Board):
    """The print with its seams; ``miss_mm`` lays its parts together that far off."""

    dragged = Signal(int, float, float, bool)
    """Number of a seam, a point on the artboard in mm, and whether the hand has let go."""

    def __init__(self) -> None:
        super().__init__("The print with its seams", _HINT, _EMPTY)
        self._made: SplitPlan | None = None
        self._picture: QImage | None = None
        self._parts: list[tuple[QImage, QRectF]] = []
        self._goes: tuple[Going, ...] = ()
        self._seam: int | None = None
        self.miss_mm = 0.0

    def show_split(self, made: SplitPlan | None, goes: tuple[Going, ...]) -> None:
        """Show a split, and the goes of a plate where there are several."""
        if made is not None and (self._made is None or made.plan is not self._made.plan):
            self._picture = _image(small_proof(made.plan, _PICTURE_PX))
        self._made, self._goes = made, goes
        self._parts = []
        if made is None:
            self._picture = None
            self.lay_out((), False)
            self.setAccessibleDescription("")
            return
        height, width = made.printed.shape
        ppi = made.split.ppi
        self.lay_out(((mm_from_px(width, ppi), mm_from_px(height, ppi)),), False)
        self.setAccessibleDescription(f"{len(made.split.parts)} parts, {made.split.crossing_mm:.1f} mm crossed")

    def show_miss(self, miss_mm: float) -> None:
        """Lay the parts together so far off; 0 shows the whole print."""
        self.miss_mm = miss_mm
        self.update()

    def seam_at(self, point: QPointF) -> int | None:
        """The seam under a point."""
        if self._made is None or not self._sizes or self.miss_mm:
            return None
        transform = self.transform_of(0)
        for number, cut in enumerate(self._made.split.cuts):
            points = [transform.map(QPointF(x, y)) for x, y in cut.polyline_mm]
            for one, other in pairwise(points):
                if _distance(point, one, other) <= _NEAR_PX:
                    return number
        return None

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._seam = self.seam_at(event.position())
        if self._seam is None:
            super().mousePressEvent(event)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._seam is not None:
            self._drag(event.position(), False)
            return
        if self._held is None:
            near = self.seam_at(event.position()) is not None
            self.setCursor(Qt.CursorShape.CrossCursor if near else Qt.CursorShape.ArrowCursor)
        super().mouseMoveEvent(event)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        super().mouseReleaseEvent(event)
        if self._seam is not None:
            self._drag(event.position(), True)
            self._seam = None

    def _drag(self, point: QPointF, ends: bool) -> None:
        inverse, _ = self.transform_of(0).inverted()
        place = inverse.map(point)
        width, height = self._sizes[0]
        assert self._seam is not None
        x, y = min(max(place.x(), 0.0), width), min(max(place.y(), 0.0), height)
        self.dragged.emit(self._seam, x, y, ends)

    # painting

    def paint_sheet(self, painter: QPainter, sheet: int) -> None:
        made = self._made
        if made is None or self._picture is None:
            return
        box = QRectF(0, 0, *self._sizes[sheet])
        if self.miss_mm and len(made.split.parts) > 1:
            self._paint_missed(painter, box)
            return
        painter.drawImage(box, self._picture)
        for colour, width in ((QColor(0, 0, 0, 170), 4.0), (QColor(255, 255, 255), 1.6)):
            pen = QPen(colour, width)
            pen.setCosmetic(True)
            painter.setPen(pen)
            for cut in made.split.cuts:
                painter.drawPolyline(QPolygonF([QPointF(x, y) for x, y in cut.polyline_mm]))
        if len(self._goes) > 1:
            pen = QPen(QColor(theme.current().look), 1.5, Qt.PenStyle.DashLine)
            pen.setCosmetic(True)
            painter.setPen(pen)
            painter.setBrush(Qt.BrushStyle.NoBrush)
            for go in self._goes:
                painter.drawRect(QRectF(go.x_mm, go.y_mm, go.width_mm, go.height_mm))

    def _paint_missed(self, painter: QPainter, box: QRectF) -> None:
        """Each part on the garment, every second one off by the miss across and along its seam."""
        made = self._made
        assert made is not None
        painter.fillRect(box, QColor(*made.plan.request.settings.garment))
        for part, (picture, place) in zip(made.split.parts, self._part_pictures(), strict=True):
            off = self.miss_mm if (part.row + part.column) % 2 else 0.0
            painter.drawImage(place.translated(off, off), picture)

    def _part_pictures(self) -> list[tuple[QImage, QRectF]]:
        """The printed pixels of each part as a picture, and where it lies in mm."""
        made = self._made
        if self._parts or made is None:
            return self._parts
        proof = small_proof(made.plan, _PICTURE_PX)
        height, width = made.printed.shape
        ppi = made.split.ppi
        ys = (np.arange(proof.shape[0]) * height // proof.shape[0]).astype(np.int64)
        xs = (np.arange(proof.shape[1]) * width // proof.shape[1]).astype(np.int64)
        for part in made.split.parts:
            whole, own = np.zeros((height, width), np.uint8), part.box
            whole[own.top : own.bottom, own.left : own.right] = part.mask()
            alpha = np.where(made.printed[ys[:, None], xs[None, :]] > 0, whole[ys[:, None], xs[None, :]], 0)
            image = rgba_image(np.dstack([proof, alpha.astype(np.uint8)]))
            self._parts.append((image, QRectF(0, 0, mm_from_px(width, ppi), mm_from_px(height, ppi))))
        return self._parts


def _distance(point: QPointF, one: QPointF, other: QPointF) -> float:
    """Distance of a point from a line between two."""
    along = other - one
    length = QPointF.dotProduct(along, along)
    share = 0.0 if not length else min(1.0, max(0.0, QPointF.dotProduct(point - one, along) / length))
    off = point - (one + along * share)
    return float(np.hypot(off.x(), off.y()))


def _image(picture: np.ndarray) -> QImage:
    data = np.ascontiguousarray(picture)
    height, width = data.shape[:2]
    return QImage(data.data, width, height, 3 * width, QImage.Format.Format_RGB888).copy()


class SplitTable(QWidget):
    """The print and its seams, and what they cross."""

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("ground")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.facts, self.seams_told = label("", "head", wrap=True), label("", wrap=True)
        self.seams = Seams()
        self.progress = ProgressLine()
        layout = QVBoxLayout(self)
        layout.setContentsMargins(16, 10, 12, 8)
        layout.setSpacing(4)
        for widget in (self.facts, self.seams_told, self.progress):
            layout.addWidget(widget)
        layout.addWidget(self.seams, 1)
