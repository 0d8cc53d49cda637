"""Gang, split and parts in the middle of a change, and after Stop: nothing old is handed out, one can begin again."""

import time
from dataclasses import replace

import pytest
from tests.conftest import coarse
from tests.ui.patience import as_soon_as, until_rest
from tests.ui.test_sheet_station import poster

from swaddon.session import edits
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


def test_a_gang_of_before_is_neither_used_nor_written(bench, gang, tmp_path):
    """The page is not told of white before its plan is there: the sheet of before could be used until then."""
    old = gang.plan
    bench.session.apply(edits.set_white("White", mode="need"))
    gang.use()
    gang.write_to(tmp_path / "sheets")
    assert bench.session.job.settings.sheet_share is None
    until_rest(bench, bench.deck.sheets)
    assert not (tmp_path / "sheets").exists()
    assert gang.is_current
    assert gang.plan is not old


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


@pytest.fixture
def split(bench: Bench, settle, tmp_path):
    """A poster of 33 cm in two parts on A4."""
    bench.files.drop(poster(tmp_path))
    settle()
    bench.apply(edits.set_width(330.0))
    bench.apply(change_sheet(medium="film-a4"))
    bench.go_to_station("sheet")
    bench.pages["sheet"].show_part("split")
    until_rest(bench, bench.deck.sheets)
    return bench.pages["sheet"].split


CHANGES = {
    "joint": change_sheet(None, overlap_mm=4.0),
    "medium": change_sheet(None, medium="film-a3"),
    "width": edits.set_width(300.0),
    "white": edits.set_white("White", mode="none"),
}


@pytest.mark.parametrize("change", CHANGES)
def test_a_split_of_before_is_neither_used_nor_written(bench, split, tmp_path, change):
    old = split.current
    assert old is not None
    bench.session.apply(CHANGES[change])
    split.write_to(tmp_path / "parts")
    split.use()
    assert not (tmp_path / "parts").exists()
    assert bench.session.job.settings.sheet_share is None
    assert "looked for" in bench.problem.text()
    until_rest(bench, bench.deck.sheets)
    assert split.current is not None
    assert split.current is not old
    assert split.current.plan is bench.desk.plan


def test_a_seam_whose_search_was_stopped_is_looked_for_again(bench, split, monkeypatch):
    from swaddon.ui.stations.sheet import splitting

    cut = splitting.cut_plan

    def stopped_in_the_middle(plan, name, medium, rules, run, *rest):
        bench.mailbox.post(split.table.progress.stop.click)
        while True:
            run.check()
            time.sleep(0.01)

    monkeypatch.setattr(splitting, "cut_plan", stopped_in_the_middle)
    bench.session.apply(change_sheet(None, overlap_mm=3.0))
    as_soon_as(lambda: "Stopped before the seam was found" in split.table.facts.text())
    assert not split.sheet.write.isEnabled()
    monkeypatch.setattr(splitting, "cut_plan", cut)
    split.sheet.free.click()
    until_rest(bench, bench.deck.sheets)
    assert split.current.split.rules.overlap_mm == 3
    assert split.sheet.write.isEnabled()


def test_a_sheet_given_up_for_another_part_of_the_station_is_laid_when_one_looks_again(bench, gang):
    page = bench.pages["sheet"]
    bench.session.apply(change_sheet(None, spacing_mm=11.0))
    as_soon_as(lambda: not bench.deck.sheets.is_idle)
    page.show_part("split")
    until_rest(bench, bench.deck.sheets)
    page.show_part("gang")
    until_rest(bench, bench.deck.sheets)
    assert gang.is_current
    assert gang.plan.gang.rules.spacing_mm == 11


def test_prints_found_at_another_gap_or_size_are_not_taken_out(bench, split):
    page = bench.pages["sheet"]
    page.show_part("parts")
    parts = page.parts
    parts.look()
    until_rest(bench, bench.deck.sheets)
    assert parts.take.isEnabled()
    parts.gap.moved.emit(12.0)
    assert not parts.take.isEnabled()
    assert "press Find prints again" in parts.told.text()
    parts.gap.moved.emit(3.0)
    assert parts.take.isEnabled()
    bench.session.apply(edits.set_width(200.0))
    parts.take_out()
    until_rest(bench, bench.deck.sheets)
    assert len(page._context.jobs_by_uid()) == 1
    parts.look()
    bench.session.apply(edits.set_width(240.0))
    until_rest(bench, bench.deck.sheets)
    assert not parts.take.isEnabled(), "what was found of the width of before came late"
