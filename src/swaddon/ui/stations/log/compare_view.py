"""Two runs side by side: their proofs, and what differs first."""

from PySide6.QtCore import Qt
from PySide6.QtGui import QPixmap
from PySide6.QtWidgets import QGridLayout, QLabel, QVBoxLayout, QWidget

from swaddon.core.log.entry import Entry
from swaddon.session.log_words import compared, line_text, title_text
from swaddon.ui.rebuilding import clear
from swaddon.ui.widgets import Elided, button, column, label, row, rule, scrolled

_PROOF = 200


class CompareView(QWidget):
    """Shows two runs; rows that differ come first and are marked, the others follow."""

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("panel")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.heads = [(QLabel(), Elided("", "head"), Elided("", "quiet")) for _ in range(2)]
        sides = []
        for picture, title, line in self.heads:
            picture.setFixedHeight(_PROOF)
            picture.setAlignment(Qt.AlignmentFlag.AlignCenter)
            sides.append(column(picture, title, line, spacing=2))
        top = row(*sides, spacing=16)
        for at in range(2):
            top.layout().setStretch(at, 1)  # type: ignore[union-attr]
        self.told = label("", "effect", wrap=True)
        self.same = button("Show what is the same too", "link")
        self.same.setCheckable(True)
        self.same.toggled.connect(lambda _on: self._show())
        self._grid = QGridLayout()
        self._grid.setContentsMargins(0, 0, 10, 0)
        self._grid.setHorizontalSpacing(12)
        self._grid.setVerticalSpacing(5)
        for at, stretch in ((0, 2), (1, 3), (2, 3)):
            self._grid.setColumnStretch(at, stretch)
        held = QVBoxLayout()
        held.setContentsMargins(0, 0, 0, 0)
        held.addLayout(self._grid)
        held.addStretch(1)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(16, 10, 6, 8)
        layout.setSpacing(6)
        for item in (top, row(self.told, 1, self.same), rule()):
            layout.addWidget(item)
        layout.addWidget(scrolled(held), 1)
        self._two: tuple[Entry, Entry] | None = None
        self.rows: list[tuple[str, str, str, bool]] = []

    def show_two(self, one: Entry, other: Entry, proofs: tuple[QPixmap | None, QPixmap | None]) -> None:
        """Show two runs."""
        self._two = one, other
        for (picture, title, line), entry, proof in zip(self.heads, (one, other), proofs, strict=True):
            title.show_text(title_text(entry))
            line.show_text(line_text(entry))
            picture.setPixmap(
                QPixmap() if proof is None else proof.scaled(
                    2 * _PROOF, _PROOF, Qt.AspectRatioMode.KeepAspectRatio, Qt.TransformationMode.SmoothTransformation
                )
            )  # fmt: skip
        self._show()

    def _show(self) -> None:
        if self._two is None:
            return
        found = compared(*self._two)
        differ = [item for item in found if item.differs]
        self.told.setText(f"{len(differ)} of {len(found)} differ." if differ else "Nothing differs.")
        shown = found if self.same.isChecked() else differ
        self.rows = [(item.title, item.one, item.other, item.differs) for item in shown]
        clear(self._grid)
        part = ""
        for item in shown:
            at = self._grid.rowCount()
            if item.part != part:
                part = item.part
                self._grid.addWidget(label(part, "head"), at, 0, 1, 3)
                at += 1
            title = f"≠  {item.title}" if item.differs else f"=  {item.title}"
            self._grid.addWidget(label(title, "quiet", wrap=True), at, 0, Qt.AlignmentFlag.AlignTop)
            for across, text in ((1, item.one), (2, item.other)):
                words = label(text, "" if item.differs else "quiet", wrap=True)
                self._grid.addWidget(words, at, across, Qt.AlignmentFlag.AlignTop)
