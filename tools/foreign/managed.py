"""Colour-managed pictures in every format, depth and kind of profile, made here, with what they mean in sRGB.

What RGB and grey matrix profiles mean is worked out by the formulas of ICC.1:2022 (annex F) and IEC 61966-2-1; table
profiles are built so that they mean the same as a matrix one, or as a product of inks. So no colour engine is asked for
what is right. Most names hold "sRGB", whatever the profile does.
"""

import io
import itertools
import struct
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import Any

import imagecodecs
import numpy as np
from numpy.typing import NDArray
from PIL import Image

Array = NDArray[Any]

D50 = np.array([0.9642, 1.0, 0.8249])
SRGB = np.array(
    [[0.4360747, 0.3850649, 0.1430804], [0.2225045, 0.7168786, 0.0606169], [0.0139322, 0.0971045, 0.7141733]]
)
"""Columns of red, green and blue in XYZ of D50 (Lindbloom, from memory)."""

WIDE = np.array(
    [[0.6097559, 0.2052401, 0.1492240], [0.3111242, 0.6256560, 0.0632197], [0.0194811, 0.0608902, 0.7448387]]
)
"""The same of a wider gamut."""


@dataclass(frozen=True)
class Kind:
    """A profile: its name, its bytes, and what samples of 0..1, ``(…, channels)``, mean in XYZ of D50."""

    name: str
    icc: bytes
    channels: int
    xyz: Callable[[Array], Array]
    limit: int = 2


@dataclass(frozen=True)
class Picture:
    """A file, the sRGB and alpha ``uint8 (H, W, 4)`` that it means, and how far a reader may be off, of 255."""

    name: str
    data: bytes
    means: Array
    limit: int


def _s15(*values: float) -> bytes:
    return struct.pack(f">{len(values)}i", *(round(value * 65536) for value in values))


def _profile(name: str, space: bytes, device: bytes, tags: list[tuple[bytes, bytes]]) -> bytes:
    """An ICC profile of version 2 from its tags."""
    text = name.encode("ascii") + b"\0"
    desc = b"desc\0\0\0\0" + struct.pack(">I", len(text)) + text + b"\0" * 78
    every = [(b"desc", desc), (b"cprt", b"text\0\0\0\0none\0"), (b"wtpt", b"XYZ \0\0\0\0" + _s15(*D50)), *tags]
    table, body, at = struct.pack(">I", len(every)), b"", 132 + 12 * len(every)
    for key, data in every:
        table += key + struct.pack(">II", at + len(body), len(data))
        body += data + b"\0" * (-len(data) % 4)
    content = table + body
    head = struct.pack(">I4sI4s4s4s", 128 + len(content), b"none", 0x02400000, device, space, b"XYZ ")
    head += struct.pack(">6H", 2026, 1, 1, 0, 0, 0) + b"acsp" + b"\0" * 28 + _s15(*D50)
    return head.ljust(128, b"\0") + content


def _curve(power: float) -> bytes:
    return b"curv\0\0\0\0" + struct.pack(">IH", 1, round(power * 256))


def matrix_kind(name: str, columns: Array, power: float) -> Kind:
    """RGB by three curves and a matrix."""
    tags = [(key, b"XYZ \0\0\0\0" + _s15(*columns[:, at])) for at, key in enumerate((b"rXYZ", b"gXYZ", b"bXYZ"))]
    tags += [(key, _curve(power)) for key in (b"rTRC", b"gTRC", b"bTRC")]
    return Kind(name, _profile(name, b"RGB ", b"mntr", tags), 3, lambda rgb: rgb**power @ columns.T)


def grey_kind(name: str, power: float) -> Kind:
    return Kind(name, _profile(name, b"GRAY", b"mntr", [(b"kTRC", _curve(power))]), 1, lambda grey: grey**power * D50)


def table_kind(name: str, space: bytes, channels: int, power: float, meaning: Callable[[Array], Array]) -> Kind:
    """Curves, then a table of nine nodes a side (``lut16Type``) of a smooth meaning."""
    side = 9
    nodes = meaning(np.array(list(itertools.product(np.linspace(0, 1, side), repeat=channels))))
    ramp = np.rint(np.linspace(0, 1, 4096) ** power * 65535).astype(">u2").tobytes()
    lut = (
        b"mft2\0\0\0\0" + bytes([channels, 3, side, 0]) + _s15(1, 0, 0, 0, 1, 0, 0, 0, 1) + struct.pack(">HH", 4096, 2)
    )
    lut += ramp * channels + np.rint(nodes * 32768).clip(0, 65535).astype(">u2").tobytes()
    lut += struct.pack(">HH", 0, 65535) * 3
    icc = _profile(name, space, b"prtr" if channels == 4 else b"scnr", [(b"A2B0", lut)])
    # between nodes of four inks a straight line is not the product: 8 of 255 in the darkest colours
    return Kind(name, icc, channels, lambda samples: meaning(samples**power), 2 if channels == 3 else 9)


def _inked(inks: Array) -> Array:
    """Paper under dots of inks that each take their part of the light, down to black (Demichel)."""
    takes = np.array([[0.1, 0.3, 0.85], [0.4, 0.15, 0.3], [0.85, 0.9, 0.1], [0.02, 0.02, 0.02]])
    left = np.prod(1 - inks[..., None] * (1 - takes), axis=-2)
    black = np.prod(takes, axis=0)
    return np.asarray((left - black) / (1 - black) * D50)


