"""Selecting regions, typed treatments, region files, and the tray of open jobs."""

import json
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from tests.conftest import artwork, badge

from swaddon.core.artwork.placement import Placement
from swaddon.core.artwork.regions import find_regions
from swaddon.core.errors import PlanError
from swaddon.core.holes.settings import HoleSettings, RegionRule, Screen
from swaddon.core.knockout.settings import AlphaTreatment, Keep, Knockout
from swaddon.core.order.settings import PlanSettings
from swaddon.session import edits, parse, region_file
from swaddon.session.job import ArtworkFile, Job
from swaddon.session.selection import Selection, artboard_point, artwork_point, larger_than, outlines
from swaddon.session.session import Session
from swaddon.session.tray import Tray


@pytest.fixture
def found(compiled):
    return find_regions(badge())


def test_clicks_take_join_and_leave(found):
    first, second = found.regions[:2]
    one = Selection().clicked(first, add=False)
    assert one.numbers == (first.number,)
    two = one.clicked(second, add=True)
    assert two.numbers == (first.number, second.number)
    assert two.clicked(first, add=True).numbers == (second.number,)
    assert two.clicked(None, add=False) == Selection()
    assert two.clicked(None, add=True) == two


def test_the_walk_goes_by_size_round_and_round(found):
    sizes, walk = [], Selection()
    for _ in range(len(found.regions) + 1):
        walk = walk.stepped(found, 1)
        sizes.append(walk.last(found).area_px)
    assert sizes[:-1] == sorted(sizes[:-1], reverse=True)
    assert sizes[-1] == sizes[0]
    assert Selection().stepped(found, -1).last(found).area_px == min(sizes)


def test_all_of_a_colour_becomes_a_rule_by_colour_and_others_by_point(found):
    red = found.at(150, 60)
    assert red is not None
    chosen = Selection().clicked(red, add=False).of_this_colour(found)
    assert red.number in chosen.numbers
    assert chosen.whole_colour
    assert chosen.rule(found, None) == RegionRule(None, colour=found.regions[chosen.numbers[-1] - 1].colour)
    single = Selection((red.number,))
    assert single.rule(found, Screen()).points == (red.anchor,)
    settings = HoleSettings(Screen("line"), (single.rule(found, None),))
    assert single.screen(found, settings) is None
    assert Selection((found.at(150, 150).number,)).screen(found, settings) == Screen("line")


def test_larger_than_counts_square_millimetres(found):
    mm = 25.4 / 300
    every = larger_than(found, 0.0, mm)
    assert len(every.numbers) == len(found.regions)
    some = larger_than(found, 100.0, mm)
    assert all(found.regions[number - 1].area_px * mm * mm > 100 for number in some.numbers)


def test_outlines_lie_round_their_region_on_the_artboard(found):
    settings = PlanSettings(width_mm=50.8, placement=Placement(None, 1))
    bar = found.at(150, 150)
    (line,) = outlines(found, Selection((bar.number,)), settings, (300, 300), 50.8)
    left, top, right, bottom = bar.box
    turned = [artboard_point(p, settings, (300, 300), 50.8) for p in ((left, top), (right, bottom))]
    xs, ys = sorted(p[0] for p in turned), sorted(p[1] for p in turned)
    np.testing.assert_allclose([line[:, 0].min(), line[:, 0].max()], xs, atol=0.3)
    np.testing.assert_allclose([line[:, 1].min(), line[:, 1].max()], ys, atol=0.3)
    assert artwork_point(*artboard_point((40.0, 70.0), settings, (300, 300), 50.8), settings, (300, 300), 50.8) == (
        pytest.approx((40.0, 70.0))
    )
    assert artwork_point(-1, 5, settings, (300, 300), 50.8) is None


@pytest.mark.parametrize(
    ("text", "value"),
    [
        ("solid", None),
        ("round:35:52.5:0.85", Screen("round", 35, 52.5, 0.85)),
        ("line:20:72:0.7:0.9", Screen("line", 20, 72, 0.7, 0.9)),
        ("tile:grit:12mm:0", Screen("tile", angle=0, share=None, tile="grit", tile_mm=12)),
        ("tile:dots:1in:45:0.6", Screen("tile", angle=45, share=0.6, tile="dots", tile_mm=25.4)),
    ],
)
def test_treatments_are_typed(text, value):
    assert parse.screen(text, "--holes") == value


def test_knockouts_keeps_and_fades_are_typed():
    assert parse.knockout("clicked:#ffffff:8@12,30@4,5") == Knockout(
        (255, 255, 255), 8, "clicked", "soft", ((12.0, 30.0), (4.0, 5.0))
    )
    assert parse.knockout("outside:garment:6:hard:clean") == Knockout(None, 6, "outside", "hard", clean=True)
    assert parse.keep("#ffffff:5@1,2") == Keep((255, 255, 255), 5, (1.0, 2.0))
    assert parse.alpha("screen:30:67.5:haze:0.1") == AlphaTreatment(
        "screen", screen=Screen("round", 30, 67.5), haze_below=0.1
    )
    assert parse.crop("1,2,30,40") == (1, 2, 30, 40)


