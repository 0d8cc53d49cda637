"""A press profile at the shop's prices, and with the shop's figures of hands, upkeep and spoilage."""

import tomllib
from typing import Any

from swaddon.core.press.profile import PressProfile
from swaddon.core.shop.book import Book, supplies_at
from swaddon.io import profiles

_UNITS = {"m²": "m2"}


def priced_profile(base: PressProfile, book: Book) -> PressProfile:
    """The profile with the table's prices written into it; itself where they are in it already.

    Raises
    ------
    PlanError
        When the table cannot price the press.
    """
    found = supplies_at(book, base)
    document: dict[str, Any] = tomllib.loads(base.source)
    for item, supply in found.items():
        entry = document["supplies"][item.replace(" ", "_")]
        entry |= {"unit_price": f"{supply.unit_price:f}", "waste_share": supply.waste_share, "note": supply.note}
    if found:
        document["currency"] = book.currency
    return _made(base, document)


def worked_profile(base: PressProfile, **figures: float) -> PressProfile:
    """The profile with other figures of ``[working]``; raises ``PlanError`` where one cannot be."""
    document: dict[str, Any] = tomllib.loads(base.source)
    document.setdefault("working", {}).update(figures)
    return _made(base, document)


def _made(base: PressProfile, document: dict[str, Any]) -> PressProfile:
    import tomli_w

    made = profiles.parse(tomli_w.dumps(document), base.name)
    return base if made == base else made