KINDS = (
    matrix_kind("sRGB linear", SRGB, 1.0),
    matrix_kind("My sRGB, gamma 1.8", SRGB, 1.8),
    matrix_kind("sRGB wide gamut", WIDE, 2.19921875),
    matrix_kind("Wide linear sRGB", WIDE, 1.0),
    table_kind("sRGB by a table, red and blue changed", b"RGB ", 3, 2.2, lambda rgb: rgb[..., ::-1] @ SRGB.T),
    grey_kind("sRGB grey linear", 1.0),
    grey_kind("Grey 2.2", 2.2),
    table_kind("Press sRGB", b"CMYK", 4, 1.0, _inked),
)


def srgb8(xyz: Array) -> Array:
    """sRGB 0..255, not rounded, of XYZ of D50; what it cannot show is cut off (IEC 61966-2-1)."""
    light = np.clip(xyz @ np.linalg.inv(SRGB).T, 0, 1)
    return np.asarray(255 * np.where(light <= 0.0031308, 12.92 * light, 1.055 * light ** (1 / 2.4) - 0.055))


def samples_of(kind: Kind, seed: int) -> Array:
    """Samples 0..1, ``(40, 48, channels)``: ramps of each channel, all together, and colours at random."""
    rng = np.random.default_rng(seed)
    out = rng.random((40, 48, kind.channels))
    ramp = np.linspace(0, 1, 48)
    out[:8] = ramp[:, None]
    for channel in range(kind.channels):
        out[8 + 4 * channel : 12 + 4 * channel] = 0.0
        out[8 + 4 * channel : 12 + 4 * channel, :, channel] = ramp
    return np.repeat(np.repeat(out[::8, ::8], 8, axis=0), 8, axis=1)[:40, :48] if seed % 2 else out


def _means(kind: Kind, samples: Array, alpha: Array | None) -> Array:
    rgb = np.rint(srgb8(kind.xyz(samples))).astype(np.uint8)
    full = np.full(samples.shape[:2], 255, np.uint8) if alpha is None else alpha
    return np.dstack([rgb, full])


def _depth(values: Array, bits: int) -> Array:
    if bits == 32:
        return values.astype(np.float32)
    return np.rint(values * (2**bits - 1)).astype(np.uint8 if bits == 8 else np.uint16)


def _with_chunk(png: bytes, icc: bytes) -> bytes:
    """A PNG with an iCCP chunk behind its header."""
    import zlib

    body = b"iCCP" + b"own\0\0" + zlib.compress(icc)
    return png[:33] + struct.pack(">I", len(body) - 4) + body + struct.pack(">I", zlib.crc32(body)) + png[33:]


def _png(kind: Kind) -> Iterator[Picture]:
    for bits, has_alpha in itertools.product((8, 16), (False, True)):
        samples = _depth(samples_of(kind, bits), bits)
        alpha = _depth(np.linspace(0.2, 1, 48)[None, :].repeat(40, 0), bits)
        array = np.dstack([samples, alpha]) if has_alpha else samples
        data = bytes(imagecodecs.png_encode(np.ascontiguousarray(array[..., 0] if array.shape[2] == 1 else array)))
        eight = np.rint(alpha / (2**bits - 1) * 255).astype(np.uint8) if has_alpha else None
        name = f"{kind.name}, {bits} bits{', alpha' if has_alpha else ''}.png"
        yield Picture(name, _with_chunk(data, kind.icc), _means(kind, samples / (2**bits - 1), eight), kind.limit)


def _tiff(kind: Kind) -> Iterator[Picture]:
    import tifffile

    photometric = {1: "minisblack", 3: "rgb", 4: "separated"}[kind.channels]
    for bits in (8, 16, 32) if kind.channels != 4 else (8, 16):
        samples = _depth(samples_of(kind, bits), bits)
        file = io.BytesIO()
        tag = [(34675, 7, len(kind.icc), kind.icc, True)]
        array = samples[..., 0] if kind.channels == 1 else samples
        tifffile.imwrite(file, array, photometric=photometric, extratags=tag, metadata=None)
        whole = samples if bits == 32 else samples / (2**bits - 1)
        yield Picture(f"{kind.name}, {bits} bits.tif", file.getvalue(), _means(kind, whole, None), kind.limit)


def _pillow(kind: Kind) -> Iterator[Picture]:
    samples = _depth(samples_of(kind, 1), 8)
    mode = {1: "L", 3: "RGB", 4: "CMYK"}[kind.channels]
    image = Image.fromarray(samples[..., 0] if kind.channels == 1 else samples, mode)
    ways: list[tuple[str, dict[str, Any]]] = [("JPEG", {"quality": 100, "subsampling": 0})]
    ways += [("WEBP", {"lossless": True})] if kind.channels == 3 else []
    for form, how in ways:
        file = io.BytesIO()
        image.save(file, form, icc_profile=kind.icc, **how)
        # what the codec made of the samples is no matter of colour
        kept = np.asarray(Image.open(io.BytesIO(file.getvalue()))).reshape(samples.shape)
        suffix = {"JPEG": "jpg", "WEBP": "webp"}[form]
        yield Picture(f"{kind.name}.{suffix}", file.getvalue(), _means(kind, kept / 255, None), kind.limit)


def pictures() -> Iterator[Picture]:
    """All of them."""
    for kind in KINDS:
        if kind.channels != 4:
            yield from _png(kind)
        yield from _tiff(kind)
        yield from _pillow(kind)
