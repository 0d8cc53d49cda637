"""The card and its cost follow what this plan does, not the route on paper."""

import numpy as np
import pytest
from tests.conftest import badge, coarse

from swaddon.core.knockout.settings import AlphaTreatment
from swaddon.core.white.settings import WhiteSettings
from swaddon.io.supplies import shipped_book
from swaddon.session.costs import costed_plan
from swaddon.session.run_cards import gets_of

LIGHT = (224, 212, 186)


def labour_s(plan) -> float:
    (part,) = [part for part in costed_plan(plan, shipped_book(), "Black tee").costing.parts if part.kind == "labour"]
    return part.amount * 3600


def test_a_light_shirt_without_white_is_not_charged_pretreatment(make):
    """40 s of pretreating and drying were charged to a shirt that gets none."""
    press = coarse("direct")
    dark = make(badge(200), press, garment=(27, 27, 31), white=WhiteSettings("solid"))
    light = make(badge(200), press, garment=LIGHT, white=WhiteSettings("none", design=False))
    assert (gets_of(dark).white, gets_of(dark).pretreated) == (True, True)
    assert (gets_of(light).white, gets_of(light).pretreated) == (False, False)
    pretreating = dict(press.working.hands_s)["pretreat and dry"]
    assert labour_s(dark) - labour_s(light) == pytest.approx(pretreating, rel=1e-6)


def test_screened_fades_are_dots(make):
    fade = badge(200)
    fade[..., 3] = np.minimum(fade[..., 3], np.linspace(0, 255, 200)[None, :]).astype(np.uint8)
    screened = make(fade, garment=(27, 27, 31), alpha=AlphaTreatment("screen"))
    kept = make(fade, garment=(27, 27, 31), alpha=AlphaTreatment("keep"))
    assert (gets_of(screened).dots, gets_of(kept).dots) == (True, False)
