"""Open the job that a card's code tells: one that is open, its file, else as the log book keeps it."""

from pathlib import Path

from PySide6.QtWidgets import QInputDialog

from swaddon.core.errors import PlanError
from swaddon.session.card_files import JobCode, read_code
from swaddon.session.job import Job
from swaddon.session.log_drafts import artwork_key
from swaddon.session.log_files import blobs_of
from swaddon.session.log_jobs import job_again
from swaddon.session.log_keeper import LogKeeper
from swaddon.ui.files import JobFiles
from swaddon.ui.shell import Shell

_NO_CODE = "This is no code of a run card: scan the square on the card, or open the job by its file."


def ask_code(bench: Shell, files: JobFiles) -> None:
    """Ask for a code, typed or scanned."""
    text, is_given = QInputDialog.getText(bench, "Open by a card’s code", "Scan the code of a run card, or paste it:")
    if is_given and text.strip():
        open_code(bench, files, text)


def open_code(bench: Shell, files: JobFiles, text: str) -> None:
    """Bring the job of a code to the bench; what is wrong is told."""
    code = read_code(text)
    if code is None:
        bench.tell(_NO_CODE)
        return
    for index, job in enumerate(files.tray.jobs()):
        if _is_meant(job, code):
            files.tray.switch(index)
            bench.session.turn_to(code.line - 1)
            bench.job_bar.show_tray(files.tray)
            return
    path = Path(code.path) if code.path else None
    if path is not None and path.is_file():
        files.open_job(path, code.line - 1)
        return
    bench.log.acts.do(
        lambda _tell: _from_book(bench.log.keeper, code),
        lambda job: _opened(files, job, code),
        bench.tell,
    )


def _is_meant(job: Job, code: JobCode) -> bool:
    if job.name[: len(code.order)] != code.order or not code.order:
        return False
    return artwork_key(job).startswith(code.artwork_key) if code.artwork_key else job.file is None


def _from_book(keeper: LogKeeper, code: JobCode) -> Job:
    """The job as the log book keeps it."""
    book = keeper.book()
    found = book.by_artwork(code.artwork_key, code.order)
    if found is None:
        where = f" Its file “{Path(code.path).name}” is not there either." if code.path else ""
        raise PlanError(f"“{code.order}” is not open, and the log book does not know it.{where}")
    return job_again(found, blobs_of(book))


def _opened(files: JobFiles, job: Job, code: JobCode) -> None:
    files.add_jobs([job.turned_to(code.line - 1)])
    files.tray.switch(len(files.tray) - 1)
