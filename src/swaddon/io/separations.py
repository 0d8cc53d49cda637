"""One TIFF with its colours and named spot whites.

TIFF 6.0 section 16: PhotometricInterpretation 5 (separated), InkSet 1 (CMYK), 0 = no ink, 255 = full; or 2 (RGB). Each
white is a further sample, declared as an extra sample and named in the image resource block of tag 34377 (resource
1006, channel names, and 1045, the same in Unicode; 1007, channel kind 2 = spot), so that readers which know no spot
colours still read the picture.
"""

import struct
from collections.abc import Mapping, Sequence
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

_RESOURCES_TAG = 34377
_INK_SET_TAG = 332
_BYTE, _SHORT = 1, 3
_ROWS_PER_STRIP = 128


def write_separations(
    path: Path,
    colour: NDArray[np.uint8],
    spots: Mapping[str, NDArray[np.uint8]],
    ppi: float,
    description: str | None = None,
) -> None:
    """Write CMYK ``uint8 (H, W, 4)`` or sRGB ``(H, W, 3)`` and named spot planes ``(H, W)`` as one deflated TIFF."""
    import tifffile

    height, width, colours = colour.shape
    is_cmyk = colours == 4
    planes = tuple(spots.values())
    with ThreadPoolExecutor(2) as pool:
        rows = [slice(top, top + _ROWS_PER_STRIP) for top in range(0, height, _ROWS_PER_STRIP)]
        strips = list(pool.map(lambda part: _strip(colour[part], [plane[part] for plane in planes]), rows))
    tifffile.imwrite(
        path,
        iter(strips),
        shape=(height, width, colours + len(planes)),
        dtype=np.uint8,
        photometric="separated" if is_cmyk else "rgb",
        planarconfig="contig",
        extrasamples=["unspecified"] * len(planes) or None,
        compression="zlib",
        rowsperstrip=_ROWS_PER_STRIP,
        resolution=(ppi, ppi),
        resolutionunit="INCH",
        description=description,
        metadata=None,
        software=False,
        extratags=spot_tags(tuple(spots), is_cmyk),
    )


def spot_tags(names: Sequence[str], is_cmyk: bool = True) -> list[tuple[int, int, int, object, bool]]:
    """The tags that say how colours are separated and what the spot channels are called."""
    tags: list[tuple[int, int, int, object, bool]] = [(_INK_SET_TAG, _SHORT, 1, 1, True)] if is_cmyk else []
    if not names:
        return tags
    resources = _resource(1006, b"".join(_pascal(name) for name in names))
    resources += _resource(1007, _spot_display() * len(names))
    if not all(name.isascii() for name in names):
        resources += _resource(1045, b"".join(_unicode(name) for name in names))
    return [*tags, (_RESOURCES_TAG, _BYTE, len(resources), resources, True)]


def spot_names(path: Path) -> list[str]:
    """The spot channels that a TIFF names, in order."""
    import tifffile

    with tifffile.TiffFile(path) as file:
        tag = file.pages[0].tags.get(_RESOURCES_TAG)
        if tag is None:
            return []
        blocks = _resources(bytes(tag.value))
    if 1045 in blocks:
        body, names, at = blocks[1045], [], 0
        while at + 4 <= len(body):
            (length,) = struct.unpack_from(">I", body, at)
            names.append(body[at + 4 : at + 4 + 2 * length].decode("utf-16-be").rstrip("\0"))
            at += 4 + 2 * length
        return names
    body, names, at = blocks.get(1006, b""), [], 0
    while at < len(body):
        names.append(body[at + 1 : at + 1 + body[at]].decode("ascii"))
        at += 1 + body[at]
    return names


def _resources(data: bytes) -> dict[int, bytes]:
    """Image resource blocks by number."""
    out, at = {}, 0
    while at + 12 <= len(data):
        number, _, length = struct.unpack_from(">HHI", data, at + 4)
        out[number] = data[at + 12 : at + 12 + length]
        at += 12 + length + length % 2
    return out


def _strip(colour: NDArray[np.uint8], spots: Sequence[NDArray[np.uint8]]) -> bytes:
    """Some rows of all samples of each pixel, packed."""
    import imagecodecs

    samples = np.empty((*colour.shape[:2], colour.shape[2] + len(spots)), np.uint8)
    samples[..., : colour.shape[2]] = colour
    for index, plane in enumerate(spots, start=colour.shape[2]):
        samples[..., index] = plane
    return bytes(imagecodecs.zlibng_encode(samples.tobytes(), level=1))


def _pascal(text: str) -> bytes:
    encoded = text.encode("ascii", "replace")
    return bytes([len(encoded)]) + encoded


def _unicode(text: str) -> bytes:
    encoded = text.encode("utf-16-be")
    return struct.pack(">I", len(encoded) // 2) + encoded


def _resource(number: int, body: bytes) -> bytes:
    """One image resource block: signature, number, empty name, even-padded body."""
    return b"8BIM" + struct.pack(">HHI", number, 0, len(body)) + body + b"\0" * (len(body) % 2)


def _spot_display() -> bytes:
    """How a reader may show the channel: RGB white, full solidity, kind 2 = spot."""
    return struct.pack(">HHHHHHBB", 0, 65535, 65535, 65535, 0, 100, 2, 0)
