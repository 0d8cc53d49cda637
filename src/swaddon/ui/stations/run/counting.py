"""Begin a run, count good and spoiled pieces, rest, end: what is noted of it."""

from collections.abc import Callable

from PySide6.QtWidgets import QVBoxLayout, QWidget

from swaddon.core.run.record import Timer
from swaddon.session.runs import Run
from swaddon.ui.fields import Choices, TextField
from swaddon.ui.fold import Fold
from swaddon.ui.station_spec import StationContext
from swaddon.ui.stations.run import model
from swaddon.ui.widgets import button, column, label, row

_OTHER = (
    "The settings are other than when this run began, and the log book tells those of then: end it and begin anew "
    "where you print with these."
)
_IDLE = "Nothing is noted yet. Once the run begins, every piece, timer and break is kept, and it survives a restart."


class Counting(QWidget):
    """The controls of the run; the run itself is told on the card."""

    def __init__(self, context: StationContext, begin: Callable[[], None], ended: Callable[[Run], None]) -> None:
        super().__init__()
        self._context, self._ended = context, ended
        self._run: Run | None = None
        self.begin = button("Begin the run", "primary", "", "From now on pieces and times are noted (Ctrl+G)")
        self.begin.clicked.connect(begin)
        self.good = button("+1 good", "primary", "check", "One more is good (Space on the card, Ctrl+G anywhere)")
        self.good.clicked.connect(self.count_good)
        self.many = TextField("Good at once", "1")
        self.many.setFixedWidth(52)
        self.many.feed(self._good_at_once)
        self.reasons = Choices()
        self.reasons.setAccessibleName("Why it is spoiled")
        for key, title in model.REASONS:
            self.reasons.addItem(title, key)
        self.spoiled = button("Spoiled", "", "trash-2", "One more is spoiled, for this reason (X on the card, Ctrl+B)")
        self.spoiled.clicked.connect(self.count_spoiled)
        self.back = button("Take back", "low", "undo-2", "Take the last count back (Backspace on the card)")
        self.back.clicked.connect(self.take_back)
        self.rest = button(
            "Rest", "low", "", "Rest, or go on (P on the card). Timers go on: the press is still closed."
        )
        self.rest.clicked.connect(self.pause)
        self.end = button("End the run", "", "", "It comes into the log book by itself")
        self.end.clicked.connect(self.finish)
        self.told = label(_IDLE, "effect", wrap=True)
        good = row(self.good, label("or"), self.many, label("at once", "quiet"))
        good.layout().setStretch(0, 1)  # type: ignore[union-attr]
        bad = row(self.reasons, self.spoiled)
        bad.layout().setStretch(0, 1)  # type: ignore[union-attr]
        self._running = column(good, bad, row(self.back, self.rest, 1, self.end), spacing=6)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(column(self.begin, self._running, self.told, spacing=6))

    def measured(self) -> Fold:
        """What the whole run used, where somebody measured it: the month then counts that instead of the plan's."""
        self.material = Choices()
        self.material.setAccessibleName("Material")
        self.amount = TextField("Used in all")
        self.amount.setFixedWidth(80)
        self.amount.feed(self._used)
        used = row(self.material, self.amount)
        used.layout().setStretch(0, 1)  # type: ignore[union-attr]
        self.using = Fold("Measured use", used)
        self.using.hide()
        return self.using

    def _used(self, text: str) -> None:
        if text.strip() and self._run is not None:
            amount = model.amount_of(text)
            self._context.log.runs.used(self._run.uid, str(self.material.currentData()), amount)
            self.amount.show_value("")

    def _show_use(self, run: Run) -> None:
        wanted = model.materials_of(run)
        if [self.material.itemData(at) for at in range(self.material.count())] != [key for key, _ in wanted]:
            self.material.clear()
            for key, title in wanted:
                self.material.addItem(title, key)
        self.using.setVisible(bool(wanted))
        self.using.show_note(model.used_told(run))

    def show_run(self, run: Run | None, may_begin: bool, is_planned_so: bool = True) -> None:
        """Show the controls that a run, or none, wants."""
        self._run = run
        self.begin.setVisible(run is None)
        self.begin.setEnabled(may_begin)
        self._running.setVisible(run is not None)
        if run is None:
            self.told.setText(_IDLE)
            self.using.hide()
            return
        state = model.count_state(run, self._context.log.runs.now())
        self.rest.setText("Go on" if state.is_paused else "Rest")
        self.back.setEnabled(bool(run.record.counts))
        self._show_use(run)
        lost = f"Spoiled: {state.reasons}." if state.reasons else "None spoiled."
        problem = self._context.log.runs.problem
        rests = "Resting. " if state.is_paused else ""
        self.told.setText(f"{lost} {rests}{problem}{'' if is_planned_so else _OTHER}".strip())

    def count_good(self, count: int = 1) -> None:
        """Count good pieces."""
        if self._run is not None:
            self._context.log.runs.good(self._run.uid, int(count) or 1)

    def _good_at_once(self, text: str) -> None:
        if text.strip():
            self.count_good(model.count_of(text))
            self.many.show_value("")

    def count_spoiled(self) -> None:
        """Count one spoiled piece, for the reason that is chosen."""
        if self._run is not None:
            self._context.log.runs.spoiled(self._run.uid, str(self.reasons.currentData()))

    def take_back(self) -> None:
        if self._run is not None:
            self._context.log.runs.take_back(self._run.uid)

    def pause(self) -> None:
        if self._run is not None:
            self._context.log.runs.pause(self._run.uid)

    def stop(self, timer: Timer) -> None:
        """Stop a timer."""
        if self._run is not None:
            self._context.log.runs.stop_timer(self._run.uid, timer)

    def finish(self) -> None:
        """End the run; it comes into the log book."""
        if self._run is None:
            return
        run = self._run
        self._context.log.runs.end(run.uid)
        self._ended(run)
