"""Rows of text as spreadsheets hold them: copied from one (tabs), or saved as CSV (commas or semicolons)."""

import csv
import io
import re
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from pathlib import Path

from swaddon.core.errors import PlanError
from swaddon.io.names import clean, refuse_odd, shown
from swaddon.io.outputs import output_file
from swaddon.io.profiles import reason

_LARGEST_BYTES = 2_000_000
_LONGEST_CELL = 200
_SEPARATORS = ("\t", ";", ",")
_FORMULA = re.compile(r"'*[=+\-@\t\r]")
_NUMBER = re.compile(r"[+-]?\d+([.,]\d+)?([eE][+-]?\d+)?")


@dataclass(frozen=True)
class Row:
    """One row: its number as a spreadsheet counts, and its cells without blanks around them."""

    number: int
    cells: tuple[str, ...]

    def cell(self, index: int) -> str:
        """A cell; empty where the row is shorter."""
        return self.cells[index] if index < len(self.cells) else ""


def read_text(path: Path) -> str:
    """The text of a CSV file, UTF-8 with or without a mark, else Windows-1252; raises ``PlanError``."""
    refuse_odd(path)
    try:
        if path.stat().st_size > _LARGEST_BYTES:
            raise PlanError(f"“{shown(path)}” is larger than 2 MB, too much for a list: give the table alone.")
        data = path.read_bytes()
    except OSError as error:
        raise PlanError(f"“{shown(path)}” cannot be read ({reason(error)}).") from error
    if b"\0" in data:
        raise PlanError(f"“{shown(path)}” is no text: save the table as CSV first.")
    try:
        return data.decode("utf-8-sig")
    except UnicodeDecodeError:
        return data.decode("cp1252", "replace")


def rows_of(text: str) -> tuple[Row, ...]:
    """The rows of a text that hold anything; cells by tab, else semicolon, else comma, as its first row has them.

    Raises
    ------
    ValueError
        One sentence, with the row.

    >>> [row.cells for row in rows_of("black; M; 12\\n\\nnavy; L; 6")]
    [('black', 'M', '12'), ('navy', 'L', '6')]
    """
    lines = text.replace("\r\n", "\n").replace("\r", "\n")
    first = next((line for line in lines.split("\n") if line.strip()), "")
    separator = next((mark for mark in _SEPARATORS if mark in first), ",")
    out = []
    reader = csv.reader(io.StringIO(lines), delimiter=separator, skipinitialspace=True)
    try:
        for cells in reader:
            stripped = tuple(_as_meant(" ".join(clean(cell).split())) for cell in cells)
            if any(len(cell) > _LONGEST_CELL for cell in stripped):
                raise ValueError(f"Row {reader.line_num} has a cell of more than {_LONGEST_CELL} characters")
            if any(stripped):
                out.append(Row(reader.line_num, stripped))
    except csv.Error as error:
        raise ValueError(f"Row {reader.line_num + 1} cannot be read as a table row ({error})") from error
    return tuple(out)


def columns_of(head: Row, known: Mapping[str, Sequence[str]]) -> dict[str, int] | None:
    """Which column holds what, from a row of heads; ``None`` when it is no such row.

    ``known`` gives the words for each column; a row is one of heads when its first cell is such a word.
    """
    words = {word: key for key, names in known.items() for word in (key, *names)}
    found = {words[_word(cell)]: index for index, cell in enumerate(head.cells) if _word(cell) in words}
    return found if head.cells and _word(head.cells[0]) in words else None


def _word(cell: str) -> str:
    return " ".join(cell.lower().replace("_", " ").split())


def inert(cell: str) -> str:
    """A cell that a spreadsheet takes for text or a number and never for a formula, which it would work out.

    What begins like a formula gets an apostrophe, as people put one by hand; reading takes it off again.

    >>> [inert(cell) for cell in ("=HYPERLINK(1)", "-0.05", "+49 123", "'=a", "crest")]
    ["'=HYPERLINK(1)", '-0.05', "'+49 123", "''=a", 'crest']
    """
    return f"'{cell}" if _FORMULA.match(cell) and not _NUMBER.fullmatch(cell) else cell


def _as_meant(cell: str) -> str:
    """A cell without the apostrophe that keeps a spreadsheet from working it out."""
    return cell[1:] if cell.startswith("'") and _FORMULA.match(cell) else cell


def write_rows(path: Path, rows: Iterable[Sequence[str]]) -> None:
    """Write rows as CSV with commas; raises ``PlanError`` with one sentence."""
    held = io.StringIO()
    csv.writer(held, lineterminator="\n").writerows([inert(cell) for cell in row] for row in rows)
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        with output_file(path) as file:
            file.write(held.getvalue().encode("utf-8"))
    except OSError as error:
        raise PlanError(f"“{shown(path)}” could not be written ({reason(error)}): choose another place.") from error
