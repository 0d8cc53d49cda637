"""Settings by name side by side: a small proof of each on this artwork, and what it would change."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QSize, Qt, Signal
from PySide6.QtGui import QPixmap
from PySide6.QtWidgets import QFrame, QLabel, QScrollArea, QVBoxLayout, QWidget

from swaddon.core.order.presets import Preset
from swaddon.ui.flow import Flow
from swaddon.ui.rebuilding import clear
from swaddon.ui.small_shirt import image_from
from swaddon.ui.widgets import button, give_room, hidden_unless, label, row

CARD_PX = 236
_PROOF_PX, _PROOF_H = 204, 158


@dataclass(frozen=True)
class PresetView:
    """A preset as its card shows it; ``facts`` are empty while it is being planned."""

    preset: Preset
    changes: str
    made_for: str
    is_own: bool
    in_use: bool
    facts: str = ""


class PresetCard(QFrame):
    """One preset: its proof, when it is right, what it changes, and a button that applies it."""

    def __init__(self, view: PresetView) -> None:
        super().__init__()
        self.setObjectName("panel")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setFixedWidth(CARD_PX)
        self.view = view
        name = label(view.preset.name, "head", wrap=True)
        self.picture = QLabel("Planning …")
        self.picture.setAlignment(Qt.AlignmentFlag.AlignCenter)
        self.picture.setFixedSize(_PROOF_PX, _PROOF_H)
        self.picture.setAccessibleName(f"The print with {view.preset.name}")
        self.facts = label("", "quiet", wrap=True)
        self.facts.setFixedHeight(34)
        self.facts.setAlignment(Qt.AlignmentFlag.AlignTop)
        why, changes = label(view.preset.why, "quiet", wrap=True), label(view.changes, "quiet", wrap=True)
        self.use = button("In use" if view.in_use else "Apply", "" if view.in_use else "primary")
        self.use.setAccessibleName(f"Apply {view.preset.name}")
        self.use.setEnabled(not view.in_use)
        self.remove = button("Remove", "link")
        hidden_unless(self.remove, view.is_own)
        self.give = button("Save …", "link", tip="Save this preset as a JSON file")
        layout = self._layout = QVBoxLayout(self)
        layout.setContentsMargins(16, 12, 16, 12)
        layout.setSpacing(6)
        foot = row(self.use, 1, self.give, self.remove)
        for part in (name, label(view.made_for, "quiet"), self.picture, self.facts, foot, changes, why):
            layout.addWidget(part)
        layout.addStretch(1)

    def sizeHint(self) -> QSize:
        """As high as its words need at its width."""
        return QSize(CARD_PX, self._layout.heightForWidth(CARD_PX))

    def show_proof(self, proof: NDArray[np.uint8], facts: str) -> None:
        picture = QPixmap.fromImage(image_from(proof))
        keep, smooth = Qt.AspectRatioMode.KeepAspectRatio, Qt.TransformationMode.SmoothTransformation
        self.picture.setPixmap(picture.scaled(self.picture.size(), keep, smooth))
        self.facts.setText(facts)

    def show_problem(self, text: str) -> None:
        self.picture.setText("")
        self.facts.setText(text)


class PresetTable(QWidget):
    """The cards; those that suit the process and the garment come first."""

    applied = Signal(object)
    removed = Signal(object)
    given = Signal(object)
    kept = Signal()
    opened = Signal()
    closed = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("ground")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.cards: dict[str, PresetCard] = {}
        self.head = label("Settings by name", "title")
        self.note = label("", "quiet", wrap=True)
        keep, read, close = button("Keep these settings …"), button("From file …"), button("Back to the print", "link")
        keep.setToolTip("Keep the settings of now under a name")
        keep.clicked.connect(self.kept)
        read.clicked.connect(self.opened)
        close.clicked.connect(self.closed)
        self._flow = Flow(spacing=12)
        self._flow.setContentsMargins(0, 0, 0, 0)
        inner = QWidget()
        inner.setLayout(self._flow)
        area = QScrollArea()
        area.setWidgetResizable(True)
        area.setWidget(inner)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(16, 12, 16, 12)
        layout.setSpacing(8)
        top = row(self.head, 1, keep, read, close)
        give_room(top, 0)
        layout.addWidget(top)
        layout.addWidget(self.note)
        layout.addWidget(area, 1)

    def show_presets(self, views: Sequence[PresetView], note: str) -> None:
        """Show cards anew; their proofs come later."""
        clear(self._flow)
        self.cards = {}
        self.note.setText(note)
        for view in views:
            card = PresetCard(view)
            card.use.clicked.connect(lambda _=False, preset=view.preset: self.applied.emit(preset))
            card.remove.clicked.connect(lambda _=False, preset=view.preset: self.removed.emit(preset))
            card.give.clicked.connect(lambda _=False, preset=view.preset: self.given.emit(preset))
            self.cards[view.preset.name] = card
            self._flow.addWidget(card)
