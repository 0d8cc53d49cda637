"""The ladder of variants on the table: cards by garment, or a grid, with progress while they are worked out."""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QSize, Qt, Signal
from PySide6.QtWidgets import (
    QCheckBox,
    QGridLayout,
    QLabel,
    QProgressBar,
    QScrollArea,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from swaddon.core.count.money import money_text
from swaddon.core.plan.variants import Worked
from swaddon.session.variant_marks import SEEN_DE, marked
from swaddon.ui.flow import Flow
from swaddon.ui.rebuilding import clear
from swaddon.ui.stations.variants import model
from swaddon.ui.stations.variants.cards import CurtainView, VariantCard, scaled
from swaddon.ui.widgets import Choice, button, column, give_room, label, row

_MARKS = f"Hatched: differs by ΔE {SEEN_DE:g} or more from the pinned variant, else from the first, of its garment."
_CELL_PX, _LEAST_CELL_PX, _SIDE_PX = 150, 74, 76
"""Widest and narrowest picture of a grid, and the width of its heads."""

_EMPTY = "Tick garments, white plans and presses on the right, then work them out: each comes as a small proof, costed."


class VariantsTable(QWidget):
    """Shows what was worked out; tells what is pinned, compared and taken over."""

    pinned = Signal(object)
    adopted = Signal(object)
    cancelled = Signal()
    looked = Signal(object)

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("ground")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.cards: list[VariantCard] = []
        self._found: Sequence[Worked] = ()
        self._shown = model.Shown()
        self.head, self.empty = label("Variants", "title"), label(_EMPTY, "quiet", wrap=True)
        self.back = button("Back to the ladder", "link")
        self.back.clicked.connect(self.show_ladder)
        self.bar = QProgressBar()
        self.bar.setTextVisible(False)
        self.step = label("", "quiet")
        self.cancel = button("Stop", "link")
        self.cancel.clicked.connect(self.cancelled)
        self.progress = row(self.step, self.bar, self.cancel)
        give_room(self.progress, 1)
        self.progress.hide()
        self._inner = QVBoxLayout()
        self._inner.setContentsMargins(0, 0, 0, 0)
        self._inner.setSpacing(10)
        inner = QWidget()
        inner.setLayout(self._inner)
        area = QScrollArea()
        area.setWidgetResizable(True)
        area.setWidget(inner)
        self.curtain = CurtainView()
        self.stack = QStackedWidget()
        self.stack.addWidget(area)
        self.stack.addWidget(self.curtain)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(16, 12, 8, 12)
        layout.setSpacing(6)
        for part in (row(self.head, 1, self.back), self._looks(), self.progress, self.empty):
            layout.addWidget(part)
        layout.addWidget(self.stack, 1)
        self.show_ladder()

    def _looks(self) -> QWidget:
        """How the variants are looked at: sorted, filtered, as a ladder or a grid, with their differences."""
        self.view = Choice("Show as", (("ladder", "Ladder"), ("grid", "Grid")), kind="view")
        self.view.chosen.connect(lambda key: self.looked.emit({"grid": key == "grid"}))
        self.sort = Choice("Sort by", model.SORTS, kind="view")
        self.sort.chosen.connect(lambda key: self.looked.emit({"sort": key}))
        self.view.show_value("ladder")
        self.sort.show_value("cost")
        self.hides_dominated = self._box("Hide pale ones", "hides_dominated")
        self.hides_stops = self._box("Hide stopped", "hides_stops")
        self.marks = self._box("Differences", "marks")
        looks, flow = QWidget(), Flow(spacing=10)
        flow.setContentsMargins(0, 0, 0, 0)
        sort = row(label("Sort", "quiet"), self.sort, spacing=4)
        for part in (self.view, sort, self.hides_dominated, self.hides_stops, self.marks):
            flow.addWidget(part)
        looks.setLayout(flow)
        return looks

    def _box(self, text: str, name: str) -> QCheckBox:
        made = QCheckBox(text)
        made.toggled.connect(lambda on: self.looked.emit({name: on}))
        return made

    def show_progress(self, title: str, share: float) -> None:
        """What is being worked out, and how far it is; an empty title: nothing."""
        self.progress.setVisible(bool(title))
        self.step.setText(title)
        self.bar.setValue(round(share * 100))

    def show_ladder(self) -> None:
        """Back from the curtain."""
        self.stack.setCurrentIndex(0)
        self.back.hide()

    def show_found(self, found: Sequence[Worked], shown: model.Shown, count: int, quantity: int = 1) -> None:
        """Show variants as cards, or as a grid."""
        self._found, self._shown = found, shown
        self.empty.setVisible(not found)
        of = f" of {count}" if count > len(found) else ""
        self.head.setText(f"Variants · {len(found)}{of}" if found else "Variants")
        clear(self._inner)
        self.cards = []
        if shown.marks and found:
            self._inner.addWidget(label(_MARKS, "quiet", wrap=True))
        if shown.grid and found:
            self._inner.addWidget(self._grid(model.grid(found)))
        else:
            for garment, cards in model.ladder(found, shown, quantity):
                self._inner.addWidget(label(garment, "head"))
                self._inner.addWidget(self._rung(cards))
        self._inner.addStretch(1)

    def _rung(self, cards: tuple[model.CardView, ...]) -> QWidget:
        box, flow = QWidget(), Flow(spacing=8)
        flow.setContentsMargins(0, 0, 0, 0)
        for view in cards:
            proof, marks = self._proof(view.worked)
            pinned = self._shown.pinned
            card = VariantCard(view, proof, marks, pinned is not None and view.worked.variant != pinned)
            card.pinned.connect(self.pinned)
            card.adopted.connect(self.adopted)
            card.compared.connect(self.compare)
            self.cards.append(card)
            flow.addWidget(card)
        box.setLayout(flow)
        return box

    def _proof(self, item: Worked) -> tuple[NDArray[np.uint8] | None, str]:
        """A variant's proof, with its differences marked where that is wanted, and what is said of them."""
        if item.outcome is None:
            return None, ""
        other = model.reference_for(item, self._found, self._shown.pinned) if self._shown.marks else None
        if other is None or other.outcome is None:
            return item.outcome.proof, ""
        if other is item:
            return item.outcome.proof, "compared with"
        picture, share = marked(item.outcome.proof, other.outcome.proof)
        return picture, f"{share:.0%} differs"

    def _grid(self, view: model.GridView) -> QWidget:
        box, cells = QWidget(), QGridLayout()
        cells.setContentsMargins(0, 0, 0, 0)
        cells.setSpacing(8)
        room = (self.width() - _SIDE_PX - 48) // max(1, len(view.columns)) - 12
        width = max(_LEAST_CELL_PX, min(_CELL_PX, room))
        for index, text in enumerate(view.columns, start=1):
            cells.addWidget(label(text, "head", wrap=True), 0, index)
        for line, (ways, found) in enumerate(view.rows, start=1):
            side = label(ways, "head", wrap=True)
            side.setFixedWidth(_SIDE_PX)
            cells.addWidget(side, line, 0, Qt.AlignmentFlag.AlignTop)
            for index, item in enumerate(found, start=1):
                if item is not None:
                    cells.addWidget(self._cell(item, width), line, index, Qt.AlignmentFlag.AlignTop)
        cells.setColumnStretch(len(view.columns) + 1, 1)
        box.setLayout(cells)
        return box

    def _cell(self, item: Worked, width: int) -> QWidget:
        proof, marks = self._proof(item)
        if proof is None or item.outcome is None:
            return label(item.problem, "quiet", wrap=True)
        picture = QLabel()
        picture.setPixmap(scaled(proof, QSize(width, width)))
        picture.setAccessibleName(f"The print: {item.variant.title}")
        outcome = item.outcome
        facts = f"{money_text(outcome.cost)} {outcome.currency}\n{outcome.worst_words}"
        is_pinned = item.variant == self._shown.pinned
        pin, take = button("Unpin" if is_pinned else "Pin", "link"), button("Take", "link")
        for made, signal in ((pin, self.pinned), (take, self.adopted)):
            made.setAccessibleName(f"{made.text()}: {item.variant.title}")
            made.clicked.connect(lambda _=False, signal=signal: signal.emit(item))
        lines = [picture, label(facts, "quiet", wrap=True)]
        if marks:
            lines.append(label(marks, "quiet", wrap=True))
        cell = column(*lines, row(pin, take, 1, spacing=0), spacing=2)
        cell.setFixedWidth(width + 4)
        return cell

    def compare(self, item: Worked) -> None:
        """Lay a variant and the pinned one under a curtain."""
        other = next((found for found in self._found if found.variant == self._shown.pinned), None)
        if other is None or other.outcome is None or item.outcome is None:
            return
        words = tuple(
            f"{found.variant.title} · {money_text(found.outcome.cost)} {found.outcome.currency}"
            for found in (other, item)
            if found.outcome is not None
        )
        self.curtain.show_pair(other.outcome.proof, item.outcome.proof, (words[0], words[1]))
        self.stack.setCurrentWidget(self.curtain)
        self.back.show()
        self.curtain.setFocus()
