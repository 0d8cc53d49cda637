"""The simulated press and scanner: what they do to channels, each fault by itself."""

import dataclasses

import cv2
import numpy as np
import pytest
from tests.seeds import drawn_page

from swaddon.core.colour.spaces import bands_from_srgb8, delta_e_2000, lab_from_bands
from swaddon.core.proof.optics import Appearance, seen_bands
from swaddon.core.testprint.layout import NOZZLE_MM, NOZZLES
from swaddon.devices.hidden import drawn, perfect
from swaddon.devices.light import FULL_LIGHT, Stack, lit, lit_plain
from swaddon.devices.press import CARD, print_on
from swaddon.devices.run import shirts
from swaddon.devices.scanner import Scanner, scan
from swaddon.io import profiles

DIRECT = profiles.shipped("direct")
SLOTS = DIRECT.slots
PPI = 600.0
PX = PPI / 25.4


def planes(height: int = 240, width: int = 240, **full: tuple[slice, slice]) -> list[np.ndarray]:
    """Six empty planes, with boxes that are full by slot number."""
    made = [np.zeros((height, width), np.uint8) for _ in SLOTS]
    for name, box in full.items():
        made[int(name[1:])][box] = 255
    return made


@pytest.mark.parametrize("name", profiles.shipped_names())
def test_light_of_compiled_and_of_plain_code_is_the_same(compiled, name):
    """Random mixtures on every press, from a row on that is not the first."""
    press, rng = profiles.shipped(name), np.random.default_rng(3)
    slots = press.slots
    patches = rng.integers(0, 256, (len(slots), 12, 12), np.uint8) * (rng.random((len(slots), 12, 12)) < 0.6)
    made = np.repeat(np.repeat(patches.astype(np.uint8), 5, 1), 7, 2)
    hits = rng.uniform(0.5, 1.5, len(slots)).tolist()
    stack = Stack.of(slots, press, drawn(press, slots, 4), (0.03, 0.2, 0.5), hits, 4, PPI)
    ours, plain = (np.empty((*made.shape[1:], 3), np.uint16) for _ in range(2))
    lit(made, 37, stack, ours)
    lit_plain(made, 37, stack, plain)
    assert np.abs(ours.astype(int) - plain).max() <= 1
    assert np.unique(plain[..., 1]).size > 100


def test_a_press_without_faults_prints_what_the_proof_shows():
    """Random inks and whites on a navy garment: the light is that of the optical model of the proof.

    Tints are screened and mottled: means of cells count.
    """
    rng = np.random.default_rng(2)
    garment = (31, 41, 68)
    made = [np.repeat(np.repeat(rng.integers(0, 256, (8, 8), np.uint8), 30, 0), 30, 1) for _ in SLOTS]
    made[5] = made[4]
    bands = tuple(float(v) for v in bands_from_srgb8(garment))
    printed = print_on(made, SLOTS, DIRECT, perfect(DIRECT, SLOTS), PPI, bands) / FULL_LIGHT
    light = printed.reshape(8, 30, 8, 30, 3)[:, 2:28, :, 2:28].mean(axis=(1, 3))
    cmyk = np.stack([plane[15::30, 15::30] / 255 for plane in made[:4]], axis=-1)
    look = Appearance.of(garment, DIRECT)
    expected = seen_bands(cmyk, made[4][15::30, 15::30] / 255, np.broadcast_to(bands, (8, 8, 3)), look)
    off = delta_e_2000(lab_from_bands(light), lab_from_bands(expected))
    assert off.mean() < 0.5


def test_the_mean_of_ten_shirts_is_the_proof():
    """A run with its scatter: its mean is a print without, within a mean ΔE00 of 1 with the edges, 0.5 inside."""
    box = (slice(60, 180), slice(60, 180))
    made = planes(s4=box, s5=box, s1=(slice(66, 174), slice(66, 174)))
    strengths = (1.0,) * 6
    press = dataclasses.replace(DIRECT, registration=dataclasses.replace(DIRECT.registration, sigma_mm=0.05))
    faults = perfect(press, SLOTS)
    run = list(shirts(made, strengths, SLOTS, press, faults, PPI, CARD, 10, seed=4))
    (still,) = shirts(made, strengths, SLOTS, press, faults, PPI, CARD, 1, seed=4)
    mean = np.mean([light.astype(np.float64) for light in run], axis=0) / FULL_LIGHT
    off = delta_e_2000(lab_from_bands(mean), lab_from_bands(still / FULL_LIGHT))
    assert off.mean() < 1.0
    assert off[80:160, 80:160].mean() < 0.5
    assert len({light.tobytes() for light in run}) == 10


