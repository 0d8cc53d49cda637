"""Reading at the bench: a file that asks for too much is shown, stopped, left out, or read when it is trusted."""

from pathlib import Path

import pytest
from PySide6.QtWidgets import QMessageBox
from tests.ui.patience import until

from swaddon.io import apart

BLUR = '<feGaussianBlur stdDeviation="50"/>'


@pytest.fixture
def heavy(tmp_path, monkeypatch) -> Path:
    """A drawing of some two seconds, where one is allowed."""
    monkeypatch.setattr(apart, "MOST_CPU_S", 1.0)
    path = tmp_path / "heavy.svg"
    path.write_text(
        '<svg xmlns="http://www.w3.org/2000/svg" width="80mm" height="80mm" viewBox="0 0 9 9"><filter id="f">'
        f'{BLUR * 6}</filter><rect width="9" height="9" fill="red" filter="url(#f)"/></svg>'
    )
    yield path
    apart.renew()


def test_a_file_that_takes_too_much_is_left_out_or_trusted(bench, heavy, settle, monkeypatch):
    asked = []

    def left_out(box: QMessageBox) -> int:
        asked.append(box.text())
        box.defaultButton().click()
        return 0

    monkeypatch.setattr(QMessageBox, "exec", left_out)
    bench.files.load_artwork(heavy)
    until(lambda: asked)
    settle()
    assert asked[0].startswith("“heavy.svg” takes more than 1 s of computing")
    assert bench.session.job.file is None
    assert "takes more than" in bench.problem.text()

    def trusted(box: QMessageBox) -> int:
        next(made for made in box.buttons() if made.text() == "Read it all the same").click()
        return 0

    monkeypatch.setattr(QMessageBox, "exec", trusted)
    bench.files.load_artwork(heavy)
    until(lambda: bench.session.job.file is not None)
    assert bench.session.job.file.artwork.file_name == "heavy.svg"
    settle()


def test_the_bench_closes_in_the_middle_of_it(bench, heavy, monkeypatch):
    """It does not wait until the drawing is drawn: nobody will see it."""
    monkeypatch.setattr(apart, "MOST_CPU_S", 30.0)
    read = []
    monkeypatch.setattr(apart, "_taken", lambda *_: read.append(1))
    bench.files.load_artwork(heavy)
    until(bench.progress.isVisible)
    bench.files.ask_unsaved = lambda: "discard"
    bench.close()
    assert not read


def test_it_is_shown_and_can_be_stopped(bench, heavy, settle, monkeypatch):
    monkeypatch.setattr(apart, "MOST_CPU_S", 30.0)
    monkeypatch.setattr(apart, "_SHOWN_AFTER_S", 0.1)
    told = []
    bench.desk.progressed.connect(lambda title, _share: told.append(title))
    bench.files.load_artwork(heavy)
    until(lambda: any(title.startswith("Reading “heavy.svg”") for title in told))
    bench.progress.stop.click()
    until(lambda: told and told[-1] == "")
    assert bench.session.job.file is None
    settle()
