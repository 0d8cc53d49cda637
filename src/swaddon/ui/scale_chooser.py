"""Choosing the scale: typed by hand, on a serial line, or simulated with a fault."""

from collections.abc import Callable

from PySide6.QtWidgets import QWidget

from swaddon.session.scales import Fault, Kind, ScaleChoice
from swaddon.ui.fields import TextField
from swaddon.ui.widgets import Choice, Popover, button, column, label, row

_KINDS = (("typed", "By hand"), ("serial", "Serial line"), ("simulated", "Simulated"))
_FAULTS = (("none", "No fault"), ("drift", "Drifts"), ("draught", "Draught"), ("tare", "Tare forgotten"))
_HAND = (
    "Type the weights. A scale that acts as a keyboard types its line into the field; “ST,GS, 12.34 g” is understood."
)
_SERIAL = "A scale that sends plain lines of text, 8 data bits, no parity: its device, and how fast it sends."
_SIMULATED = "A press with constants of its own by its number, on a scale with a fault: to try a weigh-in out."


def choose_scale(anchor: QWidget, choice: ScaleChoice, use: Callable[[ScaleChoice], None]) -> Popover:
    """Open the choice under a button; ``use`` gets what is chosen."""
    kinds, faults = Choice("Scale", _KINDS), Choice("Fault", _FAULTS, columns=2)
    kinds.show_value(choice.kind)
    faults.show_value(choice.fault)
    device, baud, seed = TextField("Device"), TextField("Baud"), TextField("Number of the simulated press, 0 to 9999")
    device.show_value(choice.device)
    baud.show_value(str(choice.baud))
    seed.show_value(str(choice.seed))
    for field in (baud, seed):
        field.setFixedWidth(72)
    held = {"kind": choice.kind, "fault": choice.fault}
    told = label(_HAND, "quiet", wrap=True)
    told.setMinimumHeight(54)
    serial = row(label("Device"), device, label("Baud"), baud)
    simulated = column(row(label("Press number"), seed, 1), faults)
    go = button("Use this scale", "primary")
    content = column(kinds, told, serial, simulated, go, spacing=8)
    popover = Popover(anchor, content, width=400)

    def show(kind: str) -> None:
        held["kind"] = kind  # type: ignore[assignment]
        told.setText({"typed": _HAND, "serial": _SERIAL, "simulated": _SIMULATED}[kind])
        serial.setEnabled(kind == "serial")
        simulated.setEnabled(kind == "simulated")

    def run() -> None:
        kind: Kind = held["kind"]  # type: ignore[assignment]
        fault: Fault = held["fault"]  # type: ignore[assignment]
        number = seed.text().strip()
        if not number.isdigit() or int(number) > 9999:
            seed.refuse("Give a number from 0 to 9999.")
            return
        if not baud.text().strip().isdigit():
            baud.refuse("Give how many bits a second, as 9600.")
            return
        popover.close()
        use(ScaleChoice(kind, int(number), fault, device.text().strip(), int(baud.text())))

    kinds.chosen.connect(show)
    faults.chosen.connect(lambda fault: held.update(fault=fault))
    go.clicked.connect(run)
    show(choice.kind)
    return popover
