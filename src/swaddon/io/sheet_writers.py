"""A sheet as files, written in bands: named-ink TIFF, PDF with spot white at true size, one PNG for each ink.

TIFF 6.0 section 16 and ISO 32000-1, as in ``separations`` and ``spot_pdf``.
"""

from collections.abc import Callable, Iterator, Sequence
from contextlib import ExitStack
from dataclasses import dataclass
from pathlib import Path

import cv2
import numpy as np
from numpy.typing import NDArray

from swaddon.core.press.profile import INKS
from swaddon.io.pdf_stream import PdfStream, name_of, shown_text, string_of
from swaddon.io.png import PngPieces
from swaddon.io.separations import spot_tags
from swaddon.io.sheet_bands import PlateStore, SheetPlanes, bands_of, in_order
from swaddon.io.spot_pdf import POINTS_PER_MM

_STRIP_ROWS = 64
_IMAGE_ROWS = 512
_PIECE_ROWS = 128
_LONGEST_POINTS = 14_400
_BIG_BYTES = 2**32 - 2**25

Progress = Callable[[float], None]
"""Told the share that is done; raises to give up."""

Samples = NDArray[np.uint8]


def write_sheet_tiff(path: Path, store: PlateStore, sheet: SheetPlanes, told: str, progress: Progress) -> None:
    """One TIFF of C, M, Y, K and the named whites; a BigTIFF where 4 GB may not be enough."""
    import imagecodecs
    import tifffile

    def strip(rows: tuple[int, int]) -> bytes:
        return bytes(imagecodecs.zlibng_encode(store.compose(sheet, *rows).tobytes(), level=1))

    def strips() -> Iterator[bytes]:
        parts = bands_of(sheet.height, _STRIP_ROWS)
        for index, packed in enumerate(in_order(strip, parts)):
            progress(index / len(parts))
            yield packed

    size = sheet.height * sheet.width * sheet.channels
    tifffile.imwrite(
        path,
        strips(),
        shape=(sheet.height, sheet.width, sheet.channels),
        dtype=np.uint8,
        bigtiff=size > _BIG_BYTES,
        photometric="separated",
        planarconfig="contig",
        extrasamples=["unspecified"] * len(sheet.whites) or None,
        compression="zlib",
        rowsperstrip=_STRIP_ROWS,
        resolution=(sheet.ppi, sheet.ppi),
        resolutionunit="INCH",
        description=told.encode("ascii", "replace").decode(),
        metadata=None,
        software=False,
        extratags=spot_tags(sheet.whites),
    )


def write_sheet_pngs(
    paths: dict[str, Path], store: PlateStore, sheet: SheetPlanes, told: str, progress: Progress
) -> None:
    """A grey PNG of each ink that is named, 255 = full; names are C, M, Y, K and those of the whites."""
    channel = {name: index for index, name in enumerate((*INKS, *sheet.whites))}
    wanted = list(paths)

    def pieces(rows: tuple[int, int]) -> list[tuple[bytes, int, int]]:
        samples = store.compose(sheet, *rows)
        return [PngPieces.packed(np.asarray(cv2.extractChannel(samples, channel[name]), np.uint8)) for name in wanted]

    with ExitStack() as stack:
        files = [
            PngPieces(
                stack.enter_context(paths[name].open("wb")), sheet.width, sheet.height, sheet.ppi, f"{name}; {told}"
            )
            for name in wanted
        ]
        parts = bands_of(sheet.height, _PIECE_ROWS)
        for index, made in enumerate(in_order(pieces, parts)):
            progress(index / len(parts))
            for file, piece in zip(files, made, strict=True):
                file.add(piece)
        for file in files:
            file.end()


@dataclass(frozen=True)
class Words:
    """A short text on a page: start of its baseline and size in mm, y downwards."""

    x_mm: float
    y_mm: float
    size_mm: float
    text: str


