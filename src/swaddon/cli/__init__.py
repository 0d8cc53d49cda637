"""The same work without a window."""

import ctypes
import json
import logging
import os
import signal
import sys
import threading
import warnings
from dataclasses import fields
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, NoReturn

import typer

from swaddon import __version__
from swaddon.cli import costs, flow, log, orders, sheets, terminal, testprint, variants
from swaddon.cli.guard import guard
from swaddon.cli.options import PlanOptions, takes
from swaddon.cli.progress import TerminalProgress

if TYPE_CHECKING:
    from swaddon.core.order.request import PlanRequest

app = typer.Typer(
    add_completion=False,
    no_args_is_help=True,
    rich_markup_mode=None,
    pretty_exceptions_enable=False,
    help="Plans the white under a garment print, and what the print costs.",
)
testprint.register(app)
variants.register(app)
costs.register(app)
flow.register(app)
sheets.register(app)
log.register(app)

USAGE_EXIT = 2


def _tell_version(is_asked: bool) -> None:
    if is_asked:
        print(__version__)
        raise typer.Exit


@app.callback()
def _first(
    _version: Annotated[
        bool, typer.Option("--version", callback=_tell_version, is_eager=True, help="Print the version.")
    ] = False,
) -> None:
    pass


@app.command()
@takes(PlanOptions)
def plan(options: PlanOptions) -> None:
    """Plan one artwork: white, inks, cost in the profile's currency, print time in seconds."""
    from swaddon.session import ordering

    names = (item.name for item in fields(ordering.Order))
    order = ordering.Order(**{name: getattr(options, name) for name in names})
    options.check()
    job = ordering.ordered(order, _load_kernels, lambda text: sys.stderr.write(text + "\n"))
    recommends_choke = options.choke == ordering.LEAST_HARM
    if options.save_job is not None:
        job, recommends_choke = orders.saved(job, options, recommends_choke), False
    if len(job.lines) > 1 or options.line or options.lines:
        print(orders.plan_order(job, options, recommends_choke))
        return
    request = job.request()
    assert request is not None
    _run(request, options, recommends_choke)


def _load_kernels() -> None:
    from swaddon.core import fast
    from swaddon.io.tables import cache_folder

    fast.enable(cache_folder())


def _run(request: "PlanRequest", options: PlanOptions, recommends_choke: bool) -> None:
    out, report = options.out, options.report
    from swaddon.core.engine import Cache, Run
    from swaddon.core.plan.report import plan_report
    from swaddon.core.plan.stages import make_plan, with_recommended_choke
    from swaddon.io.export import export_plan
    from swaddon.session.memory import memory_words
    from swaddon.session.readout import plan_table
    from swaddon.session.shop import flow_shop
    from swaddon.session.shop_rate import rate_of_plan

    large = memory_words(request)
    if large:
        sys.stderr.write(f"Planning {large}\n")
    with TerminalProgress() as progress:
        if recommends_choke:
            request = with_recommended_choke(request, Run(Cache(), progress=progress.report))
        made = make_plan(request, Run(Cache(limit_bytes=1), progress=progress.report), lean=report is None)
        rate = rate_of_plan(made, flow_shop())
        if out is not None:
            export_plan(made, out, mirror=options.mirror_files, progress=progress.report, rate=rate)
        if report is not None:
            from swaddon.session.report_page import write_report_page

            write_report_page(made, report, Run(Cache(), progress=progress.report))
    if options.as_json:
        print(json.dumps(plan_report(made, rate), indent=2, ensure_ascii=False))
    else:
        lines = [plan_table(made, rate)]
        if out is not None:
            lines.append(f"Written to {out}")
        if report is not None:
            lines.append(f"Report written to {report}")
        print("\n".join(lines))


@app.command()
def profiles() -> None:
    """List the press profiles."""
    from swaddon.io.profiles import shipped, shipped_names

    for name in shipped_names():
        press = shipped(name)
        slots = " ".join(slot.ink for slot in press.slots)
        print(f"{name:<16} {press.title} — {press.plan_ppi:g} ppi, slots {slots}, {press.currency}")


