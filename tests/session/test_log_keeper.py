"""What is noted at the press comes into the log book, whatever happens on the way."""

import errno
import os
import random
import secrets
import signal
import sqlite3
import subprocess
import threading
import time
from collections.abc import Iterator
from contextlib import suppress
from pathlib import Path

import pytest
from tests.postgresql import Server
from tests.store.conftest import run_entry

from swaddon.core.log.entry import Happened
from swaddon.core.log.query import Query
from swaddon.core.run.record import record_of
from swaddon.io.journal import Journal
from swaddon.session.log_keeper import LogKeeper, open_book
from swaddon.session.log_says import put_right, say_note, say_verdict
from swaddon.store.engine import address_of
from swaddon.store.faults import StoreError
from swaddon.store.migrate import is_sound

KILLS = int(os.environ.get("SWADDON_KILLS", "24"))
"""How often the program is killed on each database; `make soak` does it 200 times."""


class Clock:
    """A clock that goes on by a second whenever it is read."""

    def __init__(self) -> None:
        self.now = 1_000_000.0

    def __call__(self) -> float:
        self.now += 1
        return self.now


def keeper_at(folder: Path, address: str = "") -> LogKeeper:
    return LogKeeper(
        Journal(folder / "journal"),
        lambda: open_book(address or f"sqlite:///{folder / 'log.sqlite'}"),
        Clock(),
        "bench 1",
    )


@pytest.fixture
def keeper(tmp_path: Path) -> Iterator[LogKeeper]:
    made = keeper_at(tmp_path)
    yield made
    made.close()


def draft(number: int = 1):
    return run_entry(number, good=0, spoiled=())


def note(keeper: LogKeeper, uid: str, do: str, **more: object) -> None:
    keeper.note_down(uid, {"do": do, "at": keeper.clock(), **more})


def ended_run(keeper: LogKeeper, number: int = 1, good: int = 3) -> str:
    entry = draft(number)
    keeper.begin(entry, {"aa": ("image/png", b"picture")})
    note(keeper, entry.uid, "good", count=good)
    note(keeper, entry.uid, "end")
    return entry.uid


def test_a_run_survives_a_restart_and_writes_itself_when_it_ends(keeper, tmp_path):
    entry = draft()
    keeper.begin(entry, {"aa": ("image/png", b"picture")})
    note(keeper, entry.uid, "good", count=2)
    note(keeper, entry.uid, "start", step="press", timer=1, expected_s=10)
    assert keeper.deliver() == 0, "it has not ended"
    again = keeper_at(tmp_path)
    ((held, record),) = again.open_runs()
    assert held == entry
    assert (record.good, len(record.timers)) == (2, 1)
    note(again, entry.uid, "spoiled", count=1, why="peek")
    note(again, entry.uid, "end")
    assert again.waiting() == 1
    assert again.deliver() == 1
    assert again.deliver() == 0
    assert again.waiting() == 0
    assert again.open_runs() == ()
    written = again.book().find(Query())[0].entry
    assert (written.happened.good, written.happened.spoiled) == (2, (("peek", 1),))
    assert written.planned == entry.planned
    assert again.book().blob("aa").data == b"picture"
    again.close()


def test_verdicts_corrections_and_notes_follow(keeper):
    uid = ended_run(keeper)
    say_verdict(keeper, uid, [("peek", True), ("halo", False)], washes=2)
    put_right(keeper, uid, Happened(good=4))
    say_note(keeper, uid, "under the left press")
    assert keeper.deliver() == 4
    page = keeper.book().page(uid)
    assert page.entry.happened.good == 4
    assert page.entry.verdict.seen == ("peek",)
    assert page.entry.note == "under the left press"
    assert [entry.kind for entry in page.history] == ["run", "verdict", "correction", "note"]


def test_written_twice_it_is_in_the_book_once(keeper, monkeypatch):
    """Killed between the book and the journal: the next start writes it again."""
    uid = ended_run(keeper)
    monkeypatch.setattr(keeper.journal, "forget", lambda _uid: None)
    assert keeper.deliver() == 1
    assert keeper.deliver() == 1
    monkeypatch.undo()
    assert keeper.deliver() == 1
    assert keeper.waiting() == 0
    assert len(keeper.book().find(Query())) == 1
    assert len(keeper.book().page(uid).history) == 1


