"""The same work without a window."""

import json
import logging
import os
import signal
import sys
import threading
import warnings
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, NoReturn

import typer

from swaddon import __version__

if TYPE_CHECKING:
    from swaddon.core.order.request import PlanRequest

app = typer.Typer(
    add_completion=False,
    no_args_is_help=True,
    rich_markup_mode=None,
    pretty_exceptions_enable=False,
    help="Plans the white under a garment print, and what the print costs.",
)

USAGE_EXIT = 2


@app.command()
def plan(
    artwork: Annotated[
        Path | None,
        typer.Argument(help="PNG, JPEG, TIFF, WebP, SVG, PDF or OpenRaster file; may be left out with --job."),
    ] = None,
    process: Annotated[
        str | None, typer.Option(help="Way of printing: film, direct or toner-onepass. Default: film.")
    ] = None,
    profile: Annotated[
        str | None, typer.Option(help="Press profile: shipped name or TOML file. Default: the process's own.")
    ] = None,
    garment: Annotated[str | None, typer.Option(help="Garment colour, sRGB as #rrggbb. Default: #1b1b1f.")] = None,
    page: Annotated[int, typer.Option(help="Page of a PDF, counted from 1.")] = 1,
    width: Annotated[
        str | None, typer.Option(help="Print width in mm or in, such as 250mm or 10in. Default: 250mm.")
    ] = None,
    height: Annotated[str | None, typer.Option(help="Print height in mm or in, instead of --width.")] = None,
    crop: Annotated[
        str | None,
        typer.Option(help="Part to print: content, or LEFT,TOP,RIGHT,BOTTOM in artwork pixels. Default: all."),
    ] = None,
    turn: Annotated[int | None, typer.Option(help="Turn clockwise by 0, 90, 180 or 270 degrees. Default: 0.")] = None,
    knockout: Annotated[
        list[str] | None,
        typer.Option(
            help="REACH:COLOUR:TOLERANCE[:EDGE][:clean][@X,Y…]; outside, everywhere or clicked, #rrggbb or garment, "
            "tolerance in ΔE00, soft or hard edge, clean for JPEG halo, places in artwork pixels. May be repeated."
        ),
    ] = None,
    keep: Annotated[
        list[str] | None,
        typer.Option(
            help="COLOUR:TOLERANCE[@X,Y]: never knock out this colour (ΔE00), everywhere or in its area at a place in "
            "artwork pixels. May be repeated."
        ),
    ] = None,
    alpha: Annotated[
        str | None,
        typer.Option(
            help="Half-transparent pixels: keep, hard:LEVEL (alpha 0..1) or screen:LPI:ANGLE (lines per inch, degrees)"
            "; :haze:SHARE after it removes thinner fades (alpha 0..1). Default: by process."
        ),
    ] = None,
    holes: Annotated[
        str | None,
        typer.Option(
            help="Treatment of every region: solid, round|inverted|line:LPI:ANGLE:SHARE[:TONE] (lines per inch, "
            "degrees, share of ink left 0..1, tone 0..1) or tile:NAME:WIDTH:ANGLE[:SHARE] "
            "(width in mm or in). Default: solid."
        ),
    ] = None,
    region_file: Annotated[
        Path | None, typer.Option(help="JSON list of regions by colour, at_px or at_mm, each with its treatment.")
    ] = None,
    fine: Annotated[
        str | None, typer.Option(help="Parts narrower than this stay solid, in mm or in. Default: 2mm.")
    ] = None,
    give_back: Annotated[
        float | None,
        typer.Option(help="Give colour back after holes by up to this many times the ink (1..3). Default: off."),
    ] = None,
    deeper_black: Annotated[
        float | None, typer.Option(help="Black added to dark colours with holes, as a share 0..1. Default: 0.")
    ] = None,
    white: Annotated[
        str | None,
        typer.Option(
            help="White under colour: none, highlight (lightest tints only), solid, limit:PERCENT of C+M+Y+K "
            "(0..400 %), need:SHIFT (allowed ΔE00) or only (the artwork in white alone). Default: solid."
        ),
    ] = None,
    choke: Annotated[
        str | None,
        typer.Option(
            help="How far white under colour is pulled in, in mm, in or px of a resolution (3px@300); auto: what does "
            "least harm; no-peek: what hides white whatever the registration. Default: the profile's."
        ),
    ] = None,
    registration: Annotated[
        str | None,
        typer.Option(
            help="Registration error of white to colour, in mm or in: its standard deviation, or the largest that "
            "occurs with :worst after it. Default: the profile's."
        ),
    ] = None,
    squeeze: Annotated[
        str | None,
        typer.Option(help="How far the press squeezes white outwards, in mm or in. Default: the profile's."),
    ] = None,
    screen_choke: Annotated[
        str | None,
        typer.Option(help="How far white is pulled in from the holes of a screen, in mm or in. Default: 0mm."),
    ] = None,
    hits: Annotated[
        str | None,
        typer.Option(help="Amounts of each hit of white, 0..1, such as 1,0.6. Default: one full hit per white slot."),
    ] = None,
    white_at: Annotated[
        list[str] | None,
        typer.Option(
            help="COLOUR:AMOUNT[:TOLERANCE]: white that one colour gets (0..1, ΔE00), with --white need or highlight. "
            "May be repeated."
        ),
    ] = None,
    design_at: Annotated[
        list[str] | None,
        typer.Option(
            help="ink@X,Y or bare@X,Y: the area of white of the design at a place in artwork pixels is ink, or bare "
            "cloth. May be repeated."
        ),
    ] = None,
    strengthen: Annotated[
        bool | None,
        typer.Option(
            "--strengthen/--no-strengthen", help="Solve the inks for the garment's tint where no white lies under them."
        ),
    ] = None,
    whole_sheet: Annotated[
        bool | None,
        typer.Option(
            "--whole-sheet/--picture-only", help="Plan for a device that floods the whole sheet with white, or not."
        ),
    ] = None,
    guard: Annotated[
        bool | None,
        typer.Option("--guard/--no-guard", help="Leave thin strokes a core of white, or let the choke take it."),
    ] = None,
    design_white: Annotated[
        bool | None,
        typer.Option(
            "--design-white/--no-design-white",
            help="Print white that is part of the design, or leave it bare. Default: bare on white garments, else ink.",
        ),
    ] = None,
    gamut: Annotated[
        str | None,
        typer.Option(
            help="Colours beyond the inks: hue (each to the nearest there is) or steps (drawn inwards together, "
            "so that shades stay apart). Default: hue."
        ),
    ] = None,
    quantity: Annotated[int | None, typer.Option(help="Number of shirts. Default: 1.")] = None,
    mirror_files: Annotated[
        bool, typer.Option("--mirror-files", help="Write the separations mirrored, as the film is printed.")
    ] = False,
    job: Annotated[
        Path | None, typer.Option(help="Take artwork and settings from this job file; options override.")
    ] = None,
    out: Annotated[Path | None, typer.Option(help="Folder for the separations, proof and plan.json.")] = None,
    overwrite: Annotated[
        bool, typer.Option("--overwrite", help="Put the files in the place of another artwork's export in --out.")
    ] = False,
    report: Annotated[
        Path | None, typer.Option(help="HTML file for a page with the shirt, white, trouble, curves and findings.")
    ] = None,
    as_json: Annotated[bool, typer.Option("--json", help="Print plan.json to standard output.")] = False,
) -> None:
    """Plan one artwork: white, inks, cost in the profile's currency, print time in seconds."""
    from swaddon.session import ordering

    order = ordering.Order(
        artwork=artwork, page=page, process=process, profile=profile, garment=garment, width=width, height=height,
        crop=crop, turn=turn, knockout=knockout, keep=keep, alpha=alpha, holes=holes, region_file=region_file,
        fine=fine, give_back=give_back, deeper_black=deeper_black, white=white, choke=choke,
        registration=registration, squeeze=squeeze,
        screen_choke=screen_choke, hits=hits, white_at=white_at, design_at=design_at, strengthen=strengthen,
        whole_sheet=whole_sheet, guard=guard, design_white=design_white,
        gamut=gamut, quantity=quantity, job=job,
    )  # fmt: skip
    if out is not None and out.exists() and not out.is_dir():
        raise ValueError(f"--out “{out}” is a file: give a folder")
    if report is not None and (report.is_dir() or report.suffix.lower() not in (".html", ".htm")):
        raise ValueError(f"--report “{report}” is not an HTML file: give a name that ends in .html")
    _run(
        ordering.request(order, _load_kernels),
        out,
        report,
        as_json,
        mirror_files,
        choke == ordering.LEAST_HARM,
        overwrite,
    )


