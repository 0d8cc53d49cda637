"""What goes wrong with a store, as one sentence that says what to do."""

from collections.abc import Iterator
from contextlib import contextmanager

from swaddon.core.errors import PlanError


class StoreError(PlanError):
    """The store cannot be read or written now; nothing was changed. What waits may be tried again."""


_KNOWN = (
    (("database is locked", "database table is locked"), "another program holds the log book locked"),
    (("readonly", "read-only", "read only"), "the log book may only be read, not written"),
    (("disk is full", "no space left", "disk i/o error"), "the disk is full or fails"),
    (("not a database", "malformed", "disk image"), "its file is damaged: restore a backup (swaddon store restore)"),
    (("unable to open", "no such file", "permission denied"), "its file cannot be opened"),
    (("password", "authentication", "role "), "the server does not let this bench in: check name and password"),
    (("does not exist",), "the server has no such database: create it first"),
    (
        ("connection", "could not connect", "server closed", "terminat", "timeout", "timed out", "host", "shutting"),
        "the server cannot be reached",
    ),
)


def why(error: BaseException) -> str:
    """The cause in a few words, for the middle of a sentence."""
    text = str(getattr(error, "orig", None) or error).lower()
    for signs, words in _KNOWN:
        if any(sign in text for sign in signs):
            return words
    return "the database refused it"


@contextmanager
def faults_told(doing: str) -> Iterator[None]:
    """Turn what a database raises into a ``StoreError`` that says what was being done and why it failed."""
    from sqlalchemy.exc import SQLAlchemyError

    try:
        yield
    except (SQLAlchemyError, OSError) as error:
        raise StoreError(f"{doing}: {why(error)}.") from error
