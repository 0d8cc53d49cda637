"""The order beside the line at hand: its other lines are planned in the background, one after the other."""

from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import ClassVar

from psygnal import Signal

from swaddon.core.engine import Run
from swaddon.core.errors import told
from swaddon.core.findings import Finding
from swaddon.core.plan.outcome import Outcome
from swaddon.core.plan.stages import Plan
from swaddon.session.desk import Desk, Post
from swaddon.session.job import Job
from swaddon.session.order_plans import OrderPlan, OrderPlanner
from swaddon.session.session import Changes, Session
from swaddon.session.side_work import SideWork
from swaddon.session.worker import NewestWins

CACHE_BYTES = 300_000_000
"""What is kept between lines, beside all that the desk keeps of the line at hand."""


@dataclass(frozen=True, eq=False)
class _Wanted:
    job: Job
    plan: Plan


class OrderCounter:
    """Knows what each line of the open order comes to; plans the lines that are missing while the desk rests."""

    changed: ClassVar[Signal] = Signal(description="a line was counted, or counts no more")
    failed: ClassVar[Signal] = Signal(str, description="one sentence for the operator")

    def __init__(self, session: Session, desk: Desk, post: Post) -> None:
        self._session, self._desk, self._post = session, desk, post
        self.planner = OrderPlanner()
        self.side = SideWork("order-side", desk, post)
        self._worker = NewestWins[_Wanted]("order", self._work, self._work_failed)
        desk.plan_changed.connect(self._plan_changed)
        session.changed.connect(self._job_changed)

    @property
    def is_idle(self) -> bool:
        return self._worker.is_idle and self.side.is_idle

    def outcomes(self) -> tuple[Outcome | None, ...]:
        """What each line comes to; ``None`` where it is not counted yet."""
        job = self._session.job
        return tuple(self.planner.outcome(job, line) for line in job.lines)

    @property
    def order_plan(self) -> OrderPlan | None:
        """The whole order; ``None`` while a line is missing."""
        found = self.outcomes()
        whole = tuple(outcome for outcome in found if outcome is not None)
        return OrderPlan(self._session.job.lines, whole) if len(whole) == len(found) else None

    def elsewhere(self) -> tuple[tuple[int, Finding], ...]:
        """What stops the other lines or wants a look, each once, with the first line that it belongs to."""
        job, out, told = self._session.job, list[tuple[int, Finding]](), set[tuple[str, str]]()
        own = self.planner.outcome(job, job.line)
        told.update((item.code, item.text) for item in (own.findings if own is not None else ()))
        for at, (line, outcome) in enumerate(zip(job.lines, self.outcomes(), strict=True)):
            if at == job.at or outcome is None:
                continue
            for item in outcome.findings:
                if item.severity != "note" and (item.code, item.text) not in told:
                    told.add((item.code, item.text))
                    out.append((at, replace(item, text=f"{line.title}: {item.text}", fix=None)))
        return tuple(sorted(out, key=lambda found: found[1].severity != "stop"))

    def forget(self) -> None:
        """Give back what is remembered of jobs that are closed."""
        self.planner.forget()

    def stop(self) -> None:
        """End the background work."""
        self._worker.stop()
        self.side.stop()
        self.planner.forget()

    def _job_changed(self, _job: Job, _changes: Changes) -> None:
        self._worker.cancel()
        self._count()

    def _plan_changed(self, _plan: Plan | None) -> None:
        self._count()

    def _count(self) -> None:
        job, plan = self._session.job, self._desk.plan
        if plan is not None and self._desk.is_current and len(job.lines) > 1 and self.planner.missing(job):
            self._worker.submit(_Wanted(job, plan))

    def _work(self, wanted: _Wanted, is_wanted: Callable[[], bool]) -> None:
        def still_wanted() -> bool:
            self._desk.let_go_first()
            return is_wanted()

        def tell() -> None:
            self._post(lambda: self.changed.emit() if is_wanted() else None)

        job = wanted.job
        if self.planner.outcome(job, job.line) is None:
            self.planner.remember(job, job.line, wanted.plan)
            tell()
        run = Run(self._desk.cache.beside(1), still_wanted)
        for _ in self.planner.work(job, run, wanted.plan.results, cache_bytes=CACHE_BYTES):
            tell()

    def _work_failed(self, _wanted: _Wanted, error: Exception) -> None:
        text = told(error)
        self._post(lambda: self.failed.emit(text))
