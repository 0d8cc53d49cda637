"""Lengths of thin strokes."""

import math

import cv2
import numpy as np
import pytest
from skimage.morphology import skeletonize

from swaddon.core import strokes


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
