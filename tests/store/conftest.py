"""The log book on both databases: SQLite in a file, and a real PostgreSQL server on a free loopback port."""

import secrets
from collections.abc import Callable, Iterator
from pathlib import Path

import pytest
from tests.postgresql import Server

from swaddon.core.log.entry import Entry, Happened, Ordered, Planned, Told
from swaddon.io.log_entries import read_entry
from swaddon.store.book import LogBook
from swaddon.store.engine import address_of, engine_for

MakeBook = Callable[[], LogBook]


@pytest.fixture(scope="session")
def server() -> Iterator[Server]:
    """One server for all tests of a worker."""
    made = Server()
    yield made
    made.remove()


@pytest.fixture(params=["sqlite", "postgresql"])
def address(request: pytest.FixtureRequest, tmp_path: Path) -> str:
    """Where an empty book may lie, of either kind."""
    if request.param == "sqlite":
        return f"sqlite:///{tmp_path / 'log.sqlite'}"
    server: Server = request.getfixturevalue("server")
    return server.new_database(f"book_{secrets.token_hex(6)}")


@pytest.fixture
def open_book(address: str) -> Iterator[MakeBook]:
    """Opens the same book as often as it is asked for, as several benches would."""
    opened: list[LogBook] = []

    def make() -> LogBook:
        book = LogBook(engine_for(address_of(address, Path())), read_entry)
        book.open()
        opened.append(book)
        return book

    yield make
    for book in opened:
        book.close()


@pytest.fixture
def book(open_book: MakeBook) -> LogBook:
    return open_book()


def run_entry(number: int = 1, at: str = "2026-11-20T10:00:00Z", **changes: object) -> Entry:
    """A run of the demo shop, its name made of a number."""
    uid = f"{number:032x}"
    ordered = {
        "order": f"Lantern Regatta {number}", "customer": "Tarn & Tinder", "line": "Black tee M",
        "garment": "Black tee",
        "garment_rgb": (27, 27, 31), "cloth": "cotton", "process": "film", "press": "film", "artwork": "lantern.png",
        "artwork_key": "ab" * 32, "width_mm": 250.0, "height_mm": 300.0, "quantity": 12,
    }  # fmt: skip
    happened = Happened(at, at, int(changes.pop("good", 11)), changes.pop("spoiled", (("peek", 1),)), 900.0)
    note = str(changes.pop("note", ""))
    colours = changes.pop("colours", (((200, 30, 40), 0.5), ((20, 60, 200), 0.3)))
    return Entry(
        uid, uid, "run", at, "bench 1", Ordered(**(ordered | changes)),
        Planned(
            settings=(("white.choke_mm", "0.25"),), figures=(("print_s", 60.0), ("used:white:ml", 3.0)), cost="0.69",
            currency="EUR", findings=(Told("bare-rim", "look", "A rim of 0.2 mm has no white."),), colours=colours,
            coverage=0.4, white_share=0.9, finest_mm=0.5, lineup=("C", "M", "Y", "K", "W", "W"),
        ),
        happened, None, note,
    )  # fmt: skip
