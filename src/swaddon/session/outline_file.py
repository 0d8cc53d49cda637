"""Outlines from a JSON file: closed lines in artwork pixels, each with its side and what becomes of it."""

import json
from pathlib import Path
from typing import Annotated, Any, Literal

from annotated_types import MaxLen, MinLen
from pydantic import Field, ValidationError

from swaddon.core.artwork.placement import Point
from swaddon.core.knockout.outlines import crossing
from swaddon.core.knockout.settings import MOST_CORNERS, OutlineKnockout
from swaddon.io.names import shown
from swaddon.io.profiles import reason
from swaddon.io.settings_file import Strict

_LARGEST_BYTES = 5_000_000


class _Entry(Strict):
    points_px: Annotated[tuple[Point, ...], MinLen(3), MaxLen(MOST_CORNERS)]
    side: Literal["inside", "outside"] = "outside"
    act: Literal["knock", "keep"] = "knock"
    corners: int = Field(default=0, exclude=True)


def read_outlines(path: Path) -> tuple[OutlineKnockout, ...]:
    """Outlines from a file; raises ``ValueError`` with one sentence: what is wrong with which of them."""
    what = f"--outline “{shown(path)}”"
    try:
        if path.stat().st_size > _LARGEST_BYTES:
            raise ValueError(f"{what} is over 5 MB")
        found = json.loads(path.read_text(encoding="utf-8"))
    except (OSError, UnicodeDecodeError) as error:
        raise ValueError(f"{what} cannot be read: {reason(error)}") from error
    except (json.JSONDecodeError, RecursionError) as error:
        raise ValueError(f"{what} is not JSON: write points_px, side and act") from error
    listed = found if isinstance(found, list) else [found]
    return tuple(_outline(entry, f"{what}, outline {number}") for number, entry in enumerate(listed, start=1))


def _outline(entry: Any, what: str) -> OutlineKnockout:
    try:
        read = _Entry.model_validate(entry)
    except ValidationError as error:
        first = error.errors()[0]
        place = ".".join(str(part) for part in first["loc"]) or "its start"
        raise ValueError(f"{what} has a wrong value at {place}: {first['msg']}") from error
    check(read.points_px, what)
    return OutlineKnockout(read.points_px, read.side, read.act)


def check(points: tuple[Point, ...], what: str) -> None:
    """Raise ``ValueError`` where a line crosses itself."""
    met = crossing(points)
    if met is not None:
        raise ValueError(f"{what} crosses itself near {met[0]:.0f}, {met[1]:.0f} px: draw it without a loop")
