"""Lengths of thin strokes."""

import math

import cv2
import numpy as np
import pytest
from skimage.morphology import skeletonize

from swaddon.core import fast
from swaddon.core.white import strokes, underbase
from swaddon.core.white.guard import guarded
from swaddon.io.tables import cache_folder


def drawn(length: float, width: float, degrees: float) -> np.ndarray:
    """An antialiased bar, four times as fine and averaged."""
    big, turn = np.zeros((1680, 1680), np.uint8), np.radians(degrees)
    corners = np.array([[-length, -width], [length, -width], [length, width], [-length, width]]) * 2
    at = corners @ np.array([[np.cos(turn), np.sin(turn)], [-np.sin(turn), np.cos(turn)]]) + 840
    cv2.fillPoly(big, [np.round(at * 16).astype(np.int32)], 255, cv2.LINE_AA, 4)
    return np.where(cv2.resize(big, (420, 420), interpolation=cv2.INTER_AREA) >= 128, 255, 0).astype(np.uint8)


@pytest.mark.parametrize("degrees", [0, 7, 22.5, 33, 60, 90])
@pytest.mark.parametrize("width", [1, 1.5, 2, 3, 4.5, 6])
def test_a_stroke_is_as_long_as_it_was_drawn_whatever_its_width_and_angle(width, degrees):
    assert strokes.length_px(drawn(300, width, degrees)) == pytest.approx(300, rel=0.07)
    assert strokes.length_px(drawn(60, width, degrees)) == pytest.approx(60, rel=0.12)


def test_the_length_of_a_ring_and_of_several_strokes_is_that_of_their_middles():
    ring = np.zeros((300, 300), np.uint8)
    cv2.circle(ring, (150, 150), 100, 255, 3)
    assert strokes.length_px(ring) == pytest.approx(2 * np.pi * 100, rel=0.05)
    bars = np.zeros((100, 200), np.uint8)
    bars[10::20, 20:180] = 255
    assert strokes.length_px(bars) == pytest.approx(5 * 160, rel=0.07)
    assert strokes.length_px(np.zeros_like(bars)) == 0


def test_a_skeleton_of_a_reference_library_is_as_long():
    """scikit-image's skeleton of a word in thin letters, its steps counted as 1 and √2."""
    word = np.zeros((120, 700), np.uint8)
    cv2.putText(word, "low orbit marble", (10, 80), cv2.FONT_HERSHEY_SIMPLEX, 2.2, 255, 3, cv2.LINE_AA)
    mask = np.where(word >= 128, 255, 0).astype(np.uint8)
    line = skeletonize(mask > 0)
    straight = np.count_nonzero(line[1:] & line[:-1]) + np.count_nonzero(line[:, 1:] & line[:, :-1])
    falling = line[1:, 1:] & line[:-1, :-1] & ~line[1:, :-1] & ~line[:-1, 1:]
    rising = line[1:, :-1] & line[:-1, 1:] & ~line[1:, 1:] & ~line[:-1, :-1]
    steps = straight + math.sqrt(2) * (np.count_nonzero(falling) + np.count_nonzero(rising))
    assert strokes.length_px(mask) == pytest.approx(steps, rel=0.08)


# the guard


def bar(width_px: float, degrees: float, side: int = 260) -> np.ndarray:
    """A long antialiased stroke through the middle, its coverage worked out from the distance to its edges."""
    y, x = np.mgrid[0:side, 0:side] - (side - 1) / 2
    turn = np.radians(degrees)
    across = np.abs(x * np.sin(turn) + y * np.cos(turn))
    spread = abs(np.sin(turn)) + abs(np.cos(turn))
    return np.rint(np.clip((width_px / 2 - across) / spread + 0.5, 0, 1) * 255).astype(np.uint8)


def white_width(figure: np.ndarray, choke_px: float, least_px: float) -> float:
    """Mean width of the white that is left in a bar, in pixels of width, measured away from its ends."""
    pulled = underbase.pull_in(figure, choke_px)
    kept = guarded(figure, pulled, strokes.thin_strokes(figure, choke_px, least_px), choke_px, least_px)
    middle = (slice(80, 180), slice(80, 180))
    return float(kept[middle].sum() / figure[middle].sum())


@pytest.mark.parametrize("degrees", [0, 11, 22.5, 30, 45, 63, 90])
@pytest.mark.parametrize("choke_mm", [0.15, 0.25, 0.4])
def test_a_stroke_keeps_what_its_half_width_leaves_at_every_angle_and_no_less_when_it_is_wider(
    compiled, degrees, choke_mm
):
    """The choke is min(c, h − w/2) within 0.03 mm; white grows with the stroke."""
    px = 300 / 25.4
    least_mm, before = 0.1, 0.0
    for width_mm in np.arange(0.15, 1.3, 0.05):
        figure = bar(width_mm * px, degrees)
        white_mm = white_width(figure, choke_mm * px, least_mm * px) * width_mm
        wanted = min(choke_mm, max(width_mm / 2 - least_mm / 2, 0))
        assert (width_mm - white_mm) / 2 == pytest.approx(wanted, abs=0.03), width_mm
        assert white_mm >= before - 0.02, width_mm
        before = white_mm


def test_kernel_and_plain_keep_alike_also_at_ends_crossings_and_in_lettering(compiled):
    word = np.zeros((160, 700), np.uint8)
    cv2.putText(word, "Merrowmere x", (10, 100), cv2.FONT_HERSHEY_SIMPLEX, 2.6, 255, 5, cv2.LINE_AA)
    cv2.line(word, (20, 150), (680, 118), 255, 3, cv2.LINE_AA)
    pulled = underbase.pull_in(word, 3.4)
    thin = strokes.thin_strokes(word, 3.4, 1.2)
    quick = guarded(word, pulled, thin, 3.4, 1.2)
    fast.disable()
    plain = guarded(word, pulled, thin, 3.4, 1.2)
    fast.enable(cache_folder())
    assert np.abs(quick.astype(int) - plain).max() <= 1
    assert (quick <= word).all()
    assert (quick >= pulled).all()
    near = cv2.dilate(quick, np.ones((7, 7), np.uint8))
    assert (near[word == 255] > 60).mean() > 0.995, "no part of a letter is left without white nearby"
