"""The visible part shows new choices of white at once, pixel for pixel as the finished plan; and white out of place."""

from dataclasses import replace

import numpy as np
import pytest
from tests.conftest import artwork
from tests.core.white.test_white_choices import banners

from swaddon.core.engine import Cache, Run
from swaddon.core.holes.settings import HoleSettings, Screen
from swaddon.core.order.settings import PlanSettings
from swaddon.core.plan.stages import make_plan
from swaddon.core.proof.misregistration import Misregistration
from swaddon.core.white.settings import DesignRule, FixedWhite, WhiteSettings
from swaddon.io import profiles
from swaddon.session.job import request_for
from swaddon.session.preview import Previewer
from swaddon.session.view import View

CHOICES = {
    "highlight": WhiteSettings("highlight"),
    "only": WhiteSettings("only"),
    "need with a fixed colour": WhiteSettings("need", fixed=(FixedWhite((200, 30, 40), 0.9),)),
    "an area left bare": WhiteSettings(design_rules=(DesignRule((150, 55), ink=False),)),
    "hits": WhiteSettings(hits=(0.7,)),
    "a choke of the screen": WhiteSettings(screen_choke_mm=0.1),
    "a flooded sheet": WhiteSettings(whole_sheet=True),
    "strengthened": WhiteSettings("none", strengthen=True),
}
GARMENT = (224, 212, 186)
MM = 25.4 / 300


def view(x0: int = 0, y0: int = 0, width: int = 300, height: int = 200) -> View:
    return View(width, height, 1 / MM, x0 * MM, y0 * MM)


@pytest.mark.parametrize("choice", CHOICES)
@pytest.mark.parametrize("press", ["film", "direct-highlight"])
def test_the_visible_part_is_what_the_plan_will_be(compiled, choice, press):
    cache = Cache()
    holes = HoleSettings(Screen("round", 25, 52.5, 0.8)) if "screen" in choice else HoleSettings()
    settings = PlanSettings(width_mm=25.4, garment=GARMENT, holes=holes, white=WhiteSettings(choke_mm=0.25))
    request = request_for(artwork(banners()), settings, profiles.shipped(press))
    plan, previewer = make_plan(request, Run(cache)), Previewer(cache)
    changed = replace(request, settings=replace(settings, white=CHOICES[choice]))
    part = view(40, 30, 180, 120)
    quick = previewer.frame(part, "cloth", "plain", changed, plan, Run(cache))
    final = previewer.frame(part, "cloth", "plain", changed, make_plan(changed, Run(cache)), Run(cache))
    assert not quick.is_final
    if choice in ("an area left bare", "strengthened", "only"):
        apart = np.abs(quick.image.astype(int) - final.image)
        assert np.quantile(apart, 0.9) <= 12, "a proxy, while what lies before the white is worked out"
    else:
        np.testing.assert_array_equal(quick.image, final.image)


def test_underbase_and_highlight_white_are_seen_each_alone_quick_and_final(compiled):
    cache = Cache()
    settings = PlanSettings(width_mm=25.4, garment=(27, 27, 31), white=WhiteSettings("need", choke_mm=0.25))
    request = request_for(artwork(banners()), settings, profiles.shipped("direct-highlight"))
    plan, previewer = make_plan(request, Run(cache)), Previewer(cache)
    assert plan.highlight.any()
    for view_mode, plane in (("white", plan.white_plane), ("highlight", plan.highlight)):
        frame = previewer.frame(view(), view_mode, "plain", request, plan, Run(cache))
        np.testing.assert_allclose(frame.image[..., 0], 72 + plane / 255 * 178, atol=1)
    changed = replace(request, settings=replace(settings, white=WhiteSettings("solid", choke_mm=0.25)))
    for view_mode in ("white", "highlight"):
        quick = previewer.frame(view(), view_mode, "plain", changed, plan, Run(cache))
        final = previewer.frame(view(), view_mode, "plain", changed, make_plan(changed, Run(cache)), Run(cache))
        assert not quick.is_final
        np.testing.assert_array_equal(quick.image, final.image)
    film = request_for(artwork(banners()), settings, profiles.shipped("film"))
    assert np.ptp(previewer.frame(view(), "highlight", "plain", film, None, Run(cache)).image) == 0


@pytest.fixture
def block(compiled):
    art = np.zeros((200, 300, 4), np.uint8)
    art[60:140, 80:220] = (20, 30, 120, 255)
    cache = Cache()
    request = request_for(
        artwork(art),
        PlanSettings(width_mm=25.4, garment=(27, 27, 31), white=WhiteSettings(choke_mm=0)),
        profiles.shipped("film"),
    )
    return Previewer(cache), make_plan(request, Run(cache)), Run(cache)


def shown(block, misregistration: Misregistration, part: View | None = None) -> np.ndarray:
    previewer, plan, run = block
    frame = previewer.frame(part or view(), "cloth", "plain", plan.request, plan, run, misregistration)
    return frame.image.astype(int)


def test_moved_white_peeks_on_one_side_and_bares_the_other(block):
    plain, moved = shown(block, Misregistration()), shown(block, Misregistration(4 * MM, 0, 0))
    assert moved[100, 221:224].min() > 150, "white beside the colour"
    assert moved[100, 81:83].max() < plain[100, 81:83].max(), "colour without white"
    np.testing.assert_array_equal(moved[100, 90:210], plain[100, 90:210])
    np.testing.assert_array_equal(moved[:50], plain[:50])
    back = shown(block, Misregistration(-4 * MM, 0, 0))
    assert back[100, 76:79].min() > 150


def test_squeezed_white_peeks_all_round(block):
    squeezed = shown(block, Misregistration(0, 0, 3 * MM))
    for row, column in ((58, 150), (141, 150), (100, 78), (100, 221)):
        assert squeezed[row, column].min() > 150
    assert shown(block, Misregistration())[58, 150].max() < 60


def test_a_part_shows_white_out_of_place_as_the_whole_does(block):
    misregistration = Misregistration(3 * MM, 2 * MM, 2 * MM)
    np.testing.assert_array_equal(
        shown(block, misregistration, view(200, 120, 80, 60)), shown(block, misregistration)[120:180, 200:280]
    )


def test_white_out_of_place_leaves_other_ways_of_seeing_alone(block):
    previewer, plan, run = block
    for view_mode in ("white", "footprint", "artwork", "trouble"):
        one, other = (
            previewer.frame(view(), view_mode, "plain", plan.request, plan, run, misregistration).image
            for misregistration in (Misregistration(), Misregistration(0.3, 0.3, 0.1))
        )
        np.testing.assert_array_equal(one, other)


def test_trouble_waits_for_the_checks_of_a_plan_that_is_only_counted(compiled):
    """A counted plan carries the checks of the plan before, perhaps of another size: they are not drawn on it."""
    cache = Cache()
    film = profiles.shipped("film")
    before = make_plan(request_for(artwork(banners()), PlanSettings(width_mm=25.4), film), Run(cache))
    request = request_for(artwork(banners()[:150, :220], content_id="other"), PlanSettings(width_mm=18.6), film)
    counted = []
    whole = make_plan(request, Run(cache), before=before.checks, counted=counted.append)
    assert not counted[0].checks.is_current
    assert counted[0].checks.findings == before.findings
    np.testing.assert_array_equal(counted[0].white_plane, whole.white_plane)
    assert counted[0].cost == whole.cost
    previewer = Previewer(cache)
    early = previewer.frame(view(), "trouble", "plain", request, counted[0], Run(cache))
    late = previewer.frame(view(), "trouble", "plain", request, whole, Run(cache))
    assert not early.legend
    assert late.legend
