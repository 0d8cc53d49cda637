"""Prints laid on sheets: never overlapping, never longer than boxes, the same for the same seed."""

from itertools import permutations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from tests.core.sheet.shapes import PPI, ROLL, SHEET, check, items, px, shape

from swaddon.core import fast
from swaddon.core.sheet.boxes import best_boxes
from swaddon.core.sheet.gang import Gang, GangSearch, Item
from swaddon.core.sheet.layout import Area, Rules, spacing_px
from swaddon.core.sheet.media import Medium
from swaddon.core.sheet.nest import nest_plain, prepared
from swaddon.core.sheet.prints import TURNS, Outline, cell_px, cells_of, filled

MIXED = (
    ("crescent", 70, 70, 4),
    ("rectangle", 30, 15, 6),
    ("arch", 90, 50, 3),
    ("disc", 40, 40, 3),
    ("corner", 60, 50, 2),
)


TURNED = Rules(4, True)


def laid(wanted, medium=ROLL, rules=TURNED, steps=10, way="shape", seed=0) -> Gang:
    search = GangSearch(wanted, medium, PPI, rules, way, seed)
    for _ in search.improve(steps):
        pass
    return search.best


@pytest.mark.parametrize("medium", [ROLL, SHEET])
@pytest.mark.parametrize("turns", [False, True])
@pytest.mark.parametrize("way", ["shape", "box"])
def test_prints_never_overlap_nor_leave_the_medium_and_keep_their_spacing(compiled, medium, turns, way):
    """Held at full resolution against SciPy's distance transform, which nothing of ours is in."""
    gang = laid(items(*MIXED), medium, Rules(4, turns), way=way)
    check(gang, [copies for *_, copies in MIXED], 4)


@given(st.data())
def test_any_mix_of_prints_is_laid_rightly(data):
    """Random shapes, spacings and media."""
    kinds = st.sampled_from(["rectangle", "disc", "arch", "crescent", "ring", "corner"])
    wanted = data.draw(
        st.lists(st.tuples(kinds, st.integers(8, 90), st.integers(8, 90), st.integers(1, 3)), min_size=1, max_size=5)
    )
    spacing = data.draw(st.sampled_from([0.0, 1.0, 3.7, 12.0]))
    medium = data.draw(st.sampled_from([ROLL, SHEET]))
    rules = Rules(spacing, data.draw(st.booleans()), data.draw(st.booleans()))
    gang = laid(items(*wanted), medium, rules, steps=3, seed=data.draw(st.integers(0, 9)))
    check(gang, [copies for *_, copies in wanted], spacing)
    assert gang.film_mm2 == pytest.approx(
        sum(gang.film_of(index) * copies for index, (*_, copies) in enumerate(wanted)), rel=1e-9
    )


