"""Help: the stations, the keys, and the words; short, and read in one sight."""

from collections.abc import Iterable

from PySide6.QtCore import Qt
from PySide6.QtGui import QAction, QKeySequence
from PySide6.QtWidgets import QDialog, QGridLayout, QMainWindow, QScrollArea, QVBoxLayout, QWidget

from swaddon import __version__
from swaddon.ui.station_registry import STATIONS
from swaddon.ui.widgets import Popover, label

_WORDS = (
    ("Underbase", "White under the colours, without which they turn dull on dark cloth."),
    ("Choke", "How far the white is pulled in from the edge of the colour, so that it cannot peek out."),
    ("Knockout", "What is taken out of the artwork before it prints."),
    ("Halftone, lpi, angle", "A tone made of dots or lines: how many to the inch, and how they are turned."),
    ("Total coverage", "Cyan + magenta + yellow + black at one place, in percent; 400 is all of them full."),
    ("White by need", "The least white that still holds a colour within the shift that you allow."),
    ("White of the design", "White lettering, a beard, a banner: white that is meant to be seen."),
    ("Peeking", "White that shows beside the colour when both miss each other."),
    ("Bare rim", "Colour at the edge that has no white under it: a dull line."),
    ("ΔE", "How different two colours look: 1 is hardly seen, 3 beside each other, 6 at a glance."),
    ("Registration", "How well white and colour meet, in millimetres."),
    ("Bench", "This window. Its stations stand in the order of the work."),
    ("Proof table", "The picture in the middle: the print on its garment."),
    ("Tally", "The numbers per piece at the bottom; press one for its arithmetic."),
    ("Finding", "A measured warning, with its place, its size and, where there is one, its fix."),
    ("Yardstick", "A plan pinned to compare against: every number then shows its difference."),
    ("Curtain", "Yardstick on the left, this plan on the right of a line that you draw across."),
    ("Core sample", "The layers at one point, cut through: click on the table."),
    ("Loupe", "A strong magnifier at the pointer."),
    ("Footprint", "What prints at all: white alone, ink alone, and both, in three tones."),
    ("Line-up", "Which ink sits in which slot, left to right as you stand before the machine."),
    ("Exact colour", "A colour of the artwork that gets its inks as typed, whatever the separation says."),
    ("Outline", "A closed line drawn by hand, whose inside or outside goes or stays."),
    ("Spot channel", "White as a channel of its own, under the name that the next program knows."),
    ("Press profile", "The device with its inks, supplies and times."),
)


def show_stations(window: QWidget) -> None:
    """The stations in order, with their keys."""
    rows = [(f"{spec.title}   {_key(spec.shortcut)}", spec.help) for spec in STATIONS]
    Sheet(window, "The stations", rows).open()


def show_keys(window: QWidget, actions: Iterable[QAction]) -> None:
    """Every command that has a key."""
    rows = [
        (_key(action.shortcut().toString()), action.text().replace("&", ""))
        for action in actions
        if not action.shortcut().isEmpty()
    ]
    rows += [("Space, held", "See the artwork, and back"), ("Y, held", "See the yardstick alone")]
    rows += [("Shift+click", "Add a region"), ("Wheel", "Zoom at the pointer"), ("Arrows", "Move the picture")]
    Sheet(window, "Keys", rows).open()


def show_words(window: QWidget) -> None:
    """Words of the trade, and our own."""
    Sheet(window, "Words", list(_WORDS)).open()


def show_about(window: QMainWindow) -> None:
    """Version, what the colours are worth, licences."""
    text = (
        f"Swaddon {__version__}\n\nPlans the white under a garment print. Colours on the table are computed by "
        "model from the press profile; a screen shows them only as well as it is calibrated.\n\n"
        "Fonts: IBM Plex (OFL 1.1). Action icons: Lucide (ISC)."
    )
    Popover(window.menuBar(), label(text, wrap=True), width=380)


def _key(text: str) -> str:
    return QKeySequence(text).toString(QKeySequence.SequenceFormat.NativeText)


class Sheet(QDialog):
    """Two columns to read; Escape closes it."""

    def __init__(self, window: QWidget, title: str, rows: list[tuple[str, str]]) -> None:
        super().__init__(window)
        self.setWindowTitle(title)
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.resize(620, min(560, 80 + 34 * len(rows)))
        grid = QGridLayout()
        grid.setContentsMargins(20, 16, 20, 16)
        grid.setHorizontalSpacing(20)
        grid.setVerticalSpacing(8)
        grid.setColumnStretch(1, 1)
        for index, (head, text) in enumerate(rows):
            grid.addWidget(label(head, "head"), index, 0, Qt.AlignmentFlag.AlignTop)
            grid.addWidget(label(text, wrap=True), index, 1, Qt.AlignmentFlag.AlignTop)
        grid.setRowStretch(len(rows), 1)
        inner = QWidget()
        inner.setLayout(grid)
        area = QScrollArea()
        area.setWidgetResizable(True)
        area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        area.setWidget(inner)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(area)
