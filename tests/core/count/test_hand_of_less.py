"""Hand: a print that loses ink must not read as stiffer."""

from dataclasses import replace

import numpy as np
import pytest

from swaddon.core.knockout.settings import Knockout
from swaddon.core.plan.stages import make_plan
from swaddon.session.tally import tally_lines

BLACK = (27, 27, 31)


def lamp() -> np.ndarray:
    """A bright disc on a large dark ground: half of its ink is the ground's."""
    art = np.zeros((300, 300, 4), np.uint8)
    art[...] = (20, 20, 24, 255)
    ys, xs = np.mgrid[:300, :300]
    art[np.hypot(ys - 150, xs - 150) < 80, :3] = (240, 190, 60)
    return art


def test_less_ink_reads_as_less(make):
    """104 g/m² became 151 once the background was taken out: half the ink, on less than half the area."""
    whole = make(lamp(), garment=BLACK)
    taken = make(lamp(), garment=BLACK, knockouts=(Knockout((20, 20, 24), 5, "outside", "soft"),))
    assert taken.hand.grams < 0.7 * whole.hand.grams
    assert taken.hand.g_per_m2 / whole.hand.g_per_m2 == pytest.approx(taken.hand.grams / whole.hand.grams)
    printed_m2 = taken.measures.printed_mm2 / 1e6
    assert taken.hand.printed_g_per_m2 == pytest.approx(taken.hand.grams / printed_m2), "heavier where it prints: told"


def test_grams_are_those_of_the_materials(make):
    plan = make(lamp(), garment=BLACK)
    own = sum(m.amount * m.supply.grams for m in plan.materials if m.kind in ("white", "colour", "powder"))
    area_m2 = plan.measures.artboard_mm2 / 1e6
    assert plan.hand.grams == pytest.approx(own)
    assert plan.hand.g_per_m2 == pytest.approx(own / area_m2)


@pytest.mark.parametrize("mode", ["none", "solid", "need"])
def test_the_area_is_that_of_the_artwork_whatever_is_printed(make, mode):
    """White of the design that is not printed is area as well: per m² only the ink decides."""
    art = lamp()
    art[:60, :60, :3] = 255
    plan = make(art, garment=(250, 250, 250))
    request = plan.request
    white = replace(request.settings.white, mode=mode, design=False)
    plan = make_plan(replace(request, settings=replace(request.settings, white=white)))
    assert plan.hand.g_per_m2 == pytest.approx(plan.hand.grams / plan.measures.artboard_mm2 * 1e6)


def test_the_tally_tells_grams_first(make):
    plan = make(lamp(), garment=BLACK)
    line = next(item for item in tally_lines(plan, None) if item.key == "hand")
    assert line.value == f"{plan.hand.grams:.2f} g · {plan.hand.g_per_m2:.0f} g/m²"
