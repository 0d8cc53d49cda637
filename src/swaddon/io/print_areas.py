"""Standard print areas of shirt sizes: a shipped table, and the operator's own in its place."""

import tomllib
from dataclasses import dataclass
from importlib import resources
from pathlib import Path
from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field, ValidationError

from swaddon.core.errors import PlanError
from swaddon.io.profiles import reason
from swaddon.io.whole import whole_file

SCHEMA = "swaddon-print-areas/1"
FILE = "print-areas.toml"


@dataclass(frozen=True)
class PrintArea:
    """A box that a print is fitted into."""

    name: str
    width_mm: float
    height_mm: float

    def width_for(self, width_px: int, height_px: int) -> float:
        """Width in mm at which artwork of this shape just fits."""
        return round(min(self.width_mm, self.height_mm * width_px / height_px), 2)


class _Area(BaseModel):
    model_config = ConfigDict(extra="forbid")
    name: Annotated[str, Field(min_length=1, max_length=80)]
    width_mm: Annotated[float, Field(ge=5, le=2000)]
    height_mm: Annotated[float, Field(ge=5, le=2000)]


class _Table(BaseModel):
    model_config = ConfigDict(extra="forbid")
    schema_: Literal["swaddon-print-areas/1"] = Field(alias="schema")
    areas: list[_Area]


def shipped_areas() -> tuple[PrintArea, ...]:
    """The table that comes with Swaddon."""
    return _parsed((resources.files("swaddon.io") / "print_areas.toml").read_text(encoding="utf-8"))


def read_areas(folder: Path) -> tuple[PrintArea, ...]:
    """The operator's table in the configuration folder, else the shipped one; raises ``PlanError``."""
    path = folder / FILE
    if not path.is_file():
        return shipped_areas()
    try:
        return _parsed(path.read_text(encoding="utf-8"))
    except (OSError, UnicodeDecodeError, tomllib.TOMLDecodeError, ValidationError) as error:
        raise PlanError(f"The table of print areas {path.name} cannot be read: mend or delete it.") from error


def _parsed(text: str) -> tuple[PrintArea, ...]:
    table = _Table.model_validate(tomllib.loads(text))
    return tuple(PrintArea(area.name, area.width_mm, area.height_mm) for area in table.areas)


def write_areas(folder: Path, areas: tuple[PrintArea, ...]) -> None:
    """Keep the operator's table; raises ``PlanError`` with one sentence."""
    lines = [f'schema = "{SCHEMA}"']
    for area in areas:
        name = area.name.replace("\\", "\\\\").replace('"', '\\"')
        lines += [
            "",
            "[[areas]]",
            f'name = "{name}"',
            f"width_mm = {area.width_mm:g}",
            f"height_mm = {area.height_mm:g}",
        ]
    try:
        folder.mkdir(parents=True, exist_ok=True)
        with whole_file(folder / FILE) as file:
            file.write(("\n".join(lines) + "\n").encode())
    except OSError as error:
        raise PlanError(f"The table of print areas could not be kept ({reason(error)}).") from error
