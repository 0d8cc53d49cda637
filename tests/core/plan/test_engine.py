"""The runner of stages: what it runs, keeps and lets go."""

import threading
from dataclasses import dataclass

import numpy as np
import pytest

from swaddon.core.engine import Cache, Run, Stage, Superseded, key_of, needed_by, run_stages, stage_keys
from swaddon.core.errors import PlanError

RAN: list[str] = []


@dataclass(frozen=True)
class Request:
    x: int = 0
    y: int = 0


def stage(name: str, *needs: str, setting: str = "x") -> Stage:
    def run(request, done, _run):
        RAN.append(name)
        return np.full(4, sum(int(done[need][0]) for need in needs) + getattr(request, setting))

    return Stage(name, 1, needs, (setting,), run, name.title())


STAGES = (stage("a"), stage("b", "a"), stage("c", "a", setting="y"), stage("d", "b", "c"), stage("e", "d"))


@pytest.fixture(autouse=True)
def _forget() -> None:
    RAN.clear()


def test_only_what_a_wanted_stage_hangs_on_is_run():
    assert [item.name for item in needed_by(STAGES, ("c",))] == ["a", "c"]
    values = run_stages(STAGES, Request(1, 2), Run(Cache()), until=("c",)).values
    assert RAN == ["a", "c"]
    assert set(values) == {"a", "c"}


def test_a_changed_setting_reruns_its_stage_and_what_hangs_on_it():
    cache = Cache()
    run_stages(STAGES, Request(1, 2), Run(cache))
    RAN.clear()
    run_stages(STAGES, Request(1, 3), Run(cache))
    assert RAN == ["c", "d", "e"]


def test_spare_results_go_after_their_last_use_and_the_rest_is_the_same():
    whole = run_stages(STAGES, Request(1, 2), Run(Cache())).values
    lean = run_stages(STAGES, Request(1, 2), Run(Cache()), spare=frozenset({"a", "b", "c"})).values
    assert set(lean) == {"d", "e"}
    np.testing.assert_array_equal(lean["e"], whole["e"])


def test_a_new_version_of_a_stage_is_another_result():
    newer = (Stage("a", 2, (), STAGES[0].reads, STAGES[0].run), *STAGES[1:])
    before, after = (stage_keys(stages, Request(1, 2)) for stages in (STAGES, newer))
    assert all(before[name] != after[name] for name in before)


def test_progress_names_each_stage_and_ends_at_one():
    told = []
    run_stages(STAGES, Request(1, 2), Run(Cache(), progress=lambda title, share: told.append((title, share))))
    assert [title for title, _ in told] == ["A", "B", "C", "D", "E", ""]
    shares = [share for _, share in told]
    assert shares == sorted(shares)
    assert shares[-1] == 1.0


def test_a_by_product_is_computed_once():
    run, made = Run(Cache()), []
    for _ in range(3):
        run.memo(("thing", 1), lambda: made.append(1) or np.zeros(3))
    assert made == [1]
    assert key_of("thing", 1) != key_of("thing", 2)


def test_two_stages_that_do_not_need_each_other_run_at_once():
    meet = threading.Barrier(2, timeout=30)

    def run(_request, _done, _run):
        return np.full(1, meet.wait() >= 0)

    pair = tuple(Stage(name, 1, (), (), run) for name in "ab")
    assert set(run_stages(pair, Request(), Run(Cache())).values) == {"a", "b"}


def test_what_a_stage_raises_comes_out_and_nothing_starts_after_it():
    def fail(_request, _done, _run):
        raise PlanError("Too wide; choose less.")

    stages = (Stage("bad", 1, (), (), fail), stage("late", "bad"))
    with pytest.raises(PlanError, match="choose less"):
        run_stages(stages, Request(1), Run(Cache()))
    assert RAN == []


def test_a_run_that_nobody_waits_for_stops_between_stages():
    with pytest.raises(Superseded):
        run_stages(STAGES, Request(1, 2), Run(Cache(), is_wanted=lambda: len(RAN) < 2))
    assert len(RAN) < len(STAGES)
