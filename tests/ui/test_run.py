"""The Run sheet: the steps of every process, each caution where it comes first."""

from dataclasses import replace

import pytest
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QFileDialog, QLabel

from swaddon.core.press.processes import PROCESSES
from swaddon.io import profiles
from swaddon.io.spot_pdf import colorants
from swaddon.session.demo import demo_job
from swaddon.session.job import Job
from swaddon.ui.stations.order import model as order
from swaddon.ui.stations.run.model import run_state


@pytest.mark.parametrize("key", PROCESSES)
def test_each_process_tells_its_steps_and_each_caution_once(key):
    state = run_state(Job(profile=profiles.shipped(key)))
    assert [step.text for step in state.steps] == [step.text for step in PROCESSES[key].steps]
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


def test_the_card_follows_the_press(bench, settle, qtbot):
    bench.session.open(replace(demo_job("tag"), profile=profiles.shipped("film")), None)
    settle()
    bench.go_to_station("run")
    qtbot.wait(10)
    page = bench.pages["run"]
    assert page.steps[0].text.text() == PROCESSES["film"].steps[0].text
    assert page.steps[1].caution.isVisibleTo(page)
    bench.apply(order.press_edit("direct"))
    settle()
    assert [line.text.text() for line in page.steps] == [step.text for step in PROCESSES["direct"].steps]


def test_what_is_handed_over_is_chosen_named_and_told(bench, settle, qtbot, tmp_path, monkeypatch):
    bench.session.open(replace(demo_job("tag"), profile=profiles.shipped("film")), None)
    settle()
    bench.go_to_station("run")
    page = bench.pages["run"]
    assert not page.colour.isVisibleTo(page)
    page.kind.button_for("pdf").click()
    settle()
    assert page.colour.isVisibleTo(page)
    page.name.setFocus()
    page.name.selectAll()
    qtbot.keyClicks(page.name, "Spot 9")
    qtbot.keyClick(page.name, Qt.Key.Key_Return)
    settle()
    assert bench.session.job.settings.handover.white_name == "Spot 9"
    told = " ".join(part.text() for part in page.findChildren(QLabel) if part.isVisibleTo(page))
    assert "print-mirrored.pdf" in told
    assert "Spot 9" in told
    monkeypatch.setattr(QFileDialog, "getExistingDirectory", lambda *_: str(tmp_path / "out"))
    page.export.click()
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
