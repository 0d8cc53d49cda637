"""Findings: one row each, worst first; press to go there, Fix is one undoable step."""

from collections.abc import Callable

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent
from PySide6.QtWidgets import QFrame, QHBoxLayout, QPushButton, QScrollArea, QVBoxLayout, QWidget

from swaddon.core.findings import Finding
from swaddon.core.findings.told import small_words, told
from swaddon.ui import theme
from swaddon.ui.rebuilding import clear
from swaddon.ui.widgets import Elided, button, column, give_room, label, row

_LEAST_HEIGHT, _MOST_HEIGHT, _ROW_WIDTH = 60, 126, 300
_SMALLEST_WINDOW, _OF_MORE = 800, 0.6
"""In a taller window the list may take this share of what is more than the usual smallest."""

_OF_LITTLE = 0.265

SIGNS = {
    "stop": ("octagon-alert", "Stop"),
    "look": ("triangle-alert", "Look"),
    "note": ("info", "Note"),
}


def sign_colour(severity: str) -> str:
    scheme = theme.current()
    return {"stop": scheme.stop, "look": scheme.look, "note": scheme.note}[severity]


class FindingRow(QFrame):
    """One finding on one line; open, its whole text, its place and its fix."""

    pressed = Signal()

    def __init__(self, finding: Finding, fix: Callable[[Finding], None]) -> None:
        super().__init__()
        self.finding = finding
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        layout = QHBoxLayout(self)
        layout.setContentsMargins(0, 3, 0, 3)
        layout.setSpacing(8)
        name, word = SIGNS[finding.severity]
        sign = label()
        sign.setPixmap(theme.pixmap(name, 18, sign_colour(finding.severity)))
        sign.setToolTip(word)
        layout.addWidget(sign, 0, Qt.AlignmentFlag.AlignTop)
        self._line = Elided(finding.text)
        self._whole = label(finding.text, wrap=True)
        place = f" · at {finding.x_mm:.0f}, {finding.y_mm:.0f} mm" if finding.has_place else " · of the press"
        where = Elided(word + place, "quiet")
        foot: list[QWidget | int] = [where]
        self.fix_buttons = [self._fix_button(way, fix) for way in finding.ways]
        foot += self.fix_buttons[:1]
        first = row(*foot)
        give_room(first, 0)
        self._foot = column(first, *(row(1, other) for other in self.fix_buttons[1:]), spacing=2)
        text = QVBoxLayout()
        text.setSpacing(2)
        for part in (self._line, self._whole, self._foot):
            text.addWidget(part)
        layout.addLayout(text, 1)
        self._word = word
        self.open_up(False)

    def _fix_button(self, way: Finding, fix: Callable[[Finding], None]) -> QPushButton:
        made = button(way.fix_label, "low")
        made.setAccessibleName(f"Fix: {way.fix_label}")
        made.clicked.connect(lambda: fix(way))
        return made

    @property
    def fix_button(self) -> QPushButton:
        """The button of the first fix; the finding has one."""
        return self.fix_buttons[0]

    @property
    def is_open(self) -> bool:
        return not self._whole.isHidden()

    def open_up(self, is_open: bool) -> None:
        """Show the whole of it, or one line."""
        self._line.setVisible(not is_open)
        for part in (self._whole, self._foot):
            part.setVisible(is_open)
        state = "open" if is_open else "one line, press to open"
        self.setAccessibleName(f"{self._word}: {self.finding.text}")
        self.setAccessibleDescription(state)

    def height_for(self, width: int) -> int:
        """Height that the row asks for at a width."""
        return max(self.heightForWidth(width), self.sizeHint().height() if not self.is_open else 0)

    def mouseReleaseEvent(self, _event: QMouseEvent) -> None:
        self.pressed.emit()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Space):
            self.pressed.emit()
        else:
            super().keyPressEvent(event)


