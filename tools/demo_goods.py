"""Drawings of the demo shop for goods that are no shirts: the Fogbell Ferry tin and the boathouse bag tag."""

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QBrush, QColor, QImage, QLinearGradient, QPainter, QPainterPath, QPen

from demo_brush import arched, canvas, painter, text_path


def _ferry(brush: QPainter) -> None:
    """A small ferry, bow to the right, its waterline at y = 0, 46 mm long."""
    hull = QPainterPath(QPointF(-23, -6))
    hull.lineTo(23, -7)
    hull.cubicTo(21, -2, 18, 1.5, 14, 2.4)
    hull.lineTo(-19, 2.4)
    hull.cubicTo(-22, 0, -23, -3, -23, -6)
    brush.setBrush(QColor("#c8452f"))
    brush.drawPath(hull)
    brush.setBrush(QColor("#ffffff"))
    brush.drawRect(QRectF(-22.4, -3.2, 42.6, 0.9))
    brush.setBrush(QColor("#f3e7cb"))
    brush.drawRoundedRect(QRectF(-17, -12, 27, 5.6), 0.8, 0.8)
    brush.drawRoundedRect(QRectF(-6, -16.6, 13, 5), 0.8, 0.8)
    brush.setBrush(QColor("#1f5fae"))
    for x in range(-15, 9, 4):
        brush.drawRoundedRect(QRectF(x, -10.6, 2.5, 2.4), 0.4, 0.4)
    for x in (-4.4, -0.6, 3.2):
        brush.drawRoundedRect(QRectF(x, -15.4, 2.6, 2.2), 0.4, 0.4)
    brush.setBrush(QColor("#f0973a"))
    brush.drawRect(QRectF(-13.6, -19, 4.2, 7.2))
    brush.setBrush(QColor("#141416"))
    brush.drawRect(QRectF(-13.6, -20.4, 4.2, 1.8))
    brush.setPen(QPen(QColor("#f3e7cb"), 0.35))
    brush.drawLine(QPointF(5, -16.4), QPointF(5, -25))
    brush.drawLine(QPointF(5, -25), QPointF(21, -7.4))
    brush.setPen(Qt.PenStyle.NoPen)
    brush.setBrush(QColor("#ffffff"))
    brush.drawEllipse(QPointF(5, -25.4), 1.1, 1.1)


def _bell(brush: QPainter, x: float, y: float) -> None:
    bell = QPainterPath(QPointF(x - 4.6, y + 4))
    bell.cubicTo(x - 2.6, y + 2, x - 3.4, y - 5, x, y - 5)
    bell.cubicTo(x + 3.4, y - 5, x + 2.6, y + 2, x + 4.6, y + 4)
    bell.closeSubpath()
    brush.setBrush(QColor("#f0973a"))
    brush.drawPath(bell)
    brush.drawEllipse(QPointF(x, y + 4.6), 1.2, 1.2)
    brush.drawEllipse(QPointF(x, y - 5.6), 0.9, 0.9)


def fogbell_ferry() -> QImage:
    """The lid of a tin: the ferry out of the fog, 100 × 70 mm, nothing round it."""
    image = canvas(100, 70, None)
    brush = painter(image)
    brush.setBrush(QColor("#ffffff"))
    arched(brush, "FOGBELL FERRY", 7.2, QPointF(50, 62), 46, 96)
    _bell(brush, 50, 26)
    brush.save()
    brush.translate(50, 51)
    _ferry(brush)
    brush.restore()
    for row, (y, shade) in enumerate(((54.6, "#58c2d6"), (57.2, "#3f97b8"), (59.8, "#2e6f97"))):
        wave = QPainterPath(QPointF(10 + row * 4, y))
        for step in range(10 + row * 4, 90 - row * 4, 4):
            wave.quadTo(step + 2, y + (1.1 if (step // 4 + row) % 2 else -1.1), step + 4, y)
        brush.setBrush(Qt.BrushStyle.NoBrush)
        brush.setPen(QPen(QColor(shade), 0.9, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
        brush.drawPath(wave)
        brush.setPen(Qt.PenStyle.NoPen)
    for text, y, size, colour, spacing in (
        ("FIVE CROSSINGS DAILY", 65.6, 2.6, "#f0973a", 12),
        ("strong peppermint pastilles  ·  packed in Merrowmere", 69.4, 1.5, "#f3e7cb", 6),
    ):
        brush.save()
        brush.translate(50, y)
        brush.setBrush(QColor(colour))
        brush.drawPath(text_path(text, size, "IBM Plex Sans Condensed", spacing))
        brush.restore()
    brush.end()
    return image


def boathouse_tag() -> QImage:
    """A bag tag: a full block of colour with lettering on it, 52 × 84 mm."""
    image = canvas(52, 84, None)
    brush = painter(image)
    ground = QLinearGradient(QPointF(0, 0), QPointF(0, 84))
    for stop, colour in ((0, "#f6a623"), (0.45, "#e8467c"), (1, "#5a3a8c")):
        ground.setColorAt(stop, QColor(colour))
    brush.setBrush(QBrush(ground))
    brush.drawRoundedRect(QRectF(0.5, 0.5, 51, 83), 5, 5)
    brush.setBrush(QColor("#fff3d6"))
    brush.drawEllipse(QPointF(26, 27), 10.5, 10.5)
    brush.setBrush(QColor("#2a1f3d"))
    roof = QPainterPath(QPointF(6, 46))
    for x, y in ((6, 38), (14, 30), (22, 38), (22, 34), (31, 25), (40, 34), (40, 38), (46, 38), (46, 46)):
        roof.lineTo(x, y)
    roof.closeSubpath()
    brush.drawPath(roof)
    brush.setBrush(QColor("#f6a623"))
    for x, y in ((10, 40), (16, 40), (27, 34), (33, 34), (27, 40), (33, 40)):
        brush.drawRect(QRectF(x, y, 2.6, 3.4))
    brush.setBrush(QColor("#fff3d6"))
    for row in range(3):
        brush.drawRoundedRect(QRectF(8 + row * 4, 48.6 + row * 2.4, 36 - row * 8, 0.8), 0.4, 0.4)
    for text, y, size, spacing in (
        ("TARN & TINDER", 64, 4.6, 2),
        ("THE BOATHOUSE, MERROWMERE", 69.6, 2.0, 8),
        ("if found, ring the bell", 79, 1.7, 4),
    ):
        brush.save()
        brush.translate(26, y)
        brush.setBrush(QColor("#ffffff"))
        brush.drawPath(text_path(text, size, "IBM Plex Sans Condensed", spacing))
        brush.restore()
    brush.end()
    return image
