"""The White sheet's choices and the ways of looking at white, with hands on keyboard and mouse."""

import numpy as np
import pytest
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtGui import QImage
from PySide6.QtWidgets import QCheckBox, QLabel, QScrollArea
from tests.ui.patience import take_events
from tests.ui.test_art_stations import type_into
from tests.ui.test_bench import click_at

from swaddon.core.plan.ladder import LIMITS
from swaddon.core.proof.misregistration import worst_case
from swaddon.core.white.settings import FixedWhite
from swaddon.io import profiles
from swaddon.session import edits
from swaddon.ui.widgets import Popover


@pytest.fixture
def page(heron, settle):
    heron.go_to_station("white")
    settle()
    return heron.pages["white"]


def white_share(bench) -> float:
    return bench.desk.plan.measures.coverage["W"]


def test_every_way_of_laying_white_shows_its_own_controls(heron, page, settle):
    shown = {
        "none": [page.amount.strengthen],
        "highlight": [page.amount.strengthen, page.amount.limits],
        "need": [page.amount.shift, page.amount.curve, page.amount.limits],
        "solid": [],
        "limit": [page.amount.limit, page.amount.ladder],
        "only": [],
    }
    every = {id(part): part for parts in shown.values() for part in parts}
    for mode, parts in shown.items():
        page.amount.mode.button_for(mode).click()
        settle()
        assert heron.session.job.settings.white.mode == mode
        visible = {key for key, part in every.items() if part.isVisible()}
        assert visible == {id(part) for part in parts}
        assert page.choke.row.isEnabled() is (mode not in ("none", "only"))
    assert "not pulled in" in page.choke.text.text()
    assert next(m.amount for m in heron.desk.plan.materials if m.kind == "colour") == 0


def test_hits_are_counted_and_set_one_by_one(heron, page, settle, qtbot):
    before = next(m.amount for m in heron.desk.plan.materials if m.kind == "white")
    assert page.amount.hits.head.text() == "+ Hits: 2 × 100%"
    page.amount.hits.head.click()
    assert page.amount.count.isVisible()
    type_into(qtbot, page.amount.hit_slides[1].field, "50 %")
    settle()
    assert heron.session.job.settings.white.hits == (1.0, 0.5)
    assert next(m.amount for m in heron.desk.plan.materials if m.kind == "white") == pytest.approx(0.75 * before)
    page.amount.count.button_for("1").click()
    settle()
    assert heron.session.job.settings.white.hits == (1.0,)
    assert not page.amount.hit_slides[1].isVisible()
    page.amount.flood.click()
    settle()
    assert {finding.code for finding in heron.desk.plan.findings} >= {"white-outside"}


def test_areas_of_white_of_the_design_are_turned_to_bare_cloth_and_shown(heron, page, settle):
    before = white_share(heron)
    largest = max(heron.desk.plan.checks.design_areas, key=lambda area: area.area_mm2)
    page.design.choose.click()
    assert len(page.design.areas) == len(heron.desk.plan.checks.design_areas)
    page.design.areas[0].click()
    settle()
    (rule,) = heron.session.job.settings.white.design_rules
    assert not rule.ink
    column, row = (int(mm * heron.desk.plan.ppi / 25.4) for mm in (largest.x_mm, largest.y_mm))
    assert heron.desk.plan.white_plane[row, column] == 0
    assert white_share(heron) < before
    for open_popover in heron.findChildren(Popover):
        open_popover.close()
    take_events()
    page.design.choose.click()
    assert [box.isChecked() for box in page.design.areas].count(False) == 1
    assert all(isinstance(box, QCheckBox) and box.accessibleName() for box in page.design.areas)


def test_a_white_garment_says_that_it_leaves_white_of_the_design_bare(heron, page, settle):
    heron.apply(edits.set_garment((250, 250, 248)))
    settle()
    assert not page.design.box.isChecked()
    assert "left bare by itself" in page.design.effect.text()
    page.design.box.click()
    settle()
    assert heron.session.job.settings.white.design is True


