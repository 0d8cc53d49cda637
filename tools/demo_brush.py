"""Canvas, brush and lettering for the demo drawings, in millimetres at 300 ppi."""

import numpy as np
from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QColor, QFont, QImage, QPainter, QPainterPath, QTransform

PPMM = 300 / 25.4


def canvas(width_mm: float, height_mm: float, ground: str | None) -> QImage:
    image = QImage(round(width_mm * PPMM), round(height_mm * PPMM), QImage.Format.Format_ARGB32_Premultiplied)
    image.fill(QColor(ground) if ground else Qt.GlobalColor.transparent)
    return image


def painter(image: QImage) -> QPainter:
    brush = QPainter(image)
    brush.setRenderHint(QPainter.RenderHint.Antialiasing)
    brush.scale(PPMM, PPMM)
    brush.setPen(Qt.PenStyle.NoPen)
    return brush


def font(family: str, weight: int, spacing: float) -> QFont:
    chosen = QFont(family)
    chosen.setWeight(QFont.Weight(weight))
    chosen.setPixelSize(100)
    chosen.setLetterSpacing(QFont.SpacingType.PercentageSpacing, 100 + spacing)
    return chosen


def text_path(text: str, size_mm: float, family: str = "IBM Plex Sans", spacing: float = 0) -> QPainterPath:
    """The text as an outline, centred on 0, baseline at 0, capitals ``size_mm`` high."""
    path = QPainterPath()
    path.addText(0, 0, font(family, 600, spacing), text)
    scale = size_mm / 69.8
    centred = path.translated(-path.boundingRect().center().x(), 0)
    return QTransform().scale(scale, scale).map(centred)


def arched(
    brush: QPainter,
    text: str,
    size_mm: float,
    centre: QPointF,
    radius: float,
    spread: float,
    inside: bool = False,
) -> None:
    """Letters along a circle; ``spread`` is the angle of the whole line in degrees."""
    paths = [text_path(letter, size_mm) for letter in text]
    step = spread / max(1, len(text) - 1)
    for index, path in enumerate(paths):
        angle = -spread / 2 + index * step
        turn = QTransform()
        turn.translate(centre.x(), centre.y())
        turn.rotate(-angle if inside else angle)
        turn.translate(0, radius if inside else -radius)
        brush.drawPath(turn.map(path))


def rgba_of(image: QImage) -> np.ndarray:
    plain = image.convertToFormat(QImage.Format.Format_RGBA8888)
    data = np.frombuffer(plain.constBits(), np.uint8).reshape(plain.height(), plain.bytesPerLine())
    return data[:, : plain.width() * 4].reshape(plain.height(), plain.width(), 4).copy()
