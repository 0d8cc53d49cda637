"""Flow and quote on the Cost station, with hands on them."""

import csv
from dataclasses import replace
from decimal import Decimal

import pypdf
import pytest
from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QGuiApplication
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QLabel
from tests.ui.patience import as_soon_as, take_events, until

from swaddon.core.flow.shop import HANDS, OVEN, PLATEN, PRESS
from swaddon.core.knockout.settings import Knockout
from swaddon.io.shops import shipped_shop
from swaddon.session import edits, shop
from swaddon.session.demo import demo_job
from swaddon.session.flow_plans import opening_min
from swaddon.session.storage import open_job, save_job
from swaddon.ui.stage_table import StageTable
from swaddon.ui.stations.cost import flow_model, flowing

WHITE = Knockout((255, 255, 255))


@pytest.fixture
def page(marble, settle):
    """The Cost station of the smallest job."""
    marble.go_to_station("cost")
    settle()
    return marble.pages["cost"]


@pytest.fixture
def flows(page):
    page.show_part("flow")
    as_soon_as(lambda: page.flows.flow is not None)
    return page.flows


def type_in(field, text: str) -> None:
    field.setFocus()
    field.selectAll()
    QTest.keyClicks(field, text)
    QTest.keyClick(field, Qt.Key.Key_Return)


def test_the_instant_answer_and_the_ribbon_of_a_day(marble, page, flows):
    assert marble._stack.currentWidget() is page.own_table
    assert "an hour" in flows.sheet.instant.text()
    ribbon = flows.table.ribbon
    quantity = marble.session.job.settings.quantity
    assert len(ribbon._strips) == quantity + flows.flow.day.spoiled
    strip = ribbon._strips[0]
    box = ribbon.box_of(0, strip.bars[1])
    assert ribbon.bar_at(box.center()) is strip.bars[1]
    told = flow_model.bar_text(flows.flow, strip.bars[1])
    assert strip.bars[1].stage in told
    assert "piece 1" in told
    assert ribbon.bar_at(QPointF(1, 1)) is None
    start, end = ribbon.shown_s
    QTest.keyClick(ribbon, Qt.Key.Key_Plus)
    assert ribbon.shown_s[1] - ribbon.shown_s[0] == pytest.approx((end - start) / 1.25)
    QTest.keyClick(ribbon, Qt.Key.Key_Right)
    assert ribbon.shown_s[0] > 0
    QTest.keyClick(ribbon, Qt.Key.Key_0)
    assert ribbon.shown_s == (start, end)
    flows.table.slider.setValue(1000)
    assert flows.table.told.text().startswith(flows.table.told.text()[:5])
    assert "done;" in flows.table.told.text()
    assert ribbon.moment_s == pytest.approx(flows.flow.day.end_s / 2)
    done = sum(left <= ribbon.moment_s for left in flows.flow.day.left)
    assert f": {done} done" in flows.table.told.text()


def test_the_chance_of_being_late_comes_with_progress_and_can_be_stopped(flows, monkeypatch):
    monkeypatch.setattr(flowing, "RUNS", 60)
    type_in(flows.sheet.due, "noon")
    assert "no time of day" in flows.sheet.due.toolTip()
    type_in(flows.sheet.due, "07:00")
    assert "in the past" in flows.sheet.due.toolTip()
    type_in(flows.sheet.due, "16:30")
    as_soon_as(lambda: flows.flow is not None and flows.flow.orders[0].due_s is not None)
    flows.sheet.run.click()
    assert not flows.table.progress.isHidden()
    as_soon_as(lambda: flows.flow.risk is not None)
    assert flows.flow.risk.runs == 60
    assert "Start by" in flows.table.risk.text()
    assert flows.table.progress.isHidden()
    monkeypatch.setattr(flowing, "RUNS", 5000)
    before = flows.flow
    flows.sheet.run.click()
    until(lambda: not flows._context.flows.is_idle)
    flows.table.stop.click()
    until(lambda: flows._context.flows.is_idle)
    assert flows.flow is before
    assert flows.table.progress.isHidden()


def test_what_the_shop_has_is_changed_and_kept(marble, flows):
    rate = marble.tally.cells["rate"].line
    assert rate.delta.startswith("printer alone")
    assert float(rate.value) < marble.desk.plan.time.shirts_per_hour
    before = flows.flow.day.end_s
    type_in(flows.sheet.counts[PRESS], "4")
    as_soon_as(lambda: flows.flow is not None and flows.flow.shop.counts[PRESS] == 4)
    assert flows.flow.day.end_s < before * 1.02
    assert shop.flow_shop().counts[PRESS] == 4
    for resource, number in ((PLATEN, 2), (OVEN, 0)):
        type_in(flows.sheet.counts[resource], str(number))
        as_soon_as(lambda name=resource, to=number: flows.flow and flows.flow.shop.counts.get(name, 0) == to)
        assert shop.flow_shop().counts.get(resource, 0) == number
        assert flows.sheet.counts[resource].text() == str(number)
    type_in(flows.sheet.counts[HANDS], "0")
    assert "at least one pair" in flows.sheet.counts[HANDS].toolTip()
    assert marble.tally.cells["rate"].line.value != rate.value
    as_soon_as(lambda: "hour" in flows.sheet.what_if.text())