def test_the_white_of_a_picked_colour_is_fixed_changed_and_let_go(heron, page, settle, qtbot):
    page.amount.mode.button_for("need").click()
    settle()
    page.amount.limits.head.click()
    page.amount.pick.click()
    settle()
    click_at(heron, qtbot, 4.6, 120)
    settle()
    (item,) = heron.session.job.settings.white.fixed
    assert item.amount == 0.5
    type_into(qtbot, page.amount.slides[0].field, "80 %")
    settle()
    assert heron.session.job.settings.white.fixed[0].amount == 0.8
    row, column = (int(mm * heron.desk.plan.ppi / 25.4) for mm in (120, 4.6))
    assert heron.desk.plan.white_plane[row, column] == pytest.approx(204, abs=4)
    remove = next(b for b in page.amount.fixed.findChildren(type(page.amount.pick)) if "go by need" in b.toolTip())
    remove.click()
    settle()
    assert heron.session.job.settings.white.fixed == ()


def test_the_ladder_compares_limits_and_a_press_takes_one(heron, page, settle):
    page.amount.mode.button_for("limit").click()
    settle()
    page.amount.ladder.open.click()
    assert not page.amount.ladder.open.isEnabled()
    settle()
    panel = page.amount.ladder.panel
    assert [text.text() for text in panel.buttons] == ["Use 170 %", "Use 250 %", "In use", "Use 400 %"]
    panel.buttons[0].click()
    settle()
    assert heron.session.job.settings.white.limit == LIMITS[0]


@pytest.mark.full_size
def test_registration_squeeze_and_the_screens_choke_are_entered(heron, page, settle, qtbot):
    page.choke.registration.head.click()
    type_into(qtbot, page.choke.error.field, "0.2 mm")
    settle()
    page.choke.worst.click()
    settle()
    type_into(qtbot, page.choke.squeeze.field, "0.07 mm")
    settle()
    white = heron.session.job.settings.white
    assert (white.registration_mm, white.worst_case, white.squeeze_mm) == (0.2, True, 0.07)
    assert heron.desk.plan.choke.recommended_mm == pytest.approx(0.27, abs=0.011)
    assert "worst 0.20, " in page.choke.registration.head.text()
    assert not page.choke.screen_choke.isVisible()
    type_into(qtbot, page.choke.row.field, "3 px")
    assert heron.session.job.settings.white.choke_mm == pytest.approx(0.254)
    type_into(qtbot, page.choke.row.field, "7 px at 720")
    assert heron.session.job.settings.white.choke_mm == pytest.approx(7 * 25.4 / 720, abs=5e-4)
    type_into(qtbot, page.choke.row.field, "wide")
    assert "3 px or 7 px at 720" in page.choke.row.field.toolTip()
    type_into(qtbot, page.choke.other, "1440")
    assert "at 1440" in page.choke.text.text()
    type_into(qtbot, page.choke.other, "few")
    assert "is not a number" in page.choke.other.toolTip()
    assert "at 1440" in page.choke.text.text()


def test_the_verdict_opens_a_table_of_the_main_colours(heron, page, settle):
    heron.apply(edits.set_garment((224, 212, 186)))
    settle()
    page.amount.colours.click()
    assert heron.findChildren(Popover)
    assert len(page.amount._state.colours[0].values) == 5


# ways of looking


def table_pixels(bench) -> np.ndarray:
    image = bench.table.picture().toImage().convertToFormat(QImage.Format.Format_RGB888)
    flat = np.frombuffer(image.constBits(), np.uint8).reshape(image.height(), image.bytesPerLine())
    return flat[:, : 3 * image.width()].reshape(image.height(), image.width(), 3).astype(int)


