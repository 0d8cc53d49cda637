"""Money beside the open job: prices of the shop in open orders, levers, the mix, scales and kept weights."""

from dataclasses import replace
from decimal import Decimal

import numpy as np
import pytest
from tests.conftest import badge, coarse

from swaddon.core.engine import Cache, Run
from swaddon.core.errors import PlanError
from swaddon.core.plan.stages import make_plan
from swaddon.core.shop.book import Book, Price
from swaddon.core.shop.rule import Counted
from swaddon.core.shop.used import used_by
from swaddon.io import profiles
from swaddon.io.supplies import shipped_book
from swaddon.io.weighings import table_from
from swaddon.session import edits, kept_weighings, order_edits, shop
from swaddon.session.costs import cost_report, costed_job, costed_plan
from swaddon.session.demo import demo_job
from swaddon.session.levers import compared
from swaddon.session.price_change import price_effects, repriced
from swaddon.session.prices import Prices
from swaddon.session.scales import STEPS, ScaleChoice, WeighingBench
from swaddon.session.session import Session
from swaddon.session.tally import tally_lines
from swaddon.session.tray import Tray
from swaddon.session.weigh_ins import taken, told_by
from swaddon.ui.stations.cost import model, weigh_model

DEAR = Book(
    tuple(
        replace(price, pack_price=price.pack_price * 2) if price.item == "white ink" else price
        for price in shipped_book().prices
    )
)


@pytest.fixture(scope="module")
def marble(compiled):
    """The smallest demo job and its plan."""
    job = demo_job("marble")
    return job, make_plan(job.request())


def test_the_tally_tells_the_print_with_its_spread_and_the_whole_piece(make):
    plan = make(badge(300), "film", garment=(20, 20, 22))
    line = next(line for line in tally_lines(plan, None, shipped_book(), "Black tee") if line.key == "cost")
    assert " ± " in line.value
    found = costed_plan(plan, shipped_book(), "Black tee")
    assert line.delta == f"whole {found.costing.total:.2f} EUR"
    assert "lay-down of white (assumed)" in "\n".join(line.arithmetic)
    told = line.arithmetic[-2].removeprefix("Round the print: ").split(", ")
    parts = [Decimal(text.rsplit(" ", 1)[1]) for text in told]
    whole = Decimal(line.arithmetic[-1].split()[1])
    assert abs(sum(parts) + found.costing.of_print - whole) <= Decimal("0.01")


def test_a_change_of_prices_tells_what_it_changes_in_open_orders(marble):
    """The new sum is the old one with the white's price doubled, and the share of spoilage on it."""
    job, plan = marble
    book = Book((Price("white ink", Decimal(2), Decimal(1), "g", "EUR"), *shipped_book().prices))
    now = replace(job, profile=repriced(job, book))
    (effect,) = price_effects((shipped_book(), (job,)), (book, (now,)), Run(Cache(1)))
    before = costed_plan(plan, shipped_book(), job.goods.name).costing
    white = before.cost_of("white") / plan.request.profile.white_ink.unit_price
    more = white * (2 - plan.request.profile.white_ink.unit_price) / Decimal("0.97")
    assert float(effect.piece[1] - effect.piece[0]) == pytest.approx(float(more), rel=0.03)
    assert effect.order[1] == effect.piece[1] * job.settings.quantity
    assert f"{job.settings.quantity} pieces" in effect.text
    assert repriced(now, book) is None
    assert price_effects((book, (replace(job, file=None),)), (book, (job,)), Run(Cache(1))) == ()


def test_prices_reach_every_open_job_as_one_step_of_undo():
    session = Session()
    session.open(demo_job("heron"), None)
    tray = Tray(session)
    tray.add(demo_job("lantern"))
    prices = Prices()
    heard = []
    prices.changed.connect(lambda: heard.append(1))
    before = session.job
    assert prices.take(tray, DEAR, "film", {"spoilage_share": 0.1}) == 2
    assert [job.profile.white_ink.unit_price for job in tray.jobs()] == [Decimal("0.17")] * 2
    assert tray.jobs()[0].profile.working.spoilage_share == 0.1
    assert heard == [1]
    assert session.undo_label == "Take the shop’s prices"
    session.undo()
    assert session.job == before
    assert shop.own_book() == DEAR == Prices().book()
    assert shop.press("film").white_ink.unit_price == Decimal("0.17")
    assert shop.press("toner-onepass") == profiles.shipped("toner-onepass")


