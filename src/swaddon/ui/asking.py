"""Questions that must be answered before work could be lost."""

from pathlib import Path
from typing import Literal

from PySide6.QtWidgets import QMessageBox, QWidget

from swaddon.io.names import shown
from swaddon.session.session import Session

Answer = Literal["save", "discard", "cancel"]
Newer = Literal["overwrite", "save-as", "cancel"]
Over = Literal["overwrite", "elsewhere", "cancel"]


def ask_unsaved(window: QWidget, session: Session) -> Answer:
    """What becomes of changes that are not saved."""
    box = QMessageBox(window)
    box.setWindowTitle("Unsaved changes")
    box.setText(f"“{session.job.name}” has changes that are not saved.")
    save = box.addButton("Save", QMessageBox.ButtonRole.AcceptRole)
    discard = box.addButton("Leave without saving", QMessageBox.ButtonRole.DestructiveRole)
    box.addButton("Stay here", QMessageBox.ButtonRole.RejectRole)
    box.exec()
    if box.clickedButton() is save:
        return "save"
    return "discard" if box.clickedButton() is discard else "cancel"


def ask_newer(window: QWidget, path: Path) -> Newer:
    """What to do about a file that changed since the job was opened."""
    box = QMessageBox(window)
    box.setWindowTitle("Save job")
    box.setText(f"“{shown(path)}” has changed on the disk since this job was opened, by another window perhaps.")
    box.setInformativeText("Saving over it loses what was saved there.")
    other = box.addButton("Save under another name", QMessageBox.ButtonRole.AcceptRole)
    over = box.addButton("Save over it", QMessageBox.ButtonRole.DestructiveRole)
    box.addButton("Stay here", QMessageBox.ButtonRole.RejectRole)
    box.setDefaultButton(other)
    box.exec()
    if box.clickedButton() is other:
        return "save-as"
    return "overwrite" if box.clickedButton() is over else "cancel"


def ask_over(window: QWidget, folder: Path, held: str) -> Over:
    """Whether an export may take the place of another."""
    box = QMessageBox(window)
    box.setWindowTitle("Export")
    box.setText(f"“{shown(folder)}” already holds an export: {held}.")
    box.setInformativeText("Exporting here takes its place.")
    over = box.addButton("Take its place", QMessageBox.ButtonRole.DestructiveRole)
    other = box.addButton("Choose another folder", QMessageBox.ButtonRole.AcceptRole)
    box.addButton("Cancel", QMessageBox.ButtonRole.RejectRole)
    box.setDefaultButton(other)
    box.exec()
    if box.clickedButton() is over:
        return "overwrite"
    return "elsewhere" if box.clickedButton() is other else "cancel"
