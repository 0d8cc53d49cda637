"""File names as text that can be shown and stored, also those with bytes that are no text."""

import errno
import os
import stat
from pathlib import Path

from swaddon.core.errors import PlanError

_LONGEST = 60


def shown(path: Path) -> str:
    """The name of a file; bytes that are no UTF-8 become a replacement character."""
    return clean(path.name)


def refuse_odd(path: Path) -> None:
    """Raise ``PlanError`` for a pipe, a device or a socket, and for a name that no disk holds.

    Reading one of those may never end. What is missing is told by whoever reads it.
    """
    try:
        mode = path.stat().st_mode
    except (OSError, ValueError) as error:
        if isinstance(error, OSError) and error.errno != errno.ENAMETOOLONG:
            return
        name = clean(str(path)).replace("\0", "\N{REPLACEMENT CHARACTER}")
        text = name if len(name) <= _LONGEST else name[:_LONGEST] + "…"
        raise PlanError(f"“{text}” is no name that a disk can hold: give another.") from error
    if not (stat.S_ISREG(mode) or stat.S_ISDIR(mode)):
        raise PlanError(f"“{shown(path)}” is a pipe, a device or a socket, not a file: save it as a file first.")


def clean(name: str) -> str:
    """Text without lone surrogates, in which a file system's odd bytes are told."""
    return os.fsencode(name).decode("utf-8", "replace") if any("\ud800" <= c <= "\udfff" for c in name) else name
