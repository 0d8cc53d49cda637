"""The visible part: quick pictures agree with the finished plan."""

from dataclasses import replace

import numpy as np
import pytest
from tests.conftest import artwork, badge

from swaddon.core.engine import Cache, Run
from swaddon.core.order.settings import PlanSettings
from swaddon.core.plan.stages import make_plan
from swaddon.core.proof.cloth import texture
from swaddon.core.proof.optics import Appearance, fine_white, seen
from swaddon.core.white.settings import WhiteSettings
from swaddon.io import profiles
from swaddon.session.job import request_for
from swaddon.session.preview import Previewer
from swaddon.session.view import View
from swaddon.session.view_modes import VIEW_MODES

FILM = profiles.shipped("film")


@pytest.fixture
def table(compiled):
    """A previewer with a finished plan of the badge, 600 px, 50.8 mm."""
    cache = Cache()
    request = request_for(artwork(badge(600)), PlanSettings(width_mm=50.8), FILM)
    plan = make_plan(request, Run(cache))
    return Previewer(cache), plan, Run(cache)


def pixel_view(plan, x0=0, y0=0, width=600, height=600) -> View:
    mm = 25.4 / plan.ppi
    return View(width, height, 1 / mm, x0 * mm, y0 * mm)


def test_at_one_pixel_the_proof_is_the_model(table):
    previewer, plan, run = table
    frame = previewer.frame(pixel_view(plan), "cloth", "plain", plan.request, plan, run)
    wanted = seen(plan.cmyk, fine_white(plan.white_plane), Appearance.of(plan.request.settings.garment, FILM))
    np.testing.assert_array_equal(frame.image, wanted)
    assert frame.is_final


def test_a_choke_change_shows_the_same_pixels_at_once_as_the_finished_plan(table):
    """White recomputed on the visible part alone equals the whole plan there, rims included."""
    previewer, plan, run = table
    changed = replace(plan.request, settings=replace(plan.request.settings, white=WhiteSettings(choke_mm=0.4)))
    view = pixel_view(plan, 70, 250, 200, 120)
    quick = previewer.frame(view, "cloth", "jersey", changed, plan, run)
    final = previewer.frame(view, "cloth", "jersey", changed, make_plan(changed, run), run)
    assert not quick.is_final
    assert final.is_final
    np.testing.assert_array_equal(quick.image, final.image)


def test_a_proxy_is_near_the_finished_picture(table):
    previewer, plan, _ = table
    fresh = Previewer(Cache())
    view = View(150, 150, 150 / 50.8, 0, 0)
    quick = fresh.frame(view, "cloth", "plain", plan.request, None, Run(Cache()))
    final = previewer.frame(view, "cloth", "plain", plan.request, plan, Run(Cache()))
    apart = np.abs(quick.image.astype(int) - final.image)
    assert apart.mean() < 3


@pytest.mark.parametrize("view_mode", VIEW_MODES)
def test_every_way_of_seeing_draws_and_marks_nothing_outside(table, view_mode):
    previewer, plan, run = table
    view = View(120, 90, 1.5, -10, -10)
    frame = previewer.frame(view, view_mode, "jersey", plan.request, plan, run)
    assert frame.image.shape == (90, 120, 3)
    assert bool(frame.image.std() > 0) is (view_mode != "highlight"), "film has no highlight white"


def test_white_way_shows_coverage(table):
    previewer, plan, run = table
    frame = previewer.frame(pixel_view(plan), "white", "plain", plan.request, plan, run)
    brightness = frame.image[..., 0].astype(float)
    np.testing.assert_allclose(brightness, 72 + plan.white_plane / 255 * 178, atol=1)


def test_cloth_stays_in_place_under_pan_and_keeps_its_mean():
    one = texture("jersey", 0.0, 0.0, 10.0, 200, 100)
    moved = texture("jersey", 5.0, 0.0, 10.0, 150, 100)
    assert np.abs(one[:, 50:].astype(int) - moved).max() <= 2
    for kind in ("jersey", "canvas"):
        for scale in (0.5, 3.0, 20.0):
            assert texture(kind, 3.0, 7.0, scale, 400, 400).mean() == pytest.approx(128, abs=5)
