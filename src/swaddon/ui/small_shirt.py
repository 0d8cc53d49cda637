"""A garment drawn small, with its print on it."""

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QColor, QImage, QPainter, QPen, QPixmap

from swaddon.core.order.lines import OrderLine
from swaddon.ui.garment import garment


def image_from(picture: NDArray[np.uint8]) -> QImage:
    """A picture of its own from ``uint8 (H, W, 3)`` sRGB."""
    height, width = picture.shape[:2]
    data = np.ascontiguousarray(picture)
    return QImage(data.data, width, height, 3 * width, QImage.Format.Format_RGB888).copy()


def draw_small(painter: QPainter, box: QRectF, line: OrderLine, proof: QPixmap | None, height_mm: float) -> None:
    """Draw a line's garment into a box, its proof where the print sits; without a proof, the print's place."""
    piece = garment(line.shape)
    outline = piece.outline.boundingRect()
    scale = min(box.width() / outline.width(), box.height() / outline.height())
    painter.save()
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
    painter.translate(box.center())
    painter.scale(scale, scale)
    painter.translate(-outline.center())
    painter.setPen(QPen(QColor(128, 128, 128), 1.2 / scale))
    painter.setBrush(QColor(*line.settings.garment))
    painter.drawPath(piece.outline)
    top = line.settings.drop_mm if piece.has_collar else piece.print_top_mm
    place = QRectF(-line.settings.width_mm / 2, top, line.settings.width_mm, height_mm)
    if proof is not None:
        painter.setClipPath(piece.outline)
        painter.drawPixmap(place, proof, QRectF(proof.rect()))
    elif height_mm > 0:
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(QColor(140, 140, 140), 1 / scale, Qt.PenStyle.DashLine))
        painter.drawRect(place)
    painter.restore()
