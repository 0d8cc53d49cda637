"""Tables of prices and weights: there and back, and one sentence naming the row for what cannot be."""

import datetime
import json
from contextlib import suppress
from decimal import Decimal

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from tests.conftest import badge

from swaddon.core.errors import PlanError
from swaddon.core.shop.book import Book, Price
from swaddon.core.shop.next_print import patches
from swaddon.core.shop.sureness import sureness
from swaddon.core.shop.used import used_by
from swaddon.io import profiles
from swaddon.io.export import export_plan
from swaddon.io.patches import write_patches
from swaddon.io.plan_file import read_plan
from swaddon.io.priced import priced_profile, worked_profile
from swaddon.io.supplies import book_from, book_of, cells_of, read_book, shipped_book, write_book
from swaddon.io.weighings import (
    HEADS,
    Planned,
    cells_for,
    read_weighings,
    rows_in,
    stepped_back,
    table_of,
    weighed_profile,
    write_routine,
    write_rows_of,
)

FILM = profiles.shipped("film")
HEAD = "item,applies_to,pack_price,pack_size,unit,currency,date,supplier,waste_percent\n"
TODAY = datetime.date(2026, 11, 28)


def test_prices_go_out_and_come_back(tmp_path):
    book = shipped_book()
    write_book(tmp_path / "prices.csv", book)
    assert read_book(tmp_path / "prices.csv") == book
    assert book_from([cells_of(price) for price in book.prices]) == book
    assert book.currency == "EUR"


def test_the_shipped_prices_are_those_of_the_shipped_presses():
    """So that nothing changes its price when a shop begins to keep a table of its own."""
    for name in profiles.shipped_names():
        press = profiles.shipped(name)
        priced = priced_profile(press, shipped_book())
        assert priced.white_ink.unit_price == press.white_ink.unit_price
        assert priced.colour_ink.unit_price == press.colour_ink.unit_price
        if press.film is not None:
            assert priced.film.supply.unit_price == press.film.supply.unit_price


def test_a_table_from_a_spreadsheet_is_understood():
    book = book_of("Item;For;Price;Size;Unit;Currency\nFILM;film;2,5;1;m2;eur\nlabour;;30;1;hour;EUR\n")
    assert book.prices[0] == Price("film", Decimal("2.5"), Decimal(1), "m²", "EUR", "film")
    assert book.prices[1].unit == "h"


@pytest.mark.parametrize(
    ("row", "says"),
    [
        ("film,,-1,1,m2,EUR,,,", "row 2: the pack price is -1; it must be 0 or more"),
        ("film,,,1,m2,EUR,,,", "row 2: the pack price is empty"),
        ("film,,1,0,m2,EUR,,,", "row 2: the pack size is 0; it must be above 0"),
        ("film,,1,,m2,EUR,,,", "row 2: the pack size is empty"),
        ("film,,dear,1,m2,EUR,,,", "row 2: the pack price “dear” is no number"),
        ("film,,nan,1,m2,EUR,,,", "row 2: the pack price “nan” is no number"),
        ("film,,1e99,1,m2,EUR,,,", "row 2: the pack price 1e99 is more than"),
        ("film,,1,1,ml,EUR,,,", "row 2: a pack of film is counted in m² or sq in"),
        ("film,,1,1,m2,euro,,,", "row 2: the currency “euro” is no code"),
        ("film,,1,1,m2,EUR,yesterday,,", "row 2: the date “yesterday” is none"),
        ("film,,1,1,m2,EUR,,,-5", "row 2: the waste is -5"),
        ("glue,,1,1,g,EUR,,,", "row 2: “glue” is none of white ink"),
        ("film,,1,1,m2,EUR,,,\nfilm,,2,1,m2,EUR,,,", "row 3 prices film for all again"),
        ("film,,1,1,m2,EUR,,,\npowder,,2,1,g,USD,,,", "row 3 is in USD, the first in EUR"),
    ],
)
def test_prices_that_cannot_be_are_refused_with_their_row(tmp_path, row, says):
    path = tmp_path / "bad.csv"
    path.write_text(HEAD + row, encoding="utf-8")
    with pytest.raises(PlanError) as caught:
        read_book(path)
    assert says in str(caught.value)
    assert str(caught.value).startswith("The prices in “bad.csv” cannot be taken: ")


@given(st.text(max_size=200))
def test_no_text_breaks_the_tables(text):
    for read in (book_of, lambda given: table_of(given, FILM, lambda _: Planned(patches(FILM)[0].of))):
        with suppress(ValueError):
            read(text)