def test_prices_that_cannot_be_change_nothing():
    session = Session()
    session.open(demo_job("heron"), None)
    prices, before = Prices(), session.job
    dollars = Book((Price("film", Decimal(2), Decimal(1), "m²", "USD"),))
    with pytest.raises(PlanError, match="in USD"):
        prices.take(Tray(session), dollars, "", {})
    assert session.job is before
    assert shop.own_book() is None
    assert prices.book() == shipped_book()


def test_a_full_disk_keeps_the_old_prices_everywhere(monkeypatch):
    session = Session()
    session.open(demo_job("heron"), None)
    prices, before = Prices(), session.job

    def full(_path: object) -> None:
        raise OSError(28, "No space left on device")

    monkeypatch.setattr("swaddon.io.outputs.whole_file", full)
    with pytest.raises(PlanError, match="no space left on device"):
        prices.take(Tray(session), DEAR, "film", {"spoilage_share": 0.2})
    assert session.job is before
    assert prices.book() == shipped_book()
    kept_weighings.keep_rows("film", [("a",) * 22])
    assert kept_weighings.kept_rows("film") == (("a",) * 22,), "they hold, and are tried again"


def test_a_shop_that_keeps_other_money_than_a_press_leaves_that_press_its_prices():
    shop.keep_book(Book((Price("labour", Decimal(9), Decimal(1), "h", "USD"),)))
    assert shop.press("film") == profiles.shipped("film")


def test_levers_are_tried_on_the_artwork_and_never_make_it_dearer(marble):
    job, plan = marble
    job = edits.set_white("Solid", mode="solid").made(job)
    plan = make_plan(job.request())
    steps = []
    found = compared(job, plan, shipped_book(), Run(Cache(1)), steps.append)
    assert found.is_whole
    assert not steps[0].levers
    assert [lever.saves for lever in found.levers] == sorted((lever.saves for lever in found.levers), reverse=True)
    need = next(lever for lever in found.levers if lever.title == "White by need")
    taken_over = costed_plan(make_plan(need.edit.made(job).request()), shipped_book(), job.goods.name)
    now = costed_plan(plan, shipped_book(), job.goods.name)
    assert float(now.costing.of_print - taken_over.costing.of_print) == pytest.approx(float(need.saves), rel=0.1)
    assert found.light.costing.of_print < found.dark.costing.of_print
    assert found.light.used.amount("white") == 0


def test_bars_show_parts_that_sum_to_their_total(make):
    plan = make(badge(300), "film", garment=(20, 20, 22), width_mm=150.0)
    now = costed_plan(plan, shipped_book())
    state = model.money_state(now, (1, 2, 3), now, (4, 5, 6), None)
    assert [bar.key for bar in state.prints] == ["plan", "yardstick"]
    for bar in (*state.prints, *state.wholes):
        assert sum(Decimal(segment.text) for segment in bar.segments) == Decimal(bar.total_text.split(" ± ")[0])
        assert sum(segment.value for segment in bar.segments) == pytest.approx(bar.total)
    assert model.opened(now, "white").lines[-1].startswith("= ")
    assert model.opened(now, "sheet") is None
    assert model.money_state(None, (0, 0, 0), None, (0, 0, 0), None).prints == ()
    said = model.cost_state(now, None, Decimal("0.007"), [Counted(10.0, Decimal("0.2"))])
    assert "becomes" in said.surer
    assert "for the 2 prints of late" in said.rule


def test_the_mix_keeps_each_job_once_and_its_presses_apart():
    shop.keep_in_mix("film", "crest", Counted(100.0, Decimal("0.5"), 3))
    shop.keep_in_mix("film", "crest", Counted(100.0, Decimal("0.6"), 4))
    shop.keep_in_mix("direct", "crest", Counted(90.0, Decimal("1.6"), 4))
    assert shop.mix_of("film") == (Counted(100.0, Decimal("0.6"), 4),)
    assert shop.mix_of("direct")[0].square_inches == 90
    assert shop.mix_of("decal") == ()


def test_a_whole_order_is_costed_line_by_line(compiled):
    job = order_edits.repeat_line().made(demo_job("marble"))
    job = edits.set_garment((250, 250, 248)).made(job)
    job = order_edits.set_quantity(1, 7).made(job)
    found = costed_job(job, shipped_book(), Run(Cache(1)))
    report = cost_report(job.name, found)
    assert report["order"]["pieces"] == sum(line.settings.quantity for line in job.lines)
    assert report["lines"][0]["garment"] == job.goods.name
    alone = costed_plan(make_plan(job.request()), shipped_book(), job.goods.name)
    assert Decimal(report["total_exact"]) == alone.costing.total


# weights


