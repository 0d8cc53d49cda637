"""An order's plans: each distinct line planned once, the sum of all, and one transfer for all against one for each."""

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass

from swaddon.core.colour.spaces import Rgb
from swaddon.core.engine import Results, Run, key_of
from swaddon.core.errors import PlanError
from swaddon.core.order.lines import MOST_LINES, OrderLine
from swaddon.core.order.settings import PlanSettings
from swaddon.core.plan.outcome import Outcome, Shift, colour_shifts, outcome_of
from swaddon.core.plan.stages import Plan, make_plan
from swaddon.core.plan.variants import CACHE_BYTES
from swaddon.core.plan.whole_order import OneForAll, OrderSum, one_for_all, order_sum
from swaddon.session.job import Job, request_for

_MOST_KEPT = MOST_LINES + 100
"""Outcomes that are remembered: those of the longest order, and some more; each holds a small picture."""


@dataclass(frozen=True, eq=False)
class OrderPlan:
    """The lines of an order with what a piece of each comes to, and all of them together."""

    lines: tuple[OrderLine, ...]
    outcomes: tuple[Outcome, ...]

    @property
    def sum(self) -> OrderSum:
        """All pieces of the order."""
        return order_sum(zip((line.settings.quantity for line in self.lines), self.outcomes, strict=True))


class OrderPlanner:
    """Plans lines of a job's order one after the other, and remembers what each came to."""

    def __init__(self) -> None:
        self._known: dict[str, Outcome] = {}
        self._problems: dict[str, str] = {}
        self._keys = _Keys()

    def outcome(self, job: Job, line: OrderLine) -> Outcome | None:
        """What a line came to when it was planned last as it is now; ``None``: it was not."""
        return self._known.get(self._keys.of(job, line.planned))

    def problem(self, job: Job, line: OrderLine) -> str:
        """Why a line could not be planned as it is now; empty: it could, or was not tried."""
        return self._problems.get(self._keys.of(job, line.planned), "")

    def remember(self, job: Job, line: OrderLine, plan: Plan) -> None:
        """Take what a line comes to from its plan on the bench."""
        self._keep(self._keys.of(job, line.planned), outcome_of(plan, identifies=True))

    def forget(self) -> None:
        """Let go of all that is remembered."""
        self._known.clear()
        self._problems.clear()

    def _keep(self, key: str, outcome: Outcome) -> None:
        self._known.pop(key, None)
        self._known[key] = outcome
        while len(self._known) > _MOST_KEPT:
            del self._known[next(iter(self._known))]

    def missing(self, job: Job) -> tuple[OrderLine, ...]:
        """One line for each distinct plan that was not made yet."""
        found: dict[str, OrderLine] = {}
        for line in job.lines:
            key = self._keys.of(job, line.planned)
            if key not in self._known and key not in self._problems:
                found.setdefault(key, line)
        return tuple(found.values())

    def work(
        self,
        job: Job,
        run: Run,
        known: Results | None = None,
        done: Callable[[OrderLine, Plan], None] = lambda _line, _plan: None,
        cache_bytes: int = CACHE_BYTES,
    ) -> Iterator[OrderLine]:
        """Plan the lines that are missing; yields each when it is done, after ``done`` got its plan.

        ``known`` are results of another plan of the job, taken where they hold.
        """
        missing, inner = self.missing(job), run.aside(cache_bytes)
        for index, line in enumerate(missing):
            run.report(f"Planning {line.title}", index / len(missing))
            key = self._keys.of(job, line.planned)
            try:
                plan = planned(job, line.planned, inner, known)
            except PlanError as error:
                self._problems[key] = str(error)
            else:
                done(line, plan)
                self._keep(key, outcome_of(plan, identifies=True))
            yield line
        run.report("", 1.0)

    def plan(self, job: Job, run: Run) -> OrderPlan:
        """The whole order; raises ``PlanError`` when a line cannot be planned."""
        for line in self.work(job, run):
            if problem := self.problem(job, line):
                raise PlanError(f"{line.title}: {problem}")
        outcomes = tuple(self._known[self._keys.of(job, line.planned)] for line in job.lines)
        return OrderPlan(job.lines, outcomes)

    def compare(self, job: Job, run: Run, cache_bytes: int = CACHE_BYTES) -> OneForAll | None:
        """One transfer for all garments against one for each; ``None`` where there is nothing to choose."""
        if job.profile is None:
            return None
        inner = run.aside(cache_bytes)

        def judge(settings: PlanSettings, garments: Sequence[Rgb]) -> tuple[Outcome, tuple[tuple[Shift, ...], ...]]:
            run.report("Comparing transfers", 0.5)
            held = self._known.get(self._keys.of(job, settings))
            if held is not None and not garments:
                return held, ()
            plan = planned(job, settings, inner)
            made = outcome_of(plan, identifies=True)
            self._keep(self._keys.of(job, settings), made)
            return made, tuple(colour_shifts(plan, plan.advice, garment) for garment in garments)

        return one_for_all(job.lines, judge, job.profile.medium)


def planned(job: Job, settings: PlanSettings, run: Run, known: Results | None = None) -> Plan:
    """The lean plan of a job with some settings; the job has artwork and a press."""
    assert job.file is not None and job.profile is not None  # noqa: PT018
    request = request_for(job.file.artwork, settings, job.profile, job.all_tiles(), job.icc, job.sheet, job.ware)
    return make_plan(request, run, lean=True, known=known)


class _Keys:
    """What decides a plan, as a key; asked for every line at every change, so that the last ones are remembered."""

    _MOST = 4000

    def __init__(self) -> None:
        self._of: dict[tuple[str, PlanSettings], str] = {}
        self._press: tuple[object, tuple[object, ...], str] = (None, (), "")

    def of(self, job: Job, settings: PlanSettings) -> str:
        """The key of the job's plan with some settings."""
        content = "" if job.file is None else job.file.artwork.content_id
        base = key_of(content, self._press_key(job), job.sheet.medium, job.sheet.split_rules)
        known = self._of.get((base, settings))
        if known is None:
            if len(self._of) >= self._MOST:
                self._of.clear()
            known = self._of[base, settings] = key_of(base, settings)
        return known

    def _press_key(self, job: Job) -> str:
        press, tiles, key = self._press
        if press is not job.profile or tiles != job.tiles or not key:
            key = key_of(job.profile, tuple(tile.art for tile in job.tiles))
            self._press = job.profile, job.tiles, key
        return key
