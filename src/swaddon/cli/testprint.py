"""Commands of the test print: the page, the simulated press, and the reading."""

import datetime
import json
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from swaddon.cli.progress import TerminalProgress

if TYPE_CHECKING:
    from swaddon.core.press.profile import PressProfile
    from swaddon.core.testprint.reading import Reading

_PROFILE = typer.Option(help="Press profile: shipped name or TOML file.")
_LINEUP = typer.Option(help="JSON file of the slots' line-up. Default: that of the profile.")


def chart(
    out: Annotated[Path, typer.Option(help="File for the page: .pdf, .tif or .png (a picture, with a plate per ink).")],
    profile: Annotated[str, _PROFILE] = "film",
    lineup: Annotated[Path | None, _LINEUP] = None,
    ppi: Annotated[float, typer.Option(help="Resolution of the page, 300 to 1200 ppi.")] = 600.0,
    date: Annotated[str | None, typer.Option(help="Date on the page, as 2026-11-28. Default: today.")] = None,
) -> None:
    """Write the test page of a press at true size: print it at 100 % on black card (without white: on paper)."""
    from swaddon.core.testprint.drawing import draw_page
    from swaddon.core.testprint.layout import page_for
    from swaddon.io.charts import write_page

    press, day = _press(profile, lineup), _day(date)
    if not 300 <= ppi <= 1200:
        raise ValueError("--ppi is between 300 and 1200")
    page = page_for(press, day)
    with TerminalProgress() as progress:
        progress.report("Drawing the page", 0.2)
        planes = draw_page(page, ppi)
        progress.report("Writing the page", 0.6)
        written = write_page(out, page, planes, press, ppi)
    print("Written: " + ", ".join(str(path) for path in written))


def press(
    chart_or_plan: Annotated[
        Path, typer.Argument(metavar="CHART_OR_PLAN_DIR", help="Test page (.pdf, .tif, .png), or folder of an export.")
    ],
    out: Annotated[Path, typer.Option(help="PNG file for the scan; of several shirts, numbers are put to its name.")],
    profile: Annotated[str, _PROFILE] = "film",
    lineup: Annotated[Path | None, _LINEUP] = None,
    seed: Annotated[int, typer.Option(help="Which press: each seed has faults of its own.")] = 0,
    ppi: Annotated[float, typer.Option(help="Resolution of the scan, 50 to 1200 ppi.")] = 600.0,
    truth: Annotated[Path | None, typer.Option(help="JSON file for what the press hides.")] = None,
    shirts: Annotated[int, typer.Option(help="Shirts of a run, 1 to 100, each a little different.")] = 1,
    faultless: Annotated[bool, typer.Option("--faultless", help="A press that is just as its profile says.")] = False,
) -> None:
    """Print a test page or a plan on a simulated press with hidden faults, and scan or photograph it."""
    from swaddon.io import outputs
    from swaddon.session.simulated import print_chart, print_shirts

    used = _press(profile, lineup)
    if not 50 <= ppi <= 1200:
        raise ValueError("--ppi is between 50 and 1200")
    if not 1 <= shirts <= 100:
        raise ValueError("--shirts is between 1 and 100")
    if out.suffix.lower() != ".png" or out.is_dir():
        raise ValueError(f"--out “{out}” is not a PNG file: give a name that ends in .png")
    if truth is not None and (truth.suffix.lower() != ".json" or truth.is_dir()):
        raise ValueError(f"--truth “{truth}” is not a JSON file: give a name that ends in .json")
    for path in (out, truth):
        if path is not None:
            outputs.check_file(path)
    with TerminalProgress() as progress:
        if chart_or_plan.is_dir():
            hides = print_shirts(chart_or_plan, used, seed, ppi, out, shirts, faultless, progress.report)
        else:
            hides = print_chart(chart_or_plan, used, seed, ppi, out, faultless, progress.report)
    if truth is not None:
        _write_text(truth, json.dumps(hides, indent=2, ensure_ascii=False) + "\n")


def read_chart(
    scan: Annotated[Path, typer.Argument(help="Scan of the printed page: PNG, TIFF or JPEG, best at 600 ppi.")],
    profile: Annotated[str, _PROFILE] = "film",
    lineup: Annotated[Path | None, _LINEUP] = None,
    as_json: Annotated[bool, typer.Option("--json", help="Print the reading as JSON.")] = False,
    accept: Annotated[
        Path | None, typer.Option(help="TOML file for the press profile with all that was measured.")
    ] = None,
) -> None:
    """Read the scan of a printed test page: slots, place of white, opacity, dot gain, detail and nozzles."""
    from swaddon.core.testprint.constants import constants_of
    from swaddon.core.testprint.reading import read_page, told
    from swaddon.io import outputs
    from swaddon.io.fitted import write_profile
    from swaddon.io.measured import measured_profile
    from swaddon.io.profiles import shipped_names
    from swaddon.io.scans import read_scan

    used = _press(profile, lineup)
    if accept is not None and (accept.suffix.lower() != ".toml" or accept.is_dir()):
        raise ValueError(f"--accept “{accept}” is not a TOML file: give a name that ends in .toml")
    if accept is not None:
        outputs.check_file(accept)
    with TerminalProgress() as progress:
        progress.report("Opening the scan", 0.0)
        reading = read_page(read_scan(scan), used, progress.report, shipped_names())
    if accept is not None:
        if not reading.is_whole:
            raise ValueError(" ".join(reading.sentences()))
        source = f"test print of {reading.day.isoformat()}, scan “{scan.name}”"
        base = _press(profile, None)
        found = [item for item in constants_of(reading, base) if item.is_offered]
        write_profile(accept, measured_profile(base, found, source, datetime.date.today()))
    if as_json:
        print(json.dumps(told(reading), indent=2, ensure_ascii=False))
        return
    print(_table(reading, used))
    if accept is not None:
        print(f"Written to {accept}: use it with --profile {accept}")


def _press(profile: str, lineup: Path | None) -> "PressProfile":
    from swaddon.core.press.lineup import with_lineup
    from swaddon.session import shop

    found = shop.press_of(profile)
    return found if lineup is None else with_lineup(found, shop.read_lineup(lineup, found))


def _day(text: str | None) -> datetime.date:
    if text is None:
        return datetime.date.today()
    try:
        day = datetime.date.fromisoformat(text)
    except ValueError as error:
        raise ValueError(f"--date “{text}” is no date: give it as 2026-11-28") from error
    if not 2000 <= day.year <= 2170:
        raise ValueError("--date is between 2000 and 2170")
    return day


def _table(reading: "Reading", press: "PressProfile") -> str:
    """The reading in a few lines."""
    from swaddon.core.testprint.constants import constants_of
    from swaddon.session.constant_words import value_text

    lines = [f"Page of {reading.day.isoformat()}, {reading.ppi:.0f} ppi, slots {' '.join(reading.wiring.printed)}"]
    lines += [f"! {sentence}" for sentence in reading.sentences()]
    for item in constants_of(reading, press):
        lines.append(f"{item.title:<32} {value_text(item.old, item):>18} → {value_text(item.new, item, sure=True)}")
    return "\n".join(lines)


def _write_text(path: Path, text: str) -> None:
    from swaddon.io.outputs import output_file

    try:
        with output_file(path) as file:
            file.write(text.encode("utf-8"))
    except OSError as error:
        raise ValueError(f"“{path}” cannot be written ({(error.strerror or 'refused').lower()})") from error


def register(app: typer.Typer) -> None:
    """Add the commands to the program's."""
    app.command(name="chart")(chart)
    app.command(name="press")(press)
    app.command(name="read-chart")(read_chart)
