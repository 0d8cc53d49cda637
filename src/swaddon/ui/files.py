"""Files of the bench: placing, opening, saving, exporting, the unsaved-changes guard, recovery after a crash."""

from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING, Any, Literal

from PySide6.QtCore import QBuffer, QIODevice, QTimer
from PySide6.QtGui import QGuiApplication, QImage
from PySide6.QtWidgets import QFileDialog, QMessageBox

from swaddon.core.plan.engine import PlanError
from swaddon.io import profiles
from swaddon.io.images import decode_artwork
from swaddon.io.jobfile import SUFFIX
from swaddon.session import demo, edits, storage
from swaddon.session.desk import Desk, export
from swaddon.session.job import ArtworkFile, Job
from swaddon.session.preferences import autosave_path
from swaddon.session.session import Session

if TYPE_CHECKING:
    from swaddon.ui.bench import Bench

_PICTURES = "Artwork (*.png *.jpg *.jpeg *.tif *.tiff *.webp);;All files (*)"
_JOBS = f"Swaddon jobs (*{SUFFIX})"
_AUTOSAVE_MS = 20_000

Answer = Literal["save", "discard", "cancel"]


class JobFiles:
    """File intents; the slow part runs in the background."""

    def __init__(self, window: "Bench", session: Session, desk: Desk) -> None:
        self._window, self._session, self._desk = window, session, desk
        self._kept: Job | None = None
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
        mime = QGuiApplication.clipboard().mimeData()
        files = [Path(url.toLocalFile()) for url in mime.urls() if url.isLocalFile()]
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

    def autosave(self) -> None:
        """Keep a copy of unsaved work against a crash."""
        job = self._session.job
        if job is self._kept or not self._session.is_changed or job.file is None:
            return
        self._kept = job
        path = autosave_path()

        def keep() -> None:
            path.parent.mkdir(parents=True, exist_ok=True)
            storage.save_job(path, job)

        self._desk.in_background(keep, lambda _result: None)

    def recover(self) -> bool:
        """Open what a crash left behind; False when there is nothing."""
        path = autosave_path()
        if not path.is_file():
            return False

        def recovered(job: Job) -> None:
            self._session.open(job, None)
            self._session.mark_unsaved()
            path.unlink(missing_ok=True)
            self._window.tell(
                "Swaddon did not close properly last time: this is the job as it was then, not yet saved."
            )

        self._later(lambda: storage.open_job(path), recovered)
        return True

    def end(self) -> None:
        """The window closes on purpose: nothing to recover."""
        self._timer.stop()
        autosave_path().unlink(missing_ok=True)

    def _later(self, work: Callable[[], Any], done: Callable[[Any], None]) -> None:
        def finish(result: Any) -> None:
            self._window.tell("")
            done(result)

        self._desk.in_background(work, finish)


def _png_of(image: QImage) -> bytes:
    buffer = QBuffer()
    buffer.open(QIODevice.OpenModeFlag.WriteOnly)
    image.save(buffer, "PNG")
    return bytes(buffer.data().data())
