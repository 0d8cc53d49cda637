"""What is begun for a job lands in that job, and what is typed, stopped, copied or exported is never lost."""

import json
import os
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from PIL import Image
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtGui import QWheelEvent
from PySide6.QtWidgets import QApplication
from tests.conftest import badge

from swaddon.session import edits, storage
from swaddon.session.folders import recovery_folder
from swaddon.ui.recovery import Copies


def picture(path: Path, size: int = 120) -> Path:
    Image.fromarray(badge(size)).save(path)
    return path


def held_back(bench) -> list:
    """Keep what file work posts until it is let go."""
    waiting: list = []
    bench.desk._post, bench.held = waiting.append, bench.desk._post
    return waiting


def let_go(bench, waiting: list) -> None:
    bench.desk.wait_for_files()
    bench.desk._post = bench.held
    for call in waiting:
        call()


# a plan belongs to its job


def test_after_another_job_opens_no_number_of_the_former_is_shown(heron, settle):
    assert heron.desk.plan is not None
    heron.files.ask_unsaved = lambda: "discard"
    waiting = held_back(heron)
    heron.files.open_demo("lantern")
    let_go(heron, waiting)
    assert heron.session.job.name.startswith("Lantern")
    assert heron.desk.plan is None
    assert not heron.desk.is_current
    assert not heron.tally.cells
    assert not heron.findings.rows
    settle()
    assert heron.desk.plan.request.artwork is heron.session.job.file.artwork


def test_a_job_that_is_planned_just_as_the_former_gets_its_plan(heron, settle):
    """Where two jobs differed in their names only, the second was never planned."""
    heron.files.tray.add(replace(heron.session.job, name="Again"))
    heron.files.tray.step(1)
    settle()
    assert heron.session.job.name == "Again"
    assert heron.desk.is_current
    assert heron.tally.cells


def test_new_artwork_shows_no_number_of_the_old(heron, settle, tmp_path):
    heron.files.load_artwork(picture(tmp_path / "new.png"))
    settle()
    assert heron.desk.plan.request.artwork.file_name == "new.png"
    waiting = held_back(heron)
    heron.files.load_artwork(picture(tmp_path / "other.png", 90))
    let_go(heron, waiting)
    assert heron.desk.plan is None or heron.desk.plan.request.artwork.file_name == "other.png"


def test_a_fix_changes_what_it_must_and_keeps_what_was_set_since(heron, settle):
    heron.apply(edits.set_white("Choke", choke_mm=0.0))
    settle()
    finding = next(f for f in heron.desk.plan.findings if f.code == "choke-zero")
    heron.apply(edits.set_quantity(500))
    heron.apply(edits.set_drop(40))
    heron.findings.fix.emit(finding)
    settings = heron.session.job.settings
    assert (settings.quantity, settings.drop_mm) == (500, 40)
    assert settings.white.choke_mm > 0


# what loads lands on the job that asked


def test_edits_made_while_a_job_loads_stay_and_the_job_opens_beside(heron, settle):
    waiting = held_back(heron)
    heron.files.ask_unsaved = lambda: pytest.fail("nothing was unsaved when it was asked for")
    heron.files.open_demo("kettle")
    heron.apply(edits.set_width(111))
    let_go(heron, waiting)
    settle()
    assert len(heron.files.tray) == 2
    assert heron.session.job.name.startswith("Kettle")
    assert "stays open" in heron.problem.text()
    heron.files.tray.switch(0)
    assert heron.session.job.settings.width_mm == 111
    assert heron.session.undo_label == "Change print width"


