"""Scales: lines of text in many dialects, a serial line, a simulated scale with faults, and a stopwatch."""

import os
import pty
import threading
from collections.abc import Iterator
from contextlib import contextmanager, suppress

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from swaddon.core.errors import PlanError
from swaddon.core.shop.weighing import Print
from swaddon.devices.scale import ScaleFaults, SimulatedScale, TextScale, Weight, settled, weight_of
from swaddon.devices.stopwatch import Stopwatch
from swaddon.devices.weighed import HiddenPress
from swaddon.io import profiles

FILM = profiles.shipped("film")


@pytest.mark.parametrize(
    ("line", "grams", "steady"),
    [
        ("ST,GS,+   12.34 g", 12.34, True),
        ("US,NT,-0.0021kg", -2.1, False),
        ("   152.07 g\r\n", 152.07, True),
        ("12,34 g", 12.34, True),
        ("S S     100.00 g", 100.0, True),
        ("S D     100.02 g", 100.02, True),
        ("+ 0003.20 g ?", 3.2, False),
        ("G   1.5 oz", 42.524285, True),
        ("2 lb", 907.18474, True),
        ("− 0.04 g", -0.04, True),
        ("N +  0 g", 0.0, True),
        ("7.5", 7.5, True),
    ],
)  # fmt: skip
def test_lines_of_many_scales_are_understood(line, grams, steady):
    """Dialects as scales commonly send them (common practice, no source); ounce and pound of 1959, exact."""
    found = weight_of(line)
    assert found.grams == pytest.approx(grams, abs=1e-6)
    assert found.is_steady is steady


@given(st.text(max_size=400))
def test_no_text_does_more_than_be_refused(text):
    with suppress(ValueError):
        assert np.isfinite(weight_of(text).grams)


def test_a_scale_on_a_serial_line_is_read_to_its_newest_whole_line():
    """A pseudo-terminal in the place of the cable."""
    ours, theirs = pty.openpty()
    scale = TextScale(os.ttyname(theirs), patience_s=3.0)
    try:
        os.write(ours, b"ST,GS, 10.00 g\r\nrubbish\r\nST,GS, 12.3")
        assert scale.read() == Weight(10.0)
        os.write(ours, b"4 g\r\n")
        assert scale.read() == Weight(12.34)
        with sending(ours, b"ST 5.00 g\n"):
            assert settled(scale, wait=lambda: None) == pytest.approx(5.0)
    finally:
        scale.close()
        os.close(ours)
        os.close(theirs)


@contextmanager
def sending(to: int, line: bytes) -> Iterator[None]:
    """A scale that goes on telling what lies on it."""
    ends = threading.Event()

    def send() -> None:
        while not ends.wait(0.005):
            os.write(to, line)

    sender = threading.Thread(target=send)
    sender.start()
    try:
        yield
    finally:
        ends.set()
        sender.join()


def test_a_scale_that_is_silent_or_not_there_is_told_in_one_sentence(tmp_path):
    with pytest.raises(PlanError, match=r"cannot be opened .*plugged in"):
        TextScale(tmp_path / "ttyUSB9")
    with pytest.raises(PlanError, match="baud is not read"):
        TextScale(tmp_path / "ttyUSB9", baud=12)
    ours, theirs = pty.openpty()
    scale = TextScale(os.ttyname(theirs), patience_s=0.05)
    with pytest.raises(PlanError, match="says nothing"):
        settled(scale)
    scale.close()
    os.close(ours)
    os.close(theirs)


class Clock:
    """A clock that is told what time it is."""

    def __init__(self) -> None:
        self.now = 0.0

    def __call__(self) -> float:
        return self.now


def test_a_good_simulated_scale_shows_what_lies_on_it():
    scale = SimulatedScale(1)
    for grams in (0.0, 3.21, 152.5):
        scale.lay(grams)
        assert settled(scale) == pytest.approx(grams, abs=0.02)


def test_a_drifting_scale_wanders_with_time_and_not_with_weight():
    clock = Clock()
    scale = SimulatedScale(1, ScaleFaults(drift_g_min=0.2), clock)
    scale.lay(10.0)
    first = settled(scale)
    clock.now = 600
    assert settled(scale) - first == pytest.approx(2.0, abs=0.05)


def test_in_a_draught_it_seldom_settles_and_says_so():
    scale = SimulatedScale(1, ScaleFaults(draught_g=5.0))
    scale.lay(10.0)
    with pytest.raises(PlanError, match="does not settle: keep draughts"):
        settled(scale)


def test_a_forgotten_tare_weighs_the_tray_once():
    scale = SimulatedScale(1, ScaleFaults(forgets_at=2, tray_g=9.0))
    shown = []
    for _ in range(3):
        scale.lay(10.0)
        shown.append(settled(scale))
    assert shown == pytest.approx([10, 19, 10], abs=0.03)


def test_a_hidden_press_is_the_same_for_its_number_and_another_for_another():
    of = Print({"W": 0.03, "C": 0.01, "M": 0.0, "Y": 0.0, "K": 0.0}, 0.03)
    one, again, other = HiddenPress(FILM, 4), HiddenPress(FILM, 4), HiddenPress(FILM, 5)
    assert one.truth == again.truth != other.truth
    assert one.gained_g("ink", of) == again.gained_g("ink", of) > 0
    assert one.blank_g(100, 100) == pytest.approx(105 * 0.0144, rel=0.03)
    assert HiddenPress(profiles.shipped("direct"), 1).blank_g(1, 1) == pytest.approx(152, rel=0.03)


def test_a_stopwatch_counts_while_it_runs():
    clock = Clock()
    watch = Stopwatch(clock)
    watch.start()
    clock.now = 3.0
    assert watch.runs
    assert watch.seconds == 3
    assert watch.stop() == 3
    clock.now = 9.0
    assert watch.seconds == 3
    watch.start()
    clock.now = 10.5
    assert watch.stop() == pytest.approx(4.5)
    watch.reset()
    assert watch.seconds == 0
