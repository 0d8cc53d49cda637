"""Regions that were knocked out, cropped away or print nothing are none to work on."""

from dataclasses import replace

import numpy as np
import pytest

from swaddon.core.artwork.placement import Placement
from swaddon.core.artwork.regions import find_regions
from swaddon.core.holes.settings import HoleSettings, Screen
from swaddon.core.knockout.settings import Knockout
from swaddon.core.plan.printed_regions import printing
from swaddon.core.plan.report import plan_report
from swaddon.session.selection import Selection, larger_than, within

GOLD, BLUE = (240, 200, 60), (40, 80, 200)


def chequers() -> np.ndarray:
    """Gold and blue squares beside each other, 6 × 6, on gold ground that touches none."""
    art = np.zeros((300, 300, 4), np.uint8)
    art[..., 3] = 255
    for row in range(6):
        for column in range(6):
            art[row * 50 : row * 50 + 50, column * 50 : column * 50 + 50, :3] = GOLD if (row + column) % 2 else BLUE
    return art


def by_eye(found, plan) -> set[int]:
    """Regions of which any pixel that lies well inside prints, one by one."""
    out = set()
    for region in found.regions:
        own = (found.labels == region.number) & (found.depth > 8)
        if (plan.cmyk[own].any(axis=1) | (plan.white_plane[own] > 0)).any():
            out.add(region.number)
    return out


def test_what_is_knocked_out_is_no_region(make):
    art = chequers()
    found = find_regions(art)
    plan = make(art, garment=(27, 27, 31), knockouts=(Knockout(GOLD, 5, "everywhere", "hard"),))
    shown = printing(found, plan)
    assert {region.number for region in shown.printing} == by_eye(found, plan)
    assert len(shown.printing) == 18 < len(found.regions) == 36
    gone = next(region for region in found.regions if region.number in shown.hidden)
    assert shown.at(*gone.anchor) is None
    walked, numbers = Selection(), []
    for _ in range(len(shown.printing)):
        walked = walked.stepped(shown, 1)
        numbers += walked.numbers
    assert set(numbers) == {region.number for region in shown.printing}
    assert not set(larger_than(shown, 0.0, 0.1).numbers) & shown.hidden
    assert not set(within(shown, [(0, 0), (300, 0), (300, 300), (0, 300)]).numbers) & shown.hidden
    assert not set(Selection((gone.number,)).of_this_colour(shown).numbers)


@pytest.mark.parametrize("turns", [0, 1, 2, 3])
def test_what_is_cropped_away_is_no_region_however_it_is_turned(make, turns):
    art = chequers()
    found = find_regions(art)
    plan = make(art, placement=Placement((0, 0, 150, 100), turns))
    kept = {region.number for region in printing(found, plan).printing}
    own = {region.number for region in found.regions if region.anchor[0] < 150 and region.anchor[1] < 100}
    assert kept == own
    assert len(kept) == 6


def test_plan_json_lists_what_prints(make):
    art = chequers()
    holes = HoleSettings(Screen(share=0.8))
    plan = make(art, garment=(27, 27, 31), holes=holes, knockouts=(Knockout(GOLD, 5, "everywhere", "hard"),))
    report = plan_report(plan)
    assert len(report["regions"]) == 18
    assert {item["colour"] for item in report["regions"]} == {"#2850c8"}
    assert [item["regions"] for item in report["screens"] if item["colour"] == "#2850c8"] == [18]
    assert sum(item["regions"] for item in report["screens"]) == 18
    whole = make(art, garment=(27, 27, 31), holes=holes)
    assert len(plan_report(whole)["regions"]) == 36


def test_white_of_the_design_that_is_no_ink_is_no_region(make):
    art = chequers()
    art[(art[..., :3] == GOLD).all(axis=2), :3] = 255
    found = find_regions(art)
    bare = make(art, garment=(250, 250, 248))
    white = replace(bare.request.settings.white, mode="none")
    inked = make(art, garment=(27, 27, 31), white=replace(white, mode="solid"))
    assert len(printing(found, make(art, garment=(250, 250, 248), white=white)).printing) == 18
    assert len(printing(found, inked).printing) == 36
