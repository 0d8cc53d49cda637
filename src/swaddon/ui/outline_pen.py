"""The pen: a closed line drawn on the proof table by clicks or freehand, and its corners moved afterwards."""

from collections.abc import Callable, Sequence

from PySide6.QtCore import QEvent, QObject, QPointF, Qt
from PySide6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QWidget

from swaddon.core.artwork.placement import Point
from swaddon.core.knockout.outlines import crossing, simplified
from swaddon.session.job import Job
from swaddon.ui import theme
from swaddon.ui.proof_table import ProofTable
from swaddon.ui.widgets import label

Drawn = Callable[[tuple[Point, ...]], None]

_NEAR_PX = 9.0
_STEP_PX = 4.0
"""Freehand lays a corner each time the hand has gone so far."""

_ROUGH_PX = 0.8
"""A finished line has no more corners than stay within so many screen pixels of the hand."""

_DRAW = (
    "Click corners, or draw with the button held. Enter or a click on the first corner closes it, Backspace takes one "
    "back, Esc leaves."
)
_EDIT = (
    "Drag a corner. Double-click the line for a new one, Delete takes the last one moved away. Enter or Esc is done."
)
_LOOP = "The line crosses itself: take some back with Backspace, or Esc to leave."


class OutlinePen(QWidget):
    """Lies over the table while a line is drawn or changed; what is not the pen’s goes through to the table."""

    def __init__(self, table: ProofTable, job: Callable[[], Job]) -> None:
        super().__init__(table)
        self._table, self._job = table, job
        self._points: list[Point] = []
        self._drawn: Drawn = lambda _points: None
        self._closed, self._corner = False, -1
        self._freehand = False
        self._pointer = QPointF()
        self.note = label("")
        self.note.setParent(self)
        self.note.setObjectName("note")
        self.note.setWordWrap(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setAccessibleName("Outline on the proof table")
        table.installEventFilter(self)
        table.view_changed.connect(self.update)
        self.hide()

    # what it works on

    def begin(self, drawn: Drawn, points: Sequence[Point] = ()) -> None:
        """Draw a new line, or change the corners of one; ``drawn`` gets its corners in artwork pixels."""
        if self._job().file is None:
            return
        self._drawn, self._points, self._closed, self._corner = drawn, list(points), bool(points), -1
        self._freehand = False
        self._tell(_EDIT if points else _DRAW)
        self.setCursor(Qt.CursorShape.CrossCursor)
        self.setGeometry(self._table.rect())
        self.show()
        self.raise_()
        self.setFocus()

    def end(self) -> None:
        """Put the pen away."""
        self.hide()
        self._table.setFocus()

    @property
    def is_on(self) -> bool:
        return self.isVisible()

    @property
    def points(self) -> tuple[Point, ...]:
        return tuple(self._points)

    def _tell(self, text: str) -> None:
        self.note.setText(text)
        self.note.setFixedWidth(min(420, max(200, self._table.width() - 60)))
        self.note.adjustSize()
        self.note.move(self._table.width() - self.note.width() - 12, self._table.height() - self.note.height() - 12)

    # places

    def px_of(self, point: Point) -> QPointF:
        """Where a point of the artwork lies on the table."""
        job = self._job()
        assert job.file is not None
        artwork, settings = job.file.artwork, job.settings
        x, y = settings.placement.to_artboard(point, artwork.width_px, artwork.height_px)
        return self._table.px_at(x * settings.width_mm, y * job.height_mm)

    def _point_at(self, px: QPointF) -> Point:
        job = self._job()
        assert job.file is not None
        artwork, settings, at = job.file.artwork, job.settings, self._table.mm_at(px)
        x, y = at.x() / settings.width_mm, at.y() / max(job.height_mm, 1e-6)
        x, y = settings.placement.to_artwork(x, y, artwork.width_px, artwork.height_px)
        return round(x, 2), round(y, 2)

    def _near(self, px: QPointF) -> int:
        """The corner under the pointer; −1: none."""
        away = [(self.px_of(point) - px).manhattanLength() for point in self._points]
        nearest = min(range(len(away)), key=away.__getitem__, default=-1)
        return nearest if nearest >= 0 and away[nearest] <= _NEAR_PX * 1.4 else -1

    def _rough(self) -> float:
        """Artwork pixels to ``_ROUGH_PX`` of the screen."""
        one, other = self._point_at(QPointF(0, 0)), self._point_at(QPointF(_ROUGH_PX, 0))
        return max(abs(other[0] - one[0]), abs(other[1] - one[1]))

    # hands

    def eventFilter(self, _watched: QObject, event: QEvent) -> bool:
        if event.type() == QEvent.Type.Resize:
            self.setGeometry(self._table.rect())
        return False

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() != Qt.MouseButton.LeftButton:
            event.ignore()
            return
        self.setFocus()
        at = event.position()
        if self._closed:
            self._corner = self._near(at)
        elif len(self._points) > 2 and self._near(at) == 0:
            self._close()
        else:
            self._points.append(self._point_at(at))
            self._freehand = True
        self.update()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        self._pointer = event.position()
        held = bool(event.buttons() & Qt.MouseButton.LeftButton)
        if event.buttons() & Qt.MouseButton.MiddleButton:
            event.ignore()
            return
        if self._closed and held and self._corner >= 0:
            self._points[self._corner] = self._point_at(self._pointer)
        elif not self._closed and held and self._freehand:
            last = self.px_of(self._points[-1])
            if (last - self._pointer).manhattanLength() >= _STEP_PX:
                self._points.append(self._point_at(self._pointer))
        self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if event.button() != Qt.MouseButton.LeftButton:
            event.ignore()
            return
        self._freehand = False
        if self._closed and self._corner >= 0:
            self._hand_over()
        self.update()

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        if not self._closed:
            self._close()
            return
        place = self._point_at(event.position())
        if self._near(event.position()) < 0:
            at = self._edge_near(event.position())
            self._points.insert(at + 1, place)
            self._corner = at + 1
            self._hand_over()

    def _edge_near(self, px: QPointF) -> int:
        """The edge, by its first corner, that a place is nearest to."""

        def away(index: int) -> float:
            one, other = self.px_of(self._points[index]), self.px_of(self._points[(index + 1) % len(self._points)])
            run, to = other - one, px - one
            length = run.x() ** 2 + run.y() ** 2
            share = 0.0 if length == 0 else min(1.0, max(0.0, (to.x() * run.x() + to.y() * run.y()) / length))
            off = to - run * share
            return off.x() ** 2 + off.y() ** 2

        return min(range(len(self._points)), key=away)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        key = event.key()
        if key == Qt.Key.Key_Escape or (key in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self._closed):
            self.end()
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self._close()
        elif key == Qt.Key.Key_Backspace and not self._closed and self._points:
            self._points.pop()
            self._tell(_DRAW)
            self.update()
        elif key == Qt.Key.Key_Delete and self._closed and self._corner >= 0 and len(self._points) > 3:
            self._points.pop(self._corner)
            self._corner = -1
            self._hand_over()
        else:
            super().keyPressEvent(event)

    def _close(self) -> None:
        if len(self._points) < 3:
            self._tell("An outline has three corners at least.")
            return
        points = simplified(self._points, self._rough())
        if len(points) < 3 or crossing(points) is not None:
            self._tell(_LOOP if len(points) >= 3 else "An outline has three corners at least.")
            return
        self.end()
        self._drawn(points)

    def _hand_over(self) -> None:
        """Tell the corners after a move; a line that crosses itself is told and not handed over."""
        if crossing(self._points) is not None:
            self._tell("The line crosses itself here: move the corner back.")
            self.update()
            return
        self._tell(_EDIT)
        self._drawn(tuple(self._points))
        self.update()

    # picture

    def paintEvent(self, _event: QPaintEvent) -> None:
        if not self._points:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        corners = [self.px_of(point) for point in self._points]
        line = QPolygonF(corners)
        accent = QColor(theme.current().accent)
        for colour, width in ((QColor(0, 0, 0, 170), 3.5), (accent, 1.5)):
            painter.setPen(QPen(colour, width))
            if self._closed:
                painter.drawPolygon(line)
            else:
                painter.drawPolyline(line if self._freehand else QPolygonF([*corners, self._pointer]))
        painter.setPen(QPen(QColor(0, 0, 0, 200), 1))
        for index, corner in enumerate(corners):
            is_first = index == 0 and not self._closed
            if self._closed or is_first or len(corners) < 60:
                size = 5.0 if is_first or index == self._corner else 3.5
                painter.setBrush(accent if index == self._corner or is_first else QColor("white"))
                painter.drawEllipse(corner, size, size)
