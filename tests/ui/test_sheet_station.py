"""The Sheet station in the hand: laid, dragged, used, cut, taken apart, and left in the middle of it."""

import json
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from PIL import Image
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtGui import QImage
from tests.conftest import badge, coarse
from tests.ui.patience import as_soon_as, until, until_rest

from swaddon.session import edits
from swaddon.session.demo import demo_job
from swaddon.session.sheet_edits import change_sheet
from swaddon.ui.bench import Bench


@pytest.fixture
def laid(bench, settle, badge_file):
    """A badge of 40 mm, five pieces, on its film, with the Night Heron beside it in the tray."""
    bench.files.drop(badge_file)
    settle()
    bench.apply(edits.set_profile(coarse("film")))  # all on one sheet are planned at one resolution
    bench.apply(edits.set_width(40.0))
    bench.apply(edits.set_quantity(5))
    job = demo_job("heron")
    bench.files.add_jobs([replace(job, settings=replace(job.settings, width_mm=100.0))])
    bench.go_to_station("sheet")
    bench.resting = lambda: rest(bench)
    bench.resting()
    return bench


def rest(bench: Bench) -> None:
    """Until plans are made and sheets are laid."""
    until_rest(bench, bench.deck.sheets)


def page(bench: Bench):
    return bench.pages["sheet"]


def middle(film, spot) -> QPoint:
    """Where a print's printed middle is on the screen."""
    place = film._placed(spot) * film.transform_of(spot.sheet - 1)
    width, height = film._artboard_mm(spot)
    return place.map(QPointF(width / 2, height / 2)).toPoint()


def drag(qtbot, widget, start: QPoint, end: QPoint) -> None:
    qtbot.mousePress(widget, Qt.MouseButton.LeftButton, pos=start)
    for share in (0.3, 0.7, 1.0):
        qtbot.mouseMove(widget, start + (end - start) * share)
    qtbot.mouseRelease(widget, Qt.MouseButton.LeftButton, pos=end)


def test_the_prints_of_the_job_are_laid_by_themselves(laid):
    gang = page(laid).gang
    assert len(gang.plan.gang.spots) == 5
    assert "5 prints on" in gang.table.facts.text()
    assert "Boxes would take" in gang.table.saved.text()
    assert page(laid).shows_own_table
    assert laid.table.isHidden() or not laid.table.isVisible()


def test_another_open_job_lies_beside_when_it_is_ticked(laid):
    gang = page(laid).gang
    uid = next(uid for uid, job in page(laid)._context.jobs_by_uid() if "Heron" in job.name)
    gang._share_with(uid, True)
    laid.resting()
    jobs = {item.wanted.label for item in gang.plan.laid}
    assert jobs == {"badge", "Night Heron Rowing hoodie"} or len(jobs) == 2
    assert len(gang.plan.gang.spots) == 5 + 18
    gang.use()
    laid.resting()
    other = next(job for number, job in page(laid)._context.jobs_by_uid() if number == uid)
    assert other.settings.sheet_share.medium == "Film roll 600"


def test_a_print_is_dragged_snaps_and_is_one_step_of_undo(laid, qtbot):
    gang = page(laid).gang
    film = gang.table.film
    spot = gang.plan.gang.spots[-1]
    start = middle(film, spot)
    assert film.spot_at(QPointF(start)) == spot
    drag(qtbot, film, start, start + QPoint(150, 40))
    laid.resting()
    moved = next(item for item in gang.plan.gang.spots if (item.item, item.copy) == (spot.item, spot.copy))
    assert (moved.x_px, moved.y_px) != (spot.x_px, spot.y_px)
    assert laid.session.undo_label == "Move a print"
    assert film.selected == moved
    laid.session.undo()
    laid.resting()
    assert spot in gang.plan.gang.spots
    assert not laid.session.job.sheet.placed


def test_a_print_dragged_onto_another_lies_beside_it(laid, qtbot):
    from swaddon.core.sheet.by_hand import is_clear

    gang = page(laid).gang
    film, (one, other) = gang.table.film, gang.plan.gang.spots[:2]
    drag(qtbot, film, middle(film, one), middle(film, other))
    laid.resting()
    assert is_clear(gang.plan.gang)


