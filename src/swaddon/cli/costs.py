"""Commands of money and weights: what one piece costs, the shop's prices, and weigh-ins."""

import datetime
import json
import sys
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from swaddon.cli.progress import TerminalProgress

if TYPE_CHECKING:
    from swaddon.core.press.profile import PressProfile
    from swaddon.core.shop.book import Book
    from swaddon.session.costs import Costed

_PROFILE = typer.Option(help="Press profile: shipped name (as the shop has measured it) or TOML file.")


def cost(
    plan_or_job: Annotated[
        Path, typer.Argument(metavar="PLAN_DIR|JOB", help="Folder of an export, its plan.json, or a job file.")
    ],
    supplies: Annotated[
        Path | None,
        typer.Option(help="CSV file of prices (docs/cost.md). Default: the shop's own."),
    ] = None,
    profile: Annotated[
        str | None, typer.Option(help="Press profile in the place of the plan's: shipped name or TOML file.")
    ] = None,
    garment: Annotated[str, typer.Option(help="Name of the garment, for its price.")] = "",
    out: Annotated[Path | None, typer.Option(help="File for the parts, .csv, or for all of it, .json.")] = None,
    as_json: Annotated[bool, typer.Option("--json", help="Print it as JSON.")] = False,
) -> None:
    """Tell what one piece costs, part by part, with its ± and the rule of thumb beside it."""
    from swaddon.session import shop
    from swaddon.session.costs import cost_report, cost_table, write_cost

    if out is not None and (out.suffix.lower() not in (".csv", ".json") or out.is_dir()):
        raise ValueError(f"--out “{out}” is no CSV or JSON file: give a name that ends in .csv or .json")
    book = _book(supplies)
    name, found = _costed(plan_or_job, book, profile, garment)
    report = cost_report(name, found, shop.mix_of(found[0].press.name))
    if out is not None:
        write_cost(out, report)
    typer.echo(json.dumps(report, indent=2, ensure_ascii=False) if as_json else cost_table(report))
    if out is not None and not as_json:
        typer.echo(f"Written to {out}")


def _book(path: Path | None) -> "Book":
    from swaddon.io.supplies import read_book
    from swaddon.session import shop

    return shop.book() if path is None else read_book(path)


def _costed(path: Path, book: "Book", profile: str | None, garment: str) -> "tuple[str, tuple[Costed, ...]]":
    """The cost of what lies at a path, and its name."""
    from dataclasses import replace

    from swaddon.core.engine import Cache, Run
    from swaddon.io.plan_file import read_plan
    from swaddon.io.priced import priced_profile
    from swaddon.session import shop
    from swaddon.session.costs import costed, costed_job
    from swaddon.session.storage import open_job

    if path.is_dir() or path.suffix.lower() == ".json":
        plan = read_plan(path)
        press = priced_profile(shop.press_of(profile) if profile else shop.named(plan.press_name), book)
        used = plan.used(press, anew=profile is not None)
        return plan.title, (costed(used, press, book, garment),)
    _load_kernels()
    job = open_job(path)
    own = shop.press_of(profile) if profile else job.profile
    if job.file is None or own is None:
        raise ValueError(f"The job “{path.name}” has no artwork: nothing is printed, so nothing can be counted")
    job = replace(job, profile=priced_profile(own, book))
    if garment:
        job = replace(job, goods=replace(job.goods, name=garment))
    with TerminalProgress() as progress:
        return job.name, costed_job(job, book, Run(Cache(1), progress=progress.report))


def _load_kernels() -> None:
    from swaddon.core import fast
    from swaddon.io.tables import cache_folder

    fast.enable(cache_folder())


