"""Drawings in: SVG and PDF, rendered at the plan's own resolution. Nothing outside the file is ever fetched."""

import hashlib
import math
import re
from collections.abc import Callable
from dataclasses import dataclass
from functools import partial
from importlib import resources
from typing import Any
from xml.etree import ElementTree

import numpy as np
from numpy.typing import NDArray

from swaddon.core.artwork.artwork import Artwork
from swaddon.core.artwork.raster import Rgba
from swaddon.core.errors import PlanError
from swaddon.core.units import number_of
from swaddon.io import apart
from swaddon.io.svg_markup import plain_markup, unzipped
from swaddon.io.svg_weight import MOST, weight

SHOWN_PPI = 300.0
LARGEST_SHOWN_PX = 36_000_000
"""A drawing is kept at 300 ppi of its own size, or at this many pixels when that is less."""

_ROOM = 16
"""Bytes that a pixel of the picture takes while it is drawn: four planes, twice over, and packed in between."""

_PX_PER_INCH = {"": 96.0, "px": 96.0, "pt": 72.0, "pc": 6.0, "in": 1.0, "mm": 25.4, "cm": 2.54}
_LENGTH = re.compile(r"^\s*([0-9.]+(?:e[+-]?\d+)?)\s*(px|pt|pc|in|mm|cm)?\s*$", re.IGNORECASE)
Render = Callable[[int, int], Rgba]


def is_drawing(data: bytes) -> bool:
    """Whether the bytes are a PDF or an SVG (plain or gzipped)."""
    return _is_pdf(data) or unzipped(data) is not None


def _is_pdf(data: bytes) -> bool:
    return b"%PDF-" in data[:1024]


def decode_drawing(data: bytes, name: str, page: int = 1) -> Artwork:
    """Artwork from an SVG or PDF, drawn in a process of its own; raises ``PlanError`` with one sentence."""
    try:
        facts, (rgba,) = apart.run(opened, data, name, page)
    except ValueError as error:
        raise PlanError(f"“{name}” is damaged, or cannot be drawn: export it again, or as PNG.") from error

    def render(width: int, height: int, check: Callable[[], None]) -> Rgba:
        try:
            with apart.watched(lambda _name, _took: check()):
                _, (pixels,) = apart.run(drawn, data, name, page, width, height)
        except ValueError as error:
            raise PlanError(f"“{name}” cannot be drawn at {width} × {height} px: export it as PNG.") from error
        return pixels

    return Artwork(
        rgba=rgba,
        content_id=hashlib.blake2b(data, digest_size=16, person=str(page).encode()[:16]).hexdigest(),
        file_name=name,
        file_format=facts["kind"],
        has_alpha=True,
        notes=tuple(facts["notes"]),
        render=render,
        page=page,
        pages=facts["pages"],
        natural_width_mm=round(facts["width_in"] * 25.4, 2),
    )


# in the process apart


def opened(data: bytes, name: str, page: int) -> tuple[dict[str, Any], list[Rgba]]:
    """What a drawing says of itself, and its picture as it is shown."""
    drawing = _drawing(data, name, page)
    width_in, height_in = drawing.size_in
    area = width_in * height_in
    if not (0.01 <= width_in <= 400 and 0.01 <= height_in <= 400) or not math.isfinite(area):
        raise PlanError(f"“{name}” says it is {width_in:.3g} × {height_in:.3g} in: give the drawing a sensible size.")
    ppi = min(SHOWN_PPI, math.sqrt(LARGEST_SHOWN_PX / area))
    width, height = max(1, round(width_in * ppi)), max(1, round(height_in * ppi))
    apart.make_room(_ROOM * width * height)
    rgba = drawing.render(width, height)
    facts = {"kind": drawing.kind, "width_in": width_in, "notes": drawing.notes, "pages": drawing.pages}
    return facts, [rgba]


def drawn(data: bytes, name: str, page: int, width: int, height: int) -> tuple[None, list[Rgba]]:
    """The picture of a drawing at some pixels."""
    apart.make_room(_ROOM * width * height)
    return None, [_drawing(data, name, page).render(width, height)]


@dataclass(frozen=True)
class _Drawing:
    kind: str
    size_in: tuple[float, float]
    render: Render
    notes: list[str]
    pages: int = 1


def _drawing(data: bytes, name: str, page: int) -> _Drawing:
    if _is_pdf(data):
        return _pdf(data, name, page)
    text = unzipped(data)
    assert text is not None
    return _svg(text, name)


# SVG


