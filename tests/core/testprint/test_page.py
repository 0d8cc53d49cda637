"""The page of a test print: where things stand, what is drawn, and what its code says."""

import datetime

import cv2
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from tests.seeds import DAY

from swaddon.core.press.lineup import LineUp, with_lineup
from swaddon.core.testprint.code import Label, cells, digest, label_of
from swaddon.core.testprint.drawing import draw_page, hole_mm, lattice
from swaddon.core.testprint.layout import NOZZLE_MM, NOZZLES, WIDTH_MM, Box, page_for
from swaddon.core.testprint.naming import numbered
from swaddon.io import profiles


def many_slots():
    """A press of twelve slots, eight of them white."""
    press = profiles.shipped("direct")
    import dataclasses

    press = dataclasses.replace(press, last_slot=12)
    return with_lineup(press, LineUp("Twelve", tuple("CMYKWWWWWWWW")))


def pages():
    made = {name: page_for(profiles.shipped(name), DAY) for name in profiles.shipped_names()}
    return made | {"twelve slots": page_for(many_slots(), DAY)}


@pytest.mark.parametrize("name", list(pages()))
def test_nothing_on_a_page_overlaps_or_hangs_over(name):
    page = pages()[name]
    boxes = list(page.every_box())
    for at, (one, box) in enumerate(boxes):
        assert 0 <= box.x <= WIDTH_MM - box.width + 1e-6, one
        assert 0 <= box.y <= page.height_mm - box.height + 1e-6, one
        assert not [other for other, there in boxes[at + 1 :] if box.meets(there)], one


def test_a_page_of_up_to_six_inks_fits_a4_and_letter():
    """ISO 216 A4 is 210 × 297 mm; Letter is 8.5 × 11 in."""
    for name in profiles.shipped_names():
        page = page_for(profiles.shipped(name), DAY)
        assert page.height_mm <= 11 * 25.4 - 12
        assert WIDTH_MM <= 210 - 12


def test_blocks_of_nozzles_begin_with_the_first_nozzle():
    """A head prints row y with nozzle y / pitch modulo their number, from the top of the page."""
    page = page_for(profiles.shipped("film"), DAY)
    for channel in page.nozzles:
        for number in range(NOZZLES):
            line = page.nozzle_line(channel, number)
            assert round(line.y / NOZZLE_MM) % NOZZLES == number
            assert line.y / NOZZLE_MM == pytest.approx(round(line.y / NOZZLE_MM), abs=1e-6)


def test_planes_have_the_area_that_was_drawn():
    """Exact coverage: an even patch off the grid of pixels has its area to a thousandth."""
    page = page_for(profiles.shipped("direct"), DAY)
    planes = draw_page(page, 300.0)
    px = 300 / 25.4
    channel, boxes = next(iter(page.tints.items()))
    half = boxes[5]
    rows, columns = (
        slice(round((half.y - 0.3) * px), round((half.y + 7.3) * px)),
        slice(round((half.x + 1) * px), round((half.x + 6) * px)),
    )
    part = planes[channel][rows, columns] / 255
    assert part.sum() / px**2 / 5.0 == pytest.approx(7.0 * 0.5, rel=0.02)


def test_fiducials_are_read_by_the_library_that_defines_them():
    """OpenCV's own detector finds every number in the white channels, and none twice."""
    page = page_for(profiles.shipped("direct"), DAY)
    planes = draw_page(page, 150.0)
    detector = cv2.aruco.ArucoDetector(cv2.aruco.getPredefinedDictionary(cv2.aruco.DICT_5X5_50))
    for slot in page.whites:
        picture = np.pad(np.maximum(planes[slot], 10), 30, constant_values=10)
        _, numbers, _ = detector.detectMarkers(picture)
        assert sorted(np.ravel(numbers).tolist()) == sorted(m.number for m in page.markers if m.slot == slot)


labels = st.builds(
    Label,
    revision=st.integers(0, 63),
    press=st.integers(0, 2**32 - 1),
    inks=st.lists(st.sampled_from("CMYKWH"), min_size=3, max_size=12).map(tuple),
    day=st.dates(datetime.date(2000, 1, 1), datetime.date(2179, 1, 1)),
)


@given(labels)
def test_a_code_says_what_was_put_in(label):
    assert label_of(cells(label)) == label


@given(labels, st.integers(0, 107), st.integers(0, 107))
def test_a_code_with_wrong_cells_says_nothing(label, one, other):
    light = cells(label)
    light.ravel()[one] ^= True
    assert label_of(light) is None
    if one != other:
        light.ravel()[other] ^= True
        assert label_of(light) is None


def test_holes_of_a_screen_leave_the_share_asked_for():
    """A lattice of pitch p with round holes of diameter d leaves 1 − π d² / 4 p² (geometry)."""
    for lpi, share in ((27.0, 0.7), (45.0, 0.9)):
        pitch = 25.4 / lpi
        assert 1 - np.pi * hole_mm(lpi, share) ** 2 / 4 / pitch**2 == pytest.approx(share)
    places = np.array(lattice(Box(0, 0, 100, 100), 1.0, 0.4))
    assert len(places) / 10_000 == pytest.approx(1, abs=0.03)


def test_the_same_ink_twice_has_two_names():
    assert numbered(["W", "C", "W", "W"]) == ["W", "C", "W2", "W3"]
    assert digest("film") != digest("direct")
