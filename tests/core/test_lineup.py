"""Line-ups: a permutation changes the slots and nothing that is seen; doubles and gaps are refused by slot."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from tests.conftest import badge

from swaddon.core.errors import PlanError
from swaddon.core.plan.report import plan_report
from swaddon.core.plan.report_inks import channels
from swaddon.core.press.lineup import LineUp, check, factory, fits, with_lineup
from swaddon.io import profiles
from swaddon.io.export import proof_picture

FILM = profiles.shipped("film")


@given(st.permutations(factory(FILM).slots))
def test_every_permutation_fits_and_holds_the_same_inks(slots):
    lineup = LineUp("Any", tuple(slots))
    check(lineup, FILM)
    made = with_lineup(FILM, lineup)
    assert sorted(slot.ink for slot in made.slots) == sorted(slot.ink for slot in FILM.slots)
    assert all(lineup.slots[slot.number - 1] == slot.ink for slot in made.slots)
    assert factory(made).slots == lineup.slots


@given(st.integers(0, 5), st.integers(0, 5))
def test_a_swap_undoes_itself(one, other):
    came = factory(FILM)
    assert came.swapped(one, other).swapped(one, other) == came


def test_a_permutation_never_changes_the_proof_nor_the_amounts(make):
    plain = make(badge(), garment=(27, 27, 31))
    slots = list(factory(FILM).slots)
    slots[0], slots[3], slots[5] = slots[3], slots[5], slots[0]
    other = make(badge(), garment=(27, 27, 31), lineup=LineUp("Moved", tuple(slots)))
    assert np.array_equal(proof_picture(plain)[0], proof_picture(other)[0])
    assert plain.cost == other.cost
    told = {entry["slot"]: entry["ink"] for entry in channels(other)}
    assert told == dict(enumerate(slots, start=1))
    report = plan_report(other)
    assert report["lineup"] == {"name": "Moved", "slots": slots}
    assert report["settings"]["lineup"] == {"name": "Moved", "slots": slots}
    assert plan_report(plain)["lineup"]["slots"] == list(factory(FILM).slots)


def test_slots_sum_to_channels(make):
    """Each slot lays its own share: together they are what the tally counts."""
    plan = make(badge(), garment=(27, 27, 31))
    amounts = dict.fromkeys(("white", "colour"), 0.0)
    for entry in channels(plan):
        amounts[entry["role"]] += entry["amount"]
    for kind, total in amounts.items():
        assert total == pytest.approx(next(line.amount for line in plan.materials if line.kind == kind), abs=3e-4)


@pytest.mark.parametrize(
    ("slots", "says"),
    [
        (("C", "M", "Y", "Y", "W", "W"), "yellow in slot 4 and in slot 3"),
        (("C", "M", "Y", "W", "W", "W"), "lacks black: slot 4 holds white instead"),
        (("C", "M", "Y", "K", "", ""), "lacks white: slot 5 holds nothing instead"),
        (("C", "M", "Y", "K", "H", "W"), "highlight white in slot 5, which film does not print"),
        (("C", "M", "Y", "K", "W"), "5 slots, film has 6"),
    ],
)
def test_what_is_wrong_is_told_by_slot(slots, says):
    lineup = LineUp("Bad", slots)
    with pytest.raises(PlanError, match=says):
        check(lineup, FILM)
    assert not fits(lineup, FILM)
    assert with_lineup(FILM, lineup) == FILM, "never half of it"


def test_one_white_may_stand_where_two_stood_and_takes_as_long_as_it_must(make):
    one = LineUp("One white", ("C", "M", "Y", "K", "W", ""))
    plan, both = make(badge(), lineup=one), make(badge())
    assert len(plan.request.profile.white_slots) == 1
    assert with_lineup(FILM, one).slot_count == 6
    assert sum(plan.request.profile.hits) == 1
    assert sum(both.request.profile.hits) == 2


def test_the_white_of_a_second_pass_goes_with_black():
    press = profiles.shipped("toner-twopass")
    came = factory(press)
    assert came.slots == ("C", "M", "Y", "K")
    moved = with_lineup(press, replace(came, slots=("K", "M", "Y", "C")))
    assert {slot.ink: slot.number for slot in moved.slots} == {"K": 1, "W": 1, "M": 2, "Y": 3, "C": 4}


def test_an_empty_slot_of_a_profile_counts():
    text = FILM.source.replace('[[slots]]\nink = "W"', '[[slots]]\nink = ""\n[[slots]]\nink = "W"', 1)
    press = profiles.parse(text, "own.toml")
    assert press.slot_count == 7
    assert factory(press).slots.count("") == 1
    check(factory(press), press)
