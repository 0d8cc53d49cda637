"""The Cost station with hands on it: bars, prices, levers, the weigh-in and its scale."""

from dataclasses import replace
from decimal import Decimal

import pytest
from PySide6.QtCore import QEvent, QPointF, Qt
from PySide6.QtGui import QColor, QMouseEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QLabel, QPushButton
from tests.ui.patience import as_soon_as, take_events

from swaddon.core.shop.weighing import Print
from swaddon.devices.weighed import HiddenPress
from swaddon.io import profiles
from swaddon.io.weighings import rows_in
from swaddon.session import edits, kept_weighings, shop
from swaddon.session.scales import ScaleChoice
from swaddon.ui.price_table import PriceTable
from swaddon.ui.scale_chooser import ScaleChooser
from swaddon.ui.table_dialog import TableDialog


@pytest.fixture
def page(heron, settle):
    """The Cost station of the Night Heron job."""
    heron.go_to_station("cost")
    settle()
    return heron.pages["cost"]


@pytest.fixture
def small(marble, settle):
    """The bench with the smallest job on the Cost station, with solid white."""
    marble.apply(edits.set_white("Solid", mode="solid"))
    marble.go_to_station("cost")
    settle()
    return marble, marble.pages["cost"]


def until_compared(bench, qtbot) -> None:
    page = bench.pages["cost"]
    as_soon_as(lambda: page._compared.current is not None and page._compared.current.is_whole)


def press_at(widget, place: QPointF) -> None:
    left = Qt.MouseButton.LeftButton
    where = widget.mapToGlobal(place)
    event = QMouseEvent(QEvent.Type.MouseButtonPress, place, where, left, left, Qt.KeyboardModifier.NoModifier)
    QApplication.sendEvent(widget, event)


def test_a_click_on_a_part_of_the_bar_opens_its_arithmetic(heron, page):
    assert heron._stack.currentWidget() is page.own_table
    boxes = {segment.kind: box for segment, box in page.money.prints.boxes(0)}
    press_at(page.money.prints, boxes["powder"].center())
    assert page.open_kind == "powder"
    assert "× 52 g/m²" in page.sheet.arithmetic.text()
    assert page.sheet.opened.text() == "Powder"
    bars = page.money.wholes
    bars.setFocus()
    kinds = bars.kinds
    QTest.keyClick(bars, Qt.Key.Key_Right)
    assert page.open_kind == kinds[(kinds.index("powder") + 1) % len(kinds)]
    QTest.keyClick(bars, Qt.Key.Key_Left)
    QTest.keyClick(bars, Qt.Key.Key_Left)
    assert page.open_kind == kinds[kinds.index("powder") - 1]


def test_bars_are_as_long_as_their_money(page):
    """Widths measured on the picture: white's part of the print is white, as wide as its share of the sum."""
    bars, costing = page.money.prints, page.costed.costing
    segment, box = bars.boxes(0)[0]
    assert segment.kind == "white"
    whole = sum(box.width() for _, box in bars.boxes(0))
    assert box.width() / whole == pytest.approx(float(costing.cost_of("white") / costing.of_print), abs=0.002)
    picture = bars.grab().toImage()
    ratio = picture.devicePixelRatio()
    row = [picture.pixelColor(int(x * ratio), int(box.center().y() * ratio)) for x in range(bars.width())]
    white = sum(colour == QColor("#f4f4f4") for colour in row)
    assert white == pytest.approx(box.width(), abs=5)


def test_light_and_dark_stand_beside_and_the_largest_lever_can_be_taken(small, settle, qtbot):
    bench, page = small
    until_compared(bench, qtbot)
    assert [bar.key for bar in page.money.prints._bars] == ["plan", "light", "dark"]
    light, dark = (bar.total for bar in page.money.prints._bars[1:])
    assert light < dark
    first = page.compared.levers[0]
    before = page.costed.costing.of_print
    takes = [made for made in page.sheet.levers.findChildren(QPushButton) if made.text() == "Take"]
    takes[0].click()
    settle()
    assert bench.session.undo_label == first.edit.label
    assert float(before - page.costed.costing.of_print) == pytest.approx(float(first.saves), rel=0.15)
    bench.session.undo()
    settle()
    assert page.costed.costing.of_print == before


def test_a_change_in_the_middle_of_comparing_leaves_nothing_of_the_old(small, settle, qtbot):
    bench, page = small
    bench.apply(edits.set_white("None", mode="none"))
    settle()
    bench.apply(edits.set_white("Solid", mode="solid"))
    settle()
    until_compared(bench, qtbot)
    assert page._compared.asked[0] is bench.desk.plan
    assert page.compared.dark.used.amount("white") > 0


