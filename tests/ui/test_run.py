"""The Run sheet: the steps of every process, each caution where it comes first."""

from dataclasses import replace

import pytest
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QFileDialog, QLabel
from tests.ui.patience import as_soon_as, take_events, until_rest

from swaddon.core.press.processes import PROCESSES
from swaddon.io import profiles
from swaddon.io.spot_pdf import colorants
from swaddon.session import edits, shop
from swaddon.session.demo import demo_job
from swaddon.session.job import Job
from swaddon.session.preferences import Preferences, load_preferences
from swaddon.session.session import Session
from swaddon.ui.bench import Bench
from swaddon.ui.stations.order import model as order
from swaddon.ui.stations.run.model import run_state


@pytest.mark.parametrize("key", PROCESSES)
def test_each_process_tells_its_steps_and_each_caution_once(key):
    state = run_state(Job(profile=profiles.shipped(key)))
    known = [step.text.partition("{")[0] for step in PROCESSES[key].steps]
    for step in state.steps:
        assert any(text and step.text.startswith(text) for text in known), step.text
    told = [step.caution for step in state.steps if step.caution and not step.is_repeated]
    assert len(told) == len(set(told)) > 0
    assert {step.caution for step in state.steps} - {""} == set(told)


def test_a_press_without_white_has_no_white_in_its_steps():
    texts = [step.text for step in run_state(Job(profile=profiles.shipped("toner-colour"))).steps]
    assert texts[0] == "Print the sheet mirrored"
    assert not any("white" in text for text in texts)


def test_two_passes_swap_the_cartridge_between_colour_and_mask():
    texts = " | ".join(step.text for step in run_state(Job(profile=profiles.shipped("toner-twopass"))).steps)
    order_of_work = [texts.index(word) for word in ("Print the colour", "white one", "same edge first", "mask", "back")]
    assert order_of_work == sorted(order_of_work)


def test_the_card_follows_the_press(bench, settle):
    bench.session.open(replace(demo_job("tag"), profile=profiles.shipped("film")), None)
    settle()
    bench.go_to_station("run")
    take_events()
    board = bench.pages["run"].own_table
    assert board.steps[0].text.text() == PROCESSES["film"].steps[0].text
    assert board.steps[1].caution.isVisibleTo(board)
    bench.apply(order.press_edit("direct"))
    settle()
    assert board.steps[0].text.text() == "Pretreat the tag evenly"
    assert board.steps[-1].text.text() == "Cure the print"


def test_what_is_handed_over_is_chosen_named_and_told(bench, settle, qtbot, tmp_path, monkeypatch):
    bench.session.open(replace(demo_job("tag"), profile=profiles.shipped("film")), None)
    settle()
    bench.go_to_station("run")
    part = bench.pages["run"].handing
    assert not part.colour.isVisibleTo(part)
    part.kind.button_for("pdf").click()
    settle()
    assert part.colour.isVisibleTo(part)
    part.name.setFocus()
    part.name.selectAll()
    qtbot.keyClicks(part.name, "Spot 9")
    qtbot.keyClick(part.name, Qt.Key.Key_Return)
    settle()
    assert bench.session.job.settings.handover.white_name == "Spot 9"
    told = " ".join(item.text() for item in part.findChildren(QLabel) if item.isVisibleTo(part))
    assert "print-mirrored.pdf" in told
    assert "Spot 9" in told
    monkeypatch.setattr(QFileDialog, "getExistingDirectory", lambda *_: str(tmp_path / "out"))
    part.export.click()
    settle()
    assert "Spot 9" in colorants(tmp_path / "out" / "print-mirrored.pdf")
    bench.files.ask_unsaved = lambda: "discard"
    bench.files.new()
    settle()
    bench.apply(order.press_edit("film"))
    assert bench.session.job.settings.handover.white_name == "", "the same press keeps what the job says"
    bench.apply(order.press_edit("direct"))
    bench.apply(order.press_edit("film"))
    assert bench.session.job.settings.handover.white_name == "Spot 9", "the shop keeps the name for its press"


# the run card


