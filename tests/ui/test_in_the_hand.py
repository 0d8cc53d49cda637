"""The bench in the hand: windows of all sizes, menus, drops, yardstick, first picture, popups, focus."""

import itertools

import numpy as np
import pytest
from PIL import Image
from PySide6.QtCore import QMimeData, QPoint, QPointF, Qt, QUrl
from PySide6.QtGui import QDropEvent
from PySide6.QtWidgets import QPushButton, QWidget
from tests.conftest import badge
from tests.ui.patience import as_soon_as, take_events, until
from tests.ui.test_right_job import picture

from swaddon.io import profiles
from swaddon.session import edits
from swaddon.ui.widgets import Popover, label


@pytest.mark.parametrize("size", [(960, 540), (1024, 768), (1280, 800)])
def test_everything_stays_within_the_window(heron, settle, size):
    heron.resize(*size)
    settle()
    assert (heron.width(), heron.height()) == size
    for station in ("order", "artwork", "knockout", "holes", "white", "inks", "cost"):
        heron.go_to_station(station)
        settle()
        for part in (heron.tally, heron.sheet, heron.findings, heron.rail, heron.job_bar):
            corner = part.mapTo(heron, QPoint(part.width(), part.height()))
            assert corner.x() <= size[0], (station, part)
            assert corner.y() <= size[1], (station, part)
        assert heron.table.width() > 300
    for cell in heron.tally.cells.values():
        assert cell.mapTo(heron, QPoint(cell.width(), cell.height())).x() <= size[0]
        assert cell.width() >= cell.minimumSizeHint().width() - 2


def in_sight(widget: QWidget) -> bool:
    """Whether a widget lies wholly within all that scrolls round it."""
    return widget.isVisible() and widget.visibleRegion().boundingRect().height() >= widget.height() - 1


@pytest.mark.parametrize("mode", ["none", "highlight", "need", "solid", "limit", "only"])
def test_no_main_control_of_white_lies_below_the_fold(heron, settle, mode):
    heron.go_to_station("white")
    heron.apply(edits.set_white("Change white", mode=mode))
    settle()
    page = heron.pages["white"]
    main = [
        page.amount.mode,
        page.amount.verdict,
        page.design,
        page.choke.row,
        page.choke.guard,
        page.choke.registration,
    ]
    main += {"need": [page.amount.shift, page.amount.curve], "limit": [page.amount.limit]}.get(mode, [])
    assert all(in_sight(part) for part in main)
    assert in_sight(page.choke.chart) or page.choke.chart.isHidden() or mode in ("limit", "highlight")


def test_no_main_control_of_knockout_lies_below_the_fold(bench, settle):
    bench.files.open_demo("lantern")
    settle()
    bench.go_to_station("knockout")
    settle()
    page = bench.pages["knockout"]
    card = page.cards[0]
    main = [page.pick, page.garment, *page.offers, card.tolerance, card.reach, card.edge, page.keep, page.keep_all]
    assert all(in_sight(part) for part in (*main, page.alpha.kind, page.alpha.lpi))


@pytest.mark.parametrize("job", ["lantern", "heron", "kettle"])
def test_the_worst_finding_shows_its_fix(bench, settle, job):
    bench.files.open_demo(job)
    settle()
    worst = bench.findings.rows[0]
    assert worst.is_open
    assert worst.finding.fix is None or in_sight(worst.fix_button)


def test_a_change_of_scheme_dresses_windows_and_not_the_application(heron, settle, qapp):
    """A style sheet of the application polishes every widget again for each one above it: 0.6 s."""
    for key in heron.pages:
        heron.go_to_station(key)
    ground = heron.grab().toImage().pixelColor(2, heron.height() - 2)
    heron.actions_.by_key["scheme"].trigger()
    assert not qapp.styleSheet()
    assert heron.grab().toImage().pixelColor(2, heron.height() - 2).lightness() > ground.lightness() + 100
    heron.go_to_station("cost")
    assert heron.pages["cost"].isVisible()
    head = heron.pages["cost"].findChild(QPushButton)
    assert head is not None
    assert head.palette().color(head.foregroundRole()).lightness() < 100
    until(lambda: heron.sheet.count() == len(heron.pages))
    for key in heron.pages:
        heron.go_to_station(key)
        assert heron.pages[key].isVisible()
    heron.actions_.by_key["scheme"].trigger()
    heron.actions_.by_key["scheme"].trigger()
    until(lambda: heron.sheet.count() == len(heron.pages))
    settle()


