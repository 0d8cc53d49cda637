"""The quote: what an order is sold for. Money is Decimal; each price is rounded once, by the shop's rule.

Two schools. *Margin* is a share of the price: 40 % of margin on a cost of 6.00 asks 10.00, and 40 % of what comes in is
kept. *Mark-up* is a share of the cost: 40 % on 6.00 asks 8.40, of which 28.6 % is kept. Margin tells what is earned of
each sale; mark-up is easier by hand and looks larger than it is.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from decimal import ROUND_CEILING, ROUND_HALF_UP, Decimal
from typing import Annotated, Literal

from annotated_types import Ge, Le, MaxLen

Way = Literal["margin", "markup"]
Rounding = Literal["0.01", "0.05", "0.10", "0.50", "1.00", "x.99"]

BREAKS = (1, 6, 12, 24, 48, 100, 200)
"""Quantities that prices are told for (assumed)."""


@dataclass(frozen=True)
class QuoteTerms:
    """How an order is priced, and what stands on its quote.

    Attributes
    ----------
    number, date
        Of the quote; ``date`` ISO 8601. Empty: not numbered yet.
    way, percent
        Margin (a share of the price) or mark-up (a share of the cost).
    setup
        What is charged once for setting the order up, in money.
    rounding
        Prices of a piece go up to the next of these.
    deposit_percent, tax_percent, valid_days
        What is paid before, the tax on top, and how long it holds.
    note
        A line for the customer.
    """

    number: Annotated[str, MaxLen(20)] = ""
    date: Annotated[str, MaxLen(10)] = ""
    way: Way = "margin"
    percent: Annotated[float, Ge(0), Le(1000)] = 45.0
    setup: Annotated[float, Ge(0), Le(100_000)] = 15.0
    rounding: Rounding = "0.10"
    deposit_percent: Annotated[float, Ge(0), Le(100)] = 30.0
    tax_percent: Annotated[float, Ge(0), Le(100)] = 0.0
    valid_days: Annotated[int, Ge(1), Le(365)] = 30
    note: Annotated[str, MaxLen(300)] = ""


@dataclass(frozen=True)
class Priced:
    """One line of a quote: what it is, how many, and the price of one; ``cost`` is the shop's own, never shown."""

    title: str
    quantity: int
    cost: Decimal
    price: Decimal

    @property
    def sum(self) -> Decimal:
        """Price of all of them."""
        return self.price * self.quantity

    @property
    def earned(self) -> Decimal:
        """What one piece earns: its price less its cost."""
        return self.price - self.cost


@dataclass(frozen=True)
class Quote:
    """A priced order: ``net`` + ``tax`` = ``total``; ``deposit`` is a part of the total."""

    terms: QuoteTerms
    lines: tuple[Priced, ...]
    currency: str

    @property
    def setup(self) -> Decimal:
        """What is charged once."""
        return cents(Decimal(repr(self.terms.setup)))

    @property
    def net(self) -> Decimal:
        return sum((line.sum for line in self.lines), Decimal(0)) + self.setup

    @property
    def tax(self) -> Decimal:
        return cents(self.net * Decimal(repr(self.terms.tax_percent)) / 100)

    @property
    def total(self) -> Decimal:
        return self.net + self.tax

    @property
    def deposit(self) -> Decimal:
        return cents(self.total * Decimal(repr(self.terms.deposit_percent)) / 100)

    @property
    def pieces(self) -> int:
        return sum(line.quantity for line in self.lines)


def cents(value: Decimal) -> Decimal:
    """Half up to two decimals."""
    return value.quantize(Decimal("0.01"), ROUND_HALF_UP)


def rounded_price(price: Decimal, rounding: Rounding) -> Decimal:
    """The next price up by a rule.

    >>> [str(rounded_price(Decimal("9.31"), rule)) for rule in ("0.01", "0.05", "0.10", "0.50", "1.00", "x.99")]
    ['9.31', '9.35', '9.40', '9.50', '10.00', '9.99']
    """
    if rounding == "x.99":
        whole = (price - Decimal("0.99")).quantize(Decimal(1), ROUND_CEILING)
        return max(whole, Decimal(0)) + Decimal("0.99")
    step = Decimal(rounding)
    return ((price / step).quantize(Decimal(1), ROUND_CEILING) * step).quantize(Decimal("0.01"))


def price_of(cost: Decimal, terms: QuoteTerms) -> Decimal:
    """Price of a piece of some cost; raises ``ValueError`` where a margin leaves nothing to divide by.

    >>> price_of(Decimal(6), QuoteTerms(percent=40)), price_of(Decimal(6), QuoteTerms(way="markup", percent=40))
    (Decimal('10.00'), Decimal('8.40'))
    """
    share = Decimal(repr(terms.percent)) / 100
    if terms.way == "markup":
        return rounded_price(cost * (1 + share), terms.rounding)
    if share >= 1:
        raise ValueError("A margin is a share of the price: below 100 %")
    return rounded_price(cost / (1 - share), terms.rounding)


def cost_at(unit: Decimal, setup: Decimal, quantity: int) -> Decimal:
    """Cost of one of so many pieces, its share of setting up included."""
    return unit + setup / quantity


@dataclass(frozen=True)
class Costs:
    """A way of printing for a break-even: cost of one piece, and of setting up once."""

    title: str
    unit: Decimal
    setup: Decimal

    def cost(self, quantity: int) -> Decimal:
        """Cost of so many pieces."""
        return self.setup + self.unit * quantity


def break_even(one: Costs, other: Costs) -> int | None:
    """First quantity from which the way with dearer set-up is the cheaper one; ``None``: it never is."""
    if one.setup == other.setup:
        return None
    dear, cheap = (one, other) if one.setup > other.setup else (other, one)
    gain = cheap.unit - dear.unit
    if gain <= 0:
        return None
    return int(((dear.setup - cheap.setup) / gain).to_integral_value(ROUND_CEILING)) or 1


@dataclass(frozen=True)
class Alternative:
    """Another way to sell the same picture: its price, what a piece earns, and what it earns per press-hour.

    A press-hour is an hour of the machines that limit the shop for this piece, ``limited_by``: all of that kind.
    """

    title: str
    price: Decimal
    earned: Decimal
    per_hour: float
    limited_by: str = ""

    @property
    def earned_per_hour(self) -> Decimal:
        """The figure to choose by."""
        return cents(self.earned * Decimal(repr(round(self.per_hour, 6))))


def priced(lines: Sequence[tuple[str, int, Decimal]], setup: Decimal, terms: QuoteTerms, currency: str) -> Quote:
    """A quote of lines (title, quantity, cost of one): setting up is spread over all pieces."""
    pieces = sum(quantity for _, quantity, _ in lines)
    out = []
    for title, quantity, cost in lines:
        whole = cost_at(cost, setup, max(1, pieces))
        out.append(Priced(title, quantity, whole, price_of(whole, terms)))
    return Quote(terms, tuple(out), currency)
