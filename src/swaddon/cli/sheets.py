"""Commands of the sheet: prints on shared media, and a print that is larger than its medium."""

import json
import re
import sys
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from swaddon.cli import orders
from swaddon.cli.progress import TerminalProgress

if TYPE_CHECKING:
    from swaddon.core.sheet.media import Medium
    from swaddon.session.job import Job
    from swaddon.session.sheet_prints import Wanted
    from swaddon.session.splits import SplitPlan

_GIVEN = re.compile(r"(?P<file>.+?)(?:@(?P<width>[0-9][0-9.,]*\s*(?:mm|cm|in)?))?(?::(?P<copies>[0-9]+))?", re.DOTALL)

_MEDIUM = typer.Option(
    help="Medium: its name (see `swaddon media`), or a size such as 600x1000mm. Default: the press's."
)
_PROCESS = typer.Option(help="Way of printing of artworks: film, direct, toner-onepass, toner-twopass or decal.")
_PROFILE = typer.Option(help="Press profile of artworks: shipped name or TOML file. Default: the process's own.")
_GARMENT = typer.Option(help="Garment colour of artworks, sRGB as #rrggbb. Default: #1b1b1f.")
_FILES = typer.Option("--files", help="Kinds of files, with commas: tiff, pdf, png, cut, or none. Default: all.")


def gang(
    files: Annotated[
        list[str],
        typer.Argument(
            metavar="FILE[@WIDTH][:COPIES]…", help="Job files and artworks, each with its width and number."
        ),
    ],
    medium: Annotated[str | None, _MEDIUM] = None,
    spacing: Annotated[str, typer.Option(help="Least distance between prints, in mm or in.")] = "5mm",
    by: Annotated[str, typer.Option(help="How prints are laid: shape or box.")] = "shape",
    turn: Annotated[bool, typer.Option("--turn", help="Let prints be turned by quarters.")] = False,
    fill_rings: Annotated[bool, typer.Option("--fill-rings", help="Let prints lie in the openings of others.")] = False,
    apart: Annotated[bool, typer.Option("--apart", help="Give each garment sheets of its own.")] = False,
    tags: Annotated[bool, typer.Option("--tags", help="Print a small tag beside each print.")] = False,
    seed: Annotated[int, typer.Option(min=0, max=1_000_000, help="What the search starts from.")] = 0,
    steps: Annotated[
        int | None, typer.Option(min=0, max=100_000, help="Steps of the search. Default: by the number of prints.")
    ] = None,
    process: Annotated[str | None, _PROCESS] = None,
    profile: Annotated[str | None, _PROFILE] = None,
    garment: Annotated[str | None, _GARMENT] = None,
    out: Annotated[Path | None, typer.Option(help="Folder for sheets and sheet.json.")] = None,
    kinds: Annotated[str, _FILES] = "tiff,pdf,png,cut",
    as_json: Annotated[bool, typer.Option("--json", help="Print sheet.json to standard output.")] = False,
) -> None:
    """Lay prints of jobs and artworks together on a medium, and write whole sheets."""
    from swaddon.core.engine import Cache, Run
    from swaddon.core.sheet.settings import LARGEST_SPACING_MM, SheetSettings
    from swaddon.session import parse
    from swaddon.session.sheet_files import write_sheets
    from swaddon.session.sheets import lay, sheet_report, sheet_table

    if by not in ("shape", "box"):
        raise ValueError(f"--by “{by}” is not shape or box")
    chosen = _kinds(kinds)
    _check_out(out)
    spacing_mm = parse.small_length_mm(spacing, "--spacing", 0, LARGEST_SPACING_MM, such_as="5mm or 0.2in")
    settings = SheetSettings(
        spacing_mm=spacing_mm, way="box" if by == "box" else "shape", turns=turn, fill_rings=fill_rings, apart=apart,
        tags=tags, seed=seed,
    )  # fmt: skip
    wanted = _wanted(files, process, profile, garment)
    on = _medium(medium, wanted[0].job)
    _load_kernels()
    with TerminalProgress() as progress:
        run = Run(Cache(1), progress=progress.report)
        plan = lay(wanted, on, settings, run, steps=steps)
        report = sheet_report(plan) if out is None else write_sheets(plan, out, run, chosen)
    text = json.dumps(report, indent=2, ensure_ascii=False) if as_json else sheet_table(plan)
    typer.echo(text if out is None or as_json else f"{text}\nWritten to {out}")


