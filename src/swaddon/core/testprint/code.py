"""What a page says of itself to a program: a grid of cells with the press, its line-up, the day and a check sum."""

import datetime
import hashlib
import zlib
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from swaddon.core.testprint.layout import CODE_COLUMNS, CODE_ROWS, REVISION, Page

_LETTERS = "-CMYKWH"
_MOST_SLOTS = 12
_EPOCH = datetime.date(2000, 1, 1)
_BITS = CODE_COLUMNS * CODE_ROWS
_FIELDS = (("revision", 6), ("days", 16), ("press", 32))


@dataclass(frozen=True)
class Label:
    """What a code tells.

    Attributes
    ----------
    revision
        Of the page's layout.
    press
        Digest of the press profile's name.
    inks
        Inks that were sent, by slot from the left.
    day
        When the page was made.
    """

    revision: int
    press: int
    inks: tuple[str, ...]
    day: datetime.date

    @classmethod
    def of(cls, page: Page) -> "Label":
        return cls(REVISION, digest(page.press), page.inks, page.day)


def digest(press: str) -> int:
    """A number of 32 bits for the name of a press."""
    return int.from_bytes(hashlib.blake2s(press.encode(), digest_size=4).digest(), "big")


def cells(label: Label) -> NDArray[np.bool_]:
    """Light cells of the code, ``bool (CODE_ROWS, CODE_COLUMNS)``; the last 16 are a check sum of those before."""
    number = 0
    for value, (_, width) in zip((label.revision, (label.day - _EPOCH).days, label.press), _FIELDS, strict=True):
        number = number << width | value
    for slot in range(_MOST_SLOTS):
        ink = label.inks[slot] if slot < len(label.inks) else "-"
        number = number << 3 | _LETTERS.index(ink)
    body = [bool(number >> at & 1) for at in range(_BITS - 17, -1, -1)]
    bits = body + _check(body)
    return np.array(bits, np.bool_).reshape(CODE_ROWS, CODE_COLUMNS) ^ _veil()


def label_of(light: NDArray[np.bool_]) -> Label | None:
    """What cells say; ``None`` where the check sum does not fit.

    >>> made = Label(1, digest("film"), tuple("CMYKWW"), datetime.date(2026, 11, 28))
    >>> label_of(cells(made)) == made
    True
    """
    bits = (light ^ _veil()).ravel().tolist()
    body = bits[:-16]
    if _check(body) != bits[-16:]:
        return None
    number = int("".join("1" if bit else "0" for bit in body), 2)
    letters = [_LETTERS[min(number >> 3 * at & 7, len(_LETTERS) - 1)] for at in range(_MOST_SLOTS)][::-1]
    number >>= 3 * _MOST_SLOTS
    press, days, revision = number & 0xFFFFFFFF, number >> 32 & 0xFFFF, number >> 48 & 0x3F
    return Label(revision, press, tuple(ink for ink in letters if ink != "-"), _EPOCH + datetime.timedelta(days))


def _check(body: list[bool]) -> list[bool]:
    value = zlib.crc32(bytes(body)) & 0xFFFF
    return [bool(value >> at & 1) for at in range(15, -1, -1)]


def _veil() -> NDArray[np.bool_]:
    """A fixed pattern that keeps long runs of equal cells away."""
    y, x = np.mgrid[0:CODE_ROWS, 0:CODE_COLUMNS]
    return np.asarray((x * 5 + y * 7 + x * y) % 3 == 0)
