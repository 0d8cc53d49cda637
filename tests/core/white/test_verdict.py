"""The verdict: the cheapest answer that holds the visible colours, in one sentence with its reason."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from swaddon.core.colour.spaces import bands_from_srgb8, delta_e_2000, lab_from_bands
from swaddon.core.inks.inverse import solved, target_lab
from swaddon.core.inks.separation import NODES, interpolate
from swaddon.core.proof.optics import Appearance
from swaddon.core.white.need import AMOUNTS, errors, highlight_table, nodes
from swaddon.core.white.verdict import TOLERABLE, ColourVerdict, enough_white, verdicts
from swaddon.io import profiles
from swaddon.io.tables import separation_table

FILM = profiles.shipped("film")
TABLE = separation_table(FILM.separation)


def colour(
    bare: float, strengthened: float, highlights: float, by_need: float, share: float = 0.5, rgb=(200, 30, 40)
) -> ColourVerdict:
    nothing = (0.0, 0.0, 0.0, 0.0)
    return ColourVerdict(rgb, share, bare, strengthened, highlights, by_need, by_need, 0.5, nothing, nothing)


@pytest.mark.parametrize(
    ("items", "enough", "says"),
    [
        ((), "none", "Nothing is printed."),
        ((colour(3, 3, 3, 3),), "none", "No white needed: without it no colour shifts."),
        ((colour(7, 7, 7, 3),), "none", "no colour shifts by more than ΔE 4.0 (#c81e28 most)"),
        ((colour(14, 5, 14, 3),), "strengthen", "#c81e28 is off by ΔE 14 as it is, by 5 then"),
        ((colour(14, 14, 4, 3),), "highlight", "White under highlights is enough"),
        ((colour(40, 38, 40, 5),), "white", "White needed: #c81e28 ΔE 40 bare, 5 with."),
        ((colour(4, 4, 4, 3), colour(60, 60, 60, 5, share=0.005)), "none", "ΔE 1.0"),
        ((colour(60, 60, 60, 5, share=0.005),), "white", "White needed"),
    ],
)
def test_the_cheapest_answer_that_is_enough_is_given(items, enough, says):
    found, reason = enough_white(tuple(items))
    assert found == enough
    assert says in reason
    assert reason.endswith(".")


@given(st.lists(st.tuples(*[st.floats(0, 80)] * 4), min_size=1, max_size=6))
def test_what_is_enough_leaves_no_visible_colour_far_from_white_by_need(rows):
    items = tuple(colour(max(b, s), s, min(h, max(b, s)), n) for b, s, h, n in rows)
    enough, _ = enough_white(items)
    column = {"none": "bare", "strengthen": "strengthened", "highlight": "highlights", "white": "by_need"}[enough]
    assert all(getattr(item, column) - item.by_need <= TOLERABLE + 1e-9 for item in items)


def test_strengthened_recipes_are_those_of_the_whole_table():
    """Solved for a few colours alone or on the whole grid: the same inks at the grid's own colours."""
    rgb = nodes()[[5 * NODES**2 + 9 * NODES + 20, 20 * NODES**2 + 4 * NODES + 7]]
    alone = solved(rgb, FILM.separation)
    np.testing.assert_allclose(interpolate(TABLE, rgb) / 255, alone, atol=2e-3)


def test_verdicts_agree_with_the_errors_they_come_from(compiled):
    look = Appearance.of((224, 212, 186), FILM)
    main = [((200, 30, 40), 0.6), ((245, 240, 230), 0.3), ((30, 60, 180), 0.1)]
    found = verdicts(main, FILM.separation, FILM.white, TABLE, look, 3.0)
    rgb = np.array([c for c, _ in main], np.uint8)
    inks = interpolate(TABLE, rgb) / 255
    error = errors(target_lab(rgb.astype(float), FILM.separation), inks, look)
    for item, row in zip(found, error, strict=True):
        assert item.bare == pytest.approx(float(row[0]))
        assert item.solid == pytest.approx(float(row[-1]))
        assert item.by_need <= row.min() + 3.05
        assert item.by_need == pytest.approx(float(np.interp(item.amount, AMOUNTS, row)))
    assert found[1].highlights < found[1].bare, "the pale tint gets white under highlights"
    assert found[0].highlights == pytest.approx(found[0].bare), "the red does not"
    assert verdicts([], FILM.separation, FILM.white, TABLE, look, 3.0) == ()


def delta_lab(rgb: np.ndarray) -> np.ndarray:
    return lab_from_bands(bands_from_srgb8(rgb))


def test_the_highlight_table_rises_with_the_smallest_component():
    table = highlight_table(FILM.white).reshape(-1)
    lowest = nodes().min(axis=1) / 255
    order = np.argsort(lowest, kind="stable")
    assert (np.diff(table[order]) >= -1e-6).all()
    assert table[lowest <= FILM.white.highlight_from].max() == 0
    assert table[lowest >= FILM.white.design_from].min() == 1


def test_more_tint_of_the_cloth_needs_more_help(compiled):
    """From white over natural to straw, a blue without white comes out ever farther off."""
    off = []
    for garment in ((250, 250, 248), (235, 228, 212), (224, 212, 186), (205, 180, 120)):
        look = Appearance.of(garment, FILM)
        (item,) = verdicts([((60, 100, 190), 1.0)], FILM.separation, FILM.white, TABLE, look, 3.0)
        off.append(item.bare)
        assert item.strengthened <= item.bare
    assert off == sorted(off)
    assert float(delta_e_2000(delta_lab(np.array([60, 100, 190])), delta_lab(np.array([60, 100, 190])))) == 0
