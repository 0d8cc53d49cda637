"""Every station under every way of white, and hands that try whatever they find."""

import os
import random
import threading
import time
from typing import get_args

import numpy as np
import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QGuiApplication, QImage
from PySide6.QtWidgets import (
    QAbstractButton,
    QAbstractSlider,
    QApplication,
    QFileDialog,
    QInputDialog,
    QLineEdit,
    QWidget,
)
from tests.icc_maker import cmyk_profile
from tests.ui.patience import until

from swaddon.core.white.settings import WhiteMode
from swaddon.io import profiles
from swaddon.io.icc import IccFile
from swaddon.session import edits
from swaddon.session.demo import DEMO_JOBS
from swaddon.ui.station_registry import STATIONS

TYPED = ("", "-1", "0.25 mm", "3 px", "1e9", "nan", "#ff0000", "wide", "50 %", "  ", "7", "0,3", "99999999999999999999")
PRESSES = profiles.shipped_names()
SOAK = int(os.environ.get("SWADDON_SOAK", "1"))
SEEDS = 1 if SOAK == 1 else 6
LEFT_ALONE = {"quit"}
"""Actions that end the bench; those that ask for a file are told none."""


@pytest.mark.parametrize("mode", get_args(WhiteMode))
def test_every_station_shows_every_way_of_white_with_that_way_as_yardstick(marble, settle, mode):
    marble.apply(edits.set_white("Change white", mode=mode))
    settle()
    marble.pin()
    for station in STATIONS:
        marble.go_to_station(station.key)
    settle()
    assert marble.desk.yardstick.request.settings.white.mode == mode
    marble.go_to_station("cost")
    text = marble.pages["cost"].sheet.yardstick.text()
    assert text.startswith("Yardstick: toner-onepass")
    assert ("choke" in text) is (mode not in ("none", "only"))


def test_a_press_with_highlight_white_shows_it_alone_and_another_takes_the_way_back(marble, settle):
    marble.go_to_station("inks")
    view_mode = marble.view_modes.button_for("highlight")
    assert view_mode.isHidden()
    marble.apply(edits.set_profile(profiles.shipped("direct-highlight")))
    settle()
    assert not view_mode.isHidden()
    rows = {cells[1].text().split(". ")[1]: cells[1] for cells in marble.pages["inks"].rows}
    next(button for title, button in rows.items() if "ighlight" in title).click()
    settle()
    assert marble.view_control.view_mode == "highlight"
    assert view_mode.isChecked()
    assert np.ptp(marble.table.grab().toImage().pixelColor(400, 300).getRgb()[:3]) == 0
    marble.apply(edits.set_profile(profiles.shipped("film")))
    settle()
    assert marble.view_control.view_mode == "white"
    assert view_mode.isHidden()


def test_pasting_an_empty_clipboard_says_so(marble, monkeypatch):
    class Empty:
        def mimeData(self):
            return None

        def image(self):
            return QImage()

    monkeypatch.setattr(QGuiApplication, "clipboard", Empty)
    marble.files.paste()
    assert "no picture on the clipboard" in marble.problem.text()


def press(bench, qtbot, chance: random.Random) -> None:
    """Use one control that is in sight on the open station's sheet."""
    controls = [
        control
        for control in bench.pages[bench.station].findChildren(QWidget)
        if isinstance(control, QAbstractButton | QLineEdit | QAbstractSlider)
        and control.isVisible()
        and control.isEnabled()
    ]
    if not controls:
        return
    control = chance.choice(controls)
    if isinstance(control, QLineEdit):
        control.setFocus()
        control.selectAll()
        qtbot.keyClicks(control, chance.choice(TYPED))
        qtbot.keyClick(control, Qt.Key.Key_Return)
    elif isinstance(control, QAbstractSlider):
        control.setValue(chance.randint(control.minimum(), control.maximum()))
    else:
        control.click()


def click_somewhere(bench, qtbot, chance: random.Random) -> None:
    at = QPoint(chance.randrange(bench.table.width()), chance.randrange(bench.table.height()))
    qtbot.mouseClick(bench.table, Qt.MouseButton.LeftButton, pos=at)


def mend(bench, _qtbot, chance: random.Random) -> None:
    rows = [row for row in bench.findings.rows if row.finding.fix is not None and row.fix_button.isEnabled()]
    if rows:
        chance.choice(rows).fix_button.click()


def act(bench, _qtbot, chance: random.Random) -> None:
    bench.actions_.by_key[chance.choice(sorted(set(bench.actions_.by_key) - LEFT_ALONE))].trigger()