def test_white_is_shown_at_its_worst_nudged_and_put_back(heron, page, settle, qtbot):
    heron.apply(edits.set_white("No choke", choke_mm=0))
    heron.table.go_to(4.0, 120)
    heron.table.zoom_by(8)
    settle()
    before, keys = table_pixels(heron), heron.desk.plan.keys
    heron.actions_.by_key["worst-case"].trigger()
    settle()
    profile = heron.session.job.profile
    assert heron.view_control.misregistration == worst_case(heron.session.job.settings.registration(profile))
    assert "right" in heron.view_control.note.text()
    assert heron.view_control.note.isVisible()
    worst = table_pixels(heron)
    assert (np.abs(worst - before).max(axis=2) > 60).any(), "white peeks out"
    assert heron.desk.plan.keys == keys, "it is only a way of looking"
    heron.actions_.by_key["nudge-back"].trigger()
    settle()
    assert not heron.view_control.note.isVisible()
    assert not heron.actions_.by_key["worst-case"].isChecked()
    heron.table.setFocus()
    qtbot.keyClick(heron.table, Qt.Key.Key_Right, Qt.KeyboardModifier.AltModifier)
    qtbot.keyClick(heron.table, Qt.Key.Key_Up, Qt.KeyboardModifier.AltModifier)
    settle()
    assert (heron.view_control.misregistration.dx_mm, heron.view_control.misregistration.dy_mm) == (0.05, -0.05)
    qtbot.keyClick(heron.table, Qt.Key.Key_PageUp, Qt.KeyboardModifier.AltModifier)
    qtbot.keyClick(heron.table, Qt.Key.Key_PageUp, Qt.KeyboardModifier.AltModifier)
    qtbot.keyClick(heron.table, Qt.Key.Key_PageDown, Qt.KeyboardModifier.AltModifier)
    assert heron.view_control.misregistration.squeeze_mm == 0.02
    assert "squeezed 0.02 mm" in heron.view_control.note.text()
    heron.actions_.by_key["nudge-back"].trigger()
    settle()


def test_another_job_opens_with_its_white_in_place(heron, page, settle):
    heron.actions_.by_key["worst-case"].trigger()
    settle()
    heron.files.open_demo("choir")
    settle()
    assert heron.view_control.misregistration.is_none
    assert not heron.actions_.by_key["worst-case"].isChecked()
    assert not heron.view_control.note.isVisible()


def test_the_loupe_follows_the_pointer_with_a_scale_in_mm(heron, page, settle, qtbot):
    heron.actions_.by_key["loupe"].trigger()
    settle()
    loupe = heron.view_control.loupe
    assert loupe.isVisible()
    step, step_px = loupe.tick
    assert step_px / step == pytest.approx(loupe.view.px_per_mm / loupe.devicePixelRatioF())
    first = loupe.view
    qtbot.mouseMove(heron.table, QPoint(300, 300))
    qtbot.mouseMove(heron.table, QPoint(320, 310))
    settle()
    at = heron.table.mm_at(QPointF(320, 310))
    centre = loupe.view.x0_mm + loupe.view.width / loupe.view.px_per_mm / 2
    assert loupe.view != first
    assert centre == pytest.approx(at.x(), abs=0.05)
    assert loupe._image is not None
    heron.set_inches(True)
    heron.actions_.by_key["loupe"].trigger()
    heron.actions_.by_key["loupe"].trigger()
    assert loupe.inches
    assert loupe.tick[1] == pytest.approx(loupe.tick[0] * 25.4 * step_px / step)
    heron.actions_.by_key["loupe"].trigger()
    assert not loupe.isVisible()
    settle()


def test_holding_y_shows_the_yardstick_alone_and_letting_go_this_plan(heron, page, settle, qtbot):
    heron.pin()
    heron.apply(edits.set_white("No white", mode="none", design=False))
    settle()
    heron.table.setFocus()
    now = table_pixels(heron)
    qtbot.keyPress(heron.table, Qt.Key.Key_Y)
    settle()
    held = table_pixels(heron)
    assert np.abs(held - now).max() > 100
    assert heron.table.curtain == 1.0
    qtbot.keyRelease(heron.table, Qt.Key.Key_Y)
    settle()
    assert heron.table.curtain is None
    assert np.abs(table_pixels(heron) - now).max() == 0
    heron.set_yardstick(None)
    qtbot.keyClick(heron.table, Qt.Key.Key_Y)
    assert heron.table.curtain is None


