"""The order list on the Order station: what is typed, pasted and changed in it."""

from collections.abc import Callable, Sequence
from pathlib import Path

from swaddon.core.engine import Run
from swaddon.core.errors import PlanError, sentence
from swaddon.core.plan.whole_order import OneForAll
from swaddon.io.garments import LibraryGarment
from swaddon.session import order_edits, shop
from swaddon.session.job import Job
from swaddon.session.line_list import WantedLine, read_lines
from swaddon.session.order_counter import CACHE_BYTES
from swaddon.ui.garment_table import GarmentTable
from swaddon.ui.station_spec import StationContext
from swaddon.ui.stations.order import list_model
from swaddon.ui.stations.order.list_table import OrderList

_NOTHING = "Nothing to compare: it takes two garments, and a transfer that could serve both."


class ListPart:
    """Fills the order list and does what is asked on it."""

    def __init__(self, context: StationContext, close: Callable[[], None]) -> None:
        self._context, self._job = context, Job()
        self._compared: Job | None = None
        self.table = OrderList()
        self.table.entered.connect(self.enter)
        self.table.changed.connect(self.change)
        self.table.turned.connect(context.turn_to)
        self.table.removed.connect(self.remove)
        self.table.opened.connect(self.read)
        self.table.compared.connect(self.compare)
        self.table.garments.connect(lambda: self.edit_garments().open())
        self.table.closed.connect(close)
        context.order.changed.connect(self._counted)

    def show_job(self, job: Job) -> None:
        """Show the lines of a job."""
        if self._compared is not None and not job.is_same(self._compared):
            self._compared = None
            self.table.show_advice((), "")
        self._job = job
        self._show_rows()
        self.table.compare.setEnabled(job.file is not None and len(job.lines) > 1)

    def _counted(self) -> None:
        if self.table.isVisible():
            self._show_rows()

    def _show_rows(self) -> None:
        job = self._job
        outcomes = tuple(self._context.order.planner.outcome(job, line) for line in job.lines)
        self.table.show_rows(list_model.list_rows(job, outcomes, self._context.uses_inches()), job.at)

    def enter(self, text: str) -> None:
        """Add the lines that were typed or pasted; what is wrong is said, and the text stays."""
        if not text.strip():
            return
        try:
            self._add(list_model.typed_lines(text, shop.goods()))
        except ValueError as error:
            self._say(error)
        else:
            self.table.entry.clear()

    def read(self, path: Path) -> None:
        """Add the lines of a CSV file."""
        try:
            self._add(read_lines(path, shop.goods()))
        except (PlanError, ValueError) as error:
            self._say(error)

    def _add(self, wanted: Sequence[WantedLine]) -> None:
        self._context.apply(order_edits.add_lines(wanted, shop.sizes()))
        self.table.say("")

    def change(self, at: int, column: int, text: str) -> None:
        """Change a cell; what is wrong is said, and the cell goes back."""
        try:
            edit = list_model.cell_edit(at, column, text, self._job, shop.goods(), self._context.uses_inches())
            self._context.apply(edit)
            self.table.say("")
        except ValueError as error:
            self._say(error)
        self._show_rows()

    def remove(self, at: int) -> None:
        if len(self._job.lines) == 1:
            self.table.say("The last line stays: change it instead.")
        else:
            self._context.apply(order_edits.remove_line(at))

    def compare(self) -> None:
        """Work out one transfer for all garments against one for each, in the background."""
        job, planner = self._job, self._context.order.planner

        def work(run: Run, _step: object) -> OneForAll | None:
            return planner.compare(job, run, CACHE_BYTES)

        def done(advice: OneForAll | None) -> None:
            self.table.show_comparing(False)
            if job.is_same(self._job):
                self._compared = job
                rows = () if advice is None else list_model.way_rows(advice)
                self.table.show_advice(rows, _NOTHING if advice is None else advice.reason)

        def failed(text: str) -> None:
            self.table.say(text)
            self.table.show_comparing(False)

        self.table.show_comparing(True)
        self._context.order.side.start(work, done, failed, stopped=lambda: self.table.show_comparing(False))

    def edit_garments(self) -> GarmentTable:
        """The garment library to edit; kept on OK."""
        return GarmentTable(self.table, shop.garments(), self._keep_garments)

    def _keep_garments(self, garments: Sequence[LibraryGarment]) -> None:
        try:
            shop.keep_garments(garments)
        except PlanError as error:
            raise ValueError(str(error)) from error

    def _say(self, error: Exception) -> None:
        self.table.say(sentence(error))
