"""Scans that tell nothing are refused with what is wrong; they are never read as numbers."""

import dataclasses
import datetime

import numpy as np
import pytest
from tests.acceptance.spoiled import SPOILED
from tests.seeds import WIDE, drawn_page, outcome, printed, scanned

from swaddon.core.press.lineup import LineUp, with_lineup
from swaddon.core.testprint import code, reading
from swaddon.core.testprint.find import find_page
from swaddon.core.testprint.reading import read_page, told
from swaddon.core.testprint.refusal import UnreadablePageError
from swaddon.core.testprint.scan import Scan
from swaddon.devices.hidden import drawn, perfect
from swaddon.devices.press import CARD
from swaddon.devices.scanner import Scanner, scan
from swaddon.io import profiles

PRESS = profiles.shipped("direct")
SEED = 3
"""A press of two swapped colours, with a page that lies askew."""


@pytest.fixture(scope="module")
def good() -> np.ndarray:
    return scanned(PRESS, SEED, 300.0).pixels


def read(pixels: np.ndarray) -> dict:
    return told(read_page(Scan(np.ascontiguousarray(pixels), *WIDE), PRESS, names=profiles.shipped_names()))


@pytest.mark.parametrize("how", list(SPOILED))
def test_a_bad_scan_is_refused_for_what_it_is(good, how):
    spoil, kinds = SPOILED[how]
    with pytest.raises(UnreadablePageError) as refusal:
        read(spoil(good, 300 / 25.4))
    assert refusal.value.kind in kinds, refusal.value
    assert str(refusal.value).endswith(".")


def test_a_page_upside_down_or_on_its_side_is_read_alike(good):
    upright, turned, aside = read(good), read(good[::-1, ::-1]), read(np.rot90(good))
    assert abs(turned["scan"]["turned_deg"] - upright["scan"]["turned_deg"]) == pytest.approx(180, abs=0.2)
    for other in (turned, aside):
        assert other["wiring"] == upright["wiring"]
        assert other["shift_mm"] == pytest.approx(upright["shift_mm"], abs=0.003)
        assert other["white_contrast_ratio"] == pytest.approx(upright["white_contrast_ratio"], abs=0.003)


def test_fiducials_with_rounded_corners_are_found_to_hundredths_of_a_millimetre():
    """A toner press that rounds corners, at 300 ppi: corners by themselves were 0.1 mm off, the page was refused."""
    press = profiles.shipped("toner-onepass")
    page, _ = drawn_page(press.name)
    found = find_page(scanned(press, 14, 300.0).pixels, page)
    assert found.residual_mm < 0.025


def test_fiducials_whose_edge_a_blocked_nozzle_leaves_out_do_not_spoil_the_rest():
    """A film press whose white misses five rows, some at the edge of a fiducial: a good page was refused as bent."""
    press = profiles.shipped("film")
    page, _ = drawn_page(press.name)
    found = find_page(scanned(press, 76, 300.0).pixels, page)
    assert found.residual_mm < 0.03


def test_a_jpeg_of_good_quality_is_read(good):
    import cv2

    packed = cv2.imdecode(cv2.imencode(".jpg", good, [cv2.IMWRITE_JPEG_QUALITY, 85])[1], cv2.IMREAD_COLOR)
    assert read(packed)["shift_mm"] == pytest.approx(read(good)["shift_mm"], abs=0.005)


def test_a_page_of_another_press_is_named(good):
    other = dataclasses.replace(PRESS, name="film")
    with pytest.raises(UnreadablePageError, match="“direct”") as refusal:
        read_page(Scan(good, *WIDE), other, names=profiles.shipped_names())
    assert refusal.value.kind == "press"


def test_a_page_of_another_line_up_is_named(good):
    other = with_lineup(PRESS, LineUp("Mine", tuple("KMYCWW")))
    with pytest.raises(UnreadablePageError, match="C M Y K W W") as refusal:
        read_page(Scan(good, *WIDE), other)
    assert refusal.value.kind == "line-up"


def test_a_page_of_another_revision_is_refused(good, monkeypatch):
    monkeypatch.setattr(reading, "REVISION", code.REVISION + 1)
    with pytest.raises(UnreadablePageError) as refusal:
        read(good)
    assert refusal.value.kind == "revision"


def test_a_plain_srgb_scan_is_read_too():
    """Full cyan and yellow lie outside sRGB; what a scan cuts off is told from the paler steps, less surely."""
    page, _ = drawn_page("direct")
    hidden = dataclasses.replace(perfect(PRESS, page.slots), gain=((0.0, 0.62, 1.0),) * 4)
    read_ = told(read_page(scanned(PRESS, 1, 300.0, hidden, wide=False), PRESS))
    assert read_["wiring"] == list(page.inks)
    assert [read_["gain"][ink]["0.5"] for ink in "CMYK"] == pytest.approx([0.62] * 4, abs=0.03)


def test_a_perfect_press_reads_as_its_own_profile():
    """No fault, no scanner: every constant comes back, and nothing is blocked."""
    page, _ = drawn_page("direct")
    light = printed(PRESS, 0, perfect(PRESS, page.slots))
    found = told(read_page(Scan(scan(light, 600, 600, Scanner(blur_mm=0.0), 0, CARD), *WIDE), PRESS))
    assert found["sentences"] == []
    assert found["shift_mm"] == pytest.approx([0, 0], abs=0.002)
    assert found["rotation_deg"] == pytest.approx(0, abs=0.0005)
    assert found["white_contrast_ratio"] == pytest.approx(PRESS.white.contrast_ratio, abs=0.005)
    assert max(abs(v - float(t)) for curve in found["gain"].values() for t, v in curve.items()) < 0.012
    assert found["least_mm"]["line"] == 0.05
    assert abs(found["squeeze_mm"]) < 0.02


def moves_white(wiring: tuple[int, ...], whites: tuple[int, ...]) -> bool:
    return any((source in whites) != (at in whites) for at, source in enumerate(wiring))


def test_white_in_a_colours_slot_is_told_and_nothing_else():
    """Then the bottles come first: no number of that page means anything."""
    page, _ = drawn_page("direct")
    seed = next(seed for seed in range(200) if moves_white(drawn(PRESS, page.slots, seed).wiring, page.whites))
    made = outcome("direct", seed, 300.0)
    assert made.read["wiring"] == made.truth["wiring"]
    assert made.read["is_whole"] is False
    assert made.read["shift_mm"] is None
    assert made.read["gain"] == {}
    assert "print the page again" in " ".join(made.read["sentences"])


def test_reading_is_given_up_when_it_is_told_to(good):
    class StoppedError(Exception):
        pass

    def progress(_title: str, share: float) -> None:
        if share > 0.3:
            raise StoppedError

    with pytest.raises(StoppedError):
        read_page(Scan(good, *WIDE), PRESS, progress)


def test_the_day_of_the_page_is_read(good):
    assert read(good)["page_made"] == datetime.date(2026, 11, 28).isoformat()
