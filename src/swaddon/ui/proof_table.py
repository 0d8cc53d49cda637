"""The proof table: the print on its garment at true scale, with rulers, zoom, pan, curtain and places."""

import math
from collections.abc import Sequence

import numpy as np
from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import (
    QColor,
    QImage,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QPixmap,
    QPolygonF,
    QResizeEvent,
    QTransform,
    QWheelEvent,
)
from PySide6.QtWidgets import QWidget

from swaddon.core.colour.spaces import Rgb
from swaddon.core.units import MM_PER_INCH
from swaddon.session.preview import Frame
from swaddon.session.selection import Outline
from swaddon.session.view import View
from swaddon.ui import theme
from swaddon.ui.garment import Garment, garment
from swaddon.ui.marks import draw_outlines, draw_place, draw_tag
from swaddon.ui.rulers import RULER_PX, draw_rulers

_LEAST, _MOST = 0.2, 400.0
_CLICK_PX = 4


class ProofTable(QWidget):
    """Shows frames; owns only what part of the garment is looked at."""

    view_changed = Signal()
    clicked_at = Signal(float, float, bool)
    curtain_moved = Signal(float)

    def __init__(self) -> None:
        super().__init__()
        self.setAccessibleName("Proof table")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMinimumSize(320, 240)
        self.setMouseTracking(True)
        self._size_mm = (0.0, 0.0)
        self._garment: Garment = garment("shirt")
        self._rgb: Rgb = (128, 128, 128)
        self._scale = 1.0
        self._centre = QPointF(0, 0)
        self._fitted = "print"
        self._frame: tuple[QImage, View] | None = None
        self._yardstick: tuple[QImage, View] | None = None
        self._on_cloth = True
        self._curtain: float | None = None
        self._press: QPointF | None = None
        self._press_centre = QPointF()
        self._drags_curtain = False
        self._picking = False
        self._place: QPointF | None = None
        self._outlines: list[QPolygonF] = []
        self._drop_mm: float | None = None
        self.inches = False

    # what is on the table

    def set_print(self, width_mm: float, height_mm: float, cloth: str, rgb: Rgb, drop_mm: float) -> None:
        """The artboard's size, the garment it lies on and how far below the collar; zero size is an empty table."""
        changed = (width_mm, height_mm) != self._size_mm or cloth != self._garment.key
        self._size_mm, self._garment, self._rgb, self._drop_mm = (width_mm, height_mm), garment(cloth), rgb, drop_mm
        if changed:
            self._place = None
            if self._fitted:
                self._fit(self._fitted)
        if width_mm == 0:
            self._frame = self._yardstick = None
        self.update()

    def show_frame(self, frame: Frame) -> None:
        self._frame = image_of(frame), frame.view
        self._on_cloth = frame.view_mode == "cloth"
        self.update()

    def show_yardstick(self, frame: Frame | None) -> None:
        self._yardstick = None if frame is None else (image_of(frame), frame.view)
        self.update()

    def set_curtain(self, share: float | None) -> None:
        """Where the yardstick's side ends, 0..1 of the width; ``None`` draws the curtain back."""
        self._curtain = share
        self.update()

    def set_outlines(self, outlines: Sequence[Outline]) -> None:
        """Closed lines round what is selected, in mm on the artboard."""
        self._outlines = [QPolygonF([QPointF(float(x), float(y)) for x, y in line]) for line in outlines]
        self.update()

    @property
    def outline_count(self) -> int:
        return len(self._outlines)

    @property
    def curtain(self) -> float | None:
        return self._curtain

    def set_picking(self, picking: bool) -> None:
        self._picking = picking
        self.setCursor(Qt.CursorShape.CrossCursor if picking else Qt.CursorShape.ArrowCursor)

    # what part is looked at

    @property
    def fabric(self) -> Garment:
        return self._garment

    def view(self) -> View | None:
        """The visible part in device pixels, from the artboard's corner; ``None`` when nothing lies on the table."""
        if self._size_mm[0] == 0:
            return None
        ratio = self.devicePixelRatioF()
        area = self._area()
        corner = self.mm_at(area.topLeft())
        return View(
            max(1, round(area.width() * ratio)),
            max(1, round(area.height() * ratio)),
            self._scale * ratio,
            corner.x(),
            corner.y(),
        )

    def fit_print(self) -> None:
        self._fit("print")

    def fit_garment(self) -> None:
        self._fit("garment")

    def zoom_true_size(self) -> None:
        """One millimetre of cloth is one millimetre on the screen, as far as the screen tells its resolution."""
        self._zoom_to(self.physicalDpiX() / MM_PER_INCH)

    def zoom_pixel(self, ppi: float) -> None:
        """One pixel of the plan is one pixel of the screen."""
        self._zoom_to(ppi / MM_PER_INCH / self.devicePixelRatioF())

    def zoom_by(self, factor: float, at: QPointF | None = None) -> None:
        at = self._area().center() if at is None else at
        fixed = self.mm_at(at)
        self._scale = min(max(self._scale * factor, _LEAST), _MOST)
        moved = self.mm_at(at)
        self._centre += fixed - moved
        self._looked_elsewhere()

    def go_to(self, x_mm: float, y_mm: float) -> None:
        """Bring a place to the middle and mark it."""
        self._centre = QPointF(x_mm, y_mm)
        self._place = QPointF(x_mm, y_mm)
        self._scale = max(self._scale, 3.0)
        self._looked_elsewhere()

    def px_at(self, x_mm: float, y_mm: float) -> QPointF:
        """Position on the table of a place on the artboard."""
        return self._px_at(QPointF(x_mm, y_mm))

    @property
    def scale(self) -> float:
        """Logical pixels per mm."""
        return self._scale

    def middle_mm(self) -> tuple[float, float]:
        """The place on the artboard in the middle of the table."""
        return self._centre.x(), self._centre.y()

    def _zoom_to(self, scale: float) -> None:
        self.zoom_by(scale / self._scale)

    def _fit(self, what: str) -> None:
        self._fitted = what
        self._place = None
        width, height = self._size_mm
        area = self._area()
        if width == 0 or area.width() < 2:
            return
        box = QRectF(0, 0, width, height)
        if what == "garment":
            box = self._garment_transform().mapRect(self._garment.outline.boundingRect()).united(box)
        margin = 1.04 if what == "garment" else 1.14
        self._scale = min(area.width() / (box.width() * margin), area.height() / (box.height() * margin))
        self._centre = box.center()
        self.view_changed.emit()
        self.update()

    def _looked_elsewhere(self) -> None:
        self._fitted = ""
        self.view_changed.emit()
        self.update()

    def _area(self) -> QRectF:
        return QRectF(RULER_PX, RULER_PX, max(1, self.width() - RULER_PX), max(1, self.height() - RULER_PX))

    def mm_at(self, point: QPointF) -> QPointF:
        """Place on the artboard under a position on the table."""
        return (point - self._area().center()) / self._scale + self._centre

    def _px_at(self, mm: QPointF) -> QPointF:
        return (mm - self._centre) * self._scale + self._area().center()

    def _to_px(self) -> QTransform:
        origin = self._px_at(QPointF(0, 0))
        return QTransform(self._scale, 0, 0, self._scale, origin.x(), origin.y())

    def _garment_transform(self) -> QTransform:
        top = self._garment.print_top_mm
        if self._garment.has_collar and self._drop_mm is not None:
            top = self._drop_mm
        return QTransform.fromTranslate(self._size_mm[0] / 2, -top)

    # input

    def wheelEvent(self, event: QWheelEvent) -> None:
        self.zoom_by(1.0015 ** event.angleDelta().y(), event.position())

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() not in (Qt.MouseButton.LeftButton, Qt.MouseButton.MiddleButton):
            return
        self._press, self._press_centre = event.position(), QPointF(self._centre)
        self._drags_curtain = self._near_curtain(event.position())

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._press is None:
            if not self._picking:
                near = self._near_curtain(event.position())
                self.setCursor(Qt.CursorShape.SplitHCursor if near else Qt.CursorShape.ArrowCursor)
            return
        if self._drags_curtain:
            self._move_curtain((event.position().x() - RULER_PX) / self._area().width())
            return
        travelled = event.position() - self._press
        if math.hypot(travelled.x(), travelled.y()) > _CLICK_PX:
            self._centre = self._press_centre - travelled / self._scale
            self._looked_elsewhere()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._press is None:
            return
        travelled = event.position() - self._press
        self._press = None
        if not self._drags_curtain and math.hypot(travelled.x(), travelled.y()) <= _CLICK_PX:
            at = self.mm_at(event.position())
            adds = bool(event.modifiers() & (Qt.KeyboardModifier.ShiftModifier | Qt.KeyboardModifier.ControlModifier))
            self.clicked_at.emit(at.x(), at.y(), adds)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        step = 40 / self._scale
        moves = {
            Qt.Key.Key_Left: (-step, 0.0),
            Qt.Key.Key_Right: (step, 0.0),
            Qt.Key.Key_Up: (0.0, -step),
            Qt.Key.Key_Down: (0.0, step),
        }
        move = moves.get(Qt.Key(event.key()))
        if move is not None and self._curtain is not None and event.modifiers() & Qt.KeyboardModifier.ShiftModifier:
            self._move_curtain(self._curtain + (0.02 if move[0] > 0 else -0.02))
        elif move is not None:
            self._centre += QPointF(*move)
            self._looked_elsewhere()
        elif event.text() in ("+", "="):
            self.zoom_by(1.25)
        elif event.text() == "-":
            self.zoom_by(0.8)
        else:
            super().keyPressEvent(event)

    def resizeEvent(self, _event: QResizeEvent) -> None:
        if self._fitted:
            self._fit(self._fitted)
        else:
            self.view_changed.emit()

    def sizeHint(self) -> QSize:
        return QSize(860, 620)

    def _near_curtain(self, at: QPointF) -> bool:
        return self._curtain is not None and abs(at.x() - self._curtain_x()) < 8

    def _curtain_x(self) -> float:
        return RULER_PX + (self._curtain or 0.0) * self._area().width()

    def _move_curtain(self, share: float) -> None:
        self._curtain = min(max(share, 0.02), 0.98)
        self.curtain_moved.emit(self._curtain)
        self.update()

    # drawing

    def paintEvent(self, _event: QPaintEvent) -> None:
        scheme = theme.current()
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), QColor(scheme.table))
        if self._size_mm[0] > 0:
            painter.save()
            painter.setClipRect(self._area())
            self._paint_garment(painter)
            self._paint_marks(painter)
            painter.restore()
            draw_rulers(painter, self._area(), self._scale, self.mm_at, self._size_mm, self.inches)
        if self.hasFocus():
            painter.setPen(QPen(QColor(scheme.accent), 2))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(QRectF(self.rect()).adjusted(1, 1, -1, -1))

    def _paint_garment(self, painter: QPainter) -> None:
        outline = (self._garment_transform() * self._to_px()).map(self._garment.outline)
        painter.save()
        if self._on_cloth:
            painter.fillPath(outline, QColor(*self._rgb))
            painter.setClipPath(outline, Qt.ClipOperation.IntersectClip)
        else:
            board = QRectF(self._px_at(QPointF(0, 0)), self._px_at(QPointF(*self._size_mm)))
            painter.setClipRect(board, Qt.ClipOperation.IntersectClip)
        for shown in (self._frame, self._yardstick):
            if shown is None:
                continue
            if shown is self._yardstick:
                if self._curtain is None:
                    continue
                left = QRectF(0, 0, self._curtain_x(), self.height())
                painter.setClipRect(left, Qt.ClipOperation.IntersectClip)
            self._paint_frame(painter, *shown)
        painter.restore()
        if self._on_cloth:
            painter.save()
            painter.setTransform(self._garment_transform() * self._to_px(), True)
            self._garment.draw_shading(painter)
            painter.restore()

    def _paint_frame(self, painter: QPainter, image: QImage, view: View) -> None:
        where = QRectF(
            self._px_at(QPointF(view.x0_mm, view.y0_mm)),
            self._px_at(QPointF(view.x0_mm + view.width / view.px_per_mm, view.y0_mm + view.height / view.px_per_mm)),
        )
        ratio = self.devicePixelRatioF()
        is_same = view == self.view()
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform, not is_same)
        if is_same:
            image.setDevicePixelRatio(ratio)
            painter.drawImage(self._area().topLeft(), image)
        else:
            image.setDevicePixelRatio(1.0)
            painter.drawImage(where, image)

    def _paint_marks(self, painter: QPainter) -> None:
        painter.setBrush(Qt.BrushStyle.NoBrush)
        corners = QRectF(self._px_at(QPointF(0, 0)), self._px_at(QPointF(*self._size_mm)))
        for colour, width in ((QColor(0, 0, 0, 120), 3.0), (QColor(255, 255, 255, 200), 1.0)):
            painter.setPen(QPen(colour, width))
            for x, dx in ((corners.left(), 14), (corners.right(), -14)):
                for y, dy in ((corners.top(), 14), (corners.bottom(), -14)):
                    painter.drawLine(QPointF(x, y), QPointF(x + dx, y))
                    painter.drawLine(QPointF(x, y), QPointF(x, y + dy))
        to_px = self._to_px()
        draw_outlines(painter, [to_px.map(line) for line in self._outlines])
        if self._curtain is not None and self._yardstick is not None:
            x = self._curtain_x()
            painter.setPen(QPen(QColor(0, 0, 0, 140), 4))
            painter.drawLine(QPointF(x, 0), QPointF(x, self.height()))
            painter.setPen(QPen(QColor(255, 255, 255), 1.5))
            painter.drawLine(QPointF(x, 0), QPointF(x, self.height()))
            draw_tag(painter, "Yardstick", x - 8, left=False)
            draw_tag(painter, "This plan", x + 8, left=True)
        if self._place is not None:
            draw_place(painter, self._px_at(self._place))

    def picture(self) -> QPixmap:
        """What is on the table now, for tests and for the clipboard."""
        return self.grab()


def image_of(frame: Frame) -> QImage:
    """A frame as a picture that keeps its own pixels."""
    pixels = np.ascontiguousarray(frame.image)
    height, width = pixels.shape[:2]
    image = QImage(pixels.data, width, height, 3 * width, QImage.Format.Format_RGB888)
    return image.copy()
