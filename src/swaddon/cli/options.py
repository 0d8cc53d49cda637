"""What the command ``plan`` takes: each option once, with its type, default and help."""

import inspect
from collections.abc import Callable
from dataclasses import dataclass, fields
from pathlib import Path
from typing import Annotated, Any, get_type_hints

import typer


@dataclass(frozen=True)
class PlanOptions:
    """Options as they are typed; ``None`` leaves what the job or the press profile says."""

    artwork: Annotated[
        Path | None,
        typer.Argument(help="PNG, JPEG, TIFF, WebP, SVG, PDF or OpenRaster file; may be left out with --job."),
    ] = None
    process: Annotated[
        str | None, typer.Option(help="Way of printing: film, direct or toner-onepass. Default: film.")
    ] = None
    profile: Annotated[
        str | None, typer.Option(help="Press profile: shipped name or TOML file. Default: the process's own.")
    ] = None
    garment: Annotated[str | None, typer.Option(help="Garment colour, sRGB as #rrggbb. Default: #1b1b1f.")] = None
    page: Annotated[int, typer.Option(help="Page of a PDF, counted from 1.")] = 1
    width: Annotated[
        str | None, typer.Option(help="Print width in mm or in, such as 250mm or 10in. Default: 250mm.")
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
    fine: Annotated[
        str | None, typer.Option(help="Parts narrower than this stay solid, in mm or in. Default: 2mm.")
    ] = None
    give_back: Annotated[
        float | None,
        typer.Option(help="Give colour back after holes by up to this many times the ink (1..3). Default: off."),
    ] = None
    deeper_black: Annotated[
        float | None, typer.Option(help="Black added to dark colours with holes, as a share 0..1. Default: 0.")
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
            "least harm; no-peek: what hides white whatever the registration. Default: the profile's."
        ),
    ] = None
    registration: Annotated[
        str | None,
        typer.Option(
            help="Registration error of white to colour, in mm or in: its standard deviation, or the largest that "
            "occurs with :worst after it. Default: the profile's."
        ),
    ] = None
    squeeze: Annotated[
        str | None,
        typer.Option(help="How far the press squeezes white outwards, in mm or in. Default: the profile's."),
    ] = None
    screen_choke: Annotated[
        str | None,
        typer.Option(help="How far white is pulled in from the holes of a screen, in mm or in. Default: 0mm."),
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
    strengthen: Annotated[
        bool | None,
        typer.Option(
            "--strengthen/--no-strengthen", help="Solve the inks for the garment's tint where no white lies under them."
        ),
    ] = None
    whole_sheet: Annotated[
        bool | None,
        typer.Option(
            "--whole-sheet/--picture-only", help="Plan for a device that floods the whole sheet with white, or not."
        ),
    ] = None
    guard: Annotated[
        bool | None,
        typer.Option("--guard/--no-guard", help="Leave thin strokes a core of white, or let the choke take it."),
    ] = None
    design_white: Annotated[
        bool | None,
        typer.Option(
            "--design-white/--no-design-white",
            help="Print white that is part of the design, or leave it bare. Default: bare on white garments, else ink.",
        ),
    ] = None
    gamut: Annotated[
        str | None,
        typer.Option(
            help="Colours beyond the inks: hue (each to the nearest there is) or steps (drawn inwards together, "
            "so that shades stay apart). Default: hue."
        ),
    ] = None
    quantity: Annotated[int | None, typer.Option(help="Number of shirts. Default: 1.")] = None
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
    report: Annotated[
        Path | None, typer.Option(help="HTML file for a page with the shirt, white, trouble, curves and findings.")
    ] = None
    as_json: Annotated[bool, typer.Option("--json", help="Print plan.json to standard output.")] = False

    def check(self) -> None:
        """Raise ``ValueError`` with one sentence where files are asked for that cannot be."""
        if self.out is not None and self.out.exists() and not self.out.is_dir():
            raise ValueError(f"--out “{self.out}” is a file: give a folder")
        page = self.report
        if page is not None and (page.is_dir() or page.suffix.lower() not in (".html", ".htm")):
            raise ValueError(f"--report “{page}” is not an HTML file: give a name that ends in .html")


def takes(options: type[PlanOptions]) -> Callable[[Callable[[Any], None]], Callable[..., None]]:
    """A command whose options are the fields of a dataclass; it is called with one value of that."""

    def around(function: Callable[[Any], None]) -> Callable[..., None]:
        hints = get_type_hints(options, include_extras=True)

        def command(**given: Any) -> None:
            function(options(**given))

        parameters = [
            inspect.Parameter(
                item.name, inspect.Parameter.KEYWORD_ONLY, default=item.default, annotation=hints[item.name]
            )
            for item in fields(options)
        ]
        command.__signature__ = inspect.Signature(parameters)  # type: ignore[attr-defined]
        command.__annotations__ = {item.name: hints[item.name] for item in fields(options)}
        command.__name__, command.__doc__ = function.__name__, function.__doc__
        return command

    return around
