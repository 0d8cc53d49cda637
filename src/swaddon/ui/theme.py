"""Look: neutral greys in a light and a dark scheme, one accent, one font, icons that follow the palette.

Colour is judged on the proof table, so everything round it is neutral (cf. ISO 3664).
"""

import tempfile
from contextlib import suppress
from dataclasses import asdict, dataclass
from functools import cache, lru_cache
from importlib import resources
from pathlib import Path
from string import Template

from PySide6.QtCore import QByteArray, QRectF, QSize, Qt
from PySide6.QtGui import QAction, QColor, QFont, QFontDatabase, QIcon, QPainter, QPalette, QPixmap
from PySide6.QtSvg import QSvgRenderer
from PySide6.QtWidgets import QAbstractButton, QApplication, QToolTip, QWidget

from swaddon.io.tables import cache_folder

FAMILY = "IBM Plex Sans"
CONDENSED = "IBM Plex Sans Condensed"


@dataclass(frozen=True)
class Scheme:
    """Colours of one scheme, by use."""

    name: str
    ground: str
    panel: str
    raised: str
    line: str
    text: str
    quiet: str
    accent: str
    on_accent: str
    table: str
    stop: str
    look: str
    note: str
    gain: str
    loss: str


DARK = Scheme(
    name="dark",
    ground="#2b2b2b",
    panel="#333333",
    raised="#404040",
    line="#4c4c4c",
    text="#ececec",
    quiet="#a9a9a9",
    accent="#4f9fd8",
    on_accent="#101010",
    table="#5b5b5b",
    stop="#e2685c",
    look="#dfa63f",
    note="#9fb4c4",
    gain="#7fc18a",
    loss="#e0a05a",
)
LIGHT = Scheme(
    name="light",
    ground="#dcdcdc",
    panel="#e8e8e8",
    raised="#f6f6f6",
    line="#bdbdbd",
    text="#1e1e1e",
    quiet="#5c5c5c",
    accent="#1f6fa8",
    on_accent="#ffffff",
    table="#a8a8a8",
    stop="#b3261e",
    look="#8a5a00",
    note="#3d5a70",
    gain="#23703a",
    loss="#8f4a06",
)
SCHEMES = {"dark": DARK, "light": LIGHT}
_current = DARK


def current() -> Scheme:
    return _current


def load_fonts() -> None:
    """Make the shipped fonts known; without them a machine with no font shows boxes."""
    folder = resources.files("swaddon.ui") / "fonts"
    for file in folder.iterdir():
        if file.name.endswith(".ttf"):
            QFontDatabase.addApplicationFontFromData(QByteArray(file.read_bytes()))


def apply(name: str) -> None:
    """Make a scheme the one of now: palette and font of the application; windows are dressed by :func:`dress`."""
    global _current  # noqa: PLW0603 - one application, one scheme
    _current = SCHEMES[name]
    font = QFont(FAMILY)
    font.setPixelSize(13)
    QApplication.setFont(font)
    QApplication.setPalette(_palette(_current))
    QToolTip.setPalette(_palette(_current))
    QToolTip.setFont(font)


def dress(window: QWidget) -> None:
    """Put the scheme of now on a window and all that opens over it.

    A style sheet of the application instead costs ten times as much: it polishes every widget again for each above it.
    """
    window.setStyleSheet(_sheet(_current))


def _palette(s: Scheme) -> QPalette:
    role = QPalette.ColorRole
    colours = {
        role.Window: s.ground, role.Base: s.panel, role.AlternateBase: s.raised, role.Button: s.raised,
        role.ToolTipBase: s.raised, role.WindowText: s.text, role.Text: s.text, role.ButtonText: s.text,
        role.ToolTipText: s.text, role.BrightText: s.text, role.PlaceholderText: s.quiet, role.Mid: s.line,
        role.Highlight: s.accent, role.HighlightedText: s.on_accent,
    }  # fmt: skip
    palette = QPalette()
    for name, colour in colours.items():
        palette.setColor(name, QColor(colour))
    return palette


@cache
def _check_file(scheme: Scheme) -> str:
    """A tick in the scheme's ground colour as a file, since style sheets take pictures from files only."""
    source = (resources.files("swaddon.ui") / "icons" / "check.svg").read_text(encoding="utf-8")
    drawn = source.replace("currentColor", scheme.ground).replace('stroke-width="2"', 'stroke-width="3"')
    for folder in (cache_folder(), Path(tempfile.gettempdir())):
        path = folder / f"swaddon-tick-{scheme.name}.svg"
        with suppress(OSError):
            folder.mkdir(parents=True, exist_ok=True)
            path.write_text(drawn, encoding="utf-8")
            return path.as_posix()
    return ""


@lru_cache(maxsize=256)
def _pixmap(name: str, colour: str, size: int, ratio: float) -> QPixmap:
    source = (resources.files("swaddon.ui") / "icons" / f"{name}.svg").read_text(encoding="utf-8")
    renderer = QSvgRenderer(QByteArray(source.replace("currentColor", colour).encode()))
    pixmap = QPixmap(round(size * ratio), round(size * ratio))
    pixmap.fill(Qt.GlobalColor.transparent)
    painter = QPainter(pixmap)
    renderer.render(painter, QRectF(0, 0, pixmap.width(), pixmap.height()))
    painter.end()
    pixmap.setDevicePixelRatio(ratio)
    return pixmap


def pixmap(name: str, size: int = 18, colour: str | None = None, ratio: float = 2.0) -> QPixmap:
    """An icon in the scheme's text colour, or another."""
    return _pixmap(name, colour or _current.text, size, ratio)


def icon(name: str, size: int = 18, colour: str | None = None) -> QIcon:
    made = QIcon()
    made.addPixmap(pixmap(name, size, colour))
    made.addPixmap(pixmap(name, size, _current.quiet), QIcon.Mode.Disabled)
    return made


def name_icon(owner: QAbstractButton | QAction, name: str) -> None:
    """Give a button or action an icon that :func:`refresh_icons` can redraw in another scheme."""
    owner.setProperty("icon_name", name)
    owner.setIcon(icon(name))


def refresh_icons(window: QWidget) -> None:
    """Redraw every named icon in the scheme of now."""
    owners: list[QAbstractButton | QAction] = [*window.findChildren(QAbstractButton), *window.findChildren(QAction)]
    for owner in owners:
        name = owner.property("icon_name")
        if name:
            owner.setIcon(icon(name))


ICON_SIZE = QSize(18, 18)


@cache
def _sheet(scheme: Scheme) -> str:
    """The style sheet in a scheme's colours; its text has them as ``$name``."""
    text = (resources.files("swaddon.ui") / "theme.qss").read_text(encoding="utf-8")
    return Template(text).substitute(asdict(scheme), condensed=CONDENSED, tick=_check_file(scheme))
