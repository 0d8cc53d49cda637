"""Enclosed background on the Knockout sheet: shown, gone to, taken out and kept, each as one step."""

import pytest
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QPushButton


@pytest.fixture
def enclosed(bench, settle):
    bench.files.open_demo("lantern")
    settle()
    bench.go_to_station("knockout")
    settle()
    return bench.pages["knockout"].enclosed


def buttons(enclosed, text):
    return [made for made in enclosed.findChildren(QPushButton) if made.text() == text and not made.isHidden()]


def test_the_largest_is_taken_out_kept_or_shown(bench, enclosed, settle, qtbot):
    plan = bench.desk.plan
    count, before = len(plan.islands), bench.session.job
    assert enclosed.head.text().startswith(f"{count} areas of a colour taken from outside")
    assert len(buttons(enclosed, "Take out")) == 6
    qtbot.mouseClick(buttons(enclosed, "Take out")[0], Qt.MouseButton.LeftButton)
    settle()
    assert bench.session.undo_label == "Take out an enclosed area"
    assert len(bench.desk.plan.islands) == count - 1
    qtbot.mouseClick(buttons(enclosed, "Keep")[0], Qt.MouseButton.LeftButton)
    settle()
    assert len(bench.desk.plan.islands) == count - 2
    assert len(bench.session.job.settings.knockouts[0].kept) == 1
    qtbot.mouseClick(enclosed.take_all, Qt.MouseButton.LeftButton)
    settle()
    assert bench.desk.plan.islands == ()
    assert enclosed.head.isHidden()
    assert enclosed.again.text() == "Ask again about the 1 kept"
    for _ in range(3):
        bench.session.undo()
    settle()
    assert bench.session.job == before
    assert len(bench.desk.plan.islands) == count


def test_all_are_kept_in_one_step(bench, enclosed, settle):
    removed = bench.desk.plan.measures.removed_px
    enclosed.keep_all.click()
    settle()
    assert bench.desk.plan.islands == ()
    assert bench.desk.plan.measures.removed_px == pytest.approx(removed, rel=1e-3), "rims of what is kept stay whole"
    enclosed.again.click()
    settle()
    assert bench.desk.plan.islands
    bench.session.undo()
    settle()
    assert "enclosed-background" not in {finding.code for finding in bench.desk.plan.findings}


def test_a_colour_is_offered_from_outside_and_everywhere(bench, settle, qtbot):
    bench.files.open_demo("lantern")
    settle()
    bench.go_to_station("knockout")
    settle()
    page = bench.pages["knockout"]
    words = [made for made in page.findChildren(QPushButton) if made.text().startswith(("outside ", "all "))]
    assert any(made.text().startswith("outside ") for made in words)
    everywhere = next(made for made in words if made.text().startswith("all "))
    qtbot.mouseClick(everywhere, Qt.MouseButton.LeftButton)
    settle()
    assert bench.session.job.settings.knockouts[-1].reach == "everywhere"