def test_the_search_and_its_plain_twin_lay_prints_alike(compiled):
    wanted = items(*MIXED)
    outlines, pieces = (
        [item.outline for item in wanted],
        [at for at, item in enumerate(wanted) for _ in range(item.copies)],
    )
    for medium in (ROLL, SHEET):
        area = Area.of(medium, PPI)
        ready = prepared(outlines, pieces, area, Rules(3, True))
        rows = 3 * ready.sheet_rows if area.height_px else 400
        choices = np.ascontiguousarray(ready.choices[list(ready.pieces)])
        order = np.random.default_rng(3).permutation(len(pieces)).astype(np.int32)
        found = []
        for way in (fast.compiled().nest, nest_plain):
            taken, places = np.zeros((rows, ready.across), np.uint8), np.zeros((len(pieces), 3), np.int32)
            most = min(ready.sheet_rows, rows)
            room = np.zeros(taken.shape, np.int16), np.zeros((len(ready.masks), 2), np.int64)
            reached = 0
            for upto in (len(pieces) // 3, len(pieces)):  # by and by, as the search does to be stopped in between
                reached = way(order[:upto], reached, choices, ready.masks, ready.fats, ready.runs, ready.fat_runs, most,
                              taken, *room, places)  # fmt: skip
            found.append((reached, places.tolist(), taken.tolist()))
        assert found[0] == found[1]


def test_without_kernels_prints_are_laid_too(either_way):
    wanted = items(("crescent", 60, 60, 2), ("rectangle", 25, 12, 3))
    check(laid(wanted, steps=1), [2, 3], 4)


@pytest.mark.parametrize("seed", range(4))
def test_by_shape_is_never_longer_than_by_boxes(compiled, seed):
    rng = np.random.default_rng(seed)
    kinds = ["rectangle", "disc", "arch", "crescent", "corner"] if seed else ["rectangle"]
    wanted = items(
        *((kinds[int(rng.integers(len(kinds)))], rng.uniform(15, 90), rng.uniform(15, 90), 3) for _ in range(8))
    )
    rules = Rules(4, True)
    by_shape, by_box = laid(wanted, rules=rules), laid(wanted, rules=rules, way="box")
    assert by_shape.film_mm2 <= by_box.film_mm2


def test_irregular_prints_take_a_fifth_less_film_than_boxes(compiled):
    """Arches in four sizes: a prototype took 22 to 23 % less film than boxes for such."""
    wanted = items(*(("arch", width, 0.6 * width, 10) for width in (90, 120, 160, 200)))
    search = GangSearch(wanted, Medium("wide", "Wide", "roll", 580), PPI, Rules(4, True))
    for _ in search.improve(20):
        pass
    assert search.best.film_mm2 < 0.78 * search.by_box.film_mm2


def test_a_label_lies_in_the_arm_of_a_crescent(compiled):
    crescent, label = shape("crescent", 100, 100), shape("rectangle", 25, 20)
    gang = laid([Item("c", crescent), Item("l", label)], Medium("n", "Narrow", "roll", 110))
    assert gang.lengths_px[0] == min(crescent.size_px())


def test_openings_of_rings_are_filled_only_if_wanted(compiled):
    wanted = [Item("ring", shape("ring", 100, 100)), Item("disc", shape("disc", 50, 50))]
    narrow = Medium("n", "Narrow", "roll", 110)
    without, within = (laid(wanted, narrow, Rules(4, False, fill)) for fill in (False, True))
    assert within.lengths_px[0] == wanted[0].outline.size_px()[1]
    assert without.lengths_px[0] >= wanted[0].outline.size_px()[1] + px(40)


def test_the_same_seed_gives_the_same_sheet(compiled):
    one, other = (laid(items(*MIXED), seed=7, steps=25) for _ in range(2))
    assert one.spots == other.spots


def test_more_steps_never_make_it_longer(compiled):
    search = GangSearch(items(*MIXED), ROLL, PPI, Rules(4, True), seed=1)
    lengths = [sum(search.best.lengths_px)]
    for _ in search.improve(40):
        lengths.append(sum(search.best.lengths_px))
    assert lengths == sorted(lengths, reverse=True)


def test_few_prints_are_laid_as_short_as_a_brute_force_finds(compiled):
    """Rectangles on a strip: every order and every way to lie, laid bottom-left by plain loops over pixels."""
    sizes = [(30, 20), (25, 40), (50, 10), (20, 20)]
    strip = Medium("s", "Strip", "roll", 60)
    wanted = [Item(str(at), shape("rectangle", *size)) for at, size in enumerate(sizes)]
    gang = laid(wanted, strip, Rules(0, True), steps=200)
    cell = cell_px(PPI)
    across = Area.of(strip, PPI).width_px
    best = min(
        _stacked([_turned(size, bits >> at & 1) for at, size in order], across, cell)
        for order in permutations(list(enumerate((px(w), px(h)) for w, h in sizes)))
        for bits in range(16)
    )
    assert gang.lengths_px[0] <= best + cell


def _turned(size, turn):
    return (size[1], size[0]) if turn else size


def _stacked(sizes, across, step):
    """Length of a strip on which rectangles are laid one after the other, each as high up and left as it goes."""
    taken = np.zeros((400, across), bool)
    length = 0
    for width, height in sizes:
        if width > across:
            return 10**6
        y, x = next(
            (y, x)
            for y in range(0, 400 - height, step)
            for x in range(0, across - width + 1, step)
            if not taken[y : y + height, x : x + width].any()
        )
        taken[y : y + height, x : x + width] = True
        length = max(length, y + height)
    return length


def test_boxes_take_no_less_than_their_area_and_hold_the_librarys_rules(compiled):
    outlines = [shape("rectangle", 40, 30), shape("disc", 25, 25)]
    area, rules = Area.of(ROLL, PPI), Rules(3, True)
    made = best_boxes(outlines, [0, 0, 0, 1, 1, 1, 1], area, rules)
    gap = spacing_px(rules, PPI)
    boxes = sum((width + gap) * (height + gap) * count for (width, height), count in zip(
        (outline.size_px() for outline in outlines), (3, 4), strict=True))  # fmt: skip
    assert (made.lengths_px[0] + gap) * (area.width_px + gap) >= boxes


def test_prints_of_different_groups_never_share_a_sheet(compiled):
    wanted = [Item(str(at), shape("disc", 20, 20), 2, group) for at, group in enumerate("abab")]
    gang = laid(wanted, SHEET)
    assert gang.sheets == 2
    for spot in gang.spots:
        assert gang.groups[spot.sheet - 1] == wanted[spot.item].group


def test_what_does_not_fit_is_named_with_its_size_and_a_way_out():
    wide = Item("“wide.png”", shape("rectangle", 320, 40))
    with pytest.raises(ValueError, match=r"“wide.png” prints 320 × 40 mm.*290 mm.*let prints be turned"):
        GangSearch([wide], ROLL, PPI, Rules(4, False))
    check(laid([wide], rules=Rules(4, True)), [1], 4)
    with pytest.raises(ValueError, match="nothing to lay"):
        GangSearch([], ROLL, PPI, Rules())
    with pytest.raises(ValueError, match="smaller than its margins"):
        Area.of(Medium("m", "Tiny", "cut", 8, 100, (5, 5, 5, 5)), PPI)
    with pytest.raises(ValueError, match="heat-press plate"):
        GangSearch([wide], Medium("p", "Plate", "plate", 400, 400), PPI, Rules())


def test_turned_outlines_and_their_insets_are_those_of_the_turned_plane():
    plane = np.zeros((50, 80), np.uint8)
    plane[10:30, 5:60] = np.random.default_rng(0).integers(0, 2, (20, 55)) * 255
    plane[10, 5] = plane[29, 59] = 255
    outline = Outline.of(plane, PPI)
    for turn in TURNS:
        turned = np.rot90(plane, -(turn // 90))
        x, y = outline.inset_px(turn)
        width, height = outline.size_px(turn)
        assert outline.artboard_px(turn) == turned.shape[::-1]
        assert np.array_equal(outline.mask(turn) > 0, turned[y : y + height, x : x + width] > 0)


def test_cells_hold_every_pixel_and_all_that_is_too_near():
    """Each pixel nearer than the spacing lies in a fat cell: counted over all pixels with SciPy's distances."""
    from scipy.ndimage import distance_transform_edt

    outline, spacing = shape("crescent", 60, 50), 4.0
    side = cell_px(PPI)
    cells = cells_of(outline, 90, spacing, fill_rings=True)
    mask = outline.mask(90) > 0
    rows, columns = np.nonzero(mask)
    assert cells.thin[rows // side, columns // side].all()
    rim = cells.reach * side
    wide = np.pad(mask, rim)
    near = distance_transform_edt(~wide) < spacing * PPI / 25.4 + 1
    rows, columns = np.nonzero(near)
    assert cells.fat[rows // side, columns // side].all()


def test_what_a_mask_encloses_is_filled_and_nothing_else():
    ring = np.zeros((9, 9), np.uint8)
    ring[2:7, 2:7] = 255
    ring[4, 4] = 0
    ring[0, 0] = 255
    expected = ring.copy()
    expected[4, 4] = 255
    assert np.array_equal(filled(ring), expected)
