"""What the operator asks to be written: the one door through which commands and bench put out files.

Nothing goes for an output but what this program wrote itself and nobody changed since. What is read (artwork, orders, a
scan …), the log book and jobs in use never go, whatever was agreed to. A folder proves that it is ours by its manifest,
which holds what its files were made of and the digest of each; a single file by its digest in the shop's list of what
was written. Two outputs to one target wait for each other, and each is checked once it has the target for itself.
"""

import fcntl
import hashlib
import json
import os
import threading
import time
from collections.abc import Iterable, Iterator
from contextlib import contextmanager, suppress
from pathlib import Path
from typing import Any, BinaryIO

import platformdirs

from swaddon.core.errors import PlanError
from swaddon.io.whole import PREFIX, whole_file, whole_set

MANIFEST = "swaddon-files.json"
"""Beside the files of a set: what they are of, and the digest of each."""

SCHEMA = "swaddon-files/1"
_WAIT_S, _WINDOW_WAIT_S, _POLL_S = 20.0, 0.1, 0.02
"""How long an output waits for another one of the same target; a window's own thread hardly does."""

_MOST_REMEMBERED = 2000
_LISTED = 6

_NOT_OURS = "is there already, and Swaddon did not write it or it was changed since: give another name"

_lock = threading.RLock()
_protected: dict[Path, str] = {}
_confirmed: set[Path] = set()
_replaces, _has_window = threading.Event(), threading.Event()


class WouldReplace(PlanError):  # noqa: N818 - what would happen, no failure
    """Files lie there that this program did not write, or that were changed since; ``files`` are their paths."""

    def __init__(self, text: str, files: tuple[Path, ...]) -> None:
        super().__init__(text)
        self.files = files


def begin(has_window: bool = False) -> None:
    """Nothing is in use yet, nothing was agreed to: a command begins, or a window, whose own thread must not wait."""
    with _lock:
        _protected.clear()
        _confirmed.clear()
    _replaces.clear()
    (_has_window.set if has_window else _has_window.clear)()


def protect(path: Path, what: str) -> None:
    """Let nothing be written over a file that is in use; ``what`` it is, in a few words."""
    with _lock:
        _protected[path.resolve()] = what


def release(path: Path) -> None:
    """The file is no longer in use."""
    with _lock:
        _protected.pop(path.resolve(), None)


def replace_all(replaces: bool = True) -> None:
    """Whether the operator agreed to replace files that are there, for all outputs of this command."""
    _replaces.set() if replaces else _replaces.clear()


def confirm(path: Path) -> None:
    """The operator agreed to replace this file, or what collides in this folder: for the next output to it."""
    with _lock:
        _confirmed.add(path.resolve())


def check_free(path: Path) -> None:
    """Raise where a path is something in use: by its name, or by a link to it."""
    here = _identity(path)
    with _lock:
        for kept, what in _protected.items():
            if path.resolve() == kept or (here is not None and here == _identity(kept)):
                raise PlanError(f"“{path}” is {what}: it stays as it is; give another name.")


@contextmanager
def output_file(path: Path, owned: bool = False) -> Iterator[BinaryIO]:
    """Open a file that takes its place whole when the block ends well.

    ``owned``: what is there belongs to what is written, as a job's own file does when it is saved.

    Raises
    ------
    PlanError
        It is in use, it is there and not ours (:class:`WouldReplace`), or another program is writing it.
    OSError
        The folder cannot be written, or the disk is full.
    """
    with _alone(path):
        check_file(path, _agreed(path) or owned or _is_kept_by_us(path))
        with whole_file(path) as file:
            yield file
        _remember(path)


@contextmanager
def output_set(folder: Path, of: str, names: Iterable[str] = ()) -> Iterator[Path]:
    """A temporary folder whose files all take their places in ``folder`` when the block ends well; else none does.

    Files of an earlier set of the same thing that are not among the new ones go. ``names``, where they are known, are
    checked before the work begins; what was really written is checked before it takes its place.

    Parameters
    ----------
    of
        Key of what is put out: its content, not its name.
    """
    with _alone(folder):
        agreed = _agreed(folder)
        check_set(folder, of, names, agreed)
        held = _manifest(folder)
        stale = tuple(held["files"]) if held is not None and (held["of"] == of or agreed) else ()
        with whole_set(folder, (*stale, MANIFEST)) as part:
            yield part
            written = sorted(path.name for path in part.iterdir() if path.is_file())
            check_set(folder, of, (*written, *stale), agreed)
            text = {"schema": SCHEMA, "of": of, "files": {name: _digest(part / name) for name in written}}
            (part / MANIFEST).write_text(json.dumps(text, indent=2) + "\n", encoding="utf-8")


@contextmanager
def output_group(folder: Path) -> Iterator[Path]:
    """A temporary folder whose files take their places in ``folder`` together, each checked as a single file is."""
    with _alone(folder):
        with whole_set(folder, ()) as part:
            yield part
            written = [folder / path.name for path in sorted(part.iterdir()) if path.is_file()]
            foreign = []
            for path in written:
                check_free(path)
                if not _agreed(path) and path.exists() and _remembered(path) != _digest(path):
                    foreign.append(path)
            if foreign:
                raise WouldReplace(f"{_listed(foreign)} {_NOT_OURS}", tuple(foreign))
        for path in written:
            _remember(path)