def test_artwork_that_was_asked_for_lands_in_its_job_even_when_that_lies_aside(bench, settle, tmp_path):
    bench.files.drop_all([picture(tmp_path / "one.png"), picture(tmp_path / "two.png")])
    settle()
    waiting = held_back(bench)
    bench.files.load_artwork(picture(tmp_path / "three.png"))
    bench.files.next_job()
    let_go(bench, waiting)
    assert "two" in bench.session.job.name or "one" in bench.session.job.name
    assert bench.session.job.file.artwork.file_name != "three.png"
    bench.files.next_job()
    assert bench.session.job.file.artwork.file_name == "three.png"
    assert bench.session.undo_label == "Place three.png"


def test_artwork_for_a_closed_job_is_refused_with_the_reason(bench, settle, tmp_path):
    bench.files.drop_all([picture(tmp_path / "one.png"), picture(tmp_path / "two.png")])
    settle()
    bench.files.ask_unsaved = lambda: "discard"
    waiting = held_back(bench)
    bench.files.load_artwork(picture(tmp_path / "three.png"))
    bench.files.close_job()
    let_go(bench, waiting)
    assert "no longer open" in bench.problem.text()
    assert "three" not in bench.session.job.file.artwork.file_name


def test_the_same_file_is_opened_once_and_a_newer_one_is_not_overwritten_unasked(heron, settle, tmp_path):
    path = tmp_path / "job.swaddon"
    assert heron.files.save_to(path)
    heron.files.open_job(path)
    settle()
    assert len(heron.files.tray) == 1
    assert "open already" in heron.problem.text()
    other = replace(heron.session.job, name="From another window")
    storage.save_job(path, other)
    os.utime(path, ns=(1, 1))
    heron.apply(edits.set_width(100))
    asked = []
    heron.files.ask_newer = lambda file: asked.append(file) or "cancel"
    assert not heron.files.save()
    assert asked == [path]
    assert storage.open_job(path).name == "From another window"
    heron.files.ask_newer = lambda _file: "overwrite"
    assert heron.files.save()
    assert storage.open_job(path).settings.width_mm == 100


# typing


def test_a_field_being_typed_in_is_left_alone_when_a_plan_arrives(heron, settle, qtbot):
    field = heron.pages["order"].quantity
    field.setFocus()
    field.selectAll()
    qtbot.keyClicks(field, "42")
    heron.apply(edits.set_white("Choke", choke_mm=0.3))
    settle()
    assert field.text() == "42"
    heron.files.save_to(Path(os.environ["SWADDON_CONFIG"]) / "typed.swaddon")
    qtbot.keyClick(field, Qt.Key.Key_Tab)
    assert heron.session.job.settings.quantity == 42


def test_save_commits_what_was_typed(heron, qtbot, tmp_path):
    path = tmp_path / "job.swaddon"
    heron.files.save_to(path)
    field = heron.pages["order"].quantity
    field.setFocus()
    field.selectAll()
    qtbot.keyClicks(field, "77")
    heron.actions_.by_key["save"].trigger()
    assert storage.open_job(path).settings.quantity == 77


def test_a_refused_text_does_not_move_to_the_next_job(bench, settle, qtbot, tmp_path):
    bench.files.drop_all([picture(tmp_path / "one.png"), picture(tmp_path / "two.png")])
    settle()
    field = bench.pages["order"].quantity
    field.setFocus()
    field.selectAll()
    qtbot.keyClicks(field, "many")
    qtbot.keyClick(field, Qt.Key.Key_Return)
    assert field.property("wrong") == "true"
    bench.files.next_job()
    assert field.text() == str(bench.session.job.settings.quantity)
    assert field.property("wrong") != "true"


