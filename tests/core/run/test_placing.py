"""The card tells where the ink lies, not its artboard; cropping what is empty keeps the look on the shirt."""

from dataclasses import replace

import numpy as np
import pytest
from tests.conftest import artwork, badge, coarse

from swaddon.core.artwork.placement import Placement
from swaddon.core.knockout.settings import Knockout
from swaddon.core.plan.report import plan_report
from swaddon.core.plan.stages import make_plan
from swaddon.core.run.card import Placing
from swaddon.core.units import mm_from_px
from swaddon.session.card_files import card_page
from swaddon.session.job import ArtworkFile, Job
from swaddon.session.preferences import Preferences


def low(turns: int = 0) -> np.ndarray:
    """A badge low and left on a wide white sheet, as it lies after so many quarter turns."""
    whole = np.full((400, 500, 4), 255, np.uint8)
    share = badge(200)[..., 3:] / 255
    place = whole[170:370, 60:260]
    place[..., :3] = np.rint(badge(200)[..., :3] * share + place[..., :3] * (1 - share))
    return np.ascontiguousarray(np.rot90(whole, turns))


def ink_on_shirt(plan) -> tuple[float, float]:
    """Left end of the ink from the middle of the shirt, and its top from the collar, counted here, mm."""
    rows, columns = np.nonzero(np.maximum(plan.cmyk.max(axis=2), plan.white_plane))
    ppi, settings = plan.request.ppi, plan.request.settings
    left = mm_from_px(float(columns.min()), ppi) - settings.width_mm / 2
    return left, settings.drop_mm + mm_from_px(float(rows.min()), ppi)


@pytest.mark.parametrize("turns", [0, 1, 2, 3])
def test_the_fix_crops_and_leaves_the_print_where_it_is(make, turns):
    plan = make(
        low(turns), garment=(27, 27, 31), width_mm=100.0, knockouts=(Knockout((255, 255, 255)),), drop_mm=76.0,
        placement=Placement(None, turns),
    )  # fmt: skip
    (finding,) = [finding for finding in plan.findings if finding.code == "ink-below-artboard"]
    left, top = ink_on_shirt(plan)
    assert finding.size == pytest.approx(top - 76, abs=0.05)
    fixed = make_plan(replace(plan.request, settings=finding.mend(plan.request.settings)))
    assert ink_on_shirt(fixed) == pytest.approx((left, top), abs=0.12)
    assert fixed.measures.printed_mm2 == pytest.approx(plan.measures.printed_mm2, rel=0.01)
    assert "ink-below-artboard" not in {found.code for found in fixed.findings}


def test_report_and_card_tell_the_inks_own_box(make, tmp_path):
    plan = make(low(), coarse("film"), garment=(27, 27, 31), width_mm=100.0, knockouts=(Knockout((255, 255, 255)),))
    left, top = ink_on_shirt(plan)
    told = plan_report(plan)["print"]
    assert told["ink_below_collar_mm"] == pytest.approx(top, abs=0.01)
    assert told["printed_at_mm"][0] - 50 == pytest.approx(left, abs=0.01)
    job = Job(file=ArtworkFile(artwork(low()), b""), profile=plan.request.profile, settings=plan.request.settings)
    page = card_page(job, plan, Preferences())
    assert page.drop == f"{top:.0f} mm"
    assert f"{top:.0f} mm below the collar" in page.where
    assert "artboard begins at 76 mm" in page.where
    assert "left of the centre line" in page.where
    assert page.ink[:2] == pytest.approx((left, top), abs=0.01)
    assert "(artboard 100 mm × 80 mm)" in dict(page.facts)["Print"]


def test_where_ink_and_artboard_agree_one_place_is_told():
    placing = Placing("shirt", "garment", "Front", 76.0, (0.5, 0.4, 99.0, 60.0), (100.0, 61.0))
    assert placing.words() == "76 mm below the collar, centred"
    assert placing.words("in") == "3.01 in below the collar, centred"
