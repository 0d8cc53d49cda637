"""PDF out (ISO 32000-1): a print at its true size, white as a ``DeviceN`` or ``Separation`` colorant of any name.

Colours and whites of one image are a DeviceN space (section 8.6.6.5) over CMYK, whose tint transform leaves the whites
out, so that a viewer without that ink shows the colours. RGB has its own image, and white is painted on top of it with
overprint. Marks are strokes on the page, outside the print.
"""

import io
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from swaddon.core.units import MM_PER_INCH

POINTS_PER_MM = 72 / MM_PER_INCH
_COLOURS = ("Cyan", "Magenta", "Yellow", "Black")
_BLACK = {"cmyk": "0 0 0 1", "rgb": "0 0 0", "grey": "0"}


@dataclass(frozen=True)
class Page:
    """What stands round a print: room for marks on each side, line segments and short texts in mm, y downwards.

    ``lines`` are x0, y0, x1, y1 from the upper left of the page; ``texts`` are x, y of the baseline's start, the size,
    and the words.
    """

    margin_mm: float = 0.0
    lines: Sequence[tuple[float, float, float, float]] = ()
    texts: Sequence[tuple[float, float, float, str]] = ()
    facts: Mapping[str, str] = field(default_factory=dict)


def write_print_pdf(
    path: Path,
    colour: NDArray[np.uint8] | None,
    spots: Mapping[str, NDArray[np.uint8]],
    size_mm: tuple[float, float],
    page: Page = Page(),
) -> None:
    """Write one page that holds a print at its size.

    Parameters
    ----------
    colour
        ``uint8 (H, W, 4)`` CMYK coverage, ``(H, W, 3)`` sRGB, ``(H, W)`` grey, or ``None``: whites alone.
    spots
        White planes ``uint8 (H, W)``, 255 = full, by the name of their colorant.
    size_mm
        Width and height of the print.
    """
    import pikepdf

    pdf = pikepdf.new()
    width, height = (side + 2 * page.margin_mm for side in size_mm)
    images: list[Any] = []
    if colour is not None and colour.ndim == 3 and colour.shape[2] == 4:
        space = _device_n(pdf, tuple(spots)) if spots else pikepdf.Name.DeviceCMYK
        images.append(_image(pdf, np.dstack([colour, *spots.values()]), space))
    else:
        if colour is not None:
            space = pikepdf.Name.DeviceGray if colour.ndim == 2 else pikepdf.Name.DeviceRGB
            images.append(_image(pdf, colour, space))
        images += [_image(pdf, plane, separation(pdf, name, colour is None)) for name, plane in spots.items()]
    kind = "grey" if colour is None or colour.ndim == 2 else "rgb" if colour.shape[2] == 3 else "cmyk"
    names = {f"/Im{index}": image for index, image in enumerate(images)}
    marks = pikepdf.Dictionary(Type=pikepdf.Name.Font, Subtype=pikepdf.Name.Type1, BaseFont=pikepdf.Name.Helvetica)
    overprint = pikepdf.Dictionary(Type=pikepdf.Name.ExtGState, OP=True, op=True, OPM=1)
    made = pikepdf.Dictionary(
        Type=pikepdf.Name.Page,
        MediaBox=[0, 0, width * POINTS_PER_MM, height * POINTS_PER_MM],
        Resources=pikepdf.Dictionary(
            XObject=pikepdf.Dictionary(names), Font=pikepdf.Dictionary(F0=marks), ExtGState={"/G0": overprint}
        ),
        Contents=pdf.make_stream(_content(names, size_mm, (width, height), page, _BLACK[kind])),
    )
    pdf.pages.append(pikepdf.Page(pdf.make_indirect(made)))
    for name, text in page.facts.items():
        pdf.docinfo[f"/{name}"] = text
    packed = io.BytesIO()  # a full disk under its own writing would end the program
    pdf.save(packed, deterministic_id=True)
    path.write_bytes(packed.getbuffer())


