"""Media as a TOML file: the shipped ones and the shop's own, and sizes as they are typed."""

import re
import tomllib
from collections.abc import Sequence
from dataclasses import asdict
from functools import cache
from importlib import resources
from pathlib import Path
from typing import Annotated, Literal

from pydantic import Field, ValidationError

from swaddon.core.errors import PlanError
from swaddon.core.sheet.media import Kind, Medium
from swaddon.core.units import MM_PER_INCH
from swaddon.io.names import shown
from swaddon.io.profiles import reason
from swaddon.io.profiles.document import ModelBase
from swaddon.io.whole import whole_file

FILE = "media.toml"
_LARGEST_BYTES = 200_000
_LARGEST_MM = 60_000.0
_TYPED = re.compile(r"\s*(\d+(?:[.,]\d+)?)\s*(mm|cm|in)?\s*[x×*]\s*(\d+(?:[.,]\d+)?)\s*(mm|cm|in)?\s*", re.IGNORECASE)

Length = Annotated[float, Field(gt=0, le=_LARGEST_MM, allow_inf_nan=False)]
Rim = Annotated[float, Field(ge=0, le=1000, allow_inf_nan=False)]


class _Medium(ModelBase):
    name: Annotated[str, Field(pattern=r"^[a-z0-9][a-z0-9-]{0,39}$")]
    title: Annotated[str, Field(min_length=1, max_length=60)]
    kind: Kind
    width_mm: Length
    height_mm: Annotated[float, Field(ge=0, le=_LARGEST_MM, allow_inf_nan=False)] = 0.0
    margin_mm: tuple[Rim, Rim, Rim, Rim] = (0.0, 0.0, 0.0, 0.0)
    cutter_mm: Rim = 0.0
    left_mm: Length | None = None
    placing_mm: Annotated[float, Field(ge=0, le=20)] = 0.0


class _MediaFile(ModelBase):
    schema_: Literal["swaddon-media/1"] = Field(alias="schema")
    media: Annotated[list[_Medium], Field(min_length=1, max_length=200)]


@cache
def shipped_media() -> tuple[Medium, ...]:
    """The media that ship with the program."""
    return parse_media(resources.files("swaddon.io").joinpath(FILE).read_text(encoding="utf-8"), FILE)


def read_media(path: Path) -> tuple[Medium, ...]:
    """Media from a TOML file; raises ``PlanError`` with one sentence."""
    try:
        if path.stat().st_size > _LARGEST_BYTES:
            raise PlanError(f"“{shown(path)}” is too large for a list of media (over 200 kB).")
        text = path.read_text(encoding="utf-8")
    except (OSError, UnicodeDecodeError) as error:
        why = reason(error) if isinstance(error, OSError) else "it is no text"
        raise PlanError(f"The media “{shown(path)}” cannot be read ({why}).") from error
    return parse_media(text, shown(path))


def parse_media(text: str, name: str) -> tuple[Medium, ...]:
    """Media from the text of a file of some name; raises ``PlanError`` with one sentence."""
    try:
        document = _MediaFile.model_validate(tomllib.loads(text))
    except tomllib.TOMLDecodeError as error:
        raise PlanError(f"“{name}” is no TOML file: {error}.") from error
    except ValidationError as error:
        first = error.errors()[0]
        where = ".".join(str(part) for part in first["loc"])
        raise PlanError(f"“{name}”: {where}: {first['msg']}.") from error
    made = tuple(Medium(**item.model_dump()) for item in document.media)
    for medium in made:
        _check(medium, name)
    if len({medium.name for medium in made}) < len(made):
        raise PlanError(f"“{name}” names a medium twice: give each a name of its own.")
    return made


HEADS = (
    "Name", "Title", "Kind", "Width", "Height", "Rim left", "Rim top", "Rim right", "Rim below", "Cut", "Film left",
    "Placing",
)  # fmt: skip
"""Columns of a table of media."""


def cells_of(medium: Medium) -> tuple[str, ...]:
    """A medium as a row of such a table; what it has none of is empty."""
    left = "" if medium.left_mm is None else f"{medium.left_mm:g}"
    sizes = (medium.width_mm, medium.height_mm, *medium.margin_mm, medium.cutter_mm)
    words = [f"{size:g}" if size else "" for size in sizes]
    return (medium.name, medium.title, medium.kind, *words, left, f"{medium.placing_mm:g}" if medium.placing_mm else "")


