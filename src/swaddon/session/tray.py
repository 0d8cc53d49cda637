"""The tray: several open jobs, one of them on the bench. Each keeps its own history."""

from pathlib import Path
from typing import ClassVar

from psygnal import Signal

from swaddon.session.job import Job
from swaddon.session.session import BackgroundJob, Edit, Session, Stamp, new_uid


class Tray:
    """Open jobs in the order in which they came; the session holds the current one."""

    leaving: ClassVar[Signal] = Signal(description="another job is about to come to the bench")

    def __init__(self, session: Session) -> None:
        self._session = session
        self._jobs: list[BackgroundJob | None] = [None]
        self.current = 0

    def __len__(self) -> int:
        return len(self._jobs)

    def snapshot(self, index: int) -> BackgroundJob:
        """A job of the tray; the current one as it is now."""
        return self._jobs[index] or self._session.snapshot()

    def jobs(self) -> tuple[Job, ...]:
        """All open jobs, in the order of the tray."""
        return tuple(self.snapshot(index).job for index in range(len(self)))

    def by_uid(self) -> tuple[tuple[int, Job], ...]:
        """All open jobs with what tells them apart, in the order of the tray."""
        found = (self.snapshot(index) for index in range(len(self)))
        return tuple((item.uid, item.job) for item in found)

    def titles(self) -> tuple[str, ...]:
        """Names, with a dot behind those not saved."""
        jobs = [self.snapshot(index) for index in range(len(self))]
        return tuple(item.job.name + (" •" if item.is_changed else "") for item in jobs)

    def add(self, job: Job, path: Path | None = None, stamp: Stamp | None = None, saved: bool = True) -> int:
        """Put one more job into the tray; without a path it counts as not saved. Gives its uid."""
        is_saved = saved and path is not None
        made = BackgroundJob(job, job if is_saved else Job(), path=path, stamp=stamp, uid=new_uid())
        self._jobs.append(made)
        return made.uid

    def apply(self, uid: int, edit: Edit, initiator: str = "") -> bool:
        """Make an edit to the job that asked for it, on the bench or not; False when it is not open any more."""
        if uid == self._session.uid:
            self._session.apply(edit, initiator)
            return True
        for index, item in enumerate(self._jobs):
            if item is not None and item.uid == uid:
                self._jobs[index] = item.applied(edit)
                return True
        return False

    def index_of(self, path: Path) -> int | None:
        """Place of the open job that came from a file; ``None``: none did."""
        for index in range(len(self)):
            own = self.snapshot(index).path
            if own is not None and own.resolve() == path.resolve():
                return index
        return None

    def switch(self, index: int) -> None:
        """Stow the current job and take up another."""
        if index == self.current:
            return
        self.leaving.emit()
        wanted = self.snapshot(index)
        self._jobs[self.current] = self._session.snapshot()
        self._jobs[index] = None
        self.current = index
        self._session.resume(wanted)

    def step(self, by: int) -> None:
        """The next job, round and round."""
        self.switch((self.current + by) % len(self))

    def unsaved(self) -> tuple[int, ...]:
        """Jobs with artwork that have changes not saved."""
        jobs = [self.snapshot(index) for index in range(len(self))]
        return tuple(index for index, item in enumerate(jobs) if item.is_changed and item.job.file is not None)

    def forget(self, index: int) -> None:
        """Take a job that is not on the bench out of the tray."""
        if index == self.current:
            raise ValueError("the job on the bench is closed, not forgotten")
        del self._jobs[index]
        if index < self.current:
            self.current -= 1

    def close(self) -> None:
        """Take the current job out of the tray; its neighbour comes to the bench. The last one stays."""
        if len(self) == 1:
            return
        leaving = self.current
        self.switch(leaving + 1 if leaving + 1 < len(self) else leaving - 1)
        self.forget(leaving)
