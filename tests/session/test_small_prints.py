"""Small prints are priced by the sheet they share, the rule of thumb by the charged film; the transfer alone."""

from dataclasses import replace
from decimal import Decimal

import numpy as np
import pytest
from tests.conftest import artwork, coarse

from swaddon.core.count.consumption import total_cost
from swaddon.core.engine import Cache, Run
from swaddon.core.plan.stages import make_plan
from swaddon.core.shop.costing import costing
from swaddon.io.png import png_chunks
from swaddon.session.costs import cost_report, costed_job, costed_plan
from swaddon.session.job import ArtworkFile, Job, first_settings
from swaddon.session.levers import compared
from swaddon.session.one_sheet import shared_by_one_sheet, shared_cost
from swaddon.session.quotes import quoted, setup_cost
from swaddon.session.shop import book, flow_shop
from swaddon.session.tally import tally_lines
from swaddon.ui.stations.cost.model import rule_text


def job(press: str, width_mm: float, quantity: int = 1, shape=(60, 90)) -> Job:
    rgba = np.zeros((*shape, 4), np.uint8)
    rgba[...] = (200, 30, 40, 255)
    profile = coarse(press)
    settings = replace(first_settings(profile), width_mm=width_mm, quantity=quantity)
    return Job("Label", ArtworkFile(artwork(rgba), b"".join(png_chunks(rgba, 300))), settings, profile)


def plan_of(made: Job):
    return make_plan(made.request(), Run(Cache()))


@pytest.mark.parametrize(
    ("press", "width_mm"), [("decal", 90), ("decal", 41.5), ("toner-onepass", 60), ("toner-twopass", 88)]
)
def test_so_many_fit_as_can_be_laid_by_hand(compiled, press, width_mm):
    """Brute force: rectangles put down one after the other on the printable part, both ways round."""
    plan = plan_of(job(press, width_mm))
    fit, share = shared_by_one_sheet(plan)
    medium, (across, down) = plan.request.medium, plan.measures.printed_size_mm
    spacing = max(plan.request.spacing_mm, medium.cutter_mm)
    wide = min(medium.printable_mm[0], plan.request.profile.largest_print_mm[0])
    high = min(medium.printable_mm[1], plan.request.profile.largest_print_mm[1])

    def laid(a: float, b: float) -> int:
        count, y = 0, 0.0
        while y + b <= high + 1e-9:
            x = 0.0
            while x + a <= wide + 1e-9:
                count, x = count + 1, x + a + spacing
            y += b + spacing
        return count

    assert fit.count == max(laid(across, down), laid(down, across)) > 1
    assert share.sheets == pytest.approx(1 / fit.count, abs=1e-6)


def test_nine_fit_one_sheet_and_the_tally_and_a_lever_say_so(compiled):
    made = job("decal", 90.0)
    plan = plan_of(made)
    fit, share = shared_by_one_sheet(plan)
    assert fit.count == 9
    (line,) = [item for item in tally_lines(plan, None, book()) if item.key == "sheet"]
    assert line.delta.startswith("9 fit one: ")
    (lever,) = [item for item in compared(made, plan, book(), Run(Cache())).levers if "9 fit" in item.title]
    taken = lever.edit.made(made)
    after = plan_of(taken)
    sheets = {item.kind: item for item in after.materials}["sheet"]
    assert sheets.amount == pytest.approx(1 / 9, abs=1e-6)
    assert total_cost(after.materials) == shared_cost(plan, share) < total_cost(plan.materials) / 3
    assert lever.saves == pytest.approx(total_cost(plan.materials) - total_cost(after.materials), rel=Decimal("0.01"))
    assert after.time.print_s < plan.time.print_s / 4, "a page printer prints the sheet in one go"
    assert shared_by_one_sheet(after) is None, "it is told once"


