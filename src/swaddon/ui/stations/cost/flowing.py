"""The flow on the bench: asked at once of the bottleneck, then of simulated days in the background."""

from collections.abc import Sequence
from dataclasses import replace
from pathlib import Path

from PySide6.QtWidgets import QFileDialog

from swaddon.core.engine import Run
from swaddon.core.errors import PlanError, sentence
from swaddon.core.flow.day import Order
from swaddon.core.flow.shop import Shop
from swaddon.core.plan.stages import Plan
from swaddon.io.orders_file import due_s
from swaddon.io.shops import able, checked, read_shop, write_shop
from swaddon.session.answer import Answer
from swaddon.session.flow_plans import Flow, opening_min, orders_of_job, planned_flow, with_risk
from swaddon.session.job import Job
from swaddon.session.side_work import Tell
from swaddon.ui.job_work import JobWork
from swaddon.ui.saving import save_name
from swaddon.ui.settling import settling
from swaddon.ui.stage_table import StageTable
from swaddon.ui.station_spec import StationContext
from swaddon.ui.stations.cost import flow_model
from swaddon.ui.stations.cost.flow_part import FlowPart
from swaddon.ui.stations.cost.ribbon import FlowTable

RUNS = 400
_SETTLE_MS = 300


class Flows(JobWork):
    """What is asked of the shop with the job at hand, and what it tells."""

    def __init__(self, context: StationContext) -> None:
        super().__init__(context)
        self._plan_of: Plan | None = None
        self.asked = flow_model.Asked()
        self._answer = Answer[Flow]()
        self._problem = ""
        self.is_shown, self._is_due = False, False
        self.table = FlowTable()
        self.table.stop.clicked.connect(context.flows.cancel)
        self.sheet = FlowPart(
            self._due, self._count, self._others, self.run_days, self._edit, self._choose_in, self._choose_out,
            self._choose_rule,
        )  # fmt: skip
        self._later = settling(self.table, _SETTLE_MS, self._plan)
        context.order.changed.connect(self.show)

    # what is asked

    def _due(self, text: str) -> None:
        """A due time; raises ``ValueError`` with one sentence, which the field shows."""
        shop = self._context.shop()
        due_s(text.strip(), shop, opening_min(shop))
        self.asked = replace(self.asked, due=text.strip())
        self.show()

    def _others(self, on: bool) -> None:
        self.asked = replace(self.asked, with_others=on)
        self.show()

    def _choose_rule(self, rule: str) -> None:
        self.asked = replace(self.asked, rule=rule)
        self.show()

    def _count(self, resource: str, count: int) -> None:
        shop = self._context.shop()
        changed = shop.with_count(resource, count)
        self.take_shop(checked(changed))

    def take_shop(self, shop: Shop) -> None:
        """Keep the shop as it is now."""
        try:
            self._context.take_shop(shop)
        except PlanError as error:
            self._context.tell(str(error))
        self.show()

    def _edit(self) -> None:
        process = "film" if self._job.profile is None else self._job.profile.process
        StageTable(self.sheet, self._context.shop(), process, self.take_shop).open()

    def _choose_in(self) -> None:
        name, _ = QFileDialog.getOpenFileName(self.sheet, "The shop from a file", "", "Shop (*.toml)")
        if name:
            self.read(Path(name))

    def _choose_out(self) -> None:
        name, _ = save_name(self.sheet, "The shop to a file", "shop.toml", "Shop (*.toml)")
        if name:
            self.write(Path(name))

    def read(self, path: Path) -> None:
        """Take the whole shop from a file."""
        try:
            found = read_shop(path)
        except PlanError as error:
            self._context.tell(str(error))
            return
        self.take_shop(found)

    def write(self, path: Path) -> None:
        """Write the whole shop to a file."""
        try:
            write_shop(path, self._context.shop())
        except PlanError as error:
            self._context.tell(str(error))

    # what is told

    def orders(self) -> tuple[Order, ...]:
        """Lines of the job that are counted; what the shop cannot do is told."""
        shop = self._context.shop()
        try:
            plan = self._plan_of if self._context.is_planned() else None
            counted = flow_model.counted_of(self._context.order.outcomes(), self._job, plan)
            found = flow_model.orders_for(self._job, counted, shop, opening_min(shop), self.asked.due)
        except ValueError as error:
            self._problem = sentence(error)
            return ()
        self._problem = ""
        return found

    def show_plan(self, plan: Plan | None) -> None:
        """The plan of the job, which may be older than the job."""
        self._plan_of = plan
        self.show()

    def show(self) -> None:
        """The instant answer now; the days follow when nothing changes for a moment."""
        shop, orders = self._context.shop(), self.orders()
        self.sheet.show_shop(shop)
        piece = self._job.ware.piece
        start = opening_min(shop)
        instant = self._problem or flow_model.instant_text(shop, orders, start, piece)
        self.sheet.instant.setText(instant if self._job.file is not None else "")
        if self._answer.ask((shop, orders, self._others_behind(), self.asked.rule)):
            self._answer.forget()
            self._context.flows.cancel()
            self._is_due = bool(orders)
        if self._is_due and self.is_shown:
            self._later.start()
        self._show_flow(piece)

    @property
    def flow(self) -> Flow | None:
        """The day of just what is asked; ``None`` while it is run."""
        return self._answer.current

    def _show_flow(self, piece: str) -> None:
        flow = self.flow
        facts = self.sheet.instant.text() if flow is None else flow_model.flow_text(flow, piece)
        self.table.show_flow(flow, facts, "" if flow is None else flow_model.risk_text(flow))
        self.sheet.what_if.setText("" if flow is None else flow_model.what_if_text(flow))
        rules = () if flow is None else flow_model.rules_text(flow)
        chosen = self.asked.rule or (rules[0][0] if rules else "")
        self.sheet.show_rules(rules, chosen)
        self.sheet.run.setEnabled(flow is not None)

    def _others_behind(self) -> tuple[Job, ...]:
        """All other open jobs, where they are made on the same day."""
        if not self.asked.with_others:
            return ()
        own, open_jobs = self._context.uid(), self._context.jobs_by_uid()
        return tuple(job for uid, job in open_jobs if uid != own and job.file is not None)

    @staticmethod
    def _with_others(shop: Shop, orders: Sequence[Order], jobs: Sequence[Job], run: Run) -> tuple[Order, ...]:
        """The orders of other jobs behind these, where the shop can print them."""
        out = list(orders)
        for job in jobs:
            if job.profile is None:
                continue
            try:
                able(shop, job.profile.process, job.name)
                out += orders_of_job(job, run)
            except (PlanError, ValueError):
                continue
        return tuple(out)

    def _plan(self) -> None:
        """One day by every rule, in the background; not while nobody looks."""
        if not self.is_shown or not self._is_due or not self.sheet.isVisible():
            return
        self._is_due = False
        question = self._answer.asked
        shop, orders, jobs, rule = question
        start = opening_min(shop)

        def work(run: Run, _step: Tell) -> Flow:
            return planned_flow(shop, self._with_others(shop, orders, jobs, run), start, 1, rule, run)

        def done(flow: Flow) -> None:
            if self._answer.take(question, flow):
                self.show()

        self._context.flows.start(work, done, self._context.tell)

    def run_days(self) -> None:
        """Many days with chance, in the background, with progress and a way to stop."""
        self.show()
        flow, question, rule = self.flow, self._answer.asked, self.asked.rule
        if flow is None:
            return

        def work(run: Run, _step: Tell) -> Flow:
            return with_risk(flow, RUNS, 1, rule, run, run.report)

        def done(found: Flow) -> None:
            self.table.show_progress("", 1.0)
            if self._answer.take(question, found):
                self.show()

        self.table.show_progress("Running the day", 0.0)
        self._context.flows.start(
            work,
            done,
            self._failed,
            progress=self.table.show_progress,
            stopped=lambda: self.table.show_progress("", 1.0),
        )

    def _failed(self, text: str) -> None:
        self.table.show_progress("", 1.0)
        self._context.tell(text)
