"""The bench with hands on keyboard and mouse."""

import gc
import itertools
import json
import weakref
from pathlib import Path

import numpy as np
import pytest
from PIL import Image
from PySide6.QtCore import QCoreApplication, QEvent, QMimeData, QPoint, QPointF, Qt, QUrl
from PySide6.QtGui import QDropEvent, QGuiApplication, QImage
from PySide6.QtWidgets import QAbstractButton, QLineEdit, QSlider, QWidget
from tests.conftest import badge
from tests.ui.patience import is_quiet, take_events, until, until_rest

from swaddon.session import edits
from swaddon.session.preferences import Preferences
from swaddon.session.session import Session
from swaddon.ui.bench import Bench
from swaddon.ui.finder import CommandFinder
from swaddon.ui.station_registry import STATIONS
from swaddon.ui.widgets import Popover

KEYS = [spec.key for spec in STATIONS]


def drop(bench, path: Path) -> None:
    mime = QMimeData()
    mime.setUrls([QUrl.fromLocalFile(str(path))])
    event = QDropEvent(
        QPointF(400, 400), Qt.DropAction.CopyAction, mime, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
    )
    bench.dropEvent(event)


def click_at(bench, qtbot, x_mm: float, y_mm: float) -> None:
    at = bench.table._px_at(QPointF(x_mm, y_mm)).toPoint()
    qtbot.mouseClick(bench.table, Qt.MouseButton.LeftButton, pos=at)


def pixel(bench, x_mm: float, y_mm: float) -> tuple[int, int, int]:
    at = bench.table._px_at(QPointF(x_mm, y_mm)).toPoint()
    colour = bench.table.grab().toImage().pixelColor(at)
    return colour.red(), colour.green(), colour.blue()


def test_an_empty_bench_says_what_to_do(bench):
    assert bench.empty.isVisible()
    assert not bench.actions_.by_key["export"].isEnabled()
    assert not bench.tally.cells


@pytest.mark.parametrize("key", KEYS)
@pytest.mark.parametrize("job", [None, "heron", "choir"])
def test_every_station_renders_reaches_and_fits(bench, settle, key, job):
    """Empty, full and faulty jobs; keyboard reach, accessible names, nothing wider or taller than 1280 × 800."""
    if job:
        bench.files.open_demo(job)
        settle()
    bench.go_to_station(key)
    take_events()
    page = bench.pages[key]
    assert page.isVisible()
    for control in page.findChildren(QWidget):
        if isinstance(control, QAbstractButton | QSlider | QLineEdit) and control.isVisibleTo(page):
            assert control.accessibleName() or getattr(control, "text", str)(), control
            assert control.focusPolicy() & Qt.FocusPolicy.TabFocus or not control.isEnabled(), control
    assert bench.minimumSizeHint().width() <= 1280
    assert bench.minimumSizeHint().height() <= 800
    for child in page.findChildren(QWidget):
        if child.isVisible() and child.parentWidget() is page:
            assert page.rect().contains(child.geometry()), (key, child)


def test_stations_are_reached_by_keyboard(bench, qtbot):
    for spec in STATIONS:
        qtbot.keyClick(bench, getattr(Qt.Key, f"Key_{spec.shortcut[-1]}"), Qt.KeyboardModifier.AltModifier)
        assert bench.station == spec.key
    assert len({spec.shortcut for spec in STATIONS}) == len(STATIONS)


def test_dropping_artwork_opens_it_at_300_ppi(bench, settle, badge_file):
    drop(bench, badge_file)
    settle()
    assert bench.session.job.file.artwork.file_name == "badge.png"
    assert bench.desk.plan.measures.width_px == 300
    assert bench.tally.cells["white"].line.value.endswith("ml")


