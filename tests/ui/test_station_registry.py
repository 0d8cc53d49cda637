"""Every finding belongs to one station, and is told in the format's description."""

import re
from collections import Counter
from pathlib import Path

import swaddon
from swaddon.session.press_state import CODES
from swaddon.ui.station_registry import STATIONS

CODE = re.compile(r'"([a-z]+(?:-[a-z]+)+)"|Finding\(\s*"([a-z]+)"')


FOLDER = Path(swaddon.__file__).parent / "core" / "findings"
DOCS = Path(__file__).parents[2] / "docs"


def codes_of(*files: Path) -> set[str]:
    return {code for file in files for pair in CODE.findall(file.read_text()) for code in pair} - {""}


def codes_of_the_core() -> set[str]:
    return codes_of(*FOLDER.glob("*.py"))


def test_each_finding_shows_on_the_rail_at_one_station():
    stations = Counter(code for station in STATIONS for code in station.codes)
    assert set(stations) == codes_of_the_core() | CODES
    assert set(stations.values()) == {1}


def test_each_finding_is_listed_in_the_description_of_plan_json():
    """Those of sheets and of the press, which no plan has, are told in pages of their own."""
    of_sheets, of_the_press = codes_of(FOLDER / "sheets.py"), codes_of(FOLDER / "press.py")
    assert listed_in("plan-json.md") == codes_of_the_core() - of_sheets - of_the_press
    assert listed_in("sheets.md") == of_sheets
    assert listed_in("log.md") == of_the_press


def listed_in(name: str) -> set[str]:
    text = (DOCS / name).read_text()
    listed = text[text.index("Codes of findings:") :].split("\n\n")[0]
    return set(re.findall(r"`([a-z-]+)`", listed))