def test_keys_select_turn_and_nudge(laid, qtbot):
    gang = page(laid).gang
    film = gang.table.film
    qtbot.keyClick(film, Qt.Key.Key_N)
    first = film.selected
    assert first is not None
    assert "copy" in gang.table.told.text()
    qtbot.keyClick(film, Qt.Key.Key_R)
    laid.resting()
    assert film.selected.turn == (first.turn + 90) % 360
    before = film.selected
    for key in (Qt.Key.Key_Right, Qt.Key.Key_Down, Qt.Key.Key_Left, Qt.Key.Key_Up):
        qtbot.keyClick(film, key)
        laid.resting()
    assert film.selected is not None
    assert (film.selected.item, film.selected.copy, film.selected.turn) == (before.item, before.copy, before.turn)
    gang.sheet.anew.click()
    laid.resting()
    assert not laid.session.job.sheet.placed


def test_the_sheet_that_is_used_decides_cost_and_time_and_is_undone_in_one_step(laid):
    gang = page(laid).gang
    film, time = laid.tally.cells["film"].line.value, laid.desk.plan.time.print_s
    gang.sheet.use.click()
    laid.resting()
    assert laid.session.undo_label == "Use this sheet"
    assert laid.desk.plan.time.print_s < time
    assert laid.tally.cells["film"].line.value != film
    assert "Film roll 600" in gang.sheet.used.text()
    laid.session.undo()
    laid.resting()
    assert laid.desk.plan.time.print_s == time


def test_spacing_medium_and_ticks_lay_anew(laid):
    gang = page(laid).gang
    before = gang.plan.gang.spots
    gang.sheet.spacing.moved.emit(30.0)
    gang.sheet.spacing.settled.emit()
    laid.resting()
    assert gang.plan.gang.rules.spacing_mm == 30
    assert max(spot.x_px for spot in gang.plan.gang.spots) > max(spot.x_px for spot in before)
    at = gang.sheet.medium.findData("film-a4")
    gang.sheet.medium.setCurrentIndex(at)
    gang.sheet.medium.activated.emit(at)
    gang.sheet.tags.click()
    gang.sheet.fill_rings.click()
    gang.sheet.way.button_for("box").click()
    laid.resting()
    assert gang.plan.gang.medium.name == "film-a4"
    assert gang.plan.tags[0] is not None
    assert "boxes round the prints" in gang.table.saved.text()


def test_what_does_not_fit_is_told_in_a_sentence_and_mends_itself(laid):
    gang = page(laid).gang
    laid.apply(edits.set_width(700.0))
    laid.resting()
    assert gang.plan is None
    assert "more than Film roll 600 takes" in gang.table.facts.text()
    assert not gang.sheet.use.isEnabled()
    laid.apply(edits.set_width(40.0))
    laid.resting()
    assert len(gang.plan.gang.spots) == 5


def test_what_is_found_shows_on_the_rail_and_goes_with_its_job(laid):
    laid.apply(change_sheet(spacing_mm=1.0))
    laid.resting()
    assert [item.code for item in laid.deck.sheet_findings()] == ["sheet-spacing"]
    laid.files.next_job()
    laid.resting()
    assert "sheet-spacing" not in [item.code for item in laid.deck.sheet_findings()]


def test_a_job_left_while_it_is_laid_gets_nothing_of_the_other(laid, settle):
    """Another job comes to the bench in the middle of planning and laying; each sheet holds its own prints only."""
    gang = page(laid).gang
    laid.apply(edits.set_quantity(60))
    until(lambda: not laid.deck.sheets.is_idle)
    laid.files.next_job()
    laid.resting()
    assert {item.wanted.label for item in gang.plan.laid} == {"Night Heron Rowing hoodie"}
    laid.files.next_job()
    laid.apply(change_sheet(spacing_mm=7.0))
    laid.files.next_job()
    laid.files.next_job()
    laid.resting()
    assert len(gang.plan.gang.spots) == 60
    assert gang.plan.gang.rules.spacing_mm == 7


