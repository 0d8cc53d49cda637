"""The order on the bench: lines typed and pasted, the strip, their tally, their findings, settings by name."""

import json
from pathlib import Path

import numpy as np
import pytest
from PySide6.QtCore import QMimeData, Qt, QUrl
from PySide6.QtGui import QGuiApplication
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QLabel
from tests.ui.patience import as_soon_as, until_rest

from swaddon.core.errors import PlanError
from swaddon.io.garments import shipped_garments
from swaddon.io.preset_file import shipped_presets
from swaddon.session import edits, order_edits, order_plans, shop
from swaddon.session.presets import all_presets
from swaddon.ui.stations.order import list_model
from swaddon.ui.stations.order.keep_preset import KeepPreset
from swaddon.ui.wiring import dropped

ROWS = "navy\tM\t12\nblack\tL\t8\nwhite\tS\t10"


@pytest.fixture
def counted(bench, settle):
    """Wait until the whole order is counted, and what runs beside it is done."""

    def wait() -> None:
        until_rest(bench, bench.deck.counter, bench.deck.variants, bench.deck.exports)

    return wait


@pytest.fixture
def club(marble, counted):
    """The small jersey label on three garments."""
    add(marble, "red jersey,M,12,front,60mm\nblack,L,8,front,60mm\nwhite,S,10,front,60mm")
    counted()
    return marble


def add(bench, text: str) -> None:
    bench.apply(order_edits.add_lines(list_model.typed_lines(text, shop.goods()), shop.sizes()))


def page_of(bench):
    bench.go_to_station("order")
    return bench.pages["order"]


def test_rows_of_a_spreadsheet_are_pasted_as_lines(marble, counted):
    page = page_of(marble)
    page.list_button.click()
    assert marble._stack.currentWidget() is page.own_table
    QGuiApplication.clipboard().setText(ROWS)
    entry = page.list_part.table.entry
    entry.setFocus()
    QTest.keyClick(entry, Qt.Key.Key_V, Qt.KeyboardModifier.ControlModifier)
    counted()
    assert [line.title for line in marble.session.job.lines] == ["Navy tee M", "Black tee L", "White tee S"]
    assert len(marble.deck.strip.cards) == 3
    assert marble.deck.strip.isVisible()
    marble.session.undo()
    assert len(marble.session.job.lines) == 1
    assert not marble.deck.strip.isVisible()


def test_a_line_is_typed_and_what_is_wrong_is_said_and_stays(marble):
    page = page_of(marble)
    page.show_part("list")
    entry, said = page.list_part.table.entry, page.list_part.table.said
    QTest.keyClicks(entry, "navy Q 6")
    QTest.keyClick(entry, Qt.Key.Key_Return)
    assert "is no garment" in said.text()
    assert entry.text() == "navy Q 6"
    entry.clear()
    QTest.keyClicks(entry, "navy xl 6")
    QTest.keyClick(entry, Qt.Key.Key_Return)
    assert said.text() == ""
    assert entry.text() == ""
    line = marble.session.job.lines[-1]
    assert (line.title, line.settings.quantity) == ("Navy tee XL", 6)


def test_cells_are_changed_in_the_table_and_go_back_when_wrong(club):
    page = page_of(club)
    page.show_part("list")
    grid = page.list_part.table.grid
    grid.item(1, list_model.PIECES).setText("25")
    assert club.session.job.lines[1].settings.quantity == 25
    grid.item(1, list_model.PIECES).setText("-3")
    assert "not a whole number" in page.list_part.table.said.text()
    assert grid.item(1, list_model.PIECES).text() == "25"
    grid.item(1, list_model.GARMENT).setText("royal tee")
    assert club.session.job.lines[1].settings.garment == (36, 72, 160)
    grid.item(0, list_model.PLACE).setText("sleeve")
    assert club.session.job.lines[0].goods.place == "sleeve"
    grid.item(0, list_model.PRINT).setText("youth")
    assert club.session.job.lines[0].goods.fit == "youth"
    grid.item(0, list_model.WIDTH).setText("44 mm")
    assert club.session.job.lines[0].settings.width_mm == 44
    grid.setCurrentCell(2, 0)
    assert club.session.job.at == 2
    QTest.keyClick(grid, Qt.Key.Key_Delete)
    assert len(club.session.job.lines) == 2


