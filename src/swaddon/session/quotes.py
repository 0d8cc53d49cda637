"""The quote of a job: its lines priced, alternatives with what each earns per press-hour, prices over quantity."""

import datetime
import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from decimal import Decimal
from typing import Any, get_args

import numpy as np
from numpy.typing import NDArray

from swaddon.core.colour.goods import goods_class
from swaddon.core.engine import Run
from swaddon.core.errors import PlanError
from swaddon.core.flow.bound import limiting
from swaddon.core.flow.day import Order
from swaddon.core.flow.quote import (
    BREAKS,
    Alternative,
    Costs,
    Quote,
    QuoteTerms,
    Rounding,
    break_even,
    cents,
    cost_at,
    price_of,
    priced,
)
from swaddon.core.flow.shop import PRINTER, Shop
from swaddon.core.order.lines import OrderLine
from swaddon.core.plan.outcome import PROOF_PX, small_proof
from swaddon.core.plan.stages import Plan, PlannedPrint, plan_print
from swaddon.core.press.processes import PROCESSES
from swaddon.core.press.profile import PressProfile
from swaddon.core.shop.book import Book
from swaddon.session import edits, shop
from swaddon.session.costs import Costed, costed_plan
from swaddon.session.job import Job
from swaddon.session.levers import BLACK, WHITE
from swaddon.session.order_plans import OrderPlanner
from swaddon.session.preset_proofs import about
from swaddon.session.session import Edit

SCHEMA = "swaddon-quote/1"


@dataclass(frozen=True, eq=False)
class QuoteSheet:
    """All that a quote is made of.

    Attributes
    ----------
    alternatives
        Ways to sell the same picture, the job's own first.
    breaks
        Price of one piece of the first line by how many are ordered.
    ways
        Costs of the job's process and of another one, for the break-even; the other may be missing.
    proof
        ``uint8 (H, W, 3)``, the line at hand on its garment.
    """

    title: str
    customer: str
    quote: Quote
    alternatives: tuple[Alternative, ...]
    breaks: tuple[tuple[int, Decimal], ...]
    ways: tuple[Costs, ...]
    break_even: int | None
    proof: NDArray[np.uint8]
    piece: str
    shop: str = ""

    @property
    def valid_until(self) -> str:
        """Last day on which it holds; empty while it has no date."""
        terms = self.quote.terms
        if not terms.date:
            return ""
        return (datetime.date.fromisoformat(terms.date) + datetime.timedelta(days=terms.valid_days)).isoformat()


def terms_of(job: Job) -> QuoteTerms:
    """How the job is priced: as it was quoted, else as the shop priced last."""
    return job.quote or shop.quote_terms()


def changed_terms(
    terms: QuoteTerms,
    *,
    margin: float | None = None,
    markup: float | None = None,
    setup: float | None = None,
    tax: float | None = None,
    deposit: float | None = None,
    rounding: str | None = None,
    number: str | None = None,
) -> QuoteTerms:
    """Terms with what is given; raises ``ValueError`` with one sentence."""
    if margin is not None and markup is not None:
        raise ValueError("Give a margin or a mark-up, not both")
    changes: dict[str, Any] = {"setup": setup, "tax_percent": tax, "deposit_percent": deposit, "number": number}
    if margin is not None or markup is not None:
        changes |= {
            "way": "margin" if margin is not None else "markup", "percent": margin if margin is not None else markup,
        }  # fmt: skip
    if rounding is not None:
        if rounding not in get_args(Rounding):
            raise ValueError(f"“{rounding}” is no rounding: one of {', '.join(get_args(Rounding))}")
        changes["rounding"] = rounding
    made = replace(terms, **{name: value for name, value in changes.items() if value is not None})
    check_terms(made)
    return made


def check_terms(terms: QuoteTerms) -> None:
    """Refuse terms by which nothing can be priced; raises ``ValueError``."""
    limits = (
        ("margin" if terms.way == "margin" else "mark-up", terms.percent, 99.0 if terms.way == "margin" else 1000.0),
        ("set-up", terms.setup, 100_000.0),
        ("tax", terms.tax_percent, 100.0),
        ("deposit", terms.deposit_percent, 100.0),
    )
    for name, value, most in limits:
        if not math.isfinite(value) or not 0 <= value <= most:
            raise ValueError(f"The {name} is {value:g}: it must be between 0 and {most:g}")
    if len(terms.number) > 20:
        raise ValueError("The number of a quote has up to 20 characters")


def numbered(terms: QuoteTerms, today: datetime.date) -> QuoteTerms:
    """Terms with a number and a date of their own, where they have none yet."""
    if terms.number:
        return terms
    return replace(terms, number=shop.next_quote(today), date=today.isoformat())


def set_terms(terms: QuoteTerms) -> Edit:
    """Price the job by these terms: one step of undo."""
    return Edit("Change the quote", lambda job: replace(job, quote=terms), merge_key="quote")


