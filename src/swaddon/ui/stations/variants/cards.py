"""Variants as cards on a ladder, as a grid of small proofs, and two of them under a curtain."""

from collections import OrderedDict

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QPixmap
from PySide6.QtWidgets import QFrame, QGraphicsOpacityEffect, QLabel, QVBoxLayout, QWidget

from swaddon.ui import theme
from swaddon.ui.small_shirt import image_from
from swaddon.ui.stations.variants.model import CardView
from swaddon.ui.widgets import Elided, button, label, row

CARD_PX = 196
_PROOF = QSize(172, 140)
_PALE = 0.5


_pictures: OrderedDict[tuple[int, int, int], tuple[NDArray[np.uint8], QPixmap]] = OrderedDict()
_MOST_PICTURES = 600


def scaled(proof: NDArray[np.uint8], size: QSize) -> QPixmap:
    """A proof as a picture that fits into a size; remembered, because cards are made anew at every look."""
    key = id(proof), size.width(), size.height()
    held = _pictures.get(key)
    if held is not None and held[0] is proof:
        return held[1]
    keep, smooth = Qt.AspectRatioMode.KeepAspectRatio, Qt.TransformationMode.SmoothTransformation
    made = QPixmap.fromImage(image_from(proof)).scaled(size, keep, smooth)
    _pictures[key] = proof, made
    while len(_pictures) > _MOST_PICTURES:
        _pictures.popitem(last=False)
    return made


class Bars(QWidget):
    """Cost, white and time as bars, each against the largest that is shown."""

    def __init__(self, bars: tuple[tuple[str, float], ...]) -> None:
        super().__init__()
        self._bars = bars
        self.setFixedHeight(14 * len(bars))

    def paintEvent(self, _event: QPaintEvent) -> None:
        scheme, painter = theme.current(), QPainter(self)
        font = painter.font()
        font.setPixelSize(11)
        painter.setFont(font)
        for index, (name, share) in enumerate(self._bars):
            top = 14 * index
            painter.setPen(QColor(scheme.quiet))
            painter.drawText(QRectF(0, top, 40, 14), Qt.AlignmentFlag.AlignVCenter, name)
            room = QRectF(42, top + 4, self.width() - 44, 6)
            painter.fillRect(room, QColor(scheme.line))
            painter.fillRect(QRectF(room.left(), room.top(), room.width() * share, 6), QColor(scheme.quiet))


class VariantCard(QFrame):
    """One variant: its proof, cost, bars, facts and what was found; pinned, compared or taken over by its buttons."""

    pinned = Signal(object)
    compared = Signal(object)
    adopted = Signal(object)

    def __init__(self, view: CardView, proof: NDArray[np.uint8] | None, marks: str, can_compare: bool) -> None:
        super().__init__()
        self.view = view
        self.setObjectName("panel")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setFixedWidth(CARD_PX)
        variant = view.worked.variant
        self._layout = layout = QVBoxLayout(self)
        layout.setContentsMargins(12, 10, 12, 10)
        layout.setSpacing(4)
        if proof is not None:
            picture = QLabel()
            picture.setPixmap(scaled(proof, _PROOF))
            picture.setAlignment(Qt.AlignmentFlag.AlignCenter)
            picture.setAccessibleName(f"The print: {variant.title}")
            layout.addWidget(picture)
        layout.addWidget(label(view.title, "head", wrap=True))
        if view.press:
            layout.addWidget(Elided(view.press, "quiet"))
        if view.cost:
            layout.addWidget(label(view.cost + ("  pinned" if view.is_pinned else ""), "value"))
            layout.addWidget(Bars(view.bars))
        for text in (*view.facts, view.against, marks):
            if text:
                layout.addWidget(label(text, "quiet", wrap=True))
        if view.is_dominated:
            layout.addWidget(label("Another costs less and is worse in nothing.", "quiet", wrap=True))
        if view.found:
            found = Elided(view.found, "effect")
            layout.addWidget(found)
            self.setToolTip(view.found_all)
        layout.addStretch(1)
        layout.addWidget(self._buttons(view, can_compare))
        if view.is_dominated:
            pale = QGraphicsOpacityEffect(self)
            pale.setOpacity(_PALE)
            self.setGraphicsEffect(pale)

    def _buttons(self, view: CardView, can_compare: bool) -> QWidget:
        self.pin = button("Unpin" if view.is_pinned else "Pin", "choice")
        self.compare = button("Curtain", "choice", tip="Under a curtain with the pinned variant")
        self.compare.setEnabled(can_compare)
        self.take = button("Take", "choice", tip="Take this variant over, in one step that can be undone")
        for made, signal in ((self.pin, self.pinned), (self.compare, self.compared), (self.take, self.adopted)):
            made.setAccessibleName(f"{made.text()}: {view.worked.variant.title}")
            made.clicked.connect(lambda _=False, signal=signal: signal.emit(view.worked))
            made.setEnabled(made.isEnabled() and view.worked.outcome is not None)
        return row(self.pin, self.compare, self.take, spacing=4)

    def sizeHint(self) -> QSize:
        """As high as its words need at its width."""
        return QSize(CARD_PX, self._layout.heightForWidth(CARD_PX))


