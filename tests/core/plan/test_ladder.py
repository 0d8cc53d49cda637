"""The limit ladder: every rung is the plan that its limit would give."""

from dataclasses import replace

import numpy as np
import pytest
from tests.core.white.test_white_choices import blocks

from swaddon.core.engine import Cache, Run
from swaddon.core.holes.settings import HoleSettings, Screen
from swaddon.core.plan.ladder import LIMITS, limit_ladder
from swaddon.core.plan.stages import make_plan
from swaddon.core.white.settings import WhiteSettings

BLACK = (27, 27, 31)
COLOURS = ((250, 210, 40), (200, 30, 40), (20, 120, 60), (0, 0, 0))


@pytest.mark.parametrize("holes", [HoleSettings(), HoleSettings(Screen("round", 30, 52.5, 0.7))])
def test_a_rungs_white_is_that_of_the_plan_with_its_limit(make, holes):
    art = np.repeat(np.repeat(blocks(*COLOURS), 3, axis=0), 3, axis=1)
    plan = make(art, "toner-onepass", garment=BLACK, holes=holes, white=WhiteSettings("limit", limit=280))
    rungs = limit_ladder(plan, Run(Cache()))
    assert [rung.limit for rung in rungs] == list(LIMITS)
    for rung in rungs:
        white = replace(plan.request.settings.white, limit=rung.limit)
        other = make_plan(replace(plan.request, settings=replace(plan.request.settings, white=white)))
        wanted = next(material.amount for material in other.materials if material.kind == "white")
        assert rung.amount == pytest.approx(wanted, rel=1e-6)
    amounts = [rung.amount for rung in rungs]
    assert amounts == sorted(amounts)


def test_rungs_name_the_colours_without_white_and_the_worst(make):
    art = np.repeat(np.repeat(blocks(*COLOURS), 3, axis=0), 3, axis=1)
    plan = make(art, "toner-onepass", garment=(120, 30, 40), white=WhiteSettings("limit", limit=170))
    rungs = {rung.limit: rung for rung in limit_ladder(plan, Run(Cache()))}

    def near(colours, wanted) -> bool:
        return any(max(abs(a - b) for a, b in zip(colour, wanted, strict=True)) < 12 for colour in colours)

    assert near(rungs[170].bare, COLOURS[1])
    assert near(rungs[170].bare, COLOURS[2])
    assert not near(rungs[170].bare, COLOURS[0])
    assert near(rungs[280].bare, COLOURS[3])
    assert not near(rungs[280].bare, COLOURS[2])
    assert rungs[400].bare == ()
    assert rungs[170].worst_delta_e > rungs[280].worst_delta_e


def test_black_turns_greyish_on_the_proof_at_400_percent(make):
    """Common practice, no source: at 280 % black stays black, at 400 % white under it greys it."""
    art = np.repeat(np.repeat(blocks((0, 0, 0), (250, 210, 40)), 3, axis=0), 3, axis=1)
    plan = make(art, "toner-onepass", garment=BLACK, white=WhiteSettings("limit", limit=280))
    rungs = {rung.limit: rung for rung in limit_ladder(plan, Run(Cache()))}
    black = {limit: rung.proof[20:-20, 20:80].mean() for limit, rung in rungs.items()}
    assert black[400] > black[280] + 10
    assert max(rungs[400].proof.shape) <= 260


def test_nothing_printed_has_a_ladder_too(make):
    plan = make(np.zeros((60, 60, 4), np.uint8), garment=BLACK, white=WhiteSettings("limit"))
    for rung in limit_ladder(plan, Run(Cache())):
        assert (rung.amount, rung.worst, rung.bare) == (0.0, None, ())
