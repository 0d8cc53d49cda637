"""Money as it is told: to the digits that matter, with parts that sum to the total beside them."""

from collections.abc import Iterable
from decimal import ROUND_FLOOR, ROUND_HALF_UP, Decimal

STORED_PLACES = 4
"""Decimals of money in plan.json; the exact value stands beside."""

_USUAL_PLACES, _MOST_PLACES = 2, 6
_PER = 100
"""Pieces that sums are told per, beside those of the order."""

_PLAIN_FROM = Decimal("0.1")
"""Sums from here on say enough in two decimals."""

_PART_PLAIN_FROM = Decimal("0.01")
"""Parts from here on show in two decimals even when their remainder goes to another part."""


def places(total: Decimal, parts: Iterable[Decimal] = ()) -> int:
    """Decimals that tell a sum and every one of its parts: two, more where one is small, so that none shows as nothing.

    >>> places(Decimal("4.1"))
    2
    >>> places(Decimal("0.0234"))
    4
    >>> places(Decimal("0.83"), [Decimal("0.8259"), Decimal("0.0041")])
    4
    """
    needed = [_for(total, _PLAIN_FROM), *(_for(part, _PART_PLAIN_FROM) for part in parts)]
    return max(needed)


def _for(value: Decimal, plain_from: Decimal) -> int:
    size = abs(value)
    if size == 0 or size >= plain_from:
        return _USUAL_PLACES
    if size >= Decimal("0.0005"):
        return STORED_PLACES
    return _MOST_PLACES


def rounded(value: Decimal, decimals: int = _USUAL_PLACES) -> Decimal:
    """Half up.

    >>> rounded(Decimal("0.125"))
    Decimal('0.13')
    """
    return value.quantize(Decimal(1).scaleb(-decimals), ROUND_HALF_UP)


def money_text(value: Decimal, decimals: int | None = None) -> str:
    """An amount of money to the digits that matter.

    >>> money_text(Decimal("0.0041")), money_text(Decimal("12.3456"))
    ('0.0041', '12.35')
    """
    if decimals is not None:
        return f"{rounded(value, decimals):f}"
    whole, _, fraction = f"{rounded(value, places(value)):f}".partition(".")
    return f"{whole}.{fraction.rstrip('0').ljust(_USUAL_PLACES, '0')}"


def shares(parts: Iterable[Decimal], decimals: int) -> tuple[Decimal, ...]:
    """Parts rounded so that they sum to their rounded sum: what is missing goes to the largest remainders.

    >>> [str(part) for part in shares([Decimal("0.333")] * 3, 2)]
    ['0.34', '0.33', '0.33']
    """
    exact = tuple(parts)
    unit = Decimal(1).scaleb(-decimals)
    low = [part.quantize(unit, ROUND_FLOOR) for part in exact]
    missing = int((rounded(sum(exact, Decimal(0)), decimals) - sum(low, Decimal(0))) / unit)
    order = sorted(range(len(exact)), key=lambda index: low[index] - exact[index])
    for index in order[:missing]:
        low[index] += unit
    return tuple(low)


def at_quantities(each: Decimal, quantity: int) -> str:
    """What a sum of one piece comes to for the whole order and per hundred; empty where one piece is ordered.

    >>> at_quantities(Decimal("0.2345"), 36), at_quantities(Decimal("0.0012"), 100), at_quantities(Decimal(1), 1)
    ('36: 8.44 · 100: 23.45', '100: 0.12', '')
    """
    if quantity < 2:
        return ""
    counts = dict.fromkeys((quantity, _PER))
    return " · ".join(f"{count}: {money_text(each * count)}" for count in counts)
