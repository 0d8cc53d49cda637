"""A scanned test print in pictures, with what is wrong in words."""

from PySide6.QtWidgets import QVBoxLayout, QWidget

from swaddon.ui.stations.testprint.model import ReadState
from swaddon.ui.stations.testprint.pictures import GainPicture, LaddersPicture, SlotsPicture, VernierPicture
from swaddon.ui.widgets import Field, column, label


class ReadPart(QWidget):
    """Slots, vernier, gain and ladders."""

    def __init__(self) -> None:
        super().__init__()
        self.wrong = label("", "caution", wrap=True)
        self.slots, self.vernier = SlotsPicture(), VernierPicture()
        self.gain, self.ladders = GainPicture(), LaddersPicture()
        self.place = label("", "effect", wrap=True)
        self._fields = (
            Field("Slots", column(self.slots, self.wrong)),
            Field("Place of white", column(self.vernier, self.place)),
            Field("Dot gain", self.gain),
            Field("Fine detail as printed", self.ladders),
        )
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(6)
        for field in self._fields:
            layout.addWidget(field)

    def show_state(self, state: ReadState | None) -> None:
        slots, place, gain, fine = self._fields
        slots.setVisible(state is not None)
        place.setVisible(state is not None and state.shift_mm is not None)
        gain.setVisible(state is not None and bool(state.curves))
        fine.setVisible(state is not None and bool(state.ladders))
        if state is None:
            return
        self.wrong.setText("\n".join(state.sentences) or "Every slot prints its ink; no nozzle is blocked.")
        self.wrong.setProperty("role", "caution" if state.sentences else "effect")
        self.wrong.style().unpolish(self.wrong)
        self.wrong.style().polish(self.wrong)
        self.place.setText(state.shift_text)
        for picture in (self.slots, self.vernier, self.gain, self.ladders):
            picture.show_state(state)
