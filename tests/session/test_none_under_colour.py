"""White under “None”: the design's own white still prints, and every read-out says so."""

from dataclasses import replace

import numpy as np
import pytest
from tests.conftest import badge

from swaddon.core.plan.outcome import NO_WHITE, NONE_UNDER, outcome_of
from swaddon.core.plan.stages import make_plan
from swaddon.core.schema import named
from swaddon.core.white.settings import WhiteSettings
from swaddon.session.readout import plan_table
from swaddon.session.tally import tally_lines
from swaddon.session.variants_report import facts, white_title
from swaddon.ui.stations.white import model

BLACK = (27, 27, 31)


def test_the_button_says_what_it_does():
    assert dict(named(WhiteSettings, "mode").choices)["none"].lower() == NONE_UNDER


@pytest.mark.parametrize("design", [True, False])
def test_every_readout_tells_the_designs_white(make, design):
    """0.2 ml of white printed under “no white”."""
    plan = make(badge(), garment=BLACK, white=WhiteSettings("none", design=design))
    amount = next(item for item in plan.materials if item.kind == "white").amount
    assert (amount > 0) == design
    (line,) = [item for item in tally_lines(plan, None) if item.key == "white"]
    told = (facts(outcome_of(plan)), plan_table(plan), model._mode_effect(plan))
    assert all(NONE_UNDER in text for text in told)
    assert all(("of the design" in text) for text in told) or not design
    assert (NONE_UNDER in line.delta) == design
    assert white_title("none") == NONE_UNDER
    assert white_title("need:3") == "need:3"


def test_a_press_without_white_prints_none(make):
    plan = make(badge(), garment=(250, 250, 248), white=WhiteSettings("none"))
    bare = replace(outcome_of(plan), materials=tuple(m for m in plan.materials if m.kind != "white"))
    assert bare.white_words == NO_WHITE
    solid = outcome_of(make(badge(), garment=BLACK))
    assert solid.white_words.startswith("white ")
    assert NONE_UNDER not in solid.white_words


def test_artwork_without_white_has_none_of_the_design(make):
    art = badge()
    art[(art[..., :3] > 200).all(axis=2), :3] = (200, 30, 40)
    plan = make(art, garment=BLACK, white=WhiteSettings("none"))
    assert not np.any(plan.white_plane)
    assert outcome_of(plan).white_words == NONE_UNDER
    assert make_plan(plan.request).measures.white_px == 0
