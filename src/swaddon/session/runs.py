"""Runs that are open: what was counted and timed, as the journal has it. They survive a restart."""

from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any, ClassVar

from psygnal import Signal

from swaddon.core.log.entry import Entry
from swaddon.core.plan.stages import Plan
from swaddon.core.run.card import CardStep
from swaddon.core.run.record import Do, Record, Timer, record_of
from swaddon.io.journal import RunEndedError
from swaddon.session.job import Job
from swaddon.session.log_drafts import draft, settings_told, which, which_of
from swaddon.session.log_keeper import LogKeeper, new_uid, time_text
from swaddon.store.faults import StoreError

_COUNTS = ("good", "spoiled", "use")


@dataclass(frozen=True)
class Run:
    """One open run: what was planned, and how far it is."""

    entry: Entry
    record: Record

    @property
    def uid(self) -> str:
        return self.entry.uid

    @property
    def title(self) -> str:
        """Order and line in a few words."""
        told = self.entry.ordered
        return "" if told is None else " – ".join(filter(None, (told.order, told.line)))

    def is_planned_so(self, job: Job) -> bool:
        """Whether the job still has the settings that the run began with: these are what the log book will tell."""
        planned = self.entry.planned
        if planned is None or job.profile is None:
            return True
        return {*settings_told(job)} <= {*planned.settings}

    @property
    def wanted(self) -> int:
        """Pieces that were ordered."""
        return 0 if self.entry.ordered is None else self.entry.ordered.quantity


class Runs:
    """All open runs of this bench. ``problem`` is what is wrong with keeping them, one sentence, or nothing."""

    changed: ClassVar[Signal] = Signal(description="a run began, went on or ended")

    def __init__(self, keeper: LogKeeper) -> None:
        self._keeper = keeper
        self._runs: dict[str, Run] = {}
        self.problem = ""
        self._state: tuple[tuple[str, int], ...] | None = None
        self.follow()

    def follow(self) -> None:
        """See what another program on this data folder has begun, counted or ended."""
        try:
            state = self._keeper.state()
            if state == self._state:
                return
            found = {entry.uid: Run(entry, record) for entry, record in self._keeper.open_runs()}
        except StoreError as error:
            self._state = None
            if str(error) != self.problem:
                self.problem = str(error)
                self.changed.emit()
            return
        if self._state is None:
            self.problem = ""
        self._state = state
        if found != self._runs:
            self._runs = found
            self.changed.emit()

    def now(self) -> float:
        """The time of the clock, s of the epoch."""
        return self._keeper.clock()

    def all(self) -> tuple[Run, ...]:
        """Open runs, the oldest first."""
        return tuple(self._runs.values())

    def of(self, job: Job) -> Run | None:
        """The run of the line at hand, if one is open."""
        wanted = which(job)
        return next((run for run in self._runs.values() if which_of(run.entry) == wanted), None)

    def begin(self, job: Job, plan: Plan, path: Path | None = None) -> Run:
        """Begin the run of the line at hand, or give the one that is open.

        Raises
        ------
        StoreError
            One sentence, where the disk does not take it.
        """
        held = self.of(job)
        if held is not None:
            return held
        at = time_text(self.now())
        entry, files = draft(job, plan, new_uid(), at, self._keeper.bench, "" if path is None else str(path))
        self._keeper.begin(entry, files)
        began = self._keeper.notes_of(entry.uid)
        made = Run(entry, Record())
        for note in began:
            made = replace(made, record=made.record.noted(note))
        self._runs[entry.uid] = made
        self.problem = ""
        self.changed.emit()
        return made

    def good(self, uid: str, count: int = 1) -> None:
        """Count good pieces."""
        self._note(uid, "good", count=count)

    def spoiled(self, uid: str, why: str, count: int = 1) -> None:
        """Count spoiled pieces, with the reason."""
        self._note(uid, "spoiled", count=count, why=why)

    def take_back(self, uid: str) -> None:
        """Take the last count back."""
        self._note(uid, "take-back")

    def start_timer(self, uid: str, step: CardStep) -> None:
        """Start a timer of a step; one more where one runs already."""
        run = self._runs.get(uid)
        if run is None:
            return
        number = max((timer.number for timer in run.record.timers), default=0) + run.record.notes + 1
        self._note(uid, "start", step=step.key or str(step.number), timer=number, expected_s=_rings(step))

    def stop_timer(self, uid: str, timer: Timer) -> None:
        """Stop a timer: how long it ran is kept."""
        self._note(uid, "stop", timer=timer.number)

    def pause(self, uid: str) -> None:
        """Rest, or go on; timers go on all the while, since what lies in the press does too."""
        run = self._runs.get(uid)
        if run is not None:
            self._note(uid, "resume" if run.record.is_paused else "pause")

    def used(self, uid: str, kind: str, amount: float) -> None:
        """What the run used of a material, as measured."""
        self._note(uid, "use", kind=kind, amount=amount)

    def end(self, uid: str) -> None:
        """End a run: it comes into the log book by itself."""
        if self._note(uid, "end"):
            self._runs.pop(uid, None)
            self._keeper.wake()
            self.changed.emit()

    def _note(self, uid: str, do: Do, **more: Any) -> bool:
        """Note something; it counts even where the disk does not take it yet."""
        run = self._runs.get(uid)
        if run is None:
            return False
        note = {"do": do, "at": round(self.now(), 3), **more}
        try:
            self._keeper.note_down(uid, note)
            self.problem = ""
        except RunEndedError:
            return self._note_on(run, note)
        except StoreError as error:
            self.problem = str(error)
        self._runs[uid] = replace(run, record=run.record.noted(note))
        self.changed.emit()
        return True

    def _note_on(self, run: Run, note: dict[str, Any]) -> bool:
        """Another program has ended the run: what is counted here goes into a run of its own, and is not lost."""
        self._runs.pop(run.uid, None)
        self.problem = f"The run “{run.title}” was ended in another program."
        if note["do"] in _COUNTS:
            uid = new_uid()
            made = replace(run.entry, uid=uid, head=uid, at=time_text(self.now()))
            try:
                # no files: they come into the book with the run that ended
                self._keeper.begin(made, {})
                self._runs[uid] = Run(made, Record())
                self._keeper.note_down(uid, note)
                self.problem += " What is counted here now is a run of its own."
            except StoreError as error:
                self.problem = str(error)
            if uid in self._runs:
                self._runs[uid] = Run(made, record_of(self._keeper.notes_of(uid)))
        self.changed.emit()
        return False


def _rings(step: CardStep) -> float | None:
    return step.expected_s if step.counts_down else None


def due(runs: tuple[Run, ...], now: float) -> tuple[tuple[Run, Timer], ...]:
    """Timers that have run down, of all runs, the longest overdue first."""
    found = [
        (run, timer)
        for run in runs
        for timer in run.record.timers
        if timer.expected_s is not None and timer.started + timer.expected_s <= now
    ]
    return tuple(sorted(found, key=lambda item: item[1].started + (item[1].expected_s or 0.0)))