def test_pasting_a_picture_places_it(bench, settle):
    rgba = np.ascontiguousarray(badge(200))
    QGuiApplication.clipboard().setImage(QImage(rgba.data, 200, 200, QImage.Format.Format_RGBA8888))
    bench.actions_.by_key["paste"].trigger()
    settle()
    assert bench.session.job.file.artwork.width_px == 200
    QGuiApplication.clipboard().clear()


def test_bad_artwork_gets_a_sentence_and_the_bench_stays(heron, settle, tmp_path):
    job = heron.session.job
    for name, data in (("text.png", b"not a picture"), ("empty.png", b""), ("cut.png", b"\x89PNG\r\n\x1a\n")):
        (tmp_path / name).write_bytes(data)
        drop(heron, tmp_path / name)
        settle()
        assert name in heron.problem.text()
        assert heron.problem.isVisible()
    drop(heron, tmp_path)
    settle()
    assert "is a folder" in heron.problem.text()
    assert heron.session.job is job


@pytest.mark.full_size
def test_garment_and_choke_change_the_shirt_and_the_numbers(heron, settle, qtbot):
    qtbot.mouseClick(heron.pages["order"].swatches["Red jersey"], Qt.MouseButton.LeftButton)
    settle()
    red = pixel(heron, 3, 3)
    assert red[0] > red[1] + 60
    before = heron.desk.plan.measures.coverage["W"]
    heron.go_to_station("white")
    choke = heron.pages["white"].choke.row.slider
    choke.setFocus()
    for _ in range(4):
        qtbot.keyClick(choke, Qt.Key.Key_PageUp)
    settle()
    assert heron.session.job.settings.white.choke_mm > 0.5
    assert heron.desk.plan.measures.coverage["W"] < before
    assert "px at 300 ppi" in heron.pages["white"].choke.text.text()
    assert "white" in heron.pages["white"].choke.text.text()


