"""The core sample: the plan's own amounts in true order, and the model's colour."""

import numpy as np
import pytest
from tests.conftest import badge

from swaddon.core.colour.spaces import delta_e_2000, lab_from_srgb8
from swaddon.core.knockout.settings import Knockout
from swaddon.core.proof.optics import Appearance, fine_white, seen
from swaddon.session.core_sample import core_sample

BLACK = (27, 27, 31)
MM = 25.4 / 300


@pytest.mark.parametrize(("process", "first"), [("film", "powder"), ("direct", "pretreat")])
def test_layers_lie_in_true_order_with_the_plans_amounts(make, process, first):
    plan = make(badge(), process, garment=BLACK)
    sample = core_sample(plan, 150.5 * MM, 60.5 * MM)
    keys = [layer.key for layer in sample.layers]
    assert keys[:3] == ["garment", first, "W"]
    by_key = {layer.key: layer for layer in sample.layers}
    assert by_key["W"].share == plan.white_plane[60, 150] / 255
    for index, ink in enumerate("CMYK"):
        if plan.cmyk[60, 150, index]:
            assert by_key[ink].share == plan.cmyk[60, 150, index] / 255
            assert keys.index(ink) > keys.index("W")


def test_the_colour_seen_is_the_models_and_the_difference_is_measured(make):
    plan = make(badge(), garment=BLACK)
    sample = core_sample(plan, 150.5 * MM, 60.5 * MM)
    look = Appearance.of(BLACK, plan.request.profile)
    picture = seen(plan.cmyk, fine_white(plan.white_plane), look)
    assert np.abs(np.array(sample.seen) - picture[60, 150]).max() <= 1
    assert sample.wanted == tuple(badge()[60, 150, :3])
    wanted = float(delta_e_2000(lab_from_srgb8(sample.seen), lab_from_srgb8(sample.wanted)))
    assert sample.delta_e == pytest.approx(wanted, abs=0.8)


def test_bare_cloth_is_cloth_alone_and_beside_the_artboard_is_nothing(make):
    plan = make(badge(), garment=BLACK, knockouts=(Knockout((200, 30, 40), 5, "everywhere", "hard"),))
    for x, y in ((1.0, 1.0), (150.5 * MM, 60.5 * MM)):
        sample = core_sample(plan, x, y)
        assert [layer.key for layer in sample.layers] == ["garment"]
        assert sample.wanted == BLACK
        assert sample.delta_e < 1
    assert core_sample(plan, -1, 5) is None
    assert core_sample(plan, 500, 5) is None