def test_a_sheet_of_before_is_neither_used_nor_shown_for_another_job(laid):
    """The sheet of the job before stayed until the next was laid: it could be used, and its findings told, for it."""
    gang = page(laid).gang
    laid.apply(change_sheet(spacing_mm=1.0))
    laid.resting()
    laid.files.next_job()
    assert gang.plan is None
    assert laid.deck.sheet_findings() == ()
    assert not gang.sheet.use.isEnabled()
    gang.use()
    assert not laid.session.job.sheet.placed
    laid.resting()
    laid.apply(edits.set_quantity(3))
    assert not gang.sheet.write.isEnabled()
    laid.resting()
    assert gang.sheet.write.isEnabled()


def test_each_drag_is_a_step_of_its_own(laid, qtbot):
    gang = page(laid).gang
    film = gang.table.film
    for copy, by in ((5, 120), (4, 150)):
        spot = next(item for item in gang.plan.gang.spots if item.copy == copy)
        start = middle(film, spot)
        drag(qtbot, film, start, start + QPoint(by, 30))
        laid.resting()
    both = laid.session.job.sheet.placed
    laid.session.undo()
    laid.resting()
    assert laid.session.job.sheet.placed not in ((), both)


def test_good_enough_stops_the_search_and_keeps_the_sheet(laid):
    gang = page(laid).gang
    laid.apply(edits.set_quantity(150))
    laid.apply(edits.set_width(90.0))
    as_soon_as(lambda: gang.plan is not None and len(gang.plan.gang.spots) == 150)
    gang.table.progress.stop.click()
    until_rest(laid, laid.deck.sheets)
    assert len(gang.plan.gang.spots) == 150
    assert gang.table.progress.isHidden()


def test_sheets_are_written_and_told(laid, tmp_path: Path):
    gang = page(laid).gang
    gang.write_to(tmp_path / "out")
    until_rest(laid, laid.deck.sheets)
    report = json.loads((tmp_path / "out" / "sheet.json").read_text())
    assert len(report["sheets"][0]["prints"]) == 5
    assert (tmp_path / "out" / "sheet-1.tif").exists()
    blocked = tmp_path / "file"
    blocked.write_text("x")
    gang.write_to(blocked / "in")
    until_rest(laid, laid.deck.sheets)
    assert gang.table.progress.isHidden()


def test_media_are_edited_in_a_table_and_kept(laid, tmp_path: Path):
    gang = page(laid).gang
    dialog = gang.edit_media()
    dialog.table.item(0, 10).setText("150")
    dialog.accept()
    laid.apply(edits.set_quantity(60))
    laid.resting()
    assert [item.code for item in gang.plan.findings] == ["sheet-film-left"]
    dialog = gang.edit_media()
    dialog.table.item(0, 3).setText("wide")
    dialog.accept()
    assert dialog.isVisible()
    assert "is no number" in dialog.wrong.text()
    dialog.table.item(0, 3).setText("500")
    dialog.write(tmp_path / "media.toml")
    assert dialog.wrong.text() == "Written to media.toml."
    dialog.read(tmp_path / "nowhere.toml")
    assert "cannot be read" in dialog.wrong.text()
    dialog.read(tmp_path / "media.toml")
    assert dialog.table.item(0, 3).text() == "500"
    dialog.reject()


def poster(tmp_path: Path) -> Path:
    art = np.zeros((700, 1500, 4), np.uint8)
    art[100:600, 60:700] = art[100:600, 790:1440] = (200, 40, 50, 255)
    Image.fromarray(art).save(tmp_path / "poster.png")
    return tmp_path / "poster.png"


def test_a_print_is_cut_its_seam_dragged_and_written(bench, settle, qtbot, tmp_path: Path):
    bench.files.drop(poster(tmp_path))
    settle()
    bench.apply(edits.set_width(330.0))
    bench.apply(change_sheet(medium="film-a4"))
    bench.go_to_station("sheet")
    page(bench).part.button_for("split").click()
    rest(bench)
    split = page(bench).split
    assert len(split.made.split.parts) == 2
    assert split.made.split.crossing_mm == 0
    seams = split.table.seams
    at = split.made.split.cuts[0].polyline_mm[0]
    start = seams.transform_of(0).map(QPointF(at[0], at[1] + 30)).toPoint()
    assert seams.seam_at(QPointF(start)) == 0
    drag(qtbot, seams, start, start + QPoint(-60, 0))
    rest(bench)
    assert split.made.split.crossing_mm > 0 or split.made.split.cuts[0].seam.turns
    assert bench.session.undo_label == "Drag the seam"
    split.sheet.free.click()
    rest(bench)
    assert split.made.split.crossing_mm == 0
    before = seams.grab().toImage()
    split.sheet.joint.click()
    assert seams.grab().toImage() != before
    split.write_to(tmp_path / "parts")
    until_rest(bench, bench.deck.sheets)
    report = json.loads((tmp_path / "parts" / "split.json").read_text())
    assert len(report["sheets"]) == 2