def test_a_fix_waits_until_the_findings_are_those_of_the_job(heron, page, settle):
    """The fix of an older finding would undo what came after it."""
    heron.apply(edits.set_white("No choke", choke_mm=0))
    settle()
    (row,) = (row for row in heron.findings.rows if row.finding.code == "choke-zero")
    assert row.fix_button.isEnabled()
    heron.apply(edits.set_quantity(7))
    assert row.fix_button.isEnabled(), "a plan only carries the quantity along"
    heron.apply(edits.set_garment((27, 27, 31)))
    assert not row.fix_button.isEnabled()
    settle()
    (row,) = (row for row in heron.findings.rows if row.finding.code == "choke-zero")
    row.fix_button.click()
    settle()
    settings = heron.session.job.settings
    assert (settings.garment, settings.quantity) == ((27, 27, 31), 7)
    assert settings.white.choke_mm > 0


def test_on_a_pale_tote_the_table_tells_ink_by_ink_what_strengthening_changes(heron, settle):
    heron.files.open_demo("kettle")
    settle()
    heron.go_to_station("white")
    page = heron.pages["white"]
    page.amount.colours.click()
    text = [label.text() for label in heron.findChildren(Popover)[-1].findChildren(QLabel)]
    assert [text.index(ink) for ink in "CMYK"] == sorted(text.index(ink) for ink in "CMYK")
    assert sum(" → " in text and text.endswith("%") for text in text) >= 12
    for line in page.amount._state.colours:
        assert len(line.recipe) == 4


def test_without_an_edge_of_white_under_colour_no_choke_is_recommended(heron, settle):
    heron.files.open_demo("kettle")  # an opaque box of white of the design: its edge is not choked
    settle()
    heron.go_to_station("white")
    page = heron.pages["white"]
    assert page.choke.schools.isHidden()
    assert page.choke.chart.isHidden()
    heron.findings.rows[0].fix_button.click()
    settle()
    assert not page.choke.schools.isHidden()
    assert heron.desk.plan.choke.recommended_mm > 0


def test_findings_are_one_line_each_with_the_worst_open_and_pressing_opens_another(heron, settle, qtbot):
    heron.files.open_demo("lantern")
    settle()
    rows = heron.findings.rows
    assert len(rows) > 2
    assert [row.is_open for row in rows] == [True] + [False] * (len(rows) - 1)
    one_line = rows[1].height()
    assert one_line < 40
    qtbot.mouseClick(rows[1], Qt.MouseButton.LeftButton)
    assert [row.is_open for row in rows[:3]] == [False, True, False]
    assert rows[1].finding.text in rows[1]._whole.text()
    heron.resize(960, 540)
    assert heron.findings.height() < 0.27 * 540


def test_what_is_set_by_hand_is_told_in_short_and_fits_beside_the_hits(heron, page, settle):
    heron.apply(edits.set_white("Change white", mode="need"))
    assert page.amount.limits.head.text() == "+ By hand: limits, colours"
    fixed = (FixedWhite((200, 30, 40), 0.5), FixedWhite((20, 130, 40), 0.5))
    heron.apply(edits.set_white("Change white", least=0.1, most=0.8, fixed=fixed, hits=(1.0, 0.5, 0.85, 1.0)))
    settle()
    assert page.amount.limits.head.text() == "+ By hand: 10–80%, 2 colours"
    assert page.amount.hits.head.text() == "+ Hits: 4, 335%"
    area = page.findChild(QScrollArea)
    assert area.widget().minimumSizeHint().width() <= area.viewport().width()


def test_a_press_without_white_says_so_and_offers_none(bench, settle):
    bench.files.open_demo("choir")
    settle()
    bench.apply(edits.set_profile(profiles.shipped("toner-colour")))
    settle()
    bench.go_to_station("white")
    page = bench.pages["white"]
    assert page.bare.isVisibleTo(page)
    assert not page.amount.isVisibleTo(page)
    assert not bench.view_modes.button_for("white").isVisible()
    assert not bench.desk.plan.white_plane.any()
    assert "white" not in bench.tally.cells
    bench.apply(edits.set_profile(profiles.shipped("film")))
    settle()
    assert page.amount.isVisibleTo(page)
    assert bench.desk.plan.white_plane.any()
