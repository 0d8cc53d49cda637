"""The pen on the proof table: clicks, freehand, closing, corners; on the Knockout and the Holes sheet."""

from dataclasses import replace

import numpy as np
import pytest
from PySide6.QtCore import QPoint, Qt
from tests.conftest import artwork, badge, coarse
from tests.ui.patience import take_events

from swaddon.core.knockout.settings import OutlineKnockout
from swaddon.io import profiles
from swaddon.session import edits
from swaddon.session.demo import demo_job
from swaddon.session.job import ArtworkFile, Job

LEFT = Qt.MouseButton.LeftButton


COARSE = coarse("film")
"""A press with few pixels: the pen is what is tried here."""


@pytest.fixture
def knockout(bench, settle):
    bench.session.open(replace(demo_job("heron"), profile=COARSE), None)
    settle()
    bench.go_to_station("knockout")
    take_events()
    return bench.pages["knockout"]


def at(bench, x_mm, y_mm) -> QPoint:
    return bench.table.px_at(x_mm, y_mm).toPoint()


def click(bench, qtbot, *places):
    for place in places:
        qtbot.mouseClick(bench.picking.pen, LEFT, pos=at(bench, *place))


SQUARE = ((40, 40), (200, 40), (200, 200), (40, 200))


def test_corners_are_clicked_and_closed_by_enter(bench, knockout, settle, qtbot):
    knockout.outlines.draw.click()
    assert bench.picking.pen.is_on
    assert bench.view_control.view_mode == "artwork"
    click(bench, qtbot, *SQUARE)
    qtbot.keyClick(bench.picking.pen, Qt.Key.Key_Return)
    settle()
    assert not bench.picking.pen.is_on
    (outline,) = bench.session.job.settings.outlines
    artwork = bench.session.job.file.artwork
    mm = artwork.width_px / bench.session.job.settings.width_mm
    assert np.array(outline.points) / mm == pytest.approx(np.array(SQUARE), abs=0.6)
    plan = bench.desk.plan
    gone = plan.art[..., 3] == 0
    px = plan.ppi / 25.4
    assert gone[: int(38 * px)].all()
    assert (plan.knocked.taken[int(20 * px)] > 0).any()
    knockout.outlines.lines[0].side.button_for("inside").click()
    settle()
    assert (bench.desk.plan.art[..., 3][int(120 * px), int(60 * px) : int(180 * px)] == 0).all()
    bench.session.undo()
    bench.session.undo()
    settle()
    assert bench.session.job.settings.outlines == ()
    assert not knockout.outlines.lines


def test_freehand_closes_on_its_first_corner_with_few_corners_left(bench, knockout, settle, qtbot):
    knockout.outlines.draw.click()
    pen = bench.picking.pen
    angles = np.linspace(0, 2 * np.pi, 120, endpoint=False)
    ring = [at(bench, 120 + 70 * np.cos(a), 120 + 70 * np.sin(a)) for a in angles]
    qtbot.mousePress(pen, LEFT, pos=ring[0])
    for place in ring[1:]:
        qtbot.mouseMove(pen, place)
    qtbot.mouseRelease(pen, LEFT, pos=ring[-1])
    qtbot.mouseClick(pen, LEFT, pos=ring[0])
    settle()
    (outline,) = bench.session.job.settings.outlines
    assert 8 <= len(outline.points) < 80
    assert bench.session.undo_label == "Draw an outline"


def test_backspace_takes_back_escape_leaves_and_a_loop_is_told(bench, knockout, qtbot):
    knockout.outlines.draw.click()
    pen = bench.picking.pen
    click(bench, qtbot, (40, 40), (200, 200), (200, 40), (40, 200))
    qtbot.keyClick(pen, Qt.Key.Key_Return)
    assert pen.is_on
    assert "crosses itself" in pen.note.text()
    qtbot.keyClick(pen, Qt.Key.Key_Backspace)
    assert len(pen.points) == 3
    qtbot.keyClick(pen, Qt.Key.Key_Escape)
    assert not pen.is_on
    assert bench.session.job.settings.outlines == ()
    knockout.outlines.draw.click()
    click(bench, qtbot, (40, 40), (200, 200))
    qtbot.keyClick(pen, Qt.Key.Key_Return)
    assert "three corners" in pen.note.text()


