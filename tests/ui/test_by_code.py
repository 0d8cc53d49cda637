"""The code on a run card opens its job: an open one, its file, or as the log book keeps it."""

from dataclasses import replace

import pytest
from PySide6.QtGui import QGuiApplication
from PySide6.QtWidgets import QInputDialog
from tests.ui.patience import until_rest

from swaddon.io.jobfile import SUFFIX
from swaddon.session.card_files import code_text
from swaddon.session.demo import demo_job
from swaddon.session.storage import save_job
from swaddon.ui.by_code import open_code
from swaddon.ui.wiring import open_start


@pytest.fixture
def waits(bench, settle):
    def wait() -> None:
        until_rest(bench, bench.log)

    return wait


def test_a_job_that_is_open_is_brought_to_the_bench_at_its_line(bench, settle, waits):
    club = demo_job("club")
    bench.session.open(club, None)
    settle()
    bench.files.add_jobs([demo_job("tag")])
    bench.files.tray.switch(1)
    open_code(bench, bench.files, code_text(club.turned_to(2), None))
    assert bench.session.job.name == club.name
    assert bench.session.job.at == 2
    assert bench.problem.text() == ""


def test_its_file_is_opened_with_its_line_at_hand(bench, settle, waits, tmp_path, monkeypatch):
    path = tmp_path / f"Club{SUFFIX}"
    club = demo_job("club")
    save_job(path, club)
    code = code_text(club.turned_to(1), path)
    monkeypatch.setattr(QInputDialog, "getText", lambda *_: (f" {code}\n", True))
    bench.actions_.by_key["by-code"].trigger()
    waits()
    assert bench.session.path == path
    assert bench.session.job.at == 1
    bench.files.new()
    open_start(bench, bench.files, code)
    waits()
    assert bench.session.path == path


def test_where_the_file_is_gone_the_log_book_has_it(marble, settle, waits):
    job = marble.session.job
    marble.go_to_station("run")
    marble.pages["run"].begin()
    marble.pages["run"].counting.finish()
    waits()
    marble.session.open(replace(demo_job("tag"), name="Another"), None)
    settle()
    QGuiApplication.clipboard().setText(code_text(job, None))
    marble.actions_.by_key["paste"].trigger()
    waits()
    assert marble.session.job.name == job.name
    assert marble.session.job.file.data == job.file.data


@pytest.mark.parametrize("text", ["hello", "swaddon:job?line=1&art=abcdef&order=Never+Seen&file=/none/x.swaddon"])
def test_a_code_that_leads_nowhere_is_told(bench, waits, text):
    open_code(bench, bench.files, text)
    waits()
    assert bench.problem.text().endswith(".")
    assert "Traceback" not in bench.problem.text()