def test_stages_are_edited_in_a_table(marble, page, flows):
    flows.sheet.edit.click()
    dialog = next(w for w in QApplication.topLevelWidgets() if isinstance(w, StageTable) and w.isVisible())
    row = next(at for at, cells in enumerate(dialog.rows()) if cells[0] == "Marry")
    dialog.table.item(row, 3).setText("-5")
    dialog.accept()
    assert f"Row {row + 1}: -5 in Machine s" in dialog.wrong.text()
    dialog.table.item(row, 3).setText("300")
    dialog.accept()
    assert not dialog.isVisible()
    as_soon_as(lambda: flows.flow is not None and flows.flow.day.bottleneck == PRESS)
    assert shop.flow_shop().routes["toner-onepass"][1].machine_s == 300
    assert "heat presses" in flows.table.facts.text()
    told = flows.table.legend.accessibleDescription()
    assert told.startswith("Bottleneck: heat presses (marry, press, second press); stages: Print")


def test_the_whole_shop_comes_from_and_goes_to_a_file(marble, flows, tmp_path):
    flows.write(tmp_path / "shop.toml")
    text = (tmp_path / "shop.toml").read_text(encoding="utf-8").replace("rack = 24", "rack = 7")
    (tmp_path / "shop.toml").write_text(text, encoding="utf-8")
    flows.read(tmp_path / "shop.toml")
    assert shop.flow_shop().rack == 7
    (tmp_path / "shop.toml").write_text("rack = 0", encoding="utf-8")
    flows.read(tmp_path / "shop.toml")
    assert "The shop shop.toml has a wrong value" in marble.problem.text()
    assert shop.flow_shop().rack == 7


def test_a_shop_without_a_machine_says_so(marble, page, flows):
    flows.take_shop(shipped_shop().without(PRESS))
    assert "needs a heat press for “Marry”" in flows.sheet.instant.text()
    assert flows.flow is None


def test_other_open_jobs_share_the_day_and_rules_can_be_chosen(marble, page, flows):
    marble.files.tray.add(replace(demo_job("tag"), name="Tags"))
    flows.sheet.others.setChecked(True)
    as_soon_as(lambda: flows.flow is not None and len(flows.flow.orders) == 2)
    assert {order.name for order in flows.flow.orders} >= {"Tags"}
    rules = [item.rule for item in flows.flow.tried]
    other = rules[-1]
    flows._choose_rule(other)
    as_soon_as(lambda: flows.flow is not None)
    assert flows.asked.rule == other


def test_another_open_job_that_changes_is_run_anew_and_an_old_day_is_not_run_on(marble, page, flows, monkeypatch):
    """Only the number of other jobs was looked at: their orders stayed those of before."""
    tags = marble.files.tray.add(replace(demo_job("tag"), name="Tags"))
    flows.sheet.others.setChecked(True)
    as_soon_as(lambda: flows.flow is not None and len(flows.flow.orders) == 2)
    marble.files.tray.apply(tags, edits.set_quantity(7))
    flows.run_days()
    assert flows.flow is None, "it is of the former quantity"
    as_soon_as(lambda: flows.flow is not None)
    assert [order.quantity for order in flows.flow.orders if order.name == "Tags"] == [7]
    marble.session.apply(edits.set_white("White", mode="need"))
    flows.run_days()
    assert flows.flow is None, "print time of the white of before"
    as_soon_as(lambda: flows.flow is not None)
    assert flows.flow.orders[0].print_s == pytest.approx(marble.desk.plan.time.print_s)


def test_another_job_lets_go_of_the_days_of_the_first(marble, page, flows, settle):
    flows.sheet.run.click()
    marble.files.open_demo("tag")
    settle()
    as_soon_as(lambda: flows.flow is not None)
    assert flows.flow.orders[0].process == "toner-twopass"
    assert flows.flow.risk is None
    assert opening_min(flows.flow.shop) == 480


# the quote


@pytest.fixture
def quotes(page):
    page.show_part("quote")
    as_soon_as(lambda: page.quotes.quote is not None)
    return page.quotes