def test_the_yardstick_is_a_bar_and_the_rule_of_thumb_can_be_other(heron, page, settle):
    page.sheet.pin.click()
    heron.apply(edits.set_white("Change white", mode="need"))
    settle()
    assert [bar.key for bar in page.money.prints._bars][:2] == ["plan", "yardstick"]
    assert page.sheet.yardstick.text().startswith("Yardstick: film, solid white")
    field = page.sheet.rate_field
    field.setFocus()
    field.selectAll()
    QTest.keyClicks(field, "0,01")
    QTest.keyClick(field, Qt.Key.Key_Return)
    assert page.sheet.rate == Decimal("0.01")
    assert page.sheet.rule_field.effect.startswith("0.01 EUR per sq in of film makes")
    field.selectAll()
    QTest.keyClicks(field, "free")
    QTest.keyClick(field, Qt.Key.Key_Return)
    assert "no price" in field.toolTip()
    assert page.sheet.rate == Decimal("0.01")


def test_the_shirt_comes_back_for_the_curtain(heron, page):
    page.part.button_for("shirt").click()
    assert heron._stack.currentWidget() is heron.table
    page.part.button_for("money").click()
    assert heron._stack.currentWidget() is page.own_table


def dialog_of(kind):
    return next(w for w in QApplication.topLevelWidgets() if isinstance(w, kind) and w.isVisible())


def test_prices_are_edited_in_a_table_and_open_orders_told(heron, page, settle):
    before = page.costed.costing
    page.sheet.prices.click()
    dialog = dialog_of(PriceTable)
    row = next(at for at, cells in enumerate(dialog.rows()) if cells[:2] == ("film", "film"))
    dialog.table.item(row, 2).setText("-3")
    dialog.accept()
    assert dialog.isVisible()
    assert f"Row {row + 1}: the pack price is -3; it must be 0 or more" in dialog.wrong.text()
    dialog.table.item(row, 2).setText("278.40")
    dialog.spoilage.setText("120")
    dialog.accept()
    assert "Spoilage: 120 is outside" in dialog.wrong.text()
    dialog.spoilage.setText("5")
    dialog.accept()
    assert not dialog.isVisible()
    as_soon_as(lambda: "→" in page.sheet.changed.text())
    settle()
    now = page.costed.costing
    assert now.cost_of("film") == 2 * before.cost_of("film")
    assert heron.session.job.profile.working.spoilage_share == 0.05
    assert f"→ {now.total:.2f} EUR a piece; 18 pieces" in page.sheet.changed.text()
    assert shop.own_book().price("film", "film").pack_price == Decimal("278.40")
    heron.session.undo()
    settle()
    assert page.costed.costing.cost_of("film") == before.cost_of("film")


def test_prices_come_from_and_go_to_csv(page, tmp_path):
    page.edit_prices()
    dialog = dialog_of(PriceTable)
    dialog.write(tmp_path / "prices.csv")
    assert dialog.wrong.text() == "Written to prices.csv."
    text = (tmp_path / "prices.csv").read_text(encoding="utf-8")
    (tmp_path / "prices.csv").write_text(text.replace("labour,,21.00", "labour,,33.00"), encoding="utf-8")
    dialog.read(tmp_path / "prices.csv")
    assert any(cells[0] == "labour" and cells[2] == "33.00" for cells in dialog.rows())
    dialog.read(tmp_path / "none.csv")
    assert "cannot be read" in dialog.wrong.text()
    dialog.reject()


def test_a_row_is_offered_for_every_supply_of_the_press(marble, settle):
    marble.go_to_station("cost")
    settle()
    page = marble.pages["cost"]
    page.edit_prices()
    dialog = dialog_of(PriceTable)
    own = [cells for cells in dialog.rows() if cells[1] == "toner-onepass"]
    assert [cells[0] for cells in own] == ["white ink", "colour ink", "sheet"]
    dialog.accept()
    settle()
    assert marble.session.job.profile.white_ink.unit_price == profiles.shipped("toner-onepass").white_ink.unit_price


# the weigh-in


def weigh_all(page, qtbot, name: str) -> None:
    sheet = page.weigh_in.sheet
    sheet.name.setText(name)
    for step in ("blank_g", "printed_g", "powdered_g"):
        sheet.weigh_buttons[step].click()
        as_soon_as(lambda step=step: bool(sheet.fields[step].text()))
    sheet.add.click()


