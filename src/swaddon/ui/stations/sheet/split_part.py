"""The sheet of the split: medium, how it is cut, the joint, and the plate it is pressed with."""

from collections.abc import Callable, Sequence

from PySide6.QtWidgets import QVBoxLayout, QWidget

from swaddon.core.sheet.media import Medium
from swaddon.core.sheet.settings import SheetSettings
from swaddon.ui.setting_fields import Tick
from swaddon.ui.stations.sheet.gang_part import Change, MediumField, sheet_slide, sheet_tick, show_found
from swaddon.ui.stations.sheet.model import Told
from swaddon.ui.widgets import Field, button, column, label, row

_WHY_SEAM = (
    "The seam goes where it parts the fewest printed pixels, and round lettering; where that is free it keeps 1.5 mm "
    "from the ink. Drag it through any point: it takes the best way through there, and its crossing is told."
)
_WHY_OVERLAP = (
    "Two schools. Butt: the parts meet edge to edge, nothing is printed twice; right where the seam runs through bare "
    "garment. Overlap: neighbours share a strip, so that a small miss shows no gap; right where ink must be cut, but "
    "the strip gets thicker and stiffer."
)
_WHY_PLATE = (
    "A plate smaller than the transfer presses it in goes that overlap; the dashed boxes show where. Let each go cool "
    "before the next. Burns and pinching: the makers’ instructions and your local rules hold."
)


class SplitPart(QWidget):
    """How the print is cut and pressed."""

    def __init__(
        self,
        change: Change,
        end_drag: Callable[[], None],
        show_joint: Callable[[bool], None],
        free: Callable[[], None],
        write: Callable[[], None],
        use: Callable[[], None],
        go: Callable[[Told], None],
    ) -> None:
        super().__init__()
        self._go = go
        self.medium, self.plate = MediumField("Medium"), MediumField("Heat-press plate")
        self.medium.activated.connect(lambda at: change(None, medium=str(self.medium.itemData(at))))
        self.plate.activated.connect(lambda at: change(None, plate=str(self.plate.itemData(at))))
        self.bent = sheet_tick("bent", change, "Step aside where that crosses less")
        self.overlap = sheet_slide("overlap_mm", change, end_drag)
        self.step = sheet_slide("step_mm", change, end_drag)
        self.step.setToolTip("A step aside must save so much crossing: 0 crosses least, more keeps the cut simple")
        self.joint = Tick("Show the joint with a miss")
        self.joint.toggled.connect(show_joint)
        self.free = button("Let seams go", "link", tip="Forget where seams were dragged to")
        self.free.clicked.connect(free)
        self.write = button("Write sheets …", "primary", tip="TIFF, PDF, a PNG of each ink, split.json")
        self.write.clicked.connect(write)
        self.use = button("Use this split", tip="Sheets, time, cost and run card of this line follow it")
        self.use.clicked.connect(use)
        self.used = label("", "effect", wrap=True)
        self.pressing = label("", "effect", wrap=True)
        self._found = QVBoxLayout()
        self._found.setContentsMargins(0, 0, 0, 0)
        found = QWidget()
        found.setLayout(self._found)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(8)
        layout.addWidget(Field("Medium", self.medium))
        layout.addWidget(Field("Seam", column(row(self.bent, 1, self.free), self.step, spacing=3), _WHY_SEAM))
        layout.addWidget(Field("Joint", self.overlap, _WHY_OVERLAP))
        layout.addWidget(self.joint)
        layout.addWidget(row(self.write, self.use, 1))
        layout.addWidget(self.used)
        layout.addWidget(found)
        layout.addWidget(Field("Heat-press plate", self.plate, _WHY_PLATE))
        layout.addWidget(self.pressing)

    def show_settings(
        self,
        settings: SheetSettings,
        media: Sequence[Medium],
        medium: Medium,
        plates: Sequence[Medium],
        plate: Medium | None,
    ) -> None:
        self.medium.show_media(media, medium)
        self.plate.show_media(plates, plate)
        self.bent.show_value(settings.bent)
        self.overlap.show_value(settings.overlap_mm)
        self.step.show_value(settings.step_mm)
        self.step.setEnabled(settings.bent)
        self.free.setEnabled(bool(settings.dragged))
        miss = 0.0 if plate is None else plate.placing_mm
        self.joint.setText(f"Show the joint laid {miss:g} mm off")

    def show_use(self, words: str, is_used: bool, can_use: bool) -> None:
        """Whether the line is printed so; a press takes it, or lets it go again."""
        self.use.setText("Print it whole" if is_used else "Use this split")
        self.use.setEnabled(is_used or can_use)
        self.used.setText(words)
        self.used.setVisible(bool(words))

    def show_found(self, found: tuple[Told, ...]) -> None:
        """Findings; a press goes to the place."""
        show_found(self._found, found, self._go)
