"""What the command ``plan`` takes: each option once, with its type, default and help."""

import inspect
from collections.abc import Callable
from dataclasses import dataclass, field, fields
from pathlib import Path
from typing import Annotated, Any, get_type_hints

import typer

from swaddon.core import schema
from swaddon.core.order.settings import PlanSettings


@dataclass(frozen=True)
class PlanOptions:
    """Options as they are typed; ``None`` leaves what the job or the press profile says.

    ``settings`` are those that settings declare themselves (``schema.Option``), by their paths.
    """

    artwork: Annotated[
        Path | None,
        typer.Argument(help="PNG, JPEG, TIFF, WebP, SVG, PDF or OpenRaster file; may be left out with --job."),
    ] = None
    process: Annotated[
        str | None,
        typer.Option(help="Way of printing: film, direct, toner-onepass, toner-twopass or decal. Default: film."),
    ] = None
    profile: Annotated[
        str | None, typer.Option(help="Press profile: shipped name or TOML file. Default: the process's own.")
    ] = None
    garment: Annotated[str | None, typer.Option(help="Garment colour, sRGB as #rrggbb. Default: #1b1b1f.")] = None
    page: Annotated[int, typer.Option(help="Page of a PDF, counted from 1.")] = 1
    width: Annotated[
        str | None,
        typer.Option(help="Print width in mm or in, such as 250mm or 10in. Default: as the file says, else 250mm."),
    ] = None
    height: Annotated[str | None, typer.Option(help="Print height in mm or in, instead of --width.")] = None
    crop: Annotated[
        str | None,
        typer.Option(help="Part to print: content, or LEFT,TOP,RIGHT,BOTTOM in artwork pixels. Default: all."),
    ] = None
    turn: Annotated[int | None, typer.Option(help="Turn clockwise by 0, 90, 180 or 270 degrees. Default: 0.")] = None
    knockout: Annotated[
        list[str] | None,
        typer.Option(
            help="REACH:COLOUR:TOLERANCE[:EDGE][:clean][@X,Y…]; outside, everywhere or clicked, #rrggbb or garment, "
            "tolerance in ΔE00, soft or hard edge, clean for JPEG halo, places in artwork pixels. May be repeated."
        ),
    ] = None
    keep: Annotated[
        list[str] | None,
        typer.Option(
            help="COLOUR:TOLERANCE[@X,Y]: never knock out this colour (ΔE00), everywhere or in its area at a place in "
            "artwork pixels. May be repeated."
        ),
    ] = None
    alpha: Annotated[
        str | None,
        typer.Option(
            help="Half-transparent pixels: keep, hard:LEVEL (alpha 0..1) or screen:LPI:ANGLE (lines per inch, degrees)"
            "; :haze:SHARE after it removes thinner fades (alpha 0..1). Default: by process."
        ),
    ] = None
    holes: Annotated[
        str | None,
        typer.Option(
            help="Treatment of every region: solid, round|inverted|line:LPI:ANGLE:SHARE[:TONE] (lines per inch, "
            "degrees, share of ink left 0..1, tone 0..1) or tile:NAME:WIDTH:ANGLE[:SHARE] "
            "(width in mm or in). Default: solid."
        ),
    ] = None
    region_file: Annotated[
        Path | None, typer.Option(help="JSON list of regions by colour, at_px or at_mm, each with its treatment.")
    ] = None
    give_back: Annotated[
        float | None,
        typer.Option(help="Give colour back after holes by up to this many times the ink (1..3). Default: off."),
    ] = None
    white: Annotated[
        str | None,
        typer.Option(
            help="White under colour: none, highlight (lightest tints only), solid, limit:PERCENT of C+M+Y+K "
            "(0..400 %), need:SHIFT (allowed ΔE00) or only (the artwork in white alone). Default: solid."
        ),
    ] = None
    choke: Annotated[
        str | None,
        typer.Option(
            help="How far white under colour is pulled in, in mm, in or px of a resolution (3px@300); auto: what does "
            "least harm; no-peek: what hides white everywhere whatever the registration. Default: the profile's."
        ),
    ] = None
    registration: Annotated[
        str | None,
        typer.Option(
            help="Registration error of white to colour, in mm or in: its standard deviation, or the largest that "
            "occurs with :worst after it. Default: the profile's."
        ),
    ] = None
    hits: Annotated[
        str | None,
        typer.Option(help="Amounts of each hit of white, 0..1, such as 1,0.6. Default: one full hit per white slot."),
    ] = None
    white_at: Annotated[
        list[str] | None,
        typer.Option(
            help="COLOUR:AMOUNT[:TOLERANCE]: white that one colour gets (0..1, ΔE00), with --white need or highlight. "
            "May be repeated."
        ),
    ] = None
    design_at: Annotated[
        list[str] | None,
        typer.Option(
            help="ink@X,Y or bare@X,Y: the area of white of the design at a place in artwork pixels is ink, or bare "
            "cloth. May be repeated."
        ),
    ] = None
    icc: Annotated[
        Path | None,
        typer.Option(help="CMYK output profile (ICC) in the place of the built-in separation. Default: built in."),
    ] = None
    outline: Annotated[
        Path | None,
        typer.Option(help="JSON file of closed lines in artwork pixels whose inside or outside goes or stays."),
    ] = None
    recipe: Annotated[
        list[str] | None,
        typer.Option(
            help="COLOUR=INKS[:TOLERANCE]: inks in percent that a colour of the artwork gets exactly, such as "
            "'#c02020=C20M100Y100:4', tolerance in ΔE00 (default 4). May be repeated."
        ),
    ] = None
    lineup: Annotated[
        Path | None,
        typer.Option(help="JSON file of the ink in each slot, left to right from the front. Default: the profile's."),
    ] = None
    preset: Annotated[
        str | None,
        typer.Option(help="Settings by name: a preset of the shop, a shipped one, or a JSON file; options override."),
    ] = None
    line: Annotated[
        list[str] | None,
        typer.Option(
            help="GARMENT:SIZE:QUANTITY[:PLACE[:PRINT]], a line of the order, such as black:M:12; garments and sizes "
            "by the shop's tables, PLACE front, back, sleeve, label, tote or item, PRINT youth, adult, oversize or a "
            "width. May be repeated."
        ),
    ] = None
    lines: Annotated[
        Path | None, typer.Option(help="CSV file of the order's lines: garment, size, quantity, place, print size.")
    ] = None
    mirror_files: Annotated[
        bool, typer.Option("--mirror-files", help="Write the separations mirrored, as the film is printed.")
    ] = False
    job: Annotated[
        Path | None, typer.Option(help="Take artwork and settings from this job file; options override.")
    ] = None
    out: Annotated[Path | None, typer.Option(help="Folder for the separations, proof and plan.json.")] = None
    overwrite: Annotated[
        bool, typer.Option("--overwrite", help="Put the files in the place of another artwork's export in --out.")
    ] = False
    save_job: Annotated[
        Path | None,
        typer.Option("--save-job", help="Write the job, so that card, quote, gang, split and the bench can follow it."),
    ] = None
    report: Annotated[
        Path | None, typer.Option(help="HTML file for a page with the shirt, white, trouble, curves and findings.")
    ] = None
    as_json: Annotated[bool, typer.Option("--json", help="Print plan.json to standard output.")] = False
    settings: dict[str, object] = field(default_factory=dict)

    def check(self) -> None:
        """Raise ``ValueError`` with one sentence where files are asked for that cannot be."""
        if self.out is not None and self.out.exists() and not self.out.is_dir():
            raise ValueError(f"--out “{self.out}” is a file: give a folder")
        page = self.report
        if page is not None and (page.is_dir() or page.suffix.lower() not in (".html", ".htm")):
            raise ValueError(f"--report “{page}” is not an HTML file: give a name that ends in .html")


