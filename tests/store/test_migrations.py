"""Books of before open as they were, with what came since; a book of a later Swaddon is left alone."""

import shutil
import threading
from pathlib import Path

import pytest
from sqlalchemy import text
from tests.store.conftest import run_entry

from swaddon.core.log.query import Query
from swaddon.io.log_entries import read_entry
from swaddon.store.book import LogBook
from swaddon.store.engine import address_of, engine_for
from swaddon.store.faults import StoreError
from swaddon.store.migrate import NEWEST, is_sound

OLD = Path(__file__).parent / "old"


def book_at(address: str) -> LogBook:
    return LogBook(engine_for(address_of(address, Path())), read_entry)


def test_a_book_of_form_1_opens_with_all_that_is_in_it(tmp_path):
    """The file was written by the first form of the tables: three runs, a verdict, a picture."""
    shutil.copy(OLD / "book-0001.sqlite", tmp_path / "log.sqlite")
    book = book_at(f"sqlite:///{tmp_path / 'log.sqlite'}")
    assert book.open() == ("0001", NEWEST)
    assert [item.entry.ordered.order for item in book.find(Query())] == [f"Lantern Regatta {n}" for n in (3, 2, 1)]
    assert book.find(Query(trouble="halo"))[0].entry.ordered.order == "Lantern Regatta 2"
    assert len(book.features()[0]) == 3, "what form 2 brought is made for old runs too"
    assert book.blob("aa").data == b"picture"
    assert is_sound(book.engine) == []
    book.add([run_entry(9)], {})
    assert book.open() == (NEWEST, NEWEST)
    book.close()


def test_a_book_of_a_later_swaddon_is_left_alone(address):
    book = book_at(address)
    book.open()
    with book.engine.connect() as connection, connection.begin():
        connection.execute(text("UPDATE alembic_version SET version_num='9999'"))
    with pytest.raises(StoreError, match="newer Swaddon"):
        book.open()
    book.close()


def test_benches_that_start_at_once_make_one_book(address):
    failed: list[BaseException] = []

    def start() -> None:
        book = book_at(address)
        try:
            book.open()
        except BaseException as error:
            failed.append(error)
        finally:
            book.close()

    threads = [threading.Thread(target=start) for _ in range(4)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert failed == []


@pytest.mark.parametrize(
    ("wanted", "told"),
    [
        ("postgresql+psycopg://nobody@127.0.0.1:1/none", "server cannot be reached"),
        ("mysql://here/there", "another kind"), ("no address at all", "no address"),
        ("sqlite:////proc/none/log.sqlite", "cannot be opened"),
    ],
)  # fmt: skip
def test_an_address_that_leads_nowhere_is_one_sentence(wanted, told):
    with pytest.raises(StoreError, match=told) as refused:
        book_at(wanted).open()
    assert str(refused.value).count("\n") == 0


def test_a_file_that_is_no_book_is_one_sentence(tmp_path):
    (tmp_path / "log.sqlite").write_bytes(b"this is no database" * 500)
    with pytest.raises(StoreError, match="damaged"):
        book_at(f"sqlite:///{tmp_path / 'log.sqlite'}").open()