def test_prices_are_written_into_a_profile_and_tell_where_they_are_from():
    book = Book((Price("white ink", Decimal(100), Decimal(3), "l", "EUR", date="2026-11-01"),))
    press = priced_profile(FILM, book)
    again = profiles.parse(press.source, "film")
    assert again.white_ink.unit_price == Decimal(100) / Decimal(3000) == press.white_ink.unit_price
    assert again.white_ink.note == "100 EUR for 3 l, 2026-11-01"
    assert again.white_ink.waste_share == FILM.white_ink.waste_share
    assert priced_profile(press, book) is press
    assert worked_profile(press, spoilage_share=0.1).working.spoilage_share == 0.1
    with pytest.raises(PlanError):
        worked_profile(press, spoilage_share=2.0)


# weights

COLUMNS = "name,plan,count,blank_g,printed_g,powdered_g,bottle,before_g,after_g,print_s,w_cm2,k_cm2,printed_cm2,bands\n"


@pytest.mark.parametrize(
    ("row", "says"),
    [
        ("a,patch W,1,10,11,,,,,,,,,", ""),
        ("a,,1,10,11,,,,,,200,0,200,", ""),
        ("a,,1,,,,,,,61,,,,40", ""),
        ("a,patch W,1,ten,11,,,,,,,,,", "row 2: “ten” in blank_g is no number"),
        ("a,patch W,1,-1,11,,,,,,,,,", "row 2: -1 in blank_g is not between 0 and"),
        ("a,patch W,1,inf,11,,,,,,,,,", "row 2: inf in blank_g is not between"),
        ("a,patch W,0,10,11,,,,,,,,,", "row 2: count is 0"),
        ("a,patch W,1,,11,,,,,,,,,", "row 2 (a) needs blank_g"),
        ("a,patch W,1,10,,,,,,,,,,", "row 2 (a) needs printed_g or powdered_g"),
        ("a,patch W,1,,,,,,,,,,,", "row 2 (a) has no weight and no time"),
        ("a,,1,10,11,,,,,,,,,", "row 2 needs its plan, or the areas"),
        ("a,patch W,1,10,11,,,,,,200,,,", "row 2 has a plan and areas"),
        ("a,,1,10,11,12,,,,,200,0,,", "row 2 is weighed powdered: give printed_cm2"),
        ("a,nowhere,1,10,11,,,,,,,,,", "row 2: There is no plan.json to read at “nowhere”"),
        ("a,patch W,1,,,,Z,500,499,,,,,", "row 2: “Z” is no bottle"),
        ("a,patch W,1,,,,WK,500,499,,,,,", "row 2: white and colours are bottles of their own"),
        ("a,patch W,1,10,11,,,,,60,,,,", "row 2: a print time needs its plan, or bands"),
    ],
)
def test_rows_of_weights(tmp_path, row, says):
    path = tmp_path / "weights.csv"
    path.write_text(COLUMNS + row, encoding="utf-8")

    def resolve(text: str) -> Planned:
        return Planned(patches(FILM)[0].of) if not text else read_plan(tmp_path / text) and Planned(patches(FILM)[0].of)

    if not says:
        table = read_weighings(path, FILM, resolve)
        assert len(table.weighings) + len(table.timings) == 1
        return
    with pytest.raises(PlanError) as caught:
        read_weighings(path, FILM, resolve)
    assert says in str(caught.value)


def test_rows_go_out_and_come_back(tmp_path):
    row = cells_for("crest", Planned(patches(FILM)[0].of, 40, 9000.0), blank_g="10", printed_g="11.5", print_s="60")
    write_rows_of(tmp_path / "kept.csv", [row])
    assert rows_in(tmp_path / "kept.csv") == (row,)
    table = read_weighings(tmp_path / "kept.csv", FILM, lambda _: Planned(patches(FILM)[0].of))
    assert table.weighings[0].of.full_m2["W"] == pytest.approx(patches(FILM)[0].of.full_m2["W"])
    assert table.timings[0].travel_mm == 9000
    assert len(row) == len(HEADS)


def test_the_routine_is_a_table_with_a_row_for_each_patch(tmp_path):
    write_routine(tmp_path / "routine.csv", FILM)
    text = (tmp_path / "routine.csv").read_text(encoding="utf-8")
    assert text.count("patch ") == 5
    filled = text.replace("patch W,1,,,", "patch W,1,10,,14")
    filled = "\n".join(line for line in filled.splitlines() if "patch" not in line or "patch W" in line)
    table = table_of(filled, FILM, lambda _: Planned(patches(FILM)[0].of))
    assert table.weighings[0].printed_g == 14


