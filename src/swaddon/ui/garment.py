"""The garment as shape and seams in millimetres, drawn round the print at true scale (``core.proof.garments``)."""

from dataclasses import dataclass

from PySide6.QtCore import QPointF
from PySide6.QtGui import QBrush, QColor, QLinearGradient, QPainter, QPainterPath, QPen

from swaddon.core.proof.cloth import ClothKind
from swaddon.core.proof.garments import SHAPES, GarmentShape, Path


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


def _path(commands: Path, is_closed: bool) -> QPainterPath:
    path = QPainterPath()
    for kind, numbers in commands:
        points = [QPointF(numbers[at], numbers[at + 1]) for at in range(0, len(numbers), 2)]
        if kind == "m":
            path.moveTo(points[0])
        elif kind == "l":
            path.lineTo(points[0])
        else:
            path.cubicTo(*points)
    if is_closed:
        path.closeSubpath()
    return path


def _drawn(made: GarmentShape) -> Garment:
    first, *others = (_path(part, is_closed=True) for part in made.parts)
    for other in others:
        first = first.united(other)
    for hole in made.holes:
        first = first.subtracted(_path(hole, is_closed=True))
    seams = tuple(_path(seam, is_closed=False) for seam in made.seams)
    return Garment(made.key, made.title, made.fabric, made.print_top_mm, first, seams, made.has_collar)


GARMENTS = {key: _drawn(made) for key, made in SHAPES.items()}


def garment(key: str) -> Garment:
    return GARMENTS.get(key, GARMENTS["shirt"])
