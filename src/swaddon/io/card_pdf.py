"""The run card as a page of PDF: proof, placing, steps with figures and cautions, marks, a code that opens the job."""

import io
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray
from PIL import Image

from swaddon.core.proof.garments import GarmentShape
from swaddon.core.proof.garments import Path as Outline
from swaddon.io.names import clean
from swaddon.io.pdf_page import MARGIN, PAPERS, Pen, write_pdf

At = Callable[[float, float], tuple[float, float]]
"""Where a point of the garment, in mm, lies on the page."""

_SIDE, _GAP, _CODE = 190.0, 18.0, 100.0


@dataclass(frozen=True)
class CardLine:
    """One step on paper."""

    number: int
    text: str
    figures: str
    caution: str
    warning: str = ""


@dataclass(frozen=True, eq=False)
class CardPage:
    """What stands on the card.

    ``shape`` is the garment's, ``place`` the print on it (left, top, width, height, mm).
    """

    title: str
    head: str
    facts: Sequence[tuple[str, str]]
    steps: Sequence[CardLine]
    marks: Sequence[str]
    where: str
    drop: str
    size: str
    cautions: str
    warnings: Sequence[str]
    proof: NDArray[np.uint8]
    garment: tuple[int, int, int]
    shape: GarmentShape
    place: tuple[float, float, float, float]
    ink: tuple[float, float, float, float]
    code: str
    paper: str = "a4"
    mirrored: bool = False
    notes: Sequence[str] = field(default=())


def write_card(path: Path, page: CardPage) -> None:
    """Write the card; raises ``PlanError`` with one sentence."""
    write_pdf(path, "The card", card_pdf(page))


def card_pdf(page: CardPage) -> bytes:
    """The card as the bytes of a PDF; steps that do not fit go on on a second page."""
    from reportlab.pdfgen.canvas import Canvas

    held, (width, height) = io.BytesIO(), PAPERS[page.paper]
    canvas = Canvas(held, pagesize=(width, height), invariant=1)
    canvas.setTitle(clean(f"Run card: {page.title}"))
    pen = Pen(canvas, width, height)
    drawn = _Card(pen, page)
    drawn.head()
    drawn.side()
    drawn.steps()
    canvas.showPage()
    canvas.save()
    return held.getvalue()


