"""Pictures of prints with holes: the mean of what is too small to show, and the exact cut of what is not."""

from dataclasses import replace

import cv2
import numpy as np
import pytest
from tests.conftest import artwork, badge

from swaddon.core.artwork.placement import Placement
from swaddon.core.colour.spaces import linear_from_srgb
from swaddon.core.engine import Cache, Run
from swaddon.core.holes.settings import HoleSettings, RegionRule, Screen
from swaddon.core.knockout.settings import AlphaTreatment, Knockout
from swaddon.core.order.settings import PlanSettings
from swaddon.core.plan.stages import make_plan
from swaddon.io import profiles
from swaddon.io.export import proof_picture
from swaddon.session.job import request_for
from swaddon.session.preview import Previewer
from swaddon.session.view import View
from swaddon.session.view_modes import VIEW_MODES

FILM = profiles.shipped("film")
DOTS = HoleSettings(Screen("round", 35, 52.5, 0.7), fine_mm=0)


def planned(cache: Cache, **settings):
    values = {"width_mm": 76.2, "garment": (27, 27, 31), "holes": DOTS} | settings
    request = request_for(artwork(badge(900)), PlanSettings(**values), FILM)
    return make_plan(request, Run(cache))


@pytest.fixture
def holed(compiled):
    cache = Cache()
    return Previewer(cache), planned(cache), Run(cache)


def light(picture: np.ndarray) -> np.ndarray:
    return np.asarray(linear_from_srgb(picture / 255)).mean(axis=(0, 1))


def spread(picture: np.ndarray) -> np.ndarray:
    """The picture blurred over more than a cell, so that dots and their mean compare."""
    return cv2.blur(picture, (31, 31)).astype(int)


def test_a_reduced_picture_has_the_light_of_the_whole_one(holed):
    """Zoomed out by 4, the average light over the disc equals that at one pixel: holes stay as bright as they are."""
    previewer, plan, run = holed
    whole = previewer.frame(View(240, 240, 300 / 25.4, 28.0, 15.0), "cloth", "plain", plan.request, plan, run)
    small = previewer.frame(View(60, 60, 75 / 25.4, 28.0, 15.0), "cloth", "plain", plan.request, plan, run)
    np.testing.assert_allclose(light(small.image), light(whole.image), rtol=0.06, atol=0.004)


def test_the_quick_mean_of_holes_is_near_the_finished_picture(holed, monkeypatch):
    """While a slider moves and the part is too large to cut, the mean stands for the holes."""
    from swaddon.session import preview

    previewer, plan, run = holed
    previewer.warm(plan)
    monkeypatch.setattr(preview, "_EXACT_PX", 0)
    lighter = replace(plan.request.settings, holes=replace(DOTS, default=replace(DOTS.default, share=0.5)))
    moved = replace(plan.request, settings=lighter)
    view = View(220, 220, 220 / 76.2, 0, 0)
    quick = previewer.frame(view, "cloth", "plain", moved, plan, run)
    final = previewer.frame(view, "cloth", "plain", moved, make_plan(moved, run), run)
    assert not quick.is_final
    np.testing.assert_allclose(light(quick.image), light(final.image), rtol=0.1, atol=0.01)


def test_a_proxy_keeps_points_on_their_motif_under_crop_and_turn(compiled):
    """Knockout by click and a rule by point, on artwork that a proxy has to halve."""
    placement = Placement((100, 60, 800, 860), 1)
    rule = HoleSettings(None, (RegionRule(Screen("line", 20, 72, 0.4), ((450.0, 180.0),)),))
    settings = PlanSettings(
        width_mm=30.0, garment=(27, 27, 31), placement=placement, holes=rule,
        knockouts=(Knockout((30, 60, 180), 8, "clicked", "hard", ((450.0, 450.0),)),),
    )  # fmt: skip
    request = request_for(artwork(badge(900)), settings, FILM)
    view = View(200, 175, 200 / 30.0, 0, 0)
    quick = Previewer(Cache()).frame(view, "cloth", "plain", request, None, Run(Cache()))
    cache = Cache()
    final = Previewer(cache).frame(view, "cloth", "plain", request, make_plan(request, Run(cache)), Run(cache))
    assert np.abs(spread(quick.image) - spread(final.image)).mean() < 6


@pytest.mark.parametrize("view_mode", VIEW_MODES)
def test_every_way_draws_a_print_with_holes_and_fades(compiled, view_mode):
    cache = Cache()
    art = badge(600)
    art[200:400, 200:400, 3] = np.linspace(0, 255, 200).astype(np.uint8)
    request = request_for(artwork(art), PlanSettings(width_mm=50.8, holes=DOTS), FILM)
    plan = make_plan(request, Run(cache))
    previewer = Previewer(cache)
    frame = previewer.frame(View(160, 140, 3.0, -2, -2), view_mode, "jersey", request, plan, Run(cache))
    assert frame.image.shape == (140, 160, 3)
    assert frame.is_final
    assert bool(frame.legend) == (view_mode == "trouble")


def test_the_exported_proof_has_the_light_of_the_print(compiled, monkeypatch):
    from swaddon.io import export

    plan = planned(Cache(), alpha=AlphaTreatment("keep"))
    full, ppi = proof_picture(plan)
    assert ppi == 300
    monkeypatch.setattr(export, "PROOF_LONGEST_PX", 300)
    small, less = proof_picture(plan)
    assert less < 300
    np.testing.assert_allclose(light(small), light(full), rtol=0.05, atol=0.004)
