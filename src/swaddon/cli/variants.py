"""The command that plans one artwork many ways side by side."""

import json
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from swaddon.cli.progress import TerminalProgress

if TYPE_CHECKING:
    from swaddon.core.plan.variants import Worked
    from swaddon.session.job import Job

_REPEATED = "Values with commas between them; may be repeated."


def variants(
    artwork: Annotated[Path | None, typer.Argument(help="Artwork file; may be left out with --job.")] = None,
    garment: Annotated[
        list[str] | None, typer.Option(help=f"Garments of the library, plain colours or #rrggbb. {_REPEATED}")
    ] = None,
    white: Annotated[
        list[str] | None,
        typer.Option(help=f"White plans: none, highlight, solid, limit:280, need:3, only. {_REPEATED}"),
    ] = None,
    process: Annotated[
        list[str] | None, typer.Option(help=f"Ways of printing, each on its usual press. {_REPEATED}")
    ] = None,
    profile: Annotated[
        list[str] | None, typer.Option(help=f"Presses and toner sets: shipped names or TOML files. {_REPEATED}")
    ] = None,
    knockout: Annotated[
        list[str] | None,
        typer.Option(help=f"Knockouts: none, or REACH:COLOUR:TOLERANCE[:EDGE], several with +. {_REPEATED}"),
    ] = None,
    holes: Annotated[
        list[str] | None, typer.Option(help=f"Holes: solid, or round|inverted|line:LPI:ANGLE:SHARE. {_REPEATED}")
    ] = None,
    preset: Annotated[str | None, typer.Option(help="Settings by name, which the variants start from.")] = None,
    width: Annotated[
        str | None, typer.Option(help="Print width in mm or in. Default: as the file says, else 250mm.")
    ] = None,
    height: Annotated[str | None, typer.Option(help="Print height, instead of --width.")] = None,
    choke: Annotated[str | None, typer.Option(help="Choke in mm, in or px of a resolution, or no-peek.")] = None,
    page: Annotated[int, typer.Option(help="Page of a PDF, counted from 1.")] = 1,
    quantity: Annotated[int | None, typer.Option(min=1, max=1_000_000, help="Pieces of the order. Default: 1.")] = None,
    job: Annotated[Path | None, typer.Option(help="Take artwork and settings from this job file.")] = None,
    out: Annotated[Path | None, typer.Option(help="Folder for variants.json, variants.csv and variants.html.")] = None,
    as_json: Annotated[bool, typer.Option("--json", help="Print variants.json to standard output.")] = False,
) -> None:
    """Plan one artwork on garments × white × knockouts × holes × presses, and compare cost, time, hand and colour."""
    from swaddon.core import fast
    from swaddon.core.engine import Cache, Run
    from swaddon.core.plan.variants import variants_of, worked_out
    from swaddon.io.tables import cache_folder
    from swaddon.session import ordering, shop
    from swaddon.session.variants import axes_from, listed, request_of

    if choke == ordering.LEAST_HARM:
        raise ValueError("--choke auto is of one plan: give a length or no-peek")
    if out is not None and out.exists() and not out.is_dir():
        raise ValueError(f"--out “{out}” is a file: give a folder")
    order = ordering.Order(
        artwork=artwork, page=page, width=width, height=height, choke=choke, preset=preset, job=job,
        settings={} if quantity is None else {"quantity": str(quantity)},
    )  # fmt: skip

    def load_kernels() -> None:
        fast.enable(cache_folder())

    base = ordering.ordered(order, load_kernels)
    axes = axes_from(
        base, shop.goods(), *(listed(given or ()) for given in (garment, white, process, profile, knockout, holes))
    )
    with TerminalProgress() as progress:
        run = Run(Cache(), progress=progress.report)
        found = list(worked_out(variants_of(axes), lambda variant: request_of(base, variant), run))
    _tell(found, base, out, as_json)


def _tell(found: "list[Worked]", base: "Job", out: Path | None, as_json: bool) -> None:
    """Write and print what was worked out, with the whole order's money."""
    from swaddon.session.variants_report import variants_report, variants_table, write_variants

    pieces = base.settings.quantity
    content = "" if base.file is None else base.file.artwork.content_id
    if out is not None:
        write_variants(
            found, out, f"{base.file.artwork.file_name if base.file else base.name}: variants", content, pieces
        )
    report = variants_report(found, pieces)
    text = json.dumps(report, indent=2, ensure_ascii=False) if as_json else variants_table(found, pieces)
    typer.echo(text if out is None or as_json else f"{text}\nWritten to {out}")


def register(app: typer.Typer) -> None:
    """Add the command."""
    app.command()(variants)
