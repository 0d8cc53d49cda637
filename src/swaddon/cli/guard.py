"""What a command reads and what it writes, by the names of its parameters: what is read is never written over."""

import contextlib
import functools
import inspect
import sys
from collections.abc import Callable
from pathlib import Path
from typing import Annotated, Any, get_type_hints

import typer

READS = frozenset({
    "artwork", "chart_or_plan", "file", "files", "icc", "job", "lineup", "lines", "measured", "orders", "outline",
    "plan_or_job", "profile", "region_file", "scan", "shop", "supplies", "weighings",
})  # fmt: skip
"""Parameters that are read; one that may name something else (a shipped press) counts where it is a file."""

WRITES = frozenset(
    {"accept", "back", "backup_file", "out", "patches", "report", "routine", "save_job", "take", "truth"}
)
"""Parameters that are files or folders to be written."""

SHOWS = frozenset({"artwork", "chart_or_plan", "files", "job", "plan_or_job", "scan", "orders"})
"""Parameters that hold artwork, or jobs with artwork."""

_TRUST = Annotated[
    bool,
    typer.Option(
        "--trust-artwork",
        help="Read also drawings, layers and TIFF files that take over 10 s of computing or 1 GB.",
    ),
]

_REPLACE = Annotated[
    bool,
    typer.Option("--replace", help="Replace files that are there and that Swaddon did not write, or changed since."),
]


def guard(app: typer.Typer) -> None:
    """Protect what every command of a program reads, and give ``--replace`` to those that write."""
    for info in app.registered_commands:
        if info.callback is not None:
            info.callback = _guarded(info.callback)
    for group in app.registered_groups:
        if group.typer_instance is not None:
            guard(group.typer_instance)


def _guarded(command: Callable[..., None]) -> Callable[..., None]:
    signature, hints = inspect.signature(command), get_type_hints(command, include_extras=True)
    parameters = [
        item.replace(annotation=hints.get(name, item.annotation)) for name, item in signature.parameters.items()
    ]
    writes = any(item.name in WRITES for item in parameters)
    shows = any(item.name in SHOWS for item in parameters)

    @functools.wraps(command)
    def run(*given: Any, **named: Any) -> None:
        from swaddon.io import apart, outputs
        from swaddon.io.names import refuse_odd

        replaces = named.pop("replace", False) if writes else False
        if shows and named.pop("trust_artwork", False):
            apart.trust(None)
        values = signature.bind(*given, **named).arguments
        for name in READS & set(values):
            _protect(values[name])
        for name in WRITES & set(values):
            if values[name] is not None:
                refuse_odd(Path(values[name]))
                outputs.check_free(Path(values[name]))
        if replaces or values.get("overwrite"):
            outputs.replace_all()
        try:
            command(*given, **named)
        finally:
            _tell_of_kept()

    if writes:
        keyword = inspect.Parameter.KEYWORD_ONLY
        parameters.append(inspect.Parameter("replace", keyword, default=False, annotation=_REPLACE))
    if shows:
        keyword = inspect.Parameter.KEYWORD_ONLY
        parameters.append(inspect.Parameter("trust_artwork", keyword, default=False, annotation=_TRUST))
    run.__signature__ = signature.replace(parameters=parameters)  # type: ignore[attr-defined]
    run.__annotations__ = {item.name: item.annotation for item in parameters}
    return run


def _tell_of_kept() -> None:
    """Say what of the shop's documents could not be read or kept, and what was used instead."""
    kept = sys.modules.get("swaddon.session.kept")
    for text in () if kept is None else kept.news():
        with contextlib.suppress(OSError, ValueError):
            print(text, file=sys.stderr)


def _protect(value: object) -> None:
    from swaddon.io import outputs
    from swaddon.io.names import refuse_odd

    for path in value if isinstance(value, list | tuple) else (value,):
        if isinstance(path, str | Path) and str(path):
            refuse_odd(Path(path))
            if Path(path).is_file():
                outputs.protect(Path(path), "what this command reads")
