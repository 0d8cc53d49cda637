"""The order on the bench: its strip, its tally, and what is found on the lines that are not at hand."""

from collections.abc import Callable, Sequence
from pathlib import Path

from PySide6.QtCore import QObject
from PySide6.QtGui import QGuiApplication

from swaddon.core.errors import PlanError, sentence
from swaddon.core.findings import Finding
from swaddon.core.units import number_of
from swaddon.session import order_edits, shop
from swaddon.session.desk import Desk, Post
from swaddon.session.line_list import WantedLine, lines_of, read_lines
from swaddon.session.order_counter import OrderCounter
from swaddon.session.order_tally import order_tally
from swaddon.session.prices import Prices
from swaddon.session.session import Edit, Session
from swaddon.session.side_work import SideWork
from swaddon.session.tally import tally_lines
from swaddon.ui.findings_panel import FindingsPanel
from swaddon.ui.order_strip import LineView, OrderStrip
from swaddon.ui.tally import Tally


class OrderDeck(QObject):
    """Shows the order beside the line at hand."""

    def __init__(self, session: Session, desk: Desk, post: Post, tally: Tally, findings: FindingsPanel) -> None:
        super().__init__(tally)
        self._session, self._desk = session, desk
        self._tally, self._findings = tally, findings
        self.counter = OrderCounter(session, desk, post)
        self.variants = SideWork("variants", desk, post)
        self.exports = SideWork("order-export", desk, post)
        self.costs = SideWork("costs", desk, post)
        self.flows = SideWork("flows", desk, post)
        self.quotes = SideWork("quotes", desk, post)
        self.sheets = SideWork("sheets", desk, post)
        self.prices = Prices()
        self.prices.changed.connect(self.show_tally)
        self.strip = OrderStrip()
        self.strip.turned.connect(self.turn_to)
        self.counter.changed.connect(self._counted)
        desk.stopped.connect(self.counter.side.cancel)
        desk.stopped.connect(self.exports.cancel)
        desk.stopped.connect(self.costs.cancel)
        desk.stopped.connect(self.flows.cancel)
        desk.stopped.connect(self.quotes.cancel)
        desk.stopped.connect(self.sheets.cancel)
        tally.whole_asked.connect(lambda _on: self.show_tally())
        findings.elsewhere.connect(self.turn_to)
        self._found: tuple[Finding, ...] | None = None
        self._on_sheet: tuple[int, tuple[Finding, ...]] = (0, ())

    def turn_to(self, at: int) -> None:
        """Take another line to hand."""
        self._session.turn_to(at)

    def step(self, by: int) -> None:
        """The next line, round and round."""
        job = self._session.job
        self.turn_to((job.at + by) % len(job.lines))

    def scoped(self, edit: Edit) -> Edit:
        """An edit for the lines that the strip says, where it says nothing itself."""
        if edit.alone is not None or not self.strip.alone:
            return edit
        return Edit(edit.label, edit.change, edit.merge_key, alone=True)

    def paste_lines(self) -> bool:
        """Add rows of a spreadsheet that lie on the clipboard; False when none do."""
        text = QGuiApplication.clipboard().text()
        if "\t" not in text:
            return False
        self._take(lambda: lines_of(text, shop.goods()))
        return True

    def read_lines(self, path: Path) -> None:
        """Add the lines of a table that was dropped."""
        self._take(lambda: read_lines(path, shop.goods()))

    def _take(self, read: Callable[[], Sequence[WantedLine]]) -> None:
        """Add lines to the order; what is wrong with them is told."""
        try:
            self._session.apply(order_edits.add_lines(read(), shop.sizes()))
        except (PlanError, ValueError) as error:
            self.counter.failed.emit(sentence(error))

    def show_order(self) -> None:
        """Show the lines of the job as it is now."""
        job = self._session.job
        heights = [
            0.0 if job.file is None else job.file.artwork.height_mm_at(line.settings.width_mm, line.settings.placement)
            for line in job.lines
        ]
        views = [
            LineView(line, outcome, self.counter.planner.problem(job, line), height)
            for line, outcome, height in zip(job.lines, self.counter.outcomes(), heights, strict=True)
        ]
        self.strip.show_order(views, job.at)
        self._tally.offer_whole(sum(line.settings.quantity for line in job.lines) > 1)

    def show_tally(self) -> None:
        """The numbers of one piece, or of the whole order."""
        plan, yardstick = self._desk.plan, self._desk.yardstick
        if not self._tally.shows_whole or plan is None:
            note = "" if yardstick is None else "± against yardstick"
            goods, book = self._session.job.goods, self.prices.book()
            lines = () if plan is None else tally_lines(plan, yardstick, book, goods.name, self.prices.shop())
            self._tally.show_lines(lines, note)
            return
        whole, found = self.counter.order_plan, self.counter.outcomes()
        if whole is not None:
            self._tally.show_lines(order_tally(whole), number_of(whole.sum.pieces, "piece"))
        else:
            counted, job = sum(outcome is not None for outcome in found), self._session.job
            failed = sum(bool(self.counter.planner.problem(job, line)) for line in job.lines)
            note = f"{failed} of {len(found)} lines fail" if failed else f"{counted} of {len(found)} lines counted …"
            self._tally.show_waiting(note)

    def show_findings(self, found: tuple[Finding, ...] | None) -> None:
        """What is found on the line at hand, then on the others.

        While a line that was counted before is planned again, it is what was found then.
        """
        job = self._session.job
        counted = self.counter.planner.outcome(job, job.line)
        if counted is not None and not self._desk.is_current and len(job.lines) > 1:
            found = counted.findings
        self._found = found
        elsewhere = self.counter.elsewhere() if found is not None and len(self._session.job.lines) > 1 else ()
        self._findings.show_findings(found, elsewhere)

    def keep_sheet_findings(self, found: tuple[Finding, ...]) -> None:
        """Keep what was found on the sheet of the job on the bench."""
        self._on_sheet = self._session.uid, found

    def sheet_findings(self) -> tuple[Finding, ...]:
        """What was found on its sheet, as far as it was laid."""
        uid, found = self._on_sheet
        return found if uid == self._session.uid else ()

    def stop(self) -> None:
        """End the background work."""
        self.counter.stop()
        self.variants.stop()
        self.exports.stop()
        self.costs.stop()
        self.flows.stop()
        self.quotes.stop()
        self.sheets.stop()

    def _counted(self) -> None:
        self.show_order()
        if self._tally.shows_whole:
            self.show_tally()
        self.show_findings(self._found)
