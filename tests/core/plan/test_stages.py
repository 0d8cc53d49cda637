"""Stages get only what their keys are made of, and warm results are those of a fresh plan."""

import os
from dataclasses import dataclass, fields, is_dataclass, replace
from typing import get_type_hints

import numpy as np
import pytest
from tests import kept
from tests.conftest import artwork
from tests.settings_at_random import ICC, other_value, paths, picture, presses, settings, variation

from swaddon.core.engine import Cache, Results, Run, Stage, run_stages, stage, stage_keys
from swaddon.core.errors import PlanError
from swaddon.core.holes.screen import TileArt
from swaddon.core.order.request import PlanRequest
from swaddon.core.order.settings import PlanSettings
from swaddon.core.plan.stages import STAGES
from swaddon.core.press.profile import PressProfile
from swaddon.core.white.settings import WhiteSettings
from swaddon.io import profiles
from swaddon.session.job import request_for

ROUNDS = int(os.environ.get("SWADDON_SOAK", "1"))


FILM = profiles.shipped("film")
WARM = Cache(500_000_000)


def request(chosen: PlanSettings, press: PressProfile = FILM, seed: int = 5, **other: object) -> PlanRequest:
    return replace(request_for(artwork(picture(seed)), chosen, press, icc=ICC), **other)  # type: ignore[arg-type]


def alike(one: object, other: object) -> bool:
    """Whether two results hold the same values."""
    if isinstance(one, np.ndarray):
        return isinstance(other, np.ndarray) and np.array_equal(one, other)
    if isinstance(one, dict) and isinstance(other, dict):
        return one.keys() == other.keys() and all(alike(one[key], other[key]) for key in one)
    if isinstance(one, tuple | list):
        return len(one) == len(other) and all(map(alike, one, other))  # type: ignore[arg-type]
    if is_dataclass(one):
        return type(one) is type(other) and all(
            alike(getattr(one, item.name), getattr(other, item.name)) for item in fields(one)
        )
    return bool(one == other)


def results(wanted: PlanRequest, cache: Cache) -> dict[str, object] | str:
    try:
        return dict(run_stages(STAGES, wanted, Run(cache)).values)
    except PlanError as error:
        return str(error)


def changes(before: PlanRequest, after: PlanRequest) -> int:
    """How many stages have another key."""
    one, other = (stage_keys(STAGES, wanted) for wanted in (before, after))
    return sum(one[name] != other[name] for name in one)


def held_against_fresh(before: PlanRequest, after: PlanRequest) -> None:
    """Plan one job, then another in the same cache, after all others; every stage must give what a fresh one gives."""
    assert changes(before, after) > 0, "nothing is tried: no stage looks at what was changed"
    results(before, WARM)
    warm, fresh = results(after, WARM), results(after, Cache())
    if isinstance(fresh, str):
        assert warm == fresh
        return
    stale = [name for name in fresh if not alike(warm[name], fresh[name])]
    assert not stale, (stale, before.settings, after.settings)


@pytest.mark.parametrize("seed", range(9 * ROUNDS))
def test_warm_results_are_fresh_ones_whatever_changed(compiled, seed):
    """A few settings changed as on the bench, now and then the press or the artwork."""
    rng = np.random.default_rng(seed)
    all_presses = presses()
    press = all_presses[seed % len(all_presses)]
    before = request(settings(rng, press), press)
    after = replace(before, settings=variation(rng, before.settings, press))
    if seed % 3 == 0:
        after = request(after.settings, all_presses[int(rng.integers(len(all_presses)))], seed=5 + seed % 2)
    assert (before.settings, before.press) != (after.settings, after.press)
    held_against_fresh(before, after)


@pytest.mark.parametrize("path", list(paths()))
def test_each_setting_alone_leaves_nothing_stale(compiled, path):
    """Of a few draws the one in which this setting counts for most: an allowed shift does nothing to solid white."""
    tried = []
    for seed in range(6):
        rng = np.random.default_rng(seed)
        before = request(settings(rng))
        after = replace(before, settings=other_value(rng, before.settings, path))
        assert before.settings != after.settings
        tried.append((changes(before, after), seed, before, after))
    before, after = max(tried, key=lambda item: item[:2])[2:]
    held_against_fresh(before, after)


def test_a_setting_that_is_drawn_anew_is_another_and_no_path_is_left_out():
    """The test of each setting once compared nine of nineteen settings with themselves."""
    rng = np.random.default_rng(1)
    before = settings(rng)
    for path in paths():
        assert other_value(rng, before, path) != before, path
    assert {path.split(".")[0] for path in paths()} == set(PlanSettings.__dataclass_fields__)
    assert {"white.most", "holes.give_back_limit", "icc", "lineup", "sheet_share", "handover.kind"} <= set(paths())


def test_most_that_is_drawn_can_be_planned(compiled):
    """Settings that are refused would hold a sentence against the same sentence, and find nothing."""
    drawn = [request(settings(np.random.default_rng(seed))) for seed in range(8)]
    refused = [said for wanted in drawn if isinstance(said := results(wanted, kept.plans()), str)]
    assert len(refused) <= 2, refused


