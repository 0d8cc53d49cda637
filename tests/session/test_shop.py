"""What a shop keeps of each press."""

import json

import pytest
from tests.conftest import artwork, badge

from swaddon.core.errors import PlanError
from swaddon.core.press.lineup import LineUp, factory
from swaddon.io import profiles
from swaddon.session import edits, shop
from swaddon.session.job import ArtworkFile, Job

FILM = profiles.shipped("film")
MINE = LineUp("Winter", ("K", "M", "Y", "C", "W", "W"))


@pytest.fixture(autouse=True)
def own_folder(tmp_path, monkeypatch):
    monkeypatch.setenv("SWADDON_CONFIG", str(tmp_path))


def test_line_ups_are_kept_by_name_and_press():
    shop.keep("film", shop.memory("film").with_lineup(MINE).with_lineup(factory(FILM)))
    shop.keep("direct", shop.Memory("W1"))
    assert shop.memory("film").lineups == (MINE, factory(FILM))
    assert shop.memory("direct").white_name == "W1"
    shop.keep("film", shop.memory("film").without_lineup("Winter"))
    assert shop.memory("film").lineups == (factory(FILM),)
    assert shop.memory("decal") == shop.Memory()


def test_a_damaged_memory_is_as_good_as_none(tmp_path):
    (tmp_path / "presses.json").write_text('{"presses": {"film": {"lineups": [{"name": 3}]}}}')
    assert shop.memory("film") == shop.Memory()


def test_a_line_up_goes_through_its_file(tmp_path):
    path = tmp_path / "winter.json"
    shop.write_lineup(path, MINE, FILM)
    assert shop.read_lineup(path, FILM) == MINE
    assert json.loads(path.read_text())["slots"] == ["K", "M", "Y", "C", "W", "W"]


@pytest.mark.parametrize(
    ("slots", "says"),
    [
        (["C", "M", "Y", "K", "W", "W", "W"], "7 slots, film has 6"),
        (["C", "C", "Y", "K", "W", "W"], "cyan in slot 2 and in slot 1"),
        (["C", "M", "Y", "K", "W", "X"], "slot 6: "),
        ([], "slots: "),
        ("CMYK", "slots: "),
    ],
)
def test_a_wrong_file_is_refused_by_slot(tmp_path, slots, says):
    path = tmp_path / "bad.json"
    path.write_text(json.dumps({"schema": "swaddon-lineup/1", "name": "Bad", "slots": slots}))
    with pytest.raises(PlanError) as refused:
        shop.read_lineup(path, FILM)
    assert says in str(refused.value)
    assert str(refused.value).count(".") <= 3


@pytest.mark.parametrize("content", ["", "[]", "not json", '{"schema": "swaddon-lineup/2"}', "\x00"])
def test_what_is_no_line_up_is_refused_in_a_sentence(tmp_path, content):
    path = tmp_path / "bad.json"
    path.write_text(content)
    with pytest.raises(PlanError, match="no line-up"):
        shop.read_lineup(path, FILM)
    with pytest.raises(PlanError, match="cannot be read"):
        shop.read_lineup(tmp_path / "none.json", FILM)


def test_the_white_is_called_as_the_shop_calls_it_on_that_press():
    shop.keep("direct", shop.Memory("Undercoat"))
    job = edits.set_profile(profiles.shipped("direct")).change(Job(profile=FILM))
    assert job.settings.handover.white_name == "Undercoat"
    assert edits.set_profile(FILM).change(job).settings.handover.white_name == ""


def test_a_new_job_calls_the_white_as_the_shop_does():
    shop.keep("film", shop.Memory("Undercoat"))
    file = ArtworkFile(artwork(badge(60)), b"")
    assert edits.place_artwork(file, FILM).change(Job()).settings.handover.white_name == "Undercoat"
    named = edits.change("handover.white_name", "W9").change(Job(profile=FILM))
    assert edits.place_artwork(file, FILM).change(named).settings.handover.white_name == "W9"
