"""A whole sheet in bands of rows: prints kept packed on disk, and laid together a few rows at a time.

A film of 580 × 3000 mm at 300 ppi has 243 megapixels of five inks: it is never held whole.
"""

import tempfile
from collections import OrderedDict
from collections.abc import Callable, Iterator, Sequence
from concurrent.futures import Future, ThreadPoolExecutor
from dataclasses import dataclass
from pathlib import Path
from threading import Lock
from typing import TypeVar

import numpy as np
from numpy.typing import NDArray

from swaddon.core.artwork.raster import Box
from swaddon.core.sheet.prints import Turn

BAND_ROWS = 64
_KEPT_BYTES = 48_000_000
_AHEAD = 3

Samples = NDArray[np.uint8]
Done = TypeVar("Done")
Item = TypeVar("Item")


@dataclass(frozen=True)
class Stored:
    """A print as it lies on the sheet, in a store: its size, and where each band of its rows is kept."""

    width: int
    height: int
    places: tuple[tuple[int, int], ...]


@dataclass(frozen=True)
class Stamp:
    """A stored print with its upper left corner on the sheet, in pixels."""

    stored: Stored
    x: int
    y: int


@dataclass(frozen=True)
class SheetPlanes:
    """What one sheet holds.

    Attributes
    ----------
    width, height
        In pixels.
    whites
        Names of the channels after C, M, Y and K.
    mirrored
        Whether the prints on it are.
    """

    width: int
    height: int
    ppi: float
    whites: tuple[str, ...]
    mirrored: bool
    stamps: tuple[Stamp, ...]

    @property
    def channels(self) -> int:
        return 4 + len(self.whites)


class PlateStore:
    """Prints packed in one file that is gone when it is closed."""

    def __init__(self, folder: Path | None, channels: int) -> None:
        self._file = tempfile.TemporaryFile(dir=folder, prefix=".swaddon-")  # noqa: SIM115 - closed by close
        self._channels = channels
        self._lock = Lock()
        self._end = 0
        self._kept: OrderedDict[int, Samples] = OrderedDict()
        self._bytes = 0

    def close(self) -> None:
        """Let go of the file."""
        self._file.close()
        self._kept.clear()

    def __enter__(self) -> "PlateStore":
        return self

    def __exit__(self, *_: object) -> None:
        self.close()

    def keep(
        self,
        cmyk: Samples,
        whites: Sequence[Samples],
        box: Box,
        turn: Turn,
        mirrored: bool,
        mask: Samples | None = None,
    ) -> Stored:
        """Keep the printed part of some planes as it lies on the sheet: mirrored first, then turned clockwise.

        ``box`` and ``mask`` (255 where pixels belong to it) are of the print as the planes hold it, not mirrored.
        """
        import imagecodecs

        part = np.s_[box.top : box.bottom, box.left : box.right]
        samples = np.empty((box.height, box.width, self._channels), np.uint8)
        samples[..., :4] = cmyk[part]
        for index, plane in enumerate(whites, start=4):
            samples[..., index] = plane[part]
        if mask is not None:
            samples[mask == 0] = 0
        laid = samples[:, ::-1] if mirrored else samples
        laid = np.rot90(laid, -(turn // 90))
        places = []
        for top in range(0, laid.shape[0], BAND_ROWS):
            band = np.ascontiguousarray(laid[top : top + BAND_ROWS])
            places.append(self._append(bytes(imagecodecs.zstd_encode(band.tobytes(), level=1))))
        return Stored(laid.shape[1], laid.shape[0], tuple(places))

    def _append(self, data: bytes) -> tuple[int, int]:
        with self._lock:
            place = self._end
            self._file.seek(place)
            self._file.write(data)
            self._end += len(data)
        return place, len(data)

    def rows(self, stored: Stored, first: int, last: int) -> Iterator[tuple[int, Samples]]:
        """Bands of a stored print that hold rows ``first`` to ``last`` (exclusive), each with its first row."""
        for index in range(first // BAND_ROWS, -(-last // BAND_ROWS)):
            yield index * BAND_ROWS, self._band(stored, index)

    def _band(self, stored: Stored, index: int) -> Samples:
        import imagecodecs

        place, length = stored.places[index]
        with self._lock:
            known = self._kept.get(place)
            if known is not None:
                self._kept.move_to_end(place)
                return known
            self._file.seek(place)
            data = self._file.read(length)
        rows = min(BAND_ROWS, stored.height - index * BAND_ROWS)
        band = np.frombuffer(imagecodecs.zstd_decode(data), np.uint8).reshape(rows, stored.width, self._channels)
        with self._lock:
            if place not in self._kept:
                self._kept[place] = band
                self._bytes += band.nbytes
            while self._bytes > _KEPT_BYTES and len(self._kept) > 1:
                self._bytes -= self._kept.popitem(last=False)[1].nbytes
        return band

    def compose(self, sheet: SheetPlanes, top: int, bottom: int) -> Samples:
        """Rows of a sheet, ``uint8 (rows, width, channels)``, 255 = full ink."""
        out = np.zeros((bottom - top, sheet.width, sheet.channels), np.uint8)
        for stamp in sheet.stamps:
            first, last = max(top, stamp.y), min(bottom, stamp.y + stamp.stored.height)
            if first >= last:
                continue
            for row, band in self.rows(stamp.stored, first - stamp.y, last - stamp.y):
                begin = max(first, stamp.y + row)
                end = min(last, stamp.y + row + len(band))
                here = out[begin - top : end - top, stamp.x : stamp.x + stamp.stored.width]
                np.maximum(here, band[begin - stamp.y - row : end - stamp.y - row], out=here)
        return out


def in_order(work: Callable[[Item], Done], items: Sequence[Item], threads: int = 2) -> Iterator[Done]:
    """What ``work`` makes of each item, in their order; a few are worked on ahead, no more."""
    waiting: list[Future[Done]] = []
    with ThreadPoolExecutor(threads) as pool:
        try:
            for item in items:
                waiting.append(pool.submit(work, item))
                if len(waiting) > _AHEAD:
                    yield waiting.pop(0).result()
            while waiting:
                yield waiting.pop(0).result()
        finally:
            for future in waiting:
                future.cancel()


def bands_of(height: int, rows: int) -> list[tuple[int, int]]:
    """First and last (exclusive) row of bands that cover a height.

    >>> bands_of(150, 64)
    [(0, 64), (64, 128), (128, 150)]
    """
    return [(top, min(top + rows, height)) for top in range(0, height, rows)]
