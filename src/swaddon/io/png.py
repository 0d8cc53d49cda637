"""PNG out (ISO/IEC 15948): 8-bit grey or RGB with its resolution, packed for speed: ink planes are mostly flat."""

import struct
import zlib
from collections.abc import Iterator
from pathlib import Path

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
    yield _chunk(b"IDAT", _packed(image.reshape(height, -1)))
    yield _chunk(b"IEND", b"")


def _chunk(kind: bytes, body: bytes) -> bytes:
    return struct.pack(">I", len(body)) + kind + body + struct.pack(">I", zlib.crc32(kind + body))


def _packed(rows: NDArray[np.uint8]) -> bytes:
    """Rows without a filter as one zlib stream."""
    import imagecodecs

    filtered = np.zeros((rows.shape[0], rows.shape[1] + 1), np.uint8)
    filtered[:, 1:] = rows
    return bytes(imagecodecs.zlibng_encode(filtered.tobytes(), level=_LEVEL))
