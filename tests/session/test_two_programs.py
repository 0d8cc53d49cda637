"""Two programs on one data folder, one that cannot be listed, damaged drafts: counts are kept, all is told."""

from collections import Counter
from pathlib import Path
from threading import Thread

import pytest
from tests.session.test_log_keeper import draft, keeper_at

from swaddon.core.log.query import Query
from swaddon.session.log_keeper import LogKeeper
from swaddon.session.runs import Runs
from swaddon.store.faults import StoreError


@pytest.fixture
def two(tmp_path: Path):
    """The runs of two programs; the first has begun one."""
    keepers = keeper_at(tmp_path), keeper_at(tmp_path)
    keepers[0].begin(draft(1), {})
    first, second = (Runs(keeper) for keeper in keepers)
    yield keepers, first, second
    for keeper in keepers:
        keeper.close()


def good_in_book(keeper: LogKeeper) -> int:
    keeper.deliver()
    return sum(item.entry.happened.good for item in keeper.book().find(Query()))


def test_what_is_counted_while_another_program_ends_the_run_is_kept(two):
    """The count vanished with the folder of the run."""
    (keeper, other), first, second = two
    (run,) = first.all()
    first.good(run.uid, 5)
    second.good(run.uid, 2)
    first.end(run.uid)
    keeper.deliver()
    second.good(run.uid, 3)
    assert "ended in another program" in second.problem
    assert "a run of its own" in second.problem
    (late,) = second.all()
    assert late.uid != run.uid
    assert late.record.good == 3
    second.end(late.uid)
    assert good_in_book(other) == 10


def test_what_is_counted_between_the_end_and_the_book_is_kept_too(two):
    (_, other), first, second = two
    (run,) = first.all()
    first.end(run.uid)
    second.good(run.uid, 4)
    (late,) = second.all()
    second.end(late.uid)
    assert good_in_book(other) == 4


def test_counts_of_two_programs_at_once_and_an_end_in_the_middle_lose_none(two):
    (_, other), first, second = two
    (run,) = first.all()

    def count(runs: Runs, ends: bool) -> None:
        for at in range(60):
            own = runs.all()
            if own:
                runs.good(own[0].uid)
            if ends and at == 30:
                runs.end(run.uid)
                runs._keeper.deliver()

    hands = [Thread(target=count, args=(first, True)), Thread(target=count, args=(second, False))]
    for hand in hands:
        hand.start()
    for hand in hands:
        hand.join()
    first.follow()
    for left in first.all():
        first.end(left.uid)
    assert good_in_book(other) >= 60 + 31, "all of the second, and of the first all up to its end"


def test_a_count_that_waited_for_room_while_another_ended_the_run_stops_no_delivery(two, monkeypatch):
    (keeper, other), first, second = two
    (run,) = first.all()

    def full(*_args: object) -> None:
        raise OSError(28, "No space left on device")

    with monkeypatch.context() as held:
        held.setattr(other.journal, "note", full)
        second.good(run.uid, 2)
    first.end(run.uid)
    assert keeper.deliver() == 1
    assert other.deliver() == 0


def test_a_disk_that_fails_for_a_moment_sets_no_run_aside(two, monkeypatch):
    (keeper, _), first, _ = two

    def fails(*_args: object) -> None:
        raise OSError(5, "Input/output error")

    with monkeypatch.context() as held:
        held.setattr(keeper.journal, "kept", fails)
        assert keeper.open_runs() == ()
    assert len(keeper.open_runs()) == 1


def test_a_run_that_another_program_begins_counts_or_ends_is_seen(two):
    (keeper, _), first, second = two
    heard = Counter()
    second.changed.connect(lambda: heard.update(["changed"]))
    second.follow()
    assert not heard
    keeper.begin(draft(2), {})
    second.follow()
    assert len(second.all()) == 2
    first.follow()
    first.good(first.all()[0].uid, 7)
    second.follow()
    assert 7 in [run.record.good for run in second.all()]
    first.end(first.all()[0].uid)
    second.follow()
    assert len(second.all()) == 1
    assert heard["changed"] == 3


def test_a_folder_that_cannot_be_listed_is_told_and_the_bench_starts(tmp_path, monkeypatch):
    keeper = keeper_at(tmp_path)

    def refused(*_args: object) -> None:
        raise PermissionError(13, "Permission denied")

    with monkeypatch.context() as held:
        held.setattr(Path, "iterdir", refused)
        runs = Runs(keeper)
        assert runs.all() == ()
        assert "cannot be read (permission denied)" in runs.problem
        with pytest.raises(StoreError, match="cannot be read"):
            keeper.deliver()
        told = runs.problem
        runs.follow()
        assert runs.problem == told
    keeper.begin(draft(1), {})
    runs.follow()
    assert runs.problem == ""
    assert len(runs.all()) == 1
    keeper.close()


@pytest.mark.parametrize("damage", [b"{rubbish", b"", b"\xff\xfe\0", b'{"schema": "x"}'])
def test_a_damaged_draft_is_told_set_aside_and_holds_nothing_up(tmp_path, damage):
    keeper = keeper_at(tmp_path)
    for number in (1, 2):
        keeper.begin(draft(number), {"aa": ("image/png", b"picture")})
    spoiled, whole = draft(1).uid, draft(2).uid
    (tmp_path / "journal" / spoiled / "draft.json").write_bytes(damage)
    runs = Runs(keeper)
    assert [run.uid for run in runs.all()] == [whole]
    runs.good(whole, 2)
    runs.end(whole)
    with pytest.raises(StoreError, match="set aside as") as told:
        keeper.deliver()
    aside = tmp_path / "journal" / f".damaged-{spoiled}"
    assert str(aside) in str(told.value)
    assert (aside / "draft.json").read_bytes() == damage
    assert (aside / "aa.blob").exists()
    assert good_in_book(keeper) == 2
    assert keeper.deliver() == 0
    keeper.close()