def setup_cost(press: PressProfile, book: Book) -> Decimal:
    """What setting an order up costs the shop, by its minutes and the price of an hour."""
    labour = book.price("labour", press.name, press.process)
    if labour is None or labour.currency != press.currency:
        return Decimal(0)
    return Decimal(repr(press.working.setup_min)) / 60 * labour.unit_price


def quoted(job: Job, book: Book, flow_shop: Shop, run: Run, compares: bool = True) -> QuoteSheet:
    """Price a job; with ``compares`` the light alternative and another process are planned, too.

    Raises
    ------
    PlanError
        When a line cannot be planned, or a margin cannot be.
    """
    plans = _plans(job, run)
    terms = terms_of(job)
    by_settings = {line.planned: plan for line, plan in plans}
    found = [
        (line, costed_plan(by_settings[line.planned], book, line.goods.name, line.settings.quantity))
        for line in _dark_first(job.lines)
    ]
    press = found[0][1].press
    setup = setup_cost(press, book)
    try:
        sold = [(line.title, line.settings.quantity, item.costing.total) for line, item in found]
        quote = priced(sold, setup, terms, press.currency)
        breaks = tuple((count, price_of(cost_at(found[0][1].costing.total, setup, count), terms)) for count in BREAKS)
        alternatives, ways = _others(job, found[0], quote, book, flow_shop, run, compares)
    except ValueError as error:
        raise PlanError(f"{error}.") from error
    plan = by_settings[job.line.planned]
    even = break_even(ways[0], ways[1]) if len(ways) > 1 else None
    piece = job.ware.piece
    return QuoteSheet(
        job.name,
        job.customer,
        quote,
        alternatives,
        breaks,
        ways,
        even,
        small_proof(plan, 2 * PROOF_PX),
        piece,
        flow_shop.name,
    )


Planned = list[tuple[OrderLine, Plan]]


def _plans(job: Job, run: Run) -> Planned:
    planner, found = OrderPlanner(), []
    for line in planner.work(job, run, done=lambda line, plan: found.append((line, plan))):
        if problem := planner.problem(job, line):
            raise PlanError(f"{line.title}: {problem}")
    if not found:
        raise PlanError("There is no artwork yet: nothing can be quoted.")
    return found


def _dark_first(lines: Sequence[OrderLine]) -> list[OrderLine]:
    """Dark goods first, as they are quoted: a lighter one can then be offered for less."""
    order = {"dark": 0, "mid": 1, "pastel": 2, "light": 3}
    return sorted(lines, key=lambda line: order.get(goods_class(line.settings.garment), 1))


_ON_GARMENT = ("garment", "cover")
"""What a customer who presses the transfer at home pays for at home."""


def press_hour_rate(flow_shop: Shop, costed: Costed) -> tuple[str, float]:
    """The machine that limits the shop for a print, and how many pieces an hour all of its kind let through."""
    if not flow_shop.can(costed.press.process):
        return PRINTER, 3600 / costed.used.print_s if costed.used.print_s else 0.0
    return limiting(flow_shop, Order.of(costed.used, costed.press.process, 100), machines_only=True)


def _others(
    job: Job,
    first: tuple[OrderLine, Costed],
    quote: Quote,
    book: Book,
    flow_shop: Shop,
    run: Run,
    compares: bool,
) -> tuple[tuple[Alternative, ...], tuple[Costs, ...]]:
    """Other ways to sell the picture, and other ways to print it."""
    line, item = first
    terms, setup = quote.terms, setup_cost(item.press, book)
    pieces = max(1, quote.pieces)

    def sold(title: str, costed: Costed, cost: Decimal) -> Alternative:
        whole = cost_at(cost, setup, pieces)
        price = price_of(whole, terms)
        limited_by, rate = press_hour_rate(flow_shop, costed)
        return Alternative(title, price, price - whole, rate, limited_by)

    out = [sold(f"As ordered, {line.garment_name}", item, item.costing.total)]
    ways = [Costs(item.press.printing.title, item.costing.total, setup)]
    if item.press.printing.flips:
        bare = item.costing.total - sum(map(item.costing.cost_of, _ON_GARMENT), Decimal(0))
        out.append(sold(f"Transfer alone, for {line.garment_name}", item, bare))
    if not compares:
        return tuple(out), tuple(ways)
    inner = run.aside(200_000_000)
    is_light = goods_class(line.settings.garment) == "light"
    dark = _planned(_with_white(edits.set_garment(BLACK).made(job)), inner) if is_light else None
    if dark is not None:
        cost = costed_plan(dark, book, line.goods.name)
        out.append(sold("The same on black goods", cost, cost.costing.total))
    light = _planned(edits.set_white("White", mode="none").made(edits.set_garment(WHITE).made(job)), inner)
    if light is not None:
        cost = costed_plan(light, book, line.goods.name)
        out.append(sold("The same on white goods, no white under colour", cost, cost.costing.total))
    other = _other_process(job, book, inner)
    if other is not None:
        press, cost = other
        ways.append(Costs(press.printing.title, cost.costing.total, setup_cost(press, book)))
    return tuple(out), tuple(ways)


