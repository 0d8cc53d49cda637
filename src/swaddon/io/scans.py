"""Scans in and out: PNG, TIFF or JPEG in the colour space that their ICC profile tells, read without any clipping.

Of ICC profiles (ICC.1:2022) the matrix and curves of RGB devices are read and written; a scan with any other profile is
read as artwork is, into sRGB.
"""

import io
import struct
from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from PIL import Image

from swaddon.core.colour.wide import SRGB_FROM_XYZ_D50, WIDE_GAMMA, XYZ_D50_FROM_WIDE
from swaddon.core.testprint.scan import Scan
from swaddon.io.images import LARGEST_PIXELS, read_artwork
from swaddon.io.png import write_png

_TABLE = np.arange(256) / 255


def read_scan(path: Path) -> Scan:
    """A scan from a file; raises ``PlanError`` with one sentence."""
    plain = _with_matrix(path)
    if plain is not None:
        return plain
    art = read_artwork(path)
    return Scan(np.ascontiguousarray(art.rgba[..., :3]))


def _with_matrix(path: Path) -> Scan | None:
    """A scan of 8 bits whose profile is a matrix with curves; ``None`` for anything else."""
    try:
        with Image.open(path, formats=("PNG", "JPEG", "TIFF")) as image:
            icc = image.info.get("icc_profile")
            if image.mode != "RGB" or not icc or image.width * image.height > LARGEST_PIXELS:
                return None
            meaning = _meaning(icc)
            pixels = None if meaning is None else np.asarray(image, np.uint8)
    except (OSError, ValueError, SyntaxError, Image.DecompressionBombError):
        return None  # read_artwork says what is wrong
    if meaning is None or pixels is None:
        return None
    return Scan(pixels, *meaning)


def _meaning(icc: bytes) -> tuple[NDArray[np.float32], NDArray[np.float32]] | None:
    """Curves and matrix to linear sRGB of an RGB matrix profile."""
    try:
        if icc[16:20] != b"RGB " or icc[20:24] != b"XYZ ":
            return None
        (count,) = struct.unpack_from(">I", icc, 128)
        tags = {}
        for at in range(min(count, 100)):
            signature, offset, size = struct.unpack_from(">4sII", icc, 132 + 12 * at)
            tags[signature] = icc[offset : offset + size]
        columns = [struct.unpack_from(">3i", tags[name], 8) for name in (b"rXYZ", b"gXYZ", b"bXYZ")]
        curves = [_curve(tags[name]) for name in (b"rTRC", b"gTRC", b"bTRC")]
    except (struct.error, KeyError, ValueError):
        return None
    matrix = SRGB_FROM_XYZ_D50 @ (np.array(columns, np.float64).T / 65536)
    if not np.isfinite(matrix).all() or np.abs(matrix.sum(axis=1) - 1).max() > 0.05:
        return None
    return np.array(curves, np.float32), matrix.astype(np.float32)


def _curve(tag: bytes) -> NDArray[np.float64]:
    """Linear light of the 256 values by a ``curv`` or ``para`` tag."""
    if tag[:4] == b"curv":
        (count,) = struct.unpack_from(">I", tag, 8)
        if count == 0:
            return _TABLE
        if count == 1:
            return np.asarray(_TABLE ** (struct.unpack_from(">H", tag, 12)[0] / 256))
        samples = np.frombuffer(tag[12 : 12 + 2 * count], ">u2") / 65535
        return np.asarray(np.interp(_TABLE, np.linspace(0, 1, count), samples))
    if tag[:4] != b"para":
        raise ValueError("no curve")
    (kind,) = struct.unpack_from(">H", tag, 8)
    given = [value / 65536 for value in struct.unpack_from(f">{_PARAMETERS[kind]}i", tag, 12)]
    g, a, b, c, d, e, f = [*given, *[0.0] * 7][:7]
    if kind == 0:
        return np.asarray(_TABLE**g)
    low = 0.0 if kind == 1 else (c if kind == 2 else c * _TABLE + (f if kind == 4 else 0.0))
    start = -b / a if kind in (1, 2) else d
    high = np.maximum(a * _TABLE + b, 0) ** g + (c if kind == 2 else e if kind == 4 else 0.0)
    return np.asarray(np.clip(np.where(start <= _TABLE, high, low), 0, 1))


_PARAMETERS = {0: 1, 1: 3, 2: 4, 3: 5, 4: 7}


def write_scan(path: Path, pixels: NDArray[np.uint8], ppi: float, description: str = "") -> None:
    """Write ``uint8 (H, W, 3)`` in the wide space (``core.colour.wide``) as PNG with its profile."""
    write_png(path, pixels, ppi, description, wide_profile())


def wide_meaning() -> tuple[NDArray[np.float32], NDArray[np.float32]]:
    """Curves and matrix to linear sRGB of the wide space."""
    found = _meaning(wide_profile())
    assert found is not None
    return found


def wide_profile() -> bytes:
    """The wide space as an ICC v2 display profile: a matrix and a gamma."""

    def s15(*values: float) -> bytes:
        return struct.pack(f">{len(values)}i", *(round(value * 65536) for value in values))

    curve = b"curv\0\0\0\0" + struct.pack(">IH", 1, round(WIDE_GAMMA * 256)) + b"\0\0"
    name = b"Wide RGB, BT.2020 primaries, gamma 2.2"
    described = b"desc\0\0\0\0" + struct.pack(">I", len(name) + 1) + name + b"\0" * (1 + 12 + 67)
    tags = [(b"desc", described), (b"wtpt", b"XYZ \0\0\0\0" + s15(0.9642, 1.0, 0.8249))]
    tags += [
        (signature, b"XYZ \0\0\0\0" + s15(*XYZ_D50_FROM_WIDE[:, at].tolist()))
        for at, signature in enumerate((b"rXYZ", b"gXYZ", b"bXYZ"))
    ]
    tags += [(signature, curve) for signature in (b"rTRC", b"gTRC", b"bTRC")]
    tags.append((b"cprt", b"text\0\0\0\0none\0"))
    table, body = io.BytesIO(), io.BytesIO()
    table.write(struct.pack(">I", len(tags)))
    for signature, data in tags:
        table.write(signature + struct.pack(">II", 132 + 12 * len(tags) + body.tell(), len(data)))
        body.write(data + b"\0" * (-len(data) % 4))
    content = table.getvalue() + body.getvalue()
    head = struct.pack(">I4sI4s4s4s", 128 + len(content), b"none", 0x02400000, b"scnr", b"RGB ", b"XYZ ")
    head += struct.pack(">6H", 2026, 1, 1, 0, 0, 0) + b"acsp" + b"\0" * 28 + s15(0.9642, 1.0, 0.8249)
    return head.ljust(128, b"\0") + content
