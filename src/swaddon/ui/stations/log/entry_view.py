"""One run on the table: what was printed, what became of it, the verdict, and all that was said since."""

from collections.abc import Callable, Sequence

from PySide6.QtCore import QSize, Qt, Signal
from PySide6.QtGui import QPixmap
from PySide6.QtWidgets import QGridLayout, QLabel, QVBoxLayout, QWidget

from swaddon.core.log.entry import Entry, Happened, Page
from swaddon.core.log.troubles import KNOWN
from swaddon.session.figure_words import time_text
from swaddon.session.log_words import (
    count_text,
    facts_of,
    history_text,
    line_text,
    reasons_text,
    setting_text,
    title_text,
)
from swaddon.session.setting_words import title_of
from swaddon.ui.fields import Choices, TextField
from swaddon.ui.flow import Flow
from swaddon.ui.fold import Fold
from swaddon.ui.piece_bar import PieceBar
from swaddon.ui.rebuilding import clear
from swaddon.ui.stations.log import model
from swaddon.ui.stations.log.verdict import VerdictPanel
from swaddon.ui.widgets import Elided, button, column, label, row, scrolled

_PROOF, _PHOTO = 190, 150


class Facts(QWidget):
    """Titles and values in two pairs of columns."""

    def __init__(self) -> None:
        super().__init__()
        self._grid = QGridLayout(self)
        self._grid.setContentsMargins(0, 0, 0, 0)
        self._grid.setHorizontalSpacing(10)
        self._grid.setVerticalSpacing(2)
        for at in (1, 3):
            self._grid.setColumnStretch(at, 1)

    def show_facts(self, facts: Sequence[tuple[str, str]]) -> None:
        clear(self._grid)
        half = (len(facts) + 1) // 2
        for at, (title, value) in enumerate(facts):
            across = 2 * (at >= half)
            self._grid.addWidget(label(title, "quiet"), at % half, across, Qt.AlignmentFlag.AlignTop)
            self._grid.addWidget(label(value, "effect", wrap=True), at % half, across + 1, Qt.AlignmentFlag.AlignTop)


