"""The film with its prints, to scale: a print is dragged and snaps to the spacing, R turns it."""

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QColor, QImage, QKeyEvent, QMouseEvent, QPainter, QPainterPath, QPen, QTransform
from PySide6.QtWidgets import QVBoxLayout, QWidget

from swaddon.core.sheet.by_hand import FreePlaces, Hands
from swaddon.core.sheet.gang import Gang, Spot
from swaddon.core.sheet.prints import TURNS
from swaddon.core.units import mm_from_px
from swaddon.session.sheet_files import sheet_size_px, tag_plane
from swaddon.session.sheets import SheetPlan, artboard_px
from swaddon.ui import theme
from swaddon.ui.progress_line import ProgressLine
from swaddon.ui.stations.sheet.board import Board, paint_film, rgba_image
from swaddon.ui.widgets import label

_HINT = "Drag a print · R turns it · arrows nudge it · wheel zooms · 0 shows all"
_EMPTY = "The prints of this order on their film come here with the plan."
_ARROWS = {
    Qt.Key.Key_Left: (-1, 0),
    Qt.Key.Key_Right: (1, 0),
    Qt.Key.Key_Up: (0, -1),
    Qt.Key.Key_Down: (0, 1),
}
_FURTHEST = 80
_OPAQUE = 24
_OLD_OPACITY = 0.4


