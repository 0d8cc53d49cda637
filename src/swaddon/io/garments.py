"""The garment library: the shop's goods under its own plain names, as a CSV file."""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cache
from importlib import resources
from pathlib import Path

from swaddon.core.colour.goods import GoodsClass, goods_class
from swaddon.core.colour.spaces import Rgb, hex_from_rgb, rgb_from_hex
from swaddon.core.errors import PlanError
from swaddon.io.names import shown
from swaddon.io.spreadsheet import Row, columns_of, read_text, rows_of, write_rows

FILE = "garments.csv"
MOST_GARMENTS = 500
HEADS = ("name", "colour", "cloth", "weight_g_m2", "heat_c")
_KNOWN = {
    "name": ("garment",),
    "colour": ("color", "rgb"),
    "cloth": ("fabric", "material"),
    "weight": ("weight g m2", "g/m²", "weight g/m²"),
    "heat": ("heat c", "bears °c", "bears c"),
}
_WEIGHTS, _HEATS = (20.0, 2000.0), (40.0, 300.0)
_LONGEST_NAME, _LONGEST_CLOTH = 80, 40


@dataclass(frozen=True)
class LibraryGarment:
    """One kind of goods.

    ``weight_g_m2`` and ``heat_c`` (what it bears at the press, °C) are the shop's own data; ``None``: not known.
    """

    name: str
    rgb: Rgb
    cloth: str = ""
    weight_g_m2: float | None = None
    heat_c: float | None = None

    @property
    def goods_class(self) -> GoodsClass:
        """Light, pastel, mid or dark."""
        return goods_class(self.rgb)

    @property
    def cells(self) -> tuple[str, ...]:
        """Its row of a table, in the order of ``HEADS``."""
        numbers = ("" if value is None else f"{value:g}" for value in (self.weight_g_m2, self.heat_c))
        return (self.name, hex_from_rgb(self.rgb), self.cloth, *numbers)


@cache
def shipped_garments() -> tuple[LibraryGarment, ...]:
    """The invented library that comes with Swaddon."""
    return garments_of((resources.files("swaddon.io") / FILE).read_text(encoding="utf-8"))


def read_garments(path: Path) -> tuple[LibraryGarment, ...]:
    """A library from a CSV file; raises ``PlanError`` with one sentence that names the row."""
    try:
        return garments_of(read_text(path))
    except ValueError as error:
        raise PlanError(f"The garments in “{shown(path)}” cannot be taken: {error}.") from error


def write_garments(path: Path, garments: Sequence[LibraryGarment]) -> None:
    """Write a library as CSV; raises ``PlanError`` with one sentence."""
    write_rows(path, [HEADS, *(garment.cells for garment in garments)])


def garments_of(text: str) -> tuple[LibraryGarment, ...]:
    """Garments from the text of a table; raises ``ValueError`` with one sentence that names the row."""
    rows = rows_of(text)
    if not rows:
        raise ValueError("there is no row in it: give name, colour, cloth, weight in g/m² and °C it bears")
    columns = columns_of(rows[0], _KNOWN)
    body = rows if columns is None else rows[1:]
    places = columns or {key: index for index, key in enumerate(_KNOWN)}
    if not body:
        raise ValueError("it has heads and no row below them")
    if len(body) > MOST_GARMENTS:
        raise ValueError(f"it has {len(body)} rows, more than {MOST_GARMENTS}")
    made = [_garment(row, places) for row in body]
    names = [garment.name.lower() for garment in made]
    for index, name in enumerate(names):
        if name in names[:index]:
            raise ValueError(f"row {body[index].number} has the name “{made[index].name}” again")
    return tuple(made)


def garment_from(cells: Sequence[str], number: int) -> LibraryGarment:
    """A garment from the cells of one row in the order of ``HEADS``; raises ``ValueError`` that names the row."""
    return _garment(Row(number, tuple(cells)), {key: index for index, key in enumerate(_KNOWN)})


def _garment(row: Row, places: dict[str, int]) -> LibraryGarment:
    def cell(key: str) -> str:
        return row.cell(places[key]) if key in places else ""

    name, cloth = cell("name"), cell("cloth")
    if not name or len(name) > _LONGEST_NAME or ":" in name:
        raise ValueError(f"row {row.number} needs a name of up to {_LONGEST_NAME} characters without a colon")
    if len(cloth) > _LONGEST_CLOTH:
        raise ValueError(f"row {row.number}: the cloth of “{name}” is longer than {_LONGEST_CLOTH} characters")
    try:
        rgb = rgb_from_hex(cell("colour"))
    except ValueError as error:
        raise ValueError(f"row {row.number}: the colour of “{name}”, “{cell('colour')}”, is not #rrggbb") from error
    weight = _number(cell("weight"), row, "g/m²", _WEIGHTS)
    return LibraryGarment(name, rgb, cloth, weight, _number(cell("heat"), row, "°C", _HEATS))


def _number(text: str, row: Row, unit: str, span: tuple[float, float]) -> float | None:
    if not text:
        return None
    try:
        value = float(text.replace(",", "."))
    except ValueError as error:
        raise ValueError(f"row {row.number}: “{text}” is no number of {unit}") from error
    if not span[0] <= value <= span[1]:
        raise ValueError(f"row {row.number}: {text} {unit} is outside {span[0]:g} to {span[1]:g}")
    return value
