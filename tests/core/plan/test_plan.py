"""The plan as a whole: stages, keys, findings, resampling."""

from dataclasses import replace

import numpy as np
import pytest
from skimage.transform import resize as reference_resize
from tests.conftest import artwork, badge

from swaddon.core.artwork.raster import place, resample
from swaddon.core.engine import MISSING, Cache, Run, Superseded, run_stages, stage_keys
from swaddon.core.errors import PlanError
from swaddon.core.findings import Finding
from swaddon.core.knockout.settings import AlphaTreatment, Knockout
from swaddon.core.order.settings import PlanSettings
from swaddon.core.plan.report import plan_report
from swaddon.core.plan.report_inks import channels, stack
from swaddon.core.plan.stages import STAGES, make_plan
from swaddon.core.white.settings import WhiteSettings
from swaddon.io import profiles
from swaddon.session.job import request_for

FILM, DIRECT = profiles.shipped("film"), profiles.shipped("direct")
NAVY, WHITE_SHIRT, BLACK = (31, 41, 68), (250, 250, 248), (27, 27, 31)


def codes(findings: tuple[Finding, ...]) -> set[str]:
    return {finding.code for finding in findings}


def boxed(colour=(235, 225, 120)) -> np.ndarray:
    rgba = badge()
    alpha = rgba[..., 3:] / 255
    flat = rgba[..., :3] * alpha + np.array(colour) * (1 - alpha)
    return np.dstack([np.rint(flat), np.full(rgba.shape[:2], 255)]).astype(np.uint8)


def test_a_change_of_choke_reruns_white_and_what_hangs_on_it_only():
    request = request_for(artwork(badge()), PlanSettings(width_mm=25.4), FILM)
    changed = replace(request, settings=replace(request.settings, white=WhiteSettings(choke_mm=0.5)))
    before, after = stage_keys(STAGES, request), stage_keys(STAGES, changed)
    same = {name for name in before if before[name] == after[name]}
    assert {name for name in before if name not in same} == {
        "choked", "whole_white", "white", "measures", "whole_measures", "hands", "white_check", "edges", "findings",
    }  # fmt: skip


def test_results_come_from_the_cache_and_are_read_only(compiled):
    cache = Cache()
    request = request_for(artwork(badge()), PlanSettings(width_mm=25.4), FILM)
    first, second = make_plan(request, Run(cache)), make_plan(request, Run(cache))
    assert first.cmyk is second.cmyk
    with pytest.raises(ValueError, match="read-only"):
        first.cmyk[0, 0, 0] = 1


def test_the_cache_is_bounded_in_bytes():
    cache = Cache(limit_bytes=1000)
    for index in range(10):
        cache.put(str(index), np.zeros(400, np.uint8))
    assert cache.size_bytes <= 1000
    assert cache.get("0") is MISSING
    assert cache.get("9") is not MISSING


def test_a_superseded_run_stops(compiled):
    asked = []

    def wanted() -> bool:
        asked.append(1)
        return len(asked) < 3

    request = request_for(artwork(badge()), PlanSettings(width_mm=25.4), FILM)
    with pytest.raises(Superseded):
        run_stages(STAGES, request, Run(Cache(), wanted))


def test_a_print_too_large_to_plan_is_refused_with_a_sentence():
    request = request_for(artwork(badge()), PlanSettings(width_mm=5000), FILM)
    with pytest.raises(PlanError, match="choose a smaller print width"):
        make_plan(request)


def test_bands_and_whole_resample_alike_and_no_colour_bleeds_in():
    """Premultiplied: green hidden under zero alpha never shows."""
    rgba = badge(400)
    rgba[rgba[..., 3] == 0, :3] = (0, 255, 0)
    small = resample(rgba, 100, 100)
    assert small[small[..., 3] > 0, 1].max() <= 255
    edge = (small[..., 3] > 20) & (small[..., 3] < 235)
    assert (small[edge, 0] > 180).all(), "ring pixels stay white at the edge"
    wanted = reference_resize(badge(400)[..., 3] / 255, (100, 100), order=1, anti_aliasing=False)
    assert np.abs(small[..., 3] / 255 - wanted).mean() < 0.01


def test_opaque_and_transparent_paths_resample_alike():
    rgba = np.random.default_rng(1).integers(0, 256, (90, 80, 4), dtype=np.uint8)
    rgba[..., 3] = 255
    through = rgba.copy()
    through[0, 0, 3] = 254
    apart = np.abs(resample(rgba, 40, 45).astype(int) - resample(through, 40, 45))
    assert apart[1:].max() <= 1


def test_a_place_lies_inside_its_mask():
    mask = np.zeros((300, 200), np.uint8)
    mask[40:200, 90:110] = 255
    mask[250, 5] = 255
    x, y = place(mask)
    assert mask[int(y), int(x)]
    assert place(np.pad(np.full((1, 1), 255, np.uint8), ((2000, 0), (3000, 0)))) == pytest.approx(
        (3000.5, 2000.5), abs=8
    )


# findings, each with its opposite


