"""Choices that come to nothing are said, each with the step that drops it; those that do something are not."""

from dataclasses import replace

import numpy as np
import pytest
from tests.conftest import badge

from swaddon.core.knockout.settings import AlphaTreatment, Knockout
from swaddon.core.plan.stages import make_plan
from swaddon.core.white.settings import DesignRule, WhiteSettings

RED, GREEN = (200, 30, 40), (10, 200, 30)
FADE = badge(200)
FADE[..., 3] = np.minimum(FADE[..., 3], np.linspace(0, 255, 200)[None, :]).astype(np.uint8)
CASES = {
    "knockout-idle": (
        {"knockouts": (Knockout(GREEN),)}, {"knockouts": (Knockout(RED, reach="everywhere"),)}, badge(200),
    ),
    "fades-idle": ({"alpha": AlphaTreatment("screen")}, {"alpha": AlphaTreatment("hard")}, badge(200)),
    "design-white-idle": (
        {"white": WhiteSettings(design_rules=(DesignRule((2, 2), False),))},
        {"white": WhiteSettings(design_rules=(DesignRule((100, 22), False),))},
        badge(200),
    ),
}  # fmt: skip


@pytest.mark.parametrize("code", CASES)
def test_what_changes_nothing_is_told_and_dropped_in_one_step(make, code):
    idle, busy, art = CASES[code]
    plan = make(art, garment=(27, 27, 31), **idle)
    (finding,) = [finding for finding in plan.findings if finding.code == code]
    assert finding.severity == "note"
    dropped = make_plan(replace(plan.request, settings=finding.mend(plan.request.settings)))
    assert code not in {found.code for found in dropped.findings}
    assert np.array_equal(dropped.cmyk, plan.cmyk)
    assert np.array_equal(dropped.white_plane, plan.white_plane)
    assert code not in {found.code for found in make(art, garment=(27, 27, 31), **busy).findings}


def test_a_screen_with_fades_is_not_idle(make):
    plan = make(FADE, garment=(27, 27, 31), alpha=AlphaTreatment("screen"))
    assert "fades-idle" not in {finding.code for finding in plan.findings}
