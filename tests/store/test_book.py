"""The log book, the same on both databases: what is added stays, what is looked for is found."""

import threading
from dataclasses import replace

import numpy as np
import pytest
from sqlalchemy import text
from sqlalchemy.exc import DBAPIError
from tests.store.conftest import run_entry

from swaddon.core.errors import PlanError
from swaddon.core.log.entry import Entry, Happened, Verdict
from swaddon.core.log.query import Query
from swaddon.store.book import Blob
from swaddon.store.migrate import NEWEST, is_sound


def later(head: Entry, number: int, kind: str, **what) -> Entry:
    return Entry(f"{number:032x}", head.head, kind, "2026-11-21T09:00:00Z", "bench 2", **what)


def found(book, **asked):
    return [item.entry.ordered.order for item in book.find(Query(**asked))]


def test_an_entry_comes_back_as_it_was_and_once(book):
    entry = run_entry(note="<b>crème</b> & “rough”\x07")
    assert book.is_empty()
    assert book.add([entry], {}) == 1
    assert book.add([entry], {}) == 0
    assert [item.entry for item in book.find(Query())] == [entry]
    assert book.page(entry.head).history == (entry,)
    assert not book.is_empty()
    assert is_sound(book.engine) == []


def test_entries_and_files_are_never_changed_nor_taken_away(book):
    book.add([run_entry()], {"aa": Blob("image/png", b"one")})
    for statement in (
        "UPDATE entries SET bench='x'",
        "DELETE FROM entries",
        "DELETE FROM blobs",
        "UPDATE blobs SET data=data",
    ):
        with book.engine.connect() as connection, pytest.raises(DBAPIError, match="only ever added to"):
            connection.execute(text(statement))
    book.add([], {"aa": Blob("image/png", b"two")})
    assert book.blob("aa").data == b"one"


def test_what_is_said_later_changes_how_a_run_stands_and_keeps_what_was(book):
    head = run_entry()
    verdict = later(head, 101, "verdict", verdict=Verdict((("halo", True), ("peek", False))))
    again = later(head, 102, "verdict", verdict=Verdict((("cracked", True), ("halo", False)), washes=5))
    right = later(head, 103, "correction", happened=Happened(good=12, spoiled=()))
    note = later(head, 104, "note", note="pressed on the left press")
    book.add([head], {})
    book.add([verdict, again, right, note], {})
    page = book.page(head.head)
    assert page.history == (head, verdict, again, right, note)
    assert page.entry.happened.good == 12
    assert dict(page.entry.verdict.looked) == {"halo": False, "peek": False, "cracked": True}
    assert page.entry.verdict.washes == 5
    assert page.troubles == ("cracked",)
    assert found(book, trouble="cracked") == [head.ordered.order]
    assert found(book, trouble="peek") == [], "the correction took the spoiled piece away"
    assert found(book, words="left press") == [head.ordered.order]


def test_what_is_said_of_a_run_may_come_before_the_run_itself(book):
    head = run_entry()
    verdict = later(head, 101, "verdict", verdict=Verdict((("halo", True),)))
    book.add([verdict], {})
    assert book.page(head.head).entry.verdict.seen == ("halo",)
    book.add([head], {})
    page = book.page(head.head)
    assert page.entry.ordered == head.ordered
    assert page.entry.verdict.seen == ("halo",)
    assert len(book.find(Query())) == 1


@pytest.mark.parametrize(
    ("asked", "wanted"),
    [
        ({"words": "lantern"}, [1, 2, 3]), ({"words": "LANT regat"}, [1, 2, 3]), ({"words": "grosse"}, [2]),
        ({"words": "Größe"}, [2]), ({"words": "creme"}, [3]), ({"words": "zebra"}, []), ({"words": "ntern"}, []),
        ({"garment": "Navy tee"}, [2]), ({"process": "direct"}, [3]), ({"trouble": "crooked"}, [2]),
        ({"since": "2026-11-02"}, [2, 3]), ({"until": "2026-11-02"}, [1, 2]), ({"since": "2026-12"}, [3]),
        ({"artwork": "heron"}, [3]), ({"artwork_key": "ab" * 32}, [1, 2]),
        ({"words": "lant", "garment": "Navy tee"}, [2]), ({"words": "peek"}, [1, 3]),
        ({"words": "white peeks out"}, [1, 3]), ({"words": "bare rim"}, [1, 2, 3]), ({}, [1, 2, 3]),
    ],
)  # fmt: skip
def test_runs_are_found_by_words_and_by_what_they_are(book, asked, wanted):
    book.add(
        [
            run_entry(1, "2026-11-01T08:00:00Z"),
            run_entry(2, "2026-11-02T23:59:59Z", garment="Navy tee", size="Größe M", spoiled=(("crooked", 2),)),
            run_entry(
                3, "2026-12-01T00:00:00Z", process="direct", note="crème", artwork="night-heron.png",
                artwork_key="cd" * 32,
            ),
        ],
        {},
    )  # fmt: skip
    numbers = [int(item.entry.uid, 16) for item in book.find(Query(**asked))]
    assert sorted(numbers) == wanted
    assert numbers == sorted(numbers, reverse=True), "those written last come first"
    assert book.count(Query(**asked)) == len(wanted)


