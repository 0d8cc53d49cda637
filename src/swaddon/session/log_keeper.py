"""Keeps the log book: what is to be written waits in the journal until the book has it, however long that takes."""

import os
import platform
import threading
import time
import uuid
from collections.abc import Callable
from contextlib import suppress
from dataclasses import replace
from datetime import UTC, datetime
from pathlib import Path
from typing import TYPE_CHECKING, Any, TypeVar

import platformdirs

from swaddon.core.errors import PlanError
from swaddon.core.log.entry import Entry, Happened
from swaddon.core.run.record import Record, record_of
from swaddon.io import outputs
from swaddon.io.journal import Journal, Kept, RunEndedError
from swaddon.io.log_entries import entry_text, read_entry
from swaddon.io.names import shown
from swaddon.io.profiles import reason
from swaddon.session.log_drafts import Files
from swaddon.store.faults import StoreError

if TYPE_CHECKING:
    from swaddon.store.book import LogBook

RETRY_S = 15.0
MOST_COUNTED = 10_000_000
"""What an entry counts at most."""

Clock = Callable[[], float]


def data_folder() -> Path:
    """Where the log book and its journal lie on this machine."""
    return Path(os.environ.get("SWADDON_DATA") or platformdirs.user_data_path("swaddon"))


def bench_name() -> str:
    """What this bench is called in the log book: ``SWADDON_BENCH``, else the machine's name."""
    return (os.environ.get("SWADDON_BENCH") or platform.node() or "bench")[:300]


def time_text(at: float) -> str:
    """A time of the clock as entries tell it.

    >>> time_text(0)
    '1970-01-01T00:00:00Z'
    """
    return datetime.fromtimestamp(at, UTC).strftime("%Y-%m-%dT%H:%M:%SZ")


def new_uid() -> str:
    """A name that no other entry has."""
    return uuid.uuid4().hex


def open_book(wanted: str | None = None) -> "LogBook":
    """The log book where ``SWADDON_STORE`` says, else the file on this machine, its tables brought up.

    Raises
    ------
    StoreError
        One sentence.
    """
    book = closed_book(wanted)
    try:
        book.open()
    except BaseException:
        book.close()
        raise
    return book


def closed_book(wanted: str | None = None) -> "LogBook":
    """The same, nothing connected yet."""
    from swaddon.store.book import LogBook  # half a second of imports, which the window does not wait for
    from swaddon.store.engine import address_of, engine_for

    address = address_of(
        os.environ.get("SWADDON_STORE", "") if wanted is None else wanted, data_folder() / "log.sqlite"
    )
    if address.get_backend_name() == "sqlite" and address.database not in (None, "", ":memory:"):
        file = Path(str(address.database).removeprefix("file:").partition("?")[0])
        for beside in ("", "-wal", "-shm"):
            outputs.protect(file.with_name(file.name + beside), "the shop's log book")
        try:
            file.parent.mkdir(parents=True, exist_ok=True)
        except OSError as error:
            raise StoreError(f"The log book has no folder to lie in ({reason(error)}).") from error
    return LogBook(engine_for(address), read_entry)


Listed = TypeVar("Listed")


