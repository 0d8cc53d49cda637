"""Exact recipes: the inks that were typed, in their place and nowhere else, and how they come out."""

import numpy as np
import pytest
from skimage.color import deltaE_ciede2000
from tests.conftest import badge

from swaddon.core.colour.spaces import bands_from_srgb8, delta_e_2000, lab_from_bands, lab_from_srgb8, rgb_from_hex
from swaddon.core.inks.inverse import target_lab
from swaddon.core.inks.recipes import recipe_plane
from swaddon.core.inks.settings import Recipe
from swaddon.core.plan.exact import held_colours
from swaddon.core.plan.report import plan_report
from swaddon.core.proof.optics import Appearance, seen, seen_bands
from swaddon.core.white.settings import WhiteSettings
from swaddon.session import parse

RED, ORANGE = (192, 32, 32), (246, 166, 35)
RECIPE = Recipe(RED, (0.2, 1.0, 1.0, 0.0))


def picture():
    art = np.zeros((60, 120, 4), np.uint8)
    art[:, :40] = (*RED, 255)
    art[:, 40:80] = (*ORANGE, 255)
    art[:, 80:] = (30, 60, 160, 255)
    art[:20, :40, 3] = np.linspace(0, 255, 40).astype(np.uint8)
    return art


def test_the_inks_are_those_that_were_typed_and_others_stay(make):
    plain, held = make(picture()), make(picture(), recipes=(RECIPE,))
    assert held.cmyk[40, 20].tolist() == [51, 255, 255, 0]
    assert plain.cmyk[40, 20].tolist() != [51, 255, 255, 0]
    assert np.array_equal(held.cmyk[:, 42:], plain.cmyk[:, 42:])


def test_in_fades_a_recipe_follows_alpha(make):
    from swaddon.core.knockout.settings import AlphaTreatment

    held = make(picture(), recipes=(RECIPE,), alpha=AlphaTreatment("keep"), garment=(250, 250, 248))
    alpha = held.art[10, :40, 3].astype(float)
    assert np.abs(held.cmyk[10, :40, 1] - alpha).max() <= 2, "but for the dither of fades"
    assert np.abs(held.cmyk[10, :40, 0] - alpha * 0.2).max() <= 1


def test_what_is_near_is_what_an_independent_distance_says():
    rng = np.random.default_rng(4)
    art = rng.integers(0, 256, (80, 80, 4), np.uint8)
    art[..., :3] = np.clip(np.array(RED) + rng.integers(-30, 31, (80, 80, 3)), 0, 255)
    plane = recipe_plane(art, [Recipe(RED, (0, 1, 1, 0), 6.0)])
    lab = lab_from_srgb8(art[..., :3])
    reference = deltaE_ciede2000(lab, np.broadcast_to(lab_from_srgb8(RED), lab.shape))
    assert np.array_equal(plane > 0, (reference <= 6.0) & (art[..., 3] > 0))


def test_a_later_recipe_goes_before_an_earlier(make):
    wide, narrow = Recipe(RED, (0, 0.5, 0.5, 0), 30.0), Recipe(RED, (0, 1, 1, 0.1), 1.0)
    plan = make(picture(), recipes=(wide, narrow))
    assert plan.cmyk[40, 20].tolist() == [0, 255, 255, 26]


def test_it_is_told_as_it_will_look_on_this_garment(make):
    plan = make(picture(), garment=(27, 27, 31), recipes=(RECIPE, Recipe(ORANGE, (0, 0.42, 0.95, 0))))
    red, orange = held_colours(plan)
    for item in (red, orange):
        cmyk = np.rint(np.array([[item.recipe.inks]]) * 255).astype(np.uint8)
        full = np.full((1, 1), 255 << 7, np.uint16)
        drawn = seen(cmyk, full, Appearance.of((27, 27, 31), plan.request.profile))[0, 0]
        assert np.abs(drawn.astype(int) - item.shown).max() <= 2
        apart = float(delta_e_2000(lab_from_srgb8(item.shown), lab_from_srgb8(item.recipe.colour)))
        assert item.delta_e == pytest.approx(apart, abs=0.4)
    assert orange.delta_e < 12
    pixel = (25.4 / plan.ppi) ** 2
    assert red.area_mm2 == pytest.approx(40 * 40 * pixel + (plan.art[:20, :40, 3] > 0).sum() * pixel, rel=0.01)
    told = plan_report(plan)["recipes"][0]
    assert told["inks_percent"] == {"C": 20, "M": 100, "Y": 100}
    assert rgb_from_hex(told["shown"]) == red.shown