@pytest.mark.parametrize(
    ("held", "typed"),
    [
        ("Étoile", "ÉTOILE"), ("étoile", "Etoile"), ("Łódź", "lodz"), ("łódź", "ŁÓDŹ"), ("Rødgrød", "RODGROD"),
        ("Straße", "STRASSE"), ("STRASSE", "straße"), ("İstanbul", "istanbul"), ("ISPARTA", "ısparta"),
        ("Σίσυφος", "ΣΙΣΥΦΟΣ"), ("Ёлка", "елка"), ("東京", "東京"), ("Ǆungla", "dzungla"),
    ],
)  # fmt: skip
def test_names_and_words_are_found_whatever_their_case_and_accents(book, held, typed):
    """In words, and in the name of the artwork, which SQLite alone compares by its English letters only."""
    book.add([run_entry(1, note=held, artwork="plain.png"), run_entry(2, artwork=f"{held}-front.png")], {})
    assert len(book.find(Query(words=typed))) == 2
    assert [int(item.entry.uid, 16) for item in book.find(Query(artwork=typed))] == [2]


@pytest.mark.parametrize(
    "hostile",
    [
        "' OR 1=1 --",
        '"; DROP TABLE entries; --',
        "%",
        "_",
        "\\",
        "* NEAR/2",
        ":* & !",
        "a'':*",
        "\x00",
        "AND OR NOT",
        "(((",
    ],
)
def test_whatever_is_typed_is_only_looked_for(book, hostile):
    book.add([run_entry(note="plain")], {})
    for key in ("words", "garment", "process", "trouble", "artwork", "artwork_key", "since", "until"):
        if hostile == "\x00" and key != "words":
            continue  # no text of PostgreSQL holds it: it is refused as a sentence
        book.find(Query(**{key: hostile}))
        book.count(Query(**{key: hostile}))
    assert len(book.find(Query())) == 1


def test_pages_follow_each_other_without_gap_or_double(book):
    book.add([run_entry(number) for number in range(1, 26)], {})
    seen, before = [], None
    while rows := book.find(Query(words="lantern"), before, 10):
        seen += [int(item.entry.uid, 16) for item in rows]
        before = rows[-1].n
    assert seen == list(range(25, 0, -1))


def test_many_hits_are_found_as_few_are(book, monkeypatch):
    """On PostgreSQL the way changes with how many there are; both give the same."""
    book.add([run_entry(number, note="even" if number % 2 == 0 else "odd") for number in range(1, 41)], {})
    few = [item.n for item in book.find(Query(words="even lantern"))]
    monkeypatch.setattr("swaddon.store.book._FEW", 3)
    assert [item.n for item in book.find(Query(words="even lantern"))] == few
    assert len(few) == 20


def test_choices_are_those_that_there_are(book):
    book.add([run_entry(1), run_entry(2, garment="Ash tee"), run_entry(3, garment="", spoiled=(("crooked", 1),))], {})
    assert book.choices() == {"garment": ("Ash tee", "Black tee"), "process": ("film",), "trouble": ("crooked", "peek")}


def test_features_come_with_their_places(book):
    book.add([run_entry(1), run_entry(2), replace(run_entry(3), planned=None)], {})
    places, processes, features = book.features()
    assert processes == ["film", "film"]
    assert features.shape[0] == len(places) == 2
    assert np.isfinite(features).all()
    after, _, _ = book.features(int(places[0]))
    assert after.tolist() == places[1:].tolist()


def test_all_or_none_of_what_is_added_together(book):
    good, bad = run_entry(1), replace(run_entry(2), at="yesterday")
    with pytest.raises(PlanError, match="at"):
        book.add([good, bad], {"aa": Blob("image/png", b"x")})
    assert book.is_empty()
    assert book.blob("aa") is None


def test_an_entry_that_cannot_be_read_here_stands_as_a_note(book):
    """A bench of another kind may write what this one does not understand; the list still opens."""
    book.add([run_entry(1), run_entry(2)], {})
    with book.engine.connect() as connection, connection.begin():
        connection.execute(text("UPDATE standing SET document='{\"uid\": 5}' WHERE n = (SELECT min(n) FROM standing)"))
    entries = [item.entry for item in book.find(Query())]
    assert entries[0].ordered.order == "Lantern Regatta 2"
    assert "cannot be read here" in entries[1].note


def test_runs_are_made_anew_from_the_entries(book):
    head = run_entry(1)
    book.add([head, run_entry(2), later(head, 101, "note", note="glorious")], {})
    before = book.find(Query())
    with book.engine.connect() as connection, connection.begin():
        connection.execute(text("DELETE FROM standing"))
        connection.execute(text("DELETE FROM troubles"))
        connection.execute(text("DELETE FROM facts"))
    assert book.find(Query()) == []
    assert book.open() == (NEWEST, NEWEST)
    assert book.find(Query()) == before
    assert found(book, words="glorious") == ["Lantern Regatta 1"]


def test_two_benches_that_write_at_once_lose_nothing(open_book):
    """Four writers, also of what is said of one and the same run."""
    benches = [open_book() for _ in range(4)]
    head = run_entry(1)
    benches[0].add([head], {})
    failed: list[BaseException] = []

    def write(at: int) -> None:
        try:
            for number in range(12):
                benches[at].add([run_entry(1000 * (at + 1) + number)], {"ff": Blob("image/png", b"same")})
                key = f"{at:02d}{number:02d}"
                benches[at].add([later(head, 90_000 + 100 * at + number, "note", note=f"said {key}")], {})
        except BaseException as error:
            failed.append(error)

    threads = [threading.Thread(target=write, args=(at,)) for at in range(4)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert failed == []
    assert len(benches[0].find(Query(), None, 1000)) == 1 + 48
    page = benches[1].page(head.head)
    assert len(page.history) == 1 + 48
    standing = benches[2].find(Query(words="said 0311"))[0].entry
    assert all(f"said {at:02d}{number:02d}" in standing.note for at in range(4) for number in range(12))