def split(
    file: Annotated[str, typer.Argument(metavar="FILE[@WIDTH]", help="Job file or artwork, with its print width.")],
    medium: Annotated[str | None, _MEDIUM] = None,
    overlap: Annotated[str, typer.Option(help="What neighbours share along a seam, in mm or in; 0 butts.")] = "0mm",
    straight: Annotated[bool, typer.Option("--straight", help="Cut straight.")] = False,
    step: Annotated[
        str, typer.Option(help="Length of crossing that a step of the seam must save, in mm or in; 0: any.")
    ] = "0.7mm",
    process: Annotated[str | None, _PROCESS] = None,
    profile: Annotated[str | None, _PROFILE] = None,
    garment: Annotated[str | None, _GARMENT] = None,
    out: Annotated[Path | None, typer.Option(help="Folder for the sheets and split.json.")] = None,
    kinds: Annotated[str, _FILES] = "tiff,pdf,png",
    save_job: Annotated[
        Path | None, typer.Option(help="Write the job that prints so, for `card`, `cost`, `quote` and the bench.")
    ] = None,
    overwrite: Annotated[bool, typer.Option("--overwrite", help="Replace a job file that is there.")] = False,
    as_json: Annotated[bool, typer.Option("--json", help="Print split.json to standard output.")] = False,
) -> None:
    """Cut a print that is larger than its medium along the cleanest seam, and write a sheet for each part."""
    from swaddon.core.engine import Cache, Run
    from swaddon.core.sheet.grid import SplitRules
    from swaddon.session import parse
    from swaddon.session.splits import split_plan, split_report, split_table, write_split

    chosen = _kinds(kinds)
    _check_out(out)
    overlap_mm = parse.small_length_mm(overlap, "--overlap", 0, 20, such_as="2mm or 0.1in")
    step_mm = parse.small_length_mm(step, "--step", 0, 20, such_as="0.7mm or 0.03in")
    if save_job is not None:
        orders.check_job_file(save_job, overwrite)
    wanted = _wanted([file], process, profile, garment)[0]
    if len(wanted.job.lines) > 1:
        raise ValueError(f"“{wanted.label}” has {len(wanted.job.lines)} lines: split an artwork, or a job of one line")
    on = _medium(medium, wanted.job)
    _load_kernels()
    with TerminalProgress() as progress:
        run = Run(Cache(1), progress=progress.report)
        made = split_plan(wanted, on, SplitRules(overlap_mm, not straight, step_mm=step_mm), run)
        report = split_report(made) if out is None else write_split(made, out, run, chosen)
    if save_job is not None:
        _save_split(made, wanted.job, save_job, given(file)[0])
    text = json.dumps(report, indent=2, ensure_ascii=False) if as_json else split_table(made)
    typer.echo(text if out is None or as_json else f"{text}\nWritten to {out}")


def _save_split(made: "SplitPlan", job: "Job", path: Path, file: Path) -> None:
    """Write the job with the split in use; a print that fits is printed whole."""
    from swaddon.io.jobfile import SUFFIX
    from swaddon.session.sheet_edits import change_sheet, use_split

    rules = made.split.rules
    job = change_sheet(
        medium=made.medium.name, overlap_mm=rules.overlap_mm, bent=rules.bent, step_mm=rules.step_mm
    ).made(job)
    if made.share.parts > 1:
        job = use_split(made.share).made(job)
    orders.written(job, path, None if file.suffix.lower() == SUFFIX else file)


def media() -> None:
    """List the media of the shop."""
    from swaddon.core.sheet.media import KINDS
    from swaddon.session import shop

    for item in shop.checked_media():
        margin = " ".join(f"{side:g}" for side in item.margin_mm)
        left = "" if item.left_mm is None else f", {item.left_mm / 1000:g} m left"
        typer.echo(f"{item.name:<14} {item.title} — {KINDS[item.kind]}, {item.size_text}, margins {margin} mm{left}")