def test_the_strip_switches_lines_and_the_first_picture_comes_at_once(club, counted):
    drawn = []
    club.desk.frame_drawn.connect(lambda frame, _other: drawn.append(frame))
    club.deck.strip.cards[2].click()
    assert club.session.job.line.title == "White tee S"
    as_soon_as(lambda: bool(drawn))
    assert not drawn[0].is_final, "shown before anything is planned"
    counted()
    assert club.desk.plan.request.settings.garment == (250, 250, 248)
    assert club.title.text().endswith("White tee S")
    assert drawn[-1].is_final
    QTest.keyClick(club, Qt.Key.Key_Left, Qt.KeyboardModifier.ControlModifier)
    counted()
    assert club.session.job.at == 1
    QTest.keyClick(club, Qt.Key.Key_D, Qt.KeyboardModifier.ControlModifier)
    assert [line.title for line in club.session.job.lines][1:3] == ["Black tee L", "Black tee L"]


def test_what_is_set_for_one_line_is_marked_and_put_back(club, counted):
    strip, page = club.deck.strip, page_of(club)
    club.session.turn_to(1)
    strip.scope.button_for("alone").click()
    club.apply(edits.change("white.choke_mm", 0.44))
    counted()
    assert [line.settings.white.choke_mm for line in club.session.job.lines] == [0.3, 0.44, 0.3]
    assert "1 of its settings" in strip.cards[1].accessibleName()
    assert page.own.isVisible()
    assert page.own_told.text() == "Own on this line: Choke"
    strip.scope.button_for("all").click()
    club.apply(edits.change("white.limit", 200.0))
    assert {line.settings.white.limit for line in club.session.job.lines} == {200.0}
    strip.scope.button_for("alone").click()
    club.apply(edits.change("gamut", "steps"))
    page.put_back.click()
    assert [action.text()[4:] for action in page.put_back_menu.actions()] == [
        "Colours beyond the inks",
        "Choke",
        "All of them",
    ]
    page.put_back_menu.actions()[0].trigger()
    page.put_back_menu.close()
    assert club.session.job.own == ("white.choke_mm",)
    page.put_back.click()
    assert [line.own for line in club.session.job.lines] == [(), (), ()]
    assert club.session.job.lines[1].settings.white.choke_mm == 0.3
    assert not page.own.isVisible()


def test_the_tally_shows_the_order_on_demand(club, counted):
    tally = club.tally
    one = tally.cells["cost"].line.value
    tally.whole.click()
    counted()
    whole = club.deck.counter.order_plan
    assert whole is not None
    assert tally.cells["cost"].line.value.split()[0] == f"{whole.sum.cost:.2f}"
    assert tally.cells["cost"].line.value != one
    assert "12 × Red jersey M" in tally.cells["cost"].line.arithmetic[0]
    club.apply(order_edits.set_quantity(0, 13))
    counted()
    assert "13 × Red jersey M" in tally.cells["cost"].line.arithmetic[0]
    tally.whole.click()
    assert tally.cells["cost"].line.value == one


def test_a_line_that_cannot_be_planned_is_told_on_strip_and_tally(club, counted, monkeypatch):
    def refuses(_job, settings, *_rest):
        raise PlanError(f"Too wide at {settings.width_mm:.0f} mm.")

    monkeypatch.setattr(order_plans, "planned", refuses)
    club.tally.whole.click()
    club.apply(edits.change("white.choke_mm", 0.21))
    counted()
    assert "Too wide at 60 mm." in club.deck.strip.cards[1].toolTip()
    assert club.tally._note.text() == "2 of 3 lines fail"
    assert club.deck.counter.order_plan is None


def test_findings_of_other_lines_name_their_line_and_lead_to_it(club, counted):
    club.apply(edits.change("white.mode", "none"))
    club.session.turn_to(2)
    counted()
    found = [row for row in club.findings.rows if row.finding.text.startswith(("Red jersey M:", "Black tee L:"))]
    assert found, "white off on dark garments stops them, while the white one is at hand"
    assert all(row.finding.fix is None for row in found)
    found[0].pressed.emit()
    counted()
    assert club.session.job.line.title in found[0].finding.text
    assert any(row.finding.code == found[0].finding.code for row in club.findings.rows)


