"""Reading entries of ZIP containers from outside, without unpacking what is far too large."""

import json
import zipfile
import zlib
from typing import Any

_PLAIN_UP_TO = 50_000_000
_MOST_PACKED = 50
"""Size up to which an entry may be packed as it likes, and how many times smaller than unpacked a larger one may be."""

UNREADABLE = (
    zipfile.BadZipFile, zlib.error, KeyError, UnicodeDecodeError, json.JSONDecodeError, EOFError, RuntimeError,
    NotImplementedError, RecursionError, OverflowError, zipfile.LargeZipFile, OSError,
)  # fmt: skip
"""What reading a damaged, encrypted, oddly packed or hostile container may raise."""


class TooLarge(Exception):  # noqa: N818
    """An entry is larger than it may be."""


def entry(archive: zipfile.ZipFile, name: str, most: int) -> bytes:
    """Bytes of an entry; never more than ``most``, whatever its header says.

    Raises
    ------
    TooLarge
        When it holds more, or much more than it is packed in.
    """
    info = archive.getinfo(name)
    if info.file_size > most or info.file_size > max(_PLAIN_UP_TO, _MOST_PACKED * info.compress_size):
        raise TooLarge(name)
    with archive.open(info) as file:
        data = file.read(info.file_size + 1)
    if len(data) > info.file_size:
        raise TooLarge(name)
    return data


def json_entry(archive: zipfile.ZipFile, name: str, most: int) -> Any:
    """An entry's JSON; numbers that are none are refused."""

    def refuse(what: str) -> Any:
        raise json.JSONDecodeError(f"{what} is no number", what, 0)

    return json.loads(entry(archive, name, most).decode("utf-8"), parse_constant=refuse)
