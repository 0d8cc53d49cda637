"""A process is one row and one profile: an invented one is added, chosen, planned, told and exported."""

import json
from pathlib import Path

import pytest
from PIL import Image
from tests.conftest import artwork, badge
from typer.testing import CliRunner

from swaddon.cli import app
from swaddon.core.errors import PlanError
from swaddon.core.order.settings import PlanSettings
from swaddon.core.plan.report import plan_report
from swaddon.core.plan.stages import Plan, make_plan
from swaddon.core.press.processes import PROCESSES, Process, Step
from swaddon.core.press.profile import PressProfile
from swaddon.core.white.settings import WhiteSettings
from swaddon.io import profiles
from swaddon.session.job import request_for

STAMPED = Process(
    "stamped", "Stamped foil", "stamping from a foil", "sheet", "toner", flips=True, steps=(Step("Stamp the foil"),),
    fades="screen", thin_ink_fails=True,
)  # fmt: skip


def profile_text() -> str:
    text = (profiles.FOLDER / "film.toml").read_text(encoding="utf-8")
    return text.replace('process = "film"', 'process = "stamped"').replace('name = "film"', 'name = "stamped"')


@pytest.fixture
def press(monkeypatch: pytest.MonkeyPatch, tmp_path: Path) -> PressProfile:
    """One row, and one file beside the shipped ones."""
    for file in profiles.FOLDER.iterdir():
        if file.name.endswith(".toml"):
            (tmp_path / file.name).write_text(file.read_text(encoding="utf-8"), encoding="utf-8")
    (tmp_path / "stamped.toml").write_text(profile_text(), encoding="utf-8")
    monkeypatch.setitem(PROCESSES, STAMPED.key, STAMPED)
    monkeypatch.setattr(profiles, "FOLDER", tmp_path)
    return profiles.load("stamped")


@pytest.fixture
def plan(press: PressProfile, compiled: None) -> Plan:
    faded = badge()
    faded[40:60, 20:80, 3] = 120
    return make_plan(request_for(artwork(faded), PlanSettings(width_mm=25.4, white=WhiteSettings()), press))


def test_its_fades_are_treated_as_its_row_says(plan):
    assert plan.treated.tone is not None
    assert plan.request.profile.medium == "sheet"
    assert plan.request.profile.ink_name == "toner"


def test_it_is_told_in_plan_json_and_offered_with_the_others(plan):
    assert plan_report(plan)["process"] == "stamped"
    assert list(PROCESSES)[-1] == "stamped"
    assert profiles.presses("stamped") == (plan.request.press,)


def test_the_command_line_takes_it(press, tmp_path):
    Image.fromarray(badge()).save(tmp_path / "badge.png")
    out = tmp_path / "out"
    result = CliRunner().invoke(
        app, ["plan", str(tmp_path / "badge.png"), "--process", "stamped", "--width", "25.4mm", "--out", str(out)]
    )
    assert result.exit_code == 0, result.output
    assert json.loads((out / "plan.json").read_text())["process"] == "stamped"


def test_a_profile_of_a_process_that_has_no_row_is_refused():
    with pytest.raises(PlanError, match=r"process.*not one of film, direct"):
        profiles.parse(profile_text(), "stamped.toml")