def _load_kernels() -> None:
    from swaddon.core import fast
    from swaddon.io.tables import cache_folder

    fast.enable(cache_folder())


def _run(
    request: "PlanRequest",
    out: Path | None,
    report: Path | None,
    as_json: bool,
    mirror_files: bool,
    recommends_choke: bool,
    overwrite: bool,
) -> None:
    from swaddon.core.engine import Cache, Run
    from swaddon.core.plan.report import plan_report
    from swaddon.core.plan.stages import make_plan, with_recommended_choke
    from swaddon.io.export import export_plan, exported_before, words_for
    from swaddon.session.readout import plan_table

    with _Progress() as progress:
        if recommends_choke:
            request = with_recommended_choke(request, Run(Cache(), progress=progress.report))
        made = make_plan(request, Run(Cache(limit_bytes=1), progress=progress.report), lean=report is None)
        if out is not None:
            held = exported_before(out)
            if held is not None and held != words_for(made) and not overwrite:
                raise ValueError(f"“{out}” holds an export of {held}: give another folder, or --overwrite")
            export_plan(made, out, mirror=mirror_files, progress=progress.report)
        if report is not None:
            from swaddon.session.report_page import write_report_page

            write_report_page(made, report, Run(Cache(), progress=progress.report))
    if as_json:
        _put(json.dumps(plan_report(made), indent=2, ensure_ascii=False))
    else:
        lines = [plan_table(made)]
        if out is not None:
            lines.append(f"Written to {out}")
        if report is not None:
            lines.append(f"Report written to {report}")
        _put("\n".join(lines))


