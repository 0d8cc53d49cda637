"""Test prints that were read, kept per press: what each told, and whether its constants were taken."""

import datetime
from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path
from typing import Annotated, Any, Literal

from pydantic import Field

from swaddon.io.settings_file import Strict
from swaddon.session.folders import config_folder
from swaddon.session.kept import of_model

_MOST_TESTS = 200
DEFAULT_DAYS = 60
"""How long a test print holds, where the shop says nothing else (assumed)."""


@dataclass(frozen=True)
class KeptTest:
    """One test print.

    Attributes
    ----------
    day
        When it was read, ISO 8601.
    source
        Name of the scan, or “by eye”.
    reading
        What it told, as ``core.testprint.reading.told`` says it.
    """

    day: str
    source: str
    reading: dict[str, Any]

    @property
    def date(self) -> datetime.date:
        return datetime.date.fromisoformat(self.day)

    @property
    def is_whole(self) -> bool:
        return bool(self.reading.get("is_whole"))


class _Entry(Strict):
    day: Annotated[str, Field(pattern=r"^\d{4}-\d\d-\d\d$")]
    source: Annotated[str, Field(max_length=300)]
    reading: dict[str, Any]


class _Press(Strict):
    days: Annotated[int, Field(ge=1, le=3650)] = DEFAULT_DAYS
    tests: list[_Entry] = Field(default_factory=list)


class _File(Strict):
    schema_: Literal["swaddon-tests/1"] = Field("swaddon-tests/1", alias="schema")
    presses: dict[str, _Press] = Field(default_factory=dict)


def _file() -> Path:
    return config_folder() / "tests.json"


_TESTS = of_model(_File, "The shop’s test prints", "none is known")


def tests_of(press: str) -> tuple[KeptTest, ...]:
    """Tests of a press by its name, oldest first."""
    held = _TESTS.of(_file()).presses.get(press)
    if held is None:
        return ()
    out = []
    for entry in held.tests:
        with suppress(ValueError):
            datetime.date.fromisoformat(entry.day)
            out.append(KeptTest(entry.day, entry.source, entry.reading))
    return tuple(out)


def keep_test(press: str, test: KeptTest) -> None:
    """Put a test to those of its press."""
    entry = _Entry(day=test.day, source=test.source[:300], reading=test.reading)

    def added(held: _File) -> _File:
        own = held.presses.get(press, _Press())
        own = own.model_copy(update={"tests": [*own.tests, entry][-_MOST_TESTS:]})
        return held.model_copy(update={"presses": {**held.presses, press: own}})

    _TESTS.change(_file(), added)


def days_of(press: str) -> int:
    """How many days a test of a press holds."""
    held = _TESTS.of(_file()).presses.get(press)
    return DEFAULT_DAYS if held is None else held.days


def keep_days(press: str, days: int) -> None:
    """Let tests of a press hold so many days."""

    def changed(held: _File) -> _File:
        own = held.presses.get(press, _Press()).model_copy(update={"days": min(max(days, 1), 3650)})
        return held.model_copy(update={"presses": {**held.presses, press: own}})

    _TESTS.change(_file(), changed)