def test_the_patches_are_files_that_hold_one_ink_each(tmp_path):
    """Read back by an independent TIFF reader."""
    import tifffile

    written = write_patches(tmp_path, FILM)
    assert len(written) == 10
    for ink, channel in (("C", 0), ("K", 3), ("W", 4)):
        planes = tifffile.imread(tmp_path / f"patch-{ink}.tif")
        assert planes.shape[-1] == 5
        full = [int(planes[..., at].min()) for at in range(5)]
        assert full == [255 if at == channel else 0 for at in range(5)]


def test_a_weigh_in_is_written_with_old_values_and_can_be_taken_back():
    sure = sureness(FILM)
    first = [type(item)(item.constant, item.title, item.unit, item.value * 1.2, 0.05, "") for item in sure.constants]
    covariance = np.eye(len(first)) * 0.0025
    once = profiles.parse(weighed_profile(FILM, first, covariance, "one", TODAY), "film")
    second = [type(item)(item.constant, item.title, item.unit, item.value * 1.5, 0.02, "") for item in sure.constants]
    twice = profiles.parse(weighed_profile(once, second, covariance / 4, "two", TODAY), "film")
    assert twice.lay_down_per_m2["W"] == pytest.approx(27 * 1.5)
    entry = twice.measured_as("lay_down_ml_m2.W")
    assert (entry.old, entry.date, entry.source) == (pytest.approx(27 * 1.2), "2026-11-28", "two")
    assert sureness(twice).of("lay_down_ml_m2.W").log_sd == pytest.approx(0.025)
    back = profiles.parse(stepped_back(twice), "film")
    assert back == once
    assert profiles.parse(stepped_back(back), "film") == FILM
    assert stepped_back(FILM) is None


@pytest.mark.parametrize("table", ["[[0.1, 0.0]]", "[[0.1]]", "[[-0.1, 0.0], [0.0, 0.1]]", "[[inf, 0.0], [0.0, 0.1]]"])
def test_a_covariance_that_is_none_is_refused(table):
    text = FILM.source + (
        '\n[[weighed]]\ndate = "2026-11-28"\nconstants = ["lay_down_ml_m2.W", "lay_down_ml_m2.C"]\n'
        f"log_covariance = {table}\n"
    )
    with pytest.raises(PlanError, match="log_covariance of 2026-11-28"):
        profiles.parse(text, "own.toml")


# plans read back


@pytest.mark.parametrize("process", ["film", "direct", "toner-onepass"])
def test_a_plan_read_back_uses_what_the_plan_uses(make, tmp_path, process):
    plan = make(badge(300), process, garment=(20, 20, 22))
    export_plan(plan, tmp_path / "out")
    press = plan.request.profile
    before, after = used_by(plan.measures, press), read_plan(tmp_path / "out").used(press)
    for ink, area in before.full_m2.items():
        assert after.full_m2[ink] == pytest.approx(area, rel=1e-4, abs=1e-9)
    for one, other in zip(before.materials, after.materials, strict=True):
        assert (one.kind, one.supply) == (other.kind, other.supply)
        assert other.amount == pytest.approx(one.amount, rel=1e-9)
    assert after.printed_m2 == pytest.approx(before.printed_m2, rel=1e-4)
    assert after.bands == before.bands
    assert after.travel_mm == pytest.approx(before.travel_mm, rel=0.01, abs=5)
    anew = read_plan(tmp_path / "out").used(press, anew=True)
    assert [item.amount for item in anew.materials] == pytest.approx(
        [item.amount for item in before.materials], rel=1e-3, abs=1e-6
    )


@pytest.mark.parametrize(
    ("text", "says"),
    [("", "it is not JSON"), ("[]", "is no plan.json of Swaddon"), ("{}", "profile"), ("[" * 5000, "not JSON")],
)
def test_what_is_no_plan_is_refused(tmp_path, text, says):
    (tmp_path / "plan.json").write_text(text, encoding="utf-8")
    with pytest.raises(PlanError) as caught:
        read_plan(tmp_path)
    assert says in str(caught.value)


def test_a_plan_of_another_kind_of_press_is_refused(make, tmp_path):
    export_plan(make(badge(200), "film"), tmp_path / "out")
    with pytest.raises(PlanError, match="The plan uses film, which the press direct does not"):
        read_plan(tmp_path / "out").used(profiles.shipped("direct"))
    kept = json.loads((tmp_path / "out" / "plan.json").read_text(encoding="utf-8"))
    for material in kept["materials"]:
        del material["kind"]
    (tmp_path / "out" / "plan.json").write_text(json.dumps(kept), encoding="utf-8")
    assert [item.kind for item in read_plan(tmp_path / "out").used(FILM).materials] == [
        "white", "colour", "film", "powder",
    ]  # fmt: skip
