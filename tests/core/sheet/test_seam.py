"""Seams: exact, never worse than straight, through the points they are dragged to; splits that give the print back."""

import cv2
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from PIL import Image, ImageDraw, ImageFont
from scipy.sparse import coo_array
from scipy.sparse.csgraph import dijkstra
from tests.core.sheet.shapes import PPI

from swaddon.core.artwork.raster import bounds
from swaddon.core.sheet import seam as seams
from swaddon.core.sheet.grid import SplitRules, laid_on_side
from swaddon.core.sheet.layout import Area
from swaddon.core.sheet.lettering import lettering_of
from swaddon.core.sheet.media import Medium
from swaddon.core.sheet.seam import MOST_TURNS, crossing_px, find_seam, straight_crossings
from swaddon.core.sheet.split import press_plan, split_print, together

A4 = Medium("a4", "Sheet A4", "sheet", 210, 297, (5, 5, 5, 5))


def blobs(height: int, width: int, seed: int, count: int = 30) -> np.ndarray:
    rng, out = np.random.default_rng(seed), np.zeros((height, width), np.uint8)
    for _ in range(count):
        at = int(rng.integers(width)), int(rng.integers(height))
        cv2.circle(out, at, int(rng.integers(3, max(4, height // 8))), 255, -1)
    return out


def reference(printed, weight, ink, clear, turn, first, last):
    """The cheapest seam by SciPy's Dijkstra on the whole graph: nodes are a row's columns as entered and as left."""
    height, width = printed.shape
    count = last - first + 1
    sources, targets, prices = [], [], []

    def edge(one, other, price):
        sources.append(one)
        targets.append(other)
        prices.append(price + 1e-9)

    def price(y0, x0, y1, x1):
        w = max(weight[y0, x0], weight[y1, x1])
        return ink[w] if printed[y0, x0] and printed[y1, x1] else clear[w]

    layers = 3  # kept straight or begun; swept left; swept right
    node = lambda y, at, layer: (y * count + at) * layers + layer  # noqa: E731
    total = height * count * layers
    for y in range(height):
        for at in range(count):
            s = first + at
            down = price(y, s - 1, y, s) if 0 < s < width else 0
            if y + 1 == height:
                edge(node(y, at, 0), total + 1, down)
            else:
                edge(node(y, at, 0), node(y + 1, at, 0), down)
                for layer in (1, 2):
                    edge(node(y, at, 0), node(y + 1, at, layer), down + turn)
            if y == 0:
                edge(total, node(0, at, 0), 0)
                continue
            for layer, step in ((1, -1), (2, 1)):
                if 0 <= at + step < count:
                    x = min(s, s + step)
                    edge(node(y, at, layer), node(y, at + step, layer), price(y - 1, x, y, x))
                edge(node(y, at, layer), node(y, at, 0), 0)
    graph = coo_array((prices, (sources, targets)), shape=(total + 2, total + 2)).tocsr()
    return dijkstra(graph, indices=total)[total + 1]


@pytest.mark.parametrize("seed", range(6))
def test_the_cheapest_seam_is_that_of_a_reference_shortest_path(either_way, seed):
    rng = np.random.default_rng(seed)
    printed = (blobs(24, 20, seed, 9) > 0).astype(np.uint8)
    weight = rng.integers(0, 3, printed.shape).astype(np.uint8)
    ink, clear = np.array([64, 64, 256], np.int32), np.array([0, 1, 1], np.int32)
    through = np.zeros((24, 2), np.int32)
    through[:, 1] = 14
    columns = seams._cheapest(printed, weight, ink, clear, through, 3, 70)
    assert _price(printed, weight, ink, clear, columns, 70) == pytest.approx(
        reference(printed, weight, ink, clear, 70, 3, 17), abs=0.01
    )


def _price(printed, weight, ink, clear, columns, turn):
    total = 0
    for y, s in enumerate(columns.tolist()):
        pairs = [((y, s - 1), (y, s))] if 0 < s < printed.shape[1] else []
        if y and columns[y - 1] != s:
            total += turn
            pairs += [((y - 1, x), (y, x)) for x in range(min(s, columns[y - 1]), max(s, columns[y - 1]))]
        for one, other in pairs:
            w = max(weight[one], weight[other])
            total += int((ink if printed[one] and printed[other] else clear)[w])
    return total


@pytest.mark.parametrize("seed", range(8))
def test_a_seam_never_crosses_more_than_the_best_straight_one_and_has_few_turns(compiled, seed):
    printed = blobs(400, 500, seed, 120 if seed % 2 else 40)
    if seed == 7:
        printed = (np.random.default_rng(7).random(printed.shape) > 0.4).astype(np.uint8) * 255
    found = find_seam(printed, None, PPI, 180, 320)
    best = min(int(straight_crossings(printed, 180, 320).min()), 10**9)
    assert found.straight_mm == pytest.approx(best * 25.4 / PPI)
    assert found.crossing_mm <= found.straight_mm + 1e-9
    assert found.turns <= MOST_TURNS
    assert found.crossing_mm == pytest.approx(_brute_crossing(printed, found.columns) * 25.4 / PPI)
    assert found.columns.min() >= 180
    assert found.columns.max() <= 320


def _brute_crossing(mask, columns):
    """Pairs of neighbouring printed pixels on different sides of the seam, over the whole picture."""
    side = np.arange(mask.shape[1])[None, :] < columns[:, None]
    on = mask > 0
    level = on[:, 1:] & on[:, :-1] & (side[:, 1:] != side[:, :-1])
    down = on[1:] & on[:-1] & (side[1:] != side[:-1])
    return int(level.sum() + down.sum())


def test_straight_crossings_are_those_counted_one_by_one():
    printed = blobs(60, 40, 1)
    own = straight_crossings(printed, 0, 40)
    assert own.tolist() == [crossing_px(printed, np.full(60, s, np.int32)) for s in range(41)]


def test_a_free_way_is_taken_and_kept_off_the_ink(compiled):
    """Two columns of blocks, offset: no straight seam is free, a bent one is, and stays 1.5 mm from the ink."""
    printed = np.zeros((300, 300), np.uint8)
    printed[20:140, 20:170] = printed[20:140, 210:280] = 255
    printed[160:280, 20:110] = printed[160:280, 150:280] = 255
    found = find_seam(printed, None, PPI, 60, 240)
    assert found.straight_mm > 0
    assert found.crossing_mm == 0
    away = cv2.distanceTransform(255 - printed, cv2.DIST_L2, cv2.DIST_MASK_PRECISE)
    rows = np.arange(300)
    assert (away[rows, found.columns] * 25.4 / PPI).min() > 1.2


def test_a_seam_keeps_out_of_lettering_where_ink_costs_the_same(compiled):
    printed = np.full((200, 200), 255, np.uint8)
    letters = np.zeros_like(printed)
    letters[80:120, 70:130] = 255
    found = find_seam(printed, letters, PPI, 60, 140)
    assert found.lettering_mm == 0
    assert found.crossing_mm <= found.straight_mm + 1e-9


@given(st.integers(0, 50), st.integers(20, 80), st.integers(5, 140))
def test_a_dragged_seam_goes_through_its_point(seed, x, y):
    printed = blobs(150, 100, seed)
    mm = 25.4 / PPI
    found = find_seam(printed, None, PPI, 10, 90, through=[(x * mm, y * mm)])
    assert found.columns[min(y, 149)] == x
    straight = find_seam(printed, None, PPI, 10, 90, through=[(x * mm, y * mm)], bent=False)
    assert set(straight.columns.tolist()) == {x}


@pytest.mark.parametrize("overlap", [0.0, 4.0])
@pytest.mark.parametrize("size", [(900, 700), (500, 1200), (1500, 1400), (300, 300)])
def test_parts_laid_together_give_the_print_back_and_each_fits_its_sheet(compiled, size, overlap):
    rng = np.random.default_rng(1)
    printed = blobs(*size, 5, 60)
    art = rng.integers(1, 256, size).astype(np.uint8)
    art[printed == 0] = 0
    split = split_print(printed, None, A4, PPI, SplitRules(overlap))
    planes = []
    for part in split.parts:
        box = part.box
        planes.append(np.where(part.mask() > 0, art[box.top : box.bottom, box.left : box.right], 0).astype(np.uint8))
    assert np.array_equal(together(split.parts, planes, size), art)
    area = Area.of(laid_on_side(A4) if split.turned else A4, PPI)
    for part in split.parts:
        own = bounds(part.mask())
        assert area.takes(own.width, own.height)
    if not overlap:
        held = sum(int(np.count_nonzero(plane)) for plane in planes)
        assert held == np.count_nonzero(art), "a pixel lies on two sheets that butt"
    assert [part.number for part in split.parts] == list(range(1, len(split.parts) + 1))


def test_an_overlap_is_shared_by_both_sides(compiled):
    printed = np.full((300, 900), 255, np.uint8)
    split = split_print(printed, None, A4, PPI, SplitRules(10.0, bent=False))
    one, other = split.parts[:2]
    shared_mm = (one.box.right - other.box.left) * 25.4 / PPI
    assert shared_mm == pytest.approx(10, abs=0.4)


def test_a_print_that_fits_is_not_cut_and_one_that_is_far_too_large_is_refused(compiled):
    assert not split_print(np.full((100, 100), 255, np.uint8), None, A4, PPI).cuts
    with pytest.raises(ValueError, match="more than 64"):
        split_print(np.full((9000, 9000), 255, np.uint8), None, A4, PPI)
    with pytest.raises(ValueError, match="nothing is printed"):
        split_print(np.zeros((10, 10), np.uint8), None, A4, PPI)


def test_lettering_is_found_and_blocks_and_lines_are_not():
    picture = Image.new("RGBA", (900, 500))
    pen, font = ImageDraw.Draw(picture), ImageFont.load_default(90)
    pen.fontmode = "1"
    pen.text((40, 40), "Merrowmere", (20, 20, 160, 255), font)
    pen.rectangle((40, 200, 600, 480), (200, 160, 20, 255))
    pen.text((90, 280), "REGATTA", (250, 250, 250, 255), font)
    art = np.array(picture)
    art[250:255, 640:880] = (10, 10, 10, 255)
    mask = lettering_of(art, 150)
    assert mask is not None
    word = (art[..., :3] == (20, 20, 160)).all(axis=-1)
    on_block = (art[..., :3] == (250, 250, 250)).all(axis=-1)
    assert mask[word].mean() / 255 > 0.9
    assert mask[on_block].mean() / 255 > 0.9
    assert mask[(art[..., :3] == (200, 160, 20)).all(axis=-1)].mean() / 255 < 0.08
    assert mask[252, 700] == 0
    assert lettering_of(np.zeros((50, 50, 4), np.uint8), 150) is None


@given(st.floats(20, 1500), st.floats(20, 1500))
def test_a_plate_goes_over_all_of_a_transfer(width, height):
    plate = Medium("p", "Plate", "plate", 381, 508)
    goes = press_plan(width, height, plate)
    for x in np.linspace(0, width, 13):
        for y in np.linspace(0, height, 13):
            assert any(
                go.x_mm - 0.01 <= x <= go.x_mm + go.width_mm + 0.01
                and go.y_mm - 0.01 <= y <= go.y_mm + go.height_mm + 0.01
                for go in goes
            )
    sides = sorted((plate.width_mm, plate.height_mm))
    for go in goes:
        own = sorted((go.width_mm, go.height_mm))
        assert own[0] <= sides[0] + 0.01
        assert own[1] <= sides[1] + 0.01


def test_a_transfer_of_15_by_14_inches_needs_a_plate_of_16_by_20():
    """Common practice, no source: it needs two goes on a smaller plate."""
    assert len(press_plan(381, 355.6, Medium("p", "Plate", "plate", 406.4, 508))) == 1
    assert len(press_plan(381, 355.6, Medium("p", "Plate", "plate", 381, 330))) == 2


@pytest.mark.parametrize("step", [0.0, 0.3, 0.7, 3.0])
def test_a_step_saves_at_least_its_price(step):
    """Two gaps of which one lies a step aside: it is taken where the crossing that it saves is worth a step."""
    for saved in (1, 3, 6, 20):
        printed = np.zeros((60, 80), np.uint8)
        printed[:, 10:70] = 255
        printed[:30, 40] = 0
        printed[30 : 60 - saved, 40] = 0
        printed[60 - saved :, 45] = 0
        found = find_seam(printed, None, PPI, 38, 48, step_mm=step)
        mm = 25.4 / PPI
        bent = not found.is_straight
        if bent:
            assert found.straight_mm - found.crossing_mm >= step - 1e-9
        if saved * mm > step + 6 * mm:
            assert bent, (saved, step)


def test_a_step_that_costs_nothing_crosses_least_and_dear_steps_cut_straight():
    printed = blobs(150, 100, 3)
    told = [find_seam(printed, None, PPI, 10, 90, step_mm=step) for step in (0.0, 0.7, 5.0, 50.0)]
    crossings = [item.crossing_mm for item in told]
    assert crossings == sorted(crossings)
    assert told[-1].is_straight
    assert all(item.turns <= MOST_TURNS for item in told)