def test_what_is_of_no_use_on_an_empty_bench_is_off(bench, settle):
    off = {key for key, action in bench.actions_.by_key.items() if not action.isEnabled()}
    assert {"save", "save-as", "export", "report", "pin", "fit", "core-sample", "undo", "redo", "close-job"} <= off
    assert "place" not in off
    bench.files.open_demo("heron")
    settle()
    assert bench.actions_.by_key["export"].isEnabled()


def test_menus_have_mnemonics_and_no_two_alike(heron):
    for menu in heron.actions_.menus.values():
        letters = [
            text[text.index("&") + 1].lower() for a in menu.actions() if "&" in (text := a.text()) and a.isVisible()
        ]
        assert len(letters) == len(set(letters)), menu.title()
    titles = [menu.title() for menu in heron.actions_.menus.values()]
    assert all("&" in title for title in titles)


def test_a_link_that_is_dropped_is_told_why_not(heron):
    mime = QMimeData()
    mime.setUrls([QUrl("https://example.org/crest.png")])
    drop = QDropEvent(
        QPointF(5, 5), Qt.DropAction.CopyAction, mime, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
    )
    heron.dropEvent(drop)
    assert "is a link" in heron.problem.text()


def test_the_yardstick_belongs_to_its_job(bench, settle, tmp_path):
    bench.files.drop_all([picture(tmp_path / "one.png"), picture(tmp_path / "two.png")])
    settle()
    bench.pin()
    pinned = bench.desk.yardstick
    assert pinned is not None
    bench.files.next_job()
    settle()
    assert bench.desk.yardstick is None
    bench.files.next_job()
    settle()
    assert bench.desk.yardstick is pinned


def test_the_first_picture_is_the_artwork_on_its_garment(bench, tmp_path):
    frames = []
    bench.desk.frame_drawn.connect(lambda frame, _other: frames.append(frame))
    Image.fromarray(badge(400)).save(tmp_path / "big.png")
    bench.files.load_artwork(tmp_path / "big.png")
    as_soon_as(lambda: bool(frames))
    first = frames[0]
    assert not first.is_final
    red = (first.image.astype(int) - (200, 30, 40)).__abs__().max(axis=2) < 12
    assert red.mean() > 0.05


def test_a_long_why_is_shown_whole(heron):
    text = "Words that go on. " * 40
    popover = Popover(heron.rail, label(text, wrap=True))
    shown = popover.findChild(type(label()))
    assert shown.height() >= shown.heightForWidth(shown.width())
    assert popover.height() >= shown.height() + 20
    popover.close()


def test_recent_jobs_open_jobs_help_and_report_are_in_the_menus(heron, settle, tmp_path):
    heron.files.save_to(tmp_path / "kept.swaddon")
    heron.files.show_menus(heron.actions_)
    assert any("kept.swaddon" in action.text() for action in heron.actions_.recent.actions())
    assert len(heron.actions_.open_jobs.actions()) == 1
    for key in ("stations", "shortcuts", "words"):
        heron.actions_.by_key[key].trigger()
    heron.files.exporting.report_to(tmp_path / "page")
    settle()
    assert (tmp_path / "page.html").read_text().startswith("<!doctype html>")


