"""Two passes of one sheet: the colour file and the mask, at true size, with marks to see that both were fed alike."""

from collections.abc import Callable, Iterator
from pathlib import Path

import cv2
import numpy as np
from numpy.typing import NDArray

from swaddon.core.plan.stages import Plan
from swaddon.core.units import MM_PER_INCH
from swaddon.io.handover import MARGIN_MM, facts, flattened, size_mm
from swaddon.io.png import write_png
from swaddon.io.spot_pdf import Page, write_print_pdf

NAMES = ("colour.pdf", "colour.png", "mask.pdf", "mask.png")
_CROSS_MM, _ARROW_MM, _LETTERS_MM = 3.0, 4.0, 2.6
_PASSES = {"colour": "Pass 1 of 2: colour", "mask": "Pass 2 of 2: mask, white in place of black"}


def marks(plan: Plan, part: str) -> Page:
    """Registration crosses at the four corners, the edge that is fed first, and which pass this is.

    Crosses and edge are the same in both passes: they come to lie on each other where the sheet was fed alike.
    """
    width, height = (side + 2 * MARGIN_MM for side in size_mm(plan))
    middle, half = MARGIN_MM / 2, _CROSS_MM / 2
    lines = []
    for x in (middle, width - middle):
        for y in (middle, height - middle):
            lines += [(x - half, y, x + half, y), (x, y - half, x, y + half)]
    tip = width / 2
    lines += [(tip, 1.0, tip, 1.0 + _ARROW_MM), (tip, 1.0, tip - 1.5, 3.0), (tip, 1.0, tip + 1.5, 3.0)]
    texts = [
        (tip + 3.5, 1.0 + _ARROW_MM, _LETTERS_MM, "Feed this edge first"),
        (MARGIN_MM, height - middle + _LETTERS_MM / 2, _LETTERS_MM, _PASSES[part]),
    ]
    told = {"Title": f"{plan.request.artwork.file_name}: {_PASSES[part]}", "Subject": facts(plan)}
    return Page(MARGIN_MM, tuple(lines), tuple(texts), told)


def writers(plan: Plan) -> Iterator[tuple[str, Callable[[Path], None]]]:
    """Each file's name, and what writes it into a folder; none for a process of one pass."""
    if plan.request.profile.printing.passes != 2:
        return
    mirrored = plan.request.settings.is_mirrored(plan.request.profile)
    is_rgb = plan.request.settings.handover.colour == "rgb"

    def turned(plane: NDArray[np.uint8]) -> NDArray[np.uint8]:
        return np.ascontiguousarray(plane[:, ::-1]) if mirrored else plane

    def colour_pdf(folder: Path) -> None:
        picture = turned(flattened(plan) if is_rgb else plan.cmyk)
        write_print_pdf(folder / "colour.pdf", picture, {}, size_mm(plan), marks(plan, "colour"))

    def mask_pdf(folder: Path) -> None:
        grey = turned(np.asarray(255 - plan.white_plane, np.uint8))
        write_print_pdf(folder / "mask.pdf", grey, {}, size_mm(plan), marks(plan, "mask"))

    yield "colour.pdf", colour_pdf
    yield "colour.png", lambda folder: _write_page(folder / "colour.png", turned(flattened(plan)), plan, "colour")
    yield "mask.pdf", mask_pdf
    grey = np.asarray(255 - plan.white_plane, np.uint8)
    yield "mask.png", lambda folder: _write_page(folder / "mask.png", turned(grey), plan, "mask")


def _write_page(path: Path, picture: NDArray[np.uint8], plan: Plan, part: str) -> None:
    """The print with its marks as a picture; black is what prints."""
    page = marks(plan, part)
    px = plan.ppi / MM_PER_INCH
    rim = round(MARGIN_MM * px)
    sheet = cv2.copyMakeBorder(picture, rim, rim, rim, rim, cv2.BORDER_CONSTANT, value=(255, 255, 255))

    def at(x: float, y: float) -> tuple[int, int]:
        return round(x * px), round(y * px)

    thick = max(1, round(0.2 * px))
    for x0, y0, x1, y1 in page.lines:
        cv2.line(sheet, at(x0, y0), at(x1, y1), (0, 0, 0), thick)
    for x, y, size, text in page.texts:
        scale = size * 0.7 * px / 21
        cv2.putText(sheet, text, at(x, y), cv2.FONT_HERSHEY_SIMPLEX, scale, (0, 0, 0), thick, cv2.LINE_AA)
    write_png(path, np.asarray(sheet, np.uint8), plan.ppi, facts(plan))
