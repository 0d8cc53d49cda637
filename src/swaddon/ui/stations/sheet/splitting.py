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
from swaddon.session.job import Job
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
from swaddon.ui.settling import settling
from swaddon.ui.station_spec import StationContext
from swaddon.ui.stations.sheet import model
from swaddon.ui.stations.sheet.split_part import SplitPart
from swaddon.ui.stations.sheet.split_table import SplitTable

_SETTLE_MS = 120


class Splitting:
    """What is asked of the seams, and where they run."""

    def __init__(self, context: StationContext) -> None:
        self._context = context
        self._job = Job()
        self._plan: Plan | None = None
        self.made: SplitPlan | None = None
        self._of: tuple[Any, ...] = ()
        self._is_due = self.is_shown = False
        self._problem = ""
        self.table = SplitTable()
        self.table.progress.stop.clicked.connect(context.sheets.cancel)
        self.table.seams.dragged.connect(self._dragged)
        self.sheet = SplitPart(
            self._change, context.end_drag, self._show_joint, lambda: context.apply(free_seam()), self._choose_folder,
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

    # what is told

    def show_job(self, job: Job, plan: Plan | None) -> None:
        """Another job, or one that has changed, and its plan."""
        self._job, self._plan = job, plan
        self.show()

    def show(self) -> None:
        """Show what is known, and cut the print where something has changed."""
        job, known = self._job, shop.media()
        media = [item for item in known if item.kind not in ("plate", "platen")]
        plates = [item for item in known if item.kind == "plate"]
        medium = medium_of(job, known)
        self.sheet.show_settings(job.sheet, media, medium, plates, plate_of(job, known))
        sheet = job.sheet
        of = (self._plan, medium, sheet.split_rules, sheet.through())
        if self._plan is None:
            self._of, self.made = of, None
        elif of != self._of:
            self._of, self._is_due, self._problem = of, True, ""
        if self._is_due and self.is_shown:
            self._later.start()
        self._tell()

    def _tell(self) -> None:
        made, inches = self.made, self._context.uses_inches()
        waiting = self._problem or ("" if self._job.file is None else "Looking for the seam …")
        self.table.facts.setText(model.split_words(made, waiting))
        self.table.seams_told.setText("\n".join(model.seam_rows(made, inches)))
        size = (0.0, 0.0) if self._plan is None else self._plan.measures.printed_size_mm
        plate = plate_of(self._job)
        self.sheet.pressing.setText(model.press_words(*size, plate, inches))
        found = () if plate is None or not size[0] else plate_findings(*size, plate, f"“{self._job.name}”")
        self.sheet.show_found(model.split_told(made, found))
        is_current = made is not None and made.plan is self._plan
        self.sheet.write.setEnabled(is_current)
        self.sheet.show_use(*model.split_use(self._job, made if is_current else None))
        goes = () if plate is None or not size[0] else press_plan(*size, plate)
        self.table.seams.show_split(made, goes)

    # the background

    def _cut(self) -> None:
        if not self.is_shown or not self._is_due or not self.sheet.isVisible() or self._plan is None:
            return
        self._is_due = False
        plan, medium, job, known, of = self._plan, self._of[1], self._job, self.made, self._of
        rules, through = job.sheet.split_rules, job.sheet.through()

        def work(run: Run, _step: Tell) -> SplitPlan:
            return cut_plan(plan, job.name, medium, rules, run, through, known)

        def done(found: SplitPlan) -> None:
            self.table.progress.show_progress("", 1.0)
            if of is self._of:
                self.made = found
                self._tell()

        def failed(text: str) -> None:
            self.table.progress.show_progress("", 1.0)
            if of is self._of:
                self._problem, self.made = text, None
                self._tell()

        self._context.sheets.start(
            work, done, failed, progress=self.table.progress.show_progress,
            stopped=lambda: self.table.progress.show_progress("", 1.0),
        )  # fmt: skip

    def use(self) -> None:
        """Print the line so, or whole again where it is."""
        made, share = self.made, model.used_split(self._job)
        if share is not None:
            self._context.apply(whole_again())
        elif made is not None:
            self._context.apply(use_split(made.share))

    def _choose_folder(self) -> None:
        name = QFileDialog.getExistingDirectory(self.sheet, "Write the parts to a folder")
        if name:
            self.write_to(Path(name))

    def write_to(self, folder: Path) -> None:
        """Write a sheet for each part, in the background."""
        made, progress = self.made, self.table.progress
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