def test_a_line_cut_off_is_as_good_as_not_written(keeper, tmp_path):
    entry = draft()
    keeper.begin(entry, {})
    note(keeper, entry.uid, "good", count=2)
    notes = tmp_path / "journal" / entry.uid / "notes.jsonl"
    notes.write_bytes(notes.read_bytes() + b'{"do":"good","at":3,"cou')
    assert record_of(keeper.notes_of(entry.uid)).good == 2
    note(keeper, entry.uid, "good", count=5)
    assert record_of(keeper.notes_of(entry.uid)).good == 7
    note(keeper, entry.uid, "end")
    assert keeper.deliver() == 1
    assert keeper.book().find(Query())[0].entry.happened.good == 7


def test_an_entry_that_the_book_never_takes_holds_nothing_up(keeper, tmp_path):
    """A damaged draft is told and set aside; those after it arrive."""
    ended_run(keeper, 1)
    path = tmp_path / "journal" / f"{1:032x}" / "draft.json"
    path.write_text(path.read_text().replace('"width_mm":250.0', '"width_mm":1e300'))
    uid = ended_run(keeper, 2)
    with pytest.raises(StoreError, match="set aside as"):
        keeper.deliver()
    assert [item.entry.uid for item in keeper.book().find(Query())] == [uid]
    assert (path.parent.with_name(f".damaged-{1:032x}") / "draft.json").exists()


def test_what_is_counted_beyond_all_measure_still_comes_in(keeper):
    uid = draft().uid
    keeper.begin(draft(), {})
    for _ in range(101):
        note(keeper, uid, "good", count=100_000)
    note(keeper, uid, "end")
    assert keeper.deliver() == 1
    assert keeper.book().page(uid).entry.happened.good == 10_000_000


# what may be wrong with disk and database: one sentence, nothing lost, and it arrives later


def one_sentence(refused: pytest.ExceptionInfo[StoreError]) -> str:
    text = str(refused.value)
    assert "\n" not in text
    assert "Traceback" not in text
    assert text.endswith(".")
    return text


def fill_up(filler: Path) -> None:
    """Write until the disk is full."""
    with suppress(OSError), filler.open("wb", buffering=0) as file:
        while True:
            file.write(b"x" * 4096)


def full_disk(*_args: object) -> None:
    raise OSError(errno.ENOSPC, "No space left on device")


def test_on_a_full_disk_notes_and_entries_wait_in_memory_and_arrive_later(keeper, monkeypatch):
    entry = draft()
    keeper.begin(entry, {})
    monkeypatch.setattr("swaddon.io.journal.os.fsync", full_disk)
    with pytest.raises(StoreError) as refused:
        note(keeper, entry.uid, "good", count=4)
    assert "no space left" in one_sentence(refused)
    with pytest.raises(StoreError):
        say_note(keeper, entry.uid, "a note of the full disk")
    assert record_of(keeper.notes_of(entry.uid)).good == 4, "it counts all the same, and once"
    monkeypatch.undo()
    note(keeper, entry.uid, "end")
    assert keeper.deliver() == 2
    written = keeper.book().page(entry.uid).entry
    assert written.happened.good == 4
    assert written.note == "a note of the full disk"


def test_a_really_full_disk(tmp_path):
    """A small file system of its own; where none may be mounted, the test above stands for it."""
    small = tmp_path / "small"
    small.mkdir()
    mount = ["mount", "-t", "tmpfs", "-o", "size=4m", "tmpfs", str(small)]
    if subprocess.run(mount, check=False, capture_output=True).returncode:
        pytest.skip("no file system can be mounted here")
    keeper = keeper_at(tmp_path, f"sqlite:///{small / 'log.sqlite'}")
    try:
        uid = ended_run(keeper)
        assert keeper.deliver() == 1
        filler = small / "filler"
        fill_up(filler)
        numbers = range(2, 40)
        for number in numbers:
            ended_run(keeper, number)
        with pytest.raises(StoreError) as refused:
            keeper.deliver()
        assert "full" in one_sentence(refused)
        filler.unlink()
        keeper.deliver()
        found = keeper.book().find(Query(), None, 1000)
        assert len(found) == 39
        assert uid in {item.entry.uid for item in found}
        assert is_sound(keeper.book().engine) == []
    finally:
        keeper.close()
        subprocess.run(["umount", str(small)], check=True)