def takes(options: type[PlanOptions]) -> Callable[[Callable[[Any], None]], Callable[..., None]]:
    """A command whose options are the fields of a dataclass and what settings declare; it is called with one value."""

    def around(function: Callable[[Any], None]) -> Callable[..., None]:
        hints = get_type_hints(options, include_extras=True)
        own = {item.name: (hints[item.name], item.default) for item in fields(options) if item.name != "settings"}
        declared = {entry.path.replace(".", "_"): entry for entry in schema.options(PlanSettings)}
        theirs = {name: (_annotation(entry), None) for name, entry in declared.items()}

        def command(**given: Any) -> None:
            settings = {entry.path: given[name] for name, entry in declared.items() if given[name] is not None}
            function(options(**{name: given[name] for name in own}, settings=settings))

        keyword = inspect.Parameter.KEYWORD_ONLY
        takes = own | theirs
        command.__signature__ = inspect.Signature(  # type: ignore[attr-defined]
            [
                inspect.Parameter(name, keyword, default=default, annotation=hint)
                for name, (hint, default) in takes.items()
            ]
        )
        command.__annotations__ = {name: hint for name, (hint, _) in takes.items()}
        command.__name__, command.__doc__ = function.__name__, function.__doc__
        return command

    return around


def _annotation(entry: schema.OnCommandLine) -> Any:
    """A switch, or a text that ``session.ordering`` reads."""
    if entry.kind is bool:
        return Annotated[bool | None, typer.Option(entry.option.flag, help=entry.option.help)]
    shown = "<length>" if entry.unit == "mm" else "|".join(entry.words) or f"<{entry.kind.__name__}>"
    return Annotated[str | None, typer.Option(entry.option.flag, help=entry.option.help, metavar=shown)]