class Hearing:
    """A chime that only counts."""

    def __init__(self) -> None:
        self.rings = 0

    def ring(self) -> bool:
        self.rings += 1
        return True


@pytest.fixture
def run_page(marble, settle):
    """The Run station with the Marble League job, its clock in the test's hand and its chime counted."""
    marble.clock = Clock()
    marble.log.keeper.clock = marble.clock
    marble.log.chime = Hearing()
    marble.go_to_station("run")
    settle()
    return marble.pages["run"]


class Clock:
    def __init__(self) -> None:
        self.now = 1_790_000_000.0

    def __call__(self) -> float:
        return self.now


def board_key(qtbot, page, *keys):
    page.own_table.setFocus()
    for key in keys:
        qtbot.keyClick(page.own_table, key)


def test_a_run_is_counted_by_hand_and_by_key(run_page, marble, qtbot):
    board = run_page.own_table
    assert not run_page.counting.good.isVisibleTo(run_page)
    qtbot.mouseClick(run_page.counting.begin, Qt.MouseButton.LeftButton)
    qtbot.mouseClick(run_page.counting.good, Qt.MouseButton.LeftButton)
    board_key(qtbot, run_page, Qt.Key.Key_Space, Qt.Key.Key_X)
    wanted = marble.session.job.settings.quantity
    assert board.count.text() == f"2 of {wanted}"
    assert "1 did not come off" in board.told.text()
    board_key(qtbot, run_page, Qt.Key.Key_Backspace, Qt.Key.Key_Backspace)
    assert board.count.text() == f"1 of {wanted}"
    run_page.counting.many.setFocus()
    qtbot.keyClicks(run_page.counting.many, "12")
    qtbot.keyClick(run_page.counting.many, Qt.Key.Key_Return)
    assert board.count.text() == f"13 of {wanted}"
    qtbot.keyClicks(run_page.counting.many, "lots")
    qtbot.keyClick(run_page.counting.many, Qt.Key.Key_Return)
    assert board.count.text() == f"13 of {wanted}"
    run_page.counting.reasons.setCurrentIndex(run_page.counting.reasons.findData("crooked"))
    marble.actions_.by_key["spoiled"].trigger()
    assert "crooked" in run_page.counting.told.text()


def test_several_timers_run_ring_and_are_stopped_by_their_key(run_page, marble, qtbot):
    by_digit = {state.digit: at for at, state in enumerate(run_page.own_table._shown) if state.digit}
    press = next(at for at, step in enumerate(run_page._state.made.steps) if step.key == "press")
    digit = next(digit for digit, at in by_digit.items() if at == press)
    board_key(qtbot, run_page, getattr(Qt.Key, f"Key_{digit}"))
    run_page.start_timer(press)
    run_page.start_timer(press + 1)
    tiles = run_page.own_table.timers.tiles
    assert len(tiles) == 3
    marble.clock.now += 5
    as_soon_as(lambda: tiles[0].clock == "0:15")
    assert marble.log.chime.rings == 0
    marble.clock.now += 15
    as_soon_as(lambda: marble.log.chime.rings == 1)
    assert tiles[0].clock == "0:00"
    marble.clock.now += 3
    as_soon_as(lambda: marble.log.chime.rings == 2)
    assert tiles[0].clock == "+0:03"
    board_key(qtbot, run_page, getattr(Qt.Key, f"Key_{digit}"))
    assert [tile.timer.step for tile in run_page.own_table.timers.tiles] == ["press", "cool-warm"]
    qtbot.mouseClick(run_page.own_table.timers.tiles[0], Qt.MouseButton.LeftButton)
    assert [step for step, _ in run_page.run().record.taken] == ["press", "press"]


def test_a_timer_is_silent_without_sound_and_stays_in_sight(run_page, marble):
    run_page.sound.click()
    assert marble.preferences.sound is False
    run_page.start_timer(next(at for at, step in enumerate(run_page._state.made.steps) if step.key == "press"))
    marble.clock.now += 60
    as_soon_as(lambda: run_page.own_table.timers.tiles[0].clock == "+0:40")
    assert marble.log.chime.rings == 0


