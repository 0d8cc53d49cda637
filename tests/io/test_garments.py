"""The garment library and tables from spreadsheets: whole again, and bad ones in one sentence with the row."""

import contextlib
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from swaddon.core.errors import PlanError
from swaddon.io.garments import LibraryGarment, garments_of, read_garments, shipped_garments, write_garments
from swaddon.io.spreadsheet import read_text, rows_of
from swaddon.session import shop

WORDS = st.text(st.characters(categories=("L", "N"), include_characters=" ,;\"'"), min_size=1, max_size=20).map(
    lambda text: " ".join(text.split()) or "x"
)
GARMENTS = st.lists(
    st.builds(
        LibraryGarment,
        WORDS,
        st.tuples(*[st.integers(0, 255)] * 3),
        st.sampled_from(["", "cotton", "poly, brushed"]),
        st.none() | st.integers(20, 2000).map(float),
        st.none() | st.integers(40, 300).map(float),
    ),
    min_size=1,
    max_size=6,
    unique_by=lambda garment: garment.name.lower(),
).map(tuple)


@given(GARMENTS)
def test_a_library_comes_back_as_it_was_written(tmp_path_factory, garments):
    path = tmp_path_factory.mktemp("g") / "garments.csv"
    write_garments(path, garments)
    assert read_garments(path) == garments


def test_the_shops_own_takes_the_shipped_ones_place():
    assert shop.garments() == shipped_garments()
    mine = (LibraryGarment("Clubhouse apron", (20, 90, 60), "canvas", 320.0, None),)
    shop.keep_garments(mine)
    assert shop.garments() == mine


def test_heads_may_stand_in_any_order_and_language_of_separators():
    text = "Colour;Name;Bears °C;Cloth\n#ffffff;Tea towel;;linen\n\n#0f0f0f;Apron;180;cotton\n"
    assert garments_of(text.replace("Colour;Name", "Name;Colour").replace("#ffffff;Tea towel", "Tea towel;#ffffff")
                       .replace("#0f0f0f;Apron", "Apron;#0f0f0f")) == (
        LibraryGarment("Tea towel", (255, 255, 255), "linen"),
        LibraryGarment("Apron", (15, 15, 15), "cotton", None, 180.0),
    )  # fmt: skip


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("", "no row"),
        ("name,colour\n", "no row below"),
        ("Tee,#fff\n", "row 1: the colour of “Tee”"),
        ("Tee,#ffffff\ntee,#000000\n", "row 2 has the name “tee” again"),
        ("Tee,#ffffff,cotton,heavy\n", "row 1: “heavy” is no number of g/m²"),
        ("Tee,#ffffff,cotton,180,9000\n", "row 1: 9000 °C is outside"),
        ("Tee,#ffffff,cotton,nan\n", "row 1: nan g/m² is outside"),
        (",#ffffff\n", "row 1 needs a name"),
        ("a:b,#ffffff\n", "row 1 needs a name"),
        ("x" * 300 + ",#ffffff\n", "more than 200 characters"),
        ("\n".join(f"tee {number},#ffffff" for number in range(501)), "more than 500"),
    ],
)
def test_a_bad_library_gets_one_sentence_with_the_row(tmp_path: Path, text, says):
    path = tmp_path / "g.csv"
    path.write_text(text)
    with pytest.raises(PlanError) as error:
        read_garments(path)
    assert says in str(error.value)


def test_bytes_that_are_no_table_are_refused(tmp_path: Path):
    path = tmp_path / "x.csv"
    path.write_bytes(b"\0\1\2")
    with pytest.raises(PlanError, match="is no text"):
        read_text(path)
    path.write_bytes(b"x" * 3_000_000)
    with pytest.raises(PlanError, match="larger than 2 MB"):
        read_text(path)
    with pytest.raises(PlanError, match="cannot be read"):
        read_text(tmp_path)
    path.write_bytes("Kaffee,#ffffff".encode("cp1252") + b"\xe9")
    assert read_text(path).endswith("é")


@given(st.text(max_size=200))
def test_no_text_breaks_the_reading_of_rows(text):
    with contextlib.suppress(ValueError):
        for row in rows_of(text):
            assert any(row.cells)


def test_rows_are_numbered_as_a_spreadsheet_does():
    assert [(row.number, row.cells) for row in rows_of('a\tb\n\n"c d"\te\r\nf\n')] == [
        (1, ("a", "b")), (3, ("c d", "e")), (4, ("f",)),
    ]  # fmt: skip