class LogKeeper:
    """The one door to the log book. Runs are noted in the journal and read from there; the book gets what has ended.

    Methods may be called from any thread. ``clock`` gives s of the epoch.
    """

    def __init__(
        self,
        journal: Journal | None = None,
        open_: "Callable[[], LogBook]" = open_book,
        clock: Clock = time.time,
        bench: str | None = None,
    ) -> None:
        self.journal = Journal(data_folder() / "journal") if journal is None else journal
        self.bench, self.clock = bench_name() if bench is None else bench, clock
        self._open = open_
        self._book: LogBook | None = None
        self._lock, self._opening, self._delivering = threading.RLock(), threading.Lock(), threading.Lock()
        self._unkept: list[tuple[str, dict[str, Any]]] = []
        self._unkept_entries: list[tuple[Entry, Files]] = []
        self._damaged: list[str] = []
        self._thread: threading.Thread | None = None
        self._wake, self._delivers, self._ends = threading.Event(), False, False

    # the book

    def book(self) -> "LogBook":
        """The book, opened at first use; raises ``StoreError`` with one sentence.

        A server that is gone is waited for here, some seconds: nothing that is noted waits with it.
        """
        with self._opening:
            if self._book is None:
                self._book = self._open()
            return self._book

    def close(self) -> None:
        """Stop delivering and let go of the book."""
        self._ends = True
        self._wake.set()
        if self._thread is not None:
            self._thread.join(timeout=30)
        with self._opening:
            if self._book is not None:
                self._book.close()
            self._book = None

    # writing

    def begin(self, entry: Entry, files: Files) -> None:
        """Begin a run; raises ``StoreError`` where the disk does not take it."""
        self._keep(entry, files, {"do": "begin", "at": round(self.clock(), 3)})

    def note_down(self, uid: str, note: dict[str, Any]) -> None:
        """Note something of a run. It counts even where the disk is full: then it is kept in memory and tried again.

        Raises
        ------
        StoreError
            One sentence, where it is not on the disk yet.
        RunEndedError
            Where another program has ended the run: it is not of it any more.
        """
        with self._lock:
            self._unkept.append((uid, note))
            self._keep_notes(note)

    def _keep_notes(self, fresh: dict[str, Any] | None = None) -> None:
        """Write the notes that are not on the disk, in their order; ``RunEndedError`` is told of the fresh one."""
        with self._lock:
            while self._unkept:
                uid, note = self._unkept[0]
                try:
                    self.journal.note(uid, note)
                except RunEndedError:
                    if note is fresh:
                        self._unkept.pop(0)
                        raise
                    # one that waited for room on the disk: another program has ended its run since
                except OSError as error:
                    raise StoreError(
                        f"Notes of this run cannot be kept on the disk ({reason(error)}): they are kept in memory, and "
                        "written as soon as there is room."
                    ) from error
                self._unkept.pop(0)

    def write(self, entry: Entry, files: Files | None = None) -> None:
        """Put an entry into the journal for the book. Where the disk is full it is kept in memory and tried again.

        Raises
        ------
        StoreError
            One sentence, where it is not on the disk yet.
        """
        self._keep(entry, files or {})
        self.wake()

    def _keep(self, entry: Entry, files: Files, first: dict[str, Any] | None = None) -> None:
        try:
            self.journal.begin(entry.uid, entry_text(entry).encode("utf-8"), files, first)
        except FileExistsError:
            return
        except OSError as error:
            if entry.kind != "run":
                with self._lock:
                    self._unkept_entries.append((entry, files))
            what = "The run could not begin" if entry.kind == "run" else "The entry waits in memory"
            raise StoreError(f"{what}: the disk does not take it ({reason(error)}).") from error

    # runs

    def notes_of(self, uid: str) -> tuple[dict[str, Any], ...]:
        """All notes of a run, those that are only in memory too."""
        try:
            kept = self.journal.kept(uid).notes
        except OSError:
            kept = ()
        with self._lock:
            return (*kept, *(note for own, note in self._unkept if own == uid))

    def open_runs(self) -> tuple[tuple[Entry, Record], ...]:
        """Runs that have not ended, the oldest first: what was planned, and how far they are."""
        out = []
        for uid in self._uids():
            found = self._read(uid)
            if found is not None and found[0].kind == "run":
                record = record_of(self.notes_of(uid))
                if record.is_open:
                    out.append((found[0], record))
        return tuple(out)

    def state(self) -> tuple[tuple[str, int], ...]:
        """What tells that another program has begun, noted or ended something; raises ``StoreError``."""
        return self._listed(self.journal.state)

    def _uids(self) -> tuple[str, ...]:
        return self._listed(self.journal.uids)

    def _listed(self, ask: Callable[[], Listed]) -> Listed:
        try:
            return ask()
        except OSError as error:
            raise StoreError(
                f"The folder of runs and entries that wait, “{shown(self.journal.folder)}”, cannot be read "
                f"({reason(error)}): runs of before are not seen until it can."
            ) from error

    def _read(self, uid: str) -> tuple[Entry, Kept] | None:
        try:
            kept = self.journal.kept(uid)
            return read_entry(kept.draft), kept
        except FileNotFoundError:
            return None
        except (OSError, PlanError) as error:
            if isinstance(error, OSError) and error.errno:
                return None  # the disk fails: the run itself may be whole
            with suppress(OSError):
                aside = self.journal.set_aside(uid)
                why = str(error).rstrip(".") if isinstance(error, PlanError) else reason(error)
                with self._lock:
                    self._damaged.append(f"A run or entry cannot be read ({why}): it is set aside as “{aside}”.")
            return None

    # delivering

    def deliver(self) -> int:
        """Write into the book all that is ready: runs that have ended, and entries; gives how many.

        What is written twice, since the program was killed in between, is in the book once: entries have names.

        Raises
        ------
        StoreError
            One sentence; the rest waits.
        """
        with self._delivering:
            self._keep_notes()
            with self._lock:
                waiting, self._unkept_entries = self._unkept_entries, []
            for at, (entry, files) in enumerate(waiting):
                try:
                    self._keep(entry, files)
                except StoreError:
                    with self._lock:
                        self._unkept_entries += waiting[at + 1 :]
                    raise
            count, refused = 0, ""
            for uid in self._uids():
                try:
                    count += self._deliver(uid)
                except StoreError:
                    raise
                except PlanError as error:  # this one never can; those after it do
                    refused = str(error)
            with self._lock:
                damaged, self._damaged = self._damaged, []
            if damaged:
                raise StoreError(" ".join(damaged))
            if refused:
                raise StoreError(f"An entry that waits is not taken by the log book, and stays where it is. {refused}")
            return count

    def _deliver(self, uid: str) -> int:
        found = self._read(uid)
        if found is None:
            return 0
        entry, kept = found
        if entry.kind == "run":
            record = record_of(kept.notes)
            if record.ended is None:
                return 0
            entry = ended(entry, record)
        try:
            files = self.journal.files(uid)
        except FileNotFoundError:
            return 0
        except OSError as error:
            raise StoreError(f"An entry that waits cannot be read ({reason(error)}).") from error
        from swaddon.store.book import Blob

        self.book().add([entry], {key: Blob(media, data) for key, (media, data) in files.items()})
        self.journal.forget(uid)
        return 1

    def waiting(self) -> int:
        """How many entries wait to come into the book."""
        count = len(self._unkept_entries)
        for uid in self._uids():
            found = self._read(uid)
            if found is not None:
                count += found[0].kind != "run" or record_of(found[1].notes).ended is not None
        return count

    def start(self, heard: Callable[[int, str], None]) -> None:
        """Deliver in the background from now on; ``heard`` gets how many came into the book, and what is wrong."""

        def loop() -> None:
            self.journal.sweep()
            while not self._ends:
                self._delivers = True  # before the call is taken: whoever looks in between sees one of the two
                self._wake.clear()
                try:
                    heard(self.deliver(), "")
                except StoreError as error:
                    heard(0, str(error))
                except Exception as error:  # the thread must live on
                    heard(0, f"The log book could not be written ({type(error).__name__}: {error}).")
                self._delivers = False
                self._wake.wait(RETRY_S)

        self._delivers = True
        self._thread = threading.Thread(target=loop, name="log", daemon=True)
        self._thread.start()

    def wake(self) -> None:
        """Something is ready: deliver it now."""
        self._wake.set()

    @property
    def is_idle(self) -> bool:
        """Whether all that was ready has been tried, and told."""
        return not self._wake.is_set() and not self._delivers


def ended(draft: Entry, record: Record) -> Entry:
    """The entry of a run that has ended."""
    began, end = record.began or 0.0, record.ended or 0.0
    happened = Happened(
        began=time_text(began),
        ended=time_text(end),
        good=min(record.good, MOST_COUNTED),
        spoiled=tuple((why[:300], min(count, MOST_COUNTED)) for why, count in record.spoiled[:100]),
        taken_s=round(record.worked_s(end), 1),
        paused_s=round(record.paused_s, 1),
        steps=record.step_times(),
        used=record.used,
    )
    return replace(draft, at=time_text(end), happened=happened)
