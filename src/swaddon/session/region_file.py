"""Treatments of regions from a JSON file: a list of places or colours, each with what becomes of it.

Each entry names its regions by ``colour`` (``#rrggbb``), by ``at_px`` (``[x, y]`` in artwork pixels) or by ``at_mm``
(``[x, y]`` on the artboard), and gives ``treatment``: text such as ``solid`` or ``line:30:72:0.7``, or an object as in
plan.json.
"""

import json
from pathlib import Path
from typing import Any

from pydantic import TypeAdapter, ValidationError

from swaddon.core.artwork.artwork import Artwork
from swaddon.core.holes.settings import RegionRule, Screen
from swaddon.core.order.settings import PlanSettings
from swaddon.io.profiles import reason
from swaddon.io.settings_file import model_of, value_of
from swaddon.session import parse

LARGEST_BYTES = 5_000_000
_KEYS = {"colour", "at_px", "at_mm", "treatment"}


def read_rules(path: Path, artwork: Artwork, settings: PlanSettings) -> tuple[RegionRule, ...]:
    """Rules from a file.

    Raises
    ------
    ValueError
        One sentence: what is wrong with which entry.
    """
    what = f"--region-file “{path.name}”"
    try:
        if path.stat().st_size > LARGEST_BYTES:
            raise ValueError(f"{what} is over 5 MB")
        entries = json.loads(path.read_text(encoding="utf-8"))
    except (OSError, UnicodeDecodeError) as error:
        raise ValueError(f"{what} cannot be read: {reason(error)}") from error
    except json.JSONDecodeError as error:
        raise ValueError(f"{what} is not JSON (line {error.lineno}): write a list of entries") from error
    except RecursionError as error:
        raise ValueError(f"{what} is nested too deep: write a list of entries") from error
    listed = entries if isinstance(entries, list) else None
    if listed is None:
        raise ValueError(f"{what} must hold a list of entries")
    return tuple(
        _rule(entry, f"{what}, entry {number}", artwork, settings) for number, entry in enumerate(listed, start=1)
    )


def _rule(entry: Any, what: str, artwork: Artwork, settings: PlanSettings) -> RegionRule:
    if not isinstance(entry, dict) or set(entry) - _KEYS or "treatment" not in entry:
        raise ValueError(f"{what} needs colour, at_px or at_mm, and treatment")
    screen = _screen(entry["treatment"], what)
    places = [key for key in ("colour", "at_px", "at_mm") if key in entry]
    if len(places) != 1:
        raise ValueError(f"{what} must name its regions by just one of colour, at_px and at_mm")
    if places == ["colour"]:
        return RegionRule(screen, colour=parse.colour(str(entry["colour"]), what))
    x, y = _pair(entry[places[0]], what)
    if places == ["at_mm"]:
        height_mm = artwork.height_mm_at(settings.width_mm, settings.placement)
        x, y = settings.placement.to_artwork(x / settings.width_mm, y / height_mm, artwork.width_px, artwork.height_px)
    return RegionRule(screen, points=((x, y),))


def _pair(value: Any, what: str) -> tuple[float, float]:
    try:
        return TypeAdapter(tuple[float, float]).validate_python(value)
    except ValidationError as error:
        raise ValueError(f"{what} needs a place as [x, y]") from error


def _screen(value: Any, what: str) -> Screen | None:
    if isinstance(value, str):
        return parse.screen(value, what)
    if value is None:
        return None
    try:
        screen: Screen = value_of(Screen, model_of(Screen).model_validate(value))
        return screen
    except ValidationError as error:
        first = error.errors()[0]
        place = ".".join(str(part) for part in first["loc"])
        raise ValueError(f"{what} has a wrong value at {place}: {first['msg']}") from error
