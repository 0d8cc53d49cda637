"""A print larger than its medium: one answer to what fits, and a split that is used is sheets, time, cost and card."""

from dataclasses import replace

import numpy as np
import pytest
from tests.conftest import artwork, coarse

from swaddon.core.count.timing import sheet_time_s
from swaddon.core.engine import Cache, Run
from swaddon.core.plan.stages import make_plan
from swaddon.core.press.processes import PROCESSES
from swaddon.core.sheet.grid import BUTT, SplitRules
from swaddon.core.sheet.room import room_for
from swaddon.core.sheet.settings import SheetSettings
from swaddon.io import profiles
from swaddon.io.media import shipped_media
from swaddon.io.png import png_chunks
from swaddon.session.costs import costed_plan
from swaddon.session.edits import mend
from swaddon.session.job import ArtworkFile, Job, first_settings
from swaddon.session.run_cards import card_of
from swaddon.session.sheet_edits import change_sheet, use_split, whole_again
from swaddon.session.shop import book
from swaddon.session.splits import cut_plan, marks, split_report
from swaddon.session.storage import open_job, save_job

MEDIA = {medium.name: medium for medium in shipped_media()}


def job(width_mm: float, press: str = "toner-twopass", shape=(100, 100), medium: str = "") -> Job:
    rgba = np.zeros((*shape, 4), np.uint8)
    rgba[...] = (200, 30, 40, 255)
    profile = coarse(press)
    settings = replace(first_settings(profile), width_mm=width_mm)
    data = b"".join(png_chunks(rgba, 300))
    return Job("Banner", ArtworkFile(artwork(rgba), data), settings, profile, sheet=SheetSettings(medium=medium))


def plan_of(made: Job):
    return make_plan(made.request(), Run(Cache()))


def stop_of(plan):
    return next((finding for finding in plan.findings if finding.code == "too-large"), None)


@pytest.mark.parametrize("press", [made.name for key in PROCESSES for made in profiles.presses(key)])
@pytest.mark.parametrize("medium", ["", "a4", "film-a3", "roll-330"])
def test_profile_medium_and_split_give_one_answer_to_what_fits(press, medium):
    """A 195 mm print: the press said 190 × 270, its A4 that nothing need be cut."""
    profile = profiles.shipped(press)
    room = room_for(profile, MEDIA[medium or profile.usual_medium])
    for factor in (0.99, 1.02):
        made = job(round(room.width_mm * factor, 1), press, shape=(50, 100), medium=medium)
        made = replace(made, settings=replace(made.settings, width_mm=min(made.settings.width_mm, 700)))
        plan = plan_of(made)
        size = plan.measures.printed_size_mm
        fits = room.takes(*size)
        assert (stop_of(plan) is None) == fits, (press, medium, size, room)
        assert made.room == room
        split = cut_plan(plan, "Banner", MEDIA[medium or profile.usual_medium], BUTT, Run(Cache()))
        if profile.printing.can_split:
            assert (len(split.split.parts) == 1) == fits


def test_the_stops_first_fix_splits_it_and_all_follows(compiled):
    made = job(230.0, shape=(100, 115))  # 230 × 200 mm on a press that reaches 190 × 270 of A4: 2 sheets
    before = plan_of(made)
    stop = stop_of(before)
    assert stop.fix_label == "Split onto 2 × A4"
    assert stop.ways[1].fix_label.startswith("Print ")
    after_job = mend(stop).made(made)
    after = plan_of(after_job)
    assert stop_of(after) is None
    sheets = {item.kind: item for item in after.materials}["sheet"]
    assert sheets.amount == 2
    one, two = costed_plan(before, book()), costed_plan(after, book())
    assert two.costing.cost_of("sheet") == 2 * one.costing.cost_of("sheet")
    assert two.costing.cost_of("cover") == 2 * one.costing.cost_of("cover")
    assert two.costing.cost_of("energy") == 2 * one.costing.cost_of("energy")
    packing = dict(one.press.working.hands_s)["fold and pack"]
    hands = {costed: _amount(costed, "labour") * 3600 for costed in (one, two)}
    assert hands[two] - packing == pytest.approx(2 * (hands[one] - packing))
    assert after.time.print_s > 1.6 * before.time.print_s
    keys = [step.key for step in card_of(after_job, after).steps]
    assert keys.count("press") == keys.count("place") == keys.count("peel") == 2
    assert keys.index("peel") < len(keys) - 1 - keys[::-1].index("place"), "the first is peeled before the next is laid"
    assert keys.count("second-press") == keys.count("marry") == 1
    words = [step.text for step in card_of(after_job, after).steps if step.key == "place"]
    assert words[0].startswith("Part 1 of 2: lay")
    assert "marks" in words[1]


