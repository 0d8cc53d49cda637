"""Standard print areas, and which garment sizes take which: a shipped table, and the shop's own in its place."""

import json
import tomllib
from collections.abc import Sequence
from dataclasses import dataclass, field
from functools import cache
from importlib import resources
from pathlib import Path
from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field, ValidationError

from swaddon.core.errors import PlanError
from swaddon.core.order.lines import Fit, Place
from swaddon.io.names import shown
from swaddon.io.profiles import reason
from swaddon.io.whole import whole_file

SCHEMA = "swaddon-print-areas/2"
FILE = "print-areas.toml"
TableFit = Literal["youth", "adult", "oversize"]
FITS: tuple[TableFit, ...] = ("youth", "adult", "oversize")


@dataclass(frozen=True)
class PrintArea:
    """A box that a print is fitted into.

    With a ``place`` and a ``fit`` it is the print size that lines of an order get there; empty: offered by name only.
    """

    name: str
    width_mm: float
    height_mm: float
    place: Place | Literal[""] = ""
    fit: TableFit | Literal[""] = ""

    def width_for(self, width_px: int, height_px: int) -> float:
        """Width in mm at which artwork of this shape just fits."""
        return round(min(self.width_mm, self.height_mm * width_px / height_px), 2)


@dataclass(frozen=True)
class SizeTable:
    """The areas, and the garment sizes of each fit."""

    areas: tuple[PrintArea, ...]
    sizes: tuple[tuple[TableFit, tuple[str, ...]], ...] = field(default=())

    @property
    def known_sizes(self) -> tuple[str, ...]:
        """All garment sizes, in the order of the table."""
        return tuple(size for _, sizes in self.sizes for size in sizes)

    def size_named(self, text: str) -> str | None:
        """A size as the table writes it, however it is typed; ``None``: there is none of that name."""
        wanted = "".join(text.lower().split())
        return next((size for size in self.known_sizes if "".join(size.lower().split()) == wanted), None)

    def fit_of(self, size: str) -> Fit:
        """Which print size a garment size takes; ``adult`` where the table says nothing."""
        return next((fit for fit, sizes in self.sizes if size in sizes), "adult")

    def area_for(self, place: Place, fit: Fit) -> PrintArea | None:
        """The area of a place and a fit; ``None``: the table has none."""
        return next((area for area in self.areas if (area.place, area.fit) == (place, fit)), None)


class _Area(BaseModel):
    model_config = ConfigDict(extra="forbid")
    name: Annotated[str, Field(min_length=1, max_length=80)]
    width_mm: Annotated[float, Field(ge=5, le=2000)]
    height_mm: Annotated[float, Field(ge=5, le=2000)]
    place: Place | Literal[""] = ""
    fit: TableFit | Literal[""] = ""


_Size = Annotated[str, Field(min_length=1, max_length=20)]


class _Table(BaseModel):
    model_config = ConfigDict(extra="forbid")
    schema_: Literal["swaddon-print-areas/1", "swaddon-print-areas/2"] = Field(alias="schema")
    areas: list[_Area]
    sizes: dict[TableFit, Annotated[list[_Size], Field(max_length=60)]] | None = None


@cache
def shipped_table() -> SizeTable:
    """The table that comes with Swaddon."""
    return _parsed((resources.files("swaddon.io") / "print_areas.toml").read_text(encoding="utf-8"))


def read_table(path: Path) -> SizeTable:
    """A table from its file; raises ``PlanError`` with one sentence.

    A table of version 1 has no garment sizes: they are those of the shipped one.
    """
    try:
        return _parsed(path.read_text(encoding="utf-8"))
    except (OSError, UnicodeDecodeError, tomllib.TOMLDecodeError, ValidationError) as error:
        raise PlanError(f"The table of print areas {shown(path)} cannot be read: mend or delete it.") from error


def _parsed(text: str) -> SizeTable:
    table = _Table.model_validate(tomllib.loads(text))
    areas = tuple(PrintArea(area.name, area.width_mm, area.height_mm, area.place, area.fit) for area in table.areas)
    if table.sizes is None:
        return SizeTable(areas, shipped_table().sizes)
    return SizeTable(areas, tuple((fit, tuple(table.sizes.get(fit, ()))) for fit in FITS))


def write_table(path: Path, table: SizeTable) -> None:
    """Write a table; raises ``PlanError`` with one sentence."""
    lines = [f'schema = "{SCHEMA}"', "", "[sizes]"]
    lines += [f"{fit} = [{', '.join(_text(size) for size in sizes)}]" for fit, sizes in table.sizes]
    for area in table.areas:
        lines += ["", "[[areas]]", f"name = {_text(area.name)}"]
        lines += [f"width_mm = {area.width_mm:g}", f"height_mm = {area.height_mm:g}"]
        if area.place and area.fit:
            lines += [f'place = "{area.place}"', f'fit = "{area.fit}"']
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        with whole_file(path) as file:
            file.write(("\n".join(lines) + "\n").encode())
    except OSError as error:
        raise PlanError(f"The table of print areas could not be kept ({reason(error)}).") from error


def _text(value: str) -> str:
    """A TOML string; what JSON escapes TOML reads alike."""
    return json.dumps(value, ensure_ascii=False).replace("\x7f", "\\u007f")


def twice(areas: Sequence[PrintArea]) -> PrintArea | None:
    """An area whose place and fit another one before it has already; ``None``: there is none."""
    seen: set[tuple[str, str]] = set()
    for area in areas:
        if area.place and area.fit:
            if (area.place, area.fit) in seen:
                return area
            seen.add((area.place, area.fit))
    return None
