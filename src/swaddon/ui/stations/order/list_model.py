"""The order list: rows of what each line is and comes to, and the edits of its cells."""

from collections.abc import Sequence
from dataclasses import dataclass

from swaddon.core.count.consumption import amount_text
from swaddon.core.count.money import money_text
from swaddon.core.order.lines import PLACES, OrderLine
from swaddon.core.plan.outcome import Outcome
from swaddon.core.plan.whole_order import OneForAll
from swaddon.io.print_areas import SizeTable
from swaddon.session import order_edits, parse
from swaddon.session.job import Job
from swaddon.session.lengths import length_text
from swaddon.session.line_list import (
    ShopGoods,
    WantedLine,
    line_of,
    lines_of,
    place_from,
    print_from,
    quantity_from,
    size_from,
)
from swaddon.session.session import Edit
from swaddon.session.setting_words import title_of

HEADS = (
    "Garment", "Size", "Pieces", "Place", "Print", "Width", "White", "Each", "Together", "Print time", "Worst ΔE", "",
)  # fmt: skip
GARMENT, SIZE, PIECES, PLACE, PRINT, WIDTH = range(6)
ENTERED = frozenset({GARMENT, SIZE, PIECES, PLACE, PRINT, WIDTH})
"""Columns that are entered; the others are counted."""


@dataclass(frozen=True)
class ListRow:
    """One line: its cells, its colour, and what is to be told of it."""

    cells: tuple[str, ...]
    rgb: tuple[int, int, int]
    tip: str


def list_rows(job: Job, outcomes: Sequence[Outcome | None], inches: bool) -> tuple[ListRow, ...]:
    return tuple(_row(line, outcome, inches) for line, outcome in zip(job.lines, outcomes, strict=True))


def _row(line: OrderLine, outcome: Outcome | None, inches: bool) -> ListRow:
    settings, goods = line.settings, line.goods
    entered = (
        line.garment_name,
        goods.size,
        str(settings.quantity),
        PLACES[goods.place].title,
        goods.fit,
        length_text(settings.width_mm, inches, digits_mm=1),
    )
    own = f"own: {', '.join(title_of(path).lower() for path in line.own)}" if line.own else ""
    if outcome is None:
        return ListRow((*entered, "…", "…", "…", "…", "…", own), settings.garment, own)
    found = [item for item in outcome.findings if item.severity != "note"]
    words = [word for word in (f"{outcome.stops} stop" if outcome.stops else "", own) if word]
    white = next((item for item in outcome.materials if item.kind == "white"), None)
    counted = (
        "none" if white is None else amount_text(white.amount, white.supply.unit),
        money_text(outcome.cost),
        f"{money_text(outcome.cost * settings.quantity)} {outcome.currency}",
        f"{outcome.print_s:.0f} s",
        f"{outcome.worst_de:.1f}",
        " · ".join(words),
    )
    tip = "\n".join([*(f"{item.severity.capitalize()}: {item.text}" for item in found), *([own] if own else [])])
    return ListRow((*entered, *counted), settings.garment, tip)


def cell_edit(at: int, column: int, text: str, job: Job, goods: ShopGoods, inches: bool) -> Edit:
    """The edit that a cell asks for; raises ``ValueError`` with one sentence."""
    table = goods.table
    if column == GARMENT:
        return order_edits.set_garment(at, goods.garment_named(text))
    if column == SIZE:
        return order_edits.set_size(at, size_from(text, table), table)
    if column == PIECES:
        return order_edits.set_quantity(at, quantity_from(text))
    if column == PLACE:
        return order_edits.set_place(at, place_from(text), table)
    if column == PRINT:
        return _print_edit(at, text, job, table)
    width_mm = round(parse.print_length_mm(text, "Print width", "in" if inches else "mm"), 2)
    return order_edits.set_width(at, width_mm)


def _print_edit(at: int, text: str, job: Job, table: SizeTable) -> Edit:
    if text.strip().lower() == "own":
        return order_edits.set_fit(at, "own", table)
    fit, width_mm = print_from(text, job.lines[at].goods.size, table)
    return order_edits.set_fit(at, fit, table) if width_mm is None else order_edits.set_width(at, width_mm)


def typed_lines(text: str, goods: ShopGoods) -> tuple[WantedLine, ...]:
    """Lines from what is typed or pasted: rows of a spreadsheet, parts with colons, or words such as “navy L 6”.

    Raises
    ------
    ValueError
        One sentence, with the row where there are several.
    """
    if "\n" in text.strip() or "\t" in text or ";" in text or "," in text:
        return lines_of(text, goods)
    if ":" in text:
        return (line_of(text, goods, "The line"),)
    return (_from_words(text.split(), goods),)


def _from_words(words: Sequence[str], goods: ShopGoods) -> WantedLine:
    """A garment, a size of the table and a number, in this order; size and number may be left out."""
    left = list(words)
    quantity = quantity_from(left.pop()) if len(left) > 1 and left[-1].isdigit() else 1
    size = goods.table.size_named(left[-1]) if len(left) > 1 else None
    if size is not None:
        left.pop()
    garment = goods.garment_named(" ".join(left))
    return WantedLine(garment, size or "", quantity, "front", goods.table.fit_of(size or ""))


@dataclass(frozen=True)
class WayRow:
    """One way of printing the order; ``share`` is its cost as a share of the dearest."""

    title: str
    share: float
    is_advised: bool
    cost: str
    facts: str


def way_rows(advice: OneForAll) -> tuple[WayRow, ...]:
    dearest = max((way.sum.cost for way in advice.ways), default=None)
    rows = []
    for way in advice.ways:
        total = way.sum
        white = next((item for item in total.amounts if item.kind == "white"), None)
        facts = (
            f"{way.kinds} transfer{'s' if way.kinds > 1 else ''}",
            "no white" if white is None else f"white {amount_text(white.amount, white.unit)}",
            f"{total.print_s / 60:.0f} min",
            f"{total.hand_g_m2:.0f} g/m²",
            f"worst ΔE {total.worst_de:.1f}",
        )
        share = float(total.cost / dearest) if dearest else 0.0
        cost = f"{money_text(total.cost)} {total.currency}"
        rows.append(WayRow(way.title, share, way.key == advice.advised, cost, " · ".join(facts)))
    return tuple(rows)