def test_an_edit_while_the_order_is_counted_ends_the_count_and_begins_anew(marble, counted):
    add(marble, "red jersey,M,12,front,60mm\nblack,L,8,front,60mm\nwhite,S,10,front,60mm")
    as_soon_as(lambda: any(marble.deck.counter.outcomes()))
    marble.apply(edits.change("white.choke_mm", 0.2))
    counted()
    for line, outcome in zip(marble.session.job.lines, marble.deck.counter.outcomes(), strict=True):
        assert line.settings.white.choke_mm == 0.2
        assert outcome is not None
    fresh = marble.deck.counter.outcomes()
    marble.deck.counter.forget()
    marble.session.turn_to(1)
    counted()
    for warm, again in zip(fresh, marble.deck.counter.outcomes(), strict=True):
        assert np.array_equal(warm.proof, again.proof)
        assert warm.cost == again.cost


def test_another_job_opened_while_an_order_is_counted_gets_nothing_of_it(marble, counted):
    add(marble, "red jersey,M,12,front,60mm\nblack,L,8,front,60mm")
    marble.files.ask_unsaved = lambda: "discard"
    marble.files.open_demo("tag")
    counted()
    assert len(marble.session.job.lines) == 1
    assert not marble.deck.strip.isVisible()
    assert not marble.tally.shows_whole


def test_one_transfer_for_all_is_compared_and_forgotten_with_the_next_change(club, counted):
    page = page_of(club)
    page.show_part("list")
    page.list_part.compare()
    counted()
    table = page.list_part.table
    assert table.ways.isVisible()
    assert table.verdict.text().endswith(".")
    assert "advised" in table.ways.accessibleDescription()
    club.apply(edits.change("white.choke_mm", 0.2))
    assert not table.ways.isVisible()


def test_presets_are_offered_compared_and_applied_in_one_step(club, counted):
    page, before = page_of(club), club.session.job
    assert page.offered.text() == "For dark goods:"
    assert list(page.offers) == ["Dark, solid", "Dark, light in the hand"]
    assert "Coverage → Solid" in page.offers["Dark, solid"].toolTip()
    page.offers["Dark, solid"].click()
    assert {line.settings.white.mode for line in club.session.job.lines} == {"solid"}
    assert not page.offers["Dark, solid"].isEnabled()
    club.session.undo()
    page.presets_button.click()
    counted()
    cards = page.presets_part.table.cards
    assert list(cards)[:2] == ["Dark, solid", "Dark, light in the hand"]
    assert all(card.picture.pixmap().width() > 0 for card in cards.values())
    told = [text.text() for text in cards["White goods, no white"].findChildren(QLabel)]
    assert any("White under colour: Coverage → None" in text for text in told)
    cards["Dark, light in the hand"].use.click()
    counted()
    assert {line.settings.white.mode for line in club.session.job.lines} == {"need"}
    assert not page.presets_part.table.cards["Dark, light in the hand"].use.isEnabled()
    club.session.undo()
    assert club.session.job.lines == before.lines


def test_settings_are_kept_under_a_name_given_out_and_taken_in(club, counted, tmp_path: Path):
    page = page_of(club)
    page.show_part("presets")
    dialog = KeepPreset(page, club.session.job)
    dialog.accept()
    assert "name" in dialog.wrong.text()
    dialog.name.setText("Jersey labels")
    dialog.process.setChecked(True)
    dialog.accept()
    page.presets_part.keep(dialog.preset())
    assert all_presets()[0].name == "Jersey labels"
    assert all_presets()[0].processes == ("toner-onepass",)
    page.presets_part.give_out(all_presets()[0], tmp_path / "labels")
    page.presets_part.remove(all_presets()[0])
    assert all_presets() == shipped_presets()
    page.presets_part.take_in(tmp_path / "labels.json")
    assert all_presets()[0].name == "Jersey labels"
    (tmp_path / "bad.json").write_text("{")
    page.presets_part.take_in(tmp_path / "bad.json")
    assert "is no preset" in club.problem.text()
    counted()


