"""Job files of older versions, brought up to date one version at a time."""

from collections.abc import Callable
from typing import Any

Document = dict[str, Any]


def _second(document: Document) -> Document:
    """``half_transparent`` of the settings became ``alpha``."""
    settings = document.get("settings")
    if not isinstance(settings, dict):
        return document
    moved = dict(settings)
    level = moved.pop("half_transparent", None)
    moved["alpha"] = {"kind": "keep"} if level is None else {"kind": "hard", "level": level}
    return document | {"settings": moved}


def _third(document: Document) -> Document:
    """The press profile came to lie in the file; an older job goes on with the one of its name."""
    return document


def _fourth(document: Document) -> Document:
    """An order came to have several lines; that of an older job is its only one."""
    return document


MIGRATIONS: dict[str, tuple[str, Callable[[Document], Document]]] = {
    "swaddon-job/1": ("swaddon-job/2", _second),
    "swaddon-job/2": ("swaddon-job/3", _third),
    "swaddon-job/3": ("swaddon-job/4", _fourth),
}
"""The next version of each, and the way there."""


def migrated(document: Any) -> Any:
    """A document as the newest version has it; what is no document of an older version stays as it is."""
    while isinstance(document, dict) and document.get("schema") in MIGRATIONS:
        schema, change = MIGRATIONS[document["schema"]]
        document = change(document) | {"schema": schema}
    return document
