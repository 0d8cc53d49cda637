"""The gang on the bench: prints are planned and laid in the background, and the sheet gets shorter as one looks on."""

from collections.abc import Callable, Sequence
from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray
from PySide6.QtWidgets import QFileDialog

from swaddon.core.engine import Run
from swaddon.core.sheet.gang import Gang, Spot
from swaddon.core.sheet.media import Medium
from swaddon.session import shop
from swaddon.session.answer import Answer
from swaddon.session.job import Job
from swaddon.session.session import Edit
from swaddon.session.sheet_edits import can_share, change_sheet, lay_anew, medium_of, place, wanted_of
from swaddon.session.sheet_files import cut_lines, write_sheets
from swaddon.session.sheet_prints import PrintMaker
from swaddon.session.sheets import SheetPlan, SheetWork, by_hand, placed_of, shares, taken
from swaddon.session.side_work import Tell
from swaddon.ui.job_work import JobWork
from swaddon.ui.media_table import MediaTable
from swaddon.ui.settling import settling
from swaddon.ui.station_spec import StationContext
from swaddon.ui.stations.sheet import model
from swaddon.ui.stations.sheet.film_table import FilmTable
from swaddon.ui.stations.sheet.gang_part import GangPart

_SETTLE_MS = 350

Cuts = dict[int, list[NDArray[np.float64]]]
Laid = tuple[SheetPlan, Cuts]


def _with_cuts(plan: SheetPlan, check: Callable[[], None] = lambda: None) -> Laid:
    return plan, {number: cut_lines(plan, number, check) for number in range(1, plan.gang.sheets + 1)}