class FindingsPanel(QWidget):
    """The list; emits where to go and what to fix."""

    go_to = Signal(float, float)
    fix = Signal(object)
    elsewhere = Signal(int)

    def __init__(self) -> None:
        super().__init__()
        layout = QVBoxLayout(self)
        layout.setContentsMargins(16, 4, 8, 4)
        layout.setSpacing(4)
        self._head = label("Findings", "head")
        layout.addWidget(self._head)
        self._area = QScrollArea()
        self._area.setWidgetResizable(True)
        self._area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self._area.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self._list = QWidget()
        self._rows = QVBoxLayout(self._list)
        self._rows.setContentsMargins(0, 0, 8, 0)
        self._rows.setSpacing(0)
        self._area.setWidget(self._list)
        layout.addWidget(self._area, 1)
        self.rows: list[FindingRow] = []
        self._shown: tuple[object, ...] | None = None
        self._lines: dict[FindingRow, int] = {}
        self.small: QPushButton | None = None
        self._folded: list[FindingRow] = []
        self._is_current = True

    def show_findings(
        self, findings: tuple[Finding, ...] | None, elsewhere: tuple[tuple[int, Finding], ...] = ()
    ) -> None:
        """Show what was found, then what was found on other lines of the order, by their places."""
        if findings is not None and (findings, elsewhere) == self._shown:
            return
        self._shown = None if findings is None else (findings, elsewhere)
        clear(self._rows)
        self.rows, self._lines, self.small, self._folded = [], {}, None, []
        large, small = told(findings or ())
        for finding in large:
            self._add(FindingRow(finding, self.fix.emit))
        if len(small) > 1:
            self.small = button(small_words(small), "link", tip="Show them one by one")
            self._rows.addWidget(self.small)
            self.small.clicked.connect(self._unfold)
        for finding in small:
            made = self._add(FindingRow(finding, self.fix.emit))
            if self.small is not None:
                made.hide()
                self._folded.append(made)
        for line, finding in elsewhere if findings is not None else ():
            self._lines[self._add(FindingRow(finding, self.fix.emit))] = line
        if self.rows:
            self.rows[0].open_up(True)
        if not self.rows:
            text = "Nothing found: ready to export." if findings is not None else "Open artwork to have it looked over."
            self._rows.addWidget(label(text, "quiet", wrap=True))
        self._rows.addStretch(1)
        self.fit(self.window().height())
        self._tell()

    def _add(self, made: FindingRow) -> FindingRow:
        made.pressed.connect(lambda: self._pressed(made))
        self._rows.addWidget(made)
        self.rows.append(made)
        return made

    def _unfold(self) -> None:
        """Show the small findings one by one."""
        assert self.small is not None
        self.small.hide()
        for made in self._folded:
            made.show()
        self._folded = []
        self.fit(self.window().height())

    def _pressed(self, pressed: FindingRow) -> None:
        """Open one finding, close the others, and go to its place; of another line, to that line."""
        if pressed in self._lines:
            self.elsewhere.emit(self._lines[pressed])
            return
        for shown in self.rows:
            shown.open_up(shown is pressed)
        self.fit(self.window().height())
        if pressed.finding.has_place:
            self.go_to.emit(pressed.finding.x_mm, pressed.finding.y_mm)

    def fit(self, window_height: int) -> None:
        """Take as much height as the list asks for and the window allows."""
        wanted = sum(row.height_for(_ROW_WIDTH) for row in self.rows if row not in self._folded) + 44
        wanted += self.small.sizeHint().height() if self.small is not None and self._folded else 0
        most = _MOST_HEIGHT + round(_OF_MORE * max(0, window_height - _SMALLEST_WINDOW))
        most = min(most, round(_OF_LITTLE * window_height))
        self.setFixedHeight(min(max(wanted, _LEAST_HEIGHT), most))

    def show_current(self, is_current: bool) -> None:
        """Whether the findings are those of the job as it is now; a fix of an older one would undo what came after."""
        self._is_current = is_current
        for shown in self.rows:
            for made in shown.fix_buttons:
                made.setEnabled(is_current)
        self._tell()

    def show_stopped(self) -> None:
        """The plan was stopped: these are of before the last change."""
        self.show_current(False)
        self._tell(", stopped")

    def _tell(self, what: str = ", looking again …") -> None:
        count = f" · {len(self.rows)}" if self.rows else ""
        self._head.setText(f"Findings{count}" + ("" if self._is_current else what))
