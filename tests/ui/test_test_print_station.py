"""The Test print station with hands on it: scans, constants, by eye, over time."""

import datetime
import threading

import cv2
import numpy as np
import pytest
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QLabel
from tests.seeds import scanned
from tests.ui.patience import as_soon_as

from swaddon.io import profiles
from swaddon.io.scans import write_scan
from swaddon.session import edits, kept_tests, shop
from swaddon.session.kept_tests import KeptTest, keep_test
from swaddon.ui.widgets import Popover

SEED = 2
"""A film press with two colours swapped and white in its slots."""


@pytest.fixture(scope="module")
def scan_file(tmp_path_factory):
    path = tmp_path_factory.mktemp("scans") / "scan.png"
    write_scan(path, scanned(profiles.shipped("film"), SEED, 300.0).pixels, 300)
    return path


@pytest.fixture
def page(heron, settle, monkeypatch):
    """The station on the Heron, whose press is the film profile; pages of the seeds are of one day."""
    heron.go_to_station("testprint")
    settle()
    return heron.pages["testprint"]


@pytest.fixture
def read(page, scan_file, settle):
    page.open_scan(scan_file)
    as_soon_as(lambda: page.test is not None)
    settle()
    return page


def test_the_page_lies_on_the_table_before_anything_was_read(heron, page):
    assert heron._stack.currentWidget() is page.own_table
    assert not page.own_table.shows_scan
    assert "Nothing read yet" in page.status.text()
    assert not heron._see_bar.isVisible()
    heron.go_to_station("white")
    assert heron._stack.currentWidget() is heron.table
    assert heron._see_bar.isVisible()


def test_a_scan_is_read_into_pictures_and_words(heron, read):
    """Its pictures agree with the page where nothing is wrong; curtain, zoom and drag look about on it."""
    assert read.own_table.shows_scan
    words = read.read_part.wrong.text()
    assert "swap" in words
    assert "Blocked nozzles" in words
    assert "White lies" in read.read_part.place.text()
    assert "50 % prints as" in read.read_part.gain.accessibleDescription()
    assert "Lines" in read.read_part.ladders.accessibleDescription()
    assert heron.findings.rows[0].finding.code == "slots-wrong"
    assert "of the press" in "".join(label.text() for label in heron.findings.rows[0].findChildren(QLabel))
    assert [test.source for test in kept_tests.tests_of("film")] == ["scan.png"]

    # sent and scanned lie on each other under the curtain
    sent, seen = read.test.sent[..., 1].astype(float), read.test.scanned[..., 1].astype(float)
    assert sent.shape == seen.shape
    assert np.corrcoef(sent.ravel()[::7], seen.ravel()[::7])[0, 1] > 0.8
    (dx, dy), _ = cv2.phaseCorrelate(sent, seen)
    assert abs(dx) < 1.0
    assert abs(dy) < 1.0
    table = read.own_table
    middle = QPoint(round(table.curtain * table.width()), 200)
    QTest.mousePress(table, Qt.MouseButton.LeftButton, pos=middle)
    QTest.mouseMove(table, middle + QPoint(120, 0))
    QTest.mouseRelease(table, Qt.MouseButton.LeftButton, pos=middle + QPoint(120, 0))
    assert table.curtain > 0.55
    before = table._scale
    table.setFocus()
    QTest.keyClick(table, Qt.Key.Key_Plus)
    QTest.keyClick(table, Qt.Key.Key_Left, Qt.KeyboardModifier.ShiftModifier)
    QTest.keyClick(table, Qt.Key.Key_Right)
    assert table._scale > before
    QTest.keyClick(table, Qt.Key.Key_0)
    assert table._scale == pytest.approx(before)
    table.go_to(100, 100)
    assert table._scale > before
    at = QPointF(60, 60).toPoint()
    corner = QPointF(table._corner)
    QTest.mousePress(table, Qt.MouseButton.LeftButton, pos=at)
    QTest.mouseMove(table, at + QPoint(30, 10))
    QTest.mouseRelease(table, Qt.MouseButton.LeftButton, pos=at + QPoint(30, 10))
    assert table._corner - corner == QPointF(30, 10)