def _amount(costed, kind):
    return next(part.amount for part in costed.costing.parts if part.kind == kind)


@pytest.mark.parametrize(("press", "medium"), [("toner-twopass", "a4"), ("film", "film-a4"), ("film", "roll-330")])
def test_time_of_the_parts_is_that_of_sheets_printed_alone(compiled, press, medium):
    """Counted anew on the pixels of each part, as it lies on its sheet."""
    made = job(500.0, press, shape=(160, 100), medium=medium)
    plan = plan_of(made)
    split = cut_plan(plan, "Banner", MEDIA[medium], BUTT, Run(Cache()))
    profile = plan.request.profile
    brute = 0.0
    for part in split.split.parts:
        rows = split.printed[part.box.top : part.box.bottom, part.box.left : part.box.right].any(axis=1)
        brute += sheet_time_s(profile, rows, part.box.width * 25.4 / plan.ppi, plan.ppi, has_white=True)
    told = split.share.time_ratio * plan.time.alone_s
    assert len(split.split.parts) == split.share.parts >= 2
    assert told == pytest.approx(brute, rel=0.04)


def test_a_used_split_is_kept_and_goes_with_another_medium_or_width(tmp_path, compiled):
    made = job(230.0, shape=(100, 115))
    plan = plan_of(made)
    split = cut_plan(plan, "Banner", MEDIA["a4"], SplitRules(), Run(Cache()))
    used = use_split(split.share).made(made)
    save_job(tmp_path / "a.swaddon", used)
    back = open_job(tmp_path / "a.swaddon")
    assert back.settings.share(back.profile).parts == 2
    assert whole_again().made(used).settings.sheet_share is None
    assert change_sheet(medium="a3").made(used).settings.sheet_share is None
    assert change_sheet(overlap_mm=2.0).made(used).settings.sheet_share is None
    wider = replace(used, settings=replace(used.settings, width_mm=420.0))
    assert stop_of(plan_of(wider)) is not None, "two sheets do not take it any more"


def test_a_print_on_a_platen_is_never_split(compiled):
    stop = stop_of(plan_of(job(450.0, "direct")))
    assert [way.fix_label for way in stop.ways] == ["Print 400 mm wide"]


def test_overlap_counts(compiled):
    """530 × 250 mm lies on two sheets of 190 × 270 on their side where parts butt, on three with 20 mm shared."""
    butt = job(530.0, shape=(34, 100))
    shared = replace(butt, sheet=SheetSettings(overlap_mm=20.0))
    labels = [stop_of(plan_of(made)).fix_label for made in (butt, shared)]
    assert labels == ["Split onto 2 × A4", "Split onto 3 × A4"]


@pytest.mark.parametrize(("medium", "height_mm"), [("a4", 240.0), ("a4", 266.0), ("a4", 250.0)])
def test_a_cross_without_room_is_told_and_the_others_are_printed(compiled, medium, height_mm):
    width_mm = 300.0
    made = job(width_mm, shape=(round(height_mm), round(width_mm)), medium=medium)
    plan = plan_of(made)
    split = cut_plan(plan, "Banner", MEDIA[medium], SplitRules(turn=False), Run(Cache()))
    report = split_report(split)
    printed = sum(len(marks(split, part)) for part in split.split.parts)
    numbers = sum(1 for part in split.split.parts for plane, _, _ in marks(split, part) if plane.shape[1] > 40)
    lacking = sum(len(item["sheets"]) for item in report["unmarked"])
    assert printed - numbers + lacking == 2 * 2 * len(split.split.cuts), "each end of each seam, on both of its sheets"
    told = [item for item in split.findings if item.code == "seam-unmarked"]
    assert len(told) == len(report["unmarked"])
    assert all(f"the {item['end']} end" in found.text for item, found in zip(report["unmarked"], told, strict=True))
    if height_mm == 240.0:
        assert not lacking
    if height_mm == 266.0:
        assert lacking


def test_the_saving_of_a_step_is_kept_with_the_job(tmp_path):
    made = change_sheet(step_mm=2.5, medium="a4").made(job(300.0))
    save_job(tmp_path / "job.swaddon", made)
    kept = open_job(tmp_path / "job.swaddon").sheet
    assert kept.split_rules == SplitRules(step_mm=2.5)
