"""Files of the bench: placing, opening, saving, exporting, the unsaved-changes guard, recovery after a crash."""

from collections.abc import Callable, Sequence
from pathlib import Path
from typing import TYPE_CHECKING, Any, Literal

from PySide6.QtCore import QBuffer, QIODevice, QMimeData, QTimer
from PySide6.QtGui import QGuiApplication, QImage
from PySide6.QtWidgets import QFileDialog, QMessageBox

from swaddon.core.plan.engine import PlanError
from swaddon.core.plan.settings import PlanSettings
from swaddon.io import profiles
from swaddon.io.images import SUFFIXES, decode_artwork
from swaddon.io.jobfile import SUFFIX
from swaddon.session import demo, edits, storage
from swaddon.session.desk import Desk, export
from swaddon.session.job import ArtworkFile, Job, TileFile
from swaddon.session.preferences import autosave_path, autosaved_paths
from swaddon.session.session import Session
from swaddon.session.tray import Tray

if TYPE_CHECKING:
    from swaddon.ui.bench import Bench

_PICTURES = f"Artwork ({' '.join('*' + suffix for suffix in SUFFIXES)});;All files (*)"
_JOBS = f"Swaddon jobs (*{SUFFIX})"
_AUTOSAVE_MS = 20_000

Answer = Literal["save", "discard", "cancel"]


