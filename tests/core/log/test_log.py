"""Entries as plain values, prints like one, and the month."""

import json
import time
from dataclasses import replace
from decimal import Decimal

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from tests.store.conftest import run_entry

from swaddon.core.colour.spaces import bands_from_srgb8, lab_from_bands
from swaddon.core.errors import PlanError
from swaddon.core.log.days import begins, ends, local_text
from swaddon.core.log.entry import Entry, Happened, Planned, Verdict, page_of
from swaddon.core.log.likeness import WIDTH, distances, features_of, parts
from swaddon.core.log.month import month_of
from swaddon.core.log.troubles import AT_PRESS, KNOWN, TROUBLES
from swaddon.core.log.words import tokens, words_of
from swaddon.io.log_entries import entry_text, read_entry


def test_an_entry_is_the_same_after_json():
    entry = run_entry(note="“quoted” <b> \u2028 end")
    assert read_entry(entry_text(entry)) == entry


def test_what_a_newer_bench_wrote_is_left_out_and_the_rest_read():
    told = json.loads(entry_text(run_entry()))
    told["humidity"] = 40
    told["ordered"]["platen"] = "large"
    told["planned"]["findings"][0]["cause"] = "x"
    assert read_entry(json.dumps(told)) == run_entry()


@pytest.mark.parametrize(
    ("change", "place"),
    [
        ({"uid": "short"}, "uid"), ({"at": "today"}, "at"), ({"kind": "gossip"}, "kind"),
        ({"happened": {"good": -1}}, "happened.good"), ({"photos": ["../../etc/passwd"]}, "photos"),
        ({"note": 5}, "note"),
    ],
)  # fmt: skip
def test_a_wrong_value_is_refused_with_its_place(change, place):
    told = json.loads(entry_text(run_entry())) | change
    with pytest.raises(PlanError, match=place):
        read_entry(json.dumps(told))


@pytest.mark.parametrize("text", ["", "[]", "null", "{}", '{"uid":', "\x00", "[" * 5000])
def test_what_is_no_entry_is_refused(text):
    with pytest.raises(PlanError):
        read_entry(text)


def test_verdicts_add_up_and_not_looked_at_is_not_fine():
    first, second = Verdict((("peek", True), ("halo", False))), Verdict((("peek", False), ("haze", True)), 3)
    both = first.then(second)
    assert dict(both.looked) == {"peek": False, "halo": False, "haze": True}
    assert both.washes == 3
    assert not Verdict().is_fine
    assert not first.is_fine
    assert Verdict((("peek", False),)).is_fine


def test_the_order_of_a_page_is_that_of_the_book():
    head = run_entry()
    one = Entry("a" * 32, head.head, "correction", head.at, happened=Happened(good=1))
    two = Entry("b" * 32, head.head, "correction", head.at, happened=Happened(good=2))
    assert page_of((head, one, two)).entry.happened.good == 2
    assert page_of((two, head, one)).entry.happened.good == 1


def test_every_trouble_has_one_key_and_one_letter():
    assert len(KNOWN) == len(TROUBLES) + len(AT_PRESS)
    letters = [trouble.letter for trouble in TROUBLES]
    assert len(set(letters)) == len(letters)
    assert "A" not in letters
    assert all(trouble.described for trouble in KNOWN.values())


_NEW_YORK, _AUCKLAND = "EST5EDT,M3.2.0,M11.1.0", "NZST-12NZDT,M9.5.0,M4.1.0/3"


@pytest.mark.parametrize(
    ("zone", "day", "first", "after"),
    [
        ("UTC", "2026-11-05", "2026-11-05T00:00:00Z", "2026-11-06T00:00:00Z"),
        (_NEW_YORK, "2026-11-05", "2026-11-05T05:00:00Z", "2026-11-06T05:00:00Z"),
        (_NEW_YORK, "2026-11", "2026-11-01T04:00:00Z", "2026-12-01T05:00:00Z"),
        (_AUCKLAND, "2026-12", "2026-11-30T11:00:00Z", "2026-12-31T11:00:00Z"),
    ],
)
def test_days_are_those_of_the_shops_clock(monkeypatch, zone, day, first, after):
    """Summer time ends in New York on 2026-11-01; the rules of both places stand as POSIX has them (IEEE 1003.1)."""
    monkeypatch.setenv("TZ", zone)
    time.tzset()
    try:
        assert (begins(day), ends(day)) == (first, after)
        assert local_text("2026-11-05T05:00:00Z") == {
            "UTC": "2026-11-05 05:00", _NEW_YORK: "2026-11-05 00:00", _AUCKLAND: "2026-11-05 18:00",
        }[zone]  # fmt: skip
    finally:
        monkeypatch.undo()
        time.tzset()
    assert local_text("yesterday") == "yesterday"


def test_words_have_no_case_and_no_accents():
    assert tokens("Kettle-Hill RÉPAIR Café №5") == ("kettle", "hill", "repair", "cafe", "no5")
    words = words_of(run_entry(note="Pressed twice"))
    assert {"pressed", "lantern", "tarn", "black", "film", "bare", "peek", "peeks"} <= set(words.split())