class Film(Board):
    """Prints on their sheets."""

    placed = Signal(object)
    """A gang with a print moved."""
    told = Signal(object)
    """The spot that is selected or pointed at; ``None``: none."""

    def __init__(self) -> None:
        super().__init__("Film with its prints", _HINT, _EMPTY)
        self._plan: SheetPlan | None = None
        self._cuts: dict[int, QPainterPath] = {}
        self._pictures: dict[int, QImage] = {}
        self._tags: dict[int, QImage] = {}
        self._hands: Hands | None = None
        self.selected: Spot | None = None
        self._drag: tuple[Spot, FreePlaces, QPointF] | None = None
        self._moving: Spot | None = None
        self._drag_from = QTransform()
        self.is_old = False

    def show_old(self, is_old: bool) -> None:
        """Whether what lies there is only what was laid before: pale, and nothing of it can be moved."""
        if is_old != self.is_old:
            self.is_old, self._drag, self._moving = is_old, None, None
            self.update()

    def show_plan(self, plan: SheetPlan | None, cuts: dict[int, list[NDArray[np.float64]]]) -> None:
        """Show sheets; ``cuts`` are cut lines of each sheet, counted from 1, in mm."""
        same = plan is not None and self._plan is not None and plan.laid == self._plan.laid
        self._plan = plan
        if not same:
            self._pictures, self._tags = {}, {}
        self._cuts = {sheet: _path(lines) for sheet, lines in cuts.items()}
        self._hands = None
        if plan is None or self.selected not in plan.gang.spots:
            self.selected = None
        if plan is None:
            self.lay_out((), False)
            self.setAccessibleDescription("")
            return
        ppi = plan.gang.area.ppi
        sizes = tuple(
            (mm_from_px(width, ppi), mm_from_px(height, ppi))
            for width, height in (sheet_size_px(plan.gang, number) for number in range(1, plan.gang.sheets + 1))
        )
        self.lay_out(sizes, plan.gang.medium.is_roll)
        self.setAccessibleDescription(f"{len(plan.gang.spots)} prints on {plan.gang.sheets} sheets")

    # hit and drag

    def spot_at(self, point: QPointF) -> Spot | None:
        """The print under a point, by its printed pixels."""
        found = self.at(point)
        if found is None or self._plan is None:
            return None
        sheet, place = found
        for spot in reversed([item for item in self._plan.gang.spots if item.sheet == sheet + 1]):
            inverse, _ = self._placed(spot).inverted()
            width, height = self._artboard_mm(spot)
            inner = inverse.map(place)
            if 0 <= inner.x() < width and 0 <= inner.y() < height:
                picture = self._plan.laid[spot.item].made.picture
                row, column = (
                    int(inner.y() / height * picture.shape[0]),
                    int(inner.x() / width * picture.shape[1]),
                )
                if picture[row, column, 3] > _OPAQUE:
                    return spot
        return None

    def select(self, spot: Spot | None) -> None:
        """Select a print."""
        self.selected = spot
        self.told.emit(spot)
        self.update()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        spot = self.spot_at(event.position())
        self.select(spot)
        if spot is None:
            super().mousePressEvent(event)
            return
        hands = self._hands_of()
        if hands is not None:
            self._drag = spot, hands.free_for(spot), event.position()
            found = self.at(event.position())
            self._drag_from = self.transform_of(spot.sheet - 1, 0.0 if found is None else found[1].y())
            self._moving = spot

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._drag is None:
            if self._held is None:
                spot = self.spot_at(event.position())
                self.setCursor(Qt.CursorShape.ArrowCursor if spot is None else Qt.CursorShape.OpenHandCursor)
                self.told.emit(spot or self.selected)
            super().mouseMoveEvent(event)
            return
        spot, free, start = self._drag
        inverse, _ = self._drag_from.inverted()
        moved = inverse.map(event.position()) - inverse.map(start)
        px = 1 / mm_from_px(1, self._gang().area.ppi)
        place = free.snapped(spot.x_px + moved.x() * px, spot.y_px + moved.y() * px)
        if place is not None:
            self._moving = replace(spot, x_px=place[0], y_px=place[1])
            self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        super().mouseReleaseEvent(event)
        if self._drag is None:
            return
        spot, moving = self._drag[0], self._moving
        self._drag = self._moving = None
        if moving is not None and moving != spot:
            self._put(spot, moving)
        self.update()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        key = Qt.Key(event.key())
        if key == Qt.Key.Key_R:
            self.turn_selected()
        elif key in (Qt.Key.Key_BracketRight, Qt.Key.Key_N):
            self._step(1)
        elif key in (Qt.Key.Key_BracketLeft, Qt.Key.Key_P):
            self._step(-1)
        elif key in _ARROWS and self.selected is not None:
            self.nudge(*_ARROWS[key])
        else:
            super().keyPressEvent(event)

    def _step(self, by: int) -> None:
        """Select the next print."""
        spots = () if self._plan is None else self._plan.gang.spots
        if spots:
            at = spots.index(self.selected) + by if self.selected in spots else 0
            self.select(spots[at % len(spots)])

    def nudge(self, right: int, down: int) -> None:
        """Move the selected print to the next free place in a direction, as it is seen."""
        spot, hands = self.selected, self._hands_of()
        if spot is None or hands is None:
            return
        gang = self._gang()
        if gang.medium.is_roll:  # the strip lies on its side
            right, down = -down, right
        free = hands.free_for(spot)
        for step in range(1, _FURTHEST):
            place = free.snapped(spot.x_px + right * step * free.side, spot.y_px + down * step * free.side)
            if place is None:
                return
            on = (place[0] - spot.x_px) * right + (place[1] - spot.y_px) * down
            if on > 0:
                self._put(spot, replace(spot, x_px=place[0], y_px=place[1]))
                return

    def turn_selected(self) -> None:
        """Turn the selected print by a quarter, where rules and room allow it."""
        spot, hands = self.selected, self._hands_of()
        if spot is None or hands is None or not self._gang().rules.turns:
            return
        turn = TURNS[(TURNS.index(spot.turn) + 1) % len(TURNS)]
        made = hands.moved(spot, spot.x_px, spot.y_px, turn)
        if made is not None:
            self._put(spot, made[1])

    def _put(self, spot: Spot, to: Spot) -> None:
        self.selected = to
        self.placed.emit(self._gang().moved(spot, to))

    def _gang(self) -> Gang:
        assert self._plan is not None
        return self._plan.gang

    def _hands_of(self) -> Hands | None:
        if self.is_old:
            return None
        if self._hands is None and self._plan is not None:
            self._hands = Hands(self._plan.gang)
        return self._hands

    # painting

    def _artboard_mm(self, spot: Spot) -> tuple[float, float]:
        """Width and height of a print's artboard, not turned."""
        gang = self._gang()
        width, height = gang.items[spot.item].outline.artboard_px(0)
        return mm_from_px(width, gang.area.ppi), mm_from_px(height, gang.area.ppi)

    def _placed(self, spot: Spot) -> QTransform:
        """From mm of a print's artboard, not turned, to those of its sheet."""
        gang = self._gang()
        x, y = (mm_from_px(side, gang.area.ppi) for side in artboard_px(gang, spot))
        width, height = self._artboard_mm(spot)
        out = QTransform()
        out.translate(x, y)
        if spot.turn == 90:
            out.translate(height, 0)
        elif spot.turn == 180:
            out.translate(width, height)
        elif spot.turn == 270:
            out.translate(0, width)
        out.rotate(spot.turn)
        return out

    def paint_sheet(self, painter: QPainter, sheet: int) -> None:
        plan = self._plan
        if plan is None:
            return
        area, ppi = plan.gang.area, plan.gang.area.ppi
        width, height = self._sizes[sheet]
        left, top, bottom = (mm_from_px(side, ppi) for side in (area.left_px, area.top_px, area.bottom_px))
        down = mm_from_px(area.height_px, ppi) if area.height_px else height - top - bottom
        if self.is_old:
            painter.setOpacity(_OLD_OPACITY)
        paint_film(painter, (width, height), QRectF(left, top, mm_from_px(area.width_px, ppi), down))
        dragged = None if self._drag is None else self._drag[0]
        for spot in plan.gang.spots:
            if spot.sheet == sheet + 1:
                self._paint_print(painter, self._moving if spot == dragged and self._moving is not None else spot)
        if sheet + 1 in self._cuts and dragged is None:
            pen = QPen(QColor(40, 44, 48, 150), 1, Qt.PenStyle.DotLine)
            pen.setCosmetic(True)
            painter.setPen(pen)
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawPath(self._cuts[sheet + 1])

    def _paint_print(self, painter: QPainter, spot: Spot) -> None:
        width, height = self._artboard_mm(spot)
        painter.save()
        painter.setTransform(self._placed(spot) * painter.transform())
        painter.drawImage(QRectF(0, 0, width, height), self._picture(spot.item))
        self._paint_tag(painter, spot.item)
        is_selected = self.selected is not None and (spot.item, spot.copy) == (self.selected.item, self.selected.copy)
        if is_selected:
            pen = QPen(QColor(theme.current().accent), 2)
            pen.setCosmetic(True)
            painter.setPen(pen)
            painter.setBrush(Qt.BrushStyle.NoBrush)
            box = self._gang().items[spot.item].outline.box
            ppi = self._gang().area.ppi
            sides = [mm_from_px(side, ppi) for side in (box.left, box.top, box.width, box.height)]
            painter.drawRect(QRectF(*sides))
        painter.restore()

    def _paint_tag(self, painter: QPainter, item: int) -> None:
        """The tag of a print, mirrored where the print is."""
        plan = self._plan
        place = None if plan is None else plan.tags[item]
        if plan is None or place is None:
            return
        if item not in self._tags:
            plane = tag_plane(plan.laid[item].tag, place.box.width, place.box.height)
            plane = plane[:, ::-1] if plan.laid[item].made.mirrored else plane
            self._tags[item] = rgba_image(np.dstack([np.zeros((*plane.shape, 3), np.uint8), plane]))
        mm = mm_from_px(1, plan.gang.area.ppi)
        box = place.box
        painter.drawImage(QRectF(box.left * mm, box.top * mm, box.width * mm, box.height * mm), self._tags[item])

    def _picture(self, item: int) -> QImage:
        if item not in self._pictures:
            assert self._plan is not None
            self._pictures[item] = rgba_image(self._plan.laid[item].made.picture)
        return self._pictures[item]


def _path(lines: list[NDArray[np.float64]]) -> QPainterPath:
    out = QPainterPath()
    for line in lines:
        points = line.tolist()
        out.moveTo(*points[0])
        for point in points[1:]:
            out.lineTo(*point)
        out.closeSubpath()
    return out


class FilmTable(QWidget):
    """The film, what it takes, and what is pointed at."""

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("ground")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.facts, self.saved = label("", "head", wrap=True), label("", wrap=True)
        self.film = Film()
        self.told = label("", "quiet", wrap=True)
        self.told.setMinimumHeight(34)
        self.progress = ProgressLine("Good enough")
        layout = QVBoxLayout(self)
        layout.setContentsMargins(16, 10, 12, 8)
        layout.setSpacing(4)
        for widget in (self.facts, self.saved, self.progress):
            layout.addWidget(widget)
        layout.addWidget(self.film, 1)
        layout.addWidget(self.told)
