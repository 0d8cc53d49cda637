"""Tests of a press that are kept, the shop's own profile, and what they say against a plan."""

import dataclasses
import datetime

import pytest

from swaddon.core.testprint.constants import Constant
from swaddon.io import profiles
from swaddon.session import demo, kept_tests, shop, testing
from swaddon.session.constant_words import standing, text_of
from swaddon.session.folders import config_folder
from swaddon.session.kept_tests import KeptTest, keep_days, keep_test
from swaddon.session.press_state import PressWatch, press_findings
from swaddon.session.session import Session
from swaddon.session.watching import ScanFolder

TODAY = datetime.date(2026, 11, 28)
FOUND = [Constant("white.contrast_ratio", "Contrast", "", 0.72, 0.61, 0.01)]


def kept(day: str = "2026-11-20", **told) -> KeptTest:
    good = {"is_whole": True, "wiring": list("CMYKWW"), "wiring_sent": list("CMYKWW"), "blocked_nozzles": {}}
    return KeptTest(day, "a.png", good | told)


def codes(test: KeptTest, days: int = 60) -> list[str]:
    job = demo.demo_job("heron")
    return [finding.code for finding in press_findings(job, [test], days, TODAY)]


def test_tests_are_kept_by_press_and_survive_a_damaged_file():
    keep_test("film", kept())
    keep_test("direct", kept("2026-11-21"))
    assert [test.day for test in kept_tests.tests_of("film")] == ["2026-11-20"]
    keep_days("film", 7)
    assert (kept_tests.days_of("film"), kept_tests.days_of("direct")) == (7, kept_tests.DEFAULT_DAYS)
    (config_folder() / "tests.json").write_text("{rubbish", encoding="utf-8")
    assert len(kept_tests.tests_of("film")) == 1
    keep_test("film", kept())
    assert len(kept_tests.tests_of("film")) == 2


@pytest.mark.parametrize(
    ("test", "expected"),
    [
        (kept(), []),
        (kept("2026-08-01"), ["test-old"]),
        (kept(wiring=list("MCYKWW")), ["slots-wrong"]),
        (kept(white_contrast_ratio=0.55, white_contrast_ratio_pm=0.01), ["test-differs"]),
        (kept(white_contrast_ratio=0.73, white_contrast_ratio_pm=0.01), []),
        (kept(shift_mm=[0.5, 0.1]), ["test-differs"]),
        (kept(shift_mm=[0.02, 0.05]), []),
        (kept(gain={"C": {"0.5": 0.62}}), ["test-differs"]),
        (kept(blocked_nozzles={"C": [3], "W2": [4, 9]}, nozzles_are_sure=True), ["nozzles-blocked"]),
        (kept(blocked_nozzles={"C": [3]}, nozzles_are_sure=False), []),
        (KeptTest("2026-11-20", "x", {"gain": 3, "shift_mm": "no", "blocked_nozzles": None}), []),
    ],
)
def test_a_test_is_held_against_the_job(test, expected):
    assert codes(test) == expected


def test_no_test_is_no_reproach():
    assert press_findings(demo.demo_job("heron"), [], 60, TODAY) == ()


def test_the_watch_reads_again_only_when_it_is_told():
    watch = PressWatch(lambda: TODAY)
    job = demo.demo_job("heron")
    assert watch.findings(job, None) == ()
    keep_test("film", kept("2026-01-01"))
    assert watch.findings(job, None) == ()
    watch.refresh()
    assert [finding.code for finding in watch.findings(job, None)] == ["test-old"]


def test_what_is_taken_is_one_step_and_the_shop_follows():
    """Take, undo, redo: the job's profile and that of new jobs go along."""
    session, follows = Session(demo.demo_job("heron")), testing.ShopFollows()
    session.changed.connect(lambda job, changes: follows.see(job, session.uid, changes.initiator))
    follows.see(session.job, session.uid, "open")
    before = session.job.profile
    session.apply(testing.accept(before, FOUND, "scan “a.png”", TODAY))
    assert session.undo_label == "Take “Contrast” as measured"
    assert session.job.profile.white.contrast_ratio == shop.press("film").white.contrast_ratio == 0.61
    assert standing(session.job.profile, "white.contrast_ratio") == "measured on 2026-11-28"
    assert standing(session.job.profile, "holds.line_mm") == "assumed"
    session.undo()
    assert session.job.profile == before
    assert shop.press("film") == profiles.shipped("film")
    session.redo()
    assert shop.press("film").white.contrast_ratio == 0.61


def test_opening_another_job_does_not_change_the_shops_press():
    session, follows = Session(demo.demo_job("heron")), testing.ShopFollows()
    session.changed.connect(lambda job, changes: follows.see(job, session.uid, changes.initiator))
    follows.see(session.job, session.uid, "open")
    session.apply(testing.accept(session.job.profile, FOUND, "a", TODAY))
    session.open(demo.demo_job("heron"), None)
    assert shop.press("film").white.contrast_ratio == 0.61


def test_a_damaged_profile_of_the_shop_holds_as_it_was_last_good():
    measured = testing.taken(profiles.shipped("film"), FOUND, "a", TODAY)
    shop.keep_profile(measured)
    (config_folder() / "presses" / "film.toml").write_text("rubbish", encoding="utf-8")
    assert shop.press("film") == measured
    own = dataclasses.replace(profiles.shipped("film"), name="../../own")
    shop.keep_profile(own)
    assert not list(config_folder().rglob("own*"))


def test_a_folder_tells_a_scan_when_it_is_whole(tmp_path):
    (tmp_path / "old.png").write_bytes(b"x")
    folder = ScanFolder()
    folder.begin(tmp_path)
    (tmp_path / "new.png").write_bytes(b"half")
    (tmp_path / "note.txt").write_bytes(b"text")
    assert folder.new_scans() == []
    assert folder.is_growing
    (tmp_path / "new.png").write_bytes(b"whole now")
    assert folder.new_scans() == []
    assert [path.name for path in folder.new_scans()] == ["new.png"]
    assert folder.new_scans() == []
    assert not folder.is_growing


def test_constants_in_words():
    assert text_of((0.2, -0.1), "mm", 0.0021, "registration.shift_mm") == "+0.20, −0.10 ± 0.002 mm"
    assert text_of(0.7012, "", 0.0146, "white.contrast_ratio") == "0.701 ± 0.015"
    assert text_of((0.0, 0.6, 1.0), "", 0.01, "separation.tone_curves.C") == "60 % ± 1"
    assert text_of(250.0, "%", 0.0, "separation.total_area_limit_percent") == "250 %"
