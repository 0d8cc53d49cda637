"""Progress on a terminal."""

import sys
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from rich.progress import Progress


class TerminalProgress:
    """A bar on a terminal's standard error; silent elsewhere, where nothing of it is loaded."""

    def __init__(self) -> None:
        self._bar: Progress | None = None
        if sys.stderr.isatty():
            from rich import progress
            from rich.console import Console

            columns = (
                progress.TextColumn("{task.description}"),
                progress.BarColumn(),
                progress.TextColumn("{task.percentage:3.0f} %"),
            )
            self._bar = progress.Progress(*columns, console=Console(stderr=True), transient=True)
            self._task = self._bar.add_task("", total=1.0)

    def __enter__(self) -> "TerminalProgress":
        if self._bar is not None:
            self._bar.start()
        return self

    def __exit__(self, *_: object) -> None:
        if self._bar is not None:
            self._bar.stop()

    def report(self, title: str, share: float) -> None:
        if self._bar is not None and title:
            self._bar.update(self._task, description=f"{title} …", completed=share)