def test_undo_and_redo_by_keyboard(heron, settle, qtbot):
    before = heron.session.job
    heron.go_to_station("white")
    heron.pages["white"].amount.mode.button_for("none").click()
    settle()
    after = heron.session.job
    assert after.settings.white.mode == "none"
    qtbot.keyClick(heron, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    assert heron.session.job == before
    modifiers = Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier
    qtbot.keyClick(heron, Qt.Key.Key_Z, modifiers)
    assert heron.session.job == after
    settle()


def test_picking_a_colour_on_the_table_knocks_it_out(heron, settle, qtbot):
    heron.go_to_station("knockout")
    page = heron.pages["knockout"]
    page.pick.click()
    settle()
    click_at(heron, qtbot, 82, 84)  # the moon
    settle()
    assert len(page.cards) == 1
    rgb = heron.session.job.settings.knockouts[0].colour
    assert rgb[0] > 240
    assert rgb[2] < 190
    page.cards[0].reach.button_for("everywhere").click()
    settle()
    assert heron.desk.plan.measures.removed_mm2 > 1000
    assert "cm²" in page.cards[0].effect.text()
    page.cards[0].findChildren(QAbstractButton, "")[-1].setFocus()
    heron.session.undo()
    heron.session.undo()
    settle()
    assert not page.cards


def test_a_finding_leads_to_its_place_and_its_fix_is_one_step(bench, settle, qtbot):
    bench.files.open_demo("kettle")
    settle()
    row = next(row for row in bench.findings.rows if row.finding.code == "jpeg-background")
    assert bench.rail.buttons["knockout"].state == "stop"
    qtbot.mouseClick(row, Qt.MouseButton.LeftButton, pos=QPoint(5, 5))
    assert bench.table._place == QPointF(row.finding.x_mm, row.finding.y_mm)
    row.fix_button.click()
    settle()
    assert bench.session.undo_label.startswith("Knock out")
    assert not any(row.finding.code == "jpeg-background" for row in bench.findings.rows)
    assert bench.rail.buttons["knockout"].state == "look", "counters of letters want a decision"
    next(row for row in bench.findings.rows if row.finding.code == "enclosed-background").fix_button.click()
    settle()
    assert bench.rail.buttons["knockout"].state == "fine"
    bench.session.undo()
    bench.session.undo()
    settle()
    assert any(row.finding.code == "jpeg-background" for row in bench.findings.rows)


def test_ways_of_seeing_and_holding_a_key(heron, settle, qtbot):
    for key, view_mode in (
        (Qt.Key.Key_F3, "white"),
        (Qt.Key.Key_F4, "footprint"),
        (Qt.Key.Key_F5, "C"),
        (Qt.Key.Key_F1, "cloth"),
    ):
        qtbot.keyClick(heron, key)
        settle()
        assert heron.view_modes.button_for(view_mode).isChecked()
    cloth = pixel(heron, 3, 3)
    heron.table.setFocus()
    qtbot.keyPress(heron, Qt.Key.Key_Space)
    settle()
    assert pixel(heron, 3, 3) != cloth
    qtbot.keyRelease(heron, Qt.Key.Key_Space)
    settle()
    assert pixel(heron, 3, 3) == cloth


@pytest.mark.full_size
def test_zoom_pan_and_true_scale(heron, settle, qtbot):
    table = heron.table
    fitted = table.view()
    table.setFocus()
    qtbot.keyClicks(table, "+")
    assert table.view().px_per_mm > fitted.px_per_mm
    centre = table.view().x0_mm
    qtbot.keyClick(table, Qt.Key.Key_Right)
    assert table.view().x0_mm > centre
    heron.actions_.by_key["pixel"].trigger()
    assert table.view().px_per_mm == pytest.approx(300 / 25.4)
    heron.actions_.by_key["true-size"].trigger()
    assert table.view().px_per_mm == pytest.approx(table.physicalDpiX() / 25.4)
    heron.actions_.by_key["fit"].trigger()
    assert table.view() == fitted
    settle()


def test_yardstick_and_curtain(heron, settle, qtbot):
    heron.actions_.by_key["pin"].trigger()
    heron.apply(edits.set_white("White", mode="none"))
    settle()
    cell = heron.tally.cells["white"]
    assert cell.line.delta.startswith("−")
    heron.actions_.by_key["curtain"].trigger()
    settle()
    assert heron.table.curtain == 0.5
    heron.table.setFocus()
    qtbot.keyClick(heron.table, Qt.Key.Key_Right, Qt.KeyboardModifier.ShiftModifier)
    assert heron.table.curtain == pytest.approx(0.52)
    left, right = pixel(heron, 82, 84), pixel(heron, 160, 84)
    assert sum(left) > 500, "yardstick: the moon on white"
    assert sum(right) < 150, "this plan: sky on navy without white"
    heron.actions_.by_key["unpin"].trigger()
    assert heron.table.curtain is None
    assert heron.tally.cells["white"].line.delta == "none under colour: the design’s", "no yardstick any more"


def test_each_tally_line_opens_its_arithmetic(heron):
    for cell in heron.tally.cells.values():
        cell.click()
        opened = heron.findChildren(Popover)
        assert opened
        texts = [child.text() for child in opened[-1].findChildren(QWidget) if hasattr(child, "text")]
        assert any(text.startswith("=") for text in texts)
        opened[-1].close()
    heron.go_to_station("cost")
    take_events()
    page = heron.pages["cost"]
    page.money.prints.opened.emit("film")
    assert page.sheet.arithmetic.isVisible()
    assert "× 2.40 EUR per m²" in page.sheet.arithmetic.text()


def test_wrong_typing_is_refused_in_place(heron, qtbot):
    page = heron.pages["order"]
    for field, text, says in (
        (page.width_mm, "wide", "not a length"),
        (page.quantity, "-3", "whole number"),
        (page.garment, "#12", "six hexadecimal"),
    ):
        field.setFocus()
        field.selectAll()
        qtbot.keyClicks(field, text)
        qtbot.keyClick(field, Qt.Key.Key_Return)
        assert says in field.toolTip()
    assert heron.session.undo_label is None


@pytest.mark.full_size
def test_typed_width_in_inches_is_kept_in_millimetres(heron, settle, qtbot):
    page = heron.pages["order"]
    page.units.button_for("in").click()
    page.width_mm.setFocus()
    page.width_mm.selectAll()
    qtbot.keyClicks(page.width_mm, "8")
    qtbot.keyClick(page.width_mm, Qt.Key.Key_Return)
    settle()
    assert heron.session.job.settings.width_mm == pytest.approx(203.2)
    assert "in" in heron.job_bar.facts.text()
    assert heron.desk.plan.measures.width_px == 2400


def test_saving_reopening_and_the_guard(heron, settle, tmp_path):
    path = tmp_path / "heron.swaddon"
    heron.apply(edits.set_width(200))
    asked = []
    heron.files.ask_unsaved = lambda: asked.append(1) or "cancel"
    heron.files.new()
    assert asked
    assert heron.session.job.file is not None, "stayed"
    assert heron.files.save_to(path)
    saved = heron.session.job
    heron.files.new()
    assert heron.session.job.file is None
    drop(heron, path)
    settle()
    assert heron.session.job.settings == saved.settings
    assert not heron.session.is_changed
    assert heron.preferences.recent == (str(path),)


def test_exporting_from_the_bench_equals_the_plan(heron, settle, tmp_path):
    heron.files.exporting.to(tmp_path / "out")
    settle()
    assert "Exported 8 files" in heron.problem.text()
    report = json.loads((tmp_path / "out" / "plan.json").read_text())
    assert f"{float(report['cost']['total']):.2f}" == heron.desk.plan.cost
    white = np.asarray(Image.open(tmp_path / "out" / "white.png"))
    np.testing.assert_array_equal(white, heron.desk.plan.white_plane)
    (tmp_path / "file").write_text("x")
    heron.files.exporting.to(tmp_path / "file")
    settle()
    assert "choose another folder" in heron.problem.text()


def test_every_action_is_found_by_its_words(heron, qtbot):
    finder = CommandFinder(heron.actions_.all(), heron)
    finder.open()
    qtbot.keyClicks(finder.field, "inks go")
    assert finder.list.count() == 1
    qtbot.keyClick(finder.field, Qt.Key.Key_Return)
    assert heron.station == "inks"


def test_both_schemes_and_a_large_window(heron, settle):
    heron.resize(1920, 1080)
    heron.actions_.by_key["scheme"].trigger()
    settle()
    assert heron.preferences.scheme == "light"
    assert heron.table.view().width > 1300
    heron.actions_.by_key["scheme"].trigger()


def test_closing_ends_all_threads(heron):
    import threading

    heron.files.ask_unsaved = lambda: "discard"
    heron.close()
    names = {thread.name for thread in threading.enumerate()}
    assert not names & {"planner", "drawer"}


def test_the_rail_keeps_its_heights_in_another_scheme(bench):
    """They lay on each other after a change of scheme: the style has a height of its own."""
    bench.resize(1280, 700)
    take_events()
    before = [button.geometry() for button in bench.rail.buttons.values()]
    for _ in range(2):
        bench.change_scheme()
        until(lambda: is_quiet(bench))
        assert [button.geometry() for button in bench.rail.buttons.values()] == before
    assert all(one.bottom() < other.top() for one, other in itertools.pairwise(before))


def test_a_closed_bench_is_given_back_whole(compiled):
    """A model without a parent, connected to a closure, once kept every bench: memory grew with each."""

    def visited() -> weakref.ref[Bench]:
        window = Bench(Session(), Preferences())
        window.show()
        for spec in STATIONS:
            window.go_to_station(spec.key)
        until_rest(window, window.log)
        window.close()
        window.deleteLater()
        return weakref.ref(window)

    left = visited()
    take_events()
    QCoreApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)
    gc.collect()
    assert left() is None
