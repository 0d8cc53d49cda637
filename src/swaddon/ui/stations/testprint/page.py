"""The Test print sheet: its page, its scan, and what it tells of the press."""

import datetime
from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QFileDialog, QVBoxLayout, QWidget

from swaddon.core.errors import PlanError
from swaddon.core.plan.stages import Plan
from swaddon.core.testprint.constants import ByEye, Constant, constants_of
from swaddon.session import kept_tests, testing
from swaddon.session.answer import Answer
from swaddon.session.job import Job
from swaddon.session.watching import ScanFolder
from swaddon.ui import settling
from swaddon.ui.fields import TextField
from swaddon.ui.saving import save_name
from swaddon.ui.station_spec import StationContext
from swaddon.ui.stations.testprint import model
from swaddon.ui.stations.testprint.by_eye import ByEyePart
from swaddon.ui.stations.testprint.constants_list import ConstantsList
from swaddon.ui.stations.testprint.history import HistoryPart
from swaddon.ui.stations.testprint.page_table import PageTable
from swaddon.ui.stations.testprint.read_part import ReadPart
from swaddon.ui.widgets import Choice, Field, Popover, button, column, label, row

_WHY = (
    "One page measures the press. Save it, print it at 100 % on a black card or black cloth (a press without white: on "
    "white paper) as you print everything, scan it flat in colour at 600 ppi without any correction, best in a wide "
    "colour space, and open the scan. No press at hand? The simulated one prints it with faults of its own."
)
_KINDS = "Test page (*.pdf *.tif *.png)"
_SCANS = "Scans (*.png *.tif *.tiff *.jpg *.jpeg)"
_LOOK_MS = 1200


