"""Entries of the log book as JSON text; those of another bench are checked like any file from outside."""

import json
from functools import cache
from typing import Any

from pydantic import TypeAdapter, ValidationError

from swaddon.core.errors import PlanError
from swaddon.core.log.entry import Entry
from swaddon.core.schema import document
from swaddon.io.settings_file import model_of, value_of


@cache
def _adapter() -> TypeAdapter[Any]:
    return TypeAdapter(model_of(Entry))


def read_entry(text: str | bytes) -> Entry:
    """An entry of its JSON text; fields that a newer bench wrote and this one does not know are left out.

    Raises
    ------
    PlanError
        One sentence: which value is wrong.
    """
    try:
        model = _adapter().validate_json(text)
    except ValidationError as error:
        model = _known_part(text, error)
    entry: Entry = value_of(Entry, model)
    return entry


def _known_part(text: str | bytes, error: ValidationError) -> Any:
    """A newer bench's entry without the fields that are not known here; raises what else is wrong."""
    unknown = [item["loc"] for item in error.errors() if item["type"] == "extra_forbidden"]
    if unknown:
        document = json.loads(text)
        for *way, name in unknown:
            part = document
            for step in way:
                part = part[step]
            part.pop(name, None)
        try:
            return _adapter().validate_python(document)
        except ValidationError as second:
            error = second
    first = error.errors()[0]
    place = ".".join(str(part) for part in first["loc"]) or "its start"
    raise PlanError(f"An entry of the log book has a wrong value at {place}: {first['msg']}.") from error


def entry_text(entry: Entry) -> str:
    """An entry as its JSON text."""
    return json.dumps(document(entry), ensure_ascii=False, separators=(",", ":"))
