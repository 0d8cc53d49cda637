"""Lines of an order as they are typed, pasted from a spreadsheet, or read from a CSV file."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from pathlib import Path
from typing import cast

from swaddon.core.artwork.artwork import Artwork
from swaddon.core.colour.goods import named_colours
from swaddon.core.colour.spaces import rgb_from_hex
from swaddon.core.errors import PlanError
from swaddon.core.order.lines import MOST_LINES, PLACES, Fit, Goods, OrderLine, Place, like
from swaddon.core.order.settings import PlanSettings
from swaddon.core.schema import allowed
from swaddon.io.garments import LibraryGarment
from swaddon.io.names import shown
from swaddon.io.print_areas import FITS, SizeTable
from swaddon.io.spreadsheet import Row, columns_of, read_text, rows_of
from swaddon.session import parse

_KNOWN = {
    "garment": ("item", "goods", "colour", "color"),
    "size": ("garment size",),
    "quantity": ("qty", "pieces", "number", "count"),
    "place": ("position", "where"),
    "print": ("print size", "fit", "width", "print width"),
}
_COLUMNS = {key: index for index, key in enumerate(_KNOWN)}
FORM = "GARMENT:SIZE:QUANTITY[:PLACE[:PRINT]], such as black:M:12 or navy:L:6:back:adult"


@dataclass(frozen=True)
class ShopGoods:
    """What lines are read with: the shop's garments and its table of sizes."""

    garments: tuple[LibraryGarment, ...]
    table: SizeTable

    def garment_named(self, text: str) -> LibraryGarment:
        """A garment by its name or how that begins, by a plain colour or ``#rrggbb``; raises ``ValueError``."""
        wanted = text.strip().lower()
        if not wanted:
            raise ValueError("names no garment")
        exact = [item for item in self.garments if item.name.lower() == wanted]
        begun = exact or [item for item in self.garments if item.name.lower().startswith(wanted + " ")]
        if len(begun) > 1:
            raise ValueError(f"“{text}” may be {' or '.join(item.name for item in begun[:4])}: write it in full")
        if begun:
            return begun[0]
        colours = named_colours()
        if wanted in colours:
            return LibraryGarment(text.strip().capitalize(), colours[wanted])
        if wanted.startswith("#"):
            try:
                return LibraryGarment("", rgb_from_hex(wanted))
            except ValueError as error:
                raise ValueError(str(error)) from error
        known = ", ".join(item.name for item in self.garments[:6])
        raise ValueError(f"“{text}” is no garment of the library ({known} …), no plain colour and not #rrggbb")


@dataclass(frozen=True)
class WantedLine:
    """What a row asks for; ``width_mm`` is given where the print has a width of its own."""

    garment: LibraryGarment
    size: str
    quantity: int
    place: Place = "front"
    fit: Fit = "adult"
    width_mm: float | None = None


def read_lines(path: Path, goods: ShopGoods) -> tuple[WantedLine, ...]:
    """Lines from a CSV file; raises ``PlanError`` with one sentence that names the row."""
    text = read_text(path)
    try:
        return lines_of(text, goods)
    except ValueError as error:
        raise PlanError(f"The lines in “{shown(path)}” cannot be taken: {error}.") from error


def lines_of(text: str, goods: ShopGoods) -> tuple[WantedLine, ...]:
    """Lines from rows of garment, size, quantity, and where wanted place and print size; with or without heads.

    Raises
    ------
    ValueError
        One sentence, with the row.
    """
    rows = rows_of(text)
    columns = columns_of(rows[0], _KNOWN) if rows else None
    body = rows if columns is None else rows[1:]
    if not body:
        raise ValueError("there is no line in it: give rows of garment, size and quantity")
    if len(body) > MOST_LINES:
        raise ValueError(f"it has {len(body)} lines, more than {MOST_LINES}")
    return tuple(_from_row(row, columns or _COLUMNS, goods) for row in body)