def test_a_recipe_that_no_pixel_asks_for_is_told_with_no_area(make):
    plan = make(badge(), recipes=(Recipe((1, 255, 254), (1, 0, 0.2, 0), 1.0),))
    assert held_colours(plan)[0].area_mm2 == 0
    assert plan.results.values["recipe_areas"] is None


def test_ink_above_the_limit_is_told(make):
    plan = make(picture(), recipes=(Recipe(RED, (1, 1, 1, 1)),))
    found = next(item for item in plan.findings if item.code == "over-limit")
    assert found.size > 5
    assert plan.coverage.most_percent == 400


def test_white_goes_by_the_inks_of_the_recipe(make):
    """A limit asks how much ink lies there: a recipe of little ink gets white, one of much does not."""
    little, much = (
        make(picture(), process="toner-onepass", white=WhiteSettings("limit", 170.0, choke_mm=0), recipes=(item,))
        for item in (Recipe(RED, (0, 0.8, 0.6, 0)), Recipe(RED, (0.2, 1, 1, 0.1)))
    )
    assert little.white_plane[40, 20] > 250
    assert much.white_plane[40, 20] == 0


def test_without_black_none_is_printed(make):
    plan = make(picture(), process="toner-no-black", recipes=(Recipe(RED, (0, 1, 1, 0.5)),))
    assert plan.cmyk[40, 20].tolist() == [0, 255, 255, 0]


@pytest.mark.parametrize(
    ("text", "inks", "tolerance"),
    [
        ("#c02020=C20M100Y100", (0.2, 1, 1, 0), 4.0),
        ("#c02020=c20 m100 y100:6", (0.2, 1, 1, 0), 6.0),
        ("#C02020=K7.5", (0, 0, 0, 0.075), 4.0),
    ],
)
def test_a_recipe_is_read_as_it_is_typed(text, inks, tolerance):
    made = parse.recipe(text)
    assert (made.colour, made.inks, made.tolerance_de) == ((192, 32, 32), inks, tolerance)


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("#c02020", "is not COLOUR=INKS"),
        ("#c02020=", "is inks in percent"),
        ("#c02020=C20X3", "is inks in percent"),
        ("#c02020=C20M120", "M is 120 %, more than 100 %"),
        ("#c02020=C20C30", "names an ink twice"),
        ("red=C20", "hexadecimal"),
        ("#c02020=C20:90", "its tolerance"),
        ("#c02020=C20:x", "its tolerance"),
        ("#c02020=C-5", "is inks in percent"),
    ],
)
def test_what_is_no_recipe_is_refused_in_a_sentence(text, says):
    with pytest.raises(ValueError, match=says):
        parse.recipe(text)


def test_white_by_need_asks_what_the_recipe_shows(make):
    """Recomputed by trying every amount of white under the typed inks."""
    look_for = Recipe(RED, (0.0, 0.55, 0.5, 0.0), 6.0)
    plans = [
        make(picture(), garment=(27, 27, 31), white=WhiteSettings("need", allowed_shift=3.0, choke_mm=0), recipes=held)
        for held in ((), (look_for,), (Recipe(RED, (0.2, 1.0, 1.0, 0.6), 6.0),))
    ]
    amounts = [int(plan.white_plane[40, 20]) for plan in plans]
    assert amounts[1] != amounts[0]
    plan = plans[1]
    aim = target_lab(np.array([RED], float), plan.request.profile.separation)
    tried = np.linspace(0, 1, 401)
    shown = seen_bands(
        np.broadcast_to(look_for.inks, (401, 4)), tried, np.broadcast_to(bands_from_srgb8((27, 27, 31)), (401, 3)),
        plan.request.look,
    )  # fmt: skip
    apart = delta_e_2000(lab_from_bands(shown), aim)
    least = tried[np.argmax(apart <= apart.min() + 3.0)]
    assert amounts[1] / 255 == pytest.approx(least, abs=0.05)