@pytest.mark.full_size
def test_ticked_constants_are_taken_in_one_step_and_undone(heron, read, settle):
    read.show_part("constants")
    lines = {line._key: line for line in read.constants.lines}
    assert not lines["holds.line_mm"].tick.isChecked()
    assert "assumed" in lines["white.contrast_ratio"].values.text()
    lines["registration.rotation_deg"].tick.click()
    before = heron.session.job.profile
    QTest.mouseClick(read.constants.take, Qt.MouseButton.LeftButton)
    settle()
    after = heron.session.job.profile
    assert after.white.contrast_ratio == pytest.approx(read.test.reading.opacity.contrast_ratio, abs=1e-3)
    assert after.registration.rotation_deg == 0
    assert len({entry.date for entry in after.measured}) == 1
    assert shop.press("film") == after
    today = datetime.date.today().isoformat()
    assert f"measured on {today}" in lines["white.contrast_ratio"].values.text()
    assert heron.desk.plan.request.press == after
    heron.session.undo()
    settle()
    assert heron.session.job.profile == before
    assert shop.press("film") == profiles.shipped("film")


def test_what_changes_in_the_job_is_told_before_it_is_taken(heron, read, settle):
    read.show_part("constants")
    QTest.mouseClick(read.constants.ask, Qt.MouseButton.LeftButton)
    as_soon_as(lambda: bool(read.constants.effect.text()))
    text = read.constants.effect.text()
    assert "White 1." in text
    assert "Choke that never peeks" in text
    assert "Mean ΔE" in text
    assert heron.session.undo_label is None or "measured" not in heron.session.undo_label
    read.constants.lines[0].tick.click()
    assert read.constants.effect.text() == ""


@pytest.mark.parametrize("change", ["tick", "job"])
def test_what_was_asked_of_other_ticks_or_another_job_is_not_shown(heron, read, settle, monkeypatch, change):
    """The answer of before came after the tick and stood beside it."""
    from swaddon.session import effects

    goes_on = threading.Event()
    told = effects.effects

    def late(*given):
        assert goes_on.wait(60)
        return told(*given)

    monkeypatch.setattr(effects, "effects", late)
    read.show_part("constants")
    settle()
    read.constants.ask.click()
    if change == "tick":
        read.constants.lines[0].tick.click()
    else:
        heron.session.apply(edits.set_white("White", mode="need"))
    goes_on.set()
    settle()
    assert read.constants.effect.text() == ""
    if change == "tick":
        read.constants.lines[0].tick.click()
        assert read._effect.current is None
    else:
        heron.session.undo()
        settle()
    read.constants.ask.click()
    as_soon_as(lambda: bool(read.constants.effect.text()))


def test_a_bad_scan_is_told_and_nothing_is_lost(heron, read, tmp_path, settle):
    path = tmp_path / "mirrored.png"
    write_scan(path, np.ascontiguousarray(scanned(profiles.shipped("film"), SEED, 300.0).pixels[:, ::-1]), 300)
    before = read.test
    read.open_scan(path)
    as_soon_as(lambda: "mirrored" in heron.problem.text())
    assert read.test is before
    assert len(kept_tests.tests_of("film")) == 1


def test_what_the_eye_reads_becomes_the_same_constants(heron, page, settle):
    page.show_part("eye")
    assert not page.constants.isVisible()
    for name, text in (("across", "4"), ("down", "-2"), ("line", "0.3"), ("like_black", "15 %")):
        field = page.eye_part.fields[name]
        field.setFocus()
        field.clear()
        QTest.keyClicks(field, text)
        QTest.keyClick(field, Qt.Key.Key_Return)
    field = page.eye_part.fields["gap"]
    QTest.keyClicks(field, "0.33")
    QTest.keyClick(field, Qt.Key.Key_Return)
    assert "none of the page" in field.toolTip()
    field.revert()
    assert [line._key for line in page.constants.lines] == [
        "registration.shift_mm", "holds.line_mm", "white.contrast_ratio",
    ]  # fmt: skip
    QTest.mouseClick(page.constants.take, Qt.MouseButton.LeftButton)
    settle()
    press = heron.session.job.profile
    assert press.registration.shift_mm == pytest.approx((0.2, -0.1))
    assert press.holds.line_mm == 0.3
    assert press.measured_as("holds.line_mm").source == "test print, read by eye"
    assert kept_tests.tests_of("film")[-1].source == "by eye"