def _content(
    names: Mapping[str, Any], size_mm: tuple[float, float], page_mm: tuple[float, float], page: Page, black: str
) -> bytes:
    """Images at their size, then marks; the page's y runs upwards."""
    mm, height = POINTS_PER_MM, page_mm[1]
    place = f"{size_mm[0] * mm:.4f} 0 0 {size_mm[1] * mm:.4f} {page.margin_mm * mm:.4f} {page.margin_mm * mm:.4f} cm"
    out = [f"q {'/G0 gs ' if index else ''}{place} {name} Do Q" for index, name in enumerate(names)]
    stroke, fill = {1: ("G", "g"), 3: ("RG", "rg"), 4: ("K", "k")}[len(black.split())]
    out.append(f"q {0.2 * mm:.4f} w {black} {stroke} {black} {fill}")
    for x0, y0, x1, y1 in page.lines:
        out.append(f"{x0 * mm:.3f} {(height - y0) * mm:.3f} m {x1 * mm:.3f} {(height - y1) * mm:.3f} l S")
    for x, y, size, text in page.texts:
        plain = text.encode("latin-1", "replace").replace(b"\\", b"\\\\").replace(b"(", b"\\(").replace(b")", b"\\)")
        where = f"{x * mm:.3f} {(height - y) * mm:.3f}"
        out.append(f"BT /F0 {size * mm:.3f} Tf {where} Td ({plain.decode('latin-1')}) Tj ET")
    return "\n".join([*out, "Q"]).encode("latin-1")


def _image(pdf: Any, samples: NDArray[np.uint8], space: Any) -> Any:
    import imagecodecs
    import pikepdf

    packed = bytes(imagecodecs.zlibng_encode(np.ascontiguousarray(samples).tobytes(), level=1))
    return pikepdf.Stream(
        pdf,
        packed,
        Type=pikepdf.Name.XObject,
        Subtype=pikepdf.Name.Image,
        Width=samples.shape[1],
        Height=samples.shape[0],
        BitsPerComponent=8,
        ColorSpace=space,
        Filter=pikepdf.Name.FlateDecode,
    )


def _device_n(pdf: Any, whites: Sequence[str]) -> Any:
    """C, M, Y, K and whites; their tint transform drops the whites."""
    import pikepdf

    names = [pikepdf.Name("/" + name) for name in (*_COLOURS, *whites)]
    return pikepdf.Array(
        [pikepdf.Name.DeviceN, pikepdf.Array(names), pikepdf.Name.DeviceCMYK,
         _calculator(pdf, len(names), 4, " ".join(["pop"] * len(whites)))]
    )  # fmt: skip


def separation(pdf: Any, name: str, is_alone: bool) -> Any:
    """One white; alone on its page it is shown as grey, over colours not at all."""
    import pikepdf

    program = "0 0 0 4 -1 roll" if is_alone else "pop 0 0 0 0"
    return pikepdf.Array(
        [pikepdf.Name.Separation, pikepdf.Name("/" + name), pikepdf.Name.DeviceCMYK, _calculator(pdf, 1, 4, program)]
    )


def _calculator(pdf: Any, takes: int, gives: int, program: str) -> Any:
    """A PostScript calculator function (section 7.10.5)."""
    import pikepdf

    return pikepdf.Stream(pdf, f"{{{program}}}".encode(), FunctionType=4, Domain=[0, 1] * takes, Range=[0, 1] * gives)


def colorants(path: Path, with_process: bool = False) -> dict[str, NDArray[np.uint8]]:
    """Every plane that the images of a PDF's first page hold under the name of a colorant.

    ``with_process`` takes those of plain CMYK images too.
    """
    import pikepdf

    out: dict[str, NDArray[np.uint8]] = {}
    with pikepdf.open(path) as pdf:
        for image in pdf.pages[0].Resources.XObject.values():
            space = image.ColorSpace
            if space == pikepdf.Name.DeviceCMYK and with_process:
                listed = ["/" + name for name in _COLOURS]
            elif isinstance(space, pikepdf.Name):
                continue
            else:
                listed = list(space[1]) if space[0] == pikepdf.Name.DeviceN else [space[1]]
            samples = np.frombuffer(image.read_bytes(), np.uint8).reshape(int(image.Height), int(image.Width), -1)
            out |= {str(name)[1:]: samples[..., index] for index, name in enumerate(listed)}
    return out
