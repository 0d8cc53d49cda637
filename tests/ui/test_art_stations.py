"""Artwork, Knockout and Holes with hands on keyboard and mouse."""

import gzip
from pathlib import Path

import numpy as np
import pytest
from PIL import Image
from PySide6.QtCore import QMimeData, QPointF, Qt, QUrl
from PySide6.QtGui import QDropEvent
from PySide6.QtWidgets import QPushButton
from tests.conftest import badge
from tests.io.test_drawings import SVG, TWO_PAGES
from tests.ui.patience import as_soon_as
from tests.ui.test_bench import click_at

from swaddon.core.count.money import money_text
from swaddon.core.engine import Cache, Run
from swaddon.core.knockout.settings import Knockout
from swaddon.core.plan.saved import savings
from swaddon.io.print_areas import SizeTable, shipped_table
from swaddon.session import edits
from swaddon.ui.area_table import AreaTable


def type_into(qtbot, field, text: str) -> None:
    field.setFocus()
    field.selectAll()
    qtbot.keyClicks(field, text)
    qtbot.keyClick(field, Qt.Key.Key_Return)


def drop_files(bench, *paths: Path) -> None:
    mime = QMimeData()
    mime.setUrls([QUrl.fromLocalFile(str(path)) for path in paths])
    bench.dropEvent(
        QDropEvent(QPointF(400, 400), Qt.DropAction.CopyAction, mime, Qt.MouseButton.LeftButton,
                   Qt.KeyboardModifier.NoModifier)
    )  # fmt: skip


# artwork


def test_the_card_answers_and_its_lines_lead_to_their_places(bench, settle):
    bench.files.open_demo("kettle")
    settle()
    bench.go_to_station("artwork")
    lines = {line.accessibleName().split(":")[0]: line for line in bench.pages["artwork"].facts if line.isVisible()}
    assert {"File", "Kind", "Pixels", "Resolution", "Transparency", "Background box", "Fades", "Colours", "Finest line",
            "Finest gap"} <= set(lines)  # fmt: skip
    assert "#ffffff all round" in lines["Background box"].accessibleName()
    lines["Background box"].click()
    assert bench.table._place is not None
    assert not lines["Pixels"].isEnabled()


def test_size_by_height_and_by_a_standard_area(heron, settle, qtbot):
    heron.go_to_station("artwork")
    page = heron.pages["artwork"]
    type_into(qtbot, page.height_mm, "120 mm")
    assert heron.session.job.height_mm == pytest.approx(120)
    page._fill_menu()
    breast = next(action for action in page._menu.actions() if action.text().startswith("Left breast"))
    breast.trigger()
    settle()
    assert heron.session.job.settings.width_mm == 95
    type_into(qtbot, page.width_mm, "wide")
    assert "not a length" in page.width_mm.toolTip()


def test_the_table_of_areas_is_edited_and_kept(heron):
    heron.go_to_station("artwork")
    page = heron.pages["artwork"]
    page._fill_menu()
    dialog: AreaTable = page.edit_areas(SizeTable((), shipped_table().sizes))
    dialog.open()
    next(b for b in dialog.findChildren(QPushButton) if b.text() == "Add a row").click()
    dialog.table.item(0, 0).setText("Apron")
    dialog.table.item(0, 1).setText("wide")
    dialog.accept()
    assert "Row 1" in dialog.wrong.text()
    dialog.table.item(0, 1).setText("310,5")
    dialog.accept()
    page._fill_menu()
    assert page._menu.actions()[0].text().startswith("Apron   310.5 × 300 mm")


def test_crop_turn_and_drop_are_steps_that_undo(bench, settle, qtbot):
    bench.files.open_demo("kettle")
    settle()
    bench.go_to_station("artwork")
    page, before = bench.pages["artwork"], bench.session.job
    page.crop.click()
    settle()
    assert bench.session.job.settings.width_mm < 200
    assert bench.desk.plan.request.settings.placement.crop is not None
    page.turn.click()
    settle()
    assert bench.session.job.settings.placement.quarter_turns == 1
    page.crop.click()
    settle()
    assert bench.session.job.settings.placement.crop is None
    for _ in range(3):
        bench.session.undo()
    assert bench.session.job == before
    bench.files.open_demo("heron")
    settle()
    page.drop.slider.setFocus()
    qtbot.keyClick(page.drop.slider, Qt.Key.Key_PageUp)
    assert bench.session.job.settings.drop_mm > 76.2
    settle()


