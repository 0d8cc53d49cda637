"""The Log station: a run that ends is there; found, looked at, compared, taken up again; and the month."""

import json
import zipfile
from dataclasses import replace

import numpy as np
import pytest
from PIL import Image
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QFileDialog, QLabel
from tests.store.conftest import run_entry
from tests.ui.patience import as_soon_as, is_quiet, until

from swaddon.core.log.entry import Entry, Verdict
from swaddon.core.log.query import Query
from swaddon.session.demo import demo_job
from swaddon.session.log_says import say_note


@pytest.fixture
def quiet(bench):
    """Wait until the book was read and shown."""

    return lambda: until(lambda: bench.log.is_idle and bench.mailbox.is_empty and is_quiet(bench))


@pytest.fixture
def page(bench, quiet):
    """The station with a book of forty runs."""
    book = bench.log.keeper.book()
    runs = [
        run_entry(
            number, f"2026-{9 + number % 3:02d}-{1 + number % 28:02d}T10:00:00Z",
            garment="Navy tee" if number % 2 else "Black tee", note="hidden <b>marker</b> ninety" * (number == 9),
            colours=(((5 * number, 40, 200), 0.6),), spoiled=(("crooked", 1),) if number % 4 == 0 else (),
        )
        for number in range(1, 41)
    ]  # fmt: skip
    book.add(runs, {})
    bench.go_to_station("log")
    quiet()
    return bench.pages["log"]


def orders(page):
    return [entry.ordered.order for _, entry, _ in page.list.runs.rows]


def test_a_run_that_ends_is_in_the_book_and_shown(marble, settle, quiet):
    marble.go_to_station("run")
    run = marble.pages["run"]
    run.begin()
    run.counting.count_good(4)
    run.counting.count_spoiled()
    run.counting.finish()
    assert marble.station == "log"
    page = marble.pages["log"]
    settle()
    quiet()
    assert orders(page) == [marble.session.job.name]
    assert page.own_table.currentWidget() is page.view
    assert page.view.count.text().startswith("4 good, 1 spoiled (1 did not come off)")
    assert not page.view.proof.pixmap().isNull()
    assert page.list.runs.thumbs
    assert marble.log.runs.all() == ()


def test_an_empty_book_says_what_to_do(bench, quiet):
    bench.go_to_station("log")
    quiet()
    page = bench.pages["log"]
    assert "empty" in page.empty.text()
    assert page.empty.isVisibleTo(page.own_table)
    page.say_verdict()
    page.show_part("compare")
    page.show_part("month")
    quiet()
    assert "No run" in page.month_view.head.text()
    assert not page.month.write.isEnabled()


def test_runs_are_found_while_typing(page, qtbot, quiet):
    assert page.told.text() == "40 runs"
    page.find_words()
    qtbot.keyClicks(page.finding.words, "ninety mark")
    quiet()
    assert orders(page) == ["Lantern Regatta 9"]
    assert page.told.text() == "1 run found"
    qtbot.keyClicks(page.finding.words, " zebra")
    quiet()
    assert orders(page) == []
    assert "Nothing is found" in page.empty.text()
    qtbot.mouseClick(page.all, Qt.MouseButton.LeftButton)
    quiet()
    assert len(orders(page)) == 40


def test_filters_are_those_that_there_are(page, quiet):
    boxes = page.finding
    assert [boxes.garment.itemText(at) for at in range(boxes.garment.count())] == ["any", "Black tee", "Navy tee"]
    boxes.garment.setCurrentIndex(1)
    boxes.garment.activated.emit(1)
    boxes.trouble.setCurrentIndex(boxes.trouble.findData("crooked"))
    boxes.trouble.activated.emit(boxes.trouble.currentIndex())
    quiet()
    assert len(orders(page)) == 10
    assert "Black tee, Crooked" in boxes.filters.head.text()


def test_more_rows_come_as_the_list_is_scrolled(page, bench, quiet):
    bench.log.keeper.book().add([run_entry(number) for number in range(1000, 1200)], {})
    page.refresh()
    quiet()
    assert len(orders(page)) == 60
    for _ in range(5):
        page.list.scrollToBottom()
        quiet()
    assert len(orders(page)) == 240
    assert len(set(orders(page))) == 240


def test_a_verdict_is_given_by_keys_alone(page, bench, qtbot, quiet):
    page.list.take(f"{9:032x}")
    quiet()
    page.list.setFocus()
    qtbot.keyClick(page.list, Qt.Key.Key_V)
    assert page.view.verdict.hasFocus()
    for key in (Qt.Key.Key_E, Qt.Key.Key_H, Qt.Key.Key_H, Qt.Key.Key_A, Qt.Key.Key_Return):
        qtbot.keyClick(page.view.verdict, key)
    as_soon_as(lambda: bench.log.keeper.waiting() == 0)
    quiet()
    kept = bench.log.keeper.book().page(f"{9:032x}")
    assert kept.entry.verdict.seen == ("peek",)
    assert dict(kept.entry.verdict.looked)["halo"] is False
    assert len(kept.entry.verdict.looked) == 10
    assert "White peeks out" in " ".join(part.text() for part in page.view.findChildren(QLabel))
    qtbot.keyClick(page.view.verdict, Qt.Key.Key_Return)
    assert bench.log.keeper.waiting() == 0, "what is known already is not written again"


