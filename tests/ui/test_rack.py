"""The slot rack by mouse and keyboard; line-ups kept, taken, opened and saved."""

import json
from dataclasses import replace
from itertools import pairwise

import pytest
from PySide6.QtCore import QPoint, Qt
from tests.ui.patience import take_events

from swaddon.core.press.lineup import factory
from swaddon.io import profiles
from swaddon.session.demo import demo_job


@pytest.fixture
def inks(bench, settle):
    bench.session.open(replace(demo_job("tag"), profile=profiles.shipped("film")), None)
    settle()
    bench.go_to_station("inks")
    take_events()
    return bench.pages["inks"]


def slots(bench):
    return factory(bench.session.job.press).slots


def drag(qtbot, rack, one, other):
    start, end = (rack.middle(index).toPoint() for index in (one, other))
    qtbot.mousePress(rack, Qt.MouseButton.LeftButton, pos=start)
    qtbot.mouseMove(rack, (start + end) / 2)
    qtbot.mouseMove(rack, end)
    qtbot.mouseRelease(rack, Qt.MouseButton.LeftButton, pos=end)


def test_a_drag_swaps_two_bottles_and_undo_swaps_them_back(bench, inks, settle, qtbot):
    came = slots(bench)
    drag(qtbot, inks.lineup.rack, 0, 3)
    settle()
    assert slots(bench) == ("K", "M", "Y", "C", "W", "W")
    assert sorted(slots(bench)) == sorted(came)
    assert {entry.ink: entry.number for entry in bench.desk.plan.request.profile.colour_slots}["C"] == 4
    assert inks.lineup.names.text() == "Not kept yet"
    bench.session.undo()
    settle()
    assert slots(bench) == came
    assert inks.lineup.names.text() == "As it came"


def test_a_drag_that_ends_elsewhere_changes_nothing(bench, inks, qtbot):
    rack, came = inks.lineup.rack, slots(bench)
    start = rack.middle(1).toPoint()
    qtbot.mousePress(rack, Qt.MouseButton.LeftButton, pos=start)
    qtbot.mouseRelease(rack, Qt.MouseButton.LeftButton, pos=start + QPoint(150, 300))
    drag(qtbot, rack, 2, 2)
    assert slots(bench) == came
    assert bench.session.undo_label is None


def test_by_keyboard_a_bottle_is_taken_moved_and_put_down(bench, inks, settle, qtbot):
    rack = inks.lineup.rack
    rack.setFocus()
    for key in (Qt.Key.Key_Right, Qt.Key.Key_Space, Qt.Key.Key_Right, Qt.Key.Key_Right, Qt.Key.Key_Space):
        qtbot.keyClick(rack, key)
    settle()
    assert slots(bench) == ("C", "Y", "K", "M", "W", "W")
    qtbot.keyClick(rack, Qt.Key.Key_Left)
    assert slots(bench) == ("C", "Y", "K", "M", "W", "W"), "nothing is taken any more"
    assert inks.lineup.rack.accessibleDescription().startswith("1: Cyan 2: Yellow")


def entries(field):
    field._fill_menu()
    return {action.text().split("  ", 1)[-1]: action for action in field._menu.actions()}


def test_line_ups_are_kept_taken_and_forgotten_by_name(bench, inks, settle, qtbot):
    drag(qtbot, inks.lineup.rack, 0, 3)
    inks.lineup.keep("Winter")
    settle()
    assert inks.lineup.names.text() == "Winter"
    entries(inks.lineup)["As it came"].trigger()
    settle()
    assert inks.lineup.names.text() == "As it came"
    entries(inks.lineup)["Winter"].trigger()
    settle()
    assert slots(bench) == ("K", "M", "Y", "C", "W", "W")
    entries(inks.lineup)["Forget “Winter”"].trigger()
    settle()
    assert "Winter" not in entries(inks.lineup)
    assert bench.session.job.settings.lineup is None


def test_a_line_up_goes_out_and_in_and_a_wrong_one_is_told(bench, inks, settle, qtbot, tmp_path):
    drag(qtbot, inks.lineup.rack, 4, 0)
    inks.lineup.save(tmp_path / "mine.json")
    bench.session.undo()
    inks.lineup.open(tmp_path / "mine.json")
    settle()
    assert slots(bench) == ("W", "M", "Y", "K", "C", "W")
    document = json.loads((tmp_path / "mine.json").read_text())
    document["slots"][1] = "Y"
    (tmp_path / "double.json").write_text(json.dumps(document))
    inks.lineup.open(tmp_path / "double.json")
    assert "yellow in slot 3 and in slot 2" in bench.problem.text()
    assert slots(bench) == ("W", "M", "Y", "K", "C", "W")


def test_another_press_comes_with_its_own_slots(bench, inks, settle, qtbot):
    drag(qtbot, inks.lineup.rack, 0, 3)
    bench.go_to_station("order")
    bench.pages["order"].process.button_for("toner-twopass").click()
    settle()
    assert bench.session.job.settings.lineup is None
    bench.go_to_station("inks")
    assert slots(bench) == factory(profiles.shipped("toner-twopass")).slots
    assert inks.lineup.rack.accessibleDescription().endswith("4: Black, then White")


def test_twelve_bottles_stand_apart_and_twelve_slots_swap(bench, settle, qtbot, tmp_path):
    text = profiles.shipped("film").source.replace('name = "film"', 'name = "wide"')
    empty = '[[slots]]\nink = ""\n' * 6
    (tmp_path / "wide.toml").write_text(text.replace("[separation]", empty + "[separation]", 1), encoding="utf-8")
    bench.session.open(replace(demo_job("tag"), profile=profiles.shipped("film")), None)
    settle()
    bench.files.open_profile(tmp_path / "wide.toml")
    settle()
    bench.go_to_station("inks")
    take_events()
    rack = bench.pages["inks"].lineup.rack
    places = [rack.middle(index).x() for index in range(12)]
    assert min(b - a for a, b in pairwise(places)) > rack._width + 4
    drag(qtbot, rack, 0, 11)
    settle()
    assert slots(bench)[11] == "C"
    assert slots(bench)[0] == ""
    assert "1: empty" in rack.accessibleDescription()
