"""Commands of the press and the log book: the run card, finding, lists, the month, backup and restore."""

import json
import sys
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from swaddon.cli.progress import TerminalProgress
from swaddon.cli.sheets import job_from
from swaddon.core.units import number_of

if TYPE_CHECKING:
    from swaddon.core.log.query import Query
    from swaddon.store.book import LogBook

log = typer.Typer(no_args_is_help=True, help="The log book: find, show, list, the month.")
store = typer.Typer(no_args_is_help=True, help="Where the log book is kept: backup, restore, migrate, check.")

_Garment = Annotated[str | None, typer.Option(help="Garment, exactly as the book has it.")]
_Process = Annotated[str | None, typer.Option(help="Process: film, direct, toner-onepass, toner-twopass, decal.")]
_Artwork = Annotated[str | None, typer.Option(help="Part of the artwork's file name.")]
_Trouble = Annotated[str | None, typer.Option(help="What went wrong, as peek or crooked (docs/log.md).")]
_Since = Annotated[str | None, typer.Option(help="First day, as 2026-11-01 or 2026-11.")]
_Until = Annotated[str | None, typer.Option(help="Last day, as 2026-11-30.")]


@contextmanager
def _book() -> "Iterator[LogBook]":
    """The log book, with what waits for it brought in first."""
    from swaddon.session.log_keeper import LogKeeper

    keeper = LogKeeper()
    try:
        keeper.deliver()
        yield keeper.book()
    finally:
        keeper.close()


def _query(
    words: list[str] | None, garment: str | None, process: str | None, artwork: str | None, trouble: str | None,
    since: str | None, until: str | None,
) -> "Query":  # fmt: skip
    from swaddon.core.log.query import Query, day_asked

    return Query(
        " ".join(words or ()), garment or "", process or "", artwork or "", "", trouble or "",
        day_asked(since or "", "--since"), day_asked(until or "", "--until"),
    )  # fmt: skip


@log.command("find")
def find(
    words: Annotated[list[str] | None, typer.Argument(help="Words that must begin some word of the run.")] = None,
    garment: _Garment = None,
    process: _Process = None,
    artwork: _Artwork = None,
    trouble: _Trouble = None,
    since: _Since = None,
    until: _Until = None,
    most: Annotated[int, typer.Option(help="How many at most, 1 to 10000.")] = 50,
    as_json: Annotated[bool, typer.Option("--json", help="Print it as JSON.")] = False,
) -> None:
    """Find runs, those written last first."""
    from swaddon.core.schema import document
    from swaddon.session.log_words import count_text, line_text, title_text, verdict_text

    if not 1 <= most <= 10_000:
        raise ValueError("--most is between 1 and 10000")
    query = _query(words, garment, process, artwork, trouble, since, until)
    with _book() as book:
        found = [item.entry for item in book.find(query, None, most)]
    if as_json:
        typer.echo(json.dumps([document(entry) for entry in found], indent=1, ensure_ascii=False))
        return
    for entry in found:
        told = (title_text(entry), line_text(entry), count_text(entry.happened), verdict_text(entry.verdict))
        typer.echo(f"{entry.head[:12]}  {' · '.join(filter(None, told))}")
    typer.echo(f"{len(found)} run{'' if len(found) == 1 else 's'}" + (" or more" if len(found) == most else ""))


@log.command("show")
def show(run: Annotated[str, typer.Argument(help="Beginning of the run's name, as find tells it.")]) -> None:
    """Tell all of one run: what was planned, what became of it, and what was said since."""
    from swaddon.session.log_words import facts_of, history_text, line_text, reasons_text, title_text

    bare = run.strip().lower()
    if len(bare) < 4 or any(sign not in "0123456789abcdef" for sign in bare):
        raise ValueError(f"“{run[:40]}” is no run's name: give at least the first four signs that find tells")
    with _book() as book:
        heads = book.head_like(bare)
        if len(heads) != 1:
            raise ValueError(
                f"No run begins with “{bare}”" if not heads else f"Several runs begin with “{bare}”: give more"
            )
        page = book.page(heads[0])
    assert page is not None
    typer.echo(f"{title_text(page.entry)} · {line_text(page.entry)}")
    for title, value in facts_of(page.entry):
        typer.echo(f"  {title}: {value}")
    if reasons := reasons_text(page.entry.happened):
        typer.echo(f"  Spoiled: {reasons}")
    for entry in page.history:
        typer.echo(history_text(entry))


@log.command("export")
def export(
    out: Annotated[Path, typer.Option(help="File to write: .csv, .json or .html.")],
    words: Annotated[list[str] | None, typer.Argument(help="Words that must begin some word of the run.")] = None,
    garment: _Garment = None,
    process: _Process = None,
    artwork: _Artwork = None,
    trouble: _Trouble = None,
    since: _Since = None,
    until: _Until = None,
) -> None:
    """Write runs as they stand, all or those that are asked for, as CSV, JSON or one HTML page."""
    from swaddon.session.log_files import blobs_of, write_list

    query = _query(words, garment, process, artwork, trouble, since, until)
    with _book() as book:
        found = [item.entry for item in book.find(query, None, 10_000_000)]
        write_list(out, found, blobs_of(book))
    typer.echo(f"{len(found)} runs written to {out}")