def test_corners_are_moved_added_and_taken_away(bench, knockout, settle, qtbot):
    knockout.outlines.draw.click()
    click(bench, qtbot, *SQUARE)
    qtbot.keyClick(bench.picking.pen, Qt.Key.Key_Return)
    settle()
    knockout.outlines.lines[0].corners.click()
    pen = bench.picking.pen
    start = at(bench, 40, 40)
    qtbot.mousePress(pen, LEFT, pos=start)
    qtbot.mouseMove(pen, at(bench, 30, 25))
    qtbot.mouseMove(pen, at(bench, 20, 20))
    qtbot.mouseRelease(pen, LEFT, pos=at(bench, 20, 20))
    settle()
    mm = bench.session.job.file.artwork.width_px / bench.session.job.settings.width_mm
    assert np.array(bench.session.job.settings.outlines[0].points[0]) / mm == pytest.approx([20, 20], abs=0.6)
    qtbot.mouseDClick(pen, LEFT, pos=at(bench, 120, 200))
    assert len(bench.session.job.settings.outlines[0].points) == 5
    qtbot.keyClick(pen, Qt.Key.Key_Delete)
    assert len(bench.session.job.settings.outlines[0].points) == 4
    bench.session.undo()
    assert len(bench.session.job.settings.outlines[0].points) == 5
    assert not pen.is_on, "its corners are no longer those of the job"


def test_another_station_another_job_and_undo_put_the_pen_away(bench, knockout, settle, qtbot):
    knockout.outlines.draw.click()
    click(bench, qtbot, (40, 40), (200, 200))
    bench.go_to_station("white")
    assert not bench.picking.pen.is_on
    bench.go_to_station("knockout")
    knockout.outlines.draw.click()
    bench.files.open_demo("marble")
    settle()
    assert not bench.picking.pen.is_on
    assert bench.session.job.settings.outlines == ()


def test_the_wheel_and_the_middle_button_go_to_the_table(bench, knockout, qtbot):
    knockout.outlines.draw.click()
    before = bench.table.scale
    centre = at(bench, 100, 100)
    qtbot.mousePress(bench.picking.pen, Qt.MouseButton.MiddleButton, pos=centre)
    qtbot.mouseRelease(bench.picking.pen, Qt.MouseButton.MiddleButton, pos=centre)
    assert bench.picking.pen.points == ()
    bench.table.zoom_by(1.5)
    assert bench.table.scale > before
    assert bench.picking.pen.is_on


def test_regions_for_holes_are_chosen_by_an_outline(bench, settle, qtbot):
    bench.session.open(replace(demo_job("heron"), profile=COARSE), None)
    settle()
    bench.go_to_station("holes")
    settle()
    page = bench.pages["holes"]
    found = bench.desk.regions
    assert found is not None
    page.outline.click()
    click(bench, qtbot, (1, 1), (239, 1), (239, 300), (1, 300))
    qtbot.keyClick(bench.picking.pen, Qt.Key.Key_Return)
    chosen = set(page.selection.numbers)
    artwork = bench.session.job.file.artwork
    mm = bench.session.job.settings.width_mm / artwork.width_px
    wanted = {r.number for r in found.regions if 1 < r.anchor[0] * mm < 239 and 1 < r.anchor[1] * mm < 300}
    assert chosen == wanted
    assert len(chosen) > 3


def test_outlines_stay_with_a_new_state_of_the_picture_and_go_with_another():
    square = OutlineKnockout(((1.0, 1.0), (9.0, 1.0), (9.0, 9.0)))
    first, same, other = (ArtworkFile(artwork(badge(size)), b"") for size in (60, 60, 80))
    job = edits.add_outline(square).change(Job(file=first, profile=profiles.shipped("film")))
    assert edits.place_artwork(same, job.profile).change(job).settings.outlines == (square,)
    assert edits.place_artwork(other, job.profile).change(job).settings.outlines == ()
