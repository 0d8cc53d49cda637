"""Copies of unsaved work against a crash, and the list to choose from after one.

Each running program keeps its copies in a folder of its own, under a lock that ends with the program. A copy lives
until its job is saved or discarded by the person; a recovered job takes its copy along, so that a second crash loses
nothing.
"""

import json
import os
import secrets
import shutil
from contextlib import suppress
from dataclasses import dataclass
from datetime import datetime
from pathlib import Path

from PySide6.QtCore import QLockFile, Qt, Signal, SignalInstance
from PySide6.QtWidgets import QDialog, QListWidget, QListWidgetItem, QVBoxLayout, QWidget

from swaddon.io.jobfile import SUFFIX
from swaddon.session import storage
from swaddon.session.folders import recovery_folder
from swaddon.session.job import Job
from swaddon.ui.widgets import button, label, row


@dataclass(frozen=True)
class LeftCopy:
    """A copy that a program left behind: its file, the job's name, when it was kept, and where the job came from."""

    file: Path
    name: str
    kept_at: str
    origin: Path | None

    @property
    def title(self) -> str:
        """One line for the list."""
        where = f", from {self.origin.name}" if self.origin is not None else ", never saved"
        return f"{self.name} – kept {self.kept_at}{where}"


class Copies:
    """This program's own copies, and those that others left."""

    def __init__(self) -> None:
        self._home = recovery_folder() / f"run-{os.getpid()}-{secrets.token_hex(4)}"
        self._lock: QLockFile | None = None
        self._claims: list[QLockFile] = []

    def keep(self, jobs: dict[int, tuple[Job, Path | None]]) -> None:
        """Keep these jobs, by their uid, and no others; raises ``PlanError`` or ``OSError``."""
        self._open()
        for uid, (job, origin) in jobs.items():
            storage.save_job(self._file(uid), job)
            text = {"name": job.name, "origin": None if origin is None else str(origin)}
            self._file(uid).with_suffix(".json").write_text(json.dumps(text), encoding="utf-8")
        for old in self._home.glob(f"*{SUFFIX}"):
            if old.stem.isdigit() and int(old.stem) not in jobs:
                self._remove(old)

    def drop(self, uid: int) -> None:
        """The job was saved or discarded."""
        self._remove(self._file(uid))

    def left(self) -> list[LeftCopy]:
        """Copies of programs that are no longer running, newest first."""
        found: list[LeftCopy] = []
        with suppress(OSError):
            for home in sorted(recovery_folder().iterdir()):
                if home != self._home and home.is_dir() and self._is_left(home):
                    found.extend(_told(file) for file in sorted(home.glob(f"*{SUFFIX}")))
        return sorted(found, key=lambda copy: copy.kept_at, reverse=True)

    def claim(self, copy: LeftCopy, uid: int) -> None:
        """A left copy belongs to a job of this program from now on."""
        self._open()
        with suppress(OSError):
            os.replace(copy.file, self._file(uid))
            notes = copy.file.with_suffix(".json")
            if notes.exists():
                os.replace(notes, self._file(uid).with_suffix(".json"))
            self._tidy(copy.file.parent)

    def discard(self, copy: LeftCopy) -> None:
        """The person does not want it."""
        self._remove(copy.file)
        self._tidy(copy.file.parent)

    def close(self) -> None:
        """The program ends on purpose, all its jobs saved or discarded."""
        for claim in self._claims:
            claim.unlock()
        if self._lock is not None:
            self._lock.unlock()
            shutil.rmtree(self._home, ignore_errors=True)
            self._lock = None

    def _open(self) -> None:
        if self._lock is None:
            self._home.mkdir(parents=True, exist_ok=True)
            self._lock = QLockFile(str(self._home / "lock"))
            self._lock.setStaleLockTime(0)
            self._lock.tryLock(0)

    def _is_left(self, home: Path) -> bool:
        lock = QLockFile(str(home / "lock"))
        lock.setStaleLockTime(0)
        if not lock.tryLock(0):
            return any(claim.fileName() == lock.fileName() for claim in self._claims)
        self._claims.append(lock)
        return True

    def _file(self, uid: int) -> Path:
        return self._home / f"{uid}{SUFFIX}"

    def _remove(self, file: Path) -> None:
        with suppress(OSError):
            file.unlink(missing_ok=True)
            file.with_suffix(".json").unlink(missing_ok=True)

    def _tidy(self, home: Path) -> None:
        """Take a left folder away once nothing is in it."""
        if any(home.glob(f"*{SUFFIX}")):
            return
        for claim in [claim for claim in self._claims if Path(claim.fileName()).parent == home]:
            claim.unlock()
            self._claims.remove(claim)
        shutil.rmtree(home, ignore_errors=True)


def _told(file: Path) -> LeftCopy:
    name, origin = file.stem, None
    with suppress(OSError, ValueError, AttributeError):
        notes = json.loads(file.with_suffix(".json").read_text(encoding="utf-8"))
        name = str(notes.get("name") or name)
        origin = Path(notes["origin"]) if notes.get("origin") else None
    kept = datetime.fromtimestamp(file.stat().st_mtime)
    return LeftCopy(file, name, f"{kept:%Y-%m-%d %H:%M}", origin)


class RecoveryList(QDialog):
    """What a program that did not close properly left; nothing is lost by closing it."""

    wanted = Signal(list)
    unwanted = Signal(list)

    def __init__(self, window: QWidget, copies: list[LeftCopy]) -> None:
        super().__init__(window)
        self.setWindowTitle("Unsaved work")
        self.setMinimumWidth(520)
        self._copies = copies
        self.list = QListWidget()
        self.list.setAccessibleName("Jobs that were not saved")
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        for copy in copies:
            item = QListWidgetItem(copy.title)
            item.setFlags(item.flags() | Qt.ItemFlag.ItemIsUserCheckable)
            item.setCheckState(Qt.CheckState.Checked)
            self.list.addItem(item)
        self.open_them = button("Open these", "primary")
        self.discard = button("Discard these")
        self.later = button("Decide later")
        self.open_them.clicked.connect(lambda: self._end(self.wanted))
        self.discard.clicked.connect(lambda: self._end(self.unwanted))
        self.later.clicked.connect(self.reject)
        text = (
            "Swaddon did not close properly. These jobs had changes that were not saved; each is as it was at the time "
            "beside it. What you leave alone is kept and offered again next time."
        )
        layout = QVBoxLayout(self)
        layout.setContentsMargins(20, 16, 20, 16)
        layout.setSpacing(12)
        for part in (label(text, wrap=True), self.list, row(self.later, 1, self.discard, self.open_them)):
            layout.addWidget(part)

    def _end(self, text: SignalInstance) -> None:
        chosen = [
            copy
            for index, copy in enumerate(self._copies)
            if self.list.item(index).checkState() == Qt.CheckState.Checked
        ]
        self.accept()
        text.emit(chosen)