@pytest.mark.parametrize(("one", "other"), [("direct", "direct-highlight"), ("direct-highlight", "film")])
def test_another_press_leaves_nothing_stale(compiled, one, other):
    chosen = replace(settings(np.random.default_rng(4)), icc=None)
    chosen = replace(
        chosen, white=replace(chosen.white, mode="need"), knockouts=settings(np.random.default_rng(9)).knockouts
    )
    held_against_fresh(request(chosen, profiles.shipped(one)), request(chosen, profiles.shipped(other)))


@pytest.mark.parametrize("change", ["mirrored", "print_order", "hits", "white", "registration", "holds", "powder"])
def test_a_changed_profile_leaves_nothing_stale(compiled, change):
    press = profiles.shipped("film")
    changed = {
        "mirrored": {"mirrored": not press.mirrored},
        "print_order": {"print_order": press.print_order[::-1]},
        "hits": {"slots": press.slots[:-1]},
        "white": {"white": replace(press.white, contrast_ratio=0.6, bleed_share=0.1, least_stroke_mm=0.2)},
        "registration": {"registration": replace(press.registration, sigma_mm=0.2)},
        "holds": {"holds": replace(press.holds, line_mm=0.6)},
        "powder": {"powder": None},
    }[change]
    chosen = settings(np.random.default_rng(2))
    chosen = replace(chosen, white=replace(chosen.white, mode="need", whole_sheet=False), alpha=None)
    before = request(chosen)
    held_against_fresh(before, replace(before, press=replace(press, **changed)))


def test_a_tile_replaced_under_its_own_name_leaves_nothing_stale(compiled):
    from swaddon.core.holes.settings import HoleSettings, Screen

    def tile(share: float) -> dict[str, TileArt]:
        grey = np.full((64, 64), 255, np.uint8)
        grey[: int(64 * share)] = 0
        return {"grit": TileArt("grit", f"grit {share}", grey)}

    chosen = replace(
        settings(np.random.default_rng(6)),
        holes=HoleSettings(Screen("tile", tile="grit", tile_mm=4, share=None), give_back=True, fine_mm=0),
    )
    held_against_fresh(request(chosen, tiles=tile(0.2)), request(chosen, tiles=tile(0.6)))


def test_stages_take_what_others_give_and_settings_of_the_types_that_a_request_has():
    """Parameters are named after stages that come before, with the type that these return; no two share a name."""
    given: dict[str, object] = {}
    for item in STAGES:
        hints = get_type_hints(item.function)
        assert {name: hints[name] for name in item.needs} == {name: given[name] for name in item.needs}, item.name
        assert item.name not in given
        given[item.name] = hints["return"]
        if item.settings is not None:
            assert item.settings.__dataclass_params__.frozen, item.name


def test_settings_leave_no_mark_of_what_a_stage_does_not_need():
    """A choke of 0.4 instead of 0.2 leaves the separation as it is, an allowed shift counts for white by need only."""

    def keys(**white: object) -> dict[str, str]:
        return stage_keys(STAGES, request(PlanSettings(width_mm=30, white=WhiteSettings(**white))))  # type: ignore[arg-type]

    changed = {"findings", "advice"}
    one, other = keys(mode="solid"), keys(mode="solid", allowed_shift=5)
    assert {name for name in one if one[name] != other[name]} == changed
    one, other = keys(mode="need"), keys(mode="need", allowed_shift=5)
    assert "need_table" in {name for name in one if one[name] != other[name]}


def test_a_second_plan_of_the_same_request_computes_nothing(monkeypatch, compiled):
    """Results that are ``None`` are results: seven stages used to run again on every plan."""
    wanted, cache = request(PlanSettings(width_mm=30)), Cache()
    first = run_stages(STAGES, wanted, Run(cache))
    assert any(value is None for value in first.values.values())
    monkeypatch.setattr(Stage, "result", lambda stage, *_: pytest.fail(f"{stage.name} ran again"))
    again = run_stages(STAGES, wanted, Run(cache))
    assert all(again.values[name] is first.values[name] for name in first.values)


def test_what_is_known_is_taken_and_seeds_take_the_place_of_their_stages():
    def one(settings: Number) -> int:
        return settings.number

    def two(one: int) -> int:
        return one * 10

    chain = (stage(one, 1), stage(two, 1))
    first = run_stages(chain, Number(3), Run(Cache()))
    assert first.values["two"] == 30
    known = Results({"one": 7}, {"one": first.keys["one"]})
    assert run_stages(chain, Number(3), Run(Cache()), known=known).values["two"] == 70
    assert run_stages(chain, Number(4), Run(Cache()), known=known).values["two"] == 40
    seeded = run_stages(chain, Number(4), Run(Cache()), seeds=Results({"one": 5}, {"one": "of a part"}))
    assert seeded.values["two"] == 50
    assert seeded.keys["two"] != first.keys["two"]


@dataclass(frozen=True)
class Number:
    number: int
