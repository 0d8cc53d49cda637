"""Orders of a day as a CSV file: what is printed how often, how long each takes, and when it is due."""

import math
from collections.abc import Callable, Sequence
from pathlib import Path

from swaddon.core.errors import PlanError
from swaddon.core.flow.day import Order
from swaddon.core.flow.shop import Shop
from swaddon.core.press.processes import PROCESSES
from swaddon.io.names import shown
from swaddon.io.shops import able, clock_text, minutes
from swaddon.io.spreadsheet import Row, columns_of, read_text, rows_of

HEADS = ("name", "process", "print_s", "quantity", "due", "pretreated", "priority")
_KNOWN = {
    "name": ("order", "job"),
    "process": (),
    "print_s": ("print s", "print time", "seconds"),
    "quantity": ("pieces", "count"),
    "due": ("until",),
    "pretreated": ("pretreat",),
    "priority": (),
}
MOST_ORDERS, MOST_PIECES = 200, 5000
_LONGEST_NAME = 80
_YES, _NO = ("yes", "y", "true", "1"), ("no", "n", "false", "0")


def read_orders(path: Path, shop: Shop, start_min: float) -> tuple[Order, ...]:
    """Orders from a CSV file, from a time of day on; raises ``PlanError`` with one sentence that names the row."""
    try:
        return orders_of(read_text(path), shop, start_min)
    except ValueError as error:
        raise PlanError(f"The orders in “{shown(path)}” cannot be taken: {str(error).rstrip('.')}.") from error


def orders_of(text: str, shop: Shop, start_min: float) -> tuple[Order, ...]:
    """Orders from the text of a table; raises ``ValueError`` with one sentence that names the row."""
    rows = rows_of(text)
    places = columns_of(rows[0], _KNOWN) if rows else None
    if places is None:
        raise ValueError(f"its first row must be heads: {', '.join(HEADS[:4])}, and perhaps {', '.join(HEADS[4:])}")
    missing = [key for key in HEADS[:4] if key not in places]
    if missing:
        raise ValueError(f"it has no column {missing[0]}")
    if len(rows) == 1:
        raise ValueError("it has heads and no row below them")
    return checked([_order(row, places, shop, start_min) for row in rows[1:]])


def checked(orders: Sequence[Order]) -> tuple[Order, ...]:
    """Orders that a day can be made of; raises ``ValueError``."""
    if len(orders) > MOST_ORDERS:
        raise ValueError(f"it has {len(orders)} orders, more than {MOST_ORDERS}")
    pieces = sum(order.quantity for order in orders)
    if pieces > MOST_PIECES:
        raise ValueError(f"that makes {pieces} pieces, more than {MOST_PIECES}: plan fewer days at once")
    return tuple(orders)


def due_s(text: str, shop: Shop, start_min: float) -> float | None:
    """Seconds of work, from the start on, until a time of day; raises ``ValueError``."""
    if not text:
        return None
    due = minutes(text)
    if due <= start_min:
        raise ValueError(f"the due time {text} is in the past: work begins at {clock_text(start_min)}")
    return shop.work(due * 60) - shop.work(start_min * 60)


def _order(row: Row, places: dict[str, int], shop: Shop, start_min: float) -> Order:
    def cell(key: str) -> str:
        return row.cell(places[key]) if key in places else ""

    def told(read: Callable[[], Order]) -> Order:
        try:
            return read()
        except ValueError as error:
            raise ValueError(f"row {row.number}: {error}") from error

    name = cell("name") or f"order {row.number}"
    if len(name) > _LONGEST_NAME:
        raise ValueError(f"row {row.number}: the name is longer than {_LONGEST_NAME} characters")
    return told(lambda: _made(name, cell, shop, start_min))


def _made(name: str, cell: Callable[[str], str], shop: Shop, start_min: float) -> Order:
    process = cell("process").lower()
    if process not in PROCESSES:
        raise ValueError(f"“{cell('process')}” is none of {', '.join(PROCESSES)}")
    able(shop, process, f"“{name}”")
    pretreated = cell("pretreated").lower()
    if pretreated and pretreated not in (*_YES, *_NO):
        raise ValueError(f"pretreated is “{cell('pretreated')}”, give yes or no")
    return Order(
        name=name,
        process=process,
        print_s=_number(cell("print_s"), "print_s", 86_400.0),
        quantity=int(_number(cell("quantity"), "quantity", float(MOST_PIECES), whole=True)),
        due_s=due_s(cell("due"), shop, start_min),
        priority=int(_number(cell("priority") or "0", "priority", 1000.0, whole=True, least=-1000.0)),
        is_pretreated=pretreated not in _NO,
    )


def _number(text: str, what: str, most: float, whole: bool = False, least: float = 0.0) -> float:
    if not text:
        raise ValueError(f"{what} is empty: give a number")
    try:
        value = float(text.replace(",", "."))
    except ValueError as error:
        raise ValueError(f"{what} “{text}” is no number") from error
    if not math.isfinite(value) or value > most or value < least or (value == 0 and least == 0):
        raise ValueError(f"{what} is {text}, it must be above {least:g} and up to {most:g}")
    if whole and value != round(value):
        raise ValueError(f"{what} is {text}, it must be a whole number")
    return value
