"""What belongs to one job never enters another's: half-typed weights, names in the mix; scans that come anyhow."""

import os
import shutil

import pytest
from tests.ui.patience import as_soon_as, take_events

from swaddon.session import edits, kept_tests, kept_weighings, shop
from swaddon.session.demo import demo_job


@pytest.fixture
def weigh_in(marble, settle):
    marble.go_to_station("cost")
    marble.pages["cost"].show_part("weigh")
    settle()
    return marble.pages["cost"].weigh_in


def type_weights(weigh_in) -> None:
    weigh_in.sheet.fields["blank_g"].setText("10")
    weigh_in.sheet.fields["printed_g"].setText("12")
    weigh_in.sheet.seconds.setText("33.0")


@pytest.mark.parametrize("change", ["job", "width", "white"])
def test_weights_typed_for_one_print_never_enter_anothers_row_and_come_back(marble, weigh_in, settle, change):
    type_weights(weigh_in)
    if change == "job":
        marble.files.tray.add(demo_job("tag"))
        marble.files.tray.step(1)
    else:
        marble.session.apply(edits.set_width(55.0) if change == "width" else edits.set_white("White", mode="need"))
        weigh_in.add()
        assert weigh_in.rows == (), "the plan is still that of before"
    settle()
    assert weigh_in.sheet.all_typed() == {}
    assert weigh_in.sheet.problem.text().startswith("What was typed is of the print of before")
    if change == "job":
        marble.files.tray.step(1)
    else:
        marble.session.undo()
    settle()
    assert weigh_in.sheet.all_typed() == {"blank_g": "10", "printed_g": "12", "seconds": "33.0"}


def test_the_mix_keeps_the_name_of_what_was_exported(marble, settle, tmp_path):
    """The name was asked for when the files were written: another job opened meanwhile gave it its own."""
    marble.files.exporting.to(tmp_path / "out")
    marble.files.tray.add(demo_job("tag"))
    marble.files.tray.step(1)
    settle()
    (kept,) = shop._MIX.of(shop._mix_file()).prints
    assert kept.name == "Low Orbit Marble League jersey label"


def test_the_strip_ends_with_the_report(marble, settle, tmp_path):
    marble.files.exporting.report_to(tmp_path / "page.html")
    as_soon_as(lambda: "Report written" in marble.problem.text())
    take_events()
    assert not marble.progress.isVisible()
    (tmp_path / "folder.html").mkdir()
    marble.files.exporting.report_to(tmp_path / "folder.html")
    as_soon_as(lambda: "folder.html" in marble.problem.text())
    take_events()
    assert not marble.progress.isVisible()


@pytest.fixture
def watched(marble, settle, tmp_path, monkeypatch):
    """Test print, watching a folder; what is opened is noted instead of read."""
    marble.go_to_station("testprint")
    settle()
    page, opened = marble.pages["testprint"], []
    monkeypatch.setattr(page, "open_scan", lambda path: opened.append(path.name))
    folder = tmp_path / "scans"
    folder.mkdir()
    (folder / "old.png").write_bytes(b"old")
    page.watch_folder(folder)
    return marble, page, folder, opened


def test_every_scan_is_read_in_order_also_by_a_used_name_renamed_or_beside_one_taken_away(watched):
    _, page, folder, opened = watched
    for at, name in enumerate(("b.png", "a.png")):
        (folder / name).write_bytes(b"scan" + bytes([at]))
        os.utime(folder / name, (1000 + at, 1000 + at))
    as_soon_as(lambda: len(opened) == 2)
    assert opened == ["b.png", "a.png"], "in the order in which they came"
    (folder / "b.png").write_bytes(b"another scan of that name")
    (folder / "old.png").write_bytes(b"and one of the old name")
    as_soon_as(lambda: len(opened) == 4)
    assert set(opened[2:]) == {"b.png", "old.png"}
    growing = (folder / "c.png").open("wb")
    for _ in range(6):
        growing.write(b"more")
        growing.flush()
        take_events()
        page._look_into_folder()
    assert len(opened) == 4
    (folder / "c.png").rename(folder / "d.png")
    growing.write(b"last")
    growing.close()
    (folder / "gone.png").write_bytes(b"half")
    page._look_into_folder()
    (folder / "gone.png").unlink()
    as_soon_as(lambda: len(opened) == 5)
    assert opened[-1] == "d.png"
    page._look_into_folder()
    page._look_into_folder()
    assert len(opened) == 5
    assert not page._folder.is_growing


def test_a_watched_folder_that_goes_away_is_told(watched):
    bench, page, folder, _ = watched
    shutil.rmtree(folder)
    as_soon_as(lambda: "is watched no more" in bench.problem.text())
    assert page.watch.text() == "Watch a folder…"
    assert not page._look.isActive()
    folder.mkdir()
    page.watch_folder(folder)
    assert page.watch.text() == "Stop watching"


def test_two_scans_that_come_at_once_are_both_kept(marble, settle, tmp_path):
    """Only the last one was read."""
    from tests.seeds import scanned

    from swaddon.io import profiles
    from swaddon.io.scans import write_scan

    marble.session.apply(edits.set_profile(profiles.shipped("film")))
    marble.go_to_station("testprint")
    settle()
    page = marble.pages["testprint"]
    page.watch_folder(tmp_path)
    write_scan(tmp_path / "one.png", scanned(profiles.shipped("film"), 11, 300.0).pixels, 300)
    (tmp_path / "two.png").write_bytes((tmp_path / "one.png").read_bytes())
    as_soon_as(lambda: len(kept_tests.tests_of("film")) == 2)
    assert {test.source for test in kept_tests.tests_of("film")} == {"one.png", "two.png"}


def test_a_row_that_another_program_weighed_is_not_written_over(marble, weigh_in, settle):
    """The table was written from the copy that was read when the press came to hand."""
    press = marble.session.job.profile.name
    kept_weighings.keep_rows(press, [("elsewhere",) + ("",) * 21])
    type_weights(weigh_in)
    weigh_in.add()
    assert [row[0] for row in kept_weighings.kept_rows(press)] == ["elsewhere", marble.session.job.name]