def test_blocked_nozzles_leave_out_their_rows_and_no_others():
    faults = dataclasses.replace(perfect(DIRECT, SLOTS), blocked=((), (), (), (), (5,), ()))
    made = planes(height=440, s4=(slice(None), slice(None)))
    light = print_on(made, SLOTS, DIRECT, faults, PPI, CARD)[:, 100, 1] / FULL_LIGHT
    rows = np.flatnonzero(light < light.max() * 0.9)
    at = (rows + 0.5) / PX / NOZZLE_MM % NOZZLES
    assert len(rows) >= 6
    assert np.abs(at - 5.5).max() < 0.8


@pytest.mark.parametrize(("right", "down"), [(0.3, 0.0), (-0.2, 0.4)])
def test_white_lies_where_the_hidden_shift_puts_it(right, down):
    """By the centre of gravity of a square, against scipy's definition of it: the mean of its places."""
    faults = dataclasses.replace(perfect(DIRECT, SLOTS), shift_mm=(right, down))
    box = (slice(80, 160), slice(80, 160))
    still = print_on(planes(s4=box), SLOTS, DIRECT, perfect(DIRECT, SLOTS), PPI, CARD)[..., 1].astype(float)
    moved = print_on(planes(s4=box), SLOTS, DIRECT, faults, PPI, CARD)[..., 1].astype(float)

    def centre(light):
        weight = light - light.min()
        y, x = np.mgrid[0:240, 0:240]
        return np.array([(weight * x).sum(), (weight * y).sum()]) / weight.sum()

    assert (centre(moved) - centre(still)) / PX == pytest.approx([right, down], abs=0.01)


def test_an_even_or_odd_least_line_moves_nothing():
    """Opening with a kernel of even size would shift a shape by half a pixel; it must not."""
    box = (slice(80, 160), slice(80, 160))
    for size in (2, 3, 4, 5):
        faults = dataclasses.replace(perfect(DIRECT, SLOTS), line_mm=size / PX, gap_mm=size / PX)
        light = print_on(planes(s4=box), SLOTS, DIRECT, faults, PPI, CARD)[..., 1]
        np.testing.assert_array_equal(np.flatnonzero(light[120] > FULL_LIGHT // 4), np.arange(80, 160))


def test_lines_and_gaps_that_are_too_narrow_vanish():
    faults = dataclasses.replace(perfect(DIRECT, SLOTS), line_mm=5 / PX, gap_mm=5 / PX)
    made = planes(s4=(slice(20, 220), slice(40, 44)))
    made[4][20:220, 100:180] = 255
    made[4][20:220, 140:144] = 0
    light = print_on(made, SLOTS, DIRECT, faults, PPI, CARD)[120, :, 1] / FULL_LIGHT
    assert light[42] < 0.05
    assert light[142] > 0.6


def test_gain_darkens_tints_and_leaves_full_ink():
    faults = dataclasses.replace(perfect(DIRECT, SLOTS), gain=((0.0, 0.8, 1.0),) * 4)
    made = planes(s4=(slice(None), slice(None)))
    made[3][:, :120], made[3][:, 120:] = 128, 255
    plain = print_on(made, SLOTS, DIRECT, perfect(DIRECT, SLOTS), PPI, CARD).astype(float)
    gained = print_on(made, SLOTS, DIRECT, faults, PPI, CARD).astype(float)
    assert gained[:, 10:110].mean() < plain[:, 10:110].mean() * 0.75
    assert gained[:, 130:230].mean() == pytest.approx(plain[:, 130:230].mean(), rel=0.02)


def test_a_seed_is_repeatable_and_seeds_differ():
    page, _ = drawn_page("direct")
    one, same, other = (drawn(DIRECT, page.slots, seed).truth(page.slots) for seed in (5, 5, 6))
    assert one == same
    assert one != other


def test_a_scan_has_the_size_and_turn_that_it_was_given():
    light = np.full((1200, 900, 3), FULL_LIGHT, np.uint16)
    picture = scan(light, 300, 150, Scanner(turn_deg=5.0), card=(0.03, 0.03, 0.03))
    mask = (picture[..., 1] > 245).astype(np.uint8)
    contours, _ = cv2.findContours(mask, cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_NONE)
    _, sides, angle = cv2.minAreaRect(max(contours, key=cv2.contourArea))
    assert sorted(sides) == pytest.approx([450, 600], abs=4)
    assert angle % 90 == pytest.approx(5, abs=0.3)
