"""The shop's documents, damaged, unreadable, on full disks and in two programs: nothing is wiped, all is told."""

import dataclasses
import datetime
import multiprocessing
import os
from collections.abc import Callable
from dataclasses import dataclass
from decimal import Decimal
from pathlib import Path
from typing import Any

import pytest
from tests.session.test_press_state import FOUND

from swaddon.core.errors import PlanError
from swaddon.core.flow.quote import QuoteTerms
from swaddon.core.press.lineup import LineUp
from swaddon.core.shop.book import Book, Price
from swaddon.core.shop.rule import Counted
from swaddon.io import profiles
from swaddon.io.garments import shipped_garments
from swaddon.io.media import shipped_media
from swaddon.io.preset_file import shipped_presets
from swaddon.io.print_areas import shipped_table
from swaddon.io.shops import shipped_shop
from swaddon.session import kept, kept_tests, kept_weighings, presets, shop, testing
from swaddon.session.folders import config_folder
from swaddon.session.kept_tests import KeptTest
from swaddon.session.preferences import Preferences, load_preferences, save_preferences

TODAY = datetime.date(2026, 12, 2)
DEAR = Book((Price("film", Decimal(99), Decimal(1), "m²", "EUR"),))
OWN_PRESET = dataclasses.replace(shipped_presets()[0], name="Ours")
MEASURED = testing.taken(profiles.shipped("film"), FOUND, "a", TODAY)
FEW = dataclasses.replace(shipped_table(), areas=shipped_table().areas[:3])
SMALL = dataclasses.replace(shipped_shop(), rack=3)


def held_lineups() -> Any:
    return [item.name for item in shop.memory("film").lineups]


def keep_lineup(name: str) -> None:
    shop.keep("film", shop.memory("film").with_lineup(LineUp(name, ("C", "M", "Y", "K", "W", "W"))))


@dataclass(frozen=True)
class Case:
    """A document: its file, how a first and a second one are kept, what is read, and that of the first, and of none."""

    file: str
    first: Callable[[], object]
    second: Callable[[], object]
    read: Callable[[], object]
    held: object
    none: object


CASES = {
    "The shop’s prices": Case(
        "supplies.csv", lambda: shop.keep_book(DEAR), lambda: shop.keep_book(Book(())), shop.own_book, DEAR, None
    ),
    "The shop’s garments": Case(
        "garments.csv", lambda: shop.keep_garments(shipped_garments()[:3]),
        lambda: shop.keep_garments(shipped_garments()[:2]), shop.garments, shipped_garments()[:3], shipped_garments(),
    ),
    "The shop’s media": Case(
        "media.toml", lambda: shop.keep_media(shipped_media()[1:]), lambda: shop.keep_media(shipped_media()[2:]),
        shop.media, shipped_media()[1:], shipped_media(),
    ),
    "The shop’s print areas": Case(
        "print-areas.toml", lambda: shop.keep_sizes(FEW),
        lambda: shop.keep_sizes(shipped_table()), shop.sizes, FEW,
        shipped_table(),
    ),
    "The shop’s machines and hours": Case(
        "shop.toml", lambda: shop.keep_flow_shop(SMALL), lambda: shop.keep_flow_shop(shipped_shop()), shop.flow_shop,
        SMALL, shipped_shop(),
    ),
    "The shop’s profile of a press": Case(
        "presses/film.toml", lambda: shop.keep_profile(MEASURED),
        lambda: shop.keep_profile(dataclasses.replace(MEASURED)), lambda: shop.press("film"), MEASURED,
        profiles.shipped("film"),
    ),
    "The line-ups and names of white": Case(
        "presses.json", lambda: keep_lineup("one"), lambda: keep_lineup("two"), held_lineups, ["one"], []
    ),
    "The numbers and terms of quotes": Case(
        "quotes.json", lambda: shop.keep_quote_terms(dataclasses.replace(shop.quote_terms(), percent=71.0)),
        lambda: shop.keep_quote_terms(dataclasses.replace(shop.quote_terms(), percent=5.0)),
        lambda: shop.quote_terms().percent, 71.0, QuoteTerms().percent,
    ),
    "The prints that were exported lately": Case(
        "mix.json", lambda: shop.keep_in_mix("film", "a", Counted(9, Decimal(1), 2)),
        lambda: shop.keep_in_mix("film", "b", Counted(9, Decimal(1), 2)), lambda: len(shop.mix_of("film")), 1, 0,
    ),
    "The shop’s test prints": Case(
        "tests.json", lambda: kept_tests.keep_test("film", KeptTest("2026-11-20", "a.png", {})),
        lambda: kept_tests.keep_test("film", KeptTest("2026-11-21", "b.png", {})),
        lambda: [test.source for test in kept_tests.tests_of("film")], ["a.png"], [],
    ),
    "The shop’s weighed prints": Case(
        "weighings/film.csv", lambda: kept_weighings.keep_rows("film", [("a",) + ("",) * 21]),
        lambda: kept_weighings.keep_rows("film", [("b",) + ("",) * 21]),
        lambda: [row[0] for row in kept_weighings.kept_rows("film")], ["a"], [],
    ),
    "A preset of the shop": Case(
        "presets/Ours.json", lambda: presets.keep_preset(OWN_PRESET), lambda: presets.keep_preset(OWN_PRESET),
        presets.own_presets, (OWN_PRESET,), (),
    ),
    "The preferences": Case(
        "preferences.json", lambda: save_preferences(Preferences(inches=True)),
        lambda: save_preferences(Preferences(bar=True)), load_preferences, Preferences(inches=True), Preferences(),
    ),
}  # fmt: skip