TRIES = {
    press: 14,
    click_somewhere: 3,
    mend: 2,
    act: 2,
    lambda bench, _qtbot, chance: bench.go_to_station(chance.choice(STATIONS).key): 4,
    lambda bench, _qtbot, chance: bench.see(
        chance.choice(("cloth", "artwork", "white", "C", "footprint", "trouble", "coverage", "inks:CW", "one-tone"))
    ): 2,
    lambda bench, _qtbot, chance: chance.choice((bench.session.undo, bench.session.redo))(): 3,
    lambda bench, _qtbot, chance: bench.apply(edits.set_profile(profiles.shipped(chance.choice(PRESSES)))): 1,
    lambda bench, _qtbot, chance: bench.files.open_demo(chance.choice(DEMO_JOBS).key): 1,
}


def swap_slots(bench, _qtbot, chance: random.Random) -> None:
    if bench.session.job.file is not None:
        rack = bench.pages["inks"].lineup
        bench.go_to_station("inks")
        slots = bench.session.job.press.slot_count
        rack.rack.swapped.emit(chance.randrange(slots), chance.randrange(slots))


def draw(bench, qtbot, chance: random.Random) -> None:
    if bench.session.job.file is None:
        return
    bench.go_to_station(chance.choice(("knockout", "holes")))
    page = bench.pages[bench.station]
    (page.outlines.draw if bench.station == "knockout" else page.outline).click()
    pen = bench.picking.pen
    for _ in range(chance.randint(1, 5)):
        at = QPoint(chance.randrange(bench.table.width()), chance.randrange(bench.table.height()))
        qtbot.mouseClick(pen, Qt.MouseButton.LeftButton, pos=at)
    qtbot.keyClick(pen, chance.choice((Qt.Key.Key_Return, Qt.Key.Key_Escape, Qt.Key.Key_Backspace)))


def separate(bench, _qtbot, chance: random.Random) -> None:
    if bench.session.job.file is not None and bench.session.job.profile.has_black:
        bench.apply(edits.set_icc(chance.choice((None, IccFile("p.icc", cmyk_profile())))))


TRIES |= {swap_slots: 2, draw: 2, separate: 1}

ACTIONS = 150 if SOAK == 1 else 2000
STALL_S = 0.25
"""An action that takes more of the window's own processor time is counted as a stall, however loaded the machine."""


@pytest.mark.parametrize("seed", range(1, 1 + SEEDS))
def test_whatever_hands_try_nothing_breaks_and_undo_leads_back(
    marble, settle, qtbot, monkeypatch, record_property, seed
):
    """Exceptions and Qt warnings fail; stalls are counted; at the end nothing is half open, and no thread is left."""
    for asks in ("getOpenFileName", "getSaveFileName"):
        monkeypatch.setattr(QFileDialog, asks, staticmethod(lambda *_args, **_options: ("", "")))
    monkeypatch.setattr(QFileDialog, "getExistingDirectory", staticmethod(lambda *_args, **_options: ""))
    monkeypatch.setattr(QFileDialog, "getOpenFileNames", staticmethod(lambda *_args, **_options: ([], "")))
    monkeypatch.setattr(QInputDialog, "getText", staticmethod(lambda *_args, **_options: ("", False)))
    marble.files.ask_unsaved = lambda: "discard"
    chance, stalls = random.Random(seed), []
    for key in marble.pages:
        marble.pages[key]  # built before anything is counted
    threads, widgets = threading.active_count(), len(QApplication.allWidgets())
    for attempt in chance.choices(list(TRIES), list(TRIES.values()), k=ACTIONS):
        begun = time.thread_time()
        attempt(marble, qtbot, chance)
        QApplication.processEvents()
        took = time.thread_time() - begun
        if took > STALL_S:
            stalls.append(took)
        for window in QApplication.topLevelWidgets():
            if window is not marble and window.isVisible():
                window.close()
    if marble.desk.is_stopped:
        marble.desk.go_on()
    settle()
    assert not marble.progress.isVisible()
    job = marble.session.job
    assert job.file is None or marble.desk.plan.request.settings == job.request().settings
    while marble.session.undo_label is not None:
        marble.session.undo()
    settle()
    until(lambda: not any(thread.name.startswith("stages_") for thread in threading.enumerate()))
    assert threading.active_count() <= threads + 20, "threads start with their first work, each once"
    assert len(QApplication.allWidgets()) < widgets + 900
    text = f"{ACTIONS} actions, {len(stalls)} over {STALL_S} s, longest {max(stalls, default=0):.2f} s"
    record_property("stalls", text)