def line_of(text: str, goods: ShopGoods, what: str = "--line") -> WantedLine:
    """A line from one text, parts between colons; raises ``ValueError`` with one sentence."""
    parts = text.split(":")
    if len(parts) not in (3, 4, 5):
        raise ValueError(f"{what} “{text}” is not {FORM}")
    try:
        return _wanted(tuple(part.strip() for part in parts), _COLUMNS, goods)
    except ValueError as error:
        raise ValueError(f"{what} “{text}”: {error}") from error


def _from_row(row: Row, columns: dict[str, int], goods: ShopGoods) -> WantedLine:
    try:
        return _wanted(row.cells, columns, goods)
    except ValueError as error:
        raise ValueError(f"row {row.number}: {error}") from error


def _wanted(cells: Sequence[str], columns: dict[str, int], goods: ShopGoods) -> WantedLine:
    def cell(key: str) -> str:
        index = columns.get(key, len(cells))
        return cells[index] if index < len(cells) else ""

    garment = goods.garment_named(cell("garment"))
    size = size_from(cell("size"), goods.table)
    place = place_from(cell("place"))
    fit, width_mm = print_from(cell("print"), size, goods.table)
    return WantedLine(garment, size, quantity_from(cell("quantity")), place, fit, width_mm)


def size_from(text: str, table: SizeTable) -> str:
    """A garment size of the table, or none; raises ``ValueError``."""
    if not text.strip():
        return ""
    size = table.size_named(text)
    if size is None:
        raise ValueError(f"“{text}” is no size of the table ({', '.join(table.known_sizes)})")
    return size


def quantity_from(text: str) -> int:
    """A number of pieces; raises ``ValueError``."""
    least, most = allowed(PlanSettings, "quantity")
    digits = text.strip()
    if not digits.isascii() or not digits.isdigit() or len(digits) > 9 or not least <= int(digits) <= most:
        raise ValueError(f"quantity “{text}” is not a whole number of pieces, {least:g} to {most:.9g}")
    return int(digits)


def place_from(text: str) -> Place:
    """A place of a print; none given is the front; raises ``ValueError``."""
    word = text.strip().lower() or "front"
    if word not in PLACES:
        raise ValueError(f"“{text}” is no place: {', '.join(PLACES)}")
    return word


def print_from(text: str, size: str, table: SizeTable) -> tuple[Fit, float | None]:
    """The print size: by its word, by a width such as 250mm, else the one that the garment's size takes."""
    word = text.strip().lower()
    if not word:
        return table.fit_of(size), None
    if word in FITS:
        return cast("Fit", word), None
    try:
        return "own", parse.print_length_mm(text, "print size")
    except ValueError as error:
        raise ValueError(f"print size “{text}” is not {', '.join(FITS)} or a width such as 250mm") from error


def made(wanted: WantedLine, like_line: OrderLine, artwork: Artwork | None, table: SizeTable) -> OrderLine:
    """A line of an order with the settings of another."""
    garment = wanted.garment
    place = PLACES[wanted.place]
    line = like(like_line, garment=garment.rgb, quantity=wanted.quantity, drop_mm=place.drop_mm)
    goods = Goods(garment.name, garment.cloth, wanted.size, wanted.place, wanted.fit)
    line = replace(line, goods=goods, shape=place.shape or line.shape)
    if wanted.width_mm is not None:
        return replace(line, settings=replace(line.settings, width_mm=wanted.width_mm))
    return fitted(line, artwork, table)


def fitted(line: OrderLine, artwork: Artwork | None, table: SizeTable) -> OrderLine:
    """A line as wide as the table says for its place and fit; as it is where the table says nothing."""
    area = table.area_for(line.goods.place, line.goods.fit)
    if area is None or artwork is None:
        return line
    width_mm = area.width_for(*artwork.placed_px(line.settings.placement))
    return replace(line, settings=replace(line.settings, width_mm=max(1.0, width_mm)))
