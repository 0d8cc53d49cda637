"""Questions that must be answered before work could be lost."""

from pathlib import Path
from typing import Literal

from PySide6.QtWidgets import QMessageBox, QWidget

from swaddon.io.names import shown
from swaddon.session.session import Session

Answer = Literal["save", "discard", "cancel"]
Newer = Literal["overwrite", "save-as", "cancel"]
Over = Literal["overwrite", "elsewhere", "cancel"]

_ACCEPT, _DESTROY = QMessageBox.ButtonRole.AcceptRole, QMessageBox.ButtonRole.DestructiveRole


def ask_unsaved(window: QWidget, session: Session) -> Answer:
    """What becomes of changes that are not saved."""
    text = f"“{session.job.name}” has changes that are not saved."
    pressed = _pressed(window, "Unsaved changes", text, "", (("Save", _ACCEPT), ("Leave without saving", _DESTROY)))
    answers: dict[str, Answer] = {"Save": "save", "Leave without saving": "discard"}
    return answers.get(pressed, "cancel")


def ask_newer(window: QWidget, path: Path) -> Newer:
    """What to do about a file that changed since the job was opened."""
    text = f"“{shown(path)}” has changed on the disk since this job was opened, by another window perhaps."
    choices = (("Save under another name", _ACCEPT), ("Save over it", _DESTROY))
    pressed = _pressed(window, "Save job", text, "Saving over it loses what was saved there.", choices)
    answers: dict[str, Newer] = {"Save under another name": "save-as", "Save over it": "overwrite"}
    return answers.get(pressed, "cancel")


def ask_over(window: QWidget, folder: Path, held: str) -> Over:
    """Whether an export may replace what a folder holds; ``held`` tells what would go."""
    choices = (("Choose another folder", _ACCEPT), ("Replace these files", _DESTROY))
    text = f"{held}." if not held.endswith(".") else held
    pressed = _pressed(window, "Export", text, f"Exporting to “{shown(folder)}” replaces them.", choices)
    answers: dict[str, Over] = {"Choose another folder": "elsewhere", "Replace these files": "overwrite"}
    return answers.get(pressed, "cancel")


def ask_trust(window: QWidget, text: str) -> bool:
    """Whether a file that takes too much is read all the same."""
    more = "Read it without bounds only where you know who made it: it can hold the machine up for long."
    choices = (("Read it all the same", _DESTROY),)
    return _pressed(window, "Place artwork", f"{text}.", more, choices, "Leave it out") == "Read it all the same"


def _pressed(
    window: QWidget, title: str, text: str, more: str, choices: tuple[tuple[str, QMessageBox.ButtonRole], ...],
    stay: str = "Stay here",
) -> str:  # fmt: skip
    """Words of the button that was pressed; at hand is the first that takes nothing away, or the way to ``stay``."""
    box = QMessageBox(window)
    box.setWindowTitle(title)
    box.setText(text)
    box.setInformativeText(more)
    made = [box.addButton(words, role) for words, role in choices]
    staying = box.addButton(stay, QMessageBox.ButtonRole.RejectRole)
    box.setDefaultButton(made[0] if choices[0][1] == _ACCEPT else staying)
    box.exec()
    clicked = box.clickedButton()
    return "" if clicked is None else clicked.text().replace("&", "")
