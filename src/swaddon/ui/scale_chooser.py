"""Choosing the scale: typed by hand, on a serial line, or simulated with a fault."""

from collections.abc import Callable

from PySide6.QtWidgets import QVBoxLayout, QWidget

from swaddon.session.scales import ScaleChoice
from swaddon.ui.fields import TextField
from swaddon.ui.widgets import Choice, Popover, button, column, label, row

_KINDS = (("typed", "By hand"), ("serial", "Serial line"), ("simulated", "Simulated"))
_FAULTS = (("none", "No fault"), ("drift", "Drifts"), ("draught", "Draught"), ("tare", "Tare forgotten"))
_HAND = (
    "Type the weights. A scale that acts as a keyboard types its line into the field; “ST,GS, 12.34 g” is understood."
)
_SERIAL = "A scale that sends plain lines of text, 8 data bits, no parity: its device, and how fast it sends."
_SIMULATED = "A press with constants of its own by its number, on a scale with a fault: to try a weigh-in out."


class ScaleChooser(QWidget):
    """The content of the popover; what is chosen stands in ``choice`` when it may be used."""

    def __init__(self, choice: ScaleChoice) -> None:
        super().__init__()
        self.kinds, self.faults = Choice("Scale", _KINDS), Choice("Fault", _FAULTS, columns=2)
        self.device, self.baud = TextField("Device"), TextField("Baud")
        self.seed = TextField("Number of the simulated press, 0 to 9999")
        self.device.show_value(choice.device)
        self.baud.show_value(str(choice.baud))
        self.seed.show_value(str(choice.seed))
        for field in (self.baud, self.seed):
            field.setFixedWidth(72)
        self._kind, self._fault = choice.kind, choice.fault
        self._told = label(_HAND, "quiet", wrap=True)
        self._told.setMinimumHeight(54)
        self._serial = row(label("Device"), self.device, label("Baud"), self.baud)
        self._simulated = column(row(label("Press number"), self.seed, 1), self.faults)
        self.go = button("Use this scale", "primary")
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(8)
        for part in (self.kinds, self._told, self._serial, self._simulated, self.go):
            layout.addWidget(part)
        self.kinds.chosen.connect(self.show_kind)
        self.faults.chosen.connect(self._take_fault)
        self.faults.show_value(choice.fault)
        self.show_kind(choice.kind)

    def show_kind(self, kind: str) -> None:
        """What can be said of a kind of scale."""
        self._kind = kind if kind in ("serial", "simulated") else "typed"  # type: ignore[assignment]
        self.kinds.show_value(self._kind)
        self._told.setText({"typed": _HAND, "serial": _SERIAL, "simulated": _SIMULATED}[self._kind])
        self._serial.setEnabled(self._kind == "serial")
        self._simulated.setEnabled(self._kind == "simulated")

    def _take_fault(self, fault: str) -> None:
        self._fault = fault  # type: ignore[assignment]

    def choice(self) -> ScaleChoice | None:
        """What is chosen; ``None``: a field is wrong, and says so."""
        number, speed = self.seed.text().strip(), self.baud.text().strip()
        if not number.isdigit() or int(number) > 9999:
            self.seed.refuse("Give a number from 0 to 9999.")
            return None
        if not speed.isdigit():
            self.baud.refuse("Give how many bits a second, as 9600.")
            return None
        return ScaleChoice(self._kind, int(number), self._fault, self.device.text().strip(), int(speed))


def choose_scale(anchor: QWidget, choice: ScaleChoice, use: Callable[[ScaleChoice], None]) -> ScaleChooser:
    """Open the choice under a button; ``use`` gets what is chosen."""
    chooser = ScaleChooser(choice)
    popover = Popover(anchor, chooser, width=400)

    def go() -> None:
        chosen = chooser.choice()
        if chosen is not None:
            popover.close()
            use(chosen)

    chooser.go.clicked.connect(go)
    return chooser