@pytest.mark.parametrize(
    ("read", "text"),
    [
        (lambda t: parse.screen(t, "--holes"), "round:35"),
        (lambda t: parse.screen(t, "--holes"), "round:900:0:0.5"),
        (lambda t: parse.screen(t, "--holes"), "stars:35:0:0.5"),
        (lambda t: parse.screen(t, "--holes"), "tile:grit:12kg:0"),
        (parse.knockout, "clicked:#ffffff:8"),
        (parse.knockout, "outside:#ffffff:8@a,b"),
        (parse.keep, "#ffffff:500"),
        (parse.alpha, "screen:35"),
        (parse.alpha, "hard:0.5:haze:2"),
        (parse.crop, "5,5,4,9"),
    ],
)
def test_what_cannot_be_read_is_refused_with_what_could(read, text):
    with pytest.raises(ValueError, match=r"“|outside|needs|empty"):
        read(text)


def test_a_region_file_names_places_and_colours(tmp_path: Path):
    path = tmp_path / "regions.json"
    entries = [
        {"colour": "#c81e28", "treatment": "solid"},
        {"at_px": [10, 20], "treatment": "line:20:72:0.7"},
        {"at_mm": [12.7, 12.7], "treatment": {"pattern": "round", "lpi": 30}},
    ]
    path.write_text(json.dumps(entries))
    rules = region_file.read_rules(path, artwork(badge()), PlanSettings(width_mm=25.4))
    assert rules[0] == RegionRule(None, colour=(200, 30, 40))
    assert rules[1].points == ((10.0, 20.0),)
    assert rules[2].points[0] == pytest.approx((150, 150))
    assert rules[2].screen == Screen("round", 30)


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("{", "not JSON"),
        ("{}", "a list"),
        ('[{"treatment": "solid"}]', "just one of"),
        ('[{"colour": "#000000", "at_px": [1, 2], "treatment": "solid"}]', "just one of"),
        ('[{"at_px": "here", "treatment": "solid"}]', "needs a place"),
        ('[{"at_px": [1, 2], "treatment": {"pattern": "stars"}}]', "wrong value at pattern"),
        ('[{"at_px": [1, 2]}]', "and treatment"),
    ],
)
def test_a_bad_region_file_is_refused_with_the_entry(tmp_path: Path, text, says):
    path = tmp_path / "regions.json"
    path.write_text(text)
    with pytest.raises(ValueError, match=says):
        region_file.read_rules(path, artwork(badge()), PlanSettings())


def job(name: str) -> Job:
    return Job(name, ArtworkFile(artwork(badge(), content_id=name), b""))


def test_the_tray_keeps_each_jobs_history():
    session = Session(job("one"))
    tray = Tray(session)
    tray.add(job("two"))
    session.apply(edits.set_width(111))
    tray.switch(1)
    assert session.job.name == "two"
    assert session.undo_label is None
    tray.step(1)
    assert session.job.settings.width_mm == 111
    session.undo()
    assert session.job == job_like(session, "one")
    assert tray.titles()[1] == "two •"
    assert 1 in tray.unsaved()
    tray.close()
    assert len(tray) == 1
    assert session.job.name == "two"


def job_like(session: Session, name: str) -> Job:
    return replace(session.job, name=name, settings=PlanSettings())


def test_crop_and_turn_keep_the_scale_of_the_print():
    session = Session(Job("x", ArtworkFile(artwork(np.full((100, 200, 4), 255, np.uint8)), b"")))
    session.apply(edits.set_width(200))
    session.apply(edits.crop((50, 0, 150, 100)))
    assert session.job.settings.width_mm == 100
    session.apply(edits.crop((0, 0, 200, 50)))
    assert (session.job.settings.width_mm, session.job.height_mm) == (200, 50)
    session.apply(edits.turn())
    assert (session.job.settings.width_mm, session.job.height_mm) == (50, 200)
    for _ in range(3):
        session.undo()
    assert session.job.settings.placement == Placement()
    assert session.job.settings.width_mm == 200


def test_a_missing_tile_is_refused_with_those_there_are(tmp_path: Path, badge_file):
    from swaddon.session import ordering

    order = ordering.Order(badge_file, holes="tile:none:9:0")
    with pytest.raises((ValueError, PlanError), match="choose one of"):
        ordering.request(order, lambda: None)
    cropped = ordering.Order(badge_file, crop="content", height="50mm")
    request = ordering.request(cropped, lambda: None)
    assert request.height_mm == pytest.approx(50)
    assert request.settings.placement.crop is not None


def test_a_choke_that_hides_all_white_leaves_a_press_without_white_as_it_is(badge_file):
    from swaddon.session import ordering

    asked = ordering.Order(badge_file, width="1in", profile="toner-colour")
    hidden = ordering.request(replace(asked, choke="no-peek"), lambda: None)
    assert hidden.settings.white.mode == ordering.request(asked, lambda: None).settings.white.mode == "none"