@log.command("month")
def month(
    which: Annotated[str | None, typer.Argument(metavar="YYYY-MM", help="Default: this month.")] = None,
    out: Annotated[Path | None, typer.Option(help="File to write: .pdf or .csv.")] = None,
    paper: Annotated[str, typer.Option(help="a4 or letter.")] = "a4",
) -> None:
    """Add a month up: pieces, what was spoiled and why, what was used against what was planned."""
    import time

    from swaddon.core.log.month import month_of
    from swaddon.core.log.query import day_asked
    from swaddon.session.log_month import month_bars, month_head, write_month

    wanted = day_asked(which, "The month")[:7] if which else time.strftime("%Y-%m")
    _check_paper(paper)
    with _book() as book:
        sums = month_of(wanted, book.ended_in(wanted))
    if out is not None:
        if out.suffix.lower() not in (".pdf", ".csv"):
            raise ValueError(f"“{out.name}” is no month: give a name that ends in .pdf or .csv")
        write_month(out, sums, paper)
        typer.echo(f"Written to {out}")
        return
    title, head, _ = month_head(sums)
    typer.echo(f"{title}. {head}")
    for group, bars in month_bars(sums):
        typer.echo(f"{group}:")
        for bar in bars:
            typer.echo(f"  {bar.title}: {bar.told}")


def _check_paper(paper: str) -> None:
    if paper not in ("a4", "letter"):
        raise ValueError(f"--paper “{paper[:20]}” is neither a4 nor letter")


def card(
    file: Annotated[Path, typer.Argument(metavar="JOB_OR_ARTWORK", help="Job file, or artwork.")],
    out: Annotated[Path, typer.Option(help="PDF file to write.")],
    line: Annotated[int | None, typer.Option(help="Line of the order, from 1. Default: that at hand.")] = None,
    paper: Annotated[str, typer.Option(help="a4 or letter.")] = "a4",
    process: Annotated[str | None, typer.Option(help="For artwork: process. Default: film.")] = None,
    profile: Annotated[str | None, typer.Option(help="For artwork: press profile.")] = None,
    garment: Annotated[
        str | None, typer.Option(help="For artwork: colour of the garment, as black or #1b1b1f.")
    ] = None,
    width: Annotated[str | None, typer.Option(help="For artwork: print width, as 250mm or 10in.")] = None,
    fahrenheit: Annotated[bool, typer.Option("--fahrenheit", help="Heat in °F.")] = False,
    inches: Annotated[bool, typer.Option("--inches", help="Lengths in inches.")] = False,
    bar: Annotated[bool, typer.Option("--bar", help="Pressure in bar.")] = False,
) -> None:
    """Write the run card: proof, placing, steps with figures and cautions, and a code that opens the job."""
    from swaddon.core.plan.stages import make_plan
    from swaddon.io.jobfile import SUFFIX
    from swaddon.session.card_files import write_card_file
    from swaddon.session.preferences import Preferences

    _check_paper(paper)
    if out.suffix.lower() != ".pdf":
        raise ValueError(f"“{out.name}” is no card: give a name that ends in .pdf")
    job = job_from(file, width, process, profile, garment)
    if line is not None:
        if not 1 <= line <= len(job.lines):
            raise ValueError(f"--line {line}: the order has {len(job.lines)} line{'s' if len(job.lines) > 1 else ''}")
        job = job.turned_to(line - 1)
    request = job.request()
    if request is None:
        raise ValueError(f"“{file.name}” has no artwork: there is nothing to print")
    from swaddon.core import fast
    from swaddon.core.engine import Cache, Run
    from swaddon.io.tables import cache_folder

    fast.enable(cache_folder())
    with TerminalProgress() as progress:
        plan = make_plan(request, Run(Cache(1), lambda: True, progress.report), lean=True)
    asked = Preferences(inches=inches, fahrenheit=fahrenheit, bar=bar, paper=paper)
    write_card_file(out, job, plan, asked, file if file.suffix.lower() == SUFFIX else None)
    typer.echo(f"Written to {out}")


@store.command("backup")
def backup(backup_file: Annotated[Path, typer.Argument(metavar="FILE", help="File to write.")]) -> None:
    """Write the whole book into one file."""
    from swaddon.session.log_files import write_backup

    with _book() as book, TerminalProgress() as progress:
        count = write_backup(backup_file, book, progress.report)
    typer.echo(f"{number_of(count, 'entry')} saved in {backup_file}")


@store.command("restore")
def restore(file: Annotated[Path, typer.Argument(help="A backup.")]) -> None:
    """Take a backup into the book; what is there already stays."""
    from swaddon.session.log_files import read_backup

    with _book() as book, TerminalProgress() as progress:
        held, new = read_backup(file, book, progress.report)
    typer.echo(f"{file} holds {number_of(held, 'entry')}, {new} of them new")


@store.command("migrate")
def migrate() -> None:
    """Bring the book's tables to the form of today; the bench does so by itself."""
    from swaddon.session.log_keeper import closed_book

    book = closed_book()
    try:
        before, after = book.open()
    finally:
        book.close()
    typer.echo(f"The book is of form {after}" + ("" if before == after else f"; it was {before or 'not there'}"))


@store.command("check")
def check() -> None:
    """Look whether the book is sound, and what waits for it."""
    from swaddon.session.log_keeper import LogKeeper
    from swaddon.store.migrate import is_sound

    keeper = LogKeeper()
    try:
        wrong = is_sound(keeper.book().engine)
        waiting = keeper.waiting()
    finally:
        keeper.close()
    for line in wrong:
        sys.stderr.write(line + "\n")
    typer.echo(
        f"{'Sound' if not wrong else 'Damaged: restore a backup'}; {number_of(waiting, 'entry')} waiting to come in"
    )
    if wrong:
        raise typer.Exit(1)


def register(app: typer.Typer) -> None:
    """Add the commands."""
    app.command()(card)
    app.add_typer(log, name="log")
    app.add_typer(store, name="store")