def test_a_book_that_may_only_be_read_or_is_locked_gets_what_waits_later(tmp_path, monkeypatch):
    monkeypatch.setattr("swaddon.store.engine._WAIT_S", 0)
    first = keeper_at(tmp_path)
    ended_run(first, 1)
    first.deliver()
    first.close()
    path = tmp_path / "log.sqlite"
    keeper = keeper_at(tmp_path, f"sqlite:///file:{path}?mode=ro&uri=true")
    ended_run(keeper, 2)
    with pytest.raises(StoreError) as refused:
        keeper.deliver()
    assert "only be read" in one_sentence(refused)
    keeper.close()
    keeper = keeper_at(tmp_path)
    other = sqlite3.connect(path, isolation_level=None)
    other.execute("BEGIN EXCLUSIVE")
    with pytest.raises(StoreError) as refused:
        keeper.deliver()
    assert "locked" in one_sentence(refused)
    assert keeper.waiting() == 1
    other.execute("ROLLBACK")
    other.close()
    assert keeper.deliver() == 1
    assert len(keeper.book().find(Query())) == 2
    keeper.close()


def test_a_server_that_is_gone_in_mid_work_gets_what_waits_when_it_is_back(tmp_path):
    server = Server()
    keeper = keeper_at(tmp_path, server.new_database("book"))
    try:
        ended_run(keeper, 1)
        assert keeper.deliver() == 1
        server.stop()
        ended_run(keeper, 2)
        for _ in range(2):
            with pytest.raises(StoreError) as refused:
                keeper.deliver()
            assert "cannot be reached" in one_sentence(refused)
        with pytest.raises(StoreError):
            keeper.book().find(Query())
        say_note(keeper, f"{1:032x}", "said while it was gone")
        server.start()
        assert keeper.deliver() == 2
        assert len(keeper.book().find(Query())) == 2
        assert "while it was gone" in keeper.book().page(f"{1:032x}").entry.note
    finally:
        keeper.close()
        server.remove()


def test_a_server_that_does_not_answer_keeps_no_count_waiting(tmp_path):
    """Opening a book waits for seconds where a server is gone; the window, which notes, must not."""
    opening, answer = threading.Event(), threading.Event()

    def slow():
        opening.set()
        answer.wait(20)
        raise StoreError("The log book could not be opened: the server cannot be reached.")

    keeper = LogKeeper(Journal(tmp_path / "journal"), slow, Clock(), "bench 1")
    entry = draft()
    keeper.begin(entry, {})
    keeper.start(lambda _count, _wrong: None)
    ended_run(keeper, 2)
    keeper.wake()
    assert opening.wait(20)
    noted = threading.Thread(target=lambda: note(keeper, entry.uid, "good", count=1))
    noted.start()
    noted.join(5)
    is_free = not noted.is_alive()
    answer.set()
    noted.join()
    keeper.close()
    assert is_free


def test_the_thread_delivers_by_itself_and_tells_what_is_wrong(tmp_path):
    heard: list[tuple[int, str]] = []
    keeper = keeper_at(tmp_path)
    keeper.start(lambda count, wrong: heard.append((count, wrong)))
    ended_run(keeper)
    keeper.wake()
    until = time.monotonic() + 20
    while not keeper.is_idle and time.monotonic() < until:
        time.sleep(0.01)
    keeper.close()
    assert (1, "") in heard


def test_it_is_idle_only_when_what_came_into_the_book_was_told(tmp_path):
    told, hear = threading.Event(), threading.Event()
    keeper = keeper_at(tmp_path)
    ended_run(keeper)
    keeper.start(lambda _count, _wrong: (told.set(), hear.wait(20)))
    assert told.wait(20)
    assert not keeper.is_idle
    hear.set()
    keeper.close()
    assert len(keeper.book().find(Query())) == 1
    keeper.close()


