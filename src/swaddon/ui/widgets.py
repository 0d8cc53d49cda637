"""Small widgets that stations are built from."""

import html
from collections.abc import Callable, Sequence

from PySide6.QtCore import QEvent, QPoint, QRectF, Qt, Signal
from PySide6.QtGui import QColor, QFont, QFontMetrics, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import (
    QBoxLayout,
    QButtonGroup,
    QFrame,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QLayout,
    QMenu,
    QPushButton,
    QScrollArea,
    QSizePolicy,
    QVBoxLayout,
    QWidget,
)

from swaddon.core.colour.spaces import Rgb
from swaddon.core.schema import Named, Slider
from swaddon.ui import theme

GRID = 4


def label(text: str = "", role: str | None = None, wrap: bool = False) -> QLabel:
    made = QLabel(text)
    made.setTextFormat(Qt.TextFormat.PlainText)  # texts may be from outside: none is markup
    if role:
        made.setProperty("role", role)
    made.setWordWrap(wrap)
    return made


def plain_tip(text: str) -> str:
    """A text for a tooltip that is shown as it is, whatever signs are in it."""
    return f"<qt>{html.escape(text)}</qt>" if "<" in text or "&" in text else text


def rule() -> QFrame:
    made = QFrame()
    made.setProperty("role", "rule")
    return made


def button(text: str, kind: str = "", icon: str = "", tip: str = "") -> QPushButton:
    made = QPushButton(text)
    if kind:
        made.setProperty("kind", kind)
    if icon:
        theme.name_icon(made, icon)
        made.setIconSize(theme.ICON_SIZE)
    made.setToolTip(tip)
    made.setAccessibleName(text or tip)
    return made


def hidden_unless(made: QWidget, is_shown: bool) -> None:
    """Hide a widget that has just been made, or leave it be: shown before it has its place, it would be a window."""
    if not is_shown:
        made.hide()


def give_room(box: QWidget, place: int) -> None:
    """Let one item of a row or column take what room is left."""
    layout = box.layout()
    assert isinstance(layout, QBoxLayout)
    layout.setStretch(place, 1)


def column(*items: QWidget | int, spacing: int = GRID, margins: tuple[int, int, int, int] = (0, 0, 0, 0)) -> QWidget:
    """Widgets below each other; a number is a stretch."""
    return _filled(QVBoxLayout(), items, spacing, margins)


def row(*items: QWidget | int, spacing: int = 2 * GRID) -> QWidget:
    """Widgets side by side; a number is a stretch."""
    return _filled(QHBoxLayout(), items, spacing, (0, 0, 0, 0))


def _filled(
    layout: QBoxLayout, items: tuple[QWidget | int, ...], spacing: int, margins: tuple[int, int, int, int]
) -> QWidget:
    box = QWidget()
    box.setLayout(layout)
    layout.setContentsMargins(*margins)
    layout.setSpacing(spacing)
    for item in items:
        if isinstance(item, int):
            layout.addStretch(item)
        else:
            layout.addWidget(item)
    return box


def scrolled(layout: QLayout) -> QScrollArea:
    """A sheet that scrolls when it is taller than its place."""
    inner = QWidget()
    inner.setLayout(layout)
    area = QScrollArea()
    area.setWidgetResizable(True)
    area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
    area.setFocusPolicy(Qt.FocusPolicy.NoFocus)
    area.setWidget(inner)
    return area


def fill(menu: QMenu, entries: Sequence[tuple[str, Callable[[], object]]]) -> None:
    """Put entries into a menu in place of those it had; an empty one is off."""
    menu.clear()
    for index, (title, run) in enumerate(entries, start=1):
        mnemonic = f"&{index}  " if index < 10 else ""
        menu.addAction(mnemonic + title.replace("&", "&&")).triggered.connect(lambda _=False, run=run: run())
    menu.setEnabled(bool(entries))
    menu.menuAction().setEnabled(bool(entries))


def in_scroll_area(page: QWidget) -> QScrollArea:
    """A page that scrolls where the window is lower than it needs."""
    area = QScrollArea()
    area.setWidgetResizable(True)
    area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
    area.setFocusPolicy(Qt.FocusPolicy.NoFocus)
    area.setWidget(page)
    return area


def keep_whole(made: QPushButton) -> None:
    """Give a button the room that its text needs when it is chosen, and so heavier."""
    made.ensurePolished()
    font = made.font()
    font.setWeight(QFont.Weight.DemiBold)
    made.setMinimumWidth(QFontMetrics(font).horizontalAdvance(made.text()) + 3 * GRID)


