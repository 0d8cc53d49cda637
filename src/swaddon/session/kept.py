"""What the shop keeps between sessions: the one door to its documents.

A document that cannot be read is told once, with what is used instead: what it said when it was last good, else what is
shipped. It is never written over: before the next one takes its place it is set aside under a name of its own. One that
cannot be written is told, stays in use, and is tried again.
"""

import contextlib
import datetime
import os
import shutil
import threading
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Any, Generic, TypeVar

from pydantic import BaseModel, ValidationError

from swaddon.core.errors import PlanError
from swaddon.io.names import shown
from swaddon.io.profiles import reason
from swaddon.io.whole import wait_for_lock, whole_file
from swaddon.session.folders import config_folder

Document = TypeVar("Document")
Model = TypeVar("Model", bound=BaseModel)
Stamp = tuple[int, int, int]

GOOD = "last-good"
_MOST_ASIDE = 99
_LOCK_S = 0.3


@dataclass(frozen=True)
class _Held:
    """A document as it was read; ``problem`` says what is wrong with its file, and what is used instead.

    Of a file that is not there, stamp and document are ``None``.
    """

    stamp: Stamp | None
    document: Any
    problem: str = ""


DECLARED: list["Kept[Any]"] = []
"""All kinds of documents that are kept."""

_held: dict[Path, _Held] = {}
_waiting: dict[Path, tuple["Kept[Any]", Any]] = {}
_news: list[str] = []
_outside: set[Path] = set()
"""What another program has changed, or the shop by hand, until somebody asks whether there was anything."""
_lock = threading.RLock()


@dataclass(frozen=True)
class Kept(Generic[Document]):
    """One kind of document.

    Attributes
    ----------
    what
        Its words, as a sentence begins with them: “The shop’s prices”.
    read
        Reads a file; raises ``PlanError``, ``OSError`` or ``ValueError``.
    write
        Writes a file; raises ``PlanError`` or ``OSError``.
    usual
        What is used where there is no file.
    instead
        What is used where a file was never good, as a sentence ends with it: “the shipped prices are used”.
    """

    what: str
    read: Callable[[Path], Document]
    write: Callable[[Path, Document], None]
    usual: Callable[[], Document]
    instead: str

    def __post_init__(self) -> None:
        DECLARED.append(self)

    def of(self, file: Path) -> Document:
        """What a file holds, else what is used instead of it."""
        own = self.own(file)
        return self.usual() if own is None else own

    def own(self, file: Path) -> Document | None:
        """What a file holds, or held when it was last good; ``None``: there is none, or it was never good."""
        with _lock:
            if file in _waiting:
                return _waiting[file][1]
            return self._look(file).document

    def problem(self, file: Path) -> str:
        """What is wrong with a file and what is used instead, in a sentence; empty: nothing."""
        with _lock:
            return self._look(file).problem

    def keep(self, file: Path, document: Document) -> None:
        """Write a document; raises ``PlanError`` with one sentence where it cannot be."""
        with _lock, _alone(file):
            self._write(file, document)

    def remove(self, file: Path) -> None:
        """Keep nothing there any more; best effort."""
        with _lock, contextlib.suppress(OSError):
            file.unlink(missing_ok=True)
            _waiting.pop(file, None)
            _held.pop(file, None)
            self._look(file)

    def change(self, file: Path, changed: Callable[[Document], Document]) -> None:
        """Read, change and write a document while no other program does; one that cannot be written is told."""
        with _lock:
            document = None
            try:
                with _alone(file):
                    document = changed(self.of(file))
                    self._write(file, document)
            except (PlanError, OSError) as error:
                text = str(error) if isinstance(error, PlanError) else f"{self.what} cannot be kept ({reason(error)})."
                _news.append(f"{text.rstrip('.')}: they hold in this session, and it is tried again.")
                _waiting[file] = (self, changed(self.of(file)) if document is None else document)

    def _look(self, file: Path) -> _Held:
        """The document as it lies on the disk; read only where the file is another."""
        stamp, held = _stamp(file), _held.get(file)
        if held is None or held.stamp != stamp:
            if held is not None:
                _outside.add(file)
            held = _held[file] = self._read(file, stamp)
        return held

    def _read(self, file: Path, stamp: Stamp | None) -> _Held:
        if stamp is None:
            return _Held(None, None)
        try:
            document = self.read(file)
        except (PlanError, OSError, ValueError) as error:
            why = str(error).rstrip(".") if isinstance(error, PlanError) else ""
            if isinstance(error, OSError):
                why = f"{self.what} in “{shown(file)}” cannot be read ({reason(error)})"
            why = why or f"{self.what} in “{shown(file)}” cannot be read: the file is damaged"
            good, day = self._last_good(file)
            instead = f"as it was on {day} it is used" if good is not None else self.instead
            problem = f"{why}; {instead}. Mend the file: it is never written over."
            _news.append(problem)
            return _Held(stamp, good, problem)
        _keep_good(file)
        return _Held(stamp, document)

    def _last_good(self, file: Path) -> tuple[Document | None, str]:
        """The document of before, and its day."""
        good = _good(file)
        try:
            return self.read(good), datetime.date.fromtimestamp(good.stat().st_mtime).isoformat()
        except (PlanError, OSError, ValueError):
            return None, ""

    def _write(self, file: Path, document: Document) -> None:
        try:
            file.parent.mkdir(parents=True, exist_ok=True)
            aside = _set_aside(file) if self._look(file).problem else None
            try:
                self.write(file, document)
            except BaseException:
                if aside is not None:
                    aside.unlink(missing_ok=True)
                raise
            if aside is not None:
                _news.append(f"“{shown(file)}” could not be read: it lies beside the new one as “{aside.name}”.")
        except OSError as error:
            raise PlanError(f"{self.what} cannot be kept in “{shown(file)}” ({reason(error)}).") from error
        _waiting.pop(file, None)
        _keep_good(file)
        _held.pop(file, None)
        self._look(file)