def _svg(text: bytes, name: str) -> _Drawing:
    try:
        markup, cut = plain_markup(text, name)
        root = ElementTree.fromstring(markup)
        size = _svg_size(root)
    except (ValueError, ElementTree.ParseError, RecursionError) as error:
        raise PlanError(f"“{name}” is damaged or cut short: export the drawing again.") from error
    if weight(root) > MOST:
        raise PlanError(f"“{name}” refers to itself over and over: export it as plain SVG, or as PNG at print size.")
    notes = ["drawn at the plan’s resolution"]
    if cut:
        notes.append("pictures linked from outside the file left out")
    if "<text" in markup:
        notes.append("lettering is set in the fonts of this machine: outlines are surer")
    return _Drawing("SVG", size, partial(_svg_pixels, markup, name), notes)


def _svg_size(root: ElementTree.Element) -> tuple[float, float]:
    """Width and height in inches, from the root's attributes."""
    view = [float(part) for part in re.split(r"[\s,]+", root.get("viewBox", "").strip()) if part] or [0, 0, 100, 100]
    width, height = _svg_length(root.get("width")), _svg_length(root.get("height"))
    aspect = view[3] / view[2] if len(view) == 4 and view[2] > 0 and view[3] > 0 else 1.0
    if width is None and height is None:
        return (view[2] if len(view) == 4 else 100.0) / 96, (view[3] if len(view) == 4 else 100.0) / 96
    if width is None:
        assert height is not None
        return height / aspect, height
    return width, width * aspect if height is None else height


def _svg_length(text: str | None) -> float | None:
    found = _LENGTH.match(text or "")
    return None if found is None else float(found[1]) / _PX_PER_INCH[(found[2] or "").lower()]


def _svg_pixels(markup: str, name: str, width: int, height: int) -> Rgba:
    import imagecodecs
    import resvg_py

    fonts = str(resources.files("swaddon") / "ui" / "fonts")
    try:
        png = resvg_py.svg_to_bytes(svg_string=markup, width=width, height=height, dpi=96.0, font_dirs=[fonts])
        pixels = np.asarray(imagecodecs.png_decode(bytes(png)))
    except (ValueError, RuntimeError) as error:
        raise PlanError(f"“{name}” cannot be drawn: export it as plain SVG or as PNG.") from error
    return _fitted(pixels, width, height)


def _fitted(pixels: NDArray[Any], width: int, height: int) -> Rgba:
    """Pixels of just the asked size; a renderer may be off by one."""
    out = np.zeros((height, width, 4), np.uint8)
    rows, columns = min(height, pixels.shape[0]), min(width, pixels.shape[1])
    part = pixels[:rows, :columns]
    out[:rows, :columns, : part.shape[2]] = part
    if part.shape[2] == 3:
        out[:rows, :columns, 3] = 255
    return out


# PDF


def _pdf(data: bytes, name: str, page: int) -> _Drawing:
    import pypdfium2

    try:
        document = pypdfium2.PdfDocument(data)
        pages = len(document)
        if not 1 <= page <= pages:
            raise PlanError(f"“{name}” has {number_of(pages, 'page')}: there is no page {page}.")
        width_pt, height_pt = document[page - 1].get_size()
        document.close()
    except pypdfium2.PdfiumError as error:
        raise PlanError(f"“{name}” is damaged, or locked with a password: export the page again.") from error

    notes = ["drawn at the plan’s resolution"]
    if pages > 1:
        notes.append(f"page {page} of {pages}")
    render = partial(_pdf_pixels, data, name, page)
    return _Drawing("PDF", (width_pt / 72, height_pt / 72), render, notes, pages)


def _pdf_pixels(data: bytes, name: str, page: int, width: int, height: int) -> Rgba:
    """One page on nothing: what the page leaves unpainted stays transparent."""
    import pypdfium2

    try:
        document = pypdfium2.PdfDocument(data)
        pages, sheet = len(document), document[page - 1]
        scale = max(width / sheet.get_size()[0], height / sheet.get_size()[1])
        bitmap = sheet.render(scale=scale, fill_color=(255, 255, 255, 0), rev_byteorder=True, maybe_alpha=True)
        pixels = bitmap.to_numpy().copy()
        document.close()
    except pypdfium2.PdfiumError as error:
        raise PlanError(f"Page {page} of “{name}” cannot be drawn: export it again, or as PNG.") from error
    if pixels.shape[2] == 4 and not pixels[..., 3].any():
        where = f"page {page} of “{name}”" if pages > 1 else f"the page of “{name}”"
        raise PlanError(f"There is nothing on {where}: choose a page that shows something.")
    return _fitted(pixels, width, height)
