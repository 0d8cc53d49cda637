"""Prints longer than OpenCV moves pictures: planned, drawn and exported like any other."""

import numpy as np
import pytest
from tests.conftest import artwork

from swaddon.core.engine import Cache, Run
from swaddon.core.errors import PlanError
from swaddon.core.holes.settings import HoleSettings, Screen
from swaddon.core.order.settings import Placement
from swaddon.core.plan.stages import make_plan
from swaddon.core.proof.misregistration import Misregistration
from swaddon.core.white.settings import WhiteSettings
from swaddon.session import view as views
from swaddon.session.preview import Previewer
from swaddon.session.view import View


def ribbon(length: int = 33_500, width: int = 40) -> np.ndarray:
    art = np.zeros((length, width, 4), np.uint8)
    art[4:-4, 6:-6] = (200, 60, 40, 255)
    art[100:-100:400, 10:30] = (20, 20, 24, 255)
    return art


@pytest.mark.parametrize("lies", [False, True])
def test_a_ribbon_of_33_500_px_is_planned_and_drawn(make, lies):
    art = np.ascontiguousarray(ribbon().transpose(1, 0, 2)) if lies else ribbon()
    plan = make(art, white=WhiteSettings("need"), holes=HoleSettings(Screen()))
    assert plan.measures.printed_px > 0
    assert "too-large" in {finding.code for finding in plan.findings}
    drawn = Previewer(Cache())
    for px_per_mm in (0.2, 12.0):
        view = View(300, 200, px_per_mm, 0.0, 0.0)
        for misregistration in (Misregistration(), Misregistration(0.1, 0.1, 0.05)):
            frame = drawn.frame(view, "cloth", "plain", plan.request, plan, Run(Cache()), misregistration)
            assert frame.image.std() > 1


def test_a_long_plane_is_read_like_a_short_one(monkeypatch):
    rng = np.random.default_rng(3)
    plane = rng.integers(0, 256, (60, 900), np.uint8)
    layers = views.Layers(plane, plane, plane, plane, plane, 300)
    at = View(80, 40, 9.0, 10.0, 1.0)
    matrix = Misregistration(1.3, -0.6, skew_deg=0.4, stretch_percent=0.2).matrix(1.0, (450.0, 30.0))
    whole, moved = views.warped(plane, layers, at), views._moved(plane, matrix, 8)
    monkeypatch.setattr(views, "_LONGEST_PX", 400)
    assert np.abs(views.warped(plane, layers, at).astype(int) - whole).max() <= 1
    assert np.abs(views._moved(plane, matrix, 8).astype(int) - moved).max() <= 1


@pytest.mark.parametrize("crop", [(5000, 0, 6000, 100), (-50, -50, 0, 0), (10, 10, 10, 40)])
def test_a_crop_beside_the_artwork_is_refused_for_what_it_is(make, crop):
    plan = make(ribbon(200))
    settings = plan.request.settings.__class__(placement=Placement(crop))
    with pytest.raises(PlanError, match=r"The crop .* lies beside the artwork of 40 × 200 px"):
        make_plan(plan.request.__class__(artwork(ribbon(200)), settings, *_rest(plan.request)))


def _rest(request):
    return request.press, request.solve_table, request.ppi, request.tiles
