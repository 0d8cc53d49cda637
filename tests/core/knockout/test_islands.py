"""Background that the figure encloses: found with size and place, taken or kept, and silent once decided."""

from dataclasses import replace

import cv2
import numpy as np
import pytest
from scipy.ndimage import label

from swaddon.core.artwork.placement import Placement
from swaddon.core.artwork.regions import find_regions
from swaddon.core.knockout.reaches import Sampled
from swaddon.core.knockout.settings import Keep, Knockout
from swaddon.core.plan.report import knockouts
from swaddon.core.plan.stages import Plan, make_plan
from swaddon.session import edits
from swaddon.session.job import Job

WHITE, BLACK = (255, 255, 255), (27, 27, 31)
OUTSIDE = (Knockout(WHITE, 8.0),)


def figure(size: int = 360) -> np.ndarray:
    """A red ring and a blue one with a bar, on white: two islands, and one too small to matter."""
    art = np.full((size, size, 4), 255, np.uint8)
    cv2.circle(art, (120, 120), 80, (200, 30, 40, 255), 30)
    cv2.circle(art, (250, 250), 70, (30, 60, 180, 255), 24)
    cv2.line(art, (250, 190), (250, 310), (30, 60, 180, 255), 24)
    cv2.rectangle(art, (20, 300), (60, 340), (30, 60, 180, 255), -1)
    cv2.rectangle(art, (38, 318), (42, 322), (255, 255, 255, 255), -1)
    return art


def codes(plan: Plan) -> set[str]:
    return {finding.code for finding in plan.findings}


def test_islands_are_what_scipy_finds_and_the_border_does_not_touch(make):
    plan = make(figure(), garment=BLACK, knockouts=OUTSIDE)
    white = (figure()[..., :3] > 250).all(axis=2)
    labels, _ = label(white)
    rims = set(labels[0]) | set(labels[-1]) | set(labels[:, 0]) | set(labels[:, -1])
    sizes = sorted((int((labels == n).sum()) for n in range(1, labels.max() + 1) if n not in rims), reverse=True)
    assert [island.area_px for island in plan.islands] == pytest.approx(sizes[:3], rel=0.02)
    for island in plan.islands:
        assert white[int(island.y_px), int(island.x_px)]
        assert island.point == pytest.approx((island.x_px, island.y_px), abs=1)
    (told,) = knockouts(plan)
    assert [area["area_mm2"] for area in told["enclosed"]] == sorted(
        (area["area_mm2"] for area in told["enclosed"]), reverse=True
    )


def test_the_finding_stands_until_each_is_taken_or_kept(make):
    plan = make(figure(), garment=BLACK, knockouts=OUTSIDE)
    finding = next(finding for finding in plan.findings if finding.code == "enclosed-background")
    assert finding.size == pytest.approx(sum(i.area_px for i in plan.islands) * (25.4 / 300) ** 2)
    taken = make_plan(replace(plan.request, settings=finding.mend(plan.request.settings)))
    assert "enclosed-background" not in codes(taken)
    assert taken.measures.removed_px == pytest.approx(
        plan.measures.removed_px + sum(i.area_px for i in plan.islands), rel=0.01
    )
    job = Job(settings=plan.request.settings)
    half = edits.take_islands(plan.islands[:1]).made(job)
    both = edits.keep_islands(plan.islands[1:]).made(half)
    decided = make_plan(replace(plan.request, settings=both.settings))
    assert decided.islands == ()
    assert "enclosed-background" not in codes(decided)
    assert decided.measures.removed_px < taken.measures.removed_px


@pytest.mark.parametrize(
    "placement", [Placement(None, 1), Placement((60, 60, 340, 340), 0), Placement((10, 0, 350, 355), 3)]
)
def test_places_hold_however_the_artwork_lies(make, placement):
    plan = make(figure(), garment=BLACK, knockouts=OUTSIDE, placement=placement)
    assert plan.islands
    taken = edits.take_islands(plan.islands).made(Job(settings=plan.request.settings))
    assert make_plan(replace(plan.request, settings=taken.settings)).islands == ()


def test_everywhere_clicked_and_kept_colours_leave_none(make):
    for knockouts_, keeps in (
        ((Knockout(WHITE, 8.0, "everywhere"),), ()), ((), ()), (OUTSIDE, (Keep(WHITE),)),
    ):  # fmt: skip
        assert make(figure(), garment=BLACK, knockouts=knockouts_, keeps=keeps).islands == ()


def test_a_kept_area_stays_whatever_the_reach(make):
    plan = make(figure(), garment=BLACK, knockouts=OUTSIDE)
    kept = edits.keep_islands(plan.islands[:1]).made(Job(settings=plan.request.settings)).settings.knockouts
    everywhere = tuple(replace(item, reach="everywhere", edge="hard") for item in kept)
    all_of_it = make(figure(), garment=BLACK, knockouts=(replace(everywhere[0], kept=()),))
    stays = make(figure(), garment=BLACK, knockouts=everywhere)
    assert all_of_it.measures.removed_px - stays.measures.removed_px == plan.islands[0].area_px


def test_both_reaches_of_a_colour_are_those_that_the_knockouts_take(make):
    """The chips tell what either reach would take: within two per cent of the plans that take it."""
    found = find_regions(figure())
    seen = Sampled.of(found)
    white = next(index for index, rgb in enumerate(found.palette) if min(rgb) > 250)
    for reach, mask in (("outside", seen.outside(white)), ("everywhere", seen.everywhere(white))):
        taken = make(figure(), garment=BLACK, knockouts=(Knockout(WHITE, 8.0, reach, "hard"),))
        assert cv2.countNonZero(mask) == pytest.approx(taken.measures.removed_px, rel=0.02)
