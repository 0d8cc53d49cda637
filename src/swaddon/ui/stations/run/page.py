"""The Run station: the run card on the table; beside it counts, the two schools, the card on paper, the hand-over."""

from pathlib import Path

from PySide6.QtGui import QPixmap
from PySide6.QtWidgets import QVBoxLayout, QWidget

from swaddon.core.plan.outcome import small_proof
from swaddon.core.plan.stages import Plan
from swaddon.core.press.steps import PEEL, PRESSES, School
from swaddon.core.run.card import LengthUnit
from swaddon.session.film_left import count_down
from swaddon.session.job import Job
from swaddon.session.runs import Run
from swaddon.session.session import Edit
from swaddon.store.faults import StoreError
from swaddon.ui.fields import TextField
from swaddon.ui.fold import Fold, side_by_side
from swaddon.ui.saving import save_name
from swaddon.ui.setting_fields import Tick, choose
from swaddon.ui.small_shirt import image_from
from swaddon.ui.station_spec import StationContext
from swaddon.ui.stations.run import model
from swaddon.ui.stations.run.board import RunBoard
from swaddon.ui.stations.run.counting import Counting
from swaddon.ui.stations.run.handing import HandingOver
from swaddon.ui.widgets import Choice, Field, button, label, row, rule

_WHY_PRESS = (
    "Heat and time are the supplies’ makers’ to say; the press profile has the shop’s own. A cooler press takes "
    "longer, and not every film or sheet allows it. What stands here is for this line alone or for the whole order, as "
    "other settings are; leave a field empty for the press profile’s figure."
)
_PROOF_PX = 420


def _why(school: School) -> str:
    return "\n\n".join(f"{way.title}: {way.right_when}" for way in school.ways)


