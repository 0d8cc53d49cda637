"""PNG out: 8-bit grey or RGB with its resolution, compressed in strips on several threads.

ISO/IEC 15948 (PNG): one IDAT zlib stream may be made of raw deflate blocks that end on a byte boundary, so each strip
is compressed by itself with a full flush and the checksums are combined.
"""

import struct
import zlib
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from swaddon.core.units import MM_PER_INCH

_SIGNATURE = b"\x89PNG\r\n\x1a\n"
_STRIP_BYTES = 1 << 20
_LEVEL = 1
_ADLER_BASE = 65521


def write_png(path: Path, image: NDArray[np.uint8], ppi: float) -> None:
    """Write ``uint8 (H, W)`` grey or ``(H, W, 3)`` sRGB with its resolution in pixels per metre."""
    height, width = image.shape[:2]
    colour_type = 0 if image.ndim == 2 else 2
    per_metre = round(ppi / MM_PER_INCH * 1000)
    with path.open("wb") as file:
        file.write(_SIGNATURE)
        file.write(_chunk(b"IHDR", struct.pack(">IIBBBBB", width, height, 8, colour_type, 0, 0, 0)))
        if colour_type == 2:
            file.write(_chunk(b"sRGB", b"\x01"))
        file.write(_chunk(b"pHYs", struct.pack(">IIB", per_metre, per_metre, 1)))
        for part in _zlib_parts(image.reshape(height, -1)):
            file.write(_chunk(b"IDAT", part))
        file.write(_chunk(b"IEND", b""))


def _chunk(kind: bytes, body: bytes) -> bytes:
    return struct.pack(">I", len(body)) + kind + body + struct.pack(">I", zlib.crc32(kind + body))


def _zlib_parts(rows: NDArray[np.uint8]) -> list[bytes]:
    height, row_bytes = rows.shape
    step = max(1, _STRIP_BYTES // (row_bytes + 1))
    tops = list(range(0, height, step))

    def compress(top: int) -> tuple[bytes, int, int]:
        strip = rows[top : top + step]
        filtered = np.zeros((strip.shape[0], row_bytes + 1), np.uint8)
        filtered[:, 1:] = strip
        raw = filtered.tobytes()
        coder = zlib.compressobj(_LEVEL, zlib.DEFLATED, -15)
        last = top + step >= height
        packed = coder.compress(raw) + coder.flush(zlib.Z_FINISH if last else zlib.Z_FULL_FLUSH)
        return packed, zlib.adler32(raw), len(raw)

    with ThreadPoolExecutor() as pool:
        done = list(pool.map(compress, tops))
    checksum = 1
    for _, adler, length in done:
        checksum = _adler_combined(checksum, adler, length)
    parts = [packed for packed, _, _ in done]
    parts[0] = b"\x78\x01" + parts[0]
    parts[-1] += struct.pack(">I", checksum)
    return parts


def _adler_combined(first: int, second: int, second_length: int) -> int:
    """Adler-32 of two joined pieces from the checksums of each (RFC 1950 arithmetic)."""
    low1, high1 = first & 0xFFFF, first >> 16
    low2, high2 = second & 0xFFFF, second >> 16
    low = (low1 + low2 - 1) % _ADLER_BASE
    high = (high1 + high2 + second_length * (low1 - 1)) % _ADLER_BASE
    return high << 16 | low