class Choice(QWidget):
    """A few exclusive options side by side."""

    chosen = Signal(str)

    def __init__(
        self, name: str, options: Sequence[tuple[str, str]], kind: str = "choice", columns: int | None = None
    ) -> None:
        super().__init__()
        self.setAccessibleName(name)
        self._group = QButtonGroup(self)
        self._buttons: dict[str, QPushButton] = {}
        layout = QGridLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(GRID)
        across = columns or len(options)
        for index, (key, text) in enumerate(options):
            made = button(text, kind)
            made.setAccessibleName(f"{name}: {text}")
            made.setCheckable(True)
            made.clicked.connect(lambda _=False, key=key: self.chosen.emit(key))
            self._group.addButton(made)
            self._buttons[key] = made
            layout.addWidget(made, index // across, index % across)
            layout.setColumnStretch(index % across, 1 if kind == "choice" else 0)

    def keep_whole(self, key: str) -> None:
        """Give the button of a long text the room that it needs when it is chosen."""
        keep_whole(self._buttons[key])

    @classmethod
    def of(cls, words: Named | Slider, columns: int | None = None) -> "Choice":
        """Buttons for the values of a setting as it is declared."""
        assert isinstance(words, Named)
        return cls(words.title, words.choices, columns=columns)

    def show_value(self, key: str) -> None:
        """Check the option of this key; none when it is not among them."""
        if key in self._buttons:
            self._buttons[key].setChecked(True)
        elif (checked := self._group.checkedButton()) is not None:
            self._group.setExclusive(False)
            checked.setChecked(False)
            self._group.setExclusive(True)

    def button_for(self, key: str) -> QPushButton:
        return self._buttons[key]


class Swatch(QPushButton):
    """A colour to press."""

    def __init__(self, rgb: Rgb, name: str, size: int = 28) -> None:
        super().__init__()
        self.setFixedSize(size, size)
        self.setStyleSheet(f"min-height: {size}px; max-height: {size}px; padding: 0; border: none;")
        self.setAccessibleName(name)
        self.setToolTip(name)
        self._rgb = rgb
        self.is_current = False

    def show_value(self, rgb: Rgb, is_current: bool = False) -> None:
        self._rgb, self.is_current = rgb, is_current
        self.update()

    def paintEvent(self, _event: QPaintEvent) -> None:
        scheme = theme.current()
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        box = QRectF(self.rect()).adjusted(2.5, 2.5, -2.5, -2.5)
        painter.setPen(QPen(QColor(scheme.quiet), 1))
        painter.setBrush(QColor(*self._rgb))
        painter.drawRoundedRect(box, 4, 4)
        if self.is_current or self.hasFocus():
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setPen(QPen(QColor(scheme.accent if self.hasFocus() else scheme.text), 2))
            painter.drawRoundedRect(QRectF(self.rect()).adjusted(1, 1, -1, -1), 5, 5)


class Popover(QFrame):
    """A short text or a few lines near the thing they explain; goes away on a click elsewhere or Escape."""

    def __init__(self, anchor: QWidget, content: QWidget, width: int = 320) -> None:
        super().__init__(anchor.window(), Qt.WindowType.Popup)
        self.setObjectName("popover")
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(16, 12, 16, 12)
        layout.addWidget(content)
        margins = layout.contentsMargins()
        inner = width - margins.left() - margins.right() - 2 * self.frameWidth()
        content.setFixedWidth(inner)
        content.ensurePolished()
        for text in (content, *content.findChildren(QLabel)):
            text.ensurePolished()
        height = content.heightForWidth(inner) if content.hasHeightForWidth() else content.sizeHint().height()
        content.setMinimumHeight(height)
        self.setFixedSize(width, max(height, content.minimumSizeHint().height()) + margins.top() + margins.bottom() + 2)
        where = anchor.mapToGlobal(QPoint(0, anchor.height() + 4))
        screen = anchor.screen().availableGeometry()
        where.setX(min(where.x(), screen.right() - self.width() - 8))
        if where.y() + self.height() > screen.bottom():
            where = anchor.mapToGlobal(QPoint(0, -self.height() - 4))
            where.setY(max(where.y(), screen.top() + 8))
            where.setX(min(where.x(), screen.right() - self.width() - 8))
        self.move(where)
        self.show()


def why_button(title: str, why: str) -> QPushButton:
    """Opens the trade's reasons for a setting."""
    ask = button("Why?", "link")
    ask.setAccessibleName(f"Why: {title}")
    ask.clicked.connect(lambda: Popover(ask, label(why, wrap=True)))
    return ask


class Field(QWidget):
    """One setting: its name, its Why?, its control, and the effect it has."""

    def __init__(self, title: str, control: QWidget, why: str = "") -> None:
        super().__init__()
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(GRID)
        self._title = label(title, "head")
        head: list[QWidget | int] = [self._title, 1]
        if why:
            head.append(why_button(title, why))
        layout.addWidget(row(*head))
        layout.addWidget(control)
        self._effect = label("", "effect", wrap=True)
        self._effect.hide()
        layout.addWidget(self._effect)

    def show_title(self, text: str) -> None:
        self._title.setText(text)

    def show_effect(self, text: str) -> None:
        self._effect.setText(text)
        self._effect.setVisible(bool(text))

    @property
    def effect(self) -> str:
        return self._effect.text()


class Elided(QLabel):
    """One line that ends in … when it does not fit, with the whole text as tooltip."""

    def __init__(self, text: str = "", role: str | None = None) -> None:
        super().__init__()
        self.setTextFormat(Qt.TextFormat.PlainText)
        if role:
            self.setProperty("role", role)
        self.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        self._whole = ""
        self.show_text(text)

    def show_text(self, text: str) -> None:
        self._whole = text
        self._fit()

    def event(self, event: QEvent) -> bool:
        if event.type() in (QEvent.Type.Resize, QEvent.Type.Polish):
            self._fit()
        return super().event(event)

    def _fit(self) -> None:
        fitted = self.fontMetrics().elidedText(self._whole, Qt.TextElideMode.ElideRight, max(10, self.width()))
        self.setText(fitted)
        self.setToolTip(plain_tip(self._whole) if fitted != self._whole else "")


Handler = Callable[[], None]
