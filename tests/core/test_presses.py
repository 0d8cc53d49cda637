"""Presses as data: toner sets that bleed differently, and a press without black."""

from dataclasses import replace

import numpy as np
import pytest
from tests.conftest import badge

from swaddon.core.errors import PlanError
from swaddon.core.order.handover import HandOver
from swaddon.core.plan.report_inks import channels, stack
from swaddon.core.plan.stages import make_plan
from swaddon.core.press.processes import PROCESSES
from swaddon.core.white.settings import WhiteSettings
from swaddon.io import export, handover, profiles
from swaddon.io.separations import spot_names
from swaddon.io.spot_pdf import colorants
from swaddon.session.job import request_for

BLACK_AND_COLOURS = [(0, 0, 0), (200, 30, 40), (40, 60, 160), (30, 120, 60), (240, 200, 40)]


def patches(colours):
    art = np.zeros((60, 60 * len(colours), 4), np.uint8)
    for index, rgb in enumerate(colours):
        art[:, 60 * index : 60 * (index + 1)] = (*rgb, 255)
    return art


def middle(plane):
    return [int(plane[30, 30 + 60 * index]) for index in range(plane.shape[1] // 60)]


@pytest.mark.parametrize("process", PROCESSES)
def test_every_process_has_a_press_of_its_name_first(process):
    assert profiles.presses(process)[0].name == process


def test_three_toner_sets_push_white_through_by_their_own_measure(make):
    art = patches(BLACK_AND_COLOURS)
    told = {}
    for name in ("toner-onepass", "toner-gloss", "toner-wide"):
        plan = make(art, process=name, white=WhiteSettings("limit", 400.0))
        told[name] = {finding.code for finding in plan.findings}
    assert "toner-push-through" in told["toner-onepass"]
    assert "toner-push-through" not in told["toner-wide"]
    shares = [profiles.shipped(name).white.bleed_share for name in told]
    assert shares == sorted(shares, reverse=True)
    assert shares[-1] == 0


def test_a_press_without_black_makes_it_of_the_others(make):
    plan = make(patches(BLACK_AND_COLOURS), process="toner-no-black")
    assert not plan.cmyk[..., 3].any()
    assert plan.cmyk[30, 30, :3].min() > 240
    assert [entry["ink"] for entry in channels(plan)] == ["C", "M", "Y", "W"]
    assert plan.request.profile.inks == ("C", "M", "Y")
    dark = min(plan.request.profile.separation.primaries().mean(axis=1))
    assert dark > min(profiles.shipped("toner-onepass").separation.primaries().mean(axis=1)), "a weaker black"


def test_without_black_a_limit_of_280_leaves_black_alone_bare(make):
    """Common practice, no source: 280 % is all but black."""
    plan = make(patches(BLACK_AND_COLOURS), process="toner-no-black", white=WhiteSettings("limit", 280.0, choke_mm=0.0))
    white = middle(plan.white_plane)
    assert white[0] == 0
    assert min(white[1:]) > 250


def test_without_black_no_plate_of_it_is_written(make, tmp_path):
    files = export.export_plan(make(badge(), process="toner-no-black"), tmp_path / "out")
    assert "K.png" not in {path.name for path in files}
    export.export_plan(make(badge(), process="toner-onepass"), tmp_path / "out")
    assert (tmp_path / "out" / "K.png").is_file()
    export.export_plan(make(badge(), process="toner-no-black"), tmp_path / "out")
    assert not (tmp_path / "out" / "K.png").exists(), "no plate of another plan stays beside"


def test_black_that_no_slot_holds_cannot_be_asked_for():
    text = profiles.shipped("toner-no-black").source
    with pytest.raises(PlanError, match="black_strength must be 0: no slot holds K"):
        profiles.parse(text.replace("black_strength = 0", "black_strength = 0.5"), "own.toml")
    with pytest.raises(PlanError, match="each of C, M and Y once"):
        profiles.parse(text.replace('ink = "Y"', 'ink = "M"'), "own.toml")


def test_black_counts_nothing_where_there_is_none(make):
    art = badge()
    with_black, without = (make(art, process=name) for name in ("toner-onepass", "toner-no-black"))
    amounts = {entry["ink"]: entry["amount"] for entry in channels(without)}
    assert sum(amounts[ink] for ink in "CMY") == pytest.approx(
        next(line.amount for line in without.materials if line.kind == "colour"), abs=1e-3
    )
    assert with_black.request.profile.has_black
    assert replace(without.request.press).lay_down_per_m2["K"] == 0.0


# a press without white


@pytest.fixture
def bare(make):
    """A function: a plan on the press that has no white."""

    def build(**settings):
        press = profiles.shipped("toner-colour")
        made = make(badge(), process=press, **settings)
        return make_plan(request_for(made.request.artwork, made.request.settings, press))

    return build


def test_a_press_without_white_prints_none_whatever_is_asked(bare):
    plan = bare(garment=(250, 250, 248), white=WhiteSettings("solid", design=True, whole_sheet=True))
    assert not plan.white_plane.any()
    assert plan.measures.white_px == 0
    assert {entry["ink"] for entry in channels(plan)} == {"C", "M", "Y", "K"}
    assert stack(plan.request.profile) == ["garment", "K", "Y", "M", "C"]
    assert "white" not in {line.kind for line in plan.materials}
    assert not [finding for finding in plan.findings if finding.severity == "stop"]


def test_on_anything_but_white_it_stops_and_offers_no_white(bare):
    found = {finding.code: finding for finding in bare(garment=(27, 27, 31)).findings}
    assert found["white-off-dark"].severity == "stop"
    assert "has no white: choose one that has" in found["white-off-dark"].text
    assert found["white-off-dark"].fix is None
    assert found["design-white-missing"].fix is None


def test_it_hands_over_no_white(bare, tmp_path):
    for kind, name in (("pdf", "pdf"), ("tiff", "tif"), ("png", "png"), ("layers", "ora")):
        plan = bare(garment=(250, 250, 248), handover=HandOver(kind))
        names = {path.name for path in export.export_plan(plan, tmp_path / kind)}
        assert f"print-mirrored.{name}" in names
        assert not any("white" in item for item in names)
        assert dict(handover.card(plan).lines)["White"].startswith("none") or kind == "layers"
    assert spot_names(tmp_path / "tiff" / "separations.tif") == []
    assert colorants(tmp_path / "pdf" / "print-mirrored.pdf") == {}


def test_slots_that_hold_highlight_white_alone_are_refused():
    text = profiles.shipped("direct-highlight").source
    text = text.replace('[[slots]]\nink = "W"\n', "").replace('"white", ', "")
    with pytest.raises(PlanError, match="no white under it"):
        profiles.parse(text, "own.toml")
