"""One TIFF with C, M, Y, K and named spot whites.

TIFF 6.0 section 16: PhotometricInterpretation 5 (separated), InkSet 1 (CMYK), 0 = no ink, 255 = full. Each white is a
further sample, declared as an extra sample and named in the image resource block of tag 34377 (resource 1006, channel
names; 1007, channel kind 2 = spot), so that readers which know no spot colours still read the CMYK picture.
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


def write_separations(path: Path, cmyk: NDArray[np.uint8], spots: Mapping[str, NDArray[np.uint8]], ppi: float) -> None:
    """Write ``uint8 (H, W, 4)`` CMYK and named spot planes, ``uint8 (H, W)`` each, as one deflated TIFF."""
    import tifffile

    resources = _resource(1006, b"".join(_pascal(name) for name in spots))
    resources += _resource(1007, _spot_display() * len(spots))
    height, width = cmyk.shape[:2]
    planes = tuple(spots.values())
    with ThreadPoolExecutor(2) as pool:
        rows = [slice(top, top + _ROWS_PER_STRIP) for top in range(0, height, _ROWS_PER_STRIP)]
        strips = list(pool.map(lambda part: _strip(cmyk[part], [plane[part] for plane in planes]), rows))
    tifffile.imwrite(
        path,
        iter(strips),
        shape=(height, width, 4 + len(planes)),
        dtype=np.uint8,
        photometric="separated",
        planarconfig="contig",
        extrasamples=["unspecified"] * len(planes),
        compression="zlib",
        rowsperstrip=_ROWS_PER_STRIP,
        resolution=(ppi, ppi),
        resolutionunit="INCH",
        metadata=None,
        software=False,
        extratags=[
            (_INK_SET_TAG, _SHORT, 1, 1, True),
            (_RESOURCES_TAG, _BYTE, len(resources), resources, True),
        ],
    )


def _strip(cmyk: NDArray[np.uint8], spots: Sequence[NDArray[np.uint8]]) -> bytes:
    """Some rows of all samples of each pixel, packed."""
    import imagecodecs

    samples = np.empty((*cmyk.shape[:2], 4 + len(spots)), np.uint8)
    samples[..., :4] = cmyk
    for index, plane in enumerate(spots, start=4):
        samples[..., index] = plane
    return bytes(imagecodecs.zlibng_encode(samples.tobytes(), level=1))


def _pascal(text: str) -> bytes:
    encoded = text.encode("ascii")
    return bytes([len(encoded)]) + encoded


def _resource(number: int, body: bytes) -> bytes:
    """One image resource block: signature, number, empty name, even-padded body."""
    return b"8BIM" + struct.pack(">HHI", number, 0, len(body)) + body + b"\0" * (len(body) % 2)


def _spot_display() -> bytes:
    """How a reader may show the channel: RGB white, full solidity, kind 2 = spot."""
    return struct.pack(">HHHHHHBB", 0, 65535, 65535, 65535, 0, 100, 2, 0)
