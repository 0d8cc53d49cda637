"""The sheet of the gang: medium, spacing, how prints are laid, whose they are, and what becomes of them."""

from collections.abc import Callable, Sequence
from functools import partial

from PySide6.QtCore import QSignalBlocker
from PySide6.QtWidgets import QVBoxLayout, QWidget

from swaddon.core.schema import declared, named
from swaddon.core.sheet.media import Medium
from swaddon.core.sheet.settings import SheetSettings
from swaddon.ui.fields import Choices, SlideRow
from swaddon.ui.rebuilding import clear
from swaddon.ui.setting_fields import Tick
from swaddon.ui.stations.sheet.model import Told, medium_words
from swaddon.ui.widgets import Choice, Field, button, column, label, row

_WHY_LAID = (
    "By boxes, each print takes the rectangle round it: cut with a ruler, quick. By shape, a crescent takes a label in "
    "its arm: less film, but cut along curves. Prints keep the spacing everywhere, measured on their printed pixels."
)
_WHY_TURN = (
    "Turned prints save film. On the garment nothing changes: the transfer is turned back when it is pressed, and with "
    "it its holes. Leave it off where the film stretches one way, or where a tired hand should not have to think."
)
_WHY_RINGS = "Openings of rings can hold small prints; each then wants a closed cut inside the ring."

Change = Callable[..., None]


