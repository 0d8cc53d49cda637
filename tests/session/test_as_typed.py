"""Settings as they are typed lead back to the same settings, and variants to the same plans."""

import json
from decimal import Decimal

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import Image
from tests.conftest import badge

from swaddon.cli import main
from swaddon.core.holes.settings import Screen
from swaddon.core.knockout.settings import Knockout
from swaddon.session import as_typed, parse

RGB = st.tuples(*[st.integers(0, 255)] * 3)
PLACES = st.lists(st.tuples(st.floats(0, 9000), st.floats(0, 9000)), max_size=3).map(tuple)
SHARE = st.floats(0, 1)


@given(
    item=st.builds(
        Knockout, st.none() | RGB, st.floats(0, 60), st.sampled_from(["outside", "everywhere"]),
        st.sampled_from(["soft", "hard"]), PLACES, st.booleans(),
    )
)  # fmt: skip
@settings(max_examples=100, deadline=None)
def test_a_knockout_is_typed_and_read_back(item):
    assert parse.knockout(as_typed.knockout(item)) == item


@given(
    item=st.none()
    | st.builds(
        Screen, st.sampled_from(["round", "inverted", "line"]), st.floats(5, 100), st.floats(0, 180), SHARE, SHARE
    )
    | st.builds(
        lambda name, width, angle, share: Screen("tile", angle=angle, share=share, tile=name, tile_mm=width),
        st.sampled_from(["grit", "my own"]), st.floats(0.5, 500), st.floats(0, 180), st.none() | SHARE,
    )
)  # fmt: skip
@settings(max_examples=100, deadline=None)
def test_holes_are_typed_and_read_back(item):
    typed = as_typed.screen(item)
    if item is not None and item.pattern == "tile":
        read = parse.screen(typed, "--holes")
        assert (read.tile, read.angle, read.share) == (item.tile, item.angle, item.share)
        assert read.tile_mm == pytest.approx(item.tile_mm, rel=1e-12)
    else:
        assert parse.screen(typed, "--holes") == item


@pytest.mark.parametrize("text", ["none", "highlight", "solid", "only", "limit:280", "need:3", "need:2.5"])
def test_white_is_typed_and_read_back(text):
    assert as_typed.white(parse.white(text)) == text


def ran(capsys, *arguments: str) -> object:
    with pytest.raises(SystemExit) as ended:
        main(list(arguments))
    assert ended.value.code == 0
    return json.loads(capsys.readouterr().out)


def test_each_variant_of_the_report_is_planned_from_its_options(tmp_path, capsys, compiled):
    """``variants.json`` told knockouts and holes in words that no option takes."""
    art = str(tmp_path / "badge.png")
    Image.fromarray(badge()).save(art)
    axes = ["--garment", "black,#dddde4", "--white", "solid,need:3", "--process", "film,direct"]
    axes += ["--knockout", "none,outside:#c81e28:6:hard+everywhere:garment:5", "--holes", "solid,round:25:45:0.7"]
    found = ran(capsys, "variants", art, "--width", "25mm", *axes, "--json")
    assert len(found) == 32
    for entry in found[::7]:
        given = []
        for flag, value in entry["options"].items():
            given += [part for text in ([value] if isinstance(value, str) else value) for part in (flag, text)]
        plan = ran(capsys, "plan", art, "--width", "25mm", *given, "--json")
        cost = sum((Decimal(item["cost_exact"]) for item in plan["materials"]), Decimal(0))
        assert float(cost) == pytest.approx(float(entry["cost"]), rel=1e-9), entry["options"]
