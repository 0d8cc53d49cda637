"""Boxes: a background is told by what prints, and black is the cloth on black, by whichever way it is taken out."""

from dataclasses import replace

import numpy as np
import pytest
from tests.conftest import badge

from swaddon.core.knockout.settings import Knockout, usual_knockout
from swaddon.core.plan.stages import Plan, make_plan
from swaddon.core.white.settings import WhiteSettings
from swaddon.session import parse

BLACK = (27, 27, 31)
BOXES = {"opaque-box", "jpeg-background", "full-rectangle"}
WIDTH_MM = 40.0


def glow(ground: tuple[int, int, int], radius: float = 1.0, size: int = 240) -> np.ndarray:
    """A warm glow in the middle of a ground, gone at ``radius`` of the half side; a radius above 1 meets the border."""
    at = (np.arange(size) + 0.5) / size * 2 - 1
    share = np.clip(1 - np.hypot(*np.meshgrid(at, at)) / radius, 0, 1)[..., None] ** 1.5
    out = np.full((size, size, 4), 255, np.uint8)
    out[..., :3] = np.rint(np.array(ground) * (1 - share) + np.array((255, 150, 40)) * share)
    return out


def boxes(plan: Plan) -> dict[str, str]:
    return {finding.code: finding.severity for finding in plan.findings if finding.code in BOXES}


def told(plan: Plan) -> tuple:
    """What an operator sees of a knockout: what went, what fades, what it costs."""
    amounts = tuple((item.kind, item.amount, item.cost) for item in plan.materials)
    return plan.measures.removed_px, plan.inspection.fade_mm2, amounts


@pytest.mark.parametrize("garment", [BLACK, (0, 0, 0), (20, 20, 22)])
@pytest.mark.parametrize("ground", [(0, 0, 0), (27, 27, 31)])
def test_every_way_to_take_black_out_of_a_glow_on_a_black_shirt_gives_one_plan(make, ground, garment):
    """#000000 lies ΔE00 6.6 from the shirt's #1b1b1f: it once kept a near-black rim where its own fix took it out."""
    art = glow(ground, 0.9)
    boxed = make(art, garment=garment, width_mm=WIDTH_MM)
    (finding,) = [finding for finding in boxed.findings if finding.code == "opaque-box"]
    ways = {
        "the finding's fix": finding.mend(boxed.request.settings).knockouts,
        "Background": (usual_knockout(boxed.request.artwork.background, "PNG"),),
        "the garment's chip": (usual_knockout(None, "PNG"),),
        "a preset": (Knockout(None, 8.0, "everywhere"),),
        "by word": (parse.knockout("everywhere:garment:8"),),
        "#000000 by word": (parse.knockout("outside:#000000:8"),),
        "#1b1b1f by word": (parse.knockout("outside:#1b1b1f:8"),),
    }
    plans = {way: make(art, garment=garment, width_mm=WIDTH_MM, knockouts=taken) for way, taken in ways.items()}
    first = told(plans["the finding's fix"])
    assert first[1] > 100, "the glow stays, as a fade"
    assert {way: told(plan) == first for way, plan in plans.items()} == dict.fromkeys(ways, True)
    assert boxes(plans["the garment's chip"]) == {}


def test_pure_black_and_the_shirts_black_cost_alike(make):
    sums = [
        make(glow(ground, 0.9), garment=BLACK, width_mm=WIDTH_MM, knockouts=(usual_knockout(None, "PNG"),)).materials
        for ground in ((0, 0, 0), (27, 27, 31))
    ]
    for one, other in zip(*sums, strict=True):
        assert one.amount == pytest.approx(other.amount, rel=0.03)


def test_white_art_is_the_cloth_on_off_white_goods_and_not_on_natural_ones(make):
    """A glow on pure white fades into off-white cloth; on natural canvas white is a colour of its own."""
    for garment, fades in (((246, 242, 232), True), ((224, 212, 186), False)):
        taken = (Knockout((255, 255, 255)),)
        plan = make(glow((255, 255, 255), 0.9), garment=garment, width_mm=WIDTH_MM, knockouts=taken)
        assert (plan.inspection.fade_mm2 > 50) is fades


def test_large_flat_near_black_goes_with_pure_black_and_coloured_cloth_is_told_by_its_own_colour(make):
    """A figure of #1a1a1a on #000000 is the cloth too; on navy the distance is that to the shirt's navy, as named."""
    art = glow((0, 0, 0), 0.9)
    art[10:60, 10:110, :3] = 26
    taken = (Knockout(None, 8.0, "everywhere"),)
    assert not make(art, garment=BLACK, width_mm=WIDTH_MM, knockouts=taken).art[20:50, 20:100, 3].any()
    navy, ring, crest = (31, 41, 68), (28, 37, 62), (38, 50, 79)
    art[...] = (*ring, 255)
    art[100:140, 100:140, :3] = crest
    plan = make(art, garment=navy, knockouts=(Knockout(None, 8.0, "everywhere"),), width_mm=WIDTH_MM)
    assert plan.measures.removed_px == plan.measures.width_px * plan.measures.height_px


def test_navy_is_not_black(make):
    """Black art on a navy shirt is printed black: the shirt's colour takes nothing of it."""
    plan = make(glow((0, 0, 0), 0.9), garment=(31, 41, 68), width_mm=WIDTH_MM, knockouts=(usual_knockout(None, "PNG"),))
    assert plan.measures.removed_px == 0


@pytest.mark.parametrize(
    ("name", "severity"),
    [("a glow beyond the border", "stop"), ("a photo", "look"), ("a badge", ""), ("a badge with holes in its box", "")],
)
def test_a_print_that_covers_its_rectangle_is_told(make, name, severity):
    """Less than nine tenths of the border have one colour: it printed whole without a word."""
    picture = glow((0, 0, 0), 1.25)
    if name == "a photo":
        picture = glow((0, 0, 0), 3.0)
        picture[..., :3] = np.clip(picture[..., :3] + np.linspace(0, 120, 240)[:, None, None], 0, 255)
    elif name.startswith("a badge"):
        picture = badge(240)
        if "holes" in name:
            picture[:3] = picture[-3:] = (200, 30, 40, 255)
    plan = make(picture, garment=BLACK, width_mm=WIDTH_MM, white=WhiteSettings("solid"))
    found = boxes(plan)
    assert ("" if not found else next(iter(found.values()))) == severity
    if severity == "stop":
        (finding,) = [finding for finding in plan.findings if finding.code in BOXES]
        fixed = make_plan(replace(plan.request, settings=finding.mend(plan.request.settings)))
        assert boxes(fixed) == {}
        assert fixed.measures.white_px < 0.9 * plan.measures.white_px


def test_a_box_that_takes_no_ink_is_none(make):
    """White round the art on white goods without white: 0.00 ml."""
    picture = badge(240)
    picture[picture[..., 3] == 0] = (255, 255, 255, 255)
    white = (252, 252, 250)
    assert boxes(make(picture, garment=white, width_mm=WIDTH_MM, white=WhiteSettings("none", design=False))) == {}
    assert "opaque-box" in boxes(make(picture, garment=BLACK, width_mm=WIDTH_MM, white=WhiteSettings("solid")))