def write_sheet_pdf(
    path: Path, store: PlateStore, sheet: SheetPlanes, told: str, progress: Progress, words: Sequence[Words] = ()
) -> None:
    """One page of the sheet's true size: colours as CMYK images, each white as images of its own on top of them."""
    with path.open("wb") as file:
        pdf, page = PdfStream(file), _Page(sheet)
        spaces = {name: _separation(pdf, name) for name in sheet.whites}
        parts = bands_of(sheet.height, _IMAGE_ROWS)
        images: list[str] = []
        layers: dict[str, list[str]] = {name: [] for name in ("", *sheet.whites)}
        for index, made in enumerate(in_order(lambda rows: _packed_images(store, sheet, rows), parts)):
            progress(index / len(parts))
            for name, data, (top, bottom) in made:
                space = f"{spaces[name]} 0 R" if name else "/DeviceCMYK"
                number = pdf.stream(
                    f"/Type /XObject /Subtype /Image /Width {sheet.width} /Height {bottom - top} /BitsPerComponent 8 "
                    f"/Filter /FlateDecode /ColorSpace {space}",
                    data,
                )
                images.append(f"/Im{number} {number} 0 R")
                layers[name].append(page.placed(number, top, bottom, bool(name)))
        lines = [line for layer in layers.values() for line in layer]
        lines += [page.written(item) for item in words]
        content = pdf.stream("", "\n".join(lines).encode("latin-1"))
        tree = pdf.number()
        leaf = pdf.add(
            f"<< /Type /Page /Parent {tree} 0 R {page.size} /Contents {content} 0 R /Resources << "
            f"/XObject << {' '.join(images)} >> /ExtGState << /G0 << /Type /ExtGState /OP true /op true /OPM 1 >> >> "
            "/Font << /F0 << /Type /Font /Subtype /Type1 /BaseFont /Helvetica /Encoding /WinAnsiEncoding >> >> >> >>"
        )
        pdf.add(f"<< /Type /Pages /Kids [{leaf} 0 R] /Count 1 >>", tree)
        root = pdf.add(f"<< /Type /Catalog /Pages {tree} 0 R >>")
        pdf.end(root, pdf.add(f"<< /Subject {string_of(told)} >>"))


def _packed_images(
    store: PlateStore, sheet: SheetPlanes, rows: tuple[int, int]
) -> list[tuple[str, bytes, tuple[int, int]]]:
    """Colours and whites of some rows, deflated; what is empty is left out."""
    import imagecodecs

    samples, out = store.compose(sheet, *rows), []
    for name in ("", *sheet.whites):
        at = 4 + sheet.whites.index(name) if name else 0
        own = np.ascontiguousarray(samples[..., at] if name else samples[..., :4])
        if own.any():
            out.append((name, bytes(imagecodecs.zlibng_encode(own.tobytes(), level=1)), rows))
    return out


def _separation(pdf: PdfStream, name: str) -> int:
    """A white that a viewer without that ink does not show."""
    tint = pdf.stream("/FunctionType 4 /Domain [0 1] /Range [0 1 0 1 0 1 0 1]", b"{pop 0 0 0 0}")
    return pdf.add(f"[/Separation {name_of(name)} /DeviceCMYK {tint} 0 R]")


class _Page:
    """Places on a page in its own units, y upwards; pages over 200 inches count in larger ones (UserUnit)."""

    def __init__(self, sheet: SheetPlanes) -> None:
        per_px = 72 / sheet.ppi
        self._unit = max(1.0, max(sheet.width, sheet.height) * per_px / _LONGEST_POINTS)
        self._px = per_px / self._unit
        self._width, self._height = sheet.width * self._px, sheet.height * self._px

    @property
    def size(self) -> str:
        """Entries that say how large it is."""
        unit = f" /UserUnit {self._unit:.6f}" if self._unit > 1 else ""
        return f"/MediaBox [0 0 {self._width:.5f} {self._height:.5f}]{unit}"

    def placed(self, number: int, top: int, bottom: int, over: bool) -> str:
        """An image over the whole width; ``over`` what was painted before."""
        state = "/G0 gs " if over else ""
        low = self._height - bottom * self._px
        return f"q {state}{self._width:.5f} 0 0 {(bottom - top) * self._px:.5f} 0 {low:.5f} cm /Im{number} Do Q"

    def written(self, words: Words) -> str:
        mm = POINTS_PER_MM / self._unit
        where = f"{words.x_mm * mm:.3f} {self._height - words.y_mm * mm:.3f}"
        return f"q 0 0 0 1 k BT /F0 {words.size_mm * mm:.3f} Tf {where} Td {shown_text(words.text)} Tj ET Q"
