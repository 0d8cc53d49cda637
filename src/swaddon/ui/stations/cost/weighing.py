"""The weigh-in on the bench: rows are kept per press, refitted in the background, and taken into the job's press."""

import datetime
from collections.abc import Sequence
from dataclasses import replace
from pathlib import Path

from PySide6.QtWidgets import QFileDialog

from swaddon.core.errors import PlanError, sentence
from swaddon.core.press.profile import PressProfile
from swaddon.core.shop.next_print import Candidate, patches
from swaddon.core.shop.weighing import Print
from swaddon.io.patches import write_patches
from swaddon.io.weighings import HEADS, Planned, cells_for, rows_in, table_from, write_rows_of
from swaddon.session import kept_weighings
from swaddon.session.costs import Costed
from swaddon.session.job import Job
from swaddon.session.kept_weighings import Cells
from swaddon.session.price_change import take_prices
from swaddon.session.scales import ScaleChoice, WeighingBench
from swaddon.session.weigh_ins import Told, taken, told_by
from swaddon.ui.saving import save_name
from swaddon.ui.scale_chooser import choose_scale
from swaddon.ui.station_spec import StationContext
from swaddon.ui.stations.cost import weigh_model
from swaddon.ui.stations.cost.weigh_part import WeighPart
from swaddon.ui.stations.cost.weigh_table import WeighTable
from swaddon.ui.table_dialog import TableDialog

_MOST_PUT_BY = 20
_SHOWN = tuple(key.replace("_", " ") for key in HEADS)