def _with_white(job: Job) -> Job:
    """The job with white where it has none."""
    return edits.set_white("White", mode="solid").made(job) if job.settings.white.mode == "none" else job


def _planned(job: Job, run: Run) -> PlannedPrint | None:
    request = job.request()
    try:
        return None if request is None else plan_print(about(request), run)
    except PlanError:
        return None


def _other_process(job: Job, book: Book, run: Run) -> tuple[PressProfile, Costed] | None:
    """The job by another process of the same money, the usual rival first."""
    assert job.profile is not None
    rivals = [key for key in ("direct", "film", *PROCESSES) if key != job.profile.process]
    for key in dict.fromkeys(rivals):
        press = shop.press(key)
        if press.currency != job.profile.currency:
            continue
        plan = _planned(edits.set_profile(press).made(job), run)
        if plan is not None:
            return press, costed_plan(plan, book, job.goods.name)
    return None


def quote_report(sheet: QuoteSheet) -> dict[str, Any]:
    """A quote as JSON-ready values, with the shop's own figures (docs/flow.md)."""
    quote, terms = sheet.quote, sheet.quote.terms
    return {
        "schema": SCHEMA,
        "number": terms.number,
        "date": terms.date,
        "valid_until": sheet.valid_until,
        "title": sheet.title,
        "customer": sheet.customer,
        "currency": quote.currency,
        "lines": [
            {
                "title": line.title, "quantity": line.quantity, "price": f"{line.price:f}", "sum": f"{line.sum:f}",
                "cost": f"{cents(line.cost):f}", "earned": f"{cents(line.earned):f}",
            }
            for line in quote.lines
        ],
        "setup": f"{quote.setup:f}",
        "net": f"{quote.net:f}",
        "tax_percent": terms.tax_percent,
        "tax": f"{quote.tax:f}",
        "total": f"{quote.total:f}",
        "deposit": f"{quote.deposit:f}",
        "way": terms.way,
        "percent": terms.percent,
        "alternatives": [
            {
                "title": item.title, "price": f"{item.price:f}", "earned": f"{cents(item.earned):f}",
                "per_hour": round(item.per_hour, 2), "earned_per_press_hour": f"{item.earned_per_hour:f}",
                "limited_by": item.limited_by,
            }
            for item in sheet.alternatives
        ],
        "breaks": [{"quantity": count, "price": f"{price:f}"} for count, price in sheet.breaks],
        "ways": [
            {"title": way.title, "unit_cost": f"{cents(way.unit):f}", "setup_cost": f"{cents(way.setup):f}"}
            for way in sheet.ways
        ],
        "break_even": sheet.break_even,
    }  # fmt: skip


def customer_lines(sheet: QuoteSheet) -> list[tuple[str, str, str, str]]:
    """What a customer reads: title, quantity, price of one, sum."""
    quote = sheet.quote
    out = [(line.title, str(line.quantity), f"{line.price:f}", f"{line.sum:f}") for line in quote.lines]
    if quote.setup:
        out.append(("Setting up, once", "", "", f"{quote.setup:f}"))
    return out


def customer_sums(sheet: QuoteSheet) -> list[tuple[str, str]]:
    """Sums below the lines."""
    quote, terms = sheet.quote, sheet.quote.terms
    out = []
    if terms.tax_percent:
        out += [("Net", f"{quote.net:f}"), (f"Tax {terms.tax_percent:g} %", f"{quote.tax:f}")]
    out.append(("Total", f"{quote.total:f} {quote.currency}"))
    if terms.deposit_percent:
        out.append((f"Deposit {terms.deposit_percent:g} %", f"{quote.deposit:f}"))
    return out


def quote_text(sheet: QuoteSheet) -> str:
    """The quote as text for a customer; nothing of the shop's own figures."""
    terms = sheet.quote.terms
    head = [f"Quote {terms.number} of {terms.date}" if terms.number else "Quote", sheet.title]
    if sheet.customer:
        head.append(f"For {sheet.customer}")
    lines = [
        f"{title[:44]:<46}{count:>5}{price:>10}{total:>12}" for title, count, price, total in customer_lines(sheet)
    ]
    sums = [f"{title:<46}{'':>15}{total:>12}" for title, total in customer_sums(sheet)]
    foot = [f"Valid until {sheet.valid_until}."] if sheet.valid_until else []
    light = next((item for item in sheet.alternatives if "white goods" in item.title), None)
    if light is not None:
        foot.insert(0, f"The same on white goods: {light.price:f} {sheet.quote.currency} a {sheet.piece}.")
    return "\n".join([*head, "", *lines, "", *sums, "", *foot, *([terms.note] if terms.note else [])])
