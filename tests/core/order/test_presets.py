"""Presets: applied twice as once, offered where they suit, and whole again from their files."""

import json
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from tests import settings_at_random as at_random

from swaddon.core.errors import PlanError
from swaddon.core.knockout.settings import Knockout
from swaddon.core.order.presets import PATHS, Preset, kinds_of, merged, offered, preset_of
from swaddon.core.order.settings import PlanSettings
from swaddon.io.preset_file import preset_document, read_preset, shipped_presets, write_preset
from swaddon.session import presets
from swaddon.session.job import Job
from swaddon.session.session import Session
from swaddon.session.setting_words import changes_told

BLACK, NAVY, WHITE, SKY = (20, 20, 22), (31, 41, 68), (252, 252, 250), (150, 192, 226)
SHIPPED = shipped_presets()


def drawn(seed: int) -> PlanSettings:
    return at_random.settings(np.random.default_rng(seed))


@given(st.sampled_from(SHIPPED), st.integers(0, 200))
def test_a_preset_applied_twice_is_applied_once(preset, seed):
    before = drawn(seed)
    once = preset.on(before)
    assert preset.on(once) == once


@given(st.integers(0, 200))
def test_a_preset_changes_only_what_it_names(seed):
    before = drawn(seed)
    for preset in SHIPPED:
        after, named = preset.on(before), {path for path, _ in preset.settings}
        assert all(path in PATHS for path in named)
        for path in set(PATHS) - named:
            room, _, name = path.partition(".")
            one, other = getattr(before, room), getattr(after, room)
            assert (getattr(one, name), name) == (getattr(other, name), name) if name else one == other


def test_four_presets_ship_and_each_suits_its_goods():
    names = [preset.name for preset in SHIPPED]
    assert len(names) == 4
    of = {
        garment: [preset.name for preset in offered(SHIPPED, "film", garment)] for garment in (BLACK, NAVY, WHITE, SKY)
    }
    assert of[BLACK] == [names[2], names[0], names[1]], "what is made for just these goods comes first"
    assert of[NAVY] == names[:2]
    assert of[WHITE] == [names[3]]
    assert of[SKY] == []


def test_a_preset_of_a_process_is_offered_for_that_alone():
    mine = Preset("Mine", processes=("direct",))
    assert offered((mine,), "direct", BLACK) == (mine,)
    assert offered((mine,), "film", BLACK) == ()


def test_knockouts_are_added_and_one_of_the_same_colour_replaced():
    box, cloth = Knockout((255, 255, 255), 4.0), Knockout(None, 2.0)
    assert merged((box, cloth), (Knockout(None, 8.0, "everywhere"),)) == (box, Knockout(None, 8.0, "everywhere"))
    assert merged((), (cloth,)) == (cloth,)


@given(st.integers(0, 200))
def test_what_is_kept_of_a_job_comes_back_from_its_file(tmp_path_factory, seed):
    settings = drawn(seed)
    preset = preset_of(settings, Preset("Mine", "Right on Tuesdays.", ("film",), ("dark",)))
    path = tmp_path_factory.mktemp("p") / "mine.json"
    write_preset(path, preset)
    again = read_preset(path)
    assert again == preset
    fresh = replace(settings, knockouts=())
    assert again.on(fresh).white.mode == settings.white.mode
    assert all(item.reach != "clicked" for item in dict(again.settings)["knockouts"])


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("nothing", "not JSON"),
        ("[1]", "holds no settings"),
        ('{"schema":"swaddon-preset/2","name":"x","settings":{}}', "newer Swaddon (swaddon-preset/2)"),
        ('{"schema":"swaddon-preset/1","settings":{}}', "at name"),
        ('{"schema":"swaddon-preset/1","name":"a/b","settings":{}}', "at name"),
        ('{"schema":"swaddon-preset/1","name":"x","settings":{"garment":"#000000"}}', "“garment” is no setting"),
        ('{"schema":"swaddon-preset/1","name":"x","settings":{"white":{"fixed":[]}}}', "“white.fixed” is no setting"),
        ('{"schema":"swaddon-preset/1","name":"x","settings":{"white":{"choke_mm":9}}}', "white.choke_mm"),
        ('{"schema":"swaddon-preset/1","name":"x","settings":{"white":"solid"}}', "“white” is no setting"),
        ('{"schema":"swaddon-preset/1","name":"x","settings":{},"processes":["lace"]}', "“lace” is none of"),
        ("[" * 100_000, "no preset"),
    ],
)
def test_a_bad_preset_gets_one_sentence(tmp_path: Path, text, says):
    path = tmp_path / "bad.json"
    path.write_text(text)
    with pytest.raises(PlanError) as error:
        read_preset(path)
    assert says in str(error.value)
    assert str(error.value).count(". ") == 0


def test_the_shop_keeps_its_own_and_takes_them_away():
    assert presets.all_presets() == SHIPPED
    mine = replace(SHIPPED[0], why="Ours.")
    presets.keep_preset(mine)
    assert presets.preset_named("dark, solid") == mine, "the shop's takes the place of the shipped one"
    assert len(presets.all_presets()) == 4
    presets.remove_preset(mine)
    assert presets.preset_named("dark, solid") == SHIPPED[0]
    with pytest.raises(PlanError, match="write it in full"):
        presets.preset_named("dark")
    with pytest.raises(PlanError, match="choose one of"):
        presets.preset_named("nosuch")


def test_it_says_what_it_would_change_and_is_one_step_that_undoes():
    session = Session(Job())
    before, preset = session.job, SHIPPED[1]
    told = changes_told(before.settings, preset.on(before.settings))
    assert ("White under colour", "Solid", "By need") in told
    assert ("Holes", "solid", "round 35 lpi, 52.5°, 85 % left") in told
    session.apply(presets.apply_preset(preset))
    assert not session.apply(presets.apply_preset(preset)), "twice changes nothing"
    session.undo()
    assert session.job == before


def test_a_tile_that_is_not_here_is_told_before():
    assert json.dumps(preset_document(SHIPPED[1]))
    screen = replace(dict(SHIPPED[1].settings)["holes.default"], pattern="tile", tile="nosuch")
    with pytest.raises(PlanError, match="tile “nosuch”"):
        presets.check_tiles(Preset("x", settings=(("holes.default", screen),)), Job())


def test_black_goods_are_dark_and_white_goods_light():
    assert kinds_of(BLACK) == ("black", "dark")
    assert kinds_of(WHITE) == ("white", "light")
    assert PlanSettings().garment == (27, 27, 31)
