"""PNG out (ISO/IEC 15948): 8-bit grey or RGB with its resolution, packed for speed: ink planes are mostly flat."""

import struct
import zlib
from collections.abc import Iterator
from pathlib import Path
from typing import BinaryIO

import numpy as np
from numpy.typing import NDArray

from swaddon.core.units import MM_PER_INCH

_SIGNATURE = b"\x89PNG\r\n\x1a\n"
_LEVEL = 1


def write_png(
    path: Path, image: NDArray[np.uint8], ppi: float, description: str = "", icc: bytes | None = None
) -> None:
    """Write ``uint8 (H, W)`` grey, ``(H, W, 3)`` sRGB or ``(H, W, 4)`` sRGB and alpha, with its pixels per metre.

    With ``icc`` the colours are those of that profile.
    """
    with path.open("wb") as file:
        for part in png_chunks(image, ppi, description, icc):
            file.write(part)


def png_chunks(
    image: NDArray[np.uint8], ppi: float, description: str = "", icc: bytes | None = None
) -> Iterator[bytes]:
    """The parts of a PNG file, in order; pictures as in :func:`write_png`."""
    yield from _heads(image, ppi, description, icc)
    yield _chunk(b"IDAT", _packed(image.reshape(image.shape[0], -1)))
    yield _chunk(b"IEND", b"")


def _heads(image: NDArray[np.uint8], ppi: float, description: str, icc: bytes | None) -> Iterator[bytes]:
    """What stands before the pixels."""
    height, width = image.shape[:2]
    colour_type = 0 if image.ndim == 2 else {3: 2, 4: 6}[image.shape[2]]
    per_metre = round(ppi / MM_PER_INCH * 1000)
    yield _SIGNATURE
    yield _chunk(b"IHDR", struct.pack(">IIBBBBB", width, height, 8, colour_type, 0, 0, 0))
    if icc is not None:
        yield _chunk(b"iCCP", b"Profile\0\0" + zlib.compress(icc))
    elif colour_type:
        yield _chunk(b"sRGB", b"\x01")
    yield _chunk(b"pHYs", struct.pack(">IIB", per_metre, per_metre, 1))
    if description:
        yield _chunk(b"iTXt", b"Description\0\0\0\0\0" + description.encode("utf-8"))


class PngPieces:
    """A grey PNG written piece by piece: pieces are deflated apart, joined by full flushes (RFC 1951)."""

    def __init__(self, file: BinaryIO, width: int, height: int, ppi: float, description: str = "") -> None:
        self._file, self._check, self._begun = file, 1, False
        empty = np.broadcast_to(np.zeros((), np.uint8), (height, width))
        for part in _heads(empty, ppi, description, None):
            file.write(part)

    @staticmethod
    def packed(rows: NDArray[np.uint8]) -> tuple[bytes, int, int]:
        """Some rows, ``uint8 (h, W)``, deflated, with the check of what they were and its length."""
        filtered = _filtered(rows).tobytes()
        packer = zlib.compressobj(_LEVEL, zlib.DEFLATED, -15)
        data = packer.compress(filtered) + packer.flush(zlib.Z_FULL_FLUSH)
        return data, zlib.adler32(filtered), len(filtered)

    def add(self, piece: tuple[bytes, int, int]) -> None:
        """The next rows from above, as :meth:`packed` made them."""
        data, check, length = piece
        head = b"" if self._begun else b"\x78\x01"
        self._begun, self._check = True, adler_combined(self._check, check, length)
        self._file.write(_chunk(b"IDAT", head + data))

    def end(self) -> None:
        """No more rows."""
        self._file.write(_chunk(b"IDAT", b"\x03\x00" + struct.pack(">I", self._check)))
        self._file.write(_chunk(b"IEND", b""))


def adler_combined(one: int, other: int, length: int) -> int:
    """The Adler-32 check of two pieces together, from their own (RFC 1950); ``length`` is the second's.

    >>> adler_combined(zlib.adler32(b"holes "), zlib.adler32(b"and white"), 9) == zlib.adler32(b"holes and white")
    True
    """
    base = 65521
    low = (one & 0xFFFF) + (other & 0xFFFF) - 1
    high = (one >> 16) + (other >> 16) + length % base * ((one & 0xFFFF) - 1)
    return (high % base) << 16 | low % base


def _chunk(kind: bytes, body: bytes) -> bytes:
    return struct.pack(">I", len(body)) + kind + body + struct.pack(">I", zlib.crc32(kind + body))


def _packed(rows: NDArray[np.uint8]) -> bytes:
    """Rows without a filter as one zlib stream."""
    import imagecodecs

    return bytes(imagecodecs.zlibng_encode(_filtered(rows).tobytes(), level=_LEVEL))


def _filtered(rows: NDArray[np.uint8]) -> NDArray[np.uint8]:
    """Rows with the number of their filter, none, before each."""
    filtered = np.zeros((rows.shape[0], rows.shape[1] + 1), np.uint8)
    filtered[:, 1:] = rows
    return filtered
