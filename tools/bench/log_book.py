"""Measure the log book with many runs: ``python tools/bench/log_book.py [--runs 100000] [--server ADDRESS]``.

Finding is held beside the same book as one JSON file read and searched line by line, as a script would. Filling
it takes some minutes.
"""

import argparse
import json
import os
import random
import statistics
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

os.environ["QT_QPA_PLATFORM"] = "offscreen"
sys.path.insert(0, str(Path(__file__).resolve().parents[2]))

from tests.store.conftest import run_entry

from swaddon.core.log.entry import Entry
from swaddon.core.log.query import Query
from swaddon.io.log_entries import entry_text, read_entry
from swaddon.session.log_like import Likeness
from swaddon.store.book import LogBook
from swaddon.store.engine import address_of, engine_for

_WORDS = ("crème", "glorious", "left", "press", "specks", "spring", "roll", "cooler", "hoodie", "tote")
_GARMENTS = ("Black tee", "Navy tee", "Red jersey", "White tee", "Natural canvas")


def fill(book: LogBook, count: int) -> None:
    rng = random.Random(1)
    for start in range(0, count, 1000):
        book.add([_run(number, rng) for number in range(start + 1, start + 1001)], {})
        print(f"\r{start + 1000} runs", end="", flush=True)
    print()


def _run(number: int, rng: random.Random) -> Entry:
    colours = tuple((tuple(rng.randrange(256) for _ in range(3)), rng.uniform(0.05, 0.3)) for _ in range(5))
    day = f"{2020 + number % 7}-{1 + number % 12:02d}-{1 + number % 28:02d}T10:00:00Z"
    note = " ".join(rng.sample(_WORDS, 3))
    return run_entry(number, day, garment=rng.choice(_GARMENTS), note=note, colours=colours)


def median_ms(work: Callable[[], object], times: int = 7) -> float:
    taken = []
    for _ in range(times):
        begin = time.perf_counter()
        work()
        taken.append(time.perf_counter() - begin)
    return 1000 * statistics.median(taken)


def plainly(path: Path, words: list[str]) -> list[dict]:
    """The newest sixty lines that hold all the words."""
    found = [json.loads(line) for line in path.open(encoding="utf-8") if all(word in line.lower() for word in words)]
    return found[-60:]


def main() -> None:
    asked = argparse.ArgumentParser()
    asked.add_argument("--runs", type=int, default=100_000)
    asked.add_argument("--server", default="")
    options = asked.parse_args()
    folder = Path(tempfile.mkdtemp())
    book = LogBook(engine_for(address_of(options.server, folder / "log.sqlite")), read_entry)
    book.open()
    if book.is_empty():
        fill(book, options.runs)
    plain = folder / "log.jsonl"
    with plain.open("w", encoding="utf-8") as out:
        for _, entry in book.everything():
            out.write(entry_text(entry) + "\n")
    for title, query in (
        ("everything", Query()), ("a word of all runs", Query(words="lantern")),
        ("two words", Query(words="creme roll")),
        ("the start of a word", Query(words="glo")), ("a word of one run", Query(words="77777")),
        ("no run", Query(words="zebra")), ("a word and a garment", Query(words="specks", garment="Navy tee")),
        ("a trouble", Query(trouble="peek")), ("a month", Query(words="spring", since="2024-03", until="2024-03")),
    ):  # fmt: skip
        first, count = (
            median_ms(lambda query=query: book.find(query, None, 60)),
            median_ms(lambda query=query: book.count(query, 1001)),
        )
        print(f"{title}: the newest 60 in {first:.0f} ms, counted in {count:.0f} ms")
    print(f"plainly, two words: {median_ms(lambda: plainly(plain, ['crème', 'roll']), 3):.0f} ms")
    like, entry = Likeness(), book.find(Query(), None, 1)[0].entry
    first, then = median_ms(lambda: like.nearest(book, entry), 1), median_ms(lambda: like.nearest(book, entry))
    print(f"prints like one, first time: {first:.0f} ms, then {then:.0f} ms")
    print(f"filters to choose from: {median_ms(book.choices):.0f} ms")
    if not options.server:
        _on_the_bench(folder)
    book.close()


def _on_the_bench(folder: Path) -> None:
    """From a key to the rows, and the longest turn of the window while the list is scrolled to and fro."""
    os.environ.update(SWADDON_DATA=str(folder), SWADDON_CONFIG=str(folder / "config"))
    from PySide6.QtWidgets import QApplication

    from swaddon.session.preferences import Preferences
    from swaddon.session.session import Session
    from swaddon.ui import theme
    from swaddon.ui.bench import Bench

    app = QApplication([])
    theme.load_fonts()
    theme.apply("dark")
    bench = Bench(Session(), Preferences())
    bench.resize(1280, 800)
    bench.show()
    bench.go_to_station("log")
    page = bench.pages["log"]

    def wait(until: Callable[[], bool]) -> float:
        begin = longest = time.perf_counter()
        longest = 0.0
        while not until():
            turn = time.perf_counter()
            app.processEvents()
            longest = max(longest, time.perf_counter() - turn)
            if time.perf_counter() - begin > 60:
                break
        return longest

    wait(lambda: bool(page.list.runs.rows) and bench.log.is_idle)
    taken = []
    for words in ("glorious", "specks roll", "lantern 77", "spring"):
        before = list(page.list.runs.rows)
        begin = time.perf_counter()
        page.finding._change(words=words)
        wait(lambda before=before: page.list.runs.rows != before)
        taken.append(time.perf_counter() - begin)
    print(f"on the bench, from a key to the rows: {1000 * statistics.median(taken):.0f} ms, 120 of them a rest")
    page._show_all()
    wait(lambda: bench.log.is_idle and page._query == Query())
    turns, rows = [], 0
    for _ in range(200):
        begin = time.perf_counter()
        bar = page.list.verticalScrollBar()
        bar.setValue(bar.value() + 240)
        app.processEvents()
        turns.append(time.perf_counter() - begin)
        rows = max(rows, len(page.list.runs.rows))
        time.sleep(0.01)
    middle, longest = 1000 * statistics.median(turns), 1000 * max(turns)
    print(f"scrolled through {rows} rows: a turn of the window {middle:.1f} ms, the longest {longest:.0f} ms")
    bench.close()


if __name__ == "__main__":
    main()
