"""Presets as JSON files."""

import json
from functools import cache
from importlib import resources
from pathlib import Path
from typing import Annotated, Any, Literal

from pydantic import AfterValidator, Field, ValidationError

from swaddon.core.errors import PlanError
from swaddon.core.order.lines import at_path
from swaddon.core.order.presets import PATHS, GoodsKind, Preset
from swaddon.core.order.settings import PlanSettings
from swaddon.core.press.processes import PROCESSES
from swaddon.core.schema import document as document_of
from swaddon.io.names import shown
from swaddon.io.outputs import output_file
from swaddon.io.profiles import reason
from swaddon.io.settings_file import Strict, model_of, value_of

SCHEMA = "swaddon-preset/1"
_KIND = "swaddon-preset/"
_LARGEST_BYTES = 500_000
_ROOMS = ("holes", "white", "handover")


def _known_process(key: str) -> str:
    if key not in PROCESSES:
        raise ValueError(f"“{key}” is none of {', '.join(PROCESSES)}")
    return key


class _PresetFile(Strict):
    schema_: Literal["swaddon-preset/1"] = Field(alias="schema")
    name: Annotated[str, Field(min_length=1, max_length=60, pattern=r"^[^\x00-\x1f\x7f/\\]+$")]
    why: Annotated[str, Field(max_length=400)] = ""
    processes: list[Annotated[str, AfterValidator(_known_process)]] = Field(default_factory=list)
    goods: list[GoodsKind] = Field(default_factory=list)
    settings: dict[str, Any]


def preset_document(preset: Preset) -> dict[str, Any]:
    """A preset as JSON-ready values."""
    held: dict[str, Any] = {}
    whole = document_of(preset.on(PlanSettings()))
    for path, _ in preset.settings:
        room, _, name = path.partition(".")
        if name:
            held.setdefault(room, {})[name] = whole[room][name]
        else:
            held[room] = whole[room]
    return {
        "schema": SCHEMA,
        "name": preset.name,
        "why": preset.why,
        "processes": list(preset.processes),
        "goods": list(preset.goods),
        "settings": held,
    }


def write_preset(path: Path, preset: Preset) -> None:
    """Write a preset; raises ``PlanError`` with one sentence."""
    text = json.dumps(preset_document(preset), indent=2, ensure_ascii=False) + "\n"
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        with output_file(path) as file:
            file.write(text.encode("utf-8"))
    except OSError as error:
        raise PlanError(f"The preset could not be saved as “{shown(path)}” ({reason(error)}).") from error


def read_preset(path: Path) -> Preset:
    """A preset from its file.

    Raises
    ------
    PlanError
        One sentence: what is wrong, and where in the file.
    """
    try:
        if path.stat().st_size > _LARGEST_BYTES:
            raise PlanError(f"“{shown(path)}” is too large for a preset (over 500 kB).")
        data = path.read_bytes()
    except OSError as error:
        raise PlanError(f"The preset “{shown(path)}” cannot be read ({reason(error)}).") from error
    return _parsed(data, shown(path))


@cache
def shipped_presets() -> tuple[Preset, ...]:
    """The presets that come with Swaddon."""
    folder = resources.files("swaddon.io.presets")
    files = sorted((item for item in folder.iterdir() if item.name.endswith(".json")), key=lambda item: item.name)
    return tuple(_parsed(item.read_bytes(), item.name) for item in files)


def _parsed(data: bytes, name: str) -> Preset:
    try:
        raw = json.loads(data)
    except (ValueError, RecursionError) as error:
        raise PlanError(f"“{name}” is no preset: it is not JSON text.") from error
    if not isinstance(raw, dict):
        raise PlanError(f"“{name}” is no preset: it holds no settings by name.")
    schema = raw.get("schema")
    if isinstance(schema, str) and schema.startswith(_KIND) and schema != SCHEMA:
        raise PlanError(f"The preset “{name}” was saved by a newer Swaddon ({schema}): update to use it.")
    try:
        document = _PresetFile.model_validate(raw)
        settings = _settings(document.settings)
    except ValidationError as error:
        first = error.errors()[0]
        where = ".".join(str(part) for part in first["loc"]) or "its start"
        raise PlanError(f"“{name}” is no preset: at {where}, {first['msg'][:1].lower()}{first['msg'][1:]}.") from error
    except ValueError as error:
        raise PlanError(f"“{name}” is no preset: {error}.") from error
    return Preset(document.name, document.why, tuple(document.processes), tuple(document.goods), settings)


def _settings(given: dict[str, Any]) -> tuple[tuple[str, Any], ...]:
    """Values by their paths, checked as those of a job are."""
    paths: list[str] = []
    for room, value in given.items():
        if room in _ROOMS and isinstance(value, dict):
            paths += [f"{room}.{name}" for name in value]
        else:
            paths.append(room)
    for path in paths:
        if path not in PATHS:
            raise ValueError(f"“{path[:60]}” is no setting that a preset holds")
    whole = document_of(PlanSettings())
    for room, value in given.items():
        whole[room] = whole[room] | value if room in _ROOMS else value
    checked = value_of(PlanSettings, model_of(PlanSettings).model_validate(whole))
    return tuple((path, at_path(checked, path)) for path in paths)
