"""The same work without a window."""

import json
import sys
from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace
from pathlib import Path
from typing import Annotated, NoReturn

import typer

from swaddon import __version__

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
        Path | None, typer.Argument(help="PNG, JPEG, TIFF or WebP file; may be left out with --job.")
    ] = None,
    process: Annotated[str | None, typer.Option(help="Way of printing: film or direct. Default: film.")] = None,
    profile: Annotated[
        str | None, typer.Option(help="Press profile: shipped name or TOML file. Default: the process's own.")
    ] = None,
    garment: Annotated[str | None, typer.Option(help="Garment colour, sRGB as #rrggbb. Default: #1b1b1f.")] = None,
    width: Annotated[
        str | None, typer.Option(help="Print width in mm or in, such as 250mm or 10in. Default: 250mm.")
    ] = None,
    knockout: Annotated[
        list[str] | None,
        typer.Option(
            help="REACH:COLOUR:TOLERANCE[:EDGE]; outside or everywhere, #rrggbb or garment, tolerance in ΔE00, "
            "soft or hard edge. May be repeated."
        ),
    ] = None,
    alpha: Annotated[
        str | None,
        typer.Option(help="Half-transparent pixels: keep, or hard:LEVEL with alpha 0..1. Default: keep."),
    ] = None,
    white: Annotated[
        str | None,
        typer.Option(help="White under colour: none, solid or limit:PERCENT of C+M+Y+K (0..400 %). Default: solid."),
    ] = None,
    choke: Annotated[
        str | None,
        typer.Option(help="How far white under colour is pulled in, in mm or in. Default: the profile's."),
    ] = None,
    design_white: Annotated[
        bool | None,
        typer.Option(
            "--design-white/--no-design-white",
            help="Print white that is part of the design, or leave it bare.",
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
    as_json: Annotated[bool, typer.Option("--json", help="Print plan.json to standard output.")] = False,
) -> None:
    """Plan one artwork: white, inks, cost in the profile's currency, print time in seconds."""
    from swaddon.session.parse import colour, half_transparent, length_mm
    from swaddon.session.parse import knockout as read_knockout
    from swaddon.session.parse import white as read_white

    changes: dict[str, object] = {}
    white_changes: dict[str, object] = {}
    if width is not None:
        changes["width_mm"] = length_mm(width, "--width", 1, 5000)
    if garment is not None:
        changes["garment"] = colour(garment, "--garment")
    if knockout is not None:
        changes["knockouts"] = tuple(read_knockout(text) for text in knockout)
    if alpha is not None:
        changes["half_transparent"] = half_transparent(alpha)
    if quantity is not None:
        if quantity < 1:
            raise ValueError("--quantity must be at least 1 shirt")
        changes["quantity"] = quantity
    if white is not None:
        mode, limit = read_white(white)
        white_changes["mode"] = mode
        if limit is not None:
            white_changes["limit"] = limit
    if choke is not None:
        white_changes["choke_mm"] = length_mm(choke, "--choke", 0, 2)
    if design_white is not None:
        white_changes["design"] = design_white
    _plan(artwork, process, profile, changes, white_changes, job, out, as_json, mirror_files)


def _plan(
    artwork: Path | None,
    process: str | None,
    profile_name: str | None,
    changes: dict[str, object],
    white_changes: dict[str, object],
    job: Path | None,
    out: Path | None,
    as_json: bool,
    mirror_files: bool,
) -> None:
    if artwork is None and job is None:
        raise ValueError("Missing the artwork: name a PNG, JPEG, TIFF or WebP file, or a --job")
    if process not in (None, "film", "direct"):
        raise ValueError(f"--process “{process}” is not film or direct")
    if out is not None and out.exists() and not out.is_dir():
        raise ValueError(f"--out “{out}” is a file: give a folder")
    with ThreadPoolExecutor(1) as reader:
        from swaddon.io import profiles
        from swaddon.io.images import read_artwork
        from swaddon.session import storage

        reading = reader.submit(read_artwork, artwork) if artwork is not None else None
        stored = storage.open_job(job) if job is not None else None
        base = stored.profile.name if stored is not None and stored.profile is not None else "film"
        press = profiles.load(profile_name or process or base)
        if process is not None and press.process != process:
            raise ValueError(f"The profile {press.name} is for {press.process}, not for {process}")
        _load_kernels()
        if reading is not None:
            picture = reading.result()
        elif stored is not None and stored.file is not None:
            picture = stored.file.artwork
        else:
            raise ValueError("The job holds no artwork: name an artwork file")
    settings = stored.settings if stored is not None else storage.first_settings(press)
    settings = replace(settings, white=replace(settings.white, **white_changes), **changes)  # type: ignore[arg-type]
    _run(picture, settings, press, out, as_json, mirror_files)


def _load_kernels() -> None:
    from swaddon.core import fast
    from swaddon.io.tables import cache_folder

    fast.enable(cache_folder())


def _run(picture, settings, press, out, as_json: bool, mirror_files: bool) -> None:  # type: ignore[no-untyped-def]
    from swaddon.core.plan.engine import Cache, Run
    from swaddon.core.plan.report import plan_report
    from swaddon.core.plan.stages import make_plan
    from swaddon.io.export import export_plan
    from swaddon.session.job import request_for
    from swaddon.session.readout import plan_table

    with _Progress() as progress:
        made = make_plan(request_for(picture, settings, press), Run(Cache(limit_bytes=1), progress=progress.report))
        if out is not None:
            export_plan(made, out, mirror=mirror_files, progress=progress.report)
    if as_json:
        print(json.dumps(plan_report(made), indent=2, ensure_ascii=False))
    else:
        print(plan_table(made))
        if out is not None:
            print(f"Written to {out}")


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

    raise SystemExit(run(job))


@app.command()
def version() -> None:
    """Print the version."""
    print(__version__)


def _refuse(sentence: str) -> NoReturn:
    sys.stderr.write(" ".join(sentence.split()).rstrip(".") + ".\n")
    sys.exit(USAGE_EXIT)


def main(arguments: list[str] | None = None) -> None:
    """Entry point: every refusal is one sentence on standard error and exit code 2."""
    from swaddon.core.plan.engine import PlanError

    try:
        code = typer.main.get_command(app).main(arguments, prog_name="swaddon", standalone_mode=False)
    except typer.Abort:
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