def test_drawings_open_and_pages_turn(bench, settle, tmp_path):
    (tmp_path / "a.svgz").write_bytes(gzip.compress(SVG))
    (tmp_path / "b.pdf").write_bytes(TWO_PAGES)
    drop_files(bench, tmp_path / "a.svgz")
    settle()
    assert bench.session.job.settings.width_mm == pytest.approx(50.8)
    drop_files(bench, tmp_path / "b.pdf")
    settle()
    bench.go_to_station("artwork")
    page = bench.pages["artwork"]
    assert page.page.isVisible()
    page.page.button_for("next").click()
    settle()
    assert bench.session.job.file.artwork.page == 2
    bench.session.undo()
    settle()
    assert bench.session.job.file.artwork.page == 1


def test_several_files_become_several_jobs_each_with_its_own_history(bench, settle, tmp_path, qtbot):
    for name in ("one", "two", "three"):
        Image.fromarray(badge(120)).save(tmp_path / f"{name}.png")
    (tmp_path / "bad.png").write_bytes(b"no")
    drop_files(bench, *(tmp_path / f"{name}.png" for name in ("one", "two", "three", "bad")))
    settle()
    assert len(bench.files.tray) == 3
    assert bench.job_bar.jobs.text() == "1 of 3"
    assert "3 jobs came in" in bench.problem.text()
    assert "bad.png" in bench.problem.text()
    bench.apply(edits.set_width(77))
    qtbot.keyClick(bench, Qt.Key.Key_PageDown, Qt.KeyboardModifier.ControlModifier)
    settle()
    assert bench.session.job.name == "two"
    bench.job_bar.jobs.menu().actions()[0].trigger()
    settle()
    assert bench.session.job.settings.width_mm == 77
    asked = []
    bench.files.ask_unsaved = lambda: asked.append(bench.session.job.name) or "discard"
    bench.files.close_job()
    assert len(bench.files.tray) == 2
    assert bench.files.may_close()
    assert set(asked) == {"one", "two", "three"}


# knockout


def test_main_colours_are_offered_and_each_knockout_says_what_it_saves(heron, settle, qtbot):
    heron.go_to_station("knockout")
    settle()
    page = heron.pages["knockout"]
    assert len(page.offers) >= 4
    qtbot.mouseClick(page.offers[0], Qt.MouseButton.LeftButton)
    settle()
    text = page.cards[0].effect.text()
    assert "cm²" in text
    assert "saves" in text
    assert "EUR" in text
    type_into(qtbot, page.cards[0].tolerance.field, "3")
    assert heron.session.job.settings.knockouts[0].tolerance == 3


def test_clicked_areas_and_kept_areas(heron, settle, qtbot):
    heron.go_to_station("knockout")
    page = heron.pages["knockout"]
    page.pick.click()
    settle()
    click_at(heron, qtbot, 82, 84)  # the moon
    page.cards[0].reach.button_for("clicked").click()
    settle()
    assert heron.desk.plan.measures.removed_mm2 < 50
    page.cards[0].add_area.click()
    click_at(heron, qtbot, 82, 84)
    settle()
    assert heron.desk.plan.measures.removed_mm2 > 1000
    page.keep.click()
    click_at(heron, qtbot, 82, 84)
    settle()
    assert heron.desk.plan.measures.removed_mm2 < 50
    assert len(heron.session.job.settings.keeps) == 1
    heron.session.undo()
    settle()
    assert heron.desk.plan.measures.removed_mm2 > 1000


def test_a_card_tells_what_its_knockout_saves_and_thins(heron, settle):
    """Worked out in the background, and worked out anew after a change."""
    heron.go_to_station("knockout")
    page = heron.pages["knockout"]
    heron.apply(edits.add_knockout(Knockout(None, 8, "outside", "soft")))
    settle()
    as_soon_as(lambda: "saves" in page.cards[0].effect.text() or "costs" in page.cards[0].effect.text())
    (saved,) = savings(heron.desk.plan.request, Run(Cache()))
    first = page.cards[0].effect.text()
    assert f"{money_text(abs(saved.cost))} EUR" in first
    heron.apply(edits.change_knockout(0, reach="everywhere"))
    settle()
    as_soon_as(lambda: "EUR" in page.cards[0].effect.text())
    assert page.cards[0].effect.text() != first


