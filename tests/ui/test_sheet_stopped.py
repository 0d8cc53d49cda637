"""The sheet while another is laid, and after Stop: what is old is shown as old, and one can lay again."""

import time
from dataclasses import replace

import pytest
from tests.conftest import coarse
from tests.ui.patience import as_soon_as, until_rest

from swaddon.session.demo import demo_job
from swaddon.session.sheet_edits import change_sheet
from swaddon.session.sheets import SheetWork
from swaddon.ui.bench import Bench


@pytest.fixture
def gang(bench: Bench):
    job = demo_job("tag")
    bench.session.open(replace(job, profile=coarse("film"), settings=replace(job.settings, quantity=40)), None)
    bench.go_to_station("sheet")
    until_rest(bench, bench.deck.sheets)
    as_soon_as(lambda: bench.pages["sheet"].gang.is_current)
    return bench.pages["sheet"].gang


def test_what_was_stopped_can_be_laid_again(bench, gang, monkeypatch):
    laid = SheetWork.__init__

    def stopped_in_the_middle(self, *given):
        bench.mailbox.post(gang.table.progress.stop.click)
        while True:
            given[3]()
            time.sleep(0.01)

    monkeypatch.setattr(SheetWork, "__init__", stopped_in_the_middle)
    bench.session.apply(change_sheet(None, spacing_mm=17.0))
    as_soon_as(lambda: "Stopped before the prints were laid" in gang.table.facts.text())
    until_rest(bench, bench.deck.sheets)
    assert gang.table.film.is_old
    assert "the sheet as it was before" in gang.table.facts.text()
    assert not gang.sheet.use.isEnabled()
    assert gang.sheet.anew.isEnabled()
    monkeypatch.setattr(SheetWork, "__init__", laid)
    gang.sheet.anew.click()
    until_rest(bench, bench.deck.sheets)
    assert gang.is_current
    assert gang.plan.gang.rules.spacing_mm == 17
    assert not gang.table.film.is_old
    assert gang.sheet.use.isEnabled()


def test_an_old_sheet_is_shown_as_old_and_cannot_be_used_or_moved(bench, gang):
    old = gang.plan
    bench.session.apply(change_sheet(None, spacing_mm=21.0))
    as_soon_as(lambda: gang.table.film.is_old)
    assert gang.plan is old
    assert gang.table.film.is_old
    assert gang.table.film._hands_of() is None
    assert "Planning the prints" in gang.table.facts.text()
    assert gang.table.saved.text() == ""
    assert not gang.sheet.use.isEnabled()
    gang.use()
    assert bench.session.job.settings.sheet_share is None
    until_rest(bench, bench.deck.sheets)
    assert gang.is_current
    assert not gang.table.film.is_old
    bench.session.undo()
    bench.session.redo()
    assert gang.is_current, "the sheet of what is asked is there already"
