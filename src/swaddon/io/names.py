"""File names as text that can be shown and stored, also those with bytes that are no text."""

import os
from pathlib import Path


def shown(path: Path) -> str:
    """The name of a file; bytes that are no UTF-8 become a replacement character."""
    return clean(path.name)


def clean(name: str) -> str:
    """Text without lone surrogates, in which a file system's odd bytes are told."""
    return os.fsencode(name).decode("utf-8", "replace") if any("\ud800" <= c <= "\udfff" for c in name) else name
