"""Asking where a file goes: the dialog asks before one that is there is replaced, so that the answer holds."""

from pathlib import Path
from typing import Any

from PySide6.QtWidgets import QFileDialog

from swaddon.io import outputs


def save_name(*asked: Any) -> tuple[str, str]:
    """The name and kind of file that the operator chose; empty: none. Replacing what lies there is agreed to."""
    name, kind = QFileDialog.getSaveFileName(*asked)
    if name:
        outputs.confirm(Path(name))
    return name, kind
