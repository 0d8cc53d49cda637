"""Any order of more than one piece is told whole and per hundred: tally, knockouts, levers, variants."""

from dataclasses import replace
from decimal import Decimal

import numpy as np
import pytest
from tests.conftest import badge, coarse

from swaddon.core.count.consumption import total_cost
from swaddon.core.count.money import at_quantities, money_text
from swaddon.core.engine import Cache, Run
from swaddon.core.knockout.settings import Knockout
from swaddon.core.plan.variants import Axes, GarmentChoice, variants_of, worked_out
from swaddon.session.job import ArtworkFile, Job
from swaddon.session.levers import Lever
from swaddon.session.shop import book
from swaddon.session.tally import tally_lines
from swaddon.session.variants import request_of
from swaddon.session.variants_report import variants_report, variants_table
from swaddon.ui.stations.cost.model import lever_text
from swaddon.ui.stations.knockout import model as knockout_model


@pytest.mark.parametrize("quantity", [1, 2, 36])
def test_the_tally_tells_order_and_hundred(make, quantity):
    plan = make(badge(), quantity=quantity)
    (line,) = [item for item in tally_lines(plan, None, book()) if item.key == "cost"]
    told = "\n".join((line.delta, *line.arithmetic))
    own = total_cost(plan.materials)
    if quantity == 1:
        assert "100:" not in told
        return
    assert f"{quantity}: {money_text(own * quantity)} · 100: {money_text(own * 100)}" in told
    assert f"{quantity}: " in line.delta


def test_a_knockouts_line_tells_them(make):
    art = np.full((200, 200, 4), 255, np.uint8)
    art[60:140, 60:140, :3] = (200, 30, 40)
    plan = make(art, coarse("film"), quantity=36, garment=(27, 27, 31), knockouts=(Knockout((255, 255, 255), 5),))
    job = Job("a", ArtworkFile(plan.request.artwork, b""), plan.request.settings, plan.request.profile)
    saved = knockout_model.saved(plan)
    (row,) = knockout_model.knockout_state(job, plan, saved).rows
    assert f"· {at_quantities(abs(saved[0].cost), 36)}" in row.effect
    alone = replace(job, settings=replace(job.settings, quantity=1))
    assert "100:" not in knockout_model.knockout_state(alone, plan, saved).rows[0].effect


def test_a_lever_tells_them():
    lever = Lever("No white", Decimal("0.2345"), 0.3, (3.0, 3.0), None)
    assert "36: 8.44 · 100: 23.45" in lever_text(lever, "EUR", 36)
    assert "100" not in lever_text(lever, "EUR", 1)


def test_variants_tell_them(make):
    plan = make(badge(), coarse("film"), quantity=36)
    job = Job("a", ArtworkFile(plan.request.artwork, b""), plan.request.settings, plan.request.profile)
    axes = Axes((GarmentChoice("Black", (27, 27, 31)),), (plan.request.profile,))
    found = list(worked_out(variants_of(axes), lambda variant: request_of(job, variant), Run(Cache())))
    (entry,) = variants_report(found, 36)
    assert Decimal(entry["cost_of_order"]) == 36 * Decimal(entry["cost"])
    assert Decimal(entry["cost_per_100"]) == 100 * Decimal(entry["cost"])
    assert entry["quantity"] == 36
    assert "Order" in variants_table(found, 36)
    assert "Order" not in variants_table(found, 1)
