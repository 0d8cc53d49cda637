"""One cause is told once with the fixes of all that found it; small findings fold into one line."""

from dataclasses import replace
from decimal import Decimal

import numpy as np
import pytest
from tests.conftest import badge, coarse

from swaddon.core.findings.scene import Finding
from swaddon.core.findings.told import causes, small_words, told
from swaddon.core.order.settings import PlanSettings
from swaddon.core.plan.report import plan_report
from swaddon.core.plan.stages import make_plan
from swaddon.core.white.settings import WhiteSettings
from swaddon.session.readout import plan_table

BLACK = (27, 27, 31)


def found(code: str, severity="note", size=500.0, unit="mm²", fix=None, label="", **more) -> Finding:
    return Finding(code, severity, code, 1.0, 1.0, size, unit, fix, label, PlanSettings(), **more)


def test_one_step_that_mends_both_is_one_cause():
    fix = PlanSettings(width_mm=50.0)
    one, other, third = causes([
        found("a", "look", fix=fix, label="Do it"), found("b", fix=fix, label="Do it too"),
        found("c", fix=PlanSettings(width_mm=60.0)),
    ])  # fmt: skip
    assert (one.cause, other.cause, third.cause) == ("", "a", "")
    assert [way.fix_label for way in one.ways] == ["Do it", "Do it too"]


@pytest.mark.parametrize(("size", "once"), [(480.0, True), (300.0, False)])
def test_the_same_area_of_the_goods_own_colour_is_one_cause(size, once):
    pair = (
        found("white-under-black", "look", 500.0),
        found("ink-on-match", "note", size, fix=PlanSettings(width_mm=9.0), label="Leave it out"),
    )
    one, other = causes(pair)
    assert (other.cause == "white-under-black") == once
    assert (one.fix_label == "Leave it out") == once, "the step of what is not told is offered all the same"


@pytest.mark.parametrize(
    ("finding", "small"),
    [
        (found("ink-on-match", size=99.0), True), (found("ink-on-match", size=101.0), False),
        (found("opaque-box", "stop", 20.0), False), (found("peek", "look", 50.0), False),
        (found("haze-bare", "look", 50.0), True), (found("line-fine", "look", 0.1, "mm"), False),
        (found("ink-on-match", size=400.0, worth=Decimal("0.004")), True),
        (found("ink-on-match", "look", 400.0, worth=Decimal("0.004")), False),
        (found("ink-on-match", size=400.0, worth=Decimal("0.02")), False),
    ],
)  # fmt: skip
def test_what_is_small(finding, small):
    assert finding.is_small == small
    assert told([finding])[1] == ((finding,) if small else ())


def test_what_is_not_told_stays_in_plan_json_and_the_table_folds(make):
    art = badge(300)
    art[120:180, 40:60] = (27, 27, 31, 255)
    art[20:24, 20:50] = (27, 27, 31, 90)
    plan = make(
        art, coarse("toner-onepass"), width_mm=60.0, garment=BLACK, white=WhiteSettings(choke_mm=0.5, guard=False)
    )
    report = plan_report(plan)["findings"]
    assert [item["code"] for item in report] == [item.code for item in plan.findings]
    large, small = told(plan.findings)
    table = plan_table(plan)
    assert {item["code"] for item in report if item["cause"]} == {item.code for item in plan.findings} - {
        item.code for item in (*large, *small)
    }
    for item in large:
        assert item.text in table
    for item in small if len(small) > 1 else ():
        assert item.text not in table
    if len(small) > 1:
        assert small_words(small) in table


def test_every_fix_of_what_is_told_once_mends_it(make):
    art = np.zeros((200, 200, 4), np.uint8)
    art[20:180, 20:180] = (20, 20, 22, 255)
    art[60:140, 60:140] = (200, 30, 40, 255)
    plan = make(art, coarse("film"), width_mm=60.0, garment=BLACK)
    once = next(item for item in plan.findings if item.code == "white-under-black")
    other = next(item for item in plan.findings if item.code == "ink-on-match")
    assert other.cause == once.code
    assert {way.fix_label for way in other.ways} <= {way.fix_label for way in once.ways}
    for way in once.ways:
        mended = make_plan(replace(plan.request, settings=way.mend(plan.request.settings)))
        assert once.code not in {item.code for item in mended.findings}