def supplies(
    out: Annotated[Path | None, typer.Option(help="CSV file for the table. Default: print it.")] = None,
    take: Annotated[Path | None, typer.Option(help="CSV file that becomes the shop's own table.")] = None,
) -> None:
    """Print the shop's prices as CSV, write them to a file, or take others."""
    from swaddon.io.supplies import HEADS, cells_of, read_book, write_book
    from swaddon.session import shop

    if take is not None:
        book = read_book(take)
        shop.keep_book(book)
        typer.echo(f"{len(book.prices)} prices are the shop's now.")
        return
    book = shop.book()
    if out is not None:
        write_book(out, book)
        typer.echo(f"Written to {out}")
        return
    import csv

    from swaddon.io.spreadsheet import inert

    rows = [HEADS, *(cells_of(price) for price in book.prices)]
    csv.writer(sys.stdout, lineterminator="\n").writerows([inert(cell) for cell in row] for row in rows)


def weigh(
    weighings: Annotated[
        Path | None, typer.Argument(metavar="WEIGHINGS.csv", help="Table of weights and times (docs/cost.md).")
    ] = None,
    profile: Annotated[str, _PROFILE] = "film",
    as_json: Annotated[bool, typer.Option("--json", help="Print what is told as JSON.")] = False,
    accept: Annotated[Path | None, typer.Option(help="TOML file for the press profile with the new constants.")] = None,
    back: Annotated[
        Path | None, typer.Option(help="TOML file for the press profile as it was before its last weigh-in.")
    ] = None,
    routine: Annotated[
        Path | None, typer.Option(help="CSV file for the table of the patch routine, to be filled in.")
    ] = None,
    patches: Annotated[
        Path | None, typer.Option(help="Folder for the patches of the routine, a file to print for each.")
    ] = None,
    out: Annotated[Path | None, typer.Option(help="CSV file for each weight, as weighed and as predicted.")] = None,
) -> None:
    """Refit a press to weighed prints, bottles and stopped times; tell what is unsure and what to weigh next."""
    from swaddon.io.fitted import write_profile
    from swaddon.io.weighings import read_weighings
    from swaddon.session import shop
    from swaddon.session.storage import open_job
    from swaddon.session.weigh_ins import resolver, taken, told_by, weigh_report, weigh_table, write_residuals

    for option, path in (("--accept", accept), ("--back", back)):
        if path is not None and (path.suffix.lower() != ".toml" or path.is_dir()):
            raise ValueError(f"{option} “{path}” is not a TOML file: give a name that ends in .toml")
    press = shop.press_of(profile)
    if weighings is None:
        _without_table(press, back, routine, patches)
        return
    table = read_weighings(weighings, press, resolver(press, weighings.parent, open_job))
    told = told_by(table, press)
    today = datetime.date.today()
    source = f"weigh-in “{weighings.name}”"
    for sentence in told.sentences:
        sys.stderr.write(sentence + "\n")
    if accept is not None:
        write_profile(accept, taken(told, source, today).source)
    if out is not None:
        write_residuals(out, told)
    report = weigh_report(told, source, today)
    typer.echo(json.dumps(report, indent=2, ensure_ascii=False) if as_json else weigh_table(told))
    if accept is not None and not as_json:
        typer.echo(f"Written to {accept}: use it with --profile {accept}")


def _without_table(press: "PressProfile", back: Path | None, routine: Path | None, patches: Path | None) -> None:
    """What needs no weights: a step back, and the routine."""
    from swaddon.io.fitted import write_profile
    from swaddon.io.patches import write_patches
    from swaddon.io.weighings import stepped_back, write_routine

    if back is None and routine is None and patches is None:
        raise ValueError("Missing the table of weights: name a CSV file, or --routine for one to fill in")
    if back is not None:
        text = stepped_back(press)
        if text is None:
            raise ValueError(f"The press {press.name} was never weighed in: there is no step back")
        write_profile(back, text)
        typer.echo(f"Written to {back}")
    if routine is not None:
        write_routine(routine, press)
        typer.echo(f"Written to {routine}")
    if patches is not None:
        written = write_patches(patches, press)
        typer.echo("Written: " + ", ".join(str(path) for path in written))


def register(app: typer.Typer) -> None:
    """Add the commands."""
    app.command()(cost)
    app.command()(supplies)
    app.command()(weigh)
