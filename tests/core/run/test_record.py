"""What becomes of a run: the sum of its notes, whatever they are."""

import json

from hypothesis import example, given
from hypothesis import strategies as st

from swaddon.core.run.record import Record, record_of


def notes(*acts):
    return [{"do": do, "at": float(at), **more} for do, at, more in acts]


RUN = notes(
    ("begin", 0, {}), ("start", 5, {"step": "press", "timer": 1, "expected_s": 10}),
    ("start", 8, {"step": "cool-cold", "timer": 2, "expected_s": 120}), ("good", 20, {"count": 3}),
    ("spoiled", 30, {"count": 1, "why": "crooked"}), ("stop", 16, {"timer": 1}), ("pause", 40, {}), ("resume", 100, {}),
    ("use", 110, {"kind": "film:m2", "amount": 1.5}),
)  # fmt: skip


def test_counts_timers_and_breaks_add_up():
    record = record_of(RUN)
    assert (record.good, record.lost, record.spoiled) == (3, 1, (("crooked", 1),))
    assert [timer.step for timer in record.timers] == ["cool-cold"]
    assert record.taken == (("press", 11.0),)
    assert record.paused_s == 60
    assert record.worked_s(160) == 100
    assert record.used == (("film:m2", 1.5),)


def test_a_timer_tells_what_is_left_also_after_a_restart():
    timer = record_of(RUN).timers[0]
    assert timer.left_s(100) == 28
    assert record_of(json.loads(json.dumps(RUN))).timers[0].left_s(200) == -72


def test_two_timers_of_one_step_run_at_once():
    record = record_of(
        [*RUN[:1], *notes(*(("start", at, {"step": "press", "timer": at, "expected_s": 9}) for at in (1, 2)))]
    )
    assert len(record.timers) == 2


def test_the_last_count_is_taken_back_and_none_below_zero():
    record = record_of([*RUN, *notes(("take-back", 50, {}))])
    assert (record.good, record.lost) == (3, 0)
    record = record_of([*RUN, *notes(*(("take-back", 50 + at, {}) for at in range(5)))])
    assert (record.good, record.lost) == (0, 0)


def test_an_ended_run_takes_no_more_notes_and_a_break_ends_with_it():
    ended = record_of([*RUN, *notes(("pause", 200, {}), ("end", 260, {}), ("good", 270, {"count": 9}))])
    assert ended.ended == 260
    assert ended.good == 3
    assert ended.paused_s == 120
    assert ended.timers == ()
    assert not ended.is_open


def test_before_it_begins_nothing_counts():
    assert record_of(notes(("good", 1, {"count": 2}), ("end", 3, {}))) == Record()


def test_step_times_are_medians():
    acts = [("begin", 0, {})]
    for number, seconds in enumerate((10, 50, 12)):
        acts += [("start", 0, {"step": "print", "timer": number}), ("stop", seconds, {"timer": number})]
    assert record_of(notes(*acts)).step_times() == (("print", 3, 12.0),)


def test_a_clock_that_was_set_back_gives_no_negative_times():
    record = record_of(
        notes(("begin", 1000, {}), ("start", 1000, {"step": "press", "timer": 1}), ("stop", 400, {"timer": 1}))
    )
    assert record.taken == (("press", 0.0),)
    assert record.worked_s(500) == 0


_JUNK = st.dictionaries(
    st.sampled_from(["do", "at", "count", "why", "timer", "step", "expected_s", "kind", "amount"]),
    st.one_of(
        st.sampled_from(["begin", "good", "spoiled", "take-back", "start", "stop", "pause", "resume", "use", "end"]),
        st.integers(-5, 10**9), st.floats(allow_nan=False, allow_infinity=False, width=32), st.none(),
        st.text(max_size=5),
    ),
)  # fmt: skip


@given(st.lists(_JUNK, max_size=30))
@example([{"do": "start", "at": 0, "timer": "begin"}])
def test_notes_that_make_no_sense_never_break_a_run(junk):
    record = record_of([*RUN, *junk])
    assert record.good >= 0
    assert record.lost >= 0
    assert record.worked_s(10**6) >= 0