def test_notes_photos_and_corrections_are_added(page, bench, qtbot, quiet, tmp_path, monkeypatch):
    page.list.take(f"{8:032x}")
    quiet()
    qtbot.keyClicks(page.view.note, "<img src=x> a second press helped")
    qtbot.keyClick(page.view.note, Qt.Key.Key_Return)
    Image.fromarray(np.full((3000, 4000, 3), 90, np.uint8)).save(tmp_path / "photo.png")
    (tmp_path / "no.jpg").write_bytes(b"no picture")
    monkeypatch.setattr(QFileDialog, "getOpenFileNames", lambda *_: ([str(tmp_path / "photo.png")], ""))
    page.view.acts["photo"].click()
    quiet()
    page.view.good.setText("12")
    page.view.lost.setText("0")
    page.view.why.setCurrentIndex(page.view.why.findData("crooked"))
    page.view.weights["printed"].setText("14,5")
    page.view._right()
    as_soon_as(lambda: bench.log.keeper.waiting() == 0)
    quiet()
    kept = bench.log.keeper.book().page(f"{8:032x}").entry
    assert (kept.happened.good, kept.happened.lost) == (12, 0)
    assert kept.happened.weights == (("printed", 14.5),)
    assert "<img src=x>" in kept.note
    blob = bench.log.keeper.book().blob(kept.photos[0])
    assert blob.media == "image/jpeg"
    labels = [part for part in page.view.findChildren(QLabel) if "<img" in part.text()]
    assert labels
    assert all(part.textFormat() == Qt.TextFormat.PlainText for part in labels)
    page.saying.photos([tmp_path / "no.jpg"])
    quiet()
    assert "no photo that can be read" in bench.problem.text()
    page.view.good.setText("many")
    page.view._right()
    assert bench.log.keeper.waiting() == 0


def test_two_runs_side_by_side_tell_what_differs_first(page, bench, qtbot, quiet):
    page.list.take(f"{4:032x}")
    quiet()
    page.list.setFocus()
    qtbot.keyClick(page.list, Qt.Key.Key_C)
    assert page.own_table.currentWidget() is page._hint
    page.list.take(f"{5:032x}")
    quiet()
    assert page.own_table.currentWidget() is page.two
    told = {title: (one, other) for title, one, other, _ in page.two.rows}
    assert told["Garment"] == ("Black tee", "Navy tee")
    assert told["Spoiled"][0].startswith("1 of 12")
    assert all(differs for *_, differs in page.two.rows)
    page.two.same.click()
    assert [differs for *_, differs in page.two.rows] == sorted((d for *_, d in page.two.rows), reverse=True)
    assert ("Choke", "0.25 mm", "0.25 mm", False) in page.two.rows


def test_prints_like_this_one_come_nearest_first(page, quiet):
    page.list.take(f"{20:032x}")
    quiet()
    page.view.acts["like"].click()
    quiet()
    numbers = [int(entry.uid, 16) for _, entry, _ in page.list.runs.rows]
    assert 20 not in numbers
    assert set(numbers[:2]) == {19, 21}, "the next colours"
    assert numbers.index(17) < numbers.index(30)
    assert "ΔE" in page.list.runs.rows[0][2]


def test_a_run_is_taken_up_with_exactly_its_settings(marble, settle, quiet):
    job = marble.session.job
    changed = replace(
        job, settings=replace(job.settings, width_mm=61.5, white=replace(job.settings.white, choke_mm=0.31))
    )
    marble.session.open(changed, None)
    settle()
    marble.go_to_station("run")
    marble.pages["run"].begin()
    marble.pages["run"].counting.finish()
    settle()
    quiet()
    marble.session.open(demo_job("tag"), None)
    settle()
    marble.go_to_station("log")
    quiet()
    marble.pages["log"].view.acts["again"].click()
    as_soon_as(lambda: marble.session.job.name == changed.name)
    settle()
    taken = marble.session.job
    assert taken.settings == changed.settings
    assert taken.profile == changed.profile
    assert taken.file.data == changed.file.data
    assert taken.file.artwork.file_name == changed.file.artwork.file_name
    assert marble.session.path is None


