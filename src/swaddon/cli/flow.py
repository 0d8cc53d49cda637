"""Commands of time: the flow of a day through the shop, and the quote."""

import json
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from swaddon.cli.progress import TerminalProgress

if TYPE_CHECKING:
    from swaddon.core.flow.day import Order
    from swaddon.core.flow.shop import Shop


def flow(
    orders: Annotated[
        list[Path], typer.Argument(metavar="ORDERS.csv|JOB…", help="Table of orders (docs/flow.md), or job files.")
    ],
    shop: Annotated[Path | None, typer.Option(help="TOML file of the shop. Default: the shop's own.")] = None,
    set_: Annotated[
        list[str] | None, typer.Option("--set", help="Another number of a resource, as heat-press=2. May be repeated.")
    ] = None,
    seed: Annotated[int, typer.Option(help="Which day: the same number is the same day.")] = 1,
    runs: Annotated[int, typer.Option(help="Days that the chance of being late is told from, 0 to 5000.")] = 400,
    rule: Annotated[
        str | None, typer.Option(help="Order of the work: entered, due, fewest-late or alternate. Default: the best.")
    ] = None,
    start: Annotated[str | None, typer.Option(help="When work begins, as 08:30. Default: when the shop opens.")] = None,
    due: Annotated[str | None, typer.Option(help="When job files are due, as 16:00.")] = None,
    out: Annotated[Path | None, typer.Option(help="CSV file for every stage of every piece.")] = None,
    as_json: Annotated[bool, typer.Option("--json", help="Print it as JSON.")] = False,
) -> None:
    """Run a day through the shop: rate, finish, bottleneck, what one more would bring, and the chance of being late."""
    from swaddon.core.flow.rules import RULES
    from swaddon.io.shops import minutes
    from swaddon.session.flow_plans import flow_report, flow_table, opening_min, planned_flow, with_risk, write_bars

    if not 0 <= runs <= 5000:
        raise ValueError("--runs is between 0 and 5000")
    if not 0 <= seed < 2**32:
        raise ValueError("--seed is 0 or more, below 4294967296")
    if rule is not None and rule not in RULES:
        raise ValueError(f"--rule “{rule}” is none of {', '.join(RULES)}")
    used = _shop(shop, set_ or [])
    begin = opening_min(used) if start is None else minutes(start)
    with TerminalProgress() as progress:
        wanted = _orders(orders, used, begin, due, progress)
        made = planned_flow(used, wanted, begin, seed, rule or "")
        if runs:
            made = with_risk(made, runs, seed, rule or "", told=progress.report)
    report = flow_report(made)
    if out is not None:
        write_bars(out, made)
    typer.echo(json.dumps(report, indent=2, ensure_ascii=False) if as_json else flow_table(report))
    if out is not None and not as_json:
        typer.echo(f"Written to {out}")


def _shop(path: Path | None, changes: list[str]) -> "Shop":
    """The shop with other counts."""
    from swaddon.io.shops import checked, known, read_shop
    from swaddon.session import shop

    used = shop.flow_shop() if path is None else read_shop(path)
    for text in changes:
        name, _, number = text.partition("=")
        if not number.strip().isdigit() or int(number) > 50:
            raise ValueError(f"--set “{text}” is none: give a resource and a number up to 50, as heat-press=2")
        try:
            known(name)
        except ValueError as error:
            raise ValueError(f"--set “{text}”: “{name}” is {error}") from error
        used = used.with_count(name, int(number))
        if not int(number):
            used = used.without(name)
    return checked(used)


def _orders(
    paths: list[Path], shop: "Shop", begin: float, due: str | None, progress: TerminalProgress
) -> "tuple[Order, ...]":
    """Orders of tables and of job files."""
    from swaddon.io.orders_file import checked, due_s, read_orders

    out: list[Order] = []
    for path in paths:
        if path.suffix.lower() in (".csv", ".tsv", ".txt"):
            out += read_orders(path, shop, begin)
        else:
            until = due_s(due or "", shop, begin)
            out += _of_job(path, shop, until, progress)
    return checked(out)


