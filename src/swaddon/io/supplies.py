"""The shop's prices as a CSV file: a row per supply, good, hour or kilowatt-hour."""

import datetime
import re
from collections.abc import Sequence
from decimal import Decimal, InvalidOperation
from functools import cache
from importlib import resources
from pathlib import Path
from typing import get_args

from swaddon.core.errors import PlanError
from swaddon.core.shop.book import UNITS, Book, Item, Price
from swaddon.io.names import shown
from swaddon.io.spreadsheet import Row, columns_of, read_text, rows_of, write_rows

FILE = "supplies.csv"
HEADS = (
    "item", "applies_to", "pack_price", "pack_size", "unit", "currency", "date", "supplier", "waste_percent",
)  # fmt: skip
MOST_PRICES = 500
ITEMS: tuple[Item, ...] = get_args(Item)
_KNOWN = {
    "item": ("supply", "what"),
    "applies_to": ("applies to", "for"),
    "pack_price": ("pack price", "price"),
    "pack_size": ("pack size", "size"),
    "unit": (),
    "currency": (),
    "date": (),
    "supplier": (),
    "waste_percent": ("waste percent", "waste %", "waste"),
}
_LONGEST_TEXT = 80
_MOST = Decimal(10) ** 9
_UNIT_WORDS = {"m2": "m²", "sqin": "sq in", "in²": "sq in", "in2": "sq in", "hour": "h", "kwh": "kWh", "pages": "page"}


@cache
def shipped_book() -> Book:
    """The invented prices that come with Swaddon."""
    return book_of((resources.files("swaddon.io") / FILE).read_text(encoding="utf-8"))


def read_book(path: Path) -> Book:
    """Prices from a CSV file; raises ``PlanError`` with one sentence that names the row."""
    try:
        return book_of(read_text(path))
    except ValueError as error:
        raise PlanError(f"The prices in “{shown(path)}” cannot be taken: {error}.") from error


def write_book(path: Path, book: Book) -> None:
    """Write prices as CSV; raises ``PlanError`` with one sentence."""
    write_rows(path, [HEADS, *(cells_of(price) for price in book.prices)])


def cells_of(price: Price) -> tuple[str, ...]:
    """A price as a row of the table, in the order of ``HEADS``."""
    waste = "" if price.waste_percent is None else f"{price.waste_percent:f}"
    return (
        price.item, price.applies_to, f"{price.pack_price:f}", f"{price.pack_size:f}", price.unit, price.currency,
        price.date, price.supplier, waste,
    )  # fmt: skip


def book_of(text: str) -> Book:
    """Prices from the text of a table; raises ``ValueError`` with one sentence that names the row."""
    rows = rows_of(text)
    if not rows:
        raise ValueError("there is no row in it: give item, pack_price, pack_size, unit and currency")
    places = columns_of(rows[0], _KNOWN)
    body = rows if places is None else rows[1:]
    places = places or {key: index for index, key in enumerate(_KNOWN)}
    missing = [key for key in ("pack_price", "pack_size", "unit", "currency") if key not in places]
    if missing:
        raise ValueError(f"it has no column {missing[0]}")
    if not body:
        raise ValueError("it has heads and no row below them")
    return checked([(row.number, _price(row, places)) for row in body])


def book_from(cells: Sequence[Sequence[str]]) -> Book:
    """Prices from rows of cells in the order of ``HEADS``; raises ``ValueError`` that names the row."""
    places = {key: index for index, key in enumerate(_KNOWN)}
    return checked([(number, _price(Row(number, tuple(row)), places)) for number, row in enumerate(cells, start=1)])


def checked(numbered: Sequence[tuple[int, Price]]) -> Book:
    """Prices as a table: one currency, each item once for a name."""
    if len(numbered) > MOST_PRICES:
        raise ValueError(f"it has {len(numbered)} rows, more than {MOST_PRICES}")
    seen: set[tuple[str, str]] = set()
    for number, price in numbered:
        first = numbered[0][1].currency
        if price.currency != first:
            raise ValueError(f"row {number} is in {price.currency}, the first in {first}: keep one currency in a table")
        key = (price.item, price.applies_to.lower())
        if key in seen:
            raise ValueError(f"row {number} prices {price.item} for {price.applies_to or 'all'} again")
        seen.add(key)
    return Book(tuple(price for _, price in numbered))


def _price(row: Row, places: dict[str, int]) -> Price:
    def cell(key: str) -> str:
        return row.cell(places[key]) if key in places else ""

    item = cell("item").lower().replace("_", " ")
    if item not in UNITS:
        raise ValueError(f"row {row.number}: “{cell('item')}” is none of {', '.join(ITEMS)}")
    for key in ("applies_to", "supplier"):
        if len(cell(key)) > _LONGEST_TEXT:
            raise ValueError(f"row {row.number}: {key} is longer than {_LONGEST_TEXT} characters")
    unit = _UNIT_WORDS.get(cell("unit").lower(), cell("unit"))
    if unit not in UNITS[item]:
        raise ValueError(f"row {row.number}: a pack of {item} is counted in {' or '.join(UNITS[item])}, not “{unit}”")
    currency = cell("currency").upper()
    if not re.fullmatch("[A-Z]{3}", currency):
        raise ValueError(f"row {row.number}: the currency “{cell('currency')}” is no code of three letters, as EUR")
    waste = cell("waste_percent").rstrip("% ")
    return Price(
        item=item,
        pack_price=_number(cell("pack_price"), row, "pack price"),
        pack_size=_number(cell("pack_size"), row, "pack size", above_zero=True),
        unit=unit,
        currency=currency,
        applies_to=cell("applies_to"),
        date=_date(cell("date"), row),
        supplier=cell("supplier"),
        waste_percent=_number(waste, row, "waste") if waste else None,
    )


def _number(text: str, row: Row, what: str, above_zero: bool = False) -> Decimal:
    if not text:
        raise ValueError(f"row {row.number}: the {what} is empty: give a number")
    try:
        value = Decimal(text.replace(",", ".").replace(" ", ""))
    except InvalidOperation as error:
        raise ValueError(f"row {row.number}: the {what} “{text}” is no number") from error
    if not value.is_finite():
        raise ValueError(f"row {row.number}: the {what} “{text}” is no number")
    if value < 0 or (above_zero and value == 0):
        least = "above 0" if above_zero else "0 or more"
        raise ValueError(f"row {row.number}: the {what} is {text}; it must be {least}")
    if value > _MOST:
        raise ValueError(f"row {row.number}: the {what} {text} is more than any pack costs or holds")
    return value


def _date(text: str, row: Row) -> str:
    if not text:
        return ""
    try:
        return datetime.date.fromisoformat(text).isoformat()
    except ValueError as error:
        raise ValueError(f"row {row.number}: the date “{text}” is none; give it as 2026-11-28") from error
