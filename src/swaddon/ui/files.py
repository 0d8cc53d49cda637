"""Files of the bench: placing, opening, saving, exporting, the unsaved-changes guard, recovery after a crash."""

from collections.abc import Callable, Sequence
from functools import partial
from pathlib import Path

from PySide6.QtCore import QBuffer, QByteArray, QIODevice, QMimeData, QTimer
from PySide6.QtGui import QGuiApplication, QImage, QImageWriter
from PySide6.QtWidgets import QFileDialog

from swaddon.core.engine import Superseded
from swaddon.core.errors import PlanError
from swaddon.core.press.processes import USUAL
from swaddon.io import profiles
from swaddon.io.images import SUFFIXES, decode_artwork
from swaddon.io.jobfile import SUFFIX
from swaddon.io.names import shown
from swaddon.session import demo, edits, shop, storage
from swaddon.session.desk import Desk
from swaddon.session.job import ArtworkFile, Job, TileFile
from swaddon.session.session import Edit, Session, Stamp
from swaddon.session.tray import Tray
from swaddon.ui.actions import Actions
from swaddon.ui.asking import Answer, Newer, ask_newer, ask_unsaved
from swaddon.ui.exporting import Exporting
from swaddon.ui.reading import Reader
from swaddon.ui.recovery import Copies, LeftCopy, RecoveryList
from swaddon.ui.saving import save_name
from swaddon.ui.shell import Shell
from swaddon.ui.widgets import fill

_PICTURES = f"Artwork ({' '.join('*' + suffix for suffix in SUFFIXES)});;All files (*)"
_JOBS = f"Swaddon jobs (*{SUFFIX})"
_AUTOSAVE_MS = 20_000