def _of_job(path: Path, shop: "Shop", until: float | None, progress: TerminalProgress) -> "list[Order]":
    """The lines of a job file, planned."""
    from swaddon.core import fast
    from swaddon.core.engine import Cache, Run
    from swaddon.io.shops import able
    from swaddon.io.tables import cache_folder
    from swaddon.session.flow_plans import orders_of_job
    from swaddon.session.storage import open_job

    fast.enable(cache_folder())
    job = open_job(path)
    if job.profile is None or job.file is None:
        raise ValueError(f"The job “{path.name}” has no artwork: there is nothing to print")
    able(shop, job.profile.process, f"“{path.name}”")
    return list(orders_of_job(job, Run(Cache(1), progress=progress.report), until))


def quote(
    job: Annotated[Path, typer.Argument(metavar="JOB", help="Job file.")],
    out: Annotated[Path | None, typer.Option(help="File for the quote: .pdf, .txt or .csv.")] = None,
    margin: Annotated[float | None, typer.Option(help="Margin, percent of the price.")] = None,
    markup: Annotated[float | None, typer.Option(help="Mark-up, percent of the cost.")] = None,
    set_up: Annotated[float | None, typer.Option("--set-up", help="Charged once for the order, in money.")] = None,
    tax: Annotated[float | None, typer.Option(help="Tax on top, percent.")] = None,
    deposit: Annotated[float | None, typer.Option(help="Deposit, percent of the total.")] = None,
    rounding: Annotated[
        str | None, typer.Option(help="Prices go up to the next of 0.01, 0.05, 0.10, 0.50, 1.00, or x.99.")
    ] = None,
    number: Annotated[str | None, typer.Option(help="Number of the quote. Default: the job's, else the next.")] = None,
    shop: Annotated[Path | None, typer.Option(help="TOML file of the shop. Default: the shop's own.")] = None,
    supplies: Annotated[Path | None, typer.Option(help="CSV file of prices. Default: the shop's own.")] = None,
    as_json: Annotated[bool, typer.Option("--json", help="Print it as JSON, with the shop's own figures.")] = False,
) -> None:
    """Quote a job: prices by line, dark first, what each alternative earns per press-hour, a page for the customer."""
    import datetime
    from dataclasses import replace

    from swaddon.core import fast
    from swaddon.core.engine import Cache, Run
    from swaddon.io.priced import priced_profile
    from swaddon.io.supplies import read_book
    from swaddon.io.tables import cache_folder
    from swaddon.session import quotes
    from swaddon.session import shop as shops
    from swaddon.session.quote_files import write_quote_file
    from swaddon.session.storage import open_job

    if out is not None and (out.suffix.lower() not in (".pdf", ".txt", ".csv") or out.is_dir()):
        raise ValueError(f"--out “{out}” is no quote: give a name that ends in .pdf, .txt or .csv")
    fast.enable(cache_folder())
    opened = open_job(job)
    if opened.profile is None or opened.file is None:
        raise ValueError(f"The job “{job.name}” has no artwork: nothing can be quoted")
    book = shops.book() if supplies is None else read_book(supplies)
    terms = quotes.changed_terms(
        quotes.terms_of(opened),
        margin=margin,
        markup=markup,
        setup=set_up,
        tax=tax,
        deposit=deposit,
        rounding=rounding,
        number=number,
    )
    terms = quotes.numbered(terms, datetime.date.today())
    ready = replace(opened, profile=priced_profile(opened.profile, book), quote=terms)
    with TerminalProgress() as progress:
        sheet = quotes.quoted(ready, book, _shop(shop, []), Run(Cache(1), progress=progress.report))
    if out is not None:
        write_quote_file(out, sheet)
    report = quotes.quote_report(sheet)
    typer.echo(json.dumps(report, indent=2, ensure_ascii=False) if as_json else quotes.quote_text(sheet))
    if out is not None and not as_json:
        typer.echo(f"Written to {out}")


def register(app: typer.Typer) -> None:
    """Add the commands."""
    app.command()(flow)
    app.command()(quote)
