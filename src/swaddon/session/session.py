"""The open job and its history. One way round: an edit goes in, a new job and its changes come out."""

import itertools
from collections.abc import Callable
from dataclasses import dataclass, fields, replace
from pathlib import Path
from typing import ClassVar

from psygnal import Signal

from swaddon.session.job import Job

_DEEPEST = 500
_uids = itertools.count(1)

Stamp = tuple[int, int]
"""What tells one state of a file from another: time of change in ns, and size."""


@dataclass(frozen=True)
class Edit:
    """One undoable step. Edits that follow each other with the same ``merge_key`` are one step (a slider drag).

    What ``change`` does to the line at hand counts for all lines of the order, or, ``alone``, for this one; ``None``
    leaves that to who makes the edit.
    """

    label: str
    change: Callable[[Job], Job]
    merge_key: str | None = None
    alone: bool | None = None

    def made(self, job: Job) -> Job:
        """The job after this edit."""
        return self.change(job).followed(job, bool(self.alone))


@dataclass(frozen=True)
class Changes:
    """Which fields of the job (or of its settings) changed, and who asked for it."""

    sections: frozenset[str]
    initiator: str


@dataclass(frozen=True)
class BackgroundJob:
    """A job put aside with its history, as it was on the bench."""

    job: Job
    saved: Job
    undo: tuple[tuple[str, Job], ...] = ()
    redo: tuple[tuple[str, Job], ...] = ()
    path: Path | None = None
    stamp: Stamp | None = None
    uid: int = 0

    def applied(self, edit: Edit) -> "BackgroundJob":
        """With one more step, made while it lies aside."""
        after = edit.made(self.job)
        if after == self.job:
            return self
        return replace(self, job=after, undo=(*self.undo, (edit.label, self.job)), redo=())

    @property
    def is_changed(self) -> bool:
        return not self.job.is_same(self.saved)


def new_uid() -> int:
    """A number that no other open job of this program has."""
    return next(_uids)


class Session:
    """Holds the job, undoes, redoes, and says what changed."""

    changed: ClassVar[Signal] = Signal(Job, Changes)

    def __init__(self, job: Job | None = None) -> None:
        self._job = job or Job()
        self._saved = self._job
        self._undo: list[tuple[str, Job]] = []
        self._redo: list[tuple[str, Job]] = []
        self._merge_key: str | None = None
        self.path: Path | None = None
        self.stamp: Stamp | None = None
        self.uid = next(_uids)
        """Tells the open job from every other, so that what was begun for it lands in it."""

    @property
    def job(self) -> Job:
        return self._job

    @property
    def is_changed(self) -> bool:
        """Whether the job differs from what was last saved or opened."""
        return not self._job.is_same(self._saved)

    @property
    def undo_label(self) -> str | None:
        return self._undo[-1][0] if self._undo else None

    @property
    def redo_label(self) -> str | None:
        return self._redo[-1][0] if self._redo else None

    def apply(self, edit: Edit, initiator: str = "") -> bool:
        """Make the edit; False when it changes nothing. An edit that raises leaves everything as it was."""
        after = edit.made(self._job)
        if after == self._job:
            return False
        if edit.merge_key is None or edit.merge_key != self._merge_key:
            self._undo.append((edit.label, self._job))
            del self._undo[:-_DEEPEST]
        self._redo.clear()
        self._merge_key = edit.merge_key
        self._become(after, initiator)
        return True

    def end_merge(self) -> None:
        """The drag is over: the next edit is a step of its own."""
        self._merge_key = None

    def turn_to(self, at: int) -> None:
        """Take another line of the order to hand; nothing changes by it, so it is no step to undo."""
        turned = self._job.turned_to(at)
        if turned is not self._job:
            self._merge_key = None
            self._become(turned, "line")

    def undo(self) -> None:
        if self._undo:
            label, before = self._undo.pop()
            self._redo.append((label, self._job))
            self._merge_key = None
            self._become(before, "undo")

    def redo(self) -> None:
        if self._redo:
            label, after = self._redo.pop()
            self._undo.append((label, self._job))
            self._merge_key = None
            self._become(after, "redo")

    def open(self, job: Job, path: Path | None, stamp: Stamp | None = None) -> None:
        """Take another job; its history starts empty."""
        self._undo.clear()
        self._redo.clear()
        self._merge_key = None
        self._saved = job
        self.path, self.stamp, self.uid = path, stamp, next(_uids)
        self._become(job, "open")

    def snapshot(self) -> BackgroundJob:
        """The open job with its history, to be taken up again."""
        return BackgroundJob(
            self._job, self._saved, tuple(self._undo), tuple(self._redo), self.path, self.stamp, self.uid
        )

    def resume(self, snapshot: BackgroundJob) -> None:
        """Take a stowed job up where it was left."""
        self._undo, self._redo = list(snapshot.undo), list(snapshot.redo)
        self._merge_key = None
        self._saved, self.path, self.stamp, self.uid = snapshot.saved, snapshot.path, snapshot.stamp, snapshot.uid
        self._become(snapshot.job, "open")

    def mark_saved(self, path: Path, stamp: Stamp | None = None) -> None:
        self._saved = self._job
        self.path, self.stamp = path, stamp
        self.changed.emit(self._job, Changes(frozenset({"saved"}), "save"))

    def mark_unsaved(self) -> None:
        """The open job is nowhere on disk."""
        self._saved = Job()
        self.changed.emit(self._job, Changes(frozenset({"saved"}), "recover"))

    def _become(self, job: Job, initiator: str) -> None:
        before, self._job = self._job, job
        self.changed.emit(job, Changes(_differences(before, job), initiator))


def _differences(before: Job, after: Job) -> frozenset[str]:
    names = {item.name for item in fields(Job) if getattr(before, item.name) != getattr(after, item.name)}
    if "settings" in names:
        one, other = before.settings, after.settings
        names |= {item.name for item in fields(one) if getattr(one, item.name) != getattr(other, item.name)}
    return frozenset(names)