def test_an_opaque_box_is_found_with_its_white_and_goes_with_its_fix(make):
    plan = make(boxed(), garment=BLACK)
    box = next(finding for finding in plan.findings if finding.code == "opaque-box")
    assert box.severity == "stop"
    outside = (badge()[..., 3] == 0).sum() * (25.4 / 300) ** 2
    assert box.size == pytest.approx(outside, rel=0.03)
    assert "ml white" in box.text
    assert "EUR" in box.text
    assert box.fix is not None
    fixed = make_plan(replace(plan.request, settings=box.fix))
    assert "opaque-box" not in codes(fixed.findings)
    assert fixed.art[2, 2, 3] == 0
    assert fixed.art[150, 150, 3] == 255


def test_a_jpeg_background_is_named_as_such(make):
    assert "jpeg-background" in codes(make(boxed(), file_format="JPEG").findings)
    assert not codes(make(badge()).findings) & {"jpeg-background", "opaque-box"}


def test_low_resolution_is_told_with_the_size_that_would_do(make):
    plan = make(badge(), width_mm=50.8)
    low = next(finding for finding in plan.findings if finding.code == "ppi-low")
    assert low.size == pytest.approx(150, abs=0.5)
    assert low.fix is not None
    assert low.fix.width_mm == pytest.approx(25.4)
    assert "ppi-low" not in codes(make(badge()).findings)


def test_half_transparent_areas_are_haze_on_film_not_direct(make):
    glow = badge()
    glow[100:200, 100:200, 3] = 120
    plan = make(glow, garment=BLACK, alpha=AlphaTreatment("keep"))
    haze = next(finding for finding in plan.findings if finding.code == "half-transparent")
    assert haze.size == pytest.approx((100 * 25.4 / 300) ** 2, rel=0.1)
    assert 100 < haze.x_mm / 25.4 * 300 < 200
    assert haze.fix is not None
    mended = make_plan(replace(plan.request, settings=haze.fix))
    assert [f.severity for f in mended.findings if f.code == "half-transparent"] == ["note"]
    assert "half-transparent" not in codes(make(glow, "direct", garment=BLACK).findings)


@pytest.mark.parametrize(
    ("garment", "mode", "choke", "expected"),
    [
        (BLACK, "none", 0.25, {"white-off-dark"}),
        (BLACK, "solid", 0.0, {"choke-zero"}),
        (BLACK, "solid", 0.25, set()),
        (WHITE_SHIRT, "solid", 0.25, {"white-on-white"}),
        (WHITE_SHIRT, "none", 0.0, set()),
        (NAVY, "limit", 0.0, {"choke-zero"}),
    ],
)
def test_white_and_garment_are_held_against_each_other(make, garment, mode, choke, expected):
    rgba = badge()
    rgba[rgba[..., 1] > 200] = 0  # no white of the design
    plan = make(rgba, garment=garment, white=WhiteSettings(mode, 280, True, choke))
    assert codes(plan.findings) == expected
    for finding in plan.findings:
        assert finding.fix is not None
        assert finding.code not in codes(make_plan(replace(plan.request, settings=finding.fix)).findings)


def test_nothing_printed_is_told_and_mended(make):
    red = np.zeros((60, 60, 4), np.uint8)
    red[...] = (200, 30, 40, 255)
    plan = make(red, knockouts=(Knockout((200, 30, 40), 8, "everywhere", "hard"),))
    found = next(finding for finding in plan.findings if finding.code == "nothing-printed")
    assert found.severity == "stop"
    assert found.fix is not None
    assert "nothing-printed" not in codes(make_plan(replace(plan.request, settings=found.fix)).findings)
    empty = make(np.zeros((60, 60, 4), np.uint8))
    assert "fully transparent" in next(f.text for f in empty.findings if f.code == "nothing-printed")


@pytest.mark.parametrize("size", [(1, 1), (3, 200), (200, 3)])
def test_tiny_artwork_plans(make, size):
    rgba = np.full((*size, 4), 255, np.uint8)
    rgba[..., 1] = 20
    plan = make(rgba)
    assert plan.measures.printed_px == size[0] * size[1]


# the stack


def test_white_lies_between_garment_and_colour_whatever_the_process():
    for profile in (FILM, DIRECT):
        layers = stack(profile)
        assert layers[0] == "garment"
        assert layers.index("W") < min(layers.index(ink) for ink in "CMYK")
        assert profile.white_under_colour
    assert not replace(FILM, mirrored=False).white_under_colour, "unflipped, white ends up on top"


def test_film_prints_colour_first_and_mirrored_direct_white_first(make):
    film, direct = make(badge()), make(badge(), "direct")
    assert [entry["role"] for entry in channels(film)] == ["colour"] * 4 + ["white"] * 2
    assert [entry["role"] for entry in channels(direct)] == ["white"] * 2 + ["colour"] * 4
    assert [entry["hit"] for entry in channels(film)][-2:] == [1, 2]
    assert plan_report(film)["mirrored"] is True
    assert plan_report(direct)["mirrored"] is False


def test_amounts_of_the_channels_sum_to_the_materials(make):
    plan = make(badge())
    report = plan_report(plan)
    white = sum(entry["amount"] for entry in report["channels"] if entry["role"] == "white")
    listed = next(line["amount"] for line in report["materials"] if line["name"] == "White ink")
    assert white == pytest.approx(listed, abs=2e-4)


def test_findings_are_worst_first(make):
    findings = make(boxed(), garment=BLACK, width_mm=100.0, white=WhiteSettings(choke_mm=0)).findings
    order = [("stop", "look", "note").index(finding.severity) for finding in findings]
    assert order == sorted(order)
    assert len(findings) >= 3