def check_file(path: Path, agreed: bool = False) -> None:
    """Raise where a file that is in use would go, or one that is not ours: also before long work for it begins."""
    check_free(path)
    agreed = agreed or _replaces.is_set()
    if not agreed and path.exists() and _remembered(path) != _digest(path):
        raise WouldReplace(f"“{path}” {_NOT_OURS}", (path,))


def check_set(folder: Path, of: str, names: Iterable[str], agreed: bool = False) -> None:
    """Raise where files of a set would go that are in use, or that the folder does not prove to be of this thing."""
    there = [folder / name for name in sorted(set(names)) if (folder / name).exists()]
    for path in there:
        check_free(path)
    if agreed:
        return
    held = _manifest(folder)
    if held is not None and held["of"] != of and there:
        text = f"“{folder}” holds what was put out of something else ({_listed(there)}): give another folder"
        raise WouldReplace(text, tuple(there))
    known = {} if held is None else held["files"]
    foreign = [path for path in there if known.get(path.name) != _digest(path)]
    if foreign:
        text = (
            f"“{folder}” holds {_listed(foreign)}, which Swaddon did not write there or which was changed since: give "
            "another folder"
        )
        raise WouldReplace(text, tuple(foreign))


def _listed(paths: list[Path]) -> str:
    names = [path.name for path in paths]
    more = f" and {len(names) - _LISTED} more" if len(names) > _LISTED else ""
    return ", ".join(names[:_LISTED]) + more


def _agreed(path: Path) -> bool:
    """Whether replacing was agreed to; an agreement for one path holds once."""
    with _lock:
        once = path.resolve() in _confirmed
        _confirmed.discard(path.resolve())
    return once or _replaces.is_set()


def _manifest(folder: Path) -> dict[str, Any] | None:
    """What lies in a folder by its manifest; one that cannot be read proves nothing."""
    try:
        held = json.loads((folder / MANIFEST).read_text(encoding="utf-8"))
        if held["schema"] == SCHEMA and isinstance(held["of"], str):
            return {"of": held["of"], "files": {str(name): str(value) for name, value in held["files"].items()}}
    except (OSError, ValueError, KeyError, TypeError, AttributeError, RecursionError):
        pass
    return None


def _digest(path: Path) -> str:
    """SHA-256 of a file; of what is none, nothing that a file could have."""
    try:
        with path.open("rb") as file:
            return hashlib.file_digest(file, "sha256").hexdigest()
    except OSError:
        return "unreadable"


def _identity(path: Path) -> tuple[int, int] | None:
    try:
        found = path.stat()
    except OSError:
        return None
    return found.st_dev, found.st_ino


def _is_kept_by_us(path: Path) -> bool:
    """Whether a file lies where the shop's own documents are kept: they are changed through us, or by hand."""
    homes = (
        os.environ.get("SWADDON_CONFIG") or platformdirs.user_config_path("swaddon"),
        os.environ.get("SWADDON_DATA") or platformdirs.user_data_path("swaddon"),
    )
    return any(path.resolve().is_relative_to(Path(home).resolve()) for home in homes)


# what was written, and one at a time


def _home() -> Path:
    return Path(os.environ.get("SWADDON_CACHE") or platformdirs.user_cache_path("swaddon")) / "outputs"


def _remembered(path: Path) -> str | None:
    with suppress(OSError, ValueError, AttributeError):
        return json.loads((_home() / "written.json").read_text(encoding="utf-8")).get(str(path.resolve()))
    return None


def _remember(path: Path) -> None:
    """Note what was written; a list that cannot be kept only asks once more. What is in a set yet is told by that."""
    if path.parent.name.startswith(PREFIX):
        return
    with suppress(OSError, PlanError), _alone(_home() / "written.json"):
        held: dict[str, str] = {}
        with suppress(OSError, ValueError):
            held = dict(json.loads((_home() / "written.json").read_text(encoding="utf-8")))
        held.pop(str(path.resolve()), None)
        held[str(path.resolve())] = _digest(path)
        kept = dict(list(held.items())[-_MOST_REMEMBERED:])
        with whole_file(_home() / "written.json") as file:
            file.write(json.dumps(kept).encode("utf-8"))


@contextmanager
def _alone(target: Path) -> Iterator[None]:
    """Have a target for oneself, among the threads of this program and among programs; locks lie in the cache.

    Where no lock can be made (a cache that cannot be written), outputs are not held up for it.
    """
    try:
        home = _home()
        home.mkdir(parents=True, exist_ok=True)
        name = hashlib.sha256(os.fsencode(target.resolve())).hexdigest()[:32]
        handle = os.open(home / f"{name}.lock", os.O_RDWR | os.O_CREAT, 0o644)
    except OSError:
        yield
        return
    try:
        at_once = _has_window.is_set() and threading.current_thread() is threading.main_thread()
        end = time.monotonic() + (_WINDOW_WAIT_S if at_once else _WAIT_S)
        while True:
            try:
                fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
                break
            except OSError as error:
                if time.monotonic() > end:
                    raise PlanError(
                        f"“{target}” is being written by another output: try again when it is done."
                    ) from error
                time.sleep(_POLL_S)
        yield
    finally:
        os.close(handle)