@pytest.mark.full_size
def test_a_print_is_weighed_in_on_the_simulated_scale_and_undone(heron, page, settle, qtbot):
    page.sheet.weigh.click()
    assert page.shown == "weigh"
    weigh_in = page.weigh_in
    assert not weigh_in.sheet.weigh_buttons["blank_g"].isEnabled()
    weigh_in.sheet.scale.click()
    chooser = next(w for w in heron.findChildren(ScaleChooser) if w.isVisible())
    chooser.kinds.button_for("simulated").click()
    chooser.seed.setText("77777")
    chooser.go.click()
    assert "0 to 9999" in chooser.seed.toolTip()
    chooser.seed.setText("4")
    chooser.go.click()
    assert weigh_in.choice == ScaleChoice("simulated", 4)
    before = page.costed.costing.spread.pm
    weigh_all(page, qtbot, "first")
    as_soon_as(lambda: weigh_in.told is not None)
    assert weigh_in.table.take.isEnabled()
    assert not weigh_in.table.back.isEnabled()
    assert "Weigh next" in weigh_in.table.next.text()
    truth = HiddenPress(profiles.shipped("film"), 4).truth
    weigh_in.table.take.click()
    settle()
    assert page.costed.costing.spread.pm < before / 3
    taken = heron.session.job.profile
    ink = sum(area * taken.lay_down_per_m2[key] for key, area in page.costed.used.full_m2.items())
    right = sum(area * truth[f"lay_down_ml_m2.{key}"] for key, area in page.costed.used.full_m2.items())
    assert ink == pytest.approx(right, rel=0.08)
    assert shop.press("film").lay_down_per_m2 == taken.lay_down_per_m2
    assert not weigh_in.table.take.isEnabled()
    assert weigh_in.table.back.isEnabled()
    assert "Taken:" in weigh_in.table.history.text()
    weigh_in.table.back.click()
    settle()
    assert heron.session.job.profile.lay_down_per_m2 == profiles.shipped("film").lay_down_per_m2
    heron.session.undo()
    heron.session.undo()
    settle()
    assert heron.session.job.profile == profiles.shipped("film")


def test_a_weight_that_comes_after_the_job_was_left_is_let_go(heron, page, settle, monkeypatch):
    page.show_part("weigh")
    weigh_in = page.weigh_in
    weigh_in.use_scale(ScaleChoice("simulated", 4))
    waiting: list[tuple] = []
    context = replace(weigh_in._context, in_background=lambda work, done: waiting.append((work, done)))
    monkeypatch.setattr(weigh_in, "_context", context)
    weigh_in.weigh("blank_g")
    heron.files.open_demo("lantern")
    settle()
    work, done = waiting[0]
    done(work())
    assert weigh_in.sheet.fields["blank_g"].text() == ""


def test_taking_keeps_prices_that_came_in_between(heron, page, settle, qtbot):
    page.show_part("weigh")
    weigh_in = page.weigh_in
    weigh_in.use_scale(ScaleChoice("simulated", 4))
    weigh_all(page, qtbot, "first")
    as_soon_as(lambda: weigh_in.told is not None)
    book = shop.book().with_price(replace(shop.book().price("film", "film"), pack_price=Decimal(999)))
    page.take_prices(book, {"spoilage_share": 0.2})
    settle()
    weigh_in.table.take.click()
    settle()
    taken = heron.session.job.profile
    assert taken.film.supply.unit_price == Decimal(999) / Decimal(58)
    assert taken.working.spoilage_share == 0.2
    assert taken.weighed


def test_a_decal_is_told_per_tin(bench, settle):
    bench.files.open_demo("ferry")
    settle()
    bench.go_to_station("cost")
    settle()
    page = bench.pages["cost"]
    assert page.money.whole_head.text() == "The whole tin"
    assert any(text.text() == "Per tin" for text in page.findChildren(QLabel))
    assert page.costed.costing.cost_of("sheet") > 0


def test_typed_weights_are_checked_in_place_and_kept(heron, page, settle):
    page.show_part("weigh")
    sheet, weigh_in = page.weigh_in.sheet, page.weigh_in
    sheet.add.click()
    assert sheet.problem.text().startswith("Nothing was weighed or timed")
    for step, text in (("blank_g", "10.00"), ("printed_g", "9.00")):
        sheet.fields[step].setFocus()
        QTest.keyClicks(sheet.fields[step], text)
    sheet.add.click()
    as_soon_as(lambda: "shrinks" in weigh_in.table.empty.text())
    assert weigh_in.told is None
    weigh_in.keep(())
    for step, text in (("blank_g", "10.00"), ("printed_g", "ST,GS, 12.10 g")):
        sheet.fields[step].setFocus()
        QTest.keyClicks(sheet.fields[step], text)
    QTest.keyClick(sheet.fields["printed_g"], Qt.Key.Key_Return)
    sheet.add.click()
    as_soon_as(lambda: weigh_in.told is not None)
    assert sheet.fields["printed_g"].text() == ""
    assert kept_weighings.kept_rows("film") == weigh_in.rows
    assert sheet.list.item(0).text().startswith("Night Heron Rowing hoodie: 10 → 12.1 g")
    heron.files.open_demo("marble")
    settle()
    assert weigh_in.rows == ()
    assert sheet.fields["powdered_g"].isHidden()
    heron.files.open_demo("lantern")
    settle()
    assert len(weigh_in.rows) == 1