class RunPage(QWidget):
    def __init__(self, context: StationContext) -> None:
        super().__init__()
        self._context, self._job = context, Job()
        self._plan: Plan | None = None
        self._proof: tuple[Plan, QPixmap] | None = None
        self._state: model.RunState | None = None
        self._is_planned_so, self._is_current = True, False
        self.counting = Counting(context, self.begin, self._ended)
        self.own_table = RunBoard(self.counting.stop)
        self.own_table.asked.connect(self.do)
        self.own_table.timed.connect(self.start_timer)
        self.table_is = Choice("Show", (("card", "Run card"), ("shirt", "Shirt")))
        self.table_is.show_value("card")
        self.table_is.chosen.connect(self._show_table)
        self._shown = "card"
        self.handing = HandingOver(context)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 10, 0)
        layout.setSpacing(8)
        parts = (self.table_is, self.counting, self._others(), self._paper(), rule(), *self._pressing())
        folds = side_by_side(Fold("Hand over", self.handing), self.counting.measured())
        for item in (*parts, folds):
            layout.addWidget(item)
        self.maker = label("", "quiet", wrap=True)
        layout.addWidget(self.maker)
        layout.addStretch(1)
        context.log.runs_changed.connect(self._show_run)
        context.log.ticked.connect(self._tick)

    def _others(self) -> QWidget:
        self.others = label("", "effect", wrap=True)
        self.take_up = button("Open it", "low")
        self.take_up.clicked.connect(self._take_up_other)
        self._others_line = row(self.others, self.take_up)
        self._others_line.layout().setStretch(0, 1)  # type: ignore[union-attr]
        return self._others_line

    def _pressing(self) -> list[QWidget]:
        """The two schools, and heat and time of the press."""
        self.peel, self.presses = choose(self._context, "at_press.peel"), choose(self._context, "at_press.presses")
        self.peel_field = Field("Peel", self.peel, _why(PEEL))
        self.presses_field = Field("Presses", self.presses, _why(PRESSES))
        self.heat, self.time = TextField("Press at"), TextField("Press for")
        self.heat.feed(lambda text: self._apply(model.heat_edit(text, self._context.preferences())))
        self.time.feed(lambda text: self._apply(model.time_edit(text)))
        self.heat_unit = Choice("Heat in", (("c", "°C"), ("f", "°F")))
        self.heat_unit.chosen.connect(lambda key: self._prefer(fahrenheit=key == "f"))
        self.pressure_unit = Choice("Pressure in", (("words", "words"), ("bar", "bar")))
        self.pressure_unit.chosen.connect(lambda key: self._prefer(bar=key == "bar"))
        press = row(self.heat, label("for"), self.time)
        self.press_field = Field("Press at", press, _WHY_PRESS)
        return [self.peel_field, self.presses_field, self.press_field, row(self.heat_unit, self.pressure_unit)]

    def _paper(self) -> QWidget:
        self.card = button("Card…", "", "download", "The card as a page of PDF")
        self.card.clicked.connect(self.choose_card)
        self.paper = Choice("Paper", (("a4", "A4"), ("letter", "Letter")))
        self.paper.chosen.connect(lambda key: self._prefer(paper=key))
        self.sound = Tick("Sound")
        self.sound.setToolTip("Timers ring when they have run down")
        self.sound.toggled.connect(lambda on: self._prefer(sound=on))
        return row(self.card, self.paper, 1, self.sound)

    @property
    def shows_own_table(self) -> bool:
        """Whether the card lies on the table, in the place of the shirt."""
        return self._job.file is not None and self._shown == "card"

    def _show_table(self, key: str) -> None:
        self._shown = key
        self.table_is.show_value(key)
        self._context.show_table()

    def _apply(self, edit: Edit) -> None:
        self._context.apply(edit)

    def _prefer(self, **changes: object) -> None:
        self._context.prefer(**changes)
        self.render_job(self._job, self._plan, None)

    # the run

    def run(self) -> Run | None:
        """The run of the line at hand."""
        return self._context.log.runs.of(self._job)

    def begin(self) -> None:
        """Begin the run of the line at hand."""
        if self._plan is None or not self._is_current:
            return
        try:
            self._context.log.runs.begin(self._job, self._plan, self._context.path())
        except StoreError as error:
            self._context.tell(str(error))
            return
        self.own_table.setFocus()

    def count_good(self) -> None:
        """One more is good; where no run is open, it begins."""
        if self.run() is None:
            self.begin()
        else:
            self.counting.count_good()

    def do(self, what: str) -> None:
        """What a key or a command asks for."""
        acts = {
            "good": self.count_good, "spoiled": self.counting.count_spoiled, "count-back": self.counting.take_back,
            "rest": self.counting.pause, "end-run": self.counting.finish, "card": self.choose_card,
        }  # fmt: skip
        acts[what]()

    def start_timer(self, at: int) -> None:
        """Start the timer of a step; one of it that has run down is stopped instead."""
        run = self.run()
        if run is None:
            self.begin()
            run = self.run()
        if run is None or self._state is None:
            return
        step, now = self._state.made.steps[at], self._context.log.runs.now()
        key = step.key or str(step.number)
        running = [timer for timer in run.record.timers if timer.step == key]
        over = [timer for timer in running if timer.expected_s is None or (timer.left_s(now) or 0) <= 0]
        if over:
            self.counting.stop(over[0])
        else:
            self._context.log.runs.start_timer(run.uid, step)

    def _ended(self, run: Run) -> None:
        """The roll is counted down, and the entry shown as soon as the book has it."""
        told = count_down(self._job, run.entry, run.record)
        self._context.open_entry(run.uid)
        if told:
            self._context.tell(told)

    def _take_up_other(self) -> None:
        others = [run for run in self._context.log.runs.all() if run is not self.run()]
        if others:
            self._context.take_up_run(others[0])

    # the card on paper

    def choose_card(self) -> None:
        path, _ = save_name(self, "Run card", f"{self._job.name} – card.pdf", "PDF (*.pdf)")
        if path:
            self.write_card(Path(path))

    def write_card(self, path: Path) -> None:
        """Write the card as PDF."""
        from swaddon.session.card_files import write_card_file

        plan, job, preferences = self._plan, self._job, self._context.preferences()
        if plan is None or not self._is_current:
            return
        target = path if path.suffix.lower() == ".pdf" else path.with_name(path.name + ".pdf")
        made_from = self._context.path()
        self._context.log.acts.do(
            lambda _tell: write_card_file(target, job, plan, preferences, made_from), failed=self._context.tell
        )

    # rendering

    def render_job(self, job: Job, plan: Plan | None, _yardstick: Plan | None) -> None:
        self.table_is.button_for("shirt").setText(job.ware.piece.capitalize())
        self._job, self._plan = job, plan
        preferences = self._context.preferences()
        state = self._state = model.run_state(job, plan, preferences)
        self.handing.show_state(job, plan, state)
        known = {school.key for school, _ in state.schools}
        self.peel_field.setVisible("peel" in known)
        self.presses_field.setVisible("presses" in known)
        self.peel.show_value(job.settings.at_press.peel)
        self.presses.show_value(job.settings.at_press.presses)
        self._show_schools(state)
        self.press_field.setVisible(bool(state.heat or state.time))
        self.press_field.show_title(state.heat_of)
        self.heat.show_value(state.heat)
        self.time.show_value(state.time)
        self.heat_unit.show_value("f" if preferences.fahrenheit else "c")
        self.pressure_unit.show_value("bar" if preferences.bar else "words")
        self.paper.show_value(preferences.paper)
        self.sound.show_value(preferences.sound)
        self._is_current = plan is not None and model.is_planned(job, plan)
        self.card.setEnabled(self._is_current)
        self.maker.setText(state.maker)
        self._show_card(state)
        run = self.run()
        self._is_planned_so = run is None or run.is_planned_so(job)
        self._show_run()

    def _show_schools(self, state: model.RunState) -> None:
        """Under each school the way that is gone, and when it is right."""
        for school, way in state.schools:
            field = self.peel_field if school.key == "peel" else self.presses_field
            found = school.way(way)
            field.show_effect(f"{found.title}. {found.right_when.partition('. ')[0].partition(': ')[0].rstrip('.')}.")

    def _show_card(self, state: model.RunState) -> None:
        board, job = self.own_table, self._job
        line = job.line.title
        board.title.show_text(f"{state.title} · {line}" if line else state.title)
        board.show_steps(state.steps)
        board.marks.setText(" · ".join(state.made.marks))
        unit: LengthUnit = "in" if self._context.preferences().inches else "mm"
        board.where.setText(f"{state.made.placing.place}: {state.made.placing.words(unit)}. {state.press}.")
        board.placing.show_line(job.line, state.made.placing, self._proof_of(), unit == "in", board.where.text())

    def _proof_of(self) -> QPixmap | None:
        """The proof of the plan; drawn once for each."""
        if self._plan is None:
            return None
        if self._proof is None or self._proof[0] is not self._plan:
            self._proof = self._plan, QPixmap.fromImage(image_from(small_proof(self._plan, _PROOF_PX)))
        return self._proof[1]

    def _tick(self) -> None:
        if self.own_table.isVisible():
            self._show_run()

    def _show_run(self) -> None:
        """Counts and timers, as they are now."""
        board, run = self.own_table, self.run()
        self.counting.show_run(run, may_begin=self._is_current, is_planned_so=self._is_planned_so)
        others = [other for other in self._context.log.runs.all() if other is not run]
        self._others_line.setVisible(bool(others))
        if others:
            more = f" and {len(others) - 1} more" if len(others) > 1 else ""
            self.others.setText(f"Also open: {others[0].title}{more}")
        board.bar.setVisible(run is not None)
        board.told.setVisible(run is not None)
        board.count.setVisible(run is not None)
        if run is None or self._state is None:
            board.timers.show_timers((), ())
            return
        now = self._context.log.runs.now()
        state = model.count_state(run, now)
        board.count.setText(f"{state.good} of {state.wanted}")
        board.bar.show_pieces(state.good, state.lost, state.wanted, state.reasons)
        rest = "resting" if state.is_paused else f"{state.took} at work"
        board.told.show_text(f"{state.told} · {rest}" + (f" · {state.reasons}" if state.reasons else ""))
        board.timers.show_timers(run.record.timers, [model.timer_state(timer, now) for timer in run.record.timers])