RAISE = {
    "The shop’s prices",
    "The shop’s garments",
    "The shop’s media",
    "The shop’s print areas",
    "A preset of the shop",
}
"""Typed in a table that stays open, with what was typed in it, until it is kept."""


def spoil(file: Path, how: str) -> None:
    if how == "cut":
        file.write_bytes(file.read_bytes()[: file.stat().st_size // 2] + b"\xff\0")
    else:
        file.write_bytes(b"\xff\xfe\0{rubbish")


def test_every_kept_document_is_tried():
    assert set(CASES) == {item.what for item in kept.DECLARED}


@pytest.mark.parametrize("what", CASES)
@pytest.mark.parametrize("how", ["cut", "rubbish"])
def test_a_damaged_document_is_told_once_kept_aside_and_what_was_last_good_holds(what, how):
    """Line-ups, names of white and tests were wiped by the next save; prices became the shipped ones without a word."""
    case, file = CASES[what], config_folder() / CASES[what].file
    assert case.read() == case.none
    case.first()
    assert case.read() == case.held
    spoil(file, how)
    damaged = file.read_bytes()
    assert case.read() == case.held
    told = kept.news()
    assert len(told) == 1, told
    assert file.name in told[0]
    assert datetime.date.today().isoformat() in told[0], "of what day is what is used"
    assert case.read() == case.held
    assert kept.news() == ()
    case.second()
    aside = file.with_name(f"{file.name}.damaged-1")
    assert aside.read_bytes() == damaged
    assert any(aside.name in text for text in kept.news())
    if "line-ups" in what or "tests" in what:
        assert len(case.read()) == 2, "what was there before is there still"


@pytest.mark.parametrize("what", CASES)
def test_a_document_that_was_never_good_is_told_with_what_is_used_instead(what):
    case, file = CASES[what], config_folder() / CASES[what].file
    file.parent.mkdir(parents=True, exist_ok=True)
    file.write_bytes(b"\xff\xfe\0{rubbish")
    assert case.read() == case.none
    told = kept.news()
    declared = next(item for item in kept.DECLARED if item.what == what)
    assert [declared.instead in text for text in told] == [True]
    assert file.read_bytes() == b"\xff\xfe\0{rubbish", "reading changes nothing"


def test_a_damaged_document_stays_in_its_place_where_the_new_one_cannot_be_written(monkeypatch):
    """Set aside and not replaced it would be missing, and so count as what is shipped, without a word."""
    shop.keep_book(DEAR)
    file = config_folder() / CASES["The shop’s prices"].file
    spoil(file, "rubbish")

    def full(_path: object) -> None:
        raise OSError(28, "No space left on device")

    with monkeypatch.context() as held:
        held.setattr("swaddon.io.outputs.whole_file", full)
        with pytest.raises(PlanError, match="no space left"):
            shop.keep_book(Book(()))
    assert file.exists()
    assert not list(file.parent.glob("*.damaged-*"))
    kept.forget()
    assert shop.own_book() == DEAR
    assert shop.book_problem()


def test_a_disk_that_is_full_again_is_told_again(monkeypatch):
    def full(_file: object, _data: bytes) -> None:
        raise OSError(28, "No space left on device")

    for number in (1, 2):
        with monkeypatch.context() as held:
            held.setattr(kept, "write_bytes", full)
            kept_tests.keep_days("film", number)
        assert any("no space left" in text for text in kept.news())
        kept.try_again()
        kept.news()


@pytest.mark.parametrize("what", CASES)
def test_a_full_disk_loses_nothing_is_told_and_is_tried_again(what, monkeypatch):
    """Weighings, tests and profiles were lost on a full disk without a word."""
    case, file = CASES[what], config_folder() / CASES[what].file
    declared = next(item for item in kept.DECLARED if item.what == what)

    def full(_kept: object, _file: Path, _document: object) -> None:
        raise PlanError(f"{what} cannot be kept: no space left on device.")

    write = kept.Kept._write
    monkeypatch.setattr(kept.Kept, "_write", full)
    if what in RAISE:
        with pytest.raises(PlanError, match="no space"):
            case.first()
        return
    case.first()
    assert any("no space left" in text for text in kept.news())
    assert case.read() == case.held
    assert not file.exists()
    monkeypatch.setattr(kept.Kept, "_write", write)
    kept.try_again()
    assert any("kept again" in text for text in kept.news()), declared.what
    assert file.exists()
    assert case.read() == case.held


def test_a_document_that_another_program_changed_is_read_anew_and_not_written_over():
    keep_lineup("one")
    assert not kept.has_changed()
    with multiprocessing.get_context("spawn").Pool(1) as pool:
        pool.apply(_elsewhere, (os.environ["SWADDON_CONFIG"],))
    assert kept.has_changed()
    assert held_lineups() == ["one", "elsewhere"]
    keep_lineup("two")
    assert held_lineups() == ["one", "elsewhere", "two"]
    assert not kept.has_changed()


def _elsewhere(folder: str) -> None:
    os.environ["SWADDON_CONFIG"] = folder
    keep_lineup("elsewhere")


def _numbers(folder: str) -> list[str]:
    os.environ["SWADDON_CONFIG"] = folder
    return [shop.next_quote(TODAY) for _ in range(20)]


def test_two_programs_never_give_one_number_twice():
    with multiprocessing.get_context("spawn").Pool(2) as pool:
        found = pool.map(_numbers, [os.environ["SWADDON_CONFIG"]] * 2)
    assert len({number for numbers in found for number in numbers}) == 40


def test_a_document_of_a_newer_version_is_told_and_never_written_over():
    file = config_folder() / "tests.json"
    file.parent.mkdir(parents=True, exist_ok=True)
    file.write_text('{"schema": "swaddon-tests/2", "presses": {}, "more": 1}')
    assert kept_tests.tests_of("film") == ()
    assert "schema" in kept.news()[0]
    kept_tests.keep_days("film", 5)
    assert "swaddon-tests/2" in file.with_name("tests.json.damaged-1").read_text()