def of_model(model: type[Model], what: str, instead: str) -> Kept[Model]:
    """Documents that are JSON, checked by a model with a version in its ``schema``."""

    def read(file: Path) -> Model:
        try:
            return model.model_validate_json(file.read_bytes())
        except ValidationError as error:
            first = error.errors()[0]
            where = ".".join(str(part) for part in first["loc"])
            place = f" at {where}" if where else ""
            raise PlanError(f"{what} in “{shown(file)}” cannot be read{place}: {first['msg'].lower()}") from error

    def write(file: Path, document: Model) -> None:
        write_bytes(file, document.model_dump_json(indent=1, by_alias=True).encode("utf-8"))

    return Kept(what, read, write, model, instead)


def news() -> tuple[str, ...]:
    """What is to be told since it was last asked, each once."""
    with _lock:
        out = tuple(_news)
        _news.clear()
        return out


def forget() -> None:
    """Begin as a program does that has just started."""
    with _lock:
        for held in (_held, _waiting, _news, _outside):
            held.clear()


def try_again() -> None:
    """Write what could not be written; what still cannot be goes on waiting."""
    with _lock:
        for file, (kept, document) in list(_waiting.items()):
            with contextlib.suppress(PlanError, OSError):
                kept.keep(file, document)
                _news.append(f"{kept.what} are kept again, in “{shown(file)}”.")


def has_changed() -> bool:
    """Whether a document is another since this was last asked, by another hand than this program's."""
    with _lock:
        for file in [file for file, held in _held.items() if _stamp(file) != held.stamp]:
            del _held[file]
            _outside.add(file)
        found = bool(_outside)
        _outside.clear()
        return found


def write_bytes(file: Path, data: bytes) -> None:
    """Write a small document whole; raises ``OSError``."""
    with whole_file(file) as out:
        out.write(data)


def _stamp(file: Path) -> Stamp | None:
    """What tells this state of a file from others; ``None``: there is none."""
    try:
        found = file.stat()
    except FileNotFoundError:
        return None
    except OSError:
        return (0, 0, 0)
    return found.st_mtime_ns, found.st_size, found.st_ino


def _good(file: Path) -> Path:
    """Where a copy of what was last good lies."""
    folder = config_folder()
    place = file.relative_to(folder) if file.is_relative_to(folder) else Path(file.name)
    return folder / GOOD / place


def _keep_good(file: Path) -> None:
    """Keep a copy of what is good; best effort, since it only serves when something goes wrong later."""
    good = _good(file)
    with contextlib.suppress(OSError):
        data = file.read_bytes()
        if not good.is_file() or good.read_bytes() != data:
            good.parent.mkdir(parents=True, exist_ok=True)
            write_bytes(good, data)


def _set_aside(file: Path) -> Path:
    """Copy a damaged file beside its place; raises ``OSError``.

    It stays in its place until the new one is written whole: a missing file would count as what is shipped.
    """
    for count in range(1, _MOST_ASIDE + 1):
        aside = file.with_name(f"{file.name}.damaged-{count}")
        if not aside.exists():
            shutil.copy2(file, aside)
            return aside
    raise OSError(f"there are {_MOST_ASIDE} damaged files beside it")


@contextlib.contextmanager
def _alone(file: Path) -> Iterator[None]:
    """Let no other program change documents of this folder meanwhile."""
    handle = -1
    with contextlib.suppress(OSError):
        file.parent.mkdir(parents=True, exist_ok=True)
        handle = os.open(file.parent / ".lock", os.O_RDWR | os.O_CREAT | os.O_CLOEXEC, 0o644)
        wait_for_lock(handle, _LOCK_S)
    try:
        yield
    finally:
        if handle >= 0:
            os.close(handle)
