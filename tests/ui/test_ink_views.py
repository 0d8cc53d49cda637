"""Inks seen together, total coverage as a map, and numbers under the pointer."""

import numpy as np
import pytest
from PySide6.QtCore import QEvent, QPointF, Qt
from PySide6.QtGui import QMouseEvent
from PySide6.QtWidgets import QApplication

from swaddon.core.press.profile import INKS
from swaddon.session.pictures import INK_RGB, OVER_RGB, PAPER, coverage_map, together
from swaddon.session.pointer import inks_at
from swaddon.session.view_modes import inks_in, together_key, view_mode_of


@pytest.fixture
def inks(bench, settle):
    bench.files.open_demo("ferry")
    settle()
    bench.go_to_station("inks")
    settle()
    return bench.pages["inks"]


def point_at(bench, x_mm, y_mm):
    at = QPointF(bench.table.px_at(x_mm, y_mm))
    none = Qt.MouseButton.NoButton
    QApplication.sendEvent(
        bench.table,
        QMouseEvent(QEvent.Type.MouseMove, at, bench.table.mapToGlobal(at), none, none, Qt.KeyboardModifier.NoModifier),
    )


@pytest.mark.parametrize(("inks_", "key"), [("C", "C"), ("W", "white"), ("YM", "inks:MY"), ("KWC", "inks:CKW")])
def test_a_set_of_inks_has_one_key(inks_, key):
    assert together_key(inks_) == key
    assert set(inks_in(key)) == set(inks_)
    assert view_mode_of(key).key == key


def test_pairs_are_the_inks_as_filters_on_paper():
    rng = np.random.default_rng(2)
    cmyk = rng.integers(0, 256, (8, 9, 4), np.uint8)
    shown = together(cmyk, None, "CM")
    wanted = np.broadcast_to(PAPER, (8, 9, 3)).astype(float)
    for ink in "CM":
        share = cmyk[..., INKS.index(ink), None] / 255
        wanted = wanted * (1 - share * (1 - np.array(INK_RGB[ink]) / PAPER))
    assert np.abs(shown - wanted).max() <= 1
    alone = together(cmyk, None, "C")
    assert np.abs(alone[cmyk[..., 0] == 0].astype(int) - 232).max(initial=0) <= 1


def test_white_among_them_shows_in_a_tint():
    none = np.zeros((2, 2, 4), np.uint8)
    shown = together(none, np.array([[0.0, 1.0], [0.5, 1.0]]), "CW")
    assert shown[0, 0].tolist() == [112, 112, 112]
    assert shown[0, 1, 2] > shown[0, 1, 0] > 150


def test_the_map_darkens_steps_and_hatches():
    total = np.tile(np.linspace(0, 390, 391), (12, 1))
    shown = coverage_map(total, 300.0).astype(int)
    grey = shown[6, :, 0]
    assert grey[20] > grey[80] > grey[150] > grey[280]
    assert abs(grey[100] - grey[99]) > 30, "a line at each 100 %"
    hatch = {tuple(px) for px in shown[:, 310:].reshape(-1, 3)}
    assert set(OVER_RGB) <= hatch
    assert not set(OVER_RGB) & {tuple(px) for px in shown[:, :300].reshape(-1, 3)}


def test_inks_are_ticked_to_be_seen_together(bench, inks, settle):
    inks.ticks["C"].click()
    assert bench.view_control.view_mode == "C"
    inks.ticks["M"].click()
    assert bench.view_control.view_mode == "inks:CM"
    inks.ticks["W"].click()
    settle()
    assert bench.view_control.view_mode == "inks:CMW"
    for ink in "CMW":
        inks.ticks[ink].click()
    assert bench.view_control.view_mode == "footprint"
    bench.see("K")
    assert inks.ticks["K"].isChecked()
    assert not inks.ticks["C"].isChecked()
    assert bench.actions_.view_modes["K"].isChecked()
    inks.ticks["Y"].click()
    assert not any(action.isChecked() for action in bench.actions_.view_modes.values())


def test_coverage_is_seen_as_a_map_from_sheet_and_menu(bench, inks, settle):
    inks.map.click()
    settle()
    assert bench.view_control.view_mode == "coverage"
    assert "340 %" in bench.view_control.numbers.text()
    assert bench.actions_.view_modes["coverage"].isChecked()
    inks.silhouette.click()
    settle()
    assert bench.view_control.view_mode == "one-tone"


def test_numbers_stand_under_the_pointer(bench, inks, settle):
    point_at(bench, 50.0, 47.0)
    text = bench.view_control.numbers.text()
    plan = bench.desk.plan
    column, row = int(50 * plan.ppi / 25.4), int(47 * plan.ppi / 25.4)
    magenta = plan.cmyk[row, column, 1] / 255
    assert f"M {magenta:.0%}".replace("%", " %") in text
    assert "g/m²" in text
    assert text == inks_at(plan, 50.0, 47.0)
    press = plan.request.profile
    load = sum(plan.cmyk[row, column, i] / 255 * press.lay_down_per_m2[ink] for i, ink in enumerate(INKS))
    load += plan.white_plane[row, column] / 255 * press.lay_down_per_m2["W"] * sum(press.hits)
    assert f"{load:.1f} g/m²" in text
    assert inks_at(plan, -1, 5) == inks_at(plan, 5, 1000) == ""
    bench.see("cloth")
    assert not bench.view_control.numbers.isVisible()


def test_a_press_without_black_offers_none_to_see(bench, inks, settle):
    from swaddon.ui.stations.order import model

    bench.see("K")
    bench.apply(model.press_edit("toner-no-black"))
    settle()
    assert not bench.view_modes.button_for("K").isVisible()
    assert bench.view_control.view_mode == "footprint"
    assert "K" not in inks.ticks