class CurtainView(QWidget):
    """Two proofs, one upon the other, under a curtain that is dragged or moved by the arrows."""

    def __init__(self) -> None:
        super().__init__()
        self.setAccessibleName("Two variants under a curtain")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMinimumSize(320, 240)
        self._left: QPixmap | None = None
        self._right: QPixmap | None = None
        self._words = ("", "")
        self.curtain = 0.5

    def show_pair(self, left: NDArray[np.uint8], right: NDArray[np.uint8], words: tuple[str, str]) -> None:
        self._left, self._right = (QPixmap.fromImage(image_from(proof)) for proof in (left, right))
        self._words = words
        self.setAccessibleDescription(f"left of the curtain: {words[0]}; right: {words[1]}")
        self.update()

    def _hang(self, share: float) -> None:
        self.curtain = min(max(share, 0.0), 1.0)
        self.update()

    def _box(self, picture: QPixmap) -> QRectF:
        room = QRectF(self.rect()).adjusted(16, 40, -16, -16)
        scale = min(room.width() / picture.width(), room.height() / picture.height())
        size = QPointF(picture.width() * scale, picture.height() * scale)
        return QRectF(room.center() - size / 2, room.center() + size / 2)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._hang(event.position().x() / max(1, self.width()))

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        self._hang(event.position().x() / max(1, self.width()))

    def keyPressEvent(self, event: QKeyEvent) -> None:
        step = {Qt.Key.Key_Left: -0.02, Qt.Key.Key_Right: 0.02}.get(Qt.Key(event.key()))
        if step is None:
            super().keyPressEvent(event)
        else:
            self._hang(self.curtain + step)

    def paintEvent(self, _event: QPaintEvent) -> None:
        if self._left is None or self._right is None:
            return
        scheme, painter = theme.current(), QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.fillRect(self.rect(), QColor(scheme.table))
        x = self.width() * self.curtain
        sides = (self._left, QRectF(0, 0, x, self.height())), (self._right, QRectF(x, 0, self.width(), self.height()))
        for picture, side in sides:
            painter.setClipRect(side)
            painter.drawPixmap(self._box(picture), picture, QRectF(picture.rect()))
        painter.setClipping(False)
        painter.setPen(QPen(QColor("white"), 2))
        painter.drawLine(QPointF(x, 0), QPointF(x, self.height()))
        painter.setPen(QColor("white"))
        half = self.width() / 2 - 24
        elided = [
            painter.fontMetrics().elidedText(text, Qt.TextElideMode.ElideRight, int(half)) for text in self._words
        ]
        left, right = Qt.AlignmentFlag.AlignLeft, Qt.AlignmentFlag.AlignRight
        painter.drawText(QRectF(16, 8, half, 24), left | Qt.AlignmentFlag.AlignVCenter, elided[0])
        painter.drawText(
            QRectF(self.width() - 16 - half, 8, half, 24), right | Qt.AlignmentFlag.AlignVCenter, elided[1]
        )
