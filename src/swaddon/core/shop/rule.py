"""The rule of thumb, a price per area, held against counted prices."""

from collections.abc import Iterable
from dataclasses import dataclass
from decimal import Decimal

USUAL_PER_SQUARE_INCH = Decimal("0.007")
"""0.7 cent per square inch of print (common practice, no source)."""


@dataclass(frozen=True)
class Counted:
    """A print that was counted: its area in square inches, what its print cost, and how many there were."""

    square_inches: float
    cost: Decimal
    quantity: int = 1


@dataclass(frozen=True)
class Thumb:
    """The rule on one print.

    Attributes
    ----------
    rate, price
        Per square inch, and what it makes of the print.
    error
        Its share too dear, or below 0 too cheap.
    own_rate
        The rate that would be right for this print.
    """

    rate: Decimal
    price: Decimal
    error: float
    own_rate: Decimal


def thumb(print_: Counted, rate: Decimal = USUAL_PER_SQUARE_INCH) -> Thumb | None:
    """The rule's price of a print, and how wrong it is; ``None`` when nothing prints."""
    area = Decimal(repr(print_.square_inches))
    if not area or not print_.cost:
        return None
    price = rate * area
    return Thumb(rate, price, float(price / print_.cost) - 1, print_.cost / area)


def right_rate(mix: Iterable[Counted]) -> Decimal | None:
    """The rate per square inch that would earn back what a mix of prints cost; ``None`` without any."""
    prints = list(mix)
    area = sum((Decimal(repr(item.square_inches)) * item.quantity for item in prints), Decimal(0))
    cost = sum((item.cost * item.quantity for item in prints), Decimal(0))
    return cost / area if area else None