@app.command(name="fit-inks")
def fit_inks(
    measured: Annotated[
        Path, typer.Argument(help="CGATS.17 text: CMYK patches in percent with CIELAB, XYZ or spectra (D50, 2°).")
    ],
    out: Annotated[Path, typer.Option(help="TOML file for the press profile with these inks.")],
    profile: Annotated[
        str, typer.Option(help="Press profile that all else is taken from: shipped name or TOML file.")
    ] = "film",
) -> None:
    """Fit the inks of a press to a measured chart: overprints, light spread and dot gain, with their ΔE00."""
    import datetime

    from swaddon.core.inks.fitting import fit_inks as fit
    from swaddon.io.cgats import read_chart
    from swaddon.io.fitted import fitted_profile, told, write_profile
    from swaddon.session import shop

    if out.suffix.lower() != ".toml" or out.is_dir():
        raise ValueError(f"--out “{out}” is not a TOML file: give a name that ends in .toml")
    base = shop.press_of(profile)
    chart = read_chart(measured)
    with TerminalProgress() as progress:
        fitted = fit(chart.cmyk, chart.xyz, progress.report)
    source = f"“{measured.name}”" + (f", made {chart.created}" if chart.created else "")
    write_profile(out, fitted_profile(base, fitted, source, out.stem, datetime.date.today()))
    print(f"{told(fitted)}\nWritten to {out}: use it with --profile {out}")


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
    job: Annotated[str | None, typer.Argument(help="Job file or artwork to open, or the code of a run card.")] = None,
) -> None:
    """Open the bench."""
    from swaddon.app import run

    # Qt's loop would hold a handler of Python's back; what is left half written is swept at the next start
    for number in _ENDING:
        signal.signal(number, signal.SIG_DFL)
    _give_planes_back()
    raise SystemExit(run(job))


@app.command()
def version() -> None:
    """Print the version."""
    print(__version__)


guard(app)


def _refuse(sentence: str) -> NoReturn:
    from swaddon.io.names import clean

    sys.stderr.write(clean(" ".join(sentence.split()).rstrip(".") + ".\n"))
    sys.exit(USAGE_EXIT)


_ENDING = (signal.SIGINT, signal.SIGTERM)
_AWAY_S = 0.4


def _end_when_asked() -> None:
    """Let a command that is told to end take away what it has half written, but never wait for what it computes.

    Threads that stand in the middle of a stage would hold it up for seconds: so it goes without them. What is left
    half written then is swept at the next start.
    """
    if threading.current_thread() is not threading.main_thread():
        return

    def told(number: int, _frame: object) -> None:
        from swaddon.io import apart

        apart.give_up()
        sys.unraisablehook = lambda _raised: None  # raised in a compiler's callback it goes nowhere; the timer ends it
        late = threading.Timer(_AWAY_S, os._exit, (128 + number,))
        late.daemon = True
        late.start()
        if number == signal.SIGINT:
            raise KeyboardInterrupt
        sys.exit(128 + number)

    for number in _ENDING:
        signal.signal(number, told)


_M_ARENA_MAX, _M_MMAP_THRESHOLD = -8, -3
"""``mallopt``'s numbers for the most heaps, and for the size from which memory is given back at once (malloc.h)."""

_GIVEN_BACK_BYTES = 8_000_000


def _share_one_heap() -> None:
    """Let all threads take memory from one heap: glibc keeps what is freed in a thread's own, up to 150 MB."""
    mallopt = getattr(ctypes.CDLL(None), "mallopt", None)
    if mallopt is not None:
        mallopt(_M_ARENA_MAX, 1)


def _give_planes_back() -> None:
    """Let the planes of a plan go back to the system when they are let go; else heaps of an order's lines stay torn."""
    mallopt = getattr(ctypes.CDLL(None), "mallopt", None)
    if mallopt is not None:
        mallopt(_M_MMAP_THRESHOLD, _GIVEN_BACK_BYTES)


def main(arguments: list[str] | None = None) -> None:
    """Entry point: every refusal is one sentence on standard error and exit code 2."""
    from swaddon.core.errors import PlanError
    from swaddon.io import apart, outputs
    from swaddon.io.whole import sweep

    logging.disable(logging.CRITICAL)
    warnings.simplefilter("ignore")
    _end_when_asked()
    _share_one_heap()
    sweep()
    outputs.begin()
    apart.renew()
    before = terminal.take_over()
    ours = sys.stdout
    try:
        code = typer.main.get_command(app).main(arguments, prog_name="swaddon", standalone_mode=False)
        sys.stdout.flush()
    except (typer.Abort, KeyboardInterrupt):
        sys.exit(130)
    except outputs.WouldReplace as error:
        _refuse(f"{str(error).rstrip('.')}, or --replace")
    except apart.TooHeavyError as error:
        _refuse(f"{error}, or --trust-artwork where you trust it")
    except (PlanError, ValueError) as error:
        _refuse(str(error))
    except RecursionError:
        _refuse("A file is nested deeper than anything that Swaddon writes: save it again")
    except MemoryError:
        _refuse("This print needs more memory than there is: choose a smaller print width")
    except Exception as error:
        if not hasattr(error, "format_message"):
            raise
        _refuse(error.format_message())
    finally:
        if sys.stdout is ours:
            sys.stdout = before
    sys.exit(code if isinstance(code, int) else 0)
