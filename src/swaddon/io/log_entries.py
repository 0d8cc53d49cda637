"""Entries of the log book as JSON text; those of another bench are checked like any file from outside."""

from functools import cache
from typing import Any

from pydantic import TypeAdapter, ValidationError

from swaddon.core.errors import PlanError
from swaddon.core.log.entry import Entry
from swaddon.io.settings_file import model_of, value_of


@cache
def _adapter() -> TypeAdapter[Any]:
    return TypeAdapter(model_of(Entry))


def read_entry(text: str | bytes) -> Entry:
    """An entry of its JSON text.

    Raises
    ------
    PlanError
        One sentence: which value is wrong.
    """
    try:
        entry: Entry = value_of(Entry, _adapter().validate_json(text))
    except ValidationError as error:
        first = error.errors()[0]
        place = ".".join(str(part) for part in first["loc"]) or "its start"
        raise PlanError(f"An entry of the log book has a wrong value at {place}: {first['msg']}.") from error
    return entry