def test_a_forgotten_tare_is_crossed_out_by_name(heron, page):
    page.show_part("weigh")
    weigh_in, press = page.weigh_in, HiddenPress(profiles.shipped("film"), 9)
    of = Print.of(page.costed.used)
    for name, tare in (("one", 0.0), ("two", 0.0), ("three", 9.0)):
        printed = 10 + press.gained_g("ink", of)
        weigh_in.sheet.name.setText(name)
        weights = {
            "blank_g": 10.0,
            "printed_g": printed + tare,
            "powdered_g": printed + press.gained_g("powder", of) + tare,
        }
        for step, grams in weights.items():
            weigh_in.sheet.fields[step].setText(f"{grams:.2f}")
        weigh_in.sheet.add.click()
    as_soon_as(lambda: weigh_in.told is not None and bool(weigh_in.told.sentences))
    assert "Row 3 (three)" in weigh_in.table.sentences.text()
    assert "left out" in weigh_in.sheet.list.item(2).text()
    assert weigh_in.table.against.accessibleDescription().count("three") == 2


def test_the_stopwatch_times_a_print(page, monkeypatch):
    page.show_part("weigh")
    sheet, now = page.weigh_in.sheet, [100.0]
    sheet.watch._clock = lambda: now[0]
    sheet.run.click()
    assert sheet.run.text() == "Stop"
    now[0] = 161.5
    as_soon_as(lambda: sheet.seconds.text() == "61.5")
    sheet.run.click()
    sheet.add.click()
    as_soon_as(lambda: page.weigh_in.told is not None)
    assert page.weigh_in.told.timed.after[0].value > 14
    assert page.weigh_in.told.weighed is None


def test_the_routine_writes_patches_and_waits_for_their_weights(page, tmp_path):
    page.show_part("weigh")
    weigh_in = page.weigh_in
    weigh_in.write_routine(tmp_path / "patches")
    assert len(list((tmp_path / "patches").glob("[!s]*"))) == 10
    assert len(weigh_in.rows) == 5
    assert weigh_in.told is None
    assert all("to be weighed" in weigh_in.sheet.list.item(at).text() for at in range(5))
    weigh_in.write_routine(tmp_path / "patches")
    assert len(weigh_in.rows) == 5
    weigh_in.edit()
    dialog = dialog_of(TableDialog)
    dialog.table.item(0, 3).setText("12")
    dialog.table.item(0, 5).setText("9")
    dialog.table.item(0, 5).setText("14.4")
    dialog.accept()
    as_soon_as(lambda: weigh_in.told is not None)
    assert weigh_in.told.weighed.after[0].value > 27


def test_tables_of_weights_are_read_and_bad_ones_told(page, tmp_path):
    page.show_part("weigh")
    weigh_in = page.weigh_in
    good = tmp_path / "good.csv"
    good.write_text("name,plan,blank_g,printed_g\nwhite,patch W,10,12.2\n", encoding="utf-8")
    weigh_in.read(good)
    as_soon_as(lambda: weigh_in.told is not None)
    bad = tmp_path / "bad.csv"
    bad.write_text("name,plan,blank_g,printed_g\nwhite,nowhere,10,12.2\n", encoding="utf-8")
    weigh_in.read(bad)
    assert "Row 2: “nowhere” names a plan" in weigh_in.sheet.problem.text()
    assert len(weigh_in.rows) == 1
    weigh_in.read(tmp_path / "none.csv")
    assert "cannot be read" in weigh_in.sheet.problem.text()
    assert rows_in(kept_weighings.file_of("film")) == weigh_in.rows


def test_an_export_goes_into_the_mix_of_the_shop(heron, page, settle, tmp_path):
    heron.files.exporting.to(tmp_path / "out")
    as_soon_as(lambda: bool(shop.mix_of("film")))
    (kept,) = shop.mix_of("film")
    assert kept.quantity == 18
    assert kept.cost == page.costed.costing.of_print


def test_nothing_is_cut_off_where_the_window_is_smallest(heron, page):
    heron.resize(960, 540)
    take_events()
    for part in ("money", "weigh"):
        page.show_part(part)
        take_events()
        for text in page.findChildren(QLabel):
            if text.isVisible() and not text.wordWrap():
                assert text.sizeHint().width() <= text.width() + 1, text.text()
    assert heron.width() == 960