class WeighIns:
    """Weights of a press: the sheet's part, the table's part, and what goes between them."""

    def __init__(self, context: StationContext) -> None:
        self._context = context
        self._job, self._costed = Job(), None  # type: Job, Costed | None
        self._press = ""
        self._print: tuple[int, Print] | None = None
        self._typed: list[tuple[tuple[int, Print], dict[str, str]]] = []
        self.rows: tuple[Cells, ...] = ()
        self.told: Told | None = None
        self.choice = ScaleChoice()
        self._bench: WeighingBench | None = None
        self.table = WeighTable(self.take, self.step_back)
        actions = {
            "Edit …": self.edit,
            "From CSV …": self._choose_in,
            "To CSV …": self._choose_out,
            "Patches …": self._routine,
        }
        self.sheet = WeighPart(self.add, self.weigh, self._choose_scale, actions)

    # the print at hand

    def add(self) -> None:
        """Put what was weighed and timed to the table."""
        if self._costed is None or not self._is_of_the_job():
            return
        name = self.sheet.name.text().strip() or self._job.name
        self.rows = kept_weighings.kept_rows(self._press)
        try:
            row = weigh_model.new_row(
                name, self.sheet.count.text(), self.sheet.typed(), self.sheet.seconds.text(), self._costed
            )
            self._check((*self.rows, row))
        except ValueError as error:
            self.sheet.tell(sentence(error))
            return
        self.sheet.clear_fields()
        self.keep((*self.rows, row))

    def _is_of_the_job(self) -> bool:
        """Whether what the plan tells is of the job as it stands; told where it is not."""
        if not self._context.is_planned():
            self._context.tell("The print is being planned: put its weights in the table in a moment.")
            return False
        return True

    def _take_up(self, costed: Costed) -> None:
        """Bring what was typed for this print to hand, and put by what was typed for another job, size or white."""
        of = self._context.uid(), Print.of(costed.used)
        if of == self._print:
            return
        typed = self.sheet.all_typed()
        if self._print is not None and typed:
            self._typed = [*self._typed, (self._print, typed)][-_MOST_PUT_BY:]
        if self._print is None or self._print[0] != of[0]:
            self.sheet.name.revert()
        held = next((texts for print_, texts in self._typed if print_ == of), {})
        self._typed = [item for item in self._typed if item[0] != of]
        self._print = of
        self.sheet.put(held)
        if typed and not held:
            self.sheet.tell("What was typed is of the print of before: it comes back with that job, size and white.")

    def _check(self, rows: Sequence[Cells]) -> None:
        """Refuse rows that cannot be read; raises ``ValueError``."""
        press = self._job.profile
        if press is not None:
            table_from(_filled(rows), press, _unknown_plan)

    def weigh(self, step: str) -> None:
        """Read a weight off the scale, in the background."""
        costed, press = self._costed, self._job.press
        if costed is None or press is None:
            return
        try:
            bench = self._weighing_bench(press)
            typed = {key: weigh_model.grams(text, key) for key, text in self.sheet.typed().items()}
            count = int(self.sheet.count.text() or "1")
        except (PlanError, ValueError) as error:
            self.sheet.tell(sentence(error))
            return
        before = {key: value for key, value in typed.items() if value is not None}
        of = self._print

        def done(found: float) -> None:
            if self._print != of:
                return  # it is the weight of another print
            self.sheet.tell("")
            self.sheet.fields[step].setText(f"{found:.2f}")

        self._context.in_background(lambda: bench.weigh(step, costed.used, before, count), done)

    def _weighing_bench(self, press: PressProfile) -> WeighingBench:
        if self._bench is None:
            self._bench = WeighingBench(self.choice, press)
        return self._bench

    def _choose_scale(self) -> None:
        choose_scale(self.sheet.scale, self.choice, self.use_scale)

    def use_scale(self, choice: ScaleChoice) -> None:
        """Weigh with another scale."""
        if self._bench is not None:
            self._bench.close()
        self._bench, self.choice = None, choice
        self._show()

    # the table

    def keep(self, rows: Sequence[Cells]) -> None:
        """Keep these rows of the press, and refit it to them."""
        kept_weighings.keep_rows(self._press, rows)
        self.rows = kept_weighings.kept_rows(self._press)
        self.sheet.tell("")
        self._refit()

    def edit(self) -> None:
        """Edit the whole table."""
        empty = cells_for("print", Planned(Print({}, 0.0)))
        dialog = TableDialog(self.sheet, "Weighed prints", _SHOWN, self.rows, self._take_rows, empty)
        dialog.resize(960, 480)
        dialog.table.horizontalHeader().setSectionResizeMode(0, dialog.table.horizontalHeader().ResizeMode.Interactive)
        dialog.table.setColumnWidth(0, 180)
        dialog.open()

    def _take_rows(self, rows: list[Cells]) -> None:
        self._check(rows)
        self.keep(rows)

    def _choose_in(self) -> None:
        name, _ = QFileDialog.getOpenFileName(self.sheet, "Weights from CSV", "", "Tables (*.csv *.tsv *.txt)")
        if name:
            self.read(Path(name))

    def read(self, path: Path) -> None:
        """Add the rows of a file to the table."""
        try:
            rows = (*self.rows, *rows_in(path))
            self._check(rows)
        except (PlanError, ValueError) as error:
            self.sheet.tell(sentence(error))
            return
        self.keep(rows)

    def _choose_out(self) -> None:
        name, _ = save_name(self.sheet, "Weights to CSV", "weighings.csv", "Tables (*.csv)")
        if name:
            try:
                write_rows_of(Path(name), self.rows)
            except PlanError as error:
                self.sheet.tell(str(error))

    def _routine(self) -> None:
        name = QFileDialog.getExistingDirectory(self.sheet, "Folder for the patches of the routine")
        if name:
            self.write_routine(Path(name))

    def write_routine(self, folder: Path) -> None:
        """Write the patches to print, and put a row for each into the table, to be weighed."""
        press = self._job.profile
        if press is None:
            return
        try:
            written = write_patches(folder, press)
        except PlanError as error:
            self.sheet.tell(str(error))
            return
        held = {row[0] for row in self.rows}
        new = [cells_for(item.name, Planned(item.of)) for item in patches(press) if item.name not in held]
        self.keep((*self.rows, *new))
        self._context.tell(f"{len(written)} files written to {folder}: print each, weigh it, and fill in its row.")

    # what it tells

    def _refit(self) -> None:
        press, rows = self._job.profile, _filled(self.rows)
        self.told = None
        if press is None or not rows:
            self._show()
            return
        others = () if self._costed is None else (Candidate(self._job.name, Print.of(self._costed.used)),)

        def work() -> Told | str:
            try:
                return told_by(table_from(rows, press, _unknown_plan), press, others)
            except (PlanError, ValueError) as error:
                return sentence(error)

        def done(found: Told | str) -> None:
            if rows != _filled(self.rows):
                return
            self.told = None if isinstance(found, str) else found
            self._show(found if isinstance(found, str) else "")

        self._context.in_background(work, done)

    def take(self) -> None:
        """Take the constants into the job's press: one step of undo."""
        press = self._job.profile
        if self.told is None or press is None:
            return
        today = datetime.date.today()
        try:
            made = taken(replace(self.told, press=press), f"weigh-in of {len(_filled(self.rows))} rows", today)
        except PlanError as error:
            self.sheet.tell(str(error))
            return
        self._context.apply(take_prices(made, "Take the weighed constants"))

    def step_back(self) -> None:
        """Back to the constants before the last weigh-in."""
        press = self._job.profile
        edit = None if press is None else weigh_model.step_back(press)
        if edit is not None:
            self._context.apply(edit)

    # rendering

    def show_job(self, job: Job, costed: Costed | None) -> None:
        """The print at hand; another press has a table of its own."""
        self._job, self._costed = job, costed
        press = "" if job.profile is None else job.profile.name
        is_another = press != self._press
        if is_another:
            self.use_scale(self.choice)
            self._press = press
        rows = kept_weighings.kept_rows(press) if press else ()
        if is_another or rows != self.rows:  # another program may have added some
            self.rows = rows
            self._refit()
        if costed is not None and self._context.is_planned():
            self._take_up(costed)
        if not self.sheet.name.is_typed:
            self.sheet.name.show_value(job.name)
        self._show()

    def _show(self, problem: str = "") -> None:
        press = self._job.profile
        self.sheet.show_press(press, self.choice)
        self.sheet.show_rows(weigh_model.row_views(self.rows, self.told))
        more = press is not None and weigh_model.tells_more(self.told, press)
        self.table.show_actions(more, press is not None and bool(press.weighed))
        self.table.show_told(self.told, problem, press)


def _filled(rows: Sequence[Cells]) -> tuple[Cells, ...]:
    """Rows that have a weight or a time; others wait to be filled in."""
    return tuple(row for row in rows if weigh_model.is_filled(row))


def _unknown_plan(text: str) -> Planned:
    raise PlanError(
        f"“{text}” names a plan: on the bench a row has areas; weigh the job’s own print, or use the command"
    )
