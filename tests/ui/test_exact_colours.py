"""Exact colours on the Inks sheet: picked on the table, typed, told, and let go."""

import pytest
from PySide6.QtCore import QPointF, Qt
from tests.ui.patience import take_events

RED = (200, 69, 47)


@pytest.fixture
def inks(bench, settle):
    bench.files.open_demo("ferry")
    settle()
    bench.go_to_station("inks")
    take_events()
    return bench.pages["inks"]


def type_into(qtbot, field, text):
    field.setFocus()
    field.selectAll()
    qtbot.keyClicks(field, text)
    qtbot.keyClick(field, Qt.Key.Key_Return)


def test_the_demo_holds_a_red_and_an_orange_exactly(bench, inks):
    red, orange = bench.session.job.settings.recipes
    assert len(inks.recipes.lines) == 2
    plan = bench.desk.plan
    hull = (plan.art[..., :3] == RED).all(axis=2) & (plan.art[..., 3] == 255)
    assert {tuple(px) for px in plan.cmyk[hull]} == {tuple(round(share * 255) for share in red.inks)}
    assert inks.recipes.lines[1].inks.text() == orange.text
    assert "ΔE" in inks.recipes.lines[0].effect.text()


def test_a_recipe_is_typed_and_undone(bench, inks, settle, qtbot):
    line = inks.recipes.lines[0]
    type_into(qtbot, line.inks, "c0 m100 y100")
    settle()
    assert bench.session.job.settings.recipes[0].inks == (0, 1, 1, 0)
    assert line.inks.text() == "M100 Y100"
    type_into(qtbot, line.tolerance, "7.5")
    settle()
    assert bench.session.job.settings.recipes[0].tolerance_de == 7.5
    assert line.tolerance.text() == "± 7.5"
    bench.session.undo()
    bench.session.undo()
    settle()
    assert line.inks.text() == "C10 M92 Y95 K2"


@pytest.mark.parametrize(
    ("text", "says"), [("M120", "more than 100 %"), ("red", "inks in percent"), ("M5 M6", "twice")]
)
def test_what_cannot_be_is_refused_in_place(bench, inks, qtbot, text, says):
    before = bench.session.job
    type_into(qtbot, inks.recipes.lines[0].inks, text)
    assert bench.session.job == before
    assert says in inks.recipes.lines[0].inks.toolTip()


def test_a_colour_is_picked_on_the_table_and_let_go(bench, inks, settle, qtbot):
    inks.recipes.lines[0].findChildren(type(inks.recipes.hold))[-1].click()
    settle()
    assert len(inks.recipes.lines) == 1
    inks.recipes.hold.click()
    assert bench.view_control.view_mode == "artwork"
    at = bench.table.px_at(50.0, 47.0)
    qtbot.mouseClick(bench.table, Qt.MouseButton.LeftButton, pos=QPointF(at).toPoint())
    settle()
    held = bench.session.job.settings.recipes
    assert held[-1].colour == RED
    assert sum(held[-1].inks) > 1
    assert bench.session.undo_label == "Hold #c8452f"


def test_more_ink_than_the_press_takes_warns(bench, inks, settle, qtbot):
    type_into(qtbot, inks.recipes.lines[0].inks, "C100 M100 Y100 K100")
    settle()
    assert "400 % in all, above the 340 % it takes" in inks.recipes.lines[0].effect.text()
    assert "over-limit" in {finding.code for finding in bench.desk.plan.findings}
    assert inks.coverage.text() == "Up to 400 % of 340 %"


def test_a_press_without_black_refuses_black(bench, inks, settle, qtbot):
    from swaddon.ui.stations.order import model

    bench.apply(model.press_edit("toner-no-black"))
    settle()
    type_into(qtbot, inks.recipes.lines[1].inks, "M20 K5")
    assert "no black" in inks.recipes.lines[1].inks.toolTip()