class MediumField(Choices):
    """The shop's media to choose from."""

    def __init__(self, name: str) -> None:
        super().__init__()
        self.setAccessibleName(name)
        self.setSizeAdjustPolicy(Choices.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        self.setMinimumContentsLength(16)
        self._names: tuple[str, ...] = ()

    def show_media(self, media: Sequence[Medium], chosen: Medium | None) -> None:
        """Offer these, one of them chosen."""
        with QSignalBlocker(self):
            names = tuple(medium.name for medium in media)
            if names != self._names:
                self.clear()
                self._names = names
                for medium in media:
                    self.addItem(medium_words(medium), medium.name)
            if chosen is not None:
                self.setCurrentIndex(names.index(chosen.name) if chosen.name in names else -1)
                self.setToolTip(medium_words(chosen))


def sheet_slide(name: str, change: Change, end_drag: Callable[[], None]) -> SlideRow:
    """A slider of one of the sheet's settings; a whole drag is one step of undo."""
    made = SlideRow.of(declared(SheetSettings, name))
    made.moved.connect(lambda value: change(f"sheet.{name}", **{name: round(value, 3)}))
    made.settled.connect(end_drag)
    return made


def sheet_tick(name: str, change: Change, tip: str = "") -> Tick:
    """A box to tick for one of the sheet's settings."""
    made = Tick(named(SheetSettings, name).title)
    made.setToolTip(tip)
    made.toggled.connect(lambda on: change(None, **{name: on}))
    return made


class GangPart(QWidget):
    """How prints are laid, and what of them."""

    def __init__(
        self,
        change: Change,
        end_drag: Callable[[], None],
        share_with: Callable[[int, bool], None],
        use: Callable[[], None],
        write: Callable[[], None],
        anew: Callable[[], None],
        longer: Callable[[], None],
        go: Callable[[Told], None],
    ) -> None:
        super().__init__()
        self._share_with, self._go = share_with, go
        self.medium = MediumField("Medium")
        self.medium.activated.connect(lambda at: change(None, medium=str(self.medium.itemData(at))))
        self.way = Choice.of(named(SheetSettings, "way"))
        self.way.chosen.connect(lambda key: change(None, way=key))
        self.spacing = sheet_slide("spacing_mm", change, end_drag)
        self.turns = sheet_tick("turns", change, "By quarters; R turns the selected print")
        self.fill_rings = sheet_tick("fill_rings", change, _WHY_RINGS)
        self.apart = sheet_tick("apart", change, "Each garment gets sheets of its own, so that piles stay sorted")
        self.tags = sheet_tick("tags", change, "Order, garment, size and sheet, printed small beside each print")
        ticks = column(row(self.turns, self.fill_rings, 1), row(self.apart, self.tags, 1))
        self.use = button("Use this sheet", "primary", tip="Film, sheets and print time of these jobs come from it")
        self.use.clicked.connect(use)
        self.write = button("Write sheets …", tip="TIFF, PDF, a PNG of each ink, cut lines, sheet.json")
        self.write.clicked.connect(write)
        self.anew, self.longer = button("Lay anew", "link"), button("Search on", "link")
        self.anew.setToolTip("Lay again what was stopped, or forget what was moved by hand")
        self.longer.setToolTip("Look for a shorter sheet for some more seconds")
        self.anew.clicked.connect(anew)
        self.longer.clicked.connect(longer)
        self.used = label("", "effect", wrap=True)
        self._jobs, self._found, self._shares = QVBoxLayout(), QVBoxLayout(), QVBoxLayout()
        self._listed: tuple[tuple[int, str, str], ...] | None = None
        self.boxes: dict[int, Tick] = {}
        self.edit = button("Media …", "link", tip="Sizes, margins, film left on the roll, heat-press plates")
        self._arrange(ticks)

    def _arrange(self, ticks: QWidget) -> None:
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(8)
        layout.addWidget(Field("Medium", self.medium))
        layout.addWidget(Field("Laid by", self.way, _WHY_LAID))
        layout.addWidget(self.spacing)
        layout.addWidget(Field("Allowed", ticks, _WHY_TURN))
        layout.addWidget(Field("Beside this job", _box(self._jobs)))
        layout.addWidget(row(self.use, self.write))
        layout.addWidget(row(self.longer, self.anew, self.edit, 1))
        layout.addWidget(self.used)
        layout.addWidget(_box(self._found))
        layout.addWidget(_box(self._shares))

    def show_settings(self, settings: SheetSettings, media: Sequence[Medium], chosen: Medium) -> None:
        self.medium.show_media(media, chosen)
        self.way.show_value(settings.way)
        self.spacing.show_value(settings.spacing_mm)
        for name in ("turns", "fill_rings", "apart", "tags"):
            getattr(self, name).show_value(getattr(settings, name))

    def show_jobs(self, jobs: Sequence[tuple[int, str, str, bool]]) -> None:
        """Other open jobs: uid, name, why it cannot share (empty: it can), and whether it does."""
        listed = tuple((uid, name, why) for uid, name, why, _ in jobs)
        if listed != self._listed:
            self._listed, self.boxes = listed, {}
            clear(self._jobs)
            if not jobs:
                self._jobs.addWidget(label("Open other jobs to lay their prints beside these.", "quiet", wrap=True))
            for uid, name, why in listed:
                box = Tick(name if not why else f"{name} — {why}")
                box.setToolTip(name)
                box.setEnabled(not why)
                box.toggled.connect(partial(self._share_with, uid))
                self._jobs.addWidget(box)
                self.boxes[uid] = box
        for uid, _, why, on in jobs:
            self.boxes[uid].show_value(on and not why)

    def show_shares(self, rows: Sequence[tuple[str, str]]) -> None:
        """What each job takes of the sheet."""
        clear(self._shares)
        for name, text in rows:
            self._shares.addWidget(label(f"{name}: {text}", "quiet", wrap=True))

    def show_found(self, found: tuple[Told, ...]) -> None:
        """Findings; a press goes to the place."""
        show_found(self._found, found, self._go)

    def enable(self, has_plan: bool, can_lay: bool) -> None:
        """What can be done with the sheet, where it is that of the job, and whether it can be laid anew."""
        self.anew.setEnabled(can_lay)
        for made in (self.use, self.write, self.longer):
            made.setEnabled(has_plan)


def _box(layout: QVBoxLayout) -> QWidget:
    layout.setContentsMargins(0, 0, 0, 0)
    layout.setSpacing(2)
    out = QWidget()
    out.setLayout(layout)
    return out


def show_found(layout: QVBoxLayout, found: tuple[Told, ...], go: Callable[[Told], None]) -> None:
    """Findings as lines to press."""
    clear(layout)
    for item in found:
        line = label(item.text, item.severity, wrap=True)
        line.setAccessibleName(item.text)
        there = button("Go there", "link")
        there.setAccessibleName(f"Go there: {item.text}")
        there.clicked.connect(lambda _=False, item=item: go(item))
        layout.addWidget(column(line, row(there, 1), spacing=0))