def test_the_simulated_press_is_asked_by_number(heron, page, monkeypatch):
    asked = []
    monkeypatch.setattr(page, "print_on_simulated", asked.append)
    QTest.mouseClick(page.simulate, Qt.MouseButton.LeftButton)
    popover = heron.findChild(Popover)
    field = next(child for child in popover.findChildren(object) if child.metaObject().className() == "TextField")
    field.clear()
    QTest.keyClicks(field, "many")
    QTest.keyClick(field, Qt.Key.Key_Return)
    assert asked == []
    assert "0 to 9999" in field.toolTip()
    field.clear()
    QTest.keyClicks(field, "17")
    QTest.keyClick(field, Qt.Key.Key_Return)
    assert asked == [17]


def test_printing_on_the_simulated_press_can_be_stopped(heron, page, settle):
    page.print_on_simulated(1)
    as_soon_as(lambda: heron.progress._text.text() != "")
    heron.desk.cancel()
    settle()
    assert page.test is None
    assert kept_tests.tests_of("film") == ()


def test_another_job_opened_while_a_scan_is_read_gets_no_reading(heron, page, scan_file, settle):
    """The reading is kept for its press, and shown on none of another."""
    page.open_scan(scan_file)
    heron.files.open_demo("choir")
    settle()
    assert heron.session.job.profile.name == "direct"
    assert page.test is None
    assert len(kept_tests.tests_of("film")) == 1
    assert heron._stack.currentWidget() is page.own_table
    assert not page.own_table.shows_scan


def test_a_scan_that_comes_into_a_watched_folder_is_read(page, scan_file, tmp_path):
    page.watch_folder(tmp_path)
    assert str(tmp_path) in page.status.text()
    (tmp_path / "new.png").write_bytes(scan_file.read_bytes())
    as_soon_as(lambda: page.test is not None)
    assert page.test.source == "new.png"
    QTest.mouseClick(page.watch, Qt.MouseButton.LeftButton)
    assert page.watch.text() == "Watch a folder…"


def test_the_page_is_saved_under_the_name_that_is_chosen(heron, page, tmp_path, settle):
    page.save_to(tmp_path / "page")
    as_soon_as(lambda: "written" in heron.problem.text())
    assert (tmp_path / "page.pdf").read_bytes().startswith(b"%PDF")
    page.save_to(tmp_path / "page.doc")
    as_soon_as(lambda: ".pdf, .tif or .png" in heron.problem.text())


def test_the_press_over_time_tells_its_tests_and_how_long_they_hold(heron, page, settle):
    old = (datetime.date.today() - datetime.timedelta(days=100)).isoformat()
    for day, right in ((old, 0.05), (datetime.date.today().isoformat(), 0.11)):
        told = {"is_whole": True, "shift_mm": [right, 0.0], "white_contrast_ratio": 0.7 + right / 10}
        keep_test("film", KeptTest(day, "a.png", told))
    heron.shop_changed()
    page.show_part("press")
    history = page.history_part
    assert old in history.list.text()
    assert "2 tests" in history.picture.accessibleDescription()
    texts = [label.text() for label in history.findChildren(QLabel)]
    assert "assumed" in texts
    history.days.setFocus()
    history.days.clear()
    QTest.keyClicks(history.days, "0")
    QTest.keyClick(history.days, Qt.Key.Key_Return)
    assert "1 to 3650" in history.days.toolTip()
    history.days.clear()
    QTest.keyClicks(history.days, "30")
    QTest.keyClick(history.days, Qt.Key.Key_Return)
    assert kept_tests.days_of("film") == 30


def test_an_old_test_is_a_finding_and_marks_the_station(heron, page, settle):
    old = (datetime.date.today() - datetime.timedelta(days=100)).isoformat()
    keep_test("film", KeptTest(old, "a.png", {"is_whole": True}))
    heron.shop_changed()
    row = next(row for row in heron.findings.rows if row.finding.code == "test-old")
    assert "100 days" in row.finding.text
    centre = heron.table.middle_mm()
    row.pressed.emit()
    assert heron.table.middle_mm() == centre


def test_without_white_the_fields_of_white_are_not_asked(heron, page, settle):
    from swaddon.session import edits

    heron.apply(edits.set_profile(profiles.shipped("toner-colour")))
    settle()
    page.show_part("eye")
    assert not page.eye_part.fields["across"].isVisible()
    assert page.eye_part.fields["line"].isVisible()
    assert heron._stack.currentWidget() is page.own_table