def test_the_run_rests_and_timers_go_on(run_page, marble, qtbot):
    run_page.begin()
    marble.clock.now += 100
    board_key(qtbot, run_page, Qt.Key.Key_P)
    assert "resting" in run_page.own_table.told.text()
    marble.clock.now += 1000
    board_key(qtbot, run_page, Qt.Key.Key_P)
    assert run_page.run().record.worked_s(marble.clock.now) == pytest.approx(100)


def test_a_run_goes_on_after_a_restart(run_page, marble, settle, compiled):
    run_page.begin()
    run_page.counting.count_good(7)
    run_page.start_timer(next(at for at, step in enumerate(run_page._state.made.steps) if step.key == "press"))
    job = marble.session.job
    again = Bench(Session(), Preferences())
    try:
        again.show()
        again.session.open(job, None)
        until_rest(again)
        again.go_to_station("run")
        page = again.pages["run"]
        assert page.own_table.count.text().startswith("7 of")
        assert len(page.own_table.timers.tiles) == 1
        assert page.counting.good.isVisibleTo(page)
    finally:
        again.files.ask_unsaved = lambda: "discard"
        again.close()
        again.deleteLater()


def test_settings_changed_after_the_begin_are_told(run_page, marble, settle):
    """The entry tells the plan of the begin; whoever prints with others begins anew."""
    run_page.begin()
    assert "other than when" not in run_page.counting.told.text()
    marble.apply(edits.change("handover.kind", "pdf"))
    settle()
    assert "other than when" not in run_page.counting.told.text()
    marble.apply(edits.change("white.choke_mm", 0.44))
    settle()
    assert "other than when this run began" in run_page.counting.told.text()
    marble.session.undo()
    settle()
    assert "other than when" not in run_page.counting.told.text()


def test_a_run_begins_with_the_plan_of_now_only(run_page, marble, settle, tmp_path):
    """While a change is planned, what is shown is the plan of before: it would go into the log book."""
    marble.apply(edits.change("white.choke_mm", 0.4))
    run_page.begin()
    run_page.write_card(tmp_path / "card.pdf")
    assert run_page.run() is None
    assert not run_page.counting.begin.isEnabled()
    settle()
    assert run_page.counting.begin.isEnabled()
    run_page.begin()
    assert run_page.run().entry.planned.figure("choke_mm") == 0.4
    run_page.write_card(tmp_path / "card.pdf")
    settle()
    while not marble.log.is_idle:
        settle()
    assert (tmp_path / "card.pdf").read_bytes().startswith(b"%PDF")


def test_the_run_of_another_job_is_told_and_taken_up(run_page, marble, settle, qtbot):
    run_page.begin()
    run_page.counting.count_good(3)
    marble.session.open(demo_job("tag"), None)
    settle()
    assert run_page.run() is None
    assert "Low Orbit" in run_page.others.text()
    qtbot.mouseClick(run_page.take_up, Qt.MouseButton.LeftButton)
    settle()
    assert marble.session.job.name.startswith("Low Orbit")
    assert run_page.own_table.count.text().startswith("3 of")


def test_heat_that_the_garment_does_not_bear_stops_and_is_mended(bench, settle):
    job = demo_job("marble")
    bench.session.open(replace(job, goods=replace(job.goods, name="Red jersey", cloth="polyester")), None)
    settle()
    bench.go_to_station("run")
    page = bench.pages["run"]
    found = [
        item
        for item in bench.press_watch.all_findings(bench.session.job, bench.desk.plan)
        if item.code == "press-too-hot"
    ]
    assert len(found) == 1
    assert bench.rail.buttons["run"].state == "stop"
    assert any(line.heat.isVisibleTo(page.own_table) for line in page.own_table.steps)
    bench.findings.fix.emit(found[0])
    settle()
    assert bench.session.job.settings.at_press.temperature_c == 150
    assert page.heat.text() == "150 °C"
    assert not any(line.heat.isVisibleTo(page.own_table) for line in page.own_table.steps)
    assert bench.rail.buttons["run"].state != "stop"
    bench.session.undo()
    assert bench.session.job.settings.at_press.temperature_c == 0


