"""The shop's documents on the bench: told where they are damaged, followed where another program changes them."""

import dataclasses

import pytest
from tests.ui.patience import as_soon_as, take_events

from swaddon.core.errors import PlanError
from swaddon.io.supplies import FILE, write_book
from swaddon.session import kept, shop
from swaddon.session.folders import config_folder
from swaddon.ui.stations.cost.page import CostPage


def cost_page(bench, settle) -> CostPage:
    bench.go_to_station("cost")
    settle()
    return bench.pages["cost"]


def test_prices_that_cannot_be_read_are_told_and_cost_says_so(marble, settle):
    """One bad cell brought the shipped, invented prices without a word."""
    page = cost_page(marble, settle)
    assert not page.prices_told.isVisible()
    book = shop.book()
    write_book(config_folder() / FILE, book)
    text = (config_folder() / FILE).read_text(encoding="utf-8")
    (config_folder() / FILE).write_text(text.replace(f"{book.prices[0].pack_price:f}", "cheap", 1), encoding="utf-8")
    shop.book()  # whoever reads it first takes the news from nobody
    as_soon_as(lambda: "row" in marble.problem.text())
    assert "shipped, invented prices are used" in marble.problem.text()
    assert page.prices_told.isVisible()
    assert "invented prices" in page.prices_told.text()
    marble.tell("")
    marble.kept_watch.look()
    assert marble.problem.text() == "", "told once"
    write_book(config_folder() / FILE, book)
    as_soon_as(lambda: not page.prices_told.isVisible())


def test_prices_of_another_program_show_within_a_second_and_are_not_written_over(marble, settle):
    page = cost_page(marble, settle)
    before, opened = page.costed.costing.total, shop.book()
    dearer = dataclasses.replace(
        opened, prices=tuple(dataclasses.replace(row, pack_price=row.pack_price * 3) for row in opened.prices)
    )
    write_book(config_folder() / FILE, opened)
    shop.book()
    write_book(config_folder() / FILE, dearer)
    as_soon_as(lambda: page.costed.costing.total > before)
    with pytest.raises(PlanError, match="changed by another program"):
        page.take_prices(dataclasses.replace(opened, prices=opened.prices[:-1]), {}, opened)
    assert shop.book() == dearer


def test_what_could_not_be_kept_is_told_and_kept_later(marble, monkeypatch):
    def full(_file: object, _data: bytes) -> None:
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(kept, "write_bytes", full)
    marble.prefer(bar=True)
    marble.kept_watch.look()
    assert "no space left on device" in marble.problem.text()
    monkeypatch.undo()
    kept.try_again()
    marble.kept_watch.look()
    take_events()
    assert "kept again" in marble.problem.text()
