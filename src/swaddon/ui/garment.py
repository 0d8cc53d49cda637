"""The garment as shape and seams in millimetres, drawn round the print at true scale.

Coordinates: (0, 0) is the middle of the collar's lower edge (shirt), or of the piece's upper edge; y grows downwards.
Sizes are those of common goods, assumed.
"""

from dataclasses import dataclass

from PySide6.QtCore import QPointF, QRectF
from PySide6.QtGui import QBrush, QColor, QLinearGradient, QPainter, QPainterPath, QPen

from swaddon.core.proof.cloth import ClothKind

BELOW_COLLAR_MM = 76.2
"""Print position: 3 in below the collar (common practice, no source)."""


@dataclass(frozen=True)
class Garment:
    """A piece to print on: its outline, its seams, its fabric, and where the print's top edge lies."""

    key: str
    title: str
    fabric: ClothKind
    print_top_mm: float
    outline: QPainterPath
    seams: tuple[QPainterPath, ...]
    has_collar: bool = False

    def draw_shading(self, painter: QPainter) -> None:
        """Seams and soft folds over cloth that is already there; the painter is in millimetres."""
        painter.save()
        painter.setClipPath(self.outline)
        box = self.outline.boundingRect()
        fold = QLinearGradient(QPointF(box.left(), 0), QPointF(box.right(), 0))
        for stop, alpha in ((0.0, 70), (0.2, 18), (0.32, 0), (0.5, 0), (0.68, 0), (0.8, 18), (1.0, 70)):
            fold.setColorAt(stop, QColor(0, 0, 0, alpha))
        painter.fillRect(box, QBrush(fold))
        for seam in self.seams:
            painter.setBrush(QColor(0, 0, 0, 0))
            painter.setPen(QPen(QColor(0, 0, 0, 70), 1.6))
            painter.drawPath(seam)
            painter.setPen(QPen(QColor(255, 255, 255, 26), 0.9))
            painter.drawPath(seam.translated(1.1, 1.1))
        painter.restore()
        painter.setPen(QPen(QColor(0, 0, 0, 110), 0.8))
        painter.setBrush(QColor(0, 0, 0, 0))
        painter.drawPath(self.outline)


def _mirrored(points: list[tuple[float, float]]) -> list[tuple[float, float]]:
    return [(-x, y) for x, y in reversed(points)]


def _shirt(key: str = "shirt", title: str = "Shirt", collar_mm: float = 0.0) -> Garment:
    """A shirt from its front, or with a collar that lies ``collar_mm`` higher from its back."""
    low = -collar_mm
    path = QPainterPath(QPointF(-88, -92))
    path.cubicTo(-70, min(-20, low), -40, low, 0, low)
    path.cubicTo(40, low, 70, min(-20, low), 88, -92)
    right: list[tuple[float, float]] = [(228, -52), (352, 118), (280, 176), (262, 150)]
    for x, y in right:
        path.lineTo(x, y)
    path.cubicTo(256, 320, 262, 520, 268, 640)
    path.cubicTo(150, 652, -150, 652, -268, 640)
    path.cubicTo(-262, 520, -256, 320, -262, 150)
    for x, y in _mirrored(right)[1:]:
        path.lineTo(x, y)
    path.closeSubpath()
    collar = QPainterPath(QPointF(-104, -92))
    collar.cubicTo(-84, low - 2, -46, low + 20, 0, low + 20)
    collar.cubicTo(46, low + 20, 84, low - 2, 104, -92)
    seams = [collar]
    for side in (-1, 1):
        sleeve = QPainterPath(QPointF(side * 228, -52))
        sleeve.cubicTo(side * 214, 20, side * 232, 96, side * 262, 150)
        cuff = QPainterPath(QPointF(side * 340, 100))
        cuff.lineTo(side * 268, 158)
        seams += [sleeve, cuff]
    hem = QPainterPath(QPointF(-266, 622))
    hem.cubicTo(-150, 634, 150, 634, 266, 622)
    return Garment(key, title, "jersey", BELOW_COLLAR_MM, path, (*seams, hem), has_collar=True)


def _sleeve() -> Garment:
    """A sleeve laid flat, from the shoulder seam to the cuff."""
    path = QPainterPath(QPointF(-120, 20))
    path.cubicTo(-60, -20, 60, -20, 120, 20)
    path.lineTo(96, 230)
    path.lineTo(-96, 230)
    path.closeSubpath()
    cuff = QPainterPath(QPointF(-98, 210))
    cuff.lineTo(98, 210)
    return Garment("sleeve", "Sleeve", "jersey", 50.0, path, (cuff,))


def _tote() -> Garment:
    bag = QPainterPath()
    bag.addRoundedRect(QRectF(-200, 0, 400, 430), 6, 6)
    handle = QPainterPath()
    for x in (-95, 70):
        handle.addRect(QRectF(x, -220, 25, 222))
    top = QPainterPath()
    top.addRoundedRect(QRectF(-95, -240, 190, 60), 28, 28)
    inner = QPainterPath()
    inner.addRoundedRect(QRectF(-70, -215, 140, 80), 14, 14)
    path = bag.united(handle).united(top.subtracted(inner))
    edge = QPainterPath(QPointF(-200, 26))
    edge.lineTo(200, 26)
    return Garment("tote", "Tote bag", "canvas", 90.0, path, (edge,))


def _panel() -> Garment:
    path = QPainterPath()
    path.addRect(QRectF(-260, 0, 520, 700))
    return Garment("panel", "Plain cloth", "jersey", 60.0, path, ())


def _tin() -> Garment:
    """The lid of an enamelled tin: its rim, and the step where the lid is pressed."""
    lid, rim, step = QPainterPath(), QPainterPath(), QPainterPath()
    lid.addRoundedRect(QRectF(-68, 0, 136, 102), 16, 16)
    rim.addRoundedRect(QRectF(-65.5, 2.5, 131, 97), 14, 14)
    step.addRoundedRect(QRectF(-60, 8, 120, 86), 10, 10)
    return Garment("tin", "Tin", "plain", 16.0, lid, (rim, step))


def _tag() -> Garment:
    """A bag tag of canvas with its slit for the strap."""
    tag, slit = QPainterPath(), QPainterPath()
    tag.addRoundedRect(QRectF(-31, 0, 62, 112), 7, 7)
    slit.addRoundedRect(QRectF(-9, 6, 18, 5), 2.5, 2.5)
    stitch = QPainterPath()
    stitch.addRoundedRect(QRectF(-28.5, 2.5, 57, 107), 5, 5)
    return Garment("tag", "Bag tag", "canvas", 20.0, tag.subtracted(slit), (stitch,))


_ALL = (_shirt(), _shirt("back", "Back", 62.0), _sleeve(), _tote(), _panel(), _tin(), _tag())
GARMENTS = {garment.key: garment for garment in _ALL}


def garment(key: str) -> Garment:
    return GARMENTS.get(key, GARMENTS["shirt"])
