"""The core sample drawn: a cut through cloth, white and inks, with the colour seen beside the colour wanted."""

from PySide6.QtCore import QPoint, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QFrame, QVBoxLayout, QWidget

from swaddon.core.colour.spaces import Rgb, hex_from_rgb
from swaddon.session.core_sample import CoreSample, Layer
from swaddon.ui import theme
from swaddon.ui.widgets import Swatch, label, row

LAYER_COLOURS = {
    "W": "#f4f4f2", "H": "#ffffff", "C": "#0096cd", "M": "#c8146e", "Y": "#eecd00", "K": "#18181a",
    "pretreat": "#b9c3c9", "powder": "#d9d5cb",
}  # fmt: skip
_WIDTH, _THICK, _THIN = 228, 30, 13


class Cut(QWidget):
    """Layers one upon another, the outermost on top; each as thick as there is of it."""

    def __init__(self, layers: tuple[Layer, ...], garment: Rgb) -> None:
        super().__init__()
        self._layers, self._garment = layers, garment
        self._heights = [34 if layer.key == "garment" else _THIN + (_THICK - _THIN) * layer.share for layer in layers]
        self.setFixedSize(_WIDTH, round(sum(self._heights)) + 2)
        text = ", ".join(f"{layer.title} {layer.amount}".strip() for layer in layers)
        self.setAccessibleName(f"From the garment outward: {text}")

    def paintEvent(self, _event: QPaintEvent) -> None:
        scheme = theme.current()
        painter = QPainter(self)
        bottom = float(self.height() - 1)
        for layer, height in zip(self._layers, self._heights, strict=True):
            box = QRectF(0.5, bottom - height, 92, height)
            colour = QColor(*self._garment) if layer.key == "garment" else QColor(LAYER_COLOURS[layer.key])
            painter.setPen(QPen(QColor(scheme.line), 1))
            painter.setBrush(colour)
            painter.drawRect(box)
            if layer.key == "garment":
                painter.setPen(QPen(QColor(128, 128, 128, 120), 1, Qt.PenStyle.DotLine))
                for y in range(int(box.top()) + 8, int(box.bottom()), 8):
                    painter.drawLine(3, y, int(box.right()) - 2, y)
            painter.setPen(QColor(scheme.text))
            words = f"{layer.title} {layer.amount}".strip()
            place = QRectF(100, bottom - height, _WIDTH - 100, max(height, 12))
            font = painter.font()
            font.setPixelSize(11 if height < 14 else 12)
            painter.setFont(font)
            painter.drawText(place, Qt.AlignmentFlag.AlignVCenter | Qt.TextFlag.TextDontClip, words)
            bottom -= height


class CoreSamplePanel(QFrame):
    """A panel at the clicked point; goes away on a click elsewhere or Escape."""

    def __init__(self, parent: QWidget, sample: CoreSample, garment: Rgb, at: QPoint) -> None:
        super().__init__(parent.window(), Qt.WindowType.Popup)
        self.setObjectName("popover")
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.sample = sample
        layout = QVBoxLayout(self)
        layout.setContentsMargins(14, 12, 14, 12)
        layout.setSpacing(8)
        layout.addWidget(label("Core sample", "head"))
        layout.addWidget(Cut(sample.layers, garment))
        for name, rgb in (("Seen", sample.seen), ("Wanted", sample.wanted)):
            swatch = Swatch(rgb, f"{name} {hex_from_rgb(rgb)}", 22)
            swatch.setEnabled(False)
            layout.addWidget(row(swatch, label(f"{name} {hex_from_rgb(rgb)}"), 1))
        layout.addWidget(label(f"ΔE {sample.delta_e:.1f} at {sample.x_mm:.1f}, {sample.y_mm:.1f} mm", "quiet"))
        self.adjustSize()
        screen = parent.screen().availableGeometry()
        where = at + QPoint(16, 16)
        where.setX(min(where.x(), screen.right() - self.width() - 8))
        where.setY(min(where.y(), screen.bottom() - self.height() - 8))
        self.move(where)
        self.show()