def test_fades_are_treated_by_process_until_the_operator_says_otherwise(bench, settle, qtbot):
    bench.files.open_demo("lantern")
    settle()
    bench.go_to_station("knockout")
    page = bench.pages["knockout"]
    assert page.alpha.kind.button_for("own").isChecked()
    assert "dots at 35 lpi" in page.alpha.field.effect
    page.alpha.kind.button_for("hard").click()
    settle()
    assert page.alpha.level.isVisibleTo(page)
    assert bench.desk.plan.treated.tone is None
    page.alpha.kind.button_for("screen").click()
    type_into(qtbot, page.alpha.lpi.field, "30 lpi")
    settle()
    assert bench.desk.plan.screens.fade.asked.lpi == 30
    page.alpha.kind.button_for("own").click()
    assert bench.session.job.settings.alpha is None
    settle()


# holes


@pytest.fixture
def holed(heron, settle):
    heron.go_to_station("holes")
    settle()
    heron.pages["holes"].kind.button_for("round").click()
    settle()
    return heron


def test_every_region_gets_holes_and_the_tally_tells_the_hand(holed):
    page, plan = holed.pages["holes"], holed.desk.plan
    assert plan.hand.g_per_m2 < plan.whole_hand.g_per_m2
    assert f"tones at {plan.ppi:.0f} ppi" in page.treatment.effect
    assert any("Solid it would be" in text for text in holed.tally.cells["hand"].line.arithmetic)
    assert "ΔE" in page.back_field.effect


def test_a_click_selects_a_region_and_treats_it_alone(holed, settle, qtbot):
    page = holed.pages["holes"]
    click_at(holed, qtbot, 90, 110)  # the sky
    assert len(page.selection.numbers) == 1
    assert holed.table.outline_count >= 1
    assert "cm²" in page.facts.text()
    page.kind.button_for("solid").click()
    settle()
    plan = holed.desk.plan

    def part_mm(top: float, bottom: float, left: float, right: float) -> np.ndarray:
        px = [round(mm * plan.ppi / 25.4) for mm in (top, bottom, left, right)]
        return plan.cmyk[px[0] : px[1], px[2] : px[3]]

    sky = part_mm(106, 114, 85, 93)
    assert sky.any(axis=2).all()
    moon = part_mm(79, 89, 76, 85)
    assert not moon.any(axis=2).all()
    at = holed.table._px_at(QPointF(82, 84)).toPoint()
    qtbot.mouseClick(holed.table, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.ShiftModifier, at)
    assert len(page.selection.numbers) == 2
    page.none.click()
    assert holed.table.outline_count == 0


def test_the_keyboard_walks_regions_and_colours_and_sizes_select_many(holed, settle, qtbot):
    page = holed.pages["holes"]
    modifier = Qt.KeyboardModifier.ControlModifier
    qtbot.keyClick(holed, Qt.Key.Key_Period, modifier)
    first = page.selection
    qtbot.keyClick(holed, Qt.Key.Key_Period, modifier)
    assert page.selection != first
    qtbot.keyClick(holed, Qt.Key.Key_Comma, modifier)
    assert page.selection == first
    type_into(qtbot, page.area, "20")
    assert 1 < len(page.selection.numbers) < 10
    page.step(1)
    page.same_colour.click()
    assert page.selection.whole_colour
    page.kind.button_for("line").click()
    settle()
    assert holed.session.job.settings.holes.rules[-1].colour is not None
    assert holed.session.job.settings.holes.rules[-1].screen.angle == 72
    type_into(qtbot, page.area, "many")
    assert "not a number" in page.area.toolTip()


