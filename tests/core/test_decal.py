"""Decals: printed as they are seen, white first, on an item of any colour."""

from dataclasses import replace

import numpy as np
import pytest
from tests.conftest import badge

from swaddon.core.errors import PlanError
from swaddon.core.proof.optics import Appearance, seen
from swaddon.core.white.settings import WhiteSettings
from swaddon.io import profiles
from swaddon.io.export import proof_picture

BLACK, WHITE_TIN = (27, 27, 31), (250, 250, 248)


def codes(plan):
    return {finding.code: finding for finding in plan.findings}


def test_a_decal_with_white_last_is_stopped_and_white_first_mends_it(make):
    wrong = make(badge(), garment=BLACK, process="decal", white=WhiteSettings(position="last", choke_mm=0.2))
    found = codes(wrong)["white-on-top"]
    assert found.severity == "stop"
    assert found.size == pytest.approx(wrong.measures.printed_mm2, rel=0.35)
    shown = proof_picture(wrong)[0].reshape(-1, 3)
    mended = make(badge(), garment=BLACK, process="decal", white=replace(found.fix.white))
    assert "white-on-top" not in codes(mended)
    assert mended.request.profile.print_order == ("white", "colour")
    red = lambda pixels: float((np.abs(pixels.astype(int) - (200, 30, 40)).max(axis=1) < 60).mean())  # noqa: E731
    assert red(shown) < 0.02, "the picture has vanished under the white"
    assert red(proof_picture(mended)[0].reshape(-1, 3)) > 0.1


def test_a_press_that_cannot_move_its_white_says_so(make):
    press = replace(profiles.shipped("decal"), print_order=("colour", "white"), white_can_go=("last",))
    found = codes(make(badge(), garment=BLACK, process=press))["white-on-top"]
    assert found.fix is None
    assert "another process" in found.text


def test_colour_without_white_is_told_on_any_item_that_is_not_white(make):
    bare = WhiteSettings("none", design=False)
    pale = make(badge(), garment=(224, 212, 186), process="decal", white=bare)
    assert codes(pale)["white-off-dark"].severity == "stop"
    assert "item" in codes(pale)["white-off-dark"].text
    assert "white-off-dark" not in codes(make(badge(), garment=WHITE_TIN, process="decal", white=bare))
    assert "white-off-dark" not in codes(make(badge(), garment=(224, 212, 186), white=bare)), "cloth may tint"


def test_white_over_colour_hides_it_as_the_optics_say():
    press = profiles.shipped("decal")
    ink, full = np.array([[[0, 255, 255, 0]]], np.uint8), np.full((1, 1), 255 << 7, np.uint16)
    under, over = (
        seen(ink, full, Appearance.of(BLACK, press.with_white(where)))[0, 0].astype(int) for where in ("first", "last")
    )
    assert under[0] > under[1] + 60, "red"
    assert np.ptp(over) < 30, "as good as grey"


def test_a_profile_whose_white_can_go_everywhere_but_where_it_is_is_refused():
    decal = (profiles.FOLDER / "decal.toml").read_text(encoding="utf-8")
    with pytest.raises(PlanError, match="white_can_go"):
        profiles.parse(decal.replace('["first", "last"]', '["last"]'), "decal.toml")
