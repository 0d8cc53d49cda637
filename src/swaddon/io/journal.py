"""The journal: what waits to come into the log book, on this machine's disk, so that nothing is lost until it has.

Each run or entry has a folder of its own: ``draft.json`` (the entry as it was when it began), ``notes.jsonl`` (what
was noted since, a line each) and the files that the entry speaks of. The folder appears whole; a note is on the disk
before it counts; a line that was cut off when the program was killed is as good as not written.
"""

import json
import os
import shutil
import tempfile
from collections.abc import Iterator, Mapping
from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from swaddon.io.whole import PREFIX, remembered, wait_for_lock

_DRAFT, _NOTES = "draft.json", "notes.jsonl"
_LARGEST_DRAFT, _LARGEST_NOTES = 20_000_000, 50_000_000
_GOING, _DAMAGED = ".gone-", ".damaged-"
_LOCK_S = 0.2
_ENDED = b'"do":"end"'
"""As a note of the end lies on the disk; in a text its quotes would have a stroke before them."""


@dataclass(frozen=True)
class Kept:
    """What the journal holds of one run: its draft as JSON text, and the notes."""

    uid: str
    draft: bytes
    notes: tuple[dict[str, Any], ...]


class RunEndedError(Exception):
    """The run has ended, here or in another program: what is noted now is no longer of it."""


class Journal:
    """A folder of runs. Every method raises ``OSError`` where the disk fails, and then nothing has changed."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder

    def begin(
        self, uid: str, draft: bytes, files: Mapping[str, tuple[str, bytes]], first: Mapping[str, Any] | None = None
    ) -> None:
        """Keep a draft with its files, by key (media type and bytes), and a first note; all of it or nothing."""
        self.folder.mkdir(parents=True, exist_ok=True)
        part = Path(tempfile.mkdtemp(prefix=PREFIX, dir=self.folder))
        with remembered(part):
            try:
                for key, (media, data) in files.items():
                    _write(part / f"{key}.blob", media.encode() + b"\n" + data)
                if first is not None:
                    _write(part / _NOTES, _line(first))
                _write(part / _DRAFT, draft)
                part.rename(self.folder / uid)
                _sync(self.folder)
            except BaseException:
                shutil.rmtree(part, ignore_errors=True)
                raise

    def note(self, uid: str, note: Mapping[str, Any]) -> None:
        """Add a note to a run; raises ``RunEndedError`` where nothing more belongs to it.

        Notes of two programs wait for each other: what comes after the end is told apart from what came before it.
        """
        line, path = _line(note), self.folder / uid / _NOTES
        try:
            file = path.open("a+b")
        except FileNotFoundError as error:
            raise RunEndedError(uid) from error
        with file:
            wait_for_lock(file.fileno(), _LOCK_S)
            file.seek(0)
            data = file.read()  # of this very file, also where its folder was given another name meanwhile
            if _ENDED in data:
                raise RunEndedError(uid)
            whole = data.rfind(b"\n") + 1
            try:
                file.truncate(whole)
                file.write(line)
                file.flush()
                os.fsync(file.fileno())
            except OSError:
                with suppress(OSError):
                    file.truncate(whole)
                raise

    def uids(self) -> tuple[str, ...]:
        """All runs, the oldest first; what comes into the book meanwhile, here or from another bench, is gone."""
        found = []
        with suppress(FileNotFoundError):
            for path in self.folder.iterdir():
                if path.name[0] != ".":
                    with suppress(FileNotFoundError, NotADirectoryError):
                        found.append(((path / _DRAFT).stat().st_mtime_ns, path.name))
        return tuple(name for _, name in sorted(found))

    def kept(self, uid: str) -> Kept:
        """What is held of a run."""
        folder = self.folder / uid
        if (folder / _DRAFT).stat().st_size > _LARGEST_DRAFT:
            raise OSError(0, "the draft is too large")
        return Kept(uid, (folder / _DRAFT).read_bytes(), tuple(_notes(folder / _NOTES)))

    def files(self, uid: str) -> dict[str, tuple[str, bytes]]:
        """Files of a run by their keys: media type and bytes."""
        out = {}
        for path in sorted((self.folder / uid).glob("*.blob")):
            media, _, data = path.read_bytes().partition(b"\n")
            out[path.stem] = media.decode("ascii", "replace"), data
        return out

    def state(self) -> tuple[tuple[str, int], ...]:
        """What tells that another program has begun, noted or ended something: runs with the lengths of their notes."""
        out = []
        for uid in self.uids():
            try:
                out.append((uid, (self.folder / uid / _NOTES).stat().st_size))
            except OSError:
                out.append((uid, 0))
        return tuple(out)

    def set_aside(self, uid: str) -> Path:
        """Give a run that cannot be read another name, where it is found and not read again; gives where it lies."""
        aside = self.folder / f"{_DAMAGED}{uid}"
        (self.folder / uid).rename(aside)
        return aside

    def forget(self, uid: str) -> None:
        """Take a run away: it has come into the book."""
        gone = self.folder / f"{_GOING}{uid}"
        with suppress(FileNotFoundError):
            (self.folder / uid).rename(gone)
        shutil.rmtree(gone, ignore_errors=True)

    def sweep(self) -> None:
        """Take away what a killed program was about to take away."""
        with suppress(OSError):
            for path in self.folder.glob(f"{_GOING}*"):
                shutil.rmtree(path, ignore_errors=True)


def _line(note: Mapping[str, Any]) -> bytes:
    return json.dumps(note, separators=(",", ":")).encode() + b"\n"


def _write(path: Path, data: bytes) -> None:
    with path.open("xb") as file:
        file.write(data)
        file.flush()
        os.fsync(file.fileno())


def _sync(folder: Path) -> None:
    with suppress(OSError):
        handle = os.open(folder, os.O_RDONLY)
        try:
            os.fsync(handle)
        finally:
            os.close(handle)


def _notes(path: Path) -> Iterator[dict[str, Any]]:
    try:
        if path.stat().st_size > _LARGEST_NOTES:
            raise OSError(0, "the notes are too large")
        lines = path.read_bytes().split(b"\n")[:-1]
    except FileNotFoundError:
        return
    for line in lines:
        with suppress(ValueError):
            note = json.loads(line)
            if isinstance(note, dict):
                yield note