class EntryView(QWidget):
    """Shows a run, and takes what is said of it.

    ``asked`` gives what is wanted: ``again`` (as a new job), ``like``, ``compare``, ``photo``.
    """

    asked = Signal(str)

    def __init__(
        self,
        keep_verdict: Callable[[tuple[tuple[str, bool], ...], int], None],
        keep_note: Callable[[str], None],
        keep_right: Callable[[Happened], None],
    ) -> None:
        super().__init__()
        self.setObjectName("panel")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self._entry: Entry | None = None
        self._keep_right = keep_right
        self.title, self.line = Elided("", "title"), Elided("", "quiet")
        self.proof = QLabel()
        self.proof.setFixedSize(_PROOF, _PROOF)
        self.proof.setAlignment(Qt.AlignmentFlag.AlignTop | Qt.AlignmentFlag.AlignHCenter)
        self.bar, self.count = PieceBar("Pieces"), label("", "head", wrap=True)
        self.facts, self.verdict = Facts(), VerdictPanel(keep_verdict)
        self.note = TextField("Add a note")
        self.note.setPlaceholderText("Add a note, Enter keeps it")
        self.note.feed(lambda text: self._noted(text, keep_note))
        self.history = QVBoxLayout()
        self.history.setSpacing(2)
        self.history.setContentsMargins(0, 0, 0, 0)
        self.findings = label("", "effect", wrap=True)
        self.photos = QWidget()
        self._photos = Flow(spacing=6)
        self._photos.setContentsMargins(0, 0, 0, 0)
        self.photos.setLayout(self._photos)
        self.settings = Facts()
        self._lay_out()

    def _lay_out(self) -> None:
        self.acts = {
            key: button(text, kind, "", tip)
            for key, text, kind, tip in (
                ("again", "Take up as a new job", "primary", "With exactly these settings, artwork and press profile"),
                ("like", "Prints like this", "", "The nearest by colours, coverage, finest line and garment"),
                ("compare", "Compare", "", "Keep this one beside the next that is taken (C)"),
                ("photo", "Photo…", "", "Add photos of the piece"),
            )
        }
        for key, made in self.acts.items():
            made.clicked.connect(lambda _=False, key=key: self.asked.emit(key))
        inside = QVBoxLayout()
        inside.setContentsMargins(0, 0, 10, 0)
        inside.setSpacing(8)
        right = column(self.count, self.bar, self.facts, spacing=6)
        top = row(self.proof, right, spacing=14)
        top.layout().setStretch(1, 1)  # type: ignore[union-attr]
        said = QWidget()
        said.setLayout(self.history)
        for item in (
            top, self.verdict, row(self.note), said, self.photos, self.findings, self._putting_right(),
            Fold("All settings", self.settings),
        ):  # fmt: skip
            inside.addWidget(item)
        inside.addStretch(1)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(16, 10, 6, 8)
        layout.setSpacing(6)
        layout.addWidget(self.title)
        layout.addWidget(self.line)
        layout.addWidget(row(*self.acts.values(), 1))
        layout.addWidget(scrolled(inside), 1)

    def _putting_right(self) -> QWidget:
        """Counts and weights put right: what stood before stays in the book."""
        self.good, self.lost = TextField("Good pieces"), TextField("Spoiled pieces")
        self.why = Choices()
        self.why.setAccessibleName("Reason of spoilage")
        for trouble in KNOWN.values():
            self.why.addItem(trouble.title, trouble.key)
        self.weights = {key: TextField(f"{title}, g") for key, title in model.WEIGHTS.items()}
        weights = QGridLayout()
        weights.setContentsMargins(0, 0, 0, 0)
        for at, (key, title) in enumerate(model.WEIGHTS.items()):
            weights.addWidget(label(f"{title}, g", "quiet"), at // 2, at % 2 * 2)
            weights.addWidget(self.weights[key], at // 2, at % 2 * 2 + 1)
        weighed = QWidget()
        weighed.setLayout(weights)
        keep = button("Keep", "", "check")
        keep.clicked.connect(self._right)
        counts = row(label("Good", "quiet"), self.good, label("spoiled", "quiet"), self.lost, self.why, keep)
        return Fold("Put counts right, or add weights", column(counts, weighed, spacing=6))

    def sizeHint(self) -> QSize:
        return QSize(700, 560)

    def show_page(self, page: Page, proof: QPixmap | None, photos: Sequence[QPixmap]) -> None:
        """Show a run with all that was said of it."""
        entry, before = page.entry, self._entry
        self._entry = entry
        self.title.show_text(title_text(entry))
        self.line.show_text(f"{line_text(entry)} · {entry.bench}")
        self.proof.setPixmap(QPixmap() if proof is None else _scaled(proof, _PROOF, self))
        wanted = 0 if entry.ordered is None else entry.ordered.quantity
        happened = entry.happened or Happened()
        self.bar.show_pieces(happened.good, happened.lost, wanted, reasons_text(happened))
        self.bar.setVisible(entry.happened is not None)
        self.count.setText(_count(entry, wanted))
        self.facts.show_facts(facts_of(entry))
        self.verdict.show_entry(entry)
        self.acts["again"].setEnabled(entry.planned is not None and bool(entry.planned.job))
        clear(self.history)
        for said in page.history:
            self.history.addWidget(label(history_text(said), "quiet", wrap=True))
        findings = () if entry.planned is None else entry.planned.findings
        self.findings.setText("Found in the plan: " + "  ".join(told.text for told in findings) if findings else "")
        self.findings.setVisible(bool(findings))
        self._show_photos(photos)
        planned = () if entry.planned is None else entry.planned.settings
        self.settings.show_facts([(title_of(path), setting_text(path, text)) for path, text in planned])
        if before is None or before.head != entry.head:
            self._forget_typed()

    def _forget_typed(self) -> None:
        for field in (self.good, self.lost, self.note, *self.weights.values()):
            field.revert()
            field.show_value("")

    def _show_photos(self, photos: Sequence[QPixmap]) -> None:
        clear(self._photos)
        for at, photo in enumerate(photos, start=1):
            shown = QLabel()
            shown.setPixmap(_scaled(photo, _PHOTO, self))
            shown.setAccessibleName(f"Photo {at}")
            self._photos.addWidget(shown)
        self.photos.setVisible(bool(photos))

    def _noted(self, text: str, keep: Callable[[str], None]) -> None:
        if text.strip():
            keep(text.strip())
            self.note.show_value("")

    def _right(self) -> None:
        if self._entry is None:
            return
        weights = {key: field.text() for key, field in self.weights.items()}
        try:
            made = model.put_right(
                self._entry, self.good.text(), str(self.why.currentData()), self.lost.text(), weights
            )
        except ValueError as error:
            self.good.refuse(f"{error}.")
            return
        self._keep_right(made)
        self._forget_typed()


def _count(entry: Entry, wanted: int) -> str:
    happened = entry.happened
    if happened is None:
        return "Its run has not arrived yet"
    each = (
        f" · {time_text(happened.taken_s / happened.begun)} a piece" if happened.taken_s >= happened.begun > 0 else ""
    )
    reasons = f" ({reasons_text(happened)})" if happened.lost else ""
    took = f" · {time_text(happened.taken_s)} at work" if happened.taken_s else ""
    return f"{count_text(happened)}{reasons} of {wanted}{took}{each}"


def _scaled(picture: QPixmap, side: int, widget: QWidget) -> QPixmap:
    ratio = widget.devicePixelRatioF()
    made = picture.scaled(
        int(side * ratio), int(side * ratio), Qt.AspectRatioMode.KeepAspectRatio,
        Qt.TransformationMode.SmoothTransformation,
    )  # fmt: skip
    made.setDevicePixelRatio(ratio)
    return made
