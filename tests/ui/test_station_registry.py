"""Every finding belongs to one station, and is told in the format's description."""

import re
from collections import Counter
from pathlib import Path

import swaddon
from swaddon.session.press_state import CODES
from swaddon.ui.station_registry import STATIONS

CODE = re.compile(r'"([a-z]+(?:-[a-z]+)+)"|Finding\(\s*"([a-z]+)"')


def codes_of_the_core() -> set[str]:
    folder = Path(swaddon.__file__).parent / "core" / "findings"
    return {code for file in folder.glob("*.py") for pair in CODE.findall(file.read_text()) for code in pair} - {""}


def test_each_finding_shows_on_the_rail_at_one_station():
    stations = Counter(code for station in STATIONS for code in station.codes)
    assert set(stations) == codes_of_the_core() | CODES
    assert set(stations.values()) == {1}


def test_each_finding_is_listed_in_the_description_of_plan_json():
    text = (Path(__file__).parents[2] / "docs" / "plan-json.md").read_text()
    listed = text[text.index("Codes of findings:") :].split("\n\n")[0]
    assert set(re.findall(r"`([a-z-]+)`", listed)) == codes_of_the_core()