def test_the_garment_library_is_edited_and_kept(club, tmp_path: Path):
    page = page_of(club)
    dialog = page.list_part.edit_garments()
    dialog.open()
    dialog.paste("Clubhouse apron\t#145a3c\tcanvas\t320\t\n")
    row = dialog.table.rowCount() - 1
    dialog.table.item(row, 4).setText("hot")
    dialog.accept()
    assert f"Row {row + 1}: “hot” is no number of °C" in dialog.wrong.text()
    dialog.table.item(row, 4).setText("190")
    dialog.write(tmp_path / "g.csv")
    dialog.accept()
    assert shop.garments()[-1].name == "Clubhouse apron"
    assert len(shop.garments()) == len(shipped_garments()) + 1
    other = page.list_part.edit_garments()
    other.open()
    other.read(tmp_path / "nothere.csv")
    assert "cannot be read" in other.wrong.text()
    other.read(tmp_path / "g.csv")
    assert other.wrong.text() == ""
    other.reject()
    club.apply(edits.set_width(61.0))
    page.render_job(club.session.job, None, None)
    assert page.goods.findData("Clubhouse apron") > 0


def test_the_sheet_edits_the_line_at_hand(club, counted):
    page = page_of(club)
    club.session.turn_to(1)
    page.goods.setCurrentIndex(page.goods.findData("Royal tee"))
    page.goods.activated.emit(page.goods.currentIndex())
    page.garment_size.activated.emit(page.garment_size.findData("3XL"))
    page.place.activated.emit(page.place.findData("back"))
    page.fit.activated.emit(page.fit.findData("oversize"))
    line = club.session.job.lines[1]
    assert (line.title, line.goods.fit, line.settings.width_mm) == ("Royal tee 3XL back", "oversize", 340)
    assert club.session.job.lines[0].title == "Red jersey M"
    counted()
    assert page.garment_field.effect.startswith("Dark goods · cotton · 180 g/m²")


def test_the_whole_order_is_exported_with_what_the_next_program_gets(club, counted, tmp_path: Path):
    club.apply(edits.change("handover.kind", "png"))
    counted()
    club.files.exporting.order_to(tmp_path / "order")
    counted()
    assert "Exported 3 prints of 3 lines" in club.problem.text()
    order = json.loads((tmp_path / "order" / "order.json").read_text())
    assert [line["quantity"] for line in order["lines"]] == [12, 8, 10]
    for line in order["lines"]:
        names = {path.name for path in (tmp_path / "order" / line["folder"]).iterdir()}
        assert {"white.png", "plan.json", "print-mirrored.png"} <= names
    (tmp_path / "file").write_text("")
    club.files.exporting.order_to(tmp_path / "file")
    counted()
    assert "exported" in club.problem.text()


def test_rows_on_the_clipboard_and_tables_that_are_dropped_are_lines(marble, counted, tmp_path: Path):
    QGuiApplication.clipboard().setText(ROWS)
    marble.setFocus()
    QTest.keyClick(marble, Qt.Key.Key_V, Qt.KeyboardModifier.ControlModifier)
    assert len(marble.session.job.lines) == 3
    (tmp_path / "more.csv").write_text("black,XL,2\n")
    (tmp_path / "bad.csv").write_text("black,XL,-2\n")
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(tmp_path / name)) for name in ("more.csv", "bad.csv")])
    dropped(marble, marble.files, data)
    assert marble.session.job.lines[-1].title == "Black tee XL"
    assert "row 1: quantity “-2”" in marble.problem.text()
    QGuiApplication.clipboard().setText("only words")
    QTest.keyClick(marble, Qt.Key.Key_V, Qt.KeyboardModifier.ControlModifier)
    assert "no picture on the clipboard" in marble.problem.text()
    counted()


def test_what_is_looked_at_meanwhile_stops_no_export_and_stopping_is_told(club, counted, tmp_path: Path):
    """Presets that were compared while an order was exported used to end the export without a word."""
    page = page_of(club)
    club.files.exporting.order_to(tmp_path / "order")
    page.show_part("presets")
    page.show_part("")
    counted()
    assert (tmp_path / "order" / "order.json").is_file()
    club.files.exporting.order_to(tmp_path / "stopped")
    club.desk.cancel()
    assert "was not finished" in club.problem.text()
    page.show_part("list")
    page.list_part.compare()
    assert not page.list_part.table.compare.isEnabled()
    club.desk.cancel()
    assert page.list_part.table.compare.isEnabled()
    counted()


def test_the_run_sheet_tells_what_heat_the_garment_bears(club, counted):
    club.go_to_station("run")
    assert "Red jersey bears 150 °C" in club.pages["run"].maker.text()
    club.session.turn_to(1)
    counted()
    assert "Black tee bears 200 °C" in club.pages["run"].maker.text()
