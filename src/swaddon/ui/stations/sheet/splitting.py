"""The split on the bench: seams are found in the background, and dragged by hand."""

from pathlib import Path
from typing import Any

from PySide6.QtWidgets import QFileDialog

from swaddon.core.engine import Run
from swaddon.core.findings.sheets import plate_findings
from swaddon.core.plan.stages import Plan
from swaddon.core.sheet.settings import DraggedPoint
from swaddon.core.sheet.split import press_plan
from swaddon.session import shop
from swaddon.session.answer import Answer
from swaddon.session.sheet_edits import (
    change_sheet,
    drag_seam,
    free_seam,
    medium_of,
    plate_of,
    use_split,
    whole_again,
)
from swaddon.session.sheet_files import KINDS
from swaddon.session.side_work import Tell
from swaddon.session.splits import SplitPlan, cut_plan, write_split
from swaddon.ui.job_work import JobWork
from swaddon.ui.settling import settling
from swaddon.ui.station_spec import StationContext
from swaddon.ui.stations.sheet import model
from swaddon.ui.stations.sheet.split_part import SplitPart
from swaddon.ui.stations.sheet.split_table import SplitTable

_SETTLE_MS = 120


class Splitting(JobWork):
    """What is asked of the seams, and where they run."""

    def __init__(self, context: StationContext) -> None:
        super().__init__(context)
        self._plan: Plan | None = None
        self._uid = 0
        self._answer = Answer[SplitPlan]()
        self._is_due = self.is_shown = self._is_stopped = False
        self._problem = ""
        self.table = SplitTable()
        self.table.progress.stop.clicked.connect(self.stop)
        self.table.seams.dragged.connect(self._dragged)
        self.sheet = SplitPart(
            self._change, context.end_drag, self._show_joint, self._free, self._choose_folder,
            self.use, lambda item: self.table.seams.go_to(0, item.x_mm, item.y_mm),
        )  # fmt: skip
        self._later = settling(self.table, _SETTLE_MS, self._cut)

    def _change(self, merge_key: str | None, **values: Any) -> None:
        self._context.apply(change_sheet(merge_key, **values))

    def _dragged(self, seam: int, x_mm: float, y_mm: float, ends: bool) -> None:
        point = DraggedPoint(seam, round(x_mm, 2), round(y_mm, 2))
        self._context.apply(drag_seam(point, f"sheet.seam.{seam}"))
        if ends:
            self._context.end_drag()

    def _show_joint(self, on: bool) -> None:
        plate = plate_of(self._job)
        self.table.seams.show_miss(plate.placing_mm if on and plate is not None else 0.0)

    def _free(self) -> None:
        """Let seams go where they were dragged, or look for one again that was stopped."""
        if self._job.sheet.dragged:
            self._context.apply(free_seam())
            return
        self._is_due, self._is_stopped = True, False
        self.show()

    def stop(self) -> None:
        """Look no further, until one asks for it again."""
        self._is_stopped = True
        self._context.sheets.cancel()

    @property
    def made(self) -> SplitPlan | None:
        """The split that is shown; an old one of this job while another is looked for."""
        return self._answer.last

    @property
    def current(self) -> SplitPlan | None:
        """The split of just what stands there; ``None`` while it is looked for."""
        return self._answer.current

    # what is told

    def show_plan(self, plan: Plan | None) -> None:
        """The plan of the job, which may be older than the job."""
        self._plan = plan
        self.show()

    def show(self) -> None:
        """Show what is known, and cut the print where something has changed."""
        job, known = self._job, shop.media()
        media = [item for item in known if item.kind not in ("plate", "platen")]
        plates = [item for item in known if item.kind == "plate"]
        medium = medium_of(job, known)
        self.sheet.show_settings(job.sheet, media, medium, plates, plate_of(job, known))
        sheet = job.sheet
        plan = self._plan if self._context.is_planned() else None
        if self._context.uid() != self._uid or job.file is None:
            self._uid = self._context.uid()
            self._answer.forget()
        if self._answer.ask((plan, medium, sheet.split_rules, sheet.through())):
            self._is_due = plan is not None and not self._answer.is_current
            self._problem, self._is_stopped = "", False
        if self._is_due and self.is_shown:
            self._later.start()
        self._tell()

    def _tell(self) -> None:
        made, current, inches = self.made, self.current, self._context.uses_inches()
        waiting = self._problem or ("" if self._job.file is None else "Looking for the seam …")
        if self._is_stopped:
            waiting = "Stopped before the seam was found: Let seams go looks for it again."
        self.table.facts.setText(model.split_words(current, waiting))
        self.table.seams_told.setText("\n".join(model.seam_rows(made, inches)))
        size = (0.0, 0.0) if self._plan is None else self._plan.measures.printed_size_mm
        plate = plate_of(self._job)
        self.sheet.pressing.setText(model.press_words(*size, plate, inches))
        found = () if plate is None or not size[0] else plate_findings(*size, plate, f"“{self._job.name}”")
        self.sheet.show_found(model.split_told(current, found))
        self.sheet.write.setEnabled(current is not None)
        self.sheet.free.setEnabled(bool(self._job.sheet.dragged) or self._is_stopped)
        self.sheet.show_use(*model.split_use(self._job, current))
        goes = () if plate is None or not size[0] else press_plan(*size, plate)
        self.table.seams.show_split(made, goes)

    # the background

    def _cut(self) -> None:
        if not self.is_shown or not self._is_due or not self.sheet.isVisible() or not self._context.is_planned():
            return
        self._context.sheets.cancel()
        self._is_due = self._is_stopped = False
        job, known, question = self._job, self.made, self._answer.asked
        plan, medium, rules, through = question

        def work(run: Run, _step: Tell) -> SplitPlan:
            return cut_plan(plan, job.name, medium, rules, run, through, known)

        def done(found: SplitPlan) -> None:
            self.table.progress.show_progress("", 1.0)
            if self._answer.take(question, found):
                self._tell()

        def failed(text: str) -> None:
            self.table.progress.show_progress("", 1.0)
            if question == self._answer.asked:
                self._problem = text
                self._answer.forget()
                self._tell()

        def stopped() -> None:
            self.table.progress.show_progress("", 1.0)
            self._is_due = not self._is_stopped  # given up for something else: looked for when it is shown again
            self._tell()

        self._context.sheets.start(work, done, failed, progress=self.table.progress.show_progress, stopped=stopped)

    def _ready(self) -> SplitPlan | None:
        """The split, where it is that of what stands there at this moment; told where it is not."""
        self.show()
        if self.current is None and self._job.file is not None:
            self._context.tell("The seam is being looked for: the split can be used and written in a moment.")
        return self.current

    def use(self) -> None:
        """Print the line so, or whole again where it is."""
        if model.used_split(self._job) is not None:
            self._context.apply(whole_again())
            return
        made = self._ready()
        if made is not None:
            self._context.apply(use_split(made.share))

    def _choose_folder(self) -> None:
        name = QFileDialog.getExistingDirectory(self.sheet, "Write the parts to a folder")
        if name:
            self.write_to(Path(name))

    def write_to(self, folder: Path) -> None:
        """Write a sheet for each part, in the background."""
        made, progress = self._ready(), self.table.progress
        if made is None:
            return

        def done(report: dict[str, Any]) -> None:
            progress.show_progress("", 1.0)
            count = sum(len(sheet["files"]) for sheet in report["sheets"]) + 1
            self._context.tell(f"Wrote {count} files of {len(made.split.parts)} sheets to {folder}.")

        def failed(text: str) -> None:
            progress.show_progress("", 1.0)
            self._context.tell(text)

        def stopped() -> None:
            progress.show_progress("", 1.0)
            self._context.tell(f"The sheets were not finished: nothing was written to {folder}.")

        kinds = [kind for kind in KINDS if kind != "cut"]
        self._context.sheets.start(
            lambda run, _step: write_split(made, folder, run, kinds), done, failed, progress=progress.show_progress,
            stopped=stopped,
        )  # fmt: skip
