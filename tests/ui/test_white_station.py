"""White with hands on keyboard and mouse: by need, the recommended choke, core samples, the trouble view."""

import pytest
from PySide6.QtCore import QPointF, Qt
from tests.ui.patience import take_events
from tests.ui.test_art_stations import type_into
from tests.ui.test_bench import click_at

from swaddon.session import edits


def test_white_by_need_follows_its_slider_and_its_curve(heron, settle, qtbot):
    heron.go_to_station("white")
    page = heron.pages["white"]
    solid = heron.desk.plan.measures.coverage["W"]
    page.amount.mode.button_for("need").click()
    settle()
    assert "less than solid" in page.amount.verdict.text()
    at_three = heron.desk.plan.measures.coverage["W"]
    assert at_three < 0.8 * solid
    type_into(qtbot, page.amount.shift.field, "8")
    settle()
    assert heron.desk.plan.measures.coverage["W"] < at_three
    page.amount.curve.setFocus()
    qtbot.keyClick(page.amount.curve, Qt.Key.Key_Left)
    assert heron.session.job.settings.white.allowed_shift == 7.5
    qtbot.mouseClick(page.amount.curve, Qt.MouseButton.LeftButton, pos=QPointF(12, 40).toPoint())
    assert heron.session.job.settings.white.allowed_shift == 0
    settle()
    page.amount.colours.click()
    assert len(page.amount._state.colours) > 4
    assert "White needed" in page.amount.verdict.text()


def test_the_recommended_choke_is_taken_and_grows_with_registration(heron, settle, qtbot):
    heron.go_to_station("white")
    page = heron.pages["white"]
    first = heron.desk.plan.choke.recommended_mm
    assert page.choke.recommend.text() == f"Least harm {first:.2f} mm"
    assert page.choke.no_peek.text() == "No peek 0.21 mm"  # 2 × σ 0.08 mm and 0.05 mm of squeeze
    page.choke.no_peek.click()
    settle()
    assert heron.session.job.settings.white.choke_mm == 0.21
    assert not page.choke.no_peek.isEnabled()
    page.choke.recommend.click()
    settle()
    assert heron.session.job.settings.white.choke_mm == first
    assert not page.choke.recommend.isEnabled()
    type_into(qtbot, page.choke.error.field, "0.3 mm")
    settle()
    assert heron.desk.plan.choke.recommended_mm > first
    page.choke.chart.setFocus()
    qtbot.keyClick(page.choke.chart, Qt.Key.Key_Right)
    assert heron.session.job.settings.white.choke_mm == pytest.approx(first + 0.01)
    page.choke.guard.click()
    assert heron.session.job.settings.white.guard is False
    assert "at 720" in page.choke.text.text()
    settle()


def test_a_click_takes_a_core_sample_where_no_station_wants_the_click(heron, settle, qtbot):
    from swaddon.ui.core_sample import CoreSamplePanel

    heron.go_to_station("white")
    settle()
    click_at(heron, qtbot, 90, 110)
    (panel,) = heron.findChildren(CoreSamplePanel)
    assert panel.sample.layers[0].key == "garment"
    assert panel.sample.x_mm == pytest.approx(90, abs=0.5)
    panel.close()
    take_events()
    heron.actions_.by_key["core-sample"].trigger()
    assert heron.findChildren(CoreSamplePanel)
    assert heron.show_core_sample(-5, -5) is None


def test_the_trouble_view_tells_its_hatches_and_leads_to_their_places(heron, settle, qtbot):
    heron.apply(edits.set_white("Choke", choke_mm=0.5, guard=False))
    settle()
    qtbot.keyClick(heron, Qt.Key.Key_F9)
    settle()
    assert heron.view_control.legend.isVisible()
    texts = [line.text() for line in heron.view_control.legend.lines]
    assert any(text.startswith("Bare rim: ") and text.endswith("mm²") for text in texts)
    assert heron.view_control.legend.width() > 100
    rim = next(line for line in heron.view_control.legend.lines if line.text().startswith("Bare rim"))
    rim.click()
    assert heron.table._place is not None
    settle()
    qtbot.keyClick(heron, Qt.Key.Key_F1)
    settle()
    assert not heron.view_control.legend.isVisible()
