"""The shop's prices: packs of supplies, goods, hours and energy, each with its date. Money is Decimal."""

from collections.abc import Iterator
from dataclasses import dataclass, field, replace
from decimal import Decimal
from typing import Literal

from swaddon.core.errors import PlanError
from swaddon.core.press.profile import PressProfile, Supply

Item = Literal[
    "white ink", "colour ink", "film", "powder", "pretreat", "sheet", "cover sheet", "garment", "packaging", "labour",
    "machine", "energy",
]  # fmt: skip

OF_THE_PRINT: tuple[Item, ...] = ("white ink", "colour ink", "film", "powder", "pretreat", "sheet")
"""Supplies that a press profile has a price of its own for."""

UNITS: dict[Item, tuple[str, ...]] = {
    "white ink": ("ml", "l", "g", "kg", "page"),
    "colour ink": ("ml", "l", "g", "kg", "page"),
    "film": ("m²", "sq in"),
    "powder": ("g", "kg"),
    "pretreat": ("ml", "l"),
    "sheet": ("sheet", "set"),
    "cover sheet": ("press",),
    "garment": ("piece",),
    "packaging": ("piece",),
    "labour": ("h",),
    "machine": ("h",),
    "energy": ("kWh",),
}
"""Items of the table, with the units in which a pack of them may be counted."""

_IN_BASE = {"l": ("ml", Decimal(1000)), "kg": ("g", Decimal(1000)), "sq in": ("m²", Decimal("0.00064516"))}

PAGE_COVERAGE = 0.05
"""Coverage of the page by which yields of toner cartridges are stated, each colour (ISO/IEC 19798:2017)."""

PAGE_M2 = 0.21 * 0.297
"""Area of that page: A4 (ISO 216)."""


@dataclass(frozen=True)
class Price:
    """One row of the table.

    Attributes
    ----------
    item, applies_to
        What it is; for which press, process or garment, by name, empty: all that have no row of their own.
    pack_price, pack_size, unit, currency
        What a pack costs, and how much is in it.
    date, supplier
        ISO 8601, and where it is bought; both may be empty.
    waste_percent
        What is thrown away of it, on top; ``None``: as the press profile says.
    """

    item: Item
    pack_price: Decimal
    pack_size: Decimal
    unit: str
    currency: str
    applies_to: str = ""
    date: str = ""
    supplier: str = ""
    waste_percent: Decimal | None = None

    @property
    def base_unit(self) -> str:
        """Unit of :attr:`unit_price`."""
        return _IN_BASE.get(self.unit, (self.unit, Decimal(1)))[0]

    @property
    def unit_price(self) -> Decimal:
        """Price of one ml, g, m², piece, hour …

        >>> Price("film", Decimal("0.0024"), Decimal(1), "sq in", "EUR").unit_price.quantize(Decimal("0.0001"))
        Decimal('3.7200')
        """
        return self.pack_price / (self.pack_size * _IN_BASE.get(self.unit, ("", Decimal(1)))[1])

    @property
    def told(self) -> str:
        """Where the price is from, in a few words."""
        date = f", {self.date}" if self.date else ""
        return f"{self.pack_price} {self.currency} for {self.pack_size:f} {self.unit}{date}"


@dataclass(frozen=True)
class Book:
    """All prices of a shop; one currency."""

    prices: tuple[Price, ...] = field(default=())

    @property
    def currency(self) -> str:
        """Currency of the table; empty without a row."""
        return self.prices[0].currency if self.prices else ""

    def price(self, item: Item, *names: str) -> Price | None:
        """The row for the first of some names that has one, else the row for all; ``None``: there is none."""
        for name in (*names, ""):
            for price in self.prices:
                if price.item == item and price.applies_to.lower() == name.lower():
                    return price
        return None

    def with_price(self, made: Price) -> "Book":
        """With a row more, or in the place of that of the same item and name."""
        key = (made.item, made.applies_to.lower())
        if any((held.item, held.applies_to.lower()) == key for held in self.prices):
            swapped = (made if (held.item, held.applies_to.lower()) == key else held for held in self.prices)
            return Book(tuple(swapped))
        return Book((*self.prices, made))


def own_supplies(press: PressProfile) -> Iterator[tuple[Item, Supply]]:
    """What a press profile prices, by the item of the table."""
    if press.has_white:
        yield "white ink", press.white_ink
    yield "colour ink", press.colour_ink
    for item, holder in (("film", press.film), ("powder", press.powder), ("pretreat", press.pretreat)):
        if holder is not None:
            yield item, holder.supply  # type: ignore[misc]
    if press.sheet is not None:
        yield "sheet", press.sheet


def page_g(press: PressProfile, item: Item) -> Decimal:
    """Toner of one page by which yields are stated, in g: coverage × area × lay-down, the mean of the colours."""
    inks = ("W",) if item == "white ink" else press.inks
    lay_down = sum(press.lay_down_per_m2[ink] for ink in inks) / len(inks)
    return Decimal(repr(PAGE_COVERAGE * PAGE_M2 * lay_down))


def priced(price: Price, item: Item, supply: Supply, press: PressProfile) -> Supply:
    """A supply of a press at the price of a row.

    Raises
    ------
    PlanError
        When the row counts it in a unit that the press does not.
    """
    unit_price, unit = price.unit_price, price.base_unit
    if unit == "page" and supply.unit == "g":
        unit_price, unit = unit_price / page_g(press, item), "g"
    if item == "sheet":
        unit = supply.unit
    if unit != supply.unit:
        raise PlanError(
            f"The price of {item} for {price.applies_to or 'all presses'} is by {price.unit}, but {press.name} counts "
            f"it in {supply.unit}: give the pack in {supply.unit}."
        )
    waste = supply.waste_share if price.waste_percent is None else float(price.waste_percent / 100)
    return replace(supply, unit_price=unit_price, waste_share=waste, note=price.told)


def supplies_at(book: Book, press: PressProfile) -> dict[Item, Supply]:
    """Supplies of a press that the table has a price for, at that price.

    Raises
    ------
    PlanError
        When the table is in another currency than the press and lacks one of its supplies, or counts one in another
        unit.
    """
    out: dict[Item, Supply] = {}
    for item, supply in own_supplies(press):
        price = book.price(item, press.name, press.process)
        if price is not None:
            out[item] = priced(price, item, supply, press)
        elif book.prices and book.currency != press.currency:
            raise PlanError(
                f"The supplies are in {book.currency}, the press {press.name} in {press.currency}, and there is no "
                f"price of {item}: give every supply of the press in {book.currency}."
            )
    return out


def with_prices(book: Book, press: PressProfile) -> PressProfile:
    """The press at the table's prices; raises ``PlanError`` as :func:`supplies_at`."""
    found = supplies_at(book, press)
    if not found:
        return press
    changes: dict[str, object] = {"currency": book.currency}
    for item, supply in found.items():
        name = item.replace(" ", "_")
        holder = getattr(press, name)
        changes[name] = supply if isinstance(holder, Supply) else replace(holder, supply=supply)
    return replace(press, **changes)  # type: ignore[arg-type]
