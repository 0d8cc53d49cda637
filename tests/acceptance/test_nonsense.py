"""Every option of every command with nonsense, drawn from the declarations: done or refused in a line, quickly.

A few values for each option; ``SWADDON_SOAK`` gives all of them to all.
"""

import inspect
import itertools
import os
import time
from pathlib import Path

import pytest
from PIL import Image
from tests.acceptance.test_outputs_of_commands import DECLARED, flag, is_argument
from tests.conftest import badge
from tests.core.inks.test_fitting import cgats

from swaddon.cli import main

NONSENSE = (
    "", "abc", "-1", "0", "nan", "inf", "1e400", "99999999999999999999", "-0", "é\udcff", "../..", "x" * 5000, "🦆",
    "1,2,3", "=1+1", "1e-300", "[]", "{}", "None", "1:2", "12mm", "-5mm", "#12", "%", "1\n2", "0x10", "１２",
    "/dev/null", ".", "a.png", "\0", "a/" * 3000, "j.swaddon", "p/plan.json", "--", "true",
)  # fmt: skip
EACH = len(NONSENSE) if "SWADDON_SOAK" in os.environ else 4
SLOW_S = 20.0

GOOD = {
    "chart": "--out {}.pdf --ppi 300",
    "press": "p --out {}.png --ppi 50",
    "read-chart": "a.png",
    "variants": "a.png --width 20mm",
    "cost": "p/plan.json",
    "supplies": "",
    "weigh": "w.csv",
    "flow": "j.swaddon",
    "quote": "j.swaddon",
    "gang": "j.swaddon",
    "split": "j.swaddon --medium 10x40mm",
    "parts": "a.png",
    "card": "j.swaddon --out {}.pdf",
    "plan": "a.png --width 20mm",
    "fit-inks": "inks.txt --out {}.toml",
    "log find": "",
    "log show": "abcd",
    "log export": "--out {}.csv",
    "log month": "",
    "store backup": "{}.zip",
    "store restore": "b.zip",
}
"""Commands as they do their work, ``{}`` a new name each time, so that only the nonsense can be what is refused."""

OPENS_A_WINDOW = "bench"


def ended(arguments: list[str]) -> int:
    with pytest.raises(SystemExit) as told:
        main(arguments)
    return int(told.value.code or 0)


@pytest.fixture
def shop(tmp_path, monkeypatch) -> Path:
    """A folder with something for each command, in which it runs."""
    monkeypatch.chdir(tmp_path)
    Image.fromarray(badge(60)).save("a.png")
    for made in (
        "plan a.png --width 20mm --save-job j.swaddon",
        "plan a.png --width 20mm --out p",
        "store backup b.zip",
    ):
        assert ended(made.split()) == 0
    assert ended(["weigh", "--routine", "w.csv"]) == 0
    patches = [[*(100.0 if at == ink else 0.0 for at in range(4)), 60.0 + ink, 10.0 * ink, -5.0] for ink in range(4)]
    Path("inks.txt").write_text(cgats("CMYK_C CMYK_M CMYK_Y CMYK_K LAB_L LAB_A LAB_B", patches))
    return tmp_path


def test_every_command_with_parameters_is_tried():
    assert {" ".join(command) for command, parameters in DECLARED.items() if parameters} - {OPENS_A_WINDOW} == set(GOOD)


def with_value(command: str, name: str, parameter: inspect.Parameter, value: str, new: str) -> list[str]:
    """The command as it does its work, but for one option or argument."""
    given = [word.format(new) for word in GOOD[command].split()]
    if is_argument(parameter):
        rest = given[1:] if given and not given[0].startswith("--") else given
        return [*command.split(), *rest, "--", value]
    if flag(name) in given:
        at = given.index(flag(name))
        return [*command.split(), *given[:at], *given[at + 2 :], f"{flag(name)}={value}"]
    return [*command.split(), *given, f"{flag(name)}={value}"]


@pytest.mark.parametrize("command", GOOD)
def test_nonsense_is_done_or_refused_in_a_line(command, shop, capsys):
    values, numbers = itertools.cycle(NONSENSE), itertools.count()
    wrong = []
    for name, parameter in DECLARED[tuple(command.split())].items():
        if "bool" in str(parameter.annotation):
            continue
        for value in itertools.islice(values, EACH):
            begun = time.monotonic()
            capsys.readouterr()
            code = ended(with_value(command, name, parameter, value, f"o{next(numbers)}"))
            told = capsys.readouterr().err
            refused = [line for line in told.splitlines() if not line.startswith("The press profile")]
            if code not in (0, 1, 2) or "Traceback" in told or (code == 2 and len(refused) != 1):
                wrong.append((name, ascii(value)[:20], code, ascii(told[-300:])))
            if time.monotonic() - begun > SLOW_S:
                wrong.append((name, ascii(value)[:20], "slow", f"{time.monotonic() - begun:.0f} s"))
    assert wrong == []
