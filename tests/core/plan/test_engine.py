"""The runner of stages: what it runs, keeps and lets go."""

import threading
from dataclasses import dataclass

import numpy as np
import pytest

from swaddon.core.engine import (
    MISSING,
    Cache,
    Run,
    Stage,
    Superseded,
    key_of,
    needed_by,
    of,
    run_stages,
    stage,
    stage_keys,
)
from swaddon.core.errors import PlanError

RAN: list[str] = []


@dataclass(frozen=True)
class Request:
    x: int = 0
    y: int = 0


@dataclass(frozen=True)
class X:
    x: int


@dataclass(frozen=True)
class Y:
    x: int = of("y")


def made(name: str, *needs: str, settings: type = X, version: int = 1) -> Stage:
    def run(**given: object) -> np.ndarray:
        RAN.append(name)
        return np.full(4, sum(int(given[need][0]) for need in needs) + given["settings"].x)  # type: ignore[index,attr-defined]

    return Stage(name, version, name.title(), needs, settings, False, run)


STAGES = (made("a"), made("b", "a"), made("c", "a", settings=Y), made("d", "b", "c"), made("e", "d"))


@pytest.fixture(autouse=True)
def _forget() -> None:
    RAN.clear()


def test_only_what_a_wanted_stage_hangs_on_is_run():
    assert [item.name for item in needed_by(STAGES, ("c",), frozenset())] == ["a", "c"]
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
    newer = (made("a", version=2), *STAGES[1:])
    before, after = (stage_keys(stages, Request(1, 2)) for stages in (STAGES, newer))
    assert all(before[name] != after[name] for name in before)


def test_progress_names_each_stage_and_ends_at_one():
    text = []
    run_stages(STAGES, Request(1, 2), Run(Cache(), progress=lambda title, share: text.append((title, share))))
    assert [title for title, _ in text] == ["A", "B", "C", "D", "E", ""]
    shares = [share for _, share in text]
    assert shares == sorted(shares)
    assert shares[-1] == 1.0


def test_a_by_product_is_computed_once():
    run, computed = Run(Cache()), []
    for _ in range(3):
        run.memo(("thing", 1), lambda: computed.append(1) or np.zeros(3))
    assert computed == [1]
    assert key_of("thing", 1) != key_of("thing", 2)


def test_two_stages_that_do_not_need_each_other_run_at_once():
    meet = threading.Barrier(2, timeout=30)

    def run():
        return np.full(1, meet.wait() >= 0)

    pair = tuple(Stage(name, 1, "", (), None, False, run) for name in "ab")
    assert set(run_stages(pair, Request(), Run(Cache())).values) == {"a", "b"}


def test_what_a_stage_raises_comes_out_and_nothing_starts_after_it():
    def bad():
        raise PlanError("Too wide; choose less.")

    stages = (stage(bad, 1), made("late", "bad"))
    with pytest.raises(PlanError, match="choose less"):
        run_stages(stages, Request(1), Run(Cache()))
    assert RAN == []


def test_a_run_that_nobody_waits_for_stops_between_stages():
    with pytest.raises(Superseded):
        run_stages(STAGES, Request(1, 2), Run(Cache(), is_wanted=lambda: len(RAN) < 2))
    assert len(RAN) < len(STAGES)


def test_the_signature_of_a_function_tells_what_its_stage_needs():
    def sum_of(one: int, two: int, settings: X, run: Run) -> int:
        run.check()
        return one + two + settings.x

    item = stage(sum_of, 3, "Adding")
    assert (item.name, item.needs, item.settings, item.asks_run) == ("sum_of", ("one", "two"), X, True)
    assert item.result(Request(4), {"one": 1, "two": 2, "more": 9}, Run(Cache())) == 7


def test_arrays_that_results_share_count_once_and_go_with_the_last_of_them():
    cache, shared = Cache(limit_bytes=1000), np.zeros(400, np.uint8)
    cache.put("one", (shared, 1))
    cache.put("two", (shared, 2))
    assert cache.size_bytes == 400
    cache.put("three", np.zeros(500, np.uint8))
    assert cache.size_bytes == 900
    cache.put("four", np.zeros(500, np.uint8))
    assert cache.get("one") is MISSING
    assert cache.get("two") is MISSING
    assert cache.size_bytes == 1000
    assert not shared.flags.writeable


def test_arrays_and_mappings_count_by_what_they_hold():
    assert key_of(np.arange(3)) == key_of(np.arange(3)) != key_of(np.arange(3.0))
    assert key_of({"a": 1, "b": 2}) == key_of({"b": 2, "a": 1})
    assert key_of(X(1)) != key_of(Y(1))
    assert key_of(np.arange(5000)) != key_of(np.where(np.arange(5000) == 2500, 0, np.arange(5000)))


def test_what_a_stage_passes_on_leaves_no_mark_on_what_hangs_on_it():
    """A stage that hands on what it got, or gives nothing, makes no other result of the stages behind it."""
    ran: list[str] = []

    def base(settings: X) -> np.ndarray:
        return np.full(4, settings.x)

    def perhaps(base: np.ndarray, settings: Y) -> np.ndarray:
        ran.append("perhaps")
        return base if settings.x < 5 else base + settings.x

    def nothing(settings: Y) -> None:
        ran.append("nothing")

    def last(perhaps: np.ndarray, nothing: None) -> int:
        ran.append("last")
        return int(perhaps.sum())

    chain = tuple(stage(function, 1) for function in (base, perhaps, nothing, last))
    cache = Cache()
    found = [run_stages(chain, Request(1, y), Run(cache)).values["last"] for y in (0, 1, 2, 7, 7, 3)]
    assert found == [4, 4, 4, 32, 32, 4]
    assert ran.count("perhaps") == 5
    assert ran.count("last") == 2
    fresh = [run_stages(chain, Request(1, y), Run(Cache())).values["last"] for y in (0, 1, 2, 7, 7, 3)]
    assert fresh == found
