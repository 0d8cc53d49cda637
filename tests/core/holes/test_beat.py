"""Beating: bands where a screen overprints dots of the artwork; their period against blurred pixels and geometry."""

import math
from dataclasses import replace

import cv2
import numpy as np
import pytest
from tests.conftest import coarse

from swaddon.core.holes import screen
from swaddon.core.holes.beat import beat, is_seen, patches
from swaddon.core.holes.screen import Cut, rule
from swaddon.core.holes.settings import HoleSettings, Screen
from swaddon.core.plan.stages import make_plan

PPI, SIDE = 300, 1024
CLOTH = (27, 27, 31)
DOTS = Screen("round", 35, 52.5, 0.8)


def with_dots(lpi: float, angle: float, ppi: float = PPI, low: int = 90, high: int = 230) -> np.ndarray:
    """Opaque artwork of grey dots on lighter grey, drawn from a cosine: nothing of the screens' own code."""
    y, x = np.mgrid[:SIDE, :SIDE] / ppi * lpi
    turn = math.radians(angle)
    u, v = x * math.cos(turn) - y * math.sin(turn), x * math.sin(turn) + y * math.cos(turn)
    grey = np.where(np.cos(2 * np.pi * u) + np.cos(2 * np.pi * v) > 0.3, low, high).astype(np.uint8)
    return np.dstack([grey, grey, grey, np.full_like(grey, 255)])


def strongest(art: np.ndarray, wanted: Screen):
    zones = np.ones(art.shape[:2], np.uint8)
    ruled = rule(wanted, {}, PPI)
    found = [beat(patch, ruled, PPI) for patch in patches(art, zones, 1, CLOTH)]
    return max(found, key=lambda item: item.contrast, default=None)


def bands_by_eye(art: np.ndarray, wanted: Screen) -> float:
    """Period in mm of the slowest strong wave of the cut print from afar: blurred, no theory of beats."""
    mask = screen.cut(*(np.ones(art.shape[:2], np.uint8),) * 2, Cut((rule(wanted, {}, PPI),), None))
    seen = cv2.GaussianBlur(np.where(mask > 0, (art[..., 0] / 255) ** 2.2, 0.01), None, 10)[40:-40, 40:-40]
    window = np.hanning(seen.shape[0])[:, None] * np.hanning(seen.shape[1])
    power = np.abs(np.fft.rfft2(window * (seen - seen.mean()), (4096, 4096)))
    frequency = np.hypot(np.fft.fftfreq(4096)[:, None], np.fft.rfftfreq(4096)[None, :]) * PPI / 25.4
    return 1 / frequency.flat[power.argmax()]


@pytest.mark.parametrize(("lpi", "angle"), [(33, 52.5), (31, 52.5), (35, 56.5), (33.5, 49)])
def test_bands_have_the_period_that_blurred_pixels_show(lpi, angle):
    found = strongest(with_dots(lpi, angle), DOTS)
    assert is_seen(found)
    assert found.art_lpi == pytest.approx(lpi, rel=0.02)
    turn, one, other = math.radians(angle - DOTS.angle), lpi / 25.4, 35 / 25.4
    apart = math.sqrt(one**2 + other**2 - 2 * one * other * math.cos(turn))
    assert found.period_mm == pytest.approx(1 / apart, rel=0.05), "two rulings beat at their difference (geometry)"
    assert found.period_mm == pytest.approx(bands_by_eye(with_dots(lpi, angle), DOTS), rel=0.08)


def test_bands_are_as_strong_as_blurred_pixels_show():
    art, mask_of = with_dots(33, 52.5), np.ones((SIDE, SIDE), np.uint8)
    mask = screen.cut(mask_of, mask_of, Cut((rule(DOTS, {}, PPI),), None))
    seen = cv2.GaussianBlur(np.where(mask > 0, (art[..., 0] / 255) ** 2.2, 0.01), None, 12)[100:-100, 100:-100]
    strength = (np.percentile(seen, 98) - np.percentile(seen, 2)) / 2 / seen.mean()
    # Waves along both axes of the lattice add up where they meet: up to twice one of them.
    assert 0.8 * strength / 2 <= strongest(art, DOTS).contrast <= 1.3 * strength


@pytest.mark.parametrize(("lpi", "angle"), [(20, 52.5), (55, 30), (35, 82.5)])
def test_rulings_well_apart_make_no_bands(lpi, angle):
    assert not is_seen(strongest(with_dots(lpi, angle), DOTS))


def test_a_photograph_and_flat_artwork_have_nothing_to_beat_with():
    rough = cv2.GaussianBlur(np.random.default_rng(5).random((SIDE, SIDE)).astype(np.float32), None, 3)
    grey = cv2.normalize(rough, None, 0, 255, cv2.NORM_MINMAX).astype(np.uint8)
    photo = np.dstack([grey, grey, grey, np.full_like(grey, 255)])
    assert not is_seen(strongest(photo, DOTS))
    assert strongest(np.full_like(photo, 180), DOTS) is None


def test_a_plan_tells_the_bands_and_its_fix_parts_the_rulings(make):
    plan = make(with_dots(33, 52.5, low=60, high=255), coarse("film", 300), garment=CLOTH, width_mm=86.7,
                holes=HoleSettings(DOTS, fine_mm=0))  # fmt: skip
    told = [item for item in plan.findings if item.code == "screens-beat"]
    assert len(told) == 1
    assert "dots or stripes of the artwork" in told[0].text
    mended = make_plan(replace(plan.request, settings=told[0].mend(plan.request.settings)))
    assert "screens-beat" not in {item.code for item in mended.findings}
    solid = make_plan(replace(plan.request, settings=replace(plan.request.settings, holes=HoleSettings())))
    assert "screens-beat" not in {item.code for item in solid.findings}
