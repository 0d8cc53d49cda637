"""Trouble: each kind where it is, with its area, and nowhere else."""

import numpy as np
import pytest
from tests.conftest import badge

from swaddon.core.engine import Cache, Run
from swaddon.core.knockout.settings import AlphaTreatment
from swaddon.core.plan.trouble import KINDS, find_trouble
from swaddon.core.white.settings import WhiteSettings

BLACK = (27, 27, 31)
MM2 = (25.4 / 300) ** 2


def bar() -> np.ndarray:
    """A red block of 300 × 80 px and a line of 300 × 4 px."""
    art = np.zeros((200, 400, 4), np.uint8)
    art[90:170, 50:350] = (200, 30, 40, 255)
    art[40:44, 50:350] = (200, 30, 40, 255)
    return art


def areas(plan) -> dict[str, float]:
    return {patch.kind: patch.area_mm2 for patch in find_trouble(plan, Run(Cache())).patches}


def test_a_bare_rim_is_as_wide_as_the_choke(make):
    choke_mm = 0.25
    plan = make(bar(), garment=BLACK, white=WhiteSettings(choke_mm=choke_mm))
    rim = areas(plan)["rim"]
    around = (2 * (300 + 80) * 25.4 / 300) * choke_mm
    assert rim == pytest.approx(around, rel=0.45)
    assert areas(make(bar(), garment=BLACK, white=WhiteSettings(choke_mm=0)))["rim"] < 0.05 * rim


def test_white_peeks_without_choke_and_not_with_enough(make):
    tight = areas(make(bar(), garment=BLACK, white=WhiteSettings(choke_mm=0, registration_mm=0.1)))["peek"]
    reach_mm = 2 * 0.1 + 0.05
    assert tight == pytest.approx(2 * (380 + 304) * 25.4 / 300 * reach_mm, rel=0.25)
    wide = make(bar(), garment=BLACK, white=WhiteSettings(choke_mm=0.4, registration_mm=0.1, guard=False))
    assert areas(wide)["peek"] == 0
    worse = areas(make(bar(), garment=BLACK, white=WhiteSettings(choke_mm=0, registration_mm=0.2)))["peek"]
    assert worse > tight


def test_lost_lines_are_where_the_thin_line_is(make):
    plan = make(bar(), garment=BLACK, white=WhiteSettings(choke_mm=0.3, guard=False))
    found = find_trouble(plan, Run(Cache()))
    lost = found.plane == KINDS.index("lost") + 1
    assert lost[40:44, 60:340].mean() > 0.95
    assert not lost[95:165].any()
    patch = next(item for item in found.patches if item.kind == "lost")
    assert patch.y_mm == pytest.approx(42 * 25.4 / 300, abs=0.3)
    assert areas(make(bar(), garment=BLACK, white=WhiteSettings(choke_mm=0.3)))["lost"] < 0.1 * patch.area_mm2


def test_haze_and_specks_are_found(make):
    art = bar()
    art[100:150, 100:200, 3] = 120
    art[10:12, 10:12] = (200, 30, 40, 255)
    found = areas(make(art, garment=BLACK, alpha=AlphaTreatment("keep")))
    assert found["haze"] == pytest.approx(50 * 100 * MM2, rel=0.1)
    assert found["dots"] == pytest.approx(4 * MM2, rel=0.3)


def test_white_of_the_design_and_no_white_are_no_trouble(make):
    clean = areas(make(badge(), garment=(250, 250, 248), white=WhiteSettings("none", design=False)))
    assert clean["rim"] == clean["peek"] == clean["lost"] == 0