class JobFiles:
    """File intents; the slow part runs in the background."""

    def __init__(self, window: "Bench", session: Session, desk: Desk) -> None:
        self._window, self._session, self._desk = window, session, desk
        self.tray = Tray(session)
        self._kept: tuple[Job, ...] = ()
        self._timer = QTimer(window)
        self._timer.setInterval(_AUTOSAVE_MS)
        self._timer.timeout.connect(self.autosave)
        self._timer.start()
        self.ask_unsaved: Callable[[], Answer] = self._ask_unsaved

    # artwork

    def choose_artwork(self) -> None:
        name, _ = QFileDialog.getOpenFileName(self._window, "Place artwork", "", _PICTURES)
        if name:
            self.load_artwork(Path(name))

    def load_artwork(self, path: Path) -> None:
        self._later(lambda: storage.load_artwork(path), self._place)

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
        self._later(lambda: ArtworkFile(decode_artwork(data, "pasted.png"), data), self._place)

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
                    opened.append(_opened_like(path, like))
                except PlanError as error:
                    refused.append(str(error))
            return opened, refused

        self._later(load, lambda result: self._several(*result))

    def _several(self, opened: list[tuple[Job, Path | None]], refused: list[str]) -> None:
        begins_empty = self._session.job.file is None
        for job, path in opened:
            self.tray.add(job, path)
        if opened:
            first = self.tray.current
            self.tray.switch(len(self.tray) - len(opened))
            if begins_empty:
                self.tray.forget(first)
        self._window.job_bar.show_tray(self.tray)
        told = f"{len(opened)} jobs came in; choose among them beside the job’s name, or with Ctrl+PgDown. "
        self._window.tell(" ".join([told if opened else "", *refused]).strip())

    def next_job(self) -> None:
        self.tray.step(1)

    def close_job(self) -> None:
        """Take the job off the bench; the last one leaves an empty bench."""
        if not self.may_leave_job():
            return
        if len(self.tray) > 1:
            self.tray.close()
            self._window.job_bar.show_tray(self.tray)
        else:
            self._session.open(Job(profile=profiles.shipped("film")), None)
        self._window.tell("")

    def show_page(self, page: int) -> None:
        """Take another page of the artwork's file."""
        file = self._session.job.file
        if file is not None:
            shown = file
            self._later(
                lambda: storage.other_page(shown, page),
                lambda other: self._session.apply(edits.show_page(other), "artwork") and None,
            )

    def choose_tile(self, then: Callable[[str], None]) -> None:
        name, _ = QFileDialog.getOpenFileName(self._window, "Add a pattern tile", "", "Black-on-white PNG (*.png)")
        if name:
            self.load_tile(Path(name), then)

    def load_tile(self, path: Path, then: Callable[[str], None]) -> None:
        """Add a tile to the job, then do something with its name."""

        def added(tile: TileFile) -> None:
            self._session.apply(edits.add_tile(tile), "holes")
            then(tile.art.name)

        self._later(lambda: storage.load_tile(path), added)

    def _place(self, file: ArtworkFile) -> None:
        profile = self._session.job.profile or profiles.shipped("film")
        self._session.apply(edits.place_artwork(file, profile), "artwork")

    # jobs

    def new(self) -> None:
        if self.may_leave_job():
            self._session.open(Job(profile=profiles.shipped("film")), None)
            self._window.tell("")

    def choose_job(self) -> None:
        name, _ = QFileDialog.getOpenFileName(self._window, "Open job", "", _JOBS)
        if name:
            self.open_job(Path(name))

    def open_job(self, path: Path) -> None:
        if self.may_leave_job():
            self._later(lambda: storage.open_job(path), lambda job: self._opened(job, path))

    def open_demo(self, key: str) -> None:
        if self.may_leave_job():
            self._later(lambda: demo.demo_job(key), lambda job: self._opened(job, None))

    def _opened(self, job: Job, path: Path | None) -> None:
        self._session.open(job, path)
        if path is not None:
            self._window.remember(path)

    def save(self) -> bool:
        """Save where the job came from, else ask; True when it is saved."""
        if self._session.path is None:
            return self.save_as()
        return self.save_to(self._session.path)

    def save_as(self) -> bool:
        name, _ = QFileDialog.getSaveFileName(self._window, "Save job", self._session.job.name + SUFFIX, _JOBS)
        if not name:
            return False
        path = Path(name)
        return self.save_to(path if path.suffix == SUFFIX else path.with_name(path.name + SUFFIX))

    def save_to(self, path: Path) -> bool:
        try:
            storage.save_job(path, self._session.job)
        except PlanError as error:
            self._window.tell(str(error))
            return False
        self._session.mark_saved(path)
        self._window.remember(path)
        autosave_path().unlink(missing_ok=True)
        return True

    # export

    def choose_export(self) -> None:
        name = QFileDialog.getExistingDirectory(self._window, "Export separations to a folder")
        if name:
            self.export_to(Path(name))

    def export_to(self, folder: Path) -> None:
        """Export the plan of the job as it is now."""
        plan = self._desk.plan
        if plan is None or not self._desk.is_current:
            self._window.tell("The plan is still being computed: export again in a moment.")
            return
        window = self._window

        def progress(title: str, share: float) -> None:
            self._desk.on_progress_later(title, share)

        window.show_busy()
        self._later(lambda: export(plan, folder, progress), lambda files: self._exported(files, folder))

    def _exported(self, files: list[Path], folder: Path) -> None:
        self._desk.on_progress("", 1.0)
        self._window.tell(f"Exported {len(files)} files to {folder}.")

    # leaving

    def may_leave_job(self) -> bool:
        """Ask what to do with unsaved changes; False to stay."""
        if not self._session.is_changed or self._session.job.file is None:
            return True
        answer = self.ask_unsaved()
        if answer == "save":
            return self.save()
        return answer == "discard"

    def _ask_unsaved(self) -> Answer:
        box = QMessageBox(self._window)
        box.setWindowTitle("Unsaved changes")
        box.setText(f"“{self._session.job.name}” has changes that are not saved.")
        save = box.addButton("Save", QMessageBox.ButtonRole.AcceptRole)
        discard = box.addButton("Leave without saving", QMessageBox.ButtonRole.DestructiveRole)
        box.addButton("Stay here", QMessageBox.ButtonRole.RejectRole)
        box.exec()
        if box.clickedButton() is save:
            return "save"
        return "discard" if box.clickedButton() is discard else "cancel"

    def may_close(self) -> bool:
        """Ask about every job of the tray with unsaved changes; False to stay."""
        for index in self.tray.unsaved():
            self.tray.switch(index)
            if not self.may_leave_job():
                return False
        return True

    def autosave(self) -> None:
        """Keep copies of unsaved work against a crash."""
        unsaved = sorted(self.tray.unsaved(), key=lambda index: index != self.tray.current)
        jobs = tuple(self.tray.stowed(index).job for index in unsaved)
        if not jobs or jobs == self._kept:
            return
        self._kept = jobs
        paths = [autosave_path(number) for number in range(len(jobs))]

        def keep() -> None:
            paths[0].parent.mkdir(parents=True, exist_ok=True)
            for old in autosaved_paths():
                if old not in paths:
                    old.unlink(missing_ok=True)
            for path, job in zip(paths, jobs, strict=True):
                storage.save_job(path, job)

        self._desk.in_background(keep, lambda _result: None)

    def recover(self) -> bool:
        """Open what a crash left behind; False when there is nothing."""
        paths = autosaved_paths()
        if not paths:
            return False

        def recovered(jobs: list[Job]) -> None:
            self._session.open(jobs[0], None)
            self._session.mark_unsaved()
            for job in jobs[1:]:
                self.tray.add(job)
            self._window.job_bar.show_tray(self.tray)
            for path in paths:
                path.unlink(missing_ok=True)
            what = "this is the job as it was then" if len(jobs) == 1 else f"these are the {len(jobs)} jobs of then"
            self._window.tell(f"Swaddon did not close properly last time: {what}, not yet saved.")

        self._later(lambda: [storage.open_job(path) for path in paths], recovered)
        return True

    def end(self) -> None:
        """The window closes on purpose: nothing to recover."""
        self._timer.stop()
        for path in autosaved_paths():
            path.unlink(missing_ok=True)

    def _later(self, work: Callable[[], Any], done: Callable[[Any], None]) -> None:
        def finish(result: Any) -> None:
            self._window.tell("")
            done(result)

        self._desk.in_background(work, finish)


def _opened_like(path: Path, like: Job) -> tuple[Job, Path | None]:
    """A job from its file, or new artwork ordered like another job; raises ``PlanError``."""
    if path.suffix.lower() == SUFFIX:
        return storage.open_job(path), path
    profile = like.profile or profiles.shipped("film")
    blank = Job(
        settings=PlanSettings(
            garment=like.settings.garment, quantity=like.settings.quantity, white=like.settings.white
        ),
        profile=profile,
        cloth=like.cloth,
        customer=like.customer,
    )
    return edits.place_artwork(storage.load_artwork(path), profile).change(blank), None


def _png_of(image: QImage) -> bytes:
    buffer = QBuffer()
    buffer.open(QIODevice.OpenModeFlag.WriteOnly)
    image.save(buffer, "PNG")
    return bytes(buffer.data().data())