@pytest.mark.fresh_plans
def test_finding_regions_can_be_cancelled_and_taken_up_again(heron, settle, monkeypatch):
    import threading

    from swaddon.core.artwork import regions

    release, begun = threading.Event(), threading.Event()
    real = regions.find_regions

    def slow(rgba, check):
        begun.set()
        release.wait(20)
        check()
        return real(rgba, check)

    monkeypatch.setattr(regions, "find_regions", slow)
    heron.go_to_station("holes")
    assert begun.wait(20)
    assert heron.desk.is_finding_regions
    heron.desk.cancel()
    release.set()
    settle()
    page = heron.pages["holes"]
    assert heron.desk.regions is None
    assert "cancelled" in page.facts.text()
    heron.go_to_station("white")
    heron.go_to_station("holes")
    settle()
    assert heron.desk.regions is not None
    assert "regions that print; click one" in page.facts.text()


def test_sliders_change_the_screen_in_one_step(holed, settle, qtbot):
    page = holed.pages["holes"]
    steps = len(holed.session._undo)
    for value in (30.0, 31.0, 32.0):
        page.lpi.moved.emit(value)
    page.lpi.settled.emit()
    assert holed.session.job.settings.holes.default.lpi == 32
    assert len(holed.session._undo) == steps + 1
    page.share.slider.setFocus()
    qtbot.keyClick(page.share.slider, Qt.Key.Key_PageDown)
    settle()
    share = holed.session.job.settings.holes.default.share
    assert share < 0.85
    assert holed.desk.plan.hand.open_share == pytest.approx(1 - share, abs=0.1)


def test_tiles_are_chosen_and_added_and_saved_with_the_job(holed, settle, tmp_path):
    page = holed.pages["holes"]
    page.kind.button_for("tile").click()
    settle()
    assert holed.session.job.settings.holes.default.tile in holed.session.job.all_tiles()
    art = np.full((60, 60), 255, np.uint8)
    art[20:40, 20:40] = 0
    Image.fromarray(art).save(tmp_path / "mine.png")
    holed.files.load_tile(tmp_path / "mine.png", page._use_tile)
    settle()
    assert holed.session.job.settings.holes.default.tile == "mine"
    assert page.tile.currentText() == "mine"
    path = tmp_path / "tiled.swaddon"
    assert holed.files.save_to(path)
    saved = holed.session.job
    holed.files.ask_unsaved = lambda: "discard"
    holed.files.new()
    holed.files.drop(path)
    settle()
    assert holed.session.job.tiles == saved.tiles
    assert holed.session.job.settings == saved.settings
    (tmp_path / "bad.png").write_bytes(b"no")
    holed.files.load_tile(tmp_path / "bad.png", page._use_tile)
    settle()
    assert "not a readable PNG" in holed.problem.text()


def test_colour_is_given_back_and_every_undo_returns_the_identical_job(holed, settle):
    page = holed.pages["holes"]
    jobs = [holed.session.job]
    for act in (
        page.give_back.click,
        lambda: page.deeper.moved.emit(0.2),
        lambda: page.fine.moved.emit(4.0),
        lambda: page.kind.button_for("inverted").click(),
        lambda: page.kind.button_for("solid").click(),
    ):
        act()
        holed.session.end_merge()
        jobs.append(holed.session.job)
    settle()
    for job in reversed(jobs[:-1]):
        holed.session.undo()
        assert holed.session.job == job
    for job in jobs[1:]:
        holed.session.redo()
        assert holed.session.job == job
    settle()


def test_a_dragged_ruling_shows_the_pixels_of_the_finished_plan_at_one_pixel(holed, settle):
    """The visible part cut at once equals the plan that follows."""
    from dataclasses import replace

    from swaddon.core.engine import Run
    from swaddon.core.plan.stages import make_plan
    from swaddon.session.view import View

    plan, desk = holed.desk.plan, holed.desk
    screen = replace(plan.request.settings.holes.default, lpi=41.0)
    settings = replace(plan.request.settings, holes=replace(plan.request.settings.holes, default=screen))
    moved = replace(plan.request, settings=settings)
    view = View(300, 200, 300 / 25.4, 60.0, 80.0)
    quick = desk._previewer.frame(view, "cloth", "jersey", moved, plan, Run(desk.cache))
    final = desk._previewer.frame(view, "cloth", "jersey", moved, make_plan(moved, Run(desk.cache)), Run(desk.cache))
    assert not quick.is_final
    np.testing.assert_array_equal(quick.image, final.image)
