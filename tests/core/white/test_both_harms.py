"""Both harms of a choke stand beside it, and no finding reproaches what the recommendation accepted."""

from dataclasses import replace

import numpy as np
import pytest
from tests.conftest import badge, coarse

from swaddon.core.plan.report import plan_report
from swaddon.core.plan.stages import make_plan
from swaddon.core.white.settings import WhiteSettings
from swaddon.session.job import ArtworkFile, Job
from swaddon.session.ordering import Order, ordered
from swaddon.ui.stations.white.model import white_state

BLACK = (27, 27, 31)


def at_choke(plan, choke_mm: float, **more):
    white = replace(plan.request.settings.white, choke_mm=choke_mm, **more)
    return make_plan(replace(plan.request, settings=replace(plan.request.settings, white=white)))


def codes(plan) -> set[str]:
    return {finding.code for finding in plan.findings}


@pytest.mark.parametrize("press", ["film", "toner-twopass", "direct"])
def test_the_recommended_choke_is_not_reproached_with_what_it_accepts(make, press):
    """Least harm was recommended, taken, and then found to let 200 mm² of white peek."""
    start = make(badge(), coarse(press), garment=BLACK, white=WhiteSettings(choke_mm=0.25))
    best = at_choke(start, start.choke.recommended_mm)
    assert not codes(best) & {"peek", "bare-rim", "choke-kept", "choke-guarded"}
    no_peek = start.request.registration.no_peek_mm
    assert not codes(at_choke(start, no_peek)) & {"peek", "choke-kept"}
    if start.choke.recommended_mm > 0.06:
        assert "peek" in codes(at_choke(start, start.choke.recommended_mm - 0.05))


def test_areas_are_those_that_misses_leave(make):
    """Drawn at random: white shifted against the figure, pulled in by the choke; counted on fine pixels."""
    plan = make(badge(400), coarse("film", 100), garment=BLACK, white=WhiteSettings(choke_mm=0.1))
    registration = plan.request.registration
    figure = np.repeat(np.repeat(plan.art[..., 3] >= 128, 4, 0), 4, 1).astype(np.uint8)
    from cv2 import DIST_L2, DIST_MASK_PRECISE, distanceTransform

    px_mm = 25.4 / plan.ppi / 4
    inner = distanceTransform(figure, DIST_L2, DIST_MASK_PRECISE) * px_mm
    outer = distanceTransform(1 - figure, DIST_L2, DIST_MASK_PRECISE) * px_mm
    signed = inner - outer
    rng, peek, rim = np.random.default_rng(2), [], []
    white_share = plan.choke.peek_mm2[0] / max(1e-9, _areas(signed, figure, 0.0, registration, rng, px_mm)[0])
    for choke in (0.0, 0.1, 0.25):
        out, bare = _areas(signed, figure, choke, registration, rng, px_mm)
        told = plan.choke.areas_at(choke)
        peek.append((told[0], out * white_share))
        rim.append((told[1], bare * white_share))
    assert [told for told, _ in peek] == pytest.approx([drawn for _, drawn in peek], rel=0.15, abs=2.0)
    assert [told for told, _ in rim] == pytest.approx([drawn for _, drawn in rim], rel=0.15, abs=2.0)


def _areas(signed, figure, choke, registration, rng, px_mm) -> tuple[float, float]:
    white = signed > choke - registration.squeeze_mm
    out = []
    for _ in range(60):
        dy, dx = rng.normal(0, registration.sigma_mm / px_mm, 2).round().astype(int)
        moved = np.roll(white, (dy, dx), (0, 1))
        out.append(((moved & (figure == 0)).sum() * px_mm**2, (~moved & (figure > 0)).sum() * px_mm**2))
    peek, rim = np.mean(out, axis=0)
    return float(peek), float(rim)


def test_the_sheet_and_plan_json_tell_all_three_side_by_side(make):
    art = badge()
    art[(art[..., :3] > 200).all(axis=2), :3] = (240, 190, 60)
    plan = make(art, coarse("film"), garment=BLACK, white=WhiteSettings(choke_mm=0.3))
    choke = plan_report(plan)["choke"]
    for name, at in (("least_harm", plan.choke.recommended_mm), ("no_peek", choke["no_peek_mm"]), ("in_force", 0.3)):
        assert choke[name]["choke_mm"] == at
        assert (choke[name]["peek_mm2"], choke[name]["rim_mm2"]) == pytest.approx(plan.choke.areas_at(at), abs=0.006)
    job = Job("a", ArtworkFile(plan.request.artwork, b""), plan.request.settings, plan.request.profile)
    state = white_state(job, plan)
    for name, at in (("least harm", plan.choke.recommended_mm), ("no peek", choke["no_peek_mm"]), ("now", 0.3)):
        peek_mm2, rim_mm2 = plan.choke.areas_at(at)
        assert f"{name} {peek_mm2:.0f} + {rim_mm2:.0f}" in state.harms


def test_with_the_guard_on_a_wide_choke_still_tells_what_it_costs(make):
    art = np.zeros((300, 300, 4), np.uint8)
    for at in range(20, 280, 20):
        art[at : at + 6, 20:280] = (240, 190, 60, 255)
    plan = make(art, garment=BLACK, white=WhiteSettings(choke_mm=0.5, guard=True))
    (found,) = [finding for finding in plan.findings if finding.code == "choke-guarded"]
    assert "core of white" in found.text
    assert f"{plan.checks.white.strokes.saved_mm:.0f} mm of strokes" in found.text
    mended = make_plan(replace(plan.request, settings=found.fix))
    assert "choke-guarded" not in codes(mended)


@pytest.mark.parametrize(("text", "ppi", "mm"), [("3px", 300, 0.254), ("3px", 100, 0.762), ("3px@600", 300, 0.127)])
def test_pixels_alone_are_of_the_press(tmp_path, text, ppi, mm):
    from PIL import Image

    Image.fromarray(badge(60)).save(tmp_path / "a.png")
    (tmp_path / "few.toml").write_text(coarse("film", ppi).source)
    order = Order(artwork=tmp_path / "a.png", profile=str(tmp_path / "few.toml"), choke=text, registration=text)
    white = ordered(order, lambda: None).settings.white
    assert white.choke_mm == pytest.approx(mm)
    assert white.registration_mm == pytest.approx(mm)
    other = replace(order, choke=None, registration=None, settings={"white.squeeze_mm": text})
    assert ordered(other, lambda: None).settings.white.squeeze_mm == pytest.approx(mm)