def test_a_split_is_used_and_let_go_again(bench, settle, tmp_path: Path):
    bench.files.drop(poster(tmp_path))
    settle()
    bench.apply(edits.set_width(330.0))
    bench.apply(change_sheet(medium="film-a4"))
    settle()
    assert "too-large" in {row.finding.code for row in bench.findings.rows}
    bench.go_to_station("sheet")
    page(bench).show_part("split")
    rest(bench)
    sheet = page(bench).split.sheet
    sheet.use.click()
    settle()
    rest(bench)
    assert bench.session.job.settings.share(bench.session.job.profile).parts == 2
    assert bench.session.undo_label == "Print it on 2 sheets"
    assert "too-large" not in {row.finding.code for row in bench.findings.rows}
    assert "2 × Film A4" in sheet.used.text()
    assert sheet.use.text() == "Print it whole"
    sheet.use.click()
    settle()
    assert "too-large" in {row.finding.code for row in bench.findings.rows}
    assert not sheet.used.isVisible()


def test_the_stop_offers_the_split_first_and_then_less_width(bench, settle, tmp_path: Path):
    bench.files.drop(poster(tmp_path))
    settle()
    bench.apply(edits.set_width(330.0))
    bench.apply(change_sheet(medium="film-a4"))
    settle()
    stop = next(row for row in bench.findings.rows if row.finding.code == "too-large")
    assert [made.text() for made in stop.fix_buttons] == ["Split onto 2 × Film A4", stop.finding.others[0][0]]
    stop.fix_buttons[1].click()
    settle()
    assert bench.session.job.settings.width_mm < 310
    bench.session.undo()
    settle()
    stop = next(row for row in bench.findings.rows if row.finding.code == "too-large")
    stop.fix_button.click()
    settle()
    assert bench.session.job.settings.width_mm == 330
    assert "too-large" not in {row.finding.code for row in bench.findings.rows}


def test_a_plate_smaller_than_the_transfer_is_found_with_its_goes(bench, settle, tmp_path: Path):
    bench.files.drop(poster(tmp_path))
    settle()
    bench.apply(edits.set_width(560.0))
    bench.go_to_station("sheet")
    page(bench).show_part("split")
    rest(bench)
    assert "2 goes" in page(bench).split.sheet.pressing.text()
    assert "burns" in page(bench).split.sheet.pressing.text()


def test_prints_of_a_whole_sheet_are_found_and_become_jobs(bench, settle, tmp_path: Path):
    whole = np.zeros((700, 1000, 4), np.uint8)
    for x in (10, 350, 690):
        whole[20:320, x : x + 300] = badge()
    whole[400:600, 100:500] = (30, 90, 40, 255)
    Image.fromarray(whole).save(tmp_path / "gang.png")
    bench.files.drop(tmp_path / "gang.png")
    settle()
    bench.go_to_station("sheet")
    page(bench).show_part("parts")
    found = page(bench).parts
    assert not found.take.isEnabled()
    found.find.click()
    rest(bench)
    assert "4 prints of 2 kinds" in found.table.facts.text()
    found.take.click()
    rest(bench)
    jobs = [job for _, job in page(bench)._context.jobs_by_uid()]
    assert [job.settings.quantity for job in jobs[1:]] == [3, 1]
    bench.files.drop(poster(tmp_path))
    settle()
    assert found.found is None


def test_every_view_of_the_station_is_painted_without_a_job_and_with_one(bench, laid):
    for key in ("gang", "split", "parts", "shirt"):
        page(laid).show_part(key)
        laid.resting()
        assert isinstance(laid.grab().toImage(), QImage)