class _Card:
    """The parts of the card."""

    def __init__(self, pen: Pen, page: CardPage) -> None:
        self._pen, self._page = pen, page
        self._top = pen.height - MARGIN

    def head(self) -> None:
        """Order, line, and the code in the upper right corner."""
        from reportlab.graphics import renderPDF
        from reportlab.graphics.barcode.qr import QrCodeWidget
        from reportlab.graphics.shapes import Drawing

        pen, page = self._pen, self._page
        widget = QrCodeWidget(page.code, barLevel="M")
        x0, y0, x1, y1 = widget.getBounds()
        scale = _CODE / max(x1 - x0, y1 - y0)
        code = Drawing(_CODE, _CODE, transform=[scale, 0, 0, scale, 0, 0])
        code.add(widget)
        renderPDF.draw(code, pen.canvas, pen.width - MARGIN - _CODE, self._top - _CODE + 8)
        room = pen.width - 2 * MARGIN - _CODE - 12
        pen.text(MARGIN, self._top - 10, page.title, 17, bold=True, room=room)
        pen.text(MARGIN, self._top - 28, page.head, 11, room=room)
        y = self._top - 46
        for title, value in page.facts:
            pen.text(MARGIN, y, title, 9, room=74)
            pen.text(MARGIN + 78, y, value, 9, bold=True, room=room - 78)
            y -= 12.5
        self._top = min(y, self._top - _CODE) - 10
        pen.canvas.setLineWidth(0.6)
        pen.canvas.line(MARGIN, self._top + 8, pen.width - MARGIN, self._top + 8)

    def side(self) -> None:
        """Proof, placing, marks, cautions, from the top down on the left."""
        from reportlab.lib.utils import ImageReader

        pen, page, y = self._pen, self._page, self._top - 6
        proof = Image.fromarray(page.proof)
        scale = min(_SIDE / proof.width, 150 / proof.height)
        y -= proof.height * scale
        pen.canvas.drawImage(ImageReader(proof), MARGIN, y, proof.width * scale, proof.height * scale)
        y = self._placing(y - 12)
        for words in (page.where, *page.marks):
            y = pen.lines(MARGIN, y, words, 10, _SIDE, bold=words in page.marks) - 1
        self._sheet_mark(y - 4)
        y -= 40
        for words in page.warnings:
            pen.canvas.setFillColorRGB(0.7, 0.1, 0.1)
            y = pen.lines(MARGIN, y, f"■ {words}", 10, _SIDE, bold=True) - 3
            pen.canvas.setFillGray(0)
        for words in filter(None, (*page.notes, page.cautions)):
            y = pen.lines(MARGIN, y, words, 8.5, _SIDE) - 3

    def _sheet_mark(self, y: float) -> None:
        """Which way up the sheet lies, and whether its print reads backwards: an F as it looks there."""
        canvas = self._pen.canvas
        canvas.saveState()
        canvas.setLineWidth(0.8)
        canvas.rect(MARGIN, y - 26, 20, 26)
        canvas.translate(MARGIN + (16 if self._page.mirrored else 4), y - 20)
        canvas.scale(-1 if self._page.mirrored else 1, 1)
        canvas.setFont(self._pen.bold, 18)
        canvas.drawString(0, 0, "F")
        canvas.restoreState()
        words = "So an F reads on the medium." if self._page.mirrored else "An F reads as ever on the medium."
        self._pen.lines(MARGIN + 28, y - 12, words, 8.5, _SIDE - 28)

    def _placing(self, y: float) -> float:
        """The garment to scale, with its print and the distance below the collar."""
        from reportlab.lib.utils import ImageReader

        page, canvas = self._page, self._pen.canvas
        points = [number for part in page.shape.parts for _, numbers in part for number in numbers]
        xs, ys = points[0::2], points[1::2]
        scale = min(_SIDE / (max(xs) - min(xs)), 190 / (max(ys) - min(ys)))

        def at(x: float, below: float) -> tuple[float, float]:
            return MARGIN + (x - min(xs)) * scale, y - (below - min(ys)) * scale

        canvas.setStrokeGray(0.4)
        for part, grey in (*((part, None) for part in page.shape.parts), *((hole, 1.0) for hole in page.shape.holes)):
            if grey is None:
                canvas.setFillColorRGB(*(value / 255 for value in page.garment))
            else:
                canvas.setFillGray(grey)
            canvas.drawPath(self._path(part, at), fill=1, stroke=1)
        left, top, width, height = page.place
        x0, y0 = at(left, top)
        if height > 0:
            proof = ImageReader(Image.fromarray(page.proof))
            canvas.saveState()
            canvas.clipPath(self._path(page.shape.parts[-1], at), stroke=0, fill=0)
            canvas.drawImage(proof, x0, y0 - height * scale, width * scale, height * scale)
            canvas.restoreState()
        self._measures(at, scale)
        return y - (max(ys) - min(ys)) * scale - 14

    def _path(self, outline: Outline, at: At) -> Any:
        """A closed path on the page."""
        path = self._pen.canvas.beginPath()
        for kind, numbers in outline:
            ends = [at(numbers[i], numbers[i + 1]) for i in range(0, len(numbers), 2)]
            if kind == "m":
                path.moveTo(*ends[0])
            elif kind == "l":
                path.lineTo(*ends[0])
            else:
                path.curveTo(*ends[0], *ends[1], *ends[2])
        path.close()
        return path

    def _measures(self, at: At, scale: float) -> None:
        """The print's outline, how far below the collar it lies, and its size."""
        pen, page, canvas = self._pen, self._page, self._pen.canvas
        left, top, width, height = page.ink
        x0, y0 = at(left, top)
        light = sum(page.garment) < 384
        canvas.setStrokeGray(1.0 if light else 0.0)
        canvas.setLineWidth(0.7)
        canvas.rect(x0, y0 - height * scale, width * scale, height * scale)
        canvas.setFillGray(1.0 if light else 0.0)
        middle, collar = at(0, 0)
        if page.shape.has_collar and collar - y0 > 6:
            canvas.line(middle, collar, middle, y0)
            pen.text(middle + 4, (collar + y0) / 2 - 3, page.drop, 7.5, bold=True, room=80)
        pen.text(x0 + 2, y0 - height * scale - 9, page.size, 7.5, room=_SIDE)
        canvas.setFillGray(0)
        canvas.setStrokeGray(0)

    def steps(self) -> None:
        """The steps, each with figures, caution and a box to tick, on the right."""
        pen, canvas = self._pen, self._pen.canvas
        x = MARGIN + _SIDE + _GAP
        room, y = pen.width - MARGIN - x - 22, self._top - 16
        for step in self._page.steps:
            if y < MARGIN + 40:
                canvas.showPage()
                x, y = MARGIN, pen.height - MARGIN - 12
                room = pen.width - 2 * MARGIN - 22
            canvas.setLineWidth(0.7)
            canvas.rect(pen.width - MARGIN - 11, y - 2, 11, 11)
            pen.text(x, y, str(step.number), 11, bold=True, room=20)
            y = pen.lines(x + 22, y, step.text, 10.5, room - 22)
            if step.figures:
                y = pen.lines(x + 22, y, step.figures, 11.5, room - 22, bold=True)
            if step.warning:
                canvas.setFillColorRGB(0.7, 0.1, 0.1)
                y = pen.lines(x + 22, y, step.warning, 9.5, room - 22, bold=True)
                canvas.setFillGray(0)
            if step.caution:
                y = pen.lines(x + 22, y + 1, f"Beware: {step.caution}", 8.2, room - 22)
            y -= 7