def _put(text: str) -> None:
    """Print; a full device or a closed pipe is told in a sentence."""
    try:
        sys.stdout.write(text.encode("utf-8", "replace").decode("utf-8") + "\n")
        sys.stdout.flush()
    except OSError as error:
        sys.stdout = open(os.devnull, "w", encoding="utf-8")  # noqa: SIM115, PTH123 - so that nothing is flushed again
        raise ValueError(f"The result could not be printed ({(error.strerror or 'refused').lower()})") from error


class _Progress:
    """One line on a terminal's standard error; silent elsewhere."""

    def __init__(self) -> None:
        self._shows = sys.stderr.isatty()

    def __enter__(self) -> "_Progress":
        return self

    def __exit__(self, *_: object) -> None:
        if self._shows:
            sys.stderr.write("\r\033[K")

    def report(self, title: str, share: float) -> None:
        if self._shows and title:
            sys.stderr.write(f"\r\033[K{title} … {share:4.0%}")
            sys.stderr.flush()


@app.command()
def profiles() -> None:
    """List the press profiles."""
    from swaddon.io.profiles import shipped, shipped_names

    for name in shipped_names():
        press = shipped(name)
        slots = " ".join(slot.ink for slot in press.slots)
        print(f"{name:<10} {press.title} — {press.plan_ppi:g} ppi, slots {slots}, {press.currency}")


@app.command(name="set-up")
def set_up() -> None:
    """Compile the kernels and solve the separation tables, so that the first plan is quick."""
    from swaddon.core import fast
    from swaddon.io.profiles import shipped, shipped_names
    from swaddon.io.tables import cache_folder, separation_table

    for name in shipped_names():
        print(f"Solving the separation of {name}", flush=True)
        separation_table(shipped(name).separation)
    if not fast.is_compiled(cache_folder()):
        print("Compiling the kernels (about 20 seconds, once)", flush=True)
        fast.compile_all(cache_folder())
    print("Ready")


@app.command()
def bench(
    job: Annotated[Path | None, typer.Argument(help="Job file or artwork to open.")] = None,
) -> None:
    """Open the bench."""
    from swaddon.app import run

    # Qt's loop would hold a handler of Python's back; what is left half written is swept at the next start
    signal.signal(signal.SIGTERM, signal.SIG_DFL)
    raise SystemExit(run(job))


@app.command()
def version() -> None:
    """Print the version."""
    print(__version__)


def _refuse(sentence: str) -> NoReturn:
    sys.stderr.write(" ".join(sentence.split()).rstrip(".") + ".\n")
    sys.exit(USAGE_EXIT)


def _end_cleanly_when_told() -> None:
    """Let a plan that is told to end take away what it has half written."""
    if threading.current_thread() is threading.main_thread():
        signal.signal(signal.SIGTERM, lambda *_: sys.exit(143))


def main(arguments: list[str] | None = None) -> None:
    """Entry point: every refusal is one sentence on standard error and exit code 2."""
    from swaddon.core.errors import PlanError
    from swaddon.io.whole import sweep

    logging.disable(logging.CRITICAL)
    warnings.simplefilter("ignore")
    _end_cleanly_when_told()
    sweep()
    try:
        code = typer.main.get_command(app).main(arguments, prog_name="swaddon", standalone_mode=False)
    except (typer.Abort, KeyboardInterrupt):
        sys.exit(130)
    except (PlanError, ValueError) as error:
        _refuse(str(error))
    except MemoryError:
        _refuse("This print needs more memory than there is: choose a smaller print width")
    except Exception as error:
        if not hasattr(error, "format_message"):
            raise
        _refuse(error.format_message())
    sys.exit(code if isinstance(code, int) else 0)
