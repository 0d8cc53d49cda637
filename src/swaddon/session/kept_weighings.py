"""Weighed and timed prints, kept per press as the table that the command line reads, too."""

from collections.abc import Sequence
from pathlib import Path

from swaddon.io.weighings import MOST_ROWS, rows_in, write_rows_of
from swaddon.session.folders import config_folder
from swaddon.session.kept import Kept

Cells = tuple[str, ...]


def file_of(press: str) -> Path:
    """Where the weights of a press are kept."""
    safe = "".join(sign if sign.isalnum() or sign in "-_ " else "_" for sign in press)
    return config_folder() / "weighings" / f"{safe}.csv"


_ROWS: Kept[tuple[Cells, ...]] = Kept("The shop’s weighed prints", rows_in, write_rows_of, tuple, "none is known")


def kept_rows(press: str) -> tuple[Cells, ...]:
    """Rows of a press, oldest first."""
    return _ROWS.of(file_of(press))


def keep_rows(press: str, rows: Sequence[Cells]) -> None:
    """Keep these rows of a press."""
    _ROWS.change(file_of(press), lambda _before: tuple(rows[-MOST_ROWS:]))
