"""Standard output that may be full, closed or gone: told in one sentence, whatever prints."""

import os
import sys
from typing import Any, TextIO

from swaddon.core.errors import PlanError


class _Output:
    """A text stream whose failures are refusals; bytes that are no text are shown as such."""

    def __init__(self, stream: TextIO) -> None:
        self._stream = stream

    def write(self, text: str) -> int:
        try:
            return self._stream.write(text.encode("utf-8", "replace").decode("utf-8"))
        except OSError as error:
            raise _given_up(error) from error

    def flush(self) -> None:
        try:
            self._stream.flush()
        except OSError as error:
            raise _given_up(error) from error

    def __getattr__(self, name: str) -> Any:
        return getattr(self._stream, name)


def _given_up(error: OSError) -> PlanError:
    sys.stdout = _nowhere()  # so that nothing is flushed again when the program ends
    return PlanError(f"The result could not be printed ({(error.strerror or 'refused').lower()})")


def _nowhere() -> TextIO:
    return open(os.devnull, "w", encoding="utf-8")  # noqa: PTH123 - as long as the program runs


def take_over() -> TextIO | None:
    """Have failures of standard output told; gives what it was, to be put back."""
    before = sys.stdout
    sys.stdout = _Output(before or _nowhere())
    return before
