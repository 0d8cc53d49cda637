"""Outlines by hand: what they take, whatever the colours; crossings; files."""

import json

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from skimage.draw import polygon2mask
from tests.conftest import badge

from swaddon.core.artwork.placement import Placement
from swaddon.core.knockout.outlines import coverage, crossing, inside, simplified
from swaddon.core.knockout.settings import Knockout, OutlineKnockout
from swaddon.core.plan.report import plan_report
from swaddon.session.outline_file import read_outlines

STAR = ((20.0, 10.0), (80.0, 30.0), (60.0, 85.0), (45.0, 50.0), (15.0, 70.0))


@pytest.mark.parametrize("seed", range(6))
def test_the_inside_is_what_an_independent_fill_says(seed):
    """scikit-image's polygon, but for the antialiased rim."""
    rng = np.random.default_rng(seed)
    angles = np.sort(rng.uniform(0, 2 * np.pi, 12))
    corners = 50 + np.stack([np.cos(angles), np.sin(angles)], axis=1) * rng.uniform(15, 45, (12, 1))
    own = coverage(corners, "inside", 100, 100)
    reference = polygon2mask((100, 100), corners[:, ::-1] - 0.5)
    disagree = (own > 127) != reference
    assert (disagree & ((own == 0) | (own == 255))).sum() == 0
    assert disagree.mean() < 0.01
    outside = coverage(corners, "outside", 100, 100)
    assert np.array_equal(own.astype(int) + outside, np.full((100, 100), 255))


@pytest.mark.parametrize("side", ["inside", "outside"])
def test_one_side_goes_whatever_its_colours(make, side):
    rng = np.random.default_rng(1)
    art = rng.integers(0, 256, (100, 100, 4), np.uint8)
    art[..., 3] = 255
    plan = make(art, outlines=(OutlineKnockout(STAR, side),))
    own = coverage(np.array(STAR), side, 100, 100)
    assert not plan.art[..., 3][own == 255].any()
    assert (plan.art[..., 3][own == 0] == 255).all()
    assert (plan.knocked.taken[own == 255] > 0).all()
    assert not plan.cmyk[own == 255].any()
    told = plan_report(plan)["outlines"][0]
    assert (told["side"], told["act"], told["corners"]) == (side, "knock", 5)


def test_what_is_kept_no_knockout_takes(make):
    art = np.zeros((100, 100, 4), np.uint8)
    art[...] = (255, 255, 255, 255)
    art[40:60, 40:60, :3] = (200, 30, 40)
    white = Knockout((255, 255, 255), 8.0, "everywhere", "hard")
    plan = make(art, knockouts=(white,), outlines=(OutlineKnockout(STAR, "inside", "keep"),))
    own = coverage(np.array(STAR), "inside", 100, 100)
    assert (plan.art[..., 3][own > 127] == 255).all()
    assert not plan.art[..., 3][(own == 0) & (art[..., 1] == 255)].any()


def test_an_outline_stays_on_its_motif_through_crop_turn_and_size(make):
    art = np.zeros((100, 140, 4), np.uint8)
    art[...] = (200, 30, 40, 255)
    box = ((30.0, 20.0), (90.0, 20.0), (90.0, 60.0), (30.0, 60.0))
    placement = Placement((10, 10, 130, 90), 1)
    plan = make(art, outlines=(OutlineKnockout(box, "inside"),), placement=placement, width_mm=20.0)
    height, width = plan.art.shape[:2]
    gone = np.argwhere(plan.art[..., 3] == 0)
    # turned clockwise: what was at (x, y) of the crop lies at (80 - y, x) of 80 × 120
    wanted = np.array([[20 / 120 * height, (80 - 50) / 80 * width], [80 / 120 * height, (80 - 10) / 80 * width]])
    assert gone.min(axis=0) == pytest.approx(wanted[0], abs=1.5)
    assert gone.max(axis=0) == pytest.approx(wanted[1], abs=1.5)


def test_an_outline_far_beyond_the_artwork_takes_all_or_nothing(make):
    far = ((-1e6, -1e6), (1e6, -1e6), (1e6, 1e6), (-1e6, 1e6))
    assert "nothing-printed" in {f.code for f in make(badge(), outlines=(OutlineKnockout(far, "inside"),)).findings}
    kept = make(badge(), outlines=(OutlineKnockout(far, "outside"),))
    assert np.array_equal(kept.art, make(badge()).art)


def crosses(points):
    """Every pair of edges, by orientation."""

    def turn(a, b, c):
        return np.sign((b[0] - a[0]) * (c[1] - a[1]) - (b[1] - a[1]) * (c[0] - a[0]))

    edges = list(zip(points, points[1:] + points[:1], strict=True))
    for i, (a, b) in enumerate(edges):
        for j in range(i + 2, len(edges)):
            if i == 0 and j == len(edges) - 1:
                continue
            c, d = edges[j]
            if turn(a, b, c) * turn(a, b, d) < 0 and turn(c, d, a) * turn(c, d, b) < 0:
                return True
    return False


@given(
    st.lists(st.tuples(st.floats(0, 100, width=16), st.floats(0, 100, width=16)), min_size=3, max_size=9, unique=True)
)
def test_a_line_that_crosses_itself_is_found(points):
    if crosses(points):
        assert crossing(points) is not None


def test_a_plain_line_crosses_nowhere():
    angles = np.linspace(0, 2 * np.pi, 400, endpoint=False)
    assert crossing([(50 + 40 * np.cos(a), 50 + 30 * np.sin(a)) for a in angles]) is None
    assert crossing(STAR) is None


def test_fewer_corners_stay_within_their_distance():
    angles = np.linspace(0, 2 * np.pi, 720, endpoint=False)
    ring = [(500 + 400 * np.cos(a), 500 + 400 * np.sin(a)) for a in angles]
    few = simplified(ring, 2.0)
    assert len(few) < 60
    one, other = (coverage(np.array(line), "inside", 1000, 1000) for line in (ring, few))
    assert (one != other).sum() < 2 * np.pi * 400 * 2.5
    assert inside(few, (500, 500))
    assert not inside(few, (5, 5))


# files


def test_outlines_are_read_from_a_file_and_from_plan_json(make, tmp_path):
    path = tmp_path / "o.json"
    path.write_text(json.dumps({"points_px": STAR, "side": "inside"}))
    (read,) = read_outlines(path)
    assert read == OutlineKnockout(STAR, "inside", "knock")
    path.write_text(json.dumps(plan_report(make(badge(), outlines=(read,)))["outlines"]))
    assert read_outlines(path) == (read,)


@pytest.mark.parametrize(
    ("content", "says"),
    [
        ("[", "is not JSON"),
        ("3", "outline 1 has a wrong value"),
        ('{"points_px": [[0, 0], [1, 1]]}', "at points_px"),
        ('{"points_px": [[0, 0], [4, 4], [4, 0], [0, 4]]}', "crosses itself near 2, 2 px"),
        ('{"points_px": [[0, 0], [4, 0], ["x", 4]]}', "points_px.2.0"),
        ('{"points_px": [[0, 0], [4, 0], [1e99, 4]]}', "points_px.2.0"),
        ('{"points_px": [[0, 0], [4, 0], [4, 4]], "side": "left"}', "at side"),
        ("[" * 5000, "is not JSON"),
    ],
)
def test_what_is_no_outline_is_refused_in_a_sentence(tmp_path, content, says):
    path = tmp_path / "bad.json"
    path.write_text(content)
    with pytest.raises(ValueError, match=says):
        read_outlines(path)
