"""Total coverage: counted against plain sums, and told where it is more than the press takes."""

from dataclasses import replace

import numpy as np
import pytest
from tests.conftest import badge

from swaddon.core.count.coverage import over_limit, total_coverage_of, totals
from swaddon.core.plan.report import plan_report
from swaddon.core.plan.stages import make_plan


@pytest.mark.parametrize("shape", [(1, 1), (7, 5), (300, 41)])
def test_totals_are_plain_sums(shape):
    rng = np.random.default_rng(5)
    cmyk = rng.integers(0, 256, (*shape, 4), np.uint8)
    plain = cmyk.astype(int).sum(axis=2)
    assert np.array_equal(totals(cmyk), plain)
    assert np.array_equal(totals(cmyk[::-1]), plain[::-1])
    found = total_coverage_of(cmyk, 220)
    assert found.most_percent == pytest.approx(plain.max() / 2.55, abs=0.01)
    assert plain[found.at_px[1], found.at_px[0]] == plain.max()
    assert found.over_px == (plain > 221 * 2.55).sum() == np.count_nonzero(over_limit(cmyk, 220))


@pytest.mark.parametrize("name", ["film", "direct", "toner-onepass", "decal"])
def test_the_separation_keeps_within_the_limit_of_its_press(make, name):
    rng = np.random.default_rng(8)
    art = rng.integers(0, 256, (60, 60, 4), np.uint8)
    art[..., 3] = 255
    plan = make(art, process=name)
    limit = plan.request.profile.separation.total_area_limit
    assert plan.coverage.most_percent <= limit + 1
    assert plan.coverage.over_px == 0
    assert "over-limit" not in {finding.code for finding in plan.findings}


def test_more_ink_than_the_press_takes_is_told_with_its_place(make):
    """Inks solved for another press: this one takes less."""
    plan = make(badge())
    press = plan.request.press
    less = replace(press, separation=replace(press.separation, total_area_limit=120.0))
    table = plan.request.table()
    over = make_plan(replace(plan.request, press=less, solve_table=lambda _separation, _icc: table))
    found = next(finding for finding in over.findings if finding.code == "over-limit")
    plain = over.cmyk.astype(int).sum(axis=2) > 121 * 2.55
    assert found.size == pytest.approx(plain.sum() * (25.4 / over.ppi) ** 2, rel=1e-6)
    x, y = (int(mm * over.ppi / 25.4) for mm in (found.x_mm, found.y_mm))
    assert plain[y, x]
    told = plan_report(over)["total_coverage"]
    assert told == {
        "most_percent": pytest.approx(over.coverage.most_percent, abs=0.05),
        "limit_percent": 120.0,
        "over_mm2": pytest.approx(found.size, abs=0.01),
    }