@pytest.mark.parametrize(("quantity", "sheets"), [(9, 1), (10, 2), (36, 4)])
def test_an_order_buys_whole_sheets(compiled, quantity, sheets):
    _, share = shared_by_one_sheet(plan_of(job("decal", 90.0, quantity)))
    assert share.sheets * quantity == pytest.approx(sheets, abs=1e-4)


def test_film_and_shirts_share_no_sheet(compiled):
    for press in ("film", "direct"):
        assert shared_by_one_sheet(plan_of(job(press, 60.0))) is None


@pytest.mark.parametrize("press", ["film", "direct"])
def test_the_rule_of_thumb_is_of_the_area_that_is_charged(compiled, press):
    """A small print on a large artboard was held against the whole artboard's price."""
    made = job(press, 200.0)
    rgba = made.file.artwork.rgba.copy()
    rgba[:, 30:] = 0
    made = replace(made, file=ArtworkFile(artwork(rgba), b""))
    plan = plan_of(made)
    costed = costed_plan(plan, book())
    width, height = plan.measures.printed_size_mm
    margin = 0.0 if plan.request.profile.film is None else 2 * plan.request.profile.film.margin_mm
    assert costed.used.square_inches == pytest.approx((width + margin) * (height + margin) / 25.4**2)
    told = rule_text(costed, Decimal("0.02"), ())
    assert "0.02 EUR per sq in of " + ("film" if press == "film" else "print") in told
    report = cost_report("a", costed_job(made, book(), Run(Cache())))
    assert report["rule_of_thumb"]["currency"] == "EUR"
    assert costing(costed.used, plan.request.profile, book()).of_print == costed.costing.of_print


def test_a_transfer_alone_is_that_of_the_garment_at_hand(compiled):
    """With the white that a black shirt needs: it was priced for white garments only."""
    made = job("film", 120.0, quantity=12)
    sheet = quoted(made, book(), flow_shop(), Run(Cache()))
    own = costed_plan(plan_of(made), book(), made.goods.name).costing
    (alone,) = [item for item in sheet.alternatives if item.title.startswith("Transfer alone")]
    assert made.line.garment_name in alone.title
    whole = next(item for item in sheet.alternatives if item.title.startswith("As ordered"))
    bare = own.cost_of("garment") + own.cost_of("cover")
    assert (whole.price - whole.earned) - (alone.price - alone.earned) == pytest.approx(bare, abs=Decimal("0.01"))


@pytest.mark.parametrize("quantity", [1, 9, 10, 18, 37, 200])
def test_a_taken_share_follows_the_quantity_and_the_quote_with_it(compiled, quantity):
    """Taken at 40 pieces once, it kept 5 / 40 of a sheet for whatever was ordered then."""
    made = job("decal", 90, 40)
    fit, share = shared_by_one_sheet(plan_of(made))
    taken = replace(made, settings=replace(made.settings, sheet_share=share, quantity=quantity))
    sheets = 1 / fit.count if quantity == 1 else np.ceil(quantity / fit.count) / quantity
    press = taken.press
    assert taken.settings.share(press).sheets == pytest.approx(sheets, abs=1e-6)
    _, fresh = shared_by_one_sheet(plan_of(replace(made, settings=replace(made.settings, quantity=quantity))))
    now = taken.settings.share(press)
    assert (now.film_mm2, now.time_ratio) == pytest.approx((fresh.film_mm2, fresh.time_ratio), rel=1e-4)
    (costed,) = costed_job(taken, book(), Run(Cache()))
    alone = costed_plan(plan_of(taken), book(), "", quantity)
    assert costed.costing.total == alone.costing.total
    whole = next(
        item
        for item in quoted(taken, book(), flow_shop(), Run(Cache())).alternatives
        if item.title.startswith("As ordered")
    )
    each = alone.costing.total + setup_cost(press, book()) / quantity
    assert whole.price - whole.earned == pytest.approx(each, abs=Decimal("0.0001"))
    assert taken.line.planned.share(press).sheets == now.sheets, "plans that lines share are of one piece"
