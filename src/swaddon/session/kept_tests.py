"""Test prints that were read, kept per press: what each told, and whether its constants were taken.

A file that cannot be read is as good as none; a full disk must not stop the work.
"""

import datetime
import json
from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path
from typing import Annotated, Any

from pydantic import Field

from swaddon.io.settings_file import Strict
from swaddon.io.whole import whole_file
from swaddon.session.preferences import config_folder

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
    presses: dict[str, _Press] = Field(default_factory=dict)


def _file() -> Path:
    return config_folder() / "tests.json"


def _all() -> _File:
    try:
        return _File.model_validate_json(_file().read_bytes())
    except (OSError, ValueError):
        return _File()


def _store(held: _File) -> None:
    with suppress(OSError):
        config_folder().mkdir(parents=True, exist_ok=True)
        with whole_file(_file()) as file:
            file.write(json.dumps(held.model_dump(mode="json"), indent=1, ensure_ascii=False).encode("utf-8"))


def tests_of(press: str) -> tuple[KeptTest, ...]:
    """Tests of a press by its name, oldest first."""
    held = _all().presses.get(press)
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
    held = _all()
    own = held.presses.setdefault(press, _Press())
    own.tests = [*own.tests, _Entry(day=test.day, source=test.source[:300], reading=test.reading)][-_MOST_TESTS:]
    _store(held)


def days_of(press: str) -> int:
    """How many days a test of a press holds."""
    held = _all().presses.get(press)
    return DEFAULT_DAYS if held is None else held.days


def keep_days(press: str, days: int) -> None:
    """Let tests of a press hold so many days."""
    held = _all()
    held.presses.setdefault(press, _Press()).days = min(max(days, 1), 3650)
    _store(held)