def test_footprint_tells_white_ink_and_both_apart():
    from swaddon.session.pictures import FOOTPRINT_RGB, footprint

    ink, white = np.array([[0, 200, 0, 90]], np.uint8), np.array([[0, 0, 255, 9]], np.uint8)
    assert [tuple(rgb) for rgb in footprint(ink, white)[0].tolist()] == [
        FOOTPRINT_RGB[key] for key in ("nothing", "ink", "white", "both")
    ]


def test_the_table_shows_its_focus(heron):
    from swaddon.ui import theme

    heron.table.setFocus()
    seen = heron.table.grab().toImage().pixelColor(1, heron.table.height() // 2).name()
    assert seen == theme.current().accent
    heron.rail.setFocus()
    heron.setFocus()
    assert heron.table.grab().toImage().pixelColor(1, heron.table.height() // 2).name() != theme.current().accent


@pytest.mark.full_size
def test_a_press_profile_of_ones_own_is_opened_and_told(heron, settle, tmp_path):
    own = tmp_path / "attic.toml"
    text = profiles.shipped("film").source.replace('name = "film"', 'name = "attic"')
    own.write_text(text.replace("Film transfer, one head, two whites", "The attic press"), encoding="utf-8")
    heron.files.open_profile(own)
    settle()
    assert heron.session.job.profile.name == "attic"
    page = heron.pages["order"]
    heron.go_to_station("order")
    assert "The attic press" in page.process_field.effect
    assert page.press.currentText() == "The attic press"
    heron.session.undo()
    settle()
    assert page.press.currentData() == "film"
    assert heron.session.job.profile.name == "film"
    own.write_text("plan_ppi = 1", encoding="utf-8")
    heron.files.open_profile(own)
    assert "wrong value" in heron.problem.text()


def test_a_press_profile_that_the_shop_has_changed_since_is_told_and_taken_by_pressing_it_again(heron, settle):
    older = profiles.shipped("film").source.replace("W = 27.0", "W = 19.0")
    heron.apply(edits.set_profile(profiles.parse(older, "film.toml")))
    settle()
    heron.go_to_station("order")
    page = heron.pages["order"]
    assert "as the job was planned" in page.process_field.effect
    page.process.button_for("film").click()
    settle()
    assert heron.session.job.profile == profiles.shipped("film")
    assert not page.process_field.effect


def test_a_process_and_then_one_of_its_presses_are_chosen(heron, settle, qtbot):
    heron.go_to_station("order")
    page = heron.pages["order"]
    page.process.button_for("toner-onepass").click()
    settle()
    names = [page.press.itemData(index) for index in range(page.press.count())]
    assert names == [press.name for press in profiles.presses("toner-onepass")]
    page.press.setFocus()
    qtbot.keyClick(page.press, Qt.Key.Key_Down)
    settle()
    assert heron.session.job.profile.name == names[1]
    assert page.press.currentData() == names[1]
    heron.session.undo()
    settle()
    assert page.press.currentData() == "toner-onepass"


@pytest.mark.parametrize(("process", "lpi"), [("film", 35.0), ("toner-onepass", 27.0), ("decal", 27.0)])
def test_holes_start_with_the_ruling_of_the_process(heron, settle, process, lpi):
    """Common practice, no source: 35 lpi on film, 27 to 30 on toner sheets."""
    heron.apply(edits.set_profile(profiles.shipped(process)))
    settle()
    heron.go_to_station("holes")
    settle()
    heron.pages["holes"].kind.button_for("round").click()
    settle()
    assert heron.session.job.settings.holes.default.lpi == lpi


def test_in_the_lowest_window_every_station_is_whole_on_the_rail(bench):
    """Eleven stations in 540 pixels: no button lies on another, and all are inside the rail."""
    bench.resize(960, 540)
    take_events()
    boxes = [button.geometry() for button in bench.rail.buttons.values()]
    for above, below in itertools.pairwise(boxes):
        assert above.bottom() < below.top()
    assert boxes[-1].bottom() <= bench.rail.height()
    bench.resize(1280, 800)
    take_events()
    assert all(button.height() >= 52 for button in bench.rail.buttons.values())  # icon and word in full