def test_units_are_kept_everywhere(run_page, marble, settle, qtbot):
    chips = " ".join(line.figures.text() for line in run_page.own_table.steps)
    assert "160 °C" in chips
    run_page.heat_unit.button_for("f").click()
    run_page.pressure_unit.button_for("bar").click()
    chips = " ".join(line.figures.text() for line in run_page.own_table.steps)
    assert "320 °F" in chips
    assert "bar" in chips
    run_page.heat.setFocus()
    run_page.heat.selectAll()
    qtbot.keyClicks(run_page.heat, "300")
    qtbot.keyClick(run_page.heat, Qt.Key.Key_Return)
    assert marble.session.job.settings.at_press.temperature_c == pytest.approx(148.9, abs=0.05)
    run_page.heat.selectAll()
    qtbot.keyClicks(run_page.heat, "150 °C")
    qtbot.keyClick(run_page.heat, Qt.Key.Key_Return)
    assert marble.session.job.settings.at_press.temperature_c == 150
    run_page.heat.selectAll()
    qtbot.keyClick(run_page.heat, Qt.Key.Key_Delete)
    qtbot.keyClick(run_page.heat, Qt.Key.Key_Return)
    assert marble.session.job.settings.at_press.temperature_c == 0
    assert load_preferences().fahrenheit
    assert load_preferences().bar


def test_measured_use_is_kept_and_the_roll_counted_down(bench, settle, qtbot):
    bench.files.open_demo("tag")
    settle()
    bench.session.open(replace(bench.session.job, profile=profiles.shipped("film")), None)
    settle()
    shop.keep_media(tuple(replace(item, left_mm=5000.0) if item.name == "roll-600" else item for item in shop.media()))
    bench.go_to_station("run")
    page = bench.pages["run"]
    page.begin()
    page.counting.count_good(10)
    uid, each = page.run().uid, page.run().entry.planned.figure("used:film:m2")
    page.counting.finish()
    settle()
    width = next(item.width_mm for item in shop.media() if item.name == "roll-600")
    left = next(item.left_mm for item in shop.media() if item.name == "roll-600")
    assert left == pytest.approx(5000 - 1e6 * 10 * each / width, abs=0.1)
    assert "m of film are left" in bench.problem.text()
    bench.go_to_station("run")
    page.begin()
    page.counting.material.setCurrentIndex(page.counting.material.findData("film:m2"))
    page.counting.using.head.click()
    qtbot.keyClicks(page.counting.amount, "0.6")
    qtbot.keyClick(page.counting.amount, Qt.Key.Key_Return)
    assert "film 0.6 m²" in page.counting.using.head.text()
    second = page.run().uid
    page.counting.finish()
    as_soon_as(lambda: bench.log.keeper.waiting() == 0)
    assert next(item.left_mm for item in shop.media() if item.name == "roll-600") == pytest.approx(left - 1000, abs=0.1)
    book = bench.log.keeper.book()
    assert book.page(second).entry.happened.used == (("film:m2", 0.6),)
    assert book.page(uid).entry.happened.used == ()


def test_nothing_planned_begins_no_run(bench):
    bench.go_to_station("run")
    bench.actions_.by_key["end-run"].trigger()
    bench.actions_.by_key["spoiled"].trigger()
    bench.pages["run"].do("good")
    assert bench.log.runs.all() == ()


def test_a_direct_prints_cure_is_set_where_it_is_shown(bench, settle, qtbot):
    bench.session.open(replace(demo_job("tag"), profile=profiles.shipped("direct")), None)
    settle()
    bench.go_to_station("run")
    page = bench.pages["run"]
    assert page.heat.text() == "177 °C"
    page.heat.setFocus()
    page.heat.selectAll()
    qtbot.keyClicks(page.heat, "155")
    qtbot.keyClick(page.heat, Qt.Key.Key_Return)
    assert "155 °C" in " ".join(line.figures.text() for line in page.own_table.steps)
    bench.session.open(demo_job("ferry"), None)
    settle()
    assert not page.press_field.isVisibleTo(page), "a decal is not pressed"