class TestPrintPage(QWidget):
    __test__ = False

    def __init__(self, context: StationContext) -> None:
        super().__init__()
        self._context, self._job = context, Job()
        self._plan: Plan | None = None
        self.test: testing.ReadTest | None = None
        self._of = ""
        self._eye = ByEye()
        self._ticks: dict[str, bool] = {}
        self._effect = Answer[str]()
        self._folder = ScanFolder()
        self._watched: Path | None = None
        self._look = QTimer(self)
        self._look.setInterval(round(_LOOK_MS * settling.SHARE))
        self._look.timeout.connect(self._look_into_folder)
        self.own_table = PageTable()
        self._build()

    @property
    def shows_own_table(self) -> bool:
        """Whether the page lies on the table in the place of the shirt."""
        return self._job.profile is not None and self.own_table.accessibleDescription() != ""

    def _build(self) -> None:
        self.save = button("Save page…", "", "", "As PDF, TIFF or PNG at true size")
        self.save.clicked.connect(self._choose_page)
        self.open = button("Open scan…", "primary", "", "PNG, TIFF or JPEG of the printed page")
        self.open.clicked.connect(self._choose_scan)
        self.watch = button("Watch a folder…", "link", tip="Read every scan that comes into a folder")
        self.watch.clicked.connect(self._choose_folder)
        self.simulate = button("Simulated press…", "link", tip="Print the page on a press with hidden faults")
        self.simulate.clicked.connect(self._ask_seed)
        self.status = label("", "effect", wrap=True)
        head = column(row(self.save, self.open), row(self.watch, 1, self.simulate), self.status)
        kinds = (("read", "Scan"), ("constants", "Constants"), ("eye", "By eye"), ("press", "Over time"))
        self.part = Choice("Show", kinds, columns=2)
        self.part.chosen.connect(self.show_part)
        self.read_part = ReadPart()
        self.eye_part = ByEyePart(self._typed)
        self.history_part = HistoryPart(self._set_days, self._save_profile)
        self.shown = "read"
        self.constants = ConstantsList(self._ticked, self._take, self._ask_effect)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 10, 0)
        layout.setSpacing(8)
        layout.addWidget(Field("The page", head, _WHY))
        for widget in (self.part, self.read_part, self.eye_part, self.constants, self.history_part):
            layout.addWidget(widget)
        layout.addStretch(1)
        self.show_part("read")

    # the page and its scan

    def _choose_page(self) -> None:
        name, _ = save_name(self, "Save the test page", "test-page.pdf", _KINDS)
        if name:
            self.save_to(Path(name))

    def save_to(self, path: Path) -> None:
        """Write the page of the job's press in the background."""
        press = self._job.press
        if press is None:
            return
        target = path if path.suffix else path.with_name(path.name + ".pdf")
        self._context.work(
            lambda progress: testing.save_page(target, press, self._today(), progress),
            lambda files: self._context.tell(
                f"Test page written to {target} ({len(files)} file{'s'[: len(files) > 1]})."
            ),
        )

    def _choose_scan(self) -> None:
        name, _ = QFileDialog.getOpenFileName(self, "Open the scan of a test page", "", _SCANS)
        if name:
            self.open_scan(Path(name))

    def open_scan(self, path: Path) -> None:
        """Read a scan in the background; what is wrong with it is told."""
        press, of = self._job.press, self._of
        if press is not None:
            self._context.work(
                lambda progress: testing.read_file(path, press, progress), lambda test: self._show_test(test, of)
            )

    def _ask_seed(self) -> None:
        seed = TextField("Which simulated press, 0 to 9999")
        seed.show_value("1")
        seed.setFixedWidth(72)
        go = button("Print and scan it", "primary")
        text = "Each number is another press with faults of its own: bottles, place of white, nozzles, gain, opacity."
        content = column(label(text, wrap=True), row(label("Press number"), seed, 1, go))
        popover = Popover(self.simulate, content)
        seed.setFocus()

        def run() -> None:
            try:
                number = model.seed_of(seed.text())
            except ValueError as error:
                seed.refuse(f"{error}.")
                return
            popover.close()
            self.print_on_simulated(number)

        go.clicked.connect(run)
        seed.returnPressed.connect(run)

    def print_on_simulated(self, seed: int) -> None:
        """Print the page on the simulated press of a seed, scan it and read it, in the background."""
        press, day, of = self._job.press, self._today(), self._of
        if press is None:
            return

        def work(progress: testing.Progress) -> testing.ReadTest:
            scanned = testing.simulate(press, seed, day, progress)
            return testing.read_test(scanned, press, f"simulated press {seed}", progress)

        self._context.work(work, lambda test: self._show_test(test, of))

    def _show_test(self, test: testing.ReadTest, of: str) -> None:
        """A reading has come; it is for the press that was asked for."""
        testing.keep_reading(test, self._today())
        self._context.shop_changed()
        if of != self._of:
            return
        self.test, self._ticks = test, {}
        self.own_table.show_page(test.sent, test.scanned)
        self.show_part("read")
        self._render()
        self._context.show_table()

    # a watched folder

    def _choose_folder(self) -> None:
        if self._watched is not None:
            self._watch_no_more()
            return
        name = QFileDialog.getExistingDirectory(self, "Watch a folder for scans")
        if name:
            self.watch_folder(Path(name))

    def watch_folder(self, folder: Path) -> None:
        """Read what comes into a folder from now on."""
        try:
            self._folder.begin(folder)
        except PlanError as error:
            self._context.tell(str(error))
            return
        self._watched = folder
        self._look.start()
        self._render()

    def _watch_no_more(self) -> None:
        self._watched = None
        self._folder.end()
        self._look.stop()
        self._render()

    def _look_into_folder(self) -> None:
        """Read every scan that has come, in the order in which they came."""
        try:
            for path in self._folder.new_scans():
                self.open_scan(path)
        except PlanError as error:
            self._watch_no_more()
            self._context.tell(str(error))

    # constants

    def show_part(self, key: str) -> None:
        """The scan, its constants, what the eye says, or the press over time."""
        self.shown = key
        self.part.show_value(key)
        for name, widget in (("read", self.read_part), ("eye", self.eye_part), ("press", self.history_part)):
            widget.setVisible(name == key)
        self._render()

    def _constants(self) -> tuple[Constant, ...]:
        if self._job.profile is None:
            return ()
        if self.shown == "eye":
            return model.eye_constants(self._eye, self._job.profile)
        if self.shown != "constants" or self.test is None:
            return ()
        return constants_of(self.test.reading, self._job.profile)

    def _typed(self, name: str, text: str) -> None:
        """What was typed in a field; raises ``ValueError`` with one sentence, which the field shows."""
        eye = model.with_typed(self._eye, name, text)
        if self._job.profile is not None:
            model.eye_constants(eye, self._job.profile)
        self._eye = eye
        self._render()

    def _ticked(self, key: str, on: bool) -> None:
        self._ticks[key] = on
        self._render()

    def _take(self) -> None:
        chosen = model.chosen(self._constants(), self._ticks)
        if self._job.profile is None or not chosen:
            return
        by_eye = self.shown == "eye"
        try:
            edit = testing.accept(self._job.profile, chosen, self._source(), self._today())
        except PlanError as error:
            self._context.tell(str(error))
            return
        if by_eye:
            testing.keep_by_eye(self._job.profile, chosen, self._today())
        self._context.shop_changed()
        self._context.apply(edit)

    def _source(self) -> str:
        if self.shown == "eye" or self.test is None:
            return "test print, read by eye"
        return f"test print of {self.test.reading.day.isoformat()}, {self.test.source}"

    def _question(self) -> tuple[Job, tuple[Constant, ...], str]:
        """The job as it stands, the ticked constants, and where they come from."""
        return self._context.job(), model.chosen(self._constants(), self._ticks), self._source()

    def _ask_effect(self) -> None:
        """Plan the job with the ticked constants, in the background, and tell what changes."""
        plan, question = self._plan, self._question()
        self._effect.ask(question)
        job, chosen, source = question
        if plan is None or job.profile is None or not chosen:
            return
        if not self._context.is_planned():
            self._context.tell("The job is being planned: what it changes can be told in a moment.")
            return
        press, day = job.profile, self._today()

        def work(progress: testing.Progress) -> str:
            from swaddon.core.engine import Cache, Run
            from swaddon.session.effects import effects

            measured = testing.taken(press, chosen, source, day)
            found = effects(job, plan, measured, Run(Cache(), progress=progress))
            return "In this job:\n" + "\n".join(item.text for item in found)

        def done(text: str) -> None:
            self._effect.ask(self._question())
            if self._effect.take(question, text):
                self._render()

        self._context.work(work, done)

    # over time

    def _set_days(self, days: int) -> None:
        if self._job.profile is not None:
            kept_tests.keep_days(self._job.profile.name, days)
            self._context.shop_changed()

    def _save_profile(self) -> None:
        press = self._job.profile
        if press is None:
            return
        name, _ = save_name(self, "Save the press profile", f"{press.name}.toml", "Profile (*.toml)")
        if name:
            from swaddon.io.fitted import write_profile

            try:
                write_profile(Path(name), press.source)
            except PlanError as error:
                self._context.tell(str(error))

    @staticmethod
    def _today() -> datetime.date:
        return datetime.date.today()

    # rendering

    def render_job(self, job: Job, plan: Plan | None, _yardstick: Plan | None) -> None:
        self._job, self._plan = job, plan
        press = job.press
        of = "" if press is None else f"{press.name}: {' '.join(slot.ink for slot in press.slots)}"
        if of != self._of:
            self._of, self.test, self._ticks, self._eye = of, None, {}, ByEye()
            self.own_table.clear()
            self._context.show_table()
            if press is not None:
                day = self._today()
                self._context.in_background(
                    lambda: testing.sent_picture(press, day), lambda sent: self._show_sent(sent, of)
                )
        self._render()

    def _show_sent(self, sent: NDArray[np.uint8], of: str) -> None:
        """The page of a press was drawn; it lies on the table until a scan does."""
        if of == self._of and self.test is None:
            self.own_table.show_page(sent, None)
            self._context.show_table()

    def _render(self) -> None:
        has_press = self._job.profile is not None
        for widget in (self.save, self.open, self.simulate, self.watch):
            widget.setEnabled(has_press)
        self.watch.setText("Watch a folder…" if self._watched is None else "Stop watching")
        told = "" if self._watched is None else f"Watching {self._watched}"
        if self.test is not None:
            told = model.read_state(self.test).title
        self.status.setText(told or model.what_to_do(self._job.press))
        self.read_part.show_state(None if self.test is None else model.read_state(self.test))
        self.eye_part.show_eye(self._eye, self._job.press)
        if self._job.profile is not None and self.shown == "press":
            name = self._job.profile.name
            shown = model.history(self._job, kept_tests.tests_of(name), kept_tests.days_of(name), self._today())
            self.history_part.show_history(shown)
        constants = self._constants()
        self.constants.setVisible(bool(constants))
        if constants and self._job.profile is not None:
            states = model.rows(constants, self._job.profile, self._ticks)
            self._effect.ask(self._question())
            self.constants.show_rows(states, self._plan is not None, self._effect.current or "")
