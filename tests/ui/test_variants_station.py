"""The station Variants: worked out in the background, sorted, filtered, pinned, compared, taken over."""

from dataclasses import replace

import numpy as np
import pytest
from PySide6.QtCore import QPointF, Qt
from PySide6.QtTest import QTest
from tests.ui.patience import as_soon_as, until_rest

from swaddon.core.plan.outcome import small_proof
from swaddon.session import edits
from swaddon.session.variant_marks import differs, marked
from swaddon.ui.stations.variants.page import PROOF_PX


@pytest.fixture
def done(bench, settle):
    return lambda: until_rest(bench, bench.deck.variants)


@pytest.fixture
def six(marble, done):
    """Three white plans on a light and a dark garment, worked out."""
    page = page_of(marble)
    page.garments.show_values(
        [("Black tee", "Black tee"), ("White tee", "White tee")], frozenset({"Black tee", "White tee"})
    )
    page.whites.show_ticked(frozenset({"none", "solid", "limit:280"}))
    page._retick()
    page.go.click()
    done()
    return marble


def page_of(bench):
    bench.go_to_station("variants")
    return bench.pages["variants"]


def test_what_is_ticked_is_worked_out_and_shown_by_garment(six):
    page = page_of(six)
    assert page.go.text() == "Work out 6 variants"
    assert len(page.found) == 6
    assert six._stack.currentWidget() is page.own_table
    cards = page.own_table.cards
    assert [card.view.worked.variant.garment.title for card in cards] == ["Black tee"] * 3 + ["White tee"] * 3
    costs = [card.view.worked.outcome.cost for card in cards]
    assert costs[:3] == sorted(costs[:3])
    assert costs[3:] == sorted(costs[3:])
    white = cards[3]
    assert white.view.title == "None under colour"
    assert all(card.view.is_dominated or card.view.worked.outcome.worst_de for card in cards)


def test_cards_are_sorted_filtered_and_told_against_the_pinned(six):
    page = page_of(six)
    table = page.own_table
    table.sort.button_for("worst").click()
    shifts = [card.view.worked.outcome.worst_de for card in table.cards[:3]]
    assert shifts == sorted(shifts)
    table.hides_stops.setChecked(True)
    assert all(card.view.worked.outcome.stops == 0 for card in table.cards)
    assert len(table.cards) < 6
    table.hides_stops.setChecked(False)
    table.hides_dominated.setChecked(True)
    assert not any(card.view.is_dominated for card in table.cards)
    table.hides_dominated.setChecked(False)
    table.cards[0].pin.click()
    assert table.cards[0].view.is_pinned
    assert all("Against the pinned" in card.view.against for card in table.cards if not card.view.is_pinned)
    table.cards[0].pin.click()
    assert page.shown.pinned is None


def test_the_grid_shows_light_against_dark_with_the_differences_marked(six):
    page = page_of(six)
    table = page.own_table
    table.view.button_for("grid").click()
    table.marks.setChecked(True)
    assert table.cards == []
    first, second = page.found[0].outcome.proof, page.found[2].outcome.proof
    picture, share = marked(second, first)
    mask = differs(second, first)
    assert share == pytest.approx(mask.mean())
    assert np.array_equal(picture[~mask], second[~mask]), "only what differs is marked"
    assert marked(first, first)[1] == 0


def test_two_variants_lie_under_a_curtain_that_moves_by_mouse_and_keys(six):
    page = page_of(six)
    table = page.own_table
    table.cards[0].pin.click()
    table.cards[1].compare.click()
    curtain = table.curtain
    assert table.stack.currentWidget() is curtain
    assert "left of the curtain" in curtain.accessibleDescription()
    before = curtain.curtain
    QTest.keyClick(curtain, Qt.Key.Key_Right)
    assert curtain.curtain > before
    QTest.mouseClick(curtain, Qt.MouseButton.LeftButton, pos=QPointF(curtain.width() / 4, 60).toPoint())
    assert curtain.curtain == pytest.approx(0.25, abs=0.01)
    assert curtain.grab().width() > 0
    table.back.click()
    assert table.stack.currentWidget() is not curtain


def test_a_variant_that_is_taken_over_is_its_proof_and_undoes_in_one_step(six, done):
    page, before = page_of(six), six.session.job
    item = next(
        found for found in page.found if found.variant.garment.title == "White tee" and "280" in found.variant.title
    )
    page.adopt(item)
    done()
    assert six.session.job.settings.garment == (250, 250, 248)
    assert np.array_equal(small_proof(six.desk.plan, PROOF_PX), item.outcome.proof)
    assert six.session.undo_label.startswith("Take the variant")
    assert page.told.text() == "The job was changed since these were worked out."
    six.session.undo()
    assert six.session.job == before
    assert page.told.text() == ""


def test_work_is_stopped_and_what_is_done_stays(marble, done):
    page = page_of(marble)
    page.toner.click()
    page.go.click()
    as_soon_as(lambda: len(page.found) >= 1)
    assert page.own_table.progress.isVisible()
    page.own_table.cancel.click()
    done()
    count = len(page.found)
    assert 1 <= count < 24
    assert not page.own_table.progress.isVisible()
    marble.apply(edits.change("white.choke_mm", 0.2))
    done()
    assert len(page.found) == count


def test_another_artwork_lets_go_of_what_was_worked_out(six, done):
    page = page_of(six)
    six.files.open_demo("tag")
    done()
    assert page.found == []
    assert page.own_table.empty.isVisible()


def test_variants_stay_with_their_job(six, done):
    """Two jobs of one artwork showed each other's; what one had was gone after a look at another."""
    page, first = page_of(six), six.session.uid
    pinned, ticked, found = page.found[0], page.whites.ticked(), page.found
    page.pin(pinned)
    six.files.tray.add(replace(six.session.job, name="Again"))
    six.files.tray.step(1)
    done()
    page_of(six)
    second = six.session.uid
    assert second != first
    assert page.found == []
    assert page.shown.pinned is None
    assert page.whites.ticked() != ticked
    page.go.click()
    as_soon_as(lambda: len(page.found) >= 1)
    six.files.tray.step(1)
    done()
    assert six.session.uid == first
    assert page.found is found
    assert len(page.found) == 6
    assert page.whites.ticked() == ticked
    six.files.tray.step(1)
    done()
    assert 1 <= len(page.found) < 6


def test_variants_of_a_job_that_changes_while_they_come_are_told_as_old(marble, done):
    page = page_of(marble)
    page.go.click()
    as_soon_as(lambda: len(page.found) >= 1)
    marble.session.apply(edits.set_width(66.0))
    done()
    assert "changed since" in page.told.text()
    marble.session.undo()
    done()
    assert page.told.text() == ""


def test_toner_sets_are_ticked_as_practitioners_compare_them(marble):
    """Limits × toner sets × presses on a light and a dark item: common practice, no source."""
    page = page_of(marble)
    page.toner.click()
    assert page.whites.ticked() == {"limit:170", "limit:280", "limit:400"}
    assert {"toner-onepass", "toner-gloss", "toner-wide"} <= page.presses.ticked()
    assert page.garments.ticked() == {"Black tee", "White tee"}
    page.light_dark.click()
    assert page.garments.ticked() == {"Black tee", "White tee"}


def test_nothing_ticked_is_nothing_to_work_out(marble):
    page = page_of(marble)
    page.garments.show_values([("Black tee", "Black tee")], frozenset())
    page._retick()
    assert not page.go.isEnabled()