def test_undo_redo_and_curtain_work_from_a_field_and_settled_values_are_steps(heron, settle, qtbot):
    field = heron.pages["order"].quantity
    field.setFocus()
    for value in ("10", "20", "30"):
        field.selectAll()
        qtbot.keyClicks(field, value)
        qtbot.keyClick(field, Qt.Key.Key_Return)
    assert heron.session.job.settings.quantity == 30
    field.selectAll()
    qtbot.keyClicks(field, "99")
    qtbot.keyClick(field, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    assert field.text() == "30", "what is being typed goes first"
    for wanted in (20, 10):
        qtbot.keyClick(field, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
        assert heron.session.job.settings.quantity == wanted
    settle()
    qtbot.keyClick(field, Qt.Key.Key_Y, Qt.KeyboardModifier.ControlModifier)
    assert heron.desk.yardstick is not None
    qtbot.keyClick(field, Qt.Key.Key_K, Qt.KeyboardModifier.ControlModifier)
    assert heron.actions_.by_key["curtain"].isChecked()


def test_the_wheel_over_a_slider_sets_nothing_without_the_focus(heron):
    heron.go_to_station("white")
    slider = heron.pages["white"].choke.row.slider
    heron.table.setFocus()
    before = heron.session.job
    wheel = QWheelEvent(
        QPointF(5, 5), slider.mapToGlobal(QPointF(5, 5)), QPoint(), QPoint(0, 240), Qt.MouseButton.NoButton,
        Qt.KeyboardModifier.NoModifier, Qt.ScrollPhase.NoScrollPhase, False,
    )  # fmt: skip
    QApplication.sendEvent(slider, wheel)
    assert heron.session.job is before
    slider.setFocus()
    QApplication.sendEvent(slider, wheel)
    assert heron.session.job is not before


# recovery


def left_by_a_crash(bench) -> None:
    """As if the program had died: the copies stay, the lock is nobody's."""
    copies = bench.files.copies
    copies._lock.unlock()
    copies._lock = None
    bench.files.copies = Copies()


def keep_now(bench, settle) -> None:
    bench.files.autosave()
    settle()


def test_a_crash_is_recovered_from_a_list_with_the_jobs_path_and_survives_a_second(heron, settle, qtbot, tmp_path):
    path = tmp_path / "order.swaddon"
    heron.files.save_to(path)
    heron.apply(edits.set_width(123))
    keep_now(heron, settle)
    left_by_a_crash(heron)
    heron.files.ask_unsaved = lambda: "discard"
    heron.files.new()
    for _ in range(2):
        assert heron.files.recover()
        dialog = heron.files.recovery_list
        assert "order.swaddon" in dialog.list.item(0).text()
        qtbot.mouseClick(dialog.open_them, Qt.MouseButton.LeftButton)
        settle()
        assert heron.session.job.settings.width_mm == 123
        assert heron.session.path == path
        assert heron.session.is_changed
        assert not heron.files.recover(), "it is a job of this program now"
        left_by_a_crash(heron)
        heron.files.close_job()
    assert heron.files.copies.left()


def test_one_damaged_copy_blocks_no_good_one(heron, settle, qtbot):
    heron.apply(edits.set_width(123))
    keep_now(heron, settle)
    (heron.files.copies._home / "999.swaddon").write_bytes(b"rubbish")
    left_by_a_crash(heron)
    assert heron.files.recover()
    assert heron.files.recovery_list.list.count() == 2
    qtbot.mouseClick(heron.files.recovery_list.open_them, Qt.MouseButton.LeftButton)
    settle()
    assert heron.session.job.settings.width_mm == 123
    assert "cannot be brought back" in heron.problem.text()


def test_a_running_program_keeps_its_copies_to_itself(heron, settle):
    heron.apply(edits.set_width(123))
    keep_now(heron, settle)
    second = Copies()
    assert second.left() == []
    second.close()
    assert list(heron.files.copies._home.glob("*.swaddon"))


def test_copies_go_when_the_job_is_saved_or_discarded(heron, settle, tmp_path):
    heron.apply(edits.set_width(123))
    keep_now(heron, settle)
    home = heron.files.copies._home
    assert len(list(home.glob("*.swaddon"))) == 1
    heron.files.save_to(tmp_path / "a.swaddon")
    assert not list(home.glob("*.swaddon"))
    heron.apply(edits.set_width(124))
    keep_now(heron, settle)
    heron.files.ask_unsaved = lambda: "discard"
    heron.files.close_job()
    assert not list(home.glob("*.swaddon"))


def test_a_failed_copy_is_told_once_and_tried_again(heron, settle, monkeypatch):
    heron.apply(edits.set_width(123))
    real = storage.save_job

    def full(*_):
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(storage, "save_job", full)
    keep_now(heron, settle)
    assert "cannot be kept" in heron.problem.text()
    heron.tell("")
    keep_now(heron, settle)
    assert heron.problem.text() == ""
    monkeypatch.setattr(storage, "save_job", real)
    keep_now(heron, settle)
    assert list(heron.files.copies._home.glob("*.swaddon"))


def test_what_is_left_alone_in_the_list_is_offered_again(heron, settle, qtbot):
    heron.apply(edits.set_width(123))
    keep_now(heron, settle)
    left_by_a_crash(heron)
    assert heron.files.recover()
    qtbot.mouseClick(heron.files.recovery_list.later, Qt.MouseButton.LeftButton)
    assert heron.files.recover()
    qtbot.mouseClick(heron.files.recovery_list.discard, Qt.MouseButton.LeftButton)
    assert not heron.files.recover()
    assert not [home for home in recovery_folder().iterdir() if list(home.glob("*.swaddon"))]


# stop, export


def test_stop_says_so_and_offers_to_go_on(heron, settle, qtbot):
    heron.apply(edits.set_white("Choke", choke_mm=0.31))
    heron.desk.cancel()
    assert heron.desk.is_stopped
    assert heron.progress.isVisible()
    assert "Stopped" in heron.progress._text.text()
    assert "stopped" in heron.findings._head.text()
    heron.files.exporting.to(Path("nowhere"))
    assert "Go on" in heron.problem.text()
    qtbot.mouseClick(heron.progress.go_on, Qt.MouseButton.LeftButton)
    settle()
    assert heron.desk.is_current
    assert not heron.progress.isVisible()
    assert heron.desk.plan.request.settings.white.choke_mm == 0.31


def test_stop_during_an_export_leaves_nothing(heron, settle, tmp_path, monkeypatch):
    from swaddon.io import export

    real = export.write_png

    def slow(path, *rest):
        heron.desk._stops_files.set()
        real(path, *rest)

    monkeypatch.setattr(export, "write_png", slow)
    heron.files.exporting.to(tmp_path / "out")
    settle()
    assert "nothing was written" in heron.problem.text()
    assert not (tmp_path / "out").exists()


def test_what_is_not_ours_is_listed_before_an_export_replaces_it_and_nothing_else_goes(heron, settle, tmp_path):
    out = tmp_path / "out"
    out.mkdir()
    (out / "highlight.png").write_bytes(b"old")
    (out / "plan.json").write_text(
        json.dumps({"artwork": {"file": "x.png"}, "garment": {"rgb": "#000000"}, "process": "film"})
    )
    (out / "notes.txt").write_text("mine")
    asked = []
    heron.files.exporting.ask_over = lambda folder, held: asked.append(held) or "cancel"
    heron.files.exporting.to(out)
    settle()
    assert len(asked) == 1
    assert "plan.json" in asked[0]
    assert "highlight.png" not in asked[0], "no export of this plan writes it"
    assert "x.png" in (out / "plan.json").read_text()
    assert (out / "highlight.png").read_bytes() == b"old"
    heron.files.exporting.ask_over = lambda *_: "overwrite"
    heron.files.exporting.to(out)
    settle()
    assert (out / "highlight.png").read_bytes() == b"old"
    assert (out / "notes.txt").read_text() == "mine"
    heron.files.exporting.ask_over = lambda *_: pytest.fail("its own export may be written again")
    heron.files.exporting.to(out)
    settle()
    assert np.asarray(Image.open(out / "white.png")).shape == heron.desk.plan.white_plane.shape