@given(st.text(max_size=80))
def test_words_hold_nothing_that_a_database_reads_as_more(text):
    for word in tokens(text):
        assert word.isalnum()


# prints like one


def apart(one: Entry, other: Entry) -> float:
    mine, theirs = features_of(one), features_of(other)
    return float(distances(mine, theirs[None], np.array([one.ordered.process == other.ordered.process]))[0])


def test_a_print_is_like_itself_and_far_from_others():
    entry = run_entry()
    assert apart(entry, entry) == pytest.approx(0, abs=1e-6)
    near = replace(entry, planned=replace(entry.planned, colours=(((205, 35, 45), 0.5), ((25, 60, 190), 0.3))))
    far = replace(entry, planned=replace(entry.planned, colours=(((240, 230, 60), 0.5), ((60, 160, 70), 0.3))))
    assert 0 < apart(entry, near) < apart(entry, far)
    for change in ({"coverage": 0.9}, {"finest_mm": 0.1}, {"white_share": 0.2}):
        assert apart(entry, replace(entry, planned=replace(entry.planned, **change))) > 0.2
    white = replace(entry, ordered=replace(entry.ordered, garment_rgb=(250, 250, 248)))
    assert apart(entry, white) > 1
    other = replace(entry, ordered=replace(entry.ordered, process="direct"))
    assert apart(entry, other) == pytest.approx(0.5)


def test_the_order_of_main_colours_does_not_matter():
    entry = run_entry()
    turned = replace(entry, planned=replace(entry.planned, colours=entry.planned.colours[::-1]))
    assert apart(entry, turned) == pytest.approx(0, abs=1e-5)


def test_a_print_without_colours_is_like_one_without():
    plain = replace(run_entry(), planned=replace(run_entry().planned, colours=()))
    assert apart(plain, plain) == pytest.approx(0, abs=1e-6)
    assert apart(plain, run_entry()) > 3
    assert features_of(replace(run_entry(), planned=None)) is None


def test_colours_are_compared_as_palettes_by_hand():
    """The same sum worked out without arrays: each colour with the nearest of the other, by share, both ways."""
    rng = np.random.default_rng(3)

    def lab(colour):
        return lab_from_bands(bands_from_srgb8(np.array(colour)))

    def one_way(these, those):
        total = sum(share for _, share in these)
        return sum(share * min(np.linalg.norm(lab(c) - lab(o)) for o, _ in those) for c, share in these) / total

    def palette():
        return tuple((tuple(int(v) for v in rng.integers(0, 256, 3)), float(rng.uniform(0.05, 0.3))) for _ in range(4))

    for _ in range(20):
        mine, theirs = palette(), palette()
        one = replace(run_entry(), planned=replace(run_entry().planned, colours=mine))
        other = replace(run_entry(), planned=replace(run_entry().planned, colours=theirs))
        found = parts(features_of(one), features_of(other))
        assert found.colours == pytest.approx((one_way(mine, theirs) + one_way(theirs, mine)) / 2, rel=1e-4)
    assert features_of(one).shape == (WIDTH,)


# the month


def test_a_month_adds_up_by_hand():
    """Three runs; sums worked out on paper."""
    figures = (("print_s", 60.0), ("used:white:ml", 3.0), ("used:film:m2", 0.1))
    plan = Planned(figures=figures, cost="0.50", currency="EUR")
    runs = [
        replace(run_entry(1, quantity=10), planned=plan,
                happened=Happened(good=10, spoiled=(("peek", 2),), taken_s=1000, steps=(("print", 4, 70.0),))),
        replace(run_entry(2, quantity=5, process="direct"), planned=replace(plan, cost="1.10"),
                happened=Happened(
                    good=5, spoiled=(("crooked", 1), ("peek", 1)), taken_s=500, used=(("white:ml", 30.0),))),
        replace(run_entry(3), happened=None),
    ]  # fmt: skip
    month = month_of("2026-11", runs)
    assert (month.runs, month.ordered, month.good, month.lost) == (2, 15, 15, 4)
    assert month.spoiled == (("peek", 3), ("crooked", 1))
    assert month.spoiled_share == pytest.approx(4 / 19)
    assert month.spoilage_cost == (("EUR", Decimal("0.50") * 2 + Decimal("1.10") * 2),)
    white, film = month.used
    assert (white.planned, white.used, white.is_measured) == (45.0, 12 * 3.0 + 30.0, True)
    assert (film.planned, film.used, film.is_measured) == (pytest.approx(1.5), pytest.approx(1.9), False)
    assert (month.print_planned_s, month.print_taken_s) == (12 * 60.0, 12 * 70.0)
    assert month.planned_s == 19 * 60.0
    assert month.worked_s == 1500
    assert month.by_process == (("film", 12), ("direct", 7))


def test_a_month_of_nothing_is_nothing():
    month = month_of("2026-01", [])
    assert month.runs == month.good == month.lost == 0
    assert month.spoiled_share == 0
    assert month.used == month.spoilage_cost == ()