def test_lists_and_backup_leave_and_come_back(page, bench, quiet, tmp_path):
    page.keeping.write_backup(tmp_path / "book.zip")
    quiet()
    assert "40 entries" in page.keeping.told.text()
    page.keeping.write_list(tmp_path / "log.html")
    quiet()
    html = (tmp_path / "log.html").read_text()
    assert "hidden &lt;b&gt;marker&lt;/b&gt; ninety" in html
    page.keeping.write_list(tmp_path / "log.csv")
    quiet()
    assert (tmp_path / "log.csv").read_text(encoding="utf-8-sig").count("Lantern Regatta") == 40
    page.keeping.write_list(tmp_path / "log.json")
    quiet()
    assert len(json.loads((tmp_path / "log.json").read_text())["runs"]) == 40
    page.keeping.read_backup(tmp_path / "book.zip")
    quiet()
    assert "0 of them new" in page.keeping.told.text()
    (tmp_path / "broken.zip").write_bytes(b"nothing")
    page.keeping.read_backup(tmp_path / "broken.zip")
    quiet()
    assert "no backup" in page.keeping.told.text()
    with zipfile.ZipFile(tmp_path / "book.zip") as archive:
        assert "entries.jsonl" in archive.namelist()


def test_what_must_be_done_is_done_whatever_comes_after_it(page, bench, quiet, tmp_path):
    """Pictures of the list, asked for while it scrolls, once took the place of a backup and of photos."""
    Image.fromarray(np.full((300, 400, 3), 90, np.uint8)).save(tmp_path / "one.png")
    Image.fromarray(np.full((300, 400, 3), 150, np.uint8)).save(tmp_path / "two.png")
    head = page._page.entry.head
    page.keeping.write_backup(tmp_path / "book.zip")
    page.saying.photos([tmp_path / "one.png"])
    page.saying.photos([tmp_path / "two.png"])
    for _ in range(5):
        page._want_thumbs(["none"])
        page.list.scrollToBottom()
    as_soon_as(lambda: bench.log.keeper.waiting() == 0)
    quiet()
    assert "40 entries" in page.keeping.told.text()
    assert len(bench.log.keeper.book().page(head).entry.photos) == 2


def test_the_month_is_told_and_written(page, bench, quiet, tmp_path):
    page.show_part("month")
    page.month.month = "2026-10"
    page.month.ask()
    quiet()
    assert page.month_view.title._whole == "October 2026"
    assert "spoiled" in page.month_view.head.text()
    assert "Crooked" in page.month_view.bars.accessibleName()
    page.month.write_to(tmp_path / "month.pdf")
    page.month.write_to(tmp_path / "month.csv")
    assert (tmp_path / "month.pdf").read_bytes().startswith(b"%PDF")
    assert "white" in (tmp_path / "month.csv").read_text(encoding="utf-8-sig")
    page.month.step(1)
    quiet()
    assert page.month_view.title._whole == "September 2026"
    page.month.write_to(tmp_path / "missing" / "month.pdf")
    assert "could not be written" in bench.problem.text()


def test_what_is_wrong_with_the_book_is_told_and_the_bench_goes_on(bench, quiet, monkeypatch, settle):
    def broken() -> None:
        from swaddon.store.faults import StoreError

        raise StoreError("The log book could not be opened: its file is damaged.")

    monkeypatch.setattr(bench.log.keeper, "_open", broken)
    bench.go_to_station("log")
    quiet()
    page = bench.pages["log"]
    assert "damaged" in page.told.text()
    page.show_part("month")
    quiet()
    assert "damaged" in page.month.told.text()
    bench.files.open_demo("marble")
    settle()
    assert bench.desk.plan is not None


def test_a_server_that_comes_back_takes_only_its_own_words_away(bench):
    bench.log._heard(0, "The log book could not be written: the server cannot be reached.")
    assert "server" in bench.problem.text()
    bench.log._changed()
    assert "server" in bench.problem.text(), "a count at the press does not take it away"
    bench.tell("Something else.")
    bench.log._heard(2, "")
    assert bench.problem.text() == "Something else."
    bench.log._heard(0, "Locked.")
    bench.log._heard(0, "")
    assert bench.problem.text() == ""


def test_an_entry_of_another_bench_arrives_without_losing_what_is_typed(page, bench, qtbot, quiet):
    page.list.take(f"{8:032x}")
    quiet()
    page.view.note.setFocus()
    qtbot.keyClicks(page.view.note, "half a sent")
    say_note(bench.log.keeper, f"{8:032x}", "from elsewhere")
    as_soon_as(lambda: bench.log.keeper.waiting() == 0)
    quiet()
    assert page.view.note.text() == "half a sent"
    page.view.verdict.turn("halo")
    other = Entry(
        "c" * 32, f"{8:032x}", "verdict", "2026-11-28T10:00:00Z", "bench 3", verdict=Verdict((("box", True),))
    )
    bench.log.keeper.book().add([other], {})
    page._book_changed()
    quiet()
    assert page.view.verdict._looked.state("halo") == "seen", "a verdict that is being given stays"
    assert bench.log.keeper.book().find(Query(trouble="box"))
