"""Files and folders written whole or not at all, and what a killed program left half written."""

import fcntl
import os
import secrets
import shutil
import tempfile
import time
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from pathlib import Path
from typing import BinaryIO, cast

import platformdirs

_MODE = 0o644
PREFIX = ".swaddon-"


def wait_for_lock(handle: int, most_s: float) -> None:
    """Be the only program with this file in its hand, for as long as it is open.

    One that stands still with it, or a file system without locks, is not waited for longer than this.
    """
    end = time.monotonic() + most_s
    with suppress(OSError):
        while True:
            try:
                fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
                return
            except BlockingIOError:
                if time.monotonic() > end:
                    return
                time.sleep(0.005)


@contextmanager
def whole_file(path: Path) -> Iterator[BinaryIO]:
    """Open a file that takes the place of ``path`` when the block ends well; else ``path`` stays as it was.

    The new file keeps the permissions of the old one; a first one is readable by all. It is on the disk, not only on
    its way there, before it takes the place of the old one. Folders must exist.

    Raises
    ------
    OSError
        When the folder cannot be written or the disk is full.
    """
    mode = path.stat().st_mode & 0o777 if path.exists() else _MODE
    with tempfile.NamedTemporaryFile(dir=path.parent, prefix=PREFIX, delete=False) as file:
        part = Path(file.name)
        with remembered(part):
            try:
                yield cast(BinaryIO, file)
                file.flush()
                os.fsync(file.fileno())
                file.close()
                part.chmod(mode)
                os.replace(part, path)
                _sync_folder(path.parent)
            except BaseException:
                part.unlink(missing_ok=True)
                raise


@contextmanager
def whole_set(folder: Path, known: tuple[str, ...]) -> Iterator[Path]:
    """A temporary folder whose files all take their places in ``folder`` when the block ends well; else none does.

    Files of ``known`` names that are not among them are taken away, so that no file of an earlier set stays beside.
    A folder that was made for it goes again when it fails.
    """
    made = _first_missing(folder)
    try:
        folder.mkdir(parents=True, exist_ok=True)
        part = Path(tempfile.mkdtemp(prefix=PREFIX, dir=folder))
        with remembered(part):
            try:
                yield part
                _put_in_place(part, folder, known)
            finally:
                shutil.rmtree(part, ignore_errors=True)
    except BaseException:
        if made is not None:
            shutil.rmtree(made, ignore_errors=True)
        raise


def _first_missing(folder: Path) -> Path | None:
    """The topmost folder that making this one would make."""
    if folder.exists():
        return None
    while not folder.parent.exists():
        folder = folder.parent
    return folder


def _put_in_place(part: Path, folder: Path, known: tuple[str, ...]) -> None:
    new = sorted(path.name for path in part.iterdir())
    aside = part / "aside"
    aside.mkdir()
    done: list[str] = []
    try:
        for name in {*new, *known}:
            if (folder / name).exists():
                os.replace(folder / name, aside / name)
        for name in new:
            os.replace(part / name, folder / name)
            done.append(name)
    except BaseException:
        for name in done:
            (folder / name).unlink(missing_ok=True)
        for old in aside.iterdir():
            os.replace(old, folder / old.name)
        raise


def _sync_folder(folder: Path) -> None:
    with suppress(OSError):
        handle = os.open(folder, os.O_RDONLY)
        try:
            os.fsync(handle)
        finally:
            os.close(handle)


# what a killed program leaves


def _notes() -> Path:
    return Path(os.environ.get("SWADDON_CACHE") or platformdirs.user_cache_path("swaddon")) / "unfinished"


@contextmanager
def remembered(part: Path) -> Iterator[None]:
    """Note a half-written file or folder, so that a later start takes it away when this program is killed."""
    note = _notes() / f"{os.getpid()}-{secrets.token_hex(6)}"
    with suppress(OSError):
        note.parent.mkdir(parents=True, exist_ok=True)
        note.write_bytes(os.fsencode(part.absolute()))
    try:
        yield
    finally:
        with suppress(OSError):
            note.unlink(missing_ok=True)


def sweep() -> None:
    """Take away what programs that are no longer running left half written."""
    with suppress(OSError):
        for note in list(_notes().iterdir()):
            pid = note.name.partition("-")[0]
            if pid.isdigit() and not _is_running(int(pid)):
                _take_away(Path(os.fsdecode(note.read_bytes())))
                note.unlink(missing_ok=True)


def _take_away(part: Path) -> None:
    if not part.name.startswith(PREFIX):
        return
    if not part.is_dir():
        part.unlink(missing_ok=True)
        return
    aside = part / "aside"
    if aside.is_dir():
        for old in aside.iterdir():
            if not (part.parent / old.name).exists():
                os.replace(old, part.parent / old.name)
    shutil.rmtree(part, ignore_errors=True)


def _is_running(pid: int) -> bool:
    try:
        os.kill(pid, 0)
    except ProcessLookupError:
        return False
    except OSError:
        return True
    return True