def typed(bench: WeighingBench, used, steps=("blank_g", "printed_g", "powdered_g"), count: int = 1) -> dict[str, float]:
    held: dict[str, float] = {}
    for step in steps:
        held[step] = bench.weigh(step, used, held, count)
    return held


def test_a_simulated_scale_weighs_a_press_in(make):
    """Six prints on a press of hidden constants: what is told is what the press is."""
    film = coarse("film")  # areas are weighed, whatever their pixels
    bench = WeighingBench(ScaleChoice("simulated", 12), film)
    rows = []
    for size, ink in ((300, 1), (420, 2), (360, 3), (400, 4), (260, 5), (330, 6)):
        art = badge(size)
        art[..., :3] = np.roll(art[..., :3], ink, axis=2)
        plan = make(art, film, garment=(20, 20, 22), width_mm=150.0 + 20 * ink)
        used = used_by(plan.measures, film)
        weights = {step: f"{grams:g}" for step, grams in typed(bench, used).items()}
        rows.append(weigh_model.new_row(f"print {ink}", "1", weights, "", costed_plan(plan, shipped_book())))
    told = told_by(table_from(rows, film, lambda _text: pytest.fail("no plan was named")), film)
    truth = bench._hidden.truth
    for _, after in told.constants:
        assert abs(after.value - truth[after.constant]) <= 1.7 * after.pm
    assert not told.sentences
    press = taken(told, "test", __import__("datetime").date(2026, 11, 28))
    back = weigh_model.step_back(press)
    assert back is not None
    assert weigh_model.step_back(film) is None
    assert weigh_model.tells_more(told, film)
    assert not weigh_model.tells_more(told, press)
    assert weigh_model.history_text(press).startswith("Taken: 2026-11-28, test")
    assert weigh_model.row_views(rows, told)[0].title == "print 1"


@pytest.mark.parametrize(
    ("weights", "seconds", "count", "says"),
    [
        ({}, "", "1", "Nothing was weighed or timed"),
        ({"printed_g": "12"}, "", "1", "A weight tells only against another"),
        ({"blank_g": "10"}, "", "1", "A weight tells only against another"),
        ({"blank_g": "ten", "printed_g": "12"}, "", "1", "Blank: “ten” is no weight"),
        ({"blank_g": "-1 g", "printed_g": "12"}, "", "1", "Blank: -1 g is no weight of a print"),
        ({"blank_g": "10", "printed_g": "12"}, "soon", "1", "Print time: “soon” is no time"),
        ({"blank_g": "10", "printed_g": "12"}, "", "none", "Count: “none” is no number"),
    ],
)
def test_what_is_typed_wrong_is_told(marble, weights, seconds, count, says):
    _, plan = marble
    with pytest.raises(ValueError, match=says):
        weigh_model.new_row("a", count, weights, seconds, costed_plan(plan, shipped_book()))


def test_a_keyboard_scale_types_its_line_into_the_field(marble):
    _, plan = marble
    row = weigh_model.new_row(
        "a",
        "2",
        {"blank_g": "ST,GS,+ 10.00 g", "printed_g": "US, 0.0125 kg"},
        "61 s",
        costed_plan(plan, shipped_book()),
    )
    assert row[3:6] == ("10", "", "12.5")
    assert weigh_model.is_filled(row)


def test_weights_are_kept_per_press_and_an_unreadable_file_wipes_none(tmp_path):
    row = ("a",) + ("",) * 21
    kept_weighings.keep_rows("film", [row])
    kept_weighings.keep_rows("my press: 2", [row, row])
    assert kept_weighings.kept_rows("film") == (row,)
    assert len(kept_weighings.kept_rows("my press: 2")) == 2
    kept_weighings.file_of("film").write_bytes(b"\0\1\2")
    assert kept_weighings.kept_rows("film") == (row,)


def test_a_scale_must_be_chosen_and_blanks_come_first(marble):
    _, plan = marble
    used = used_by(plan.measures, plan.request.profile)
    with pytest.raises(PlanError, match="No scale is chosen"):
        WeighingBench(ScaleChoice(), plan.request.profile)
    with pytest.raises(PlanError, match="Weigh it blank first"):
        WeighingBench(ScaleChoice("simulated"), plan.request.profile).weigh("printed_g", used, {}, 1)
    with pytest.raises(PlanError, match="cannot be opened"):
        WeighingBench(ScaleChoice("serial", device="/dev/none"), plan.request.profile)
    titles = {ScaleChoice("simulated", 3, fault).title for fault in ("none", "drift", "draught", "tare")}
    assert len(titles) == 4
    assert STEPS[0] == "blank_g"