def media_from(rows: Sequence[Sequence[str]]) -> tuple[Medium, ...]:
    """Media from the rows of a table; raises ``ValueError`` that names the row."""
    made = [_from_cells(cells, number) for number, cells in enumerate(rows, start=1)]
    if not any(medium.kind != "plate" for medium in made):
        raise ValueError("Keep at least one medium to print on")
    for number, medium in enumerate(made, start=1):
        if medium.name in [other.name for other in made[: number - 1]]:
            raise ValueError(f"Row {number} has the name “{medium.name}” again")
    return tuple(made)


def _from_cells(cells: Sequence[str], number: int) -> Medium:
    name, title, kind, *sizes = cells

    def size(at: int) -> float:
        text = sizes[at].strip().replace(",", ".")
        try:
            return float(text) if text else 0.0
        except ValueError as error:
            raise ValueError(f"Row {number}, {HEADS[at + 3]}: “{sizes[at]}” is no number") from error

    values = {
        "name": name.strip().lower(), "title": title.strip(), "kind": kind, "width_mm": size(0), "height_mm": size(1),
        "margin_mm": [size(at) for at in range(2, 6)], "cutter_mm": size(6), "left_mm": size(7) or None,
        "placing_mm": size(8),
    }  # fmt: skip
    try:
        made = Medium(**_Medium.model_validate(values).model_dump())
        _check(made, f"row {number}")
    except ValidationError as error:
        first = error.errors()[0]
        raise ValueError(f"Row {number}, {'.'.join(map(str, first['loc']))}: {first['msg']}") from error
    except PlanError as error:
        raise ValueError(f"Row {number}: {error}".rstrip(".")) from error
    return made


def write_media(path: Path, media: Sequence[Medium]) -> None:
    """Write media as a TOML file; raises ``PlanError`` with one sentence."""
    import tomli_w

    listed = [{key: value for key, value in asdict(medium).items() if value not in (None, "")} for medium in media]
    text = tomli_w.dumps({"schema": "swaddon-media/1", "media": listed})
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        with whole_file(path) as file:
            file.write(text.encode("utf-8"))
    except OSError as error:
        raise PlanError(f"The media could not be saved as “{shown(path)}” ({reason(error)}).") from error


def _check(medium: Medium, file: str) -> None:
    if medium.kind != "roll" and not medium.height_mm:
        raise PlanError(f"“{file}”: {medium.name} needs a height_mm: only rolls have none.")
    check_margins(medium)


def check_margins(medium: Medium) -> None:
    """Raise ``PlanError`` where the margins leave nothing of a medium."""
    width, height = medium.printable_mm
    if width <= 0 or (height <= 0 and not medium.is_roll):
        raise PlanError(
            f"{medium.title} ({medium.size_text}) is smaller than its margins: nothing can be printed on it."
        )


def typed_medium(text: str, margin_mm: float = 0.0) -> Medium | None:
    """A medium of a size that was typed, such as ``600x1000mm``; ``None``: it is no size.

    Raises
    ------
    PlanError
        It is too large, or smaller than its margins.

    >>> typed_medium("600x1000mm").size_text, typed_medium("11x17in").width_mm, typed_medium("a4")
    ('600 × 1000 mm', 279.4, None)
    """
    found = _TYPED.fullmatch(text)
    if found is None:
        return None
    unit = found[4] or found[2]
    sides = [_mm(found[1], found[2] or unit), _mm(found[3], unit)]
    if not all(1 <= side <= _LARGEST_MM for side in sides):
        raise PlanError(f"A medium of {text.strip()} cannot be used: give sides between 1 mm and 60 m.")
    made = Medium("own", "Medium", "cut", round(sides[0], 3), round(sides[1], 3), (margin_mm,) * 4)
    check_margins(made)
    return made


def _mm(number: str, unit: str | None) -> float:
    scale = {"mm": 1.0, "cm": 10.0, "in": MM_PER_INCH}[(unit or "mm").lower()]
    return float(number.replace(",", ".")) * scale


def medium_named(text: str, known: Sequence[Medium], margin_mm: float = 0.0) -> Medium:
    """A medium by its name, or by its size; raises ``PlanError`` that lists the names."""
    for medium in known:
        if medium.name == text.strip().lower():
            return medium
    made = typed_medium(text, margin_mm)
    if made is None:
        names = ", ".join(medium.name for medium in known)
        raise PlanError(f"There is no medium “{text}”: name one of {names}, or give a size such as 600x1000mm.")
    return made