class Ganging(JobWork):
    """What is asked of the sheet, and what lies on it."""

    def __init__(self, context: StationContext) -> None:
        super().__init__(context)
        self._maker = PrintMaker()
        self._others: set[int] = set()
        self._answer = Answer[SheetPlan]()
        self._work: SheetWork | None = None
        self._is_due = self.is_shown = self._is_stopped = False
        self._problem = ""
        self.table = FilmTable()
        self.table.progress.stop.clicked.connect(self.stop)
        self.table.film.placed.connect(self._placed)
        self.table.film.told.connect(self._point)
        self.sheet = GangPart(
            self._change, context.end_drag, self._share_with, self.use, self._choose_folder, self._anew, self.longer,
            lambda item: self.table.film.go_to(item.sheet - 1, item.x_mm, item.y_mm),
        )  # fmt: skip
        self.sheet.edit.clicked.connect(self.edit_media)
        self._later = settling(self.table, _SETTLE_MS, self._lay)

    # what is asked

    def _change(self, merge_key: str | None, **values: Any) -> None:
        self._context.apply(change_sheet(merge_key, **values))

    def edit_media(self) -> MediaTable:
        """Open the shop's table of media."""
        dialog = MediaTable(self.sheet, shop.media(), self._keep_media)
        dialog.open()
        return dialog

    def _keep_media(self, media: Sequence[Medium]) -> None:
        shop.keep_media(media)
        self.show()

    def _share_with(self, uid: int, on: bool) -> None:
        (self._others.add if on else self._others.discard)(uid)
        self.show()

    def _anew(self) -> None:
        """Lay again: what was stopped, or as if none had been moved."""
        if self._job.sheet.placed:
            self._context.apply(lay_anew())
            return
        self._is_due, self._is_stopped = True, False
        self.show()

    def _placed(self, gang: Gang) -> None:
        if self.plan is not None:
            self._context.apply(place(placed_of(self.plan, gang)))

    def shared_with(self) -> list[tuple[int, Job]]:
        """Other open jobs that lie on the sheet."""
        return [
            (uid, job)
            for uid, job in self._context.jobs_by_uid()
            if uid in self._others and job is not self._job and not can_share(self._job, job)
        ]

    # what is told

    def show(self) -> None:
        """Show what is known, and lay the prints where something has changed."""
        job, media = self._job, [item for item in shop.media() if item.kind != "plate"]
        medium = medium_of(job, media)
        self.sheet.show_settings(job.sheet, media, medium)
        others = [(uid, item) for uid, item in self._context.jobs_by_uid() if item is not job]
        rows = [(uid, item.name, can_share(job, item), uid in self._others) for uid, item in others if item.file]
        self.sheet.show_jobs(rows)
        bare = [(uid, _bare(item)) for uid, item in self.shared_with()]
        if self._answer.ask((_bare(job), medium, bare)):
            self._problem = ""
            self._context.sheets.cancel()
            self._is_stopped = False
            if job.file is None or (self.plan is not None and self.plan.laid[0].wanted.uid != self._context.uid()):
                self._let_go()  # there is nothing to lay, or it is another job's
            self._is_due = job.file is not None and not self.is_current and not self._is_only_moved()
        if self._is_due and self.is_shown:
            self._later.start()
        self._tell()

    def stop(self) -> None:
        """Lay no further, until one asks for it again; what was laid last stays."""
        self._is_stopped = True
        self._context.sheets.cancel()

    @property
    def plan(self) -> SheetPlan | None:
        """The sheet that is shown; an old one while another is laid."""
        return self._answer.last

    @property
    def is_current(self) -> bool:
        """Whether the sheet that is shown is that of the job as it is now."""
        return self._answer.is_current

    def _let_go(self) -> None:
        self._answer.forget()
        self._work = None
        self.table.film.show_plan(None, {})

    def _is_only_moved(self) -> bool:
        """Whether the job's prints lie just where the sheet that is shown has them; take it so if they can."""
        plan, placed = self.plan, self._job.sheet.placed
        if plan is None or not placed or plan.laid[0].wanted.uid != self._context.uid():
            return False
        now = [_unplaced(item) for _, item in self._wanted_jobs()]
        if now != [_unplaced(item.wanted.job) for item in _one_each(plan)]:
            return False
        made = by_hand(plan.laid, plan.gang.medium, self._job.sheet, plan)
        if made is None:
            return False
        self._take(self._answer.asked, _with_cuts(made))
        return True

    def _wanted_jobs(self) -> list[tuple[int, Job]]:
        return [(self._context.uid(), self._job), *self.shared_with()]

    def _tell(self) -> None:
        plan, current = self.plan, self._answer.current
        waiting = self._problem or ("" if self._job.file is None else "Planning the prints …")
        if self._is_stopped and not self.is_current:
            waiting = "Stopped before the prints were laid: Lay anew begins again."
        self.table.facts.setText(model.gang_words(plan, waiting, self.is_current))
        self.table.film.show_old(plan is not None and not self.is_current)
        self.table.saved.setText(model.saved_words(current))
        self.sheet.show_shares(model.job_rows(current))
        self.sheet.show_found(model.told(current))
        self._context.found_on_sheet(() if current is None else current.findings)
        self.sheet.enable(self.is_current, bool(self._job.sheet.placed) or self._is_stopped)
        share = None if self._job.profile is None else self._job.settings.share(self._job.profile)
        text = "" if share is None else f"Cost and time of this line are those of {share.medium}."
        self.sheet.used.setText(text)
        self.sheet.used.setVisible(bool(text))

    def _point(self, spot: Spot | None) -> None:
        plan = self.plan
        if plan is None or spot is None or spot not in plan.gang.spots:
            self.table.told.setText("")
            return
        self.table.told.setText(model.spot_words(plan, spot, self._context.uses_inches()))

    def _take(self, question: Any, found: Laid) -> None:
        """A sheet that was laid, where that is still what is asked."""
        plan, cuts = found
        if self._answer.take(question, plan):
            self.table.film.show_plan(plan, cuts)
            self._tell()

    # the background

    def _lay(self) -> None:
        """Plan and lay, newest wins; not while nobody looks."""
        if not self.is_shown or not self._is_due or not self.sheet.isVisible():
            return
        self._context.sheets.cancel()
        self._is_due = self._is_stopped = False
        job, medium, question = self._job, medium_of(self._job), self._answer.asked
        wanted, maker = wanted_of(job, self._context.uid(), self.shared_with()), self._maker

        def work(run: Run, step: Tell) -> Laid:
            laid = maker.laid(wanted, run)
            hand = by_hand(laid, medium, job.sheet) if job.sheet.placed else None
            if hand is not None:
                return _with_cuts(hand, run.check)
            search = SheetWork(laid, medium, job.sheet, run.check)
            self._work = search
            return _improved(search, run, step)

        self._start(work, question)

    def longer(self) -> None:
        """Search on from the sheet that is shown."""
        search, question = self._work, self._answer.asked
        if self._job.sheet.placed:
            self._context.tell("These prints were put by hand: press Lay anew to search.")
            return
        if search is None or not self.is_current:
            return
        self._start(lambda run, step: _improved(search, run, step), question)

    def _start(self, work: Any, question: Any) -> None:
        def take(found: Laid) -> None:
            self._take(question, found)

        def done(found: Laid) -> None:
            self.table.progress.show_progress("", 1.0)
            take(found)

        def failed(text: str) -> None:
            self.table.progress.show_progress("", 1.0)
            if question == self._answer.asked:
                self._problem = text
                self._let_go()
                self._tell()

        def stopped() -> None:
            self.table.progress.show_progress("", 1.0)
            # what was given up for something else is laid when it is shown again
            self._is_due = not self._is_stopped and not self.is_current
            self._tell()

        self.table.progress.show_progress("Planning the prints", 0.0)
        self._context.sheets.start(work, done, failed, take, self.table.progress.show_progress, stopped)

    # what becomes of it

    def _ready(self) -> SheetPlan | None:
        """The sheet, where it is that of what stands there at this moment; told where it is not."""
        self.show()
        if not self.is_current and self._job.file is not None:
            self._context.tell("The prints are being laid: the sheet can be used and written in a moment.")
        return self._answer.current

    def use(self) -> None:
        """Let the jobs on the sheet reckon with it: film, sheets and time; prints stay where they lie now."""
        plan = self._ready()
        if plan is None:
            return
        self._context.sheets.cancel()
        found, own = shares(plan), self._context.uid()
        placed = placed_of(plan, plan.gang)

        def both(job: Job) -> Job:
            made = taken(own, found).change(job)
            return replace(made, sheet=replace(made.sheet, placed=placed))

        self._answer.ask(None)
        for uid in {item.wanted.uid for item in plan.laid} - {own}:
            self._context.apply_to(uid, taken(uid, found))
        self._context.apply(Edit("Use this sheet", both))

    def _choose_folder(self) -> None:
        name = QFileDialog.getExistingDirectory(self.sheet, "Write the sheets to a folder")
        if name:
            self.write_to(Path(name))

    def write_to(self, folder: Path) -> None:
        """Write the sheets as they lie now, in the background."""
        plan, progress = self._ready(), self.table.progress
        if plan is None:
            return

        def done(report: dict[str, Any]) -> None:
            progress.show_progress("", 1.0)
            count = sum(len(sheet["files"]) for sheet in report["sheets"]) + 1
            self._context.tell(f"Wrote {count} files of {plan.gang.sheets} sheets to {folder}.")

        def failed(text: str) -> None:
            progress.show_progress("", 1.0)
            self._context.tell(text)

        def stopped() -> None:
            progress.show_progress("", 1.0)
            self._context.tell(f"The sheets were not finished: nothing was written to {folder}.")

        progress.show_progress("Writing sheets", 0.0)
        self._context.sheets.start(
            lambda run, _step: write_sheets(plan, folder, run), done, failed, progress=progress.show_progress,
            stopped=stopped,
        )  # fmt: skip


