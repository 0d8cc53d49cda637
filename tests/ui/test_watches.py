"""A page is rendered when what it watches changes, and then shows what a whole rendering would."""

from dataclasses import replace

import pytest
from PySide6.QtWidgets import QAbstractButton, QAbstractSlider, QLabel, QLineEdit, QWidget
from tests.icc_maker import cmyk_profile

from swaddon.core.artwork.placement import Placement
from swaddon.core.count.shared import SheetShare
from swaddon.core.flow.quote import QuoteTerms
from swaddon.core.holes.settings import Screen
from swaddon.core.inks.settings import Recipe
from swaddon.core.knockout.settings import AlphaTreatment, Keep, Knockout, OutlineKnockout
from swaddon.core.order.settings import PlanSettings
from swaddon.core.press.lineup import LineUp
from swaddon.io import profiles
from swaddon.io.icc import IccFile
from swaddon.io.print_areas import shipped_table
from swaddon.session import edits, order_edits
from swaddon.session.quotes import set_terms
from swaddon.session.sheet_edits import change_sheet
from swaddon.ui.station_registry import STATIONS

EDITS = {
    "name": edits.rename("Marbles at dusk"),
    "cloth": edits.set_cloth("tote"),
    "profile": edits.set_profile(profiles.shipped("direct")),
    "width_mm": edits.set_width(70.0),
    "garment": edits.set_garment((224, 212, 186)),
    "placement": edits.change("placement", Placement(quarter_turns=1), label="Turn"),
    "drop_mm": edits.set_drop(50),
    "knockouts": edits.add_knockout(Knockout((200, 30, 40))),
    "keeps": edits.add_keep(Keep((250, 250, 248))),
    "alpha": edits.set_alpha(AlphaTreatment("hard", 0.7)),
    "holes": edits.set_screen(Screen(lpi=30)),
    "white": edits.set_white("White", mode="need", guard=False),
    "mirrored": edits.change("mirrored", False),
    "quantity": edits.set_quantity(25),
    "gamut": edits.change("gamut", "steps"),
    "outlines": edits.add_outline(OutlineKnockout(((5.0, 5.0), (900.0, 20.0), (400.0, 700.0)))),
    "icc": edits.set_icc(IccFile("press.icc", cmyk_profile())),
    "lineup": edits.change("lineup", LineUp("Other", ("K", "M", "Y", "C", "W"))),
    "recipes": edits.change("recipes", (Recipe((200, 30, 40), (0.0, 1.0, 0.9, 0.0)),)),
    "handover": edits.change("handover.kind", "pdf"),
    "goods": order_edits.set_size(0, "XL", shipped_table()),
    "below": order_edits.repeat_line(),
    "own": replace(edits.change("white.choke_mm", 0.77), alone=True),
    "above": order_edits.set_quantity(0, 3),
    "quote": set_terms(QuoteTerms(percent=33.0)),
    "sheet": change_sheet(spacing_mm=8.0),
    "at_press": edits.change("at_press.peel", "cold"),
    "sheet_share": edits.change("sheet_share", SheetShare("Roll", 9000.0, 0.0, 0.8, 52.0, "film")),
}


def shown(page: QWidget) -> list[object]:
    """All that a page says."""
    out: list[object] = []
    for part in page.findChildren(QWidget):
        seen = part.isVisibleTo(page)
        if isinstance(part, QLabel | QLineEdit) and seen:
            out.append(part.text())
        elif isinstance(part, QAbstractButton) and seen:
            out.append((part.text(), part.isChecked(), part.isEnabled()))
        elif isinstance(part, QAbstractSlider) and seen:
            out.append(part.value())
    return out


def test_every_setting_is_among_the_edits():
    assert set(PlanSettings.__dataclass_fields__) <= set(EDITS)


@pytest.mark.parametrize(
    "section", sorted(set(EDITS) - {"name", "cloth", "goods", "below", "own", "above", "quote", "sheet"})
)
def test_every_change_of_a_setting_reaches_the_plan(marble, settle, section):
    """Colours beyond the inks used to be chosen on the bench and never planned."""
    before = marble.desk.plan.request
    marble.apply(EDITS[section])
    settle()
    after, job = marble.desk.plan.request, marble.session.job
    assert (after.settings, after.press) == (job.settings, job.profile)
    assert (after.settings, after.press) != (before.settings, before.press)


@pytest.mark.parametrize("station", [spec.key for spec in STATIONS])
def test_a_page_misses_no_change_of_what_it_shows(marble, settle, station):
    marble.go_to_station(station)
    page = marble.pages[station]
    for section, edit in EDITS.items():
        marble.apply(edit)
        now = shown(page)
        page.render_job(marble.session.job, marble.desk.plan, marble.desk.yardstick)
        assert shown(page) == now, section
    settle()
    now = shown(page)
    page.render_job(marble.session.job, marble.desk.plan, marble.desk.yardstick)
    assert shown(page) == now, "plan"
    marble.pin()
    now = shown(page)
    page.render_job(marble.session.job, marble.desk.plan, marble.desk.yardstick)
    assert shown(page) == now
    marble.set_inches(True)
    now = shown(page)
    page.render_job(marble.session.job, marble.desk.plan, marble.desk.yardstick)
    assert shown(page) == now


def test_a_page_is_left_alone_by_what_it_does_not_watch(marble, settle, monkeypatch):
    marble.go_to_station("cost")
    rendered = []
    monkeypatch.setattr(marble.pages["cost"], "render_job", lambda *_: rendered.append(1))
    marble.apply(change_sheet(spacing_mm=8.0))
    marble.set_inches(True)
    assert not rendered
    marble.apply(edits.set_garment((224, 212, 186)))
    settle()
    assert rendered


def test_watches_name_fields_that_there_are(marble):
    known = {"plan", "yardstick", "regions", "units", "tests", *EDITS, "file", "tiles"}
    for spec in STATIONS:
        assert spec.watches <= known, spec.key
