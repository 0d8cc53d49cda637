"""Weighed and timed prints, kept per press as the table that the command line reads, too.

A file that cannot be read is as good as none; a full disk must not stop the work.
"""

from collections.abc import Sequence
from contextlib import suppress
from pathlib import Path

from swaddon.core.errors import PlanError
from swaddon.io.weighings import MOST_ROWS, rows_in, write_rows_of
from swaddon.session.preferences import config_folder

Cells = tuple[str, ...]


def file_of(press: str) -> Path:
    """Where the weights of a press are kept."""
    safe = "".join(sign if sign.isalnum() or sign in "-_ " else "_" for sign in press)
    return config_folder() / "weighings" / f"{safe}.csv"


def kept_rows(press: str) -> tuple[Cells, ...]:
    """Rows of a press, oldest first."""
    try:
        return rows_in(file_of(press))
    except (PlanError, ValueError):
        return ()


def keep_rows(press: str, rows: Sequence[Cells]) -> None:
    """Keep these rows of a press."""
    with suppress(PlanError):
        write_rows_of(file_of(press), rows[-MOST_ROWS:])