def _improved(search: SheetWork, run: Run, step: Tell) -> Laid:
    """The best after a usual number of steps; each better one is handed over."""
    best = search.plan
    step(_with_cuts(best, run.check))

    def better(plan: SheetPlan) -> None:
        nonlocal best
        if plan.gang.lengths_px != best.gang.lengths_px:
            best = plan
            step(_with_cuts(plan, run.check))

    return _with_cuts(search.improved(run, better=better), run.check)


def _one_each(plan: SheetPlan) -> list[Any]:
    """One print of each job, in their order."""
    first: dict[int, Any] = {}
    for item in plan.laid:
        first.setdefault(item.wanted.uid, item)
    return list(first.values())


def _unplaced(job: Job) -> Job:
    """A job without where its prints were put."""
    bare = _bare(job)
    return replace(bare, sheet=replace(bare.sheet, placed=()))


def _bare(job: Job) -> Job:
    """A job without what changes nothing on its sheet."""
    lines = tuple(replace(line, settings=replace(line.settings, sheet_share=None, drop_mm=0.0)) for line in job.lines)
    sheet = replace(job.sheet, plate="", overlap_mm=0.0, bent=True, dragged=())
    return replace(job.of_lines(lines, job.at).turned_to(0), sheet=sheet, quote=None, notices=())