def parts(
    artwork: Annotated[Path, typer.Argument(help="Artwork that is a whole sheet of prints.")],
    width: Annotated[str | None, typer.Option(help="Width of the whole in mm or in. Default: at 300 ppi.")] = None,
    gap: Annotated[str, typer.Option(help="Distance from which prints count as apart, in mm or in.")] = "3mm",
    out: Annotated[Path | None, typer.Option(help="Folder for a PNG of each part and parts.json.")] = None,
    as_json: Annotated[bool, typer.Option("--json", help="Print parts.json to standard output.")] = False,
) -> None:
    """Find and count the prints on an artwork that is a whole gang sheet, and take them out."""
    from swaddon.session import parse
    from swaddon.session.sheet_parts import found_parts, parts_report, parts_table, write_parts

    _check_out(out)
    gap_mm = parse.small_length_mm(gap, "--gap", 0.1, 50, such_as="3mm or 0.1in")
    width_mm = None if width is None else parse.print_length_mm(width, "--width")
    found = found_parts(artwork, width_mm, gap_mm)
    report = parts_report(found) if out is None else write_parts(found, out)
    text = json.dumps(report, indent=2, ensure_ascii=False) if as_json else parts_table(found)
    typer.echo(text if out is None or as_json else f"{text}\nWritten to {out}")


def _load_kernels() -> None:
    from swaddon.core import fast
    from swaddon.io.tables import cache_folder

    fast.enable(cache_folder())


def _check_out(out: Path | None) -> None:
    if out is not None and out.exists() and not out.is_dir():
        raise ValueError(f"--out “{out}” is a file: give a folder")


def _kinds(text: str) -> tuple[str, ...]:
    from swaddon.session.sheet_files import KINDS

    given = [word.strip() for word in text.split(",") if word.strip()]
    if given == ["none"]:
        return ()
    for word in given:
        if word not in KINDS:
            raise ValueError(f"--files “{word}” is not {', '.join(KINDS)} or none")
    return tuple(given)


def _wanted(files: list[str], process: str | None, profile: str | None, garment: str | None) -> "list[Wanted]":
    """Jobs and artworks as they are given."""
    from swaddon.session.sheet_prints import Wanted

    out: list[Wanted] = []
    for text in files:
        path, width, copies = given(text)
        job = job_from(path, width, process, profile, garment)
        if copies == 0:
            raise ValueError(f"“{path.name}”: give it at least one copy")
        label = path.name
        if any(item.label == label for item in out):
            label = f"{path.name}@{job.settings.width_mm:g}mm"
        number = 2
        while any(item.label == label for item in out):
            label, number = f"{path.name} ({number})", number + 1
        out.append(Wanted(label, job, copies, uid=len(out)))
    return out


def given(text: str) -> tuple[Path, str | None, int | None]:
    """File, width and copies of an argument; a file of the whole name comes first.

    >>> given("crest.png@80mm:12")
    (PosixPath('crest.png'), '80mm', 12)
    """
    if Path(text).exists():
        return Path(text), None, None
    found = _GIVEN.fullmatch(text)
    assert found is not None
    copies = found["copies"]
    if copies is not None and len(copies) > 7:
        raise ValueError(f"“{found['file']}”: {copies} copies are too many")
    return Path(found["file"]), found["width"], None if copies is None else int(copies)


def job_from(path: Path, width: str | None, process: str | None, profile: str | None, garment: str | None) -> "Job":
    from dataclasses import replace

    from swaddon.io.jobfile import SUFFIX
    from swaddon.session import ordering, parse
    from swaddon.session.storage import open_job

    told = f"The width of “{path.name}”"
    if path.suffix.lower() != SUFFIX:
        if width is not None:
            parse.print_length_mm(width, told)
        order = ordering.Order(artwork=path, process=process, profile=profile, garment=garment, width=width)
        return ordering.ordered(order, lambda: None)
    job = open_job(path)
    for notice in job.notices:
        sys.stderr.write(notice + "\n")
    if width is None:
        return job
    if len(job.lines) > 1:
        raise ValueError(f"“{path.name}” has {len(job.lines)} lines, each of its own width: leave @{width} out")
    width_mm = parse.print_length_mm(width, told)
    return replace(job, settings=replace(job.settings, width_mm=width_mm))


def _medium(text: str | None, job: "Job") -> "Medium":
    from swaddon.io.media import medium_named
    from swaddon.session import shop

    known = shop.checked_media()
    usual = "" if job.profile is None else job.profile.usual_medium
    return medium_named(text or usual or known[0].name, known)


def register(app: typer.Typer) -> None:
    """Add the commands."""
    app.command()(gang)
    app.command()(split)
    app.command()(parts)
    app.command()(media)
