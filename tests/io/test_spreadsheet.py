"""Rows that a spreadsheet opens: nothing in them is worked out, and they read back as they were."""

import csv
import re

import pytest
from hypothesis import given
from hypothesis import strategies as st

from swaddon.io import outputs
from swaddon.io.spreadsheet import inert, read_text, rows_of, write_rows

HOSTILE = (
    "=1+1",
    '=HYPERLINK("http://x","y")',
    "+49 30 1234",
    "-cmd|' /C calc'!A0",
    "@SUM(1)",
    "'=1",
    "''=1",
    "=",
    "-",
    "+",
)
PLAIN = ("crest", "-0.05", "+3", "1e-6", "12,5", "a=b", "'quoted'", "’=typographic", "10 × 20")


@pytest.mark.parametrize("cell", HOSTILE)
def test_what_looks_like_a_formula_is_text(cell):
    """OWASP, CSV Injection (from memory): cells that begin with =, +, -, @, tab or return are worked out."""
    assert not re.match(r"[=+\-@\t\r]", inert(cell))


@pytest.mark.parametrize("cell", PLAIN)
def test_numbers_and_words_stay_as_they_are(cell):
    assert inert(cell) == cell


@given(st.lists(st.text("=+-@'\t abcé1.,;\"", max_size=12), min_size=2, max_size=4))
def test_what_was_written_is_read_back(tmp_path_factory, cells):
    outputs.begin()
    path = tmp_path_factory.mktemp("rows") / "rows.csv"
    wanted = tuple(" ".join(cell.split()) for cell in cells)
    if not any(wanted):
        return
    write_rows(path, [("head", "of", "four", "columns"), wanted])
    (_, row) = rows_of(read_text(path))
    assert row.cells == wanted
    with path.open(newline="", encoding="utf-8") as file:
        raw = list(csv.reader(file))[1]
    numbers = re.compile(r"[+-]?\d+([.,]\d+)?([eE][+-]?\d+)?")
    assert all(numbers.fullmatch(cell) or not re.match(r"[=+\-@\t\r]", cell) for cell in raw)
