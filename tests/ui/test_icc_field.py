"""The separation on the Inks sheet: built in or by a profile, both side by side, a wrong one told."""

import pytest
from PIL import ImageCms
from PySide6.QtWidgets import QLabel
from tests.icc_maker import cmyk_profile
from tests.ui.patience import take_events

from swaddon.ui.widgets import Popover


@pytest.fixture
def inks(bench, settle, tmp_path):
    bench.files.open_demo("marble")
    settle()
    bench.go_to_station("inks")
    take_events()
    (tmp_path / "press.icc").write_bytes(cmyk_profile("Attic press, black cotton"))
    (tmp_path / "screen.icc").write_bytes(ImageCms.ImageCmsProfile(ImageCms.createProfile("sRGB")).tobytes())
    return bench.pages["inks"]


def test_a_profile_separates_and_undo_takes_it_back(bench, inks, settle, tmp_path):
    before = bench.desk.plan.cmyk
    inks.separation.open(tmp_path / "press.icc")
    settle()
    after = bench.desk.plan.cmyk
    assert (before != after).any()
    assert "Attic press, black cotton" in inks.separation.field.effect
    assert inks.separation.intent.isVisibleTo(inks)
    assert not inks.gamut.isEnabled()
    inks.separation.intent.button_for("perceptual").click()
    settle()
    assert bench.session.job.settings.icc.intent == "perceptual"
    assert "photographs" in inks.separation.field.effect
    bench.session.undo()
    bench.session.undo()
    settle()
    assert (bench.desk.plan.cmyk == before).all()
    assert not inks.separation.intent.isVisibleTo(inks)


def test_both_stand_side_by_side(bench, inks, settle, tmp_path):
    inks.separation.open(tmp_path / "press.icc")
    settle()
    inks.separation.both.click()
    (popup,) = (window for window in bench.findChildren(Popover) if window.isVisible())
    told = [part.text() for part in popup.findChildren(QLabel)]
    assert told.count("Built in") == 1
    assert sum(text.startswith("ΔE") for text in told) == 2 * len(bench.desk.plan.advice.colours[:8])
    popup.close()


def test_a_wrong_profile_is_told_and_changes_nothing(bench, inks, tmp_path):
    job = bench.session.job
    inks.separation.open(tmp_path / "screen.icc")
    assert "RGB display profile" in bench.problem.text()
    inks.separation.open(tmp_path / "none.icc")
    assert "cannot be read" in bench.problem.text()
    assert bench.session.job is job