# killed at any moment


def _work(folder: Path, address: str, told: int) -> None:
    """What a bench does all day, as fast as it can; each thing that is kept is told through a pipe."""
    keeper = keeper_at(folder, address)
    keeper.clock = time.time
    rng = random.Random()
    while True:
        number = rng.getrandbits(100)
        entry = draft(number)
        keeper.begin(entry, {f"{number:032x}": ("image/png", b"p" * 2000)})
        os.write(told, f"begin {entry.uid}\n".encode())
        for _ in range(rng.randint(0, 3)):
            note(keeper, entry.uid, "good", count=1)
            os.write(told, f"good {entry.uid}\n".encode())
        note(keeper, entry.uid, "start", step="press", timer=1, expected_s=10)
        note(keeper, entry.uid, "stop", timer=1)
        if rng.random() < 0.7:
            note(keeper, entry.uid, "end")
            os.write(told, f"end {entry.uid}\n".encode())
            if rng.random() < 0.6:
                keeper.deliver()
                os.write(told, f"in-book {entry.uid}\n".encode())


def _killed(folder: Path, address: str, after_s: float) -> list[str]:
    """Start the work in a process of its own, and kill it."""
    get, put = os.pipe()
    child = os.fork()
    if child == 0:
        os.close(get)
        try:
            _work(folder, address, put)
        finally:
            os._exit(1)
    os.close(put)
    first = os.read(get, 1)
    time.sleep(after_s)
    os.kill(child, signal.SIGKILL)
    os.waitpid(child, 0)
    told = first
    while part := os.read(get, 65536):
        told += part
    os.close(get)
    return told.decode().splitlines()


@pytest.mark.parametrize("kind", ["sqlite", "postgresql"])
def test_killed_at_any_moment_no_entry_is_lost_or_doubled(kind, tmp_path):
    server = Server() if kind == "postgresql" else None
    address = f"sqlite:///{tmp_path / 'log.sqlite'}" if server is None else server.new_database("book")
    rng = random.Random(16)
    good: dict[str, int] = {}
    ended: set[str] = set()
    in_book: set[str] = set()
    begun: set[str] = set()
    try:
        for _ in range(KILLS):
            for line in _killed(tmp_path, address, rng.uniform(0, 0.12)):
                what, _, uid = line.partition(" ")
                begun.add(uid)
                good[uid] = good.get(uid, 0) + (what == "good")
                {"end": ended, "in-book": in_book}.get(what, set()).add(uid)
            _hold_to(tmp_path, address, good, ended, in_book, begun)
        assert len(ended) > KILLS / 2
    finally:
        if server is not None:
            server.remove()


def _hold_to(
    folder: Path, address: str, good: dict[str, int], ended: set[str], in_book: set[str], begun: set[str]
) -> None:
    """After a kill: what was told is there, once, and the book is sound."""
    keeper = keeper_at(folder, address)
    try:
        book = keeper.book()
        assert is_sound(book.engine) == []
        held = {item.entry.uid: item.entry for item in book.find(Query(), None, 100_000)}
        assert in_book <= set(held)
        keeper.deliver()
        held = {item.entry.uid: item.entry for item in book.find(Query(), None, 100_000)}
        uids = [entry.uid for _, entry in book.everything()]
        assert len(uids) == len(set(uids))
        assert ended <= set(held)
        going = {entry.uid: record for entry, record in keeper.open_runs()}
        assert begun - ended <= set(going) | set(held)
        for uid, count in good.items():
            now = held[uid].happened.good if uid in held else going[uid].good
            assert count <= now <= count + 1, "at most the one that was just written and not told yet"
            good[uid] = now
        ended |= set(held) & begun
    finally:
        keeper.close()


def test_the_address_is_the_usual_file_where_nothing_else_is_asked_for(tmp_path):
    assert address_of("", tmp_path / "x.sqlite").database == str(tmp_path / "x.sqlite")
    assert address_of(f"postgresql+psycopg://a:b@h/{secrets.token_hex(2)}", tmp_path).get_backend_name() == "postgresql"
