"""The sheet of a weigh-in: the weights of the print at hand, its time, the table of all, and taking what they tell."""

from collections.abc import Callable, Mapping, Sequence
from functools import partial

from PySide6.QtCore import Qt, QTimer
from PySide6.QtWidgets import QGridLayout, QLabel, QListWidget, QListWidgetItem, QPushButton, QVBoxLayout, QWidget

from swaddon.core.press.profile import PressProfile
from swaddon.devices.stopwatch import Stopwatch
from swaddon.session.scales import ScaleChoice
from swaddon.ui.fields import TextField
from swaddon.ui.stations.cost.weigh_model import STEP_WORDS, RowView, grams, steps_for
from swaddon.ui.widgets import Field, button, column, label, row

_WHY = (
    "Weigh one film, sheet or garment before it is printed, right after printing, and after powdering (shaken off, "
    "before the oven). A scale of 0.01 g does; of several prints at once, give their count. Water leaves fresh ink "
    "within minutes: weigh at once. The same tray each time, tared."
)
_CAUTION = "Powder is fine and wet ink smears: ventilate, gloves, no flames; safety data sheets decide."
_TICK_MS = 100


class WeighPart(QWidget):
    """Fields for one print, then the table, then what to do with it."""

    def __init__(
        self,
        add: Callable[[], None],
        weigh: Callable[[str], None],
        choose_scale: Callable[[], None],
        rows: dict[str, Callable[[], None]],
    ) -> None:
        super().__init__()
        self.watch = Stopwatch()
        self._tick = QTimer(self)
        self._tick.setInterval(_TICK_MS)
        self._tick.timeout.connect(self._ticked)
        self.name, self.count = TextField("Name of the print"), TextField("How many prints at once")
        self.count.setFixedWidth(48)
        self.count.show_value("1")
        self.scale = button("Typed by hand", "link", tip="Choose the scale")
        self.scale.clicked.connect(choose_scale)
        self.add = button("Add to the table", "primary")
        self.add.clicked.connect(add)
        self.problem = label("", "effect", wrap=True)
        self.problem.hide()
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(6)
        layout.addWidget(Field("Weigh this print", row(self.name, label("×", "quiet"), self.count), _WHY))
        layout.addWidget(self._weights(weigh))
        layout.addWidget(row(label("Scale", "quiet"), self.scale, 1))
        for part in (self.problem, self.add, label(_CAUTION, "quiet", wrap=True), self._table(rows)):
            layout.addWidget(part)

    def _weights(self, weigh: Callable[[str], None]) -> QWidget:
        """A field for each weight, with what reads it off the scale, and the print time with its stopwatch."""
        self.fields: dict[str, TextField] = {}
        self.weigh_buttons: dict[str, QPushButton] = {}
        self._labels: dict[str, QLabel] = {}
        grid = QGridLayout()
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setVerticalSpacing(4)
        for line, (step, words) in enumerate(STEP_WORDS.items()):
            field, ask = TextField(f"{words}, g"), button("Weigh", "low")
            field.feed(partial(self._check, words))
            ask.setAccessibleName(f"Weigh it {words.lower()} on the scale")
            ask.clicked.connect(lambda _=False, step=step: weigh(step))
            self.fields[step], self.weigh_buttons[step], self._labels[step] = field, ask, label(f"{words}, g", "quiet")
            for place, widget in enumerate((self._labels[step], field, ask)):
                grid.addWidget(widget, line, place)
        self.seconds, self.run = TextField("Print time, s"), button("Start", "low")
        self.run.setAccessibleName("Stopwatch: start or stop")
        self.run.clicked.connect(self._press)
        for place, widget in enumerate((label("Print time, s", "quiet"), self.seconds, self.run)):
            grid.addWidget(widget, len(STEP_WORDS), place)
        box = QWidget()
        box.setLayout(grid)
        return box

    @staticmethod
    def _check(words: str, text: str) -> None:
        grams(text, words)

    def _table(self, rows: dict[str, Callable[[], None]]) -> QWidget:
        """What was weighed so far, and what can be done with the table."""
        self.list = QListWidget()
        self.list.setAccessibleName("Weighed and timed prints")
        self.list.setFixedHeight(96)
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.list.setTextElideMode(Qt.TextElideMode.ElideRight)
        self.row_buttons = {}
        for title, run in rows.items():
            made = button(title, "link")
            made.clicked.connect(lambda _=False, run=run: run())
            self.row_buttons[title] = made
        buttons = list(self.row_buttons.values())
        return column(self.list, row(*buttons, 1, spacing=0))

    def _press(self) -> None:
        """Start the stopwatch, or stop it and take its time."""
        if self.watch.runs:
            self.watch.stop()
            self._tick.stop()
            self._ticked()
            self.run.setText("Start")
            return
        self.watch.reset()
        self.watch.start()
        self._tick.start()
        self.run.setText("Stop")

    def _ticked(self) -> None:
        self.seconds.setText(f"{self.watch.seconds:.1f}")

    def stop(self) -> None:
        """Let the stopwatch go on in its own time, but draw nothing."""
        self._tick.stop()

    def typed(self) -> dict[str, str]:
        """The weights as they stand."""
        return {step: field.text().strip() for step, field in self.fields.items() if not field.isHidden()}

    def all_typed(self) -> dict[str, str]:
        """What stands in the fields of a print, whatever it can be weighed at: weights, time, how many."""
        fields = {**self.fields, "seconds": self.seconds}
        return {key: text for key, field in fields.items() if (text := field.text().strip())}

    def put(self, typed: Mapping[str, str]) -> None:
        """Put these into the fields of a print, and nothing into the others; a stopwatch that runs begins anew."""
        if self.watch.runs:
            self._press()
        for key, field in {**self.fields, "seconds": self.seconds}.items():
            field.setText(typed.get(key, ""))
            field.is_typed = False

    def show_press(self, press: PressProfile | None, choice: ScaleChoice) -> None:
        """Fields for what this press's prints can be weighed at."""
        shown = steps_for(press)
        for step, field in self.fields.items():
            for widget in (field, self.weigh_buttons[step], self._labels[step]):
                widget.setVisible(step in shown)
            self.weigh_buttons[step].setEnabled(choice.kind != "typed")
        self.scale.setText(choice.title)

    def show_rows(self, rows: Sequence[RowView]) -> None:
        """The table so far."""
        self.list.clear()
        if not rows:
            self.list.addItem("Nothing is weighed or timed yet.")
            self.list.item(0).setFlags(Qt.ItemFlag.NoItemFlags)
        for view in rows:
            text = f"{view.title}: {view.facts}" + (" – left out" if view.is_left_out else "")
            item = QListWidgetItem(text)
            item.setToolTip(text)
            self.list.addItem(item)

    def tell(self, text: str) -> None:
        """Say what is wrong; empty text takes it away."""
        self.problem.setText(text)
        self.problem.setVisible(bool(text))

    def clear_fields(self) -> None:
        """Ready for the next print."""
        for field in (*self.fields.values(), self.seconds):
            field.setText("")
            field.is_typed = False
            field.refuse("")