def test_a_quote_is_priced_numbered_and_kept_with_the_order(marble, quotes, tmp_path):
    first = quotes.quote.quote
    assert quotes.table.page.pixmap().width() > 300
    assert len(quotes.quote.alternatives) >= 3
    type_in(quotes.sheet.fields["percent"], "30")
    as_soon_as(lambda: quotes.quote is not None and quotes.quote.quote.terms.percent == 30)
    assert quotes.quote.quote.total < first.total
    assert marble.session.undo_label == "Change the quote"
    type_in(quotes.sheet.fields["percent"], "120")
    assert "between 0 and 99" in quotes.sheet.fields["percent"].toolTip()
    type_in(quotes.sheet.fields["valid_days"], "0")
    assert "1 to 365 days" in quotes.sheet.fields["valid_days"].toolTip()
    quotes.write(tmp_path / "quote.pdf")
    number = marble.session.job.quote.number
    assert number.endswith("-0001")
    words = pypdf.PdfReader(tmp_path / "quote.pdf").pages[0].extract_text()
    assert number in words
    assert f"{quotes.quote.quote.total:f}" in words
    quotes.write(tmp_path / "quote.csv")
    rows = list(csv.reader((tmp_path / "quote.csv").read_text(encoding="utf-8").splitlines()))
    assert Decimal(rows[1][3]) == quotes.quote.quote.lines[0].sum
    quotes.give("")
    assert number in QGuiApplication.clipboard().text()
    save_job(tmp_path / "job.swaddon", marble.session.job)
    assert open_job(tmp_path / "job.swaddon").quote == marble.session.job.quote
    assert shop.quote_terms().percent == 30
    assert shop.quote_terms().number == ""


def test_what_only_the_shop_sees_is_beside_the_page(quotes):
    told = quotes.table.earnings.accessibleDescription()
    assert "As ordered" in told
    assert "Transfer alone, for " in told
    assert quotes.table.even_text.text()
    assert "1: " in quotes.table.prices.accessibleDescription()
    assert "% of the price" in quotes.sheet.earned.text()


def test_a_full_disk_is_told_and_the_number_is_not_lost(marble, quotes, tmp_path, monkeypatch):
    def full(_path: object) -> None:
        raise OSError(28, "No space left on device")

    monkeypatch.setattr("swaddon.io.outputs.whole_file", full)
    quotes.write(tmp_path / "quote.pdf")
    assert "no space left" in marble.problem.text()
    monkeypatch.undo()
    quotes.write(tmp_path / "quote.pdf")
    assert (tmp_path / "quote.pdf").is_file()
    assert marble.session.job.quote.number.endswith("-0001")


def test_nothing_of_flow_and_quote_is_cut_off_where_the_window_is_smallest(marble, page, flows, quotes):
    marble.resize(960, 540)
    for part in ("flow", "quote"):
        page.show_part(part)
        take_events()
        for text in page.findChildren(QLabel):
            if text.isVisible() and not text.wordWrap():
                assert text.sizeHint().width() <= text.width() + 1, text.text()


@pytest.mark.parametrize("what", ["margin", "prices", "shop", "white", "knockout"])
def test_nothing_is_handed_out_at_a_price_that_is_no_longer_that(what, marble, quotes, tmp_path, settle):
    """Saved within the re-pricing's delay, the page went out at the old price and the number was spent."""
    before, context = quotes.quote.quote, quotes._context
    if what == "margin":
        type_in(quotes.sheet.fields["percent"], "71")
    elif what == "prices":
        book = context.book()
        dearer = tuple(replace(row, pack_price=row.pack_price * 3) for row in book.prices)
        context.take_prices(replace(book, prices=dearer), "", {})
    elif what == "shop":
        context.take_shop(context.shop().with_count(PRESS, 5))
    else:  # the page is not told of these before their plan is there
        marble.session.apply(edits.set_white("White", mode="need") if what == "white" else edits.add_knockout(WHITE))
    quotes.write(tmp_path / "quote.pdf")
    quotes.give("")
    assert not (tmp_path / "quote.pdf").exists()
    assert marble.session.job.quote is None or not marble.session.job.quote.number
    assert "is being priced" in marble.problem.text()
    assert quotes.sheet.total.text() == "Pricing …"
    assert not quotes.sheet.pdf.isEnabled()
    as_soon_as(lambda: quotes.quote is not None)
    assert (quotes.quote.quote.total > before.total) == (what in ("margin", "prices"))
    quotes.write(tmp_path / "quote.pdf")
    number = marble.session.job.quote.number
    assert number.endswith("-0001")
    words = pypdf.PdfReader(tmp_path / "quote.pdf").pages[0].extract_text()
    assert f"{quotes.quote.quote.total:f}" in words
    assert quotes.quote is not None, "its own number does not make a price old"