class JobFiles:
    """File intents; the slow part runs in the background."""

    def __init__(self, window: Shell, session: Session, desk: Desk) -> None:
        self._window, self._session, self._desk = window, session, desk
        self.tray = Tray(session)
        self.exporting = Exporting(window, session, desk)
        self.copies = Copies()
        self.recovery_list: RecoveryList | None = None
        self._kept: tuple[Job, ...] = ()
        self._warned_unkept = False
        self._timer = QTimer(window)
        self._timer.setInterval(_AUTOSAVE_MS)
        self._timer.timeout.connect(self.autosave)
        self._timer.start()
        self.ask_unsaved: Callable[[], Answer] = partial(ask_unsaved, window, session)
        self.ask_newer: Callable[[Path], Newer] = partial(ask_newer, window)
        self.read = Reader(window, desk)

    # artwork

    def choose_artwork(self) -> None:
        name, _ = QFileDialog.getOpenFileName(self._window, "Place artwork", "", _PICTURES)
        if name:
            self.load_artwork(Path(name))

    def load_artwork(self, path: Path) -> None:
        self._place_later(lambda: storage.load_artwork(path))

    def paste(self) -> None:
        """Artwork from the clipboard: a copied file, or a picture."""
        mime: QMimeData | None = QGuiApplication.clipboard().mimeData()
        urls = [] if mime is None else mime.urls()
        files = [Path(url.toLocalFile()) for url in urls if url.isLocalFile()]
        if files:
            self.drop(files[0])
            return
        image = QGuiApplication.clipboard().image()
        if image.isNull():
            self._window.tell("There is no picture on the clipboard: copy one, or place a file.")
            return
        data = _png_of(image)
        self._place_later(lambda: ArtworkFile(decode_artwork(data, "pasted.png"), data))

    def drop(self, path: Path) -> None:
        if path.suffix.lower() == SUFFIX:
            self.open_job(path)
        else:
            self.load_artwork(path)

    def drop_all(self, paths: Sequence[Path]) -> None:
        """One file as ever; several become several jobs, each ordered like the one on the bench."""
        if len(paths) == 1:
            self.drop(paths[0])
            return
        like = self._session.job

        def load() -> tuple[list[tuple[Job, Path | None]], list[str]]:
            opened: list[tuple[Job, Path | None]] = []
            refused = []
            for path in paths:
                try:
                    opened.append(storage.opened_like(path, like))
                except PlanError as error:
                    refused.append(str(error))
            return opened, refused

        self.read(load, lambda result: self._several(like, *result))

    def _several(self, like: Job, opened: list[tuple[Job, Path | None]], refused: list[str]) -> None:
        begins_empty = self._session.job.file is None and self._session.job is like
        fresh = [(job, path) for job, path in opened if path is None or self.tray.index_of(path) is None]
        for job, path in fresh:
            self.tray.add(job, path, None if path is None else storage.stamp_of(path))
        if fresh:
            first = self.tray.current
            self.tray.switch(len(self.tray) - len(fresh))
            if begins_empty:
                self.tray.forget(first)
        self._window.job_bar.show_tray(self.tray)
        text = f"{len(fresh)} jobs came in; choose among them beside the job’s name, or with Ctrl+PgDown. "
        self._window.tell(" ".join([text if fresh else "", *refused]).strip())

    def add_jobs(self, jobs: Sequence[Job]) -> None:
        """Put jobs into the tray, not saved yet; the bench stays with its own."""
        for job in jobs:
            self.tray.add(job)
        self._window.job_bar.show_tray(self.tray)

    def show_menus(self, actions: Actions) -> None:
        """Jobs that were open lately, and those that are open now."""
        fill(
            actions.recent,
            [(Path(name).name, partial(self._recent, Path(name))) for name in self._window.preferences.recent],
        )
        titles = self.tray.titles()
        fill(actions.open_jobs, [(title, partial(self.tray.switch, index)) for index, title in enumerate(titles)])

    def _recent(self, path: Path) -> None:
        self._window.commit_typing()
        self.open_job(path)

    def next_job(self) -> None:
        self.tray.step(1)

    def close_job(self) -> None:
        """Take the job off the bench; the last one leaves an empty bench."""
        if not self.may_leave_job():
            return
        self.copies.drop(self._session.uid)
        if len(self.tray) > 1:
            self.tray.close()
            self._window.job_bar.show_tray(self.tray)
        else:
            self._session.open(Job(profile=shop.press(USUAL)), None)
        self._window.forget_closed()
        self._window.tell("")

    def show_page(self, page: int) -> None:
        """Take another page of the artwork's file."""
        file = self._session.job.file
        if file is not None:
            shown, uid = file, self._session.uid
            self.read(
                lambda: storage.other_page(shown, page),
                lambda other: self._land(uid, edits.show_page(other), f"Page {page}"),
            )

    def choose_tile(self, then: Callable[[str], None]) -> None:
        name, _ = QFileDialog.getOpenFileName(self._window, "Add a pattern tile", "", "Black-on-white PNG (*.png)")
        if name:
            self.load_tile(Path(name), then)

    def load_tile(self, path: Path, then: Callable[[str], None]) -> None:
        """Add a tile to the job, then do something with its name."""

        uid = self._session.uid

        def added(tile: TileFile) -> None:
            self._land(uid, edits.add_tile(tile), f"The tile {tile.art.name}")
            if uid == self._session.uid:
                then(tile.art.name)

        self.read(lambda: storage.load_tile(path), added)

    def _place_later(self, load: Callable[[], ArtworkFile]) -> None:
        uid = self._session.uid

        def place(file: ArtworkFile) -> None:
            edit = edits.place_artwork(file, shop.press(USUAL))
            self._land(uid, edit, f"“{file.artwork.file_name}”")

        self.read(load, place)

    def _land(self, uid: int, edit: Edit, what: str) -> None:
        """Make an edit whose work is done to the job that asked for it, wherever that is by now."""
        here = uid == self._session.uid
        if not self.tray.apply(uid, edit, "artwork"):
            self._window.tell(f"{what} was not placed: the job that it was for is no longer open. Place it again.")
        elif not here:
            self._window.job_bar.show_tray(self.tray)
            self._window.tell(f"{what} came into the job that asked for it, which lies beside this one.")

    # jobs

    def new(self) -> None:
        if self.may_leave_job():
            self._session.open(Job(profile=shop.press(USUAL)), None)
            self._window.tell("")

    def choose_job(self) -> None:
        name, _ = QFileDialog.getOpenFileName(self._window, "Open job", "", _JOBS)
        if name:
            self.open_job(Path(name))

    def choose_profile(self) -> None:
        """A press profile of one's own, from a file."""
        name, _ = QFileDialog.getOpenFileName(self._window, "Open press profile", "", "Press profile (*.toml)")
        if name:
            self.open_profile(Path(name))

    def open_profile(self, path: Path) -> None:
        try:
            press = profiles.load(str(path))
        except PlanError as error:
            self._window.tell(str(error))
        else:
            self._session.apply(edits.set_profile(press))

    def open_job(self, path: Path, line: int = 0) -> None:
        index = self.tray.index_of(path)
        if index is not None:
            self.tray.switch(index)
            self._window.job_bar.show_tray(self.tray)
            self._window.tell(f"“{shown(path)}” is open already: this is it.")
        elif self.may_leave_job():
            stamp = storage.stamp_of(path)
            self._open_later(lambda: storage.open_job(path).turned_to(line), path, stamp)

    def open_demo(self, key: str) -> None:
        if self.may_leave_job():
            self._open_later(lambda: demo.demo_job(key), None, None)

    def _open_later(self, load: Callable[[], Job], path: Path | None, stamp: Stamp | None) -> None:
        """Open a job in the place of the one on the bench; beside it, when that is not as it was by then."""
        leaving, uid = self._session.job, self._session.uid

        def opened(job: Job) -> None:
            if self._session.job is leaving and self._session.uid == uid:
                self.copies.drop(uid)
                self._session.open(job, path, stamp)
            else:
                self.tray.add(job, path, stamp)
                self.tray.switch(len(self.tray) - 1)
                self._window.job_bar.show_tray(self.tray)
                self._window.tell("The job that you worked on meanwhile stays open beside this one.")
            if path is not None:
                self._window.remember(path)
            if job.notices:
                self._window.tell(" ".join(job.notices))

        self.read(load, opened)

    def save(self) -> bool:
        """Save where the job came from, else ask; True when it is saved."""
        if self._session.path is None:
            return self.save_as()
        return self.save_to(self._session.path)

    def save_as(self) -> bool:
        name, _ = save_name(self._window, "Save job", self._session.job.name + SUFFIX, _JOBS)
        if not name:
            return False
        path = Path(name)
        return self.save_to(path if path.suffix == SUFFIX else path.with_name(path.name + SUFFIX))

    def save_to(self, path: Path) -> bool:
        other = self.tray.index_of(path)
        if other not in (None, self.tray.current):
            self._window.tell(f"“{shown(path)}” is the file of another open job: choose another name.")
            return False
        if path == self._session.path and storage.stamp_of(path) not in (None, self._session.stamp):
            answer = self.ask_newer(path)
            if answer != "overwrite":
                return answer == "save-as" and self.save_as()
        try:
            storage.save_job(path, self._session.job)
        except PlanError as error:
            self._window.tell(str(error))
            return False
        self._session.mark_saved(path, storage.stamp_of(path))
        self._window.remember(path)
        self.copies.drop(self._session.uid)
        return True

    # leaving

    def may_leave_job(self) -> bool:
        """Ask what to do with unsaved changes; False to stay."""
        if not self._session.is_changed or self._session.job.file is None:
            return True
        answer = self.ask_unsaved()
        if answer == "save":
            return self.save()
        if answer == "discard":
            self.copies.drop(self._session.uid)
        return answer == "discard"

    def may_close(self) -> bool:
        """Ask about every job of the tray with unsaved changes; False to stay."""
        for index in self.tray.unsaved():
            self.tray.switch(index)
            if not self.may_leave_job():
                return False
        return True

    # recovery

    def autosave(self) -> None:
        """Keep copies of unsaved work against a crash; what fails is told once and tried again."""
        unsaved = [self.tray.snapshot(index) for index in self.tray.unsaved()]
        jobs = tuple(item.job for item in unsaved)
        if jobs == self._kept:
            return
        self._kept = jobs
        wanted = {item.uid: (item.job, item.path) for item in unsaved}

        def failed() -> None:
            self._kept = ()

        def keep() -> None:
            try:
                self.copies.keep(wanted)
            except (OSError, PlanError) as error:
                if self._warned_unkept:
                    raise Superseded from error
                self._warned_unkept = True
                raise PlanError(
                    "Copies against a crash cannot be kept just now: free some space on the disk, and save your job."
                ) from error
            self._warned_unkept = False

        self._desk.in_background(keep, lambda _result: None, failed)

    def recover(self) -> bool:
        """Offer what programs that did not close properly left behind; False when there is nothing."""
        left = self.copies.left()
        if not left:
            return False
        self.recovery_list = RecoveryList(self._window, left)
        self.recovery_list.wanted.connect(self._recover_these)
        self.recovery_list.unwanted.connect(self._discard_these)
        self.recovery_list.open()
        return True

    def _discard_these(self, copies: list[LeftCopy]) -> None:
        for copy in copies:
            self.copies.discard(copy)

    def _recover_these(self, copies: list[LeftCopy]) -> None:
        def load() -> tuple[list[tuple[LeftCopy, Job]], list[str]]:
            opened, refused = [], []
            for copy in copies:
                try:
                    opened.append((copy, storage.open_job(copy.file)))
                except PlanError as error:
                    refused.append(f"“{copy.name}” cannot be brought back: {error}")
            return opened, refused

        def recovered(result: tuple[list[tuple[LeftCopy, Job]], list[str]]) -> None:
            opened, refused = result
            spare = self.tray.current if self._session.job.file is None and not self._session.is_changed else None
            first = len(self.tray)
            for copy, job in opened:
                self.copies.claim(copy, self.tray.add(job, copy.origin, saved=False))
            if opened:
                self.tray.switch(first)
                if spare is not None:
                    self.tray.forget(spare)
            self._window.job_bar.show_tray(self.tray)
            what = "1 job is" if len(opened) == 1 else f"{len(opened)} jobs are"
            self._window.tell(" ".join([f"{what} back as kept, not yet saved." if opened else "", *refused]).strip())

        self.read(load, recovered)

    def end(self) -> None:
        """The window closes on purpose: nothing to recover."""
        self._timer.stop()
        self._desk.end_files()
        self.copies.close()


def _png_of(image: QImage) -> bytes:
    buffer = QBuffer()
    buffer.open(QIODevice.OpenModeFlag.WriteOnly)
    QImageWriter(buffer, QByteArray(b"png")).write(image)
    return bytes(buffer.data().data())
