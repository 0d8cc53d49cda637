"""A month of the log book as one page of PDF."""

import io
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

from swaddon.io.names import clean
from swaddon.io.pdf_page import MARGIN, PAPERS, Pen, write_pdf

_LINE, _WORDS, _VALUE = 17.0, 130.0, 170.0
_COLOURS = {"good": (0.35, 0.62, 0.42), "bad": (0.78, 0.32, 0.28), "plain": (0.45, 0.52, 0.58)}

BarLine = tuple[str, float, str, str, float | None]
"""Title, length as a share, value in words, kind, and a mark as a share."""


@dataclass(frozen=True)
class MonthPage:
    """What stands on the page."""

    title: str
    head: str
    note: str
    groups: Sequence[tuple[str, Sequence[BarLine]]]
    paper: str = "a4"


def write_month_pdf(path: Path, page: MonthPage) -> None:
    """Write the page; raises ``PlanError`` with one sentence."""
    write_pdf(path, "The month", month_pdf(page))


def month_pdf(page: MonthPage) -> bytes:
    """The page as the bytes of a PDF; it goes on where it is full."""
    from reportlab.pdfgen.canvas import Canvas

    held, (width, height) = io.BytesIO(), PAPERS[page.paper]
    canvas = Canvas(held, pagesize=(width, height), invariant=1)
    canvas.setTitle(clean(f"Log book, {page.title}"))
    pen = Pen(canvas, width, height)
    y = height - MARGIN - 12
    pen.text(MARGIN, y, page.title, 18, bold=True)
    y = pen.lines(MARGIN, y - 24, page.head, 11, width - 2 * MARGIN) - 8
    for title, bars in page.groups:
        if y - _LINE * (len(bars) + 2) < MARGIN:
            canvas.showPage()
            y = height - MARGIN - 12
        pen.text(MARGIN, y, title, 11, bold=True)
        y -= _LINE
        for bar in bars:
            _draw(pen, bar, y)
            y -= _LINE
        y -= 8
    pen.lines(MARGIN, y, page.note, 8.5, width - 2 * MARGIN)
    canvas.showPage()
    canvas.save()
    return held.getvalue()


def _draw(pen: Pen, bar: BarLine, y: float) -> None:
    title, share, told, kind, mark = bar
    canvas = pen.canvas
    pen.text(MARGIN, y, title, 9.5, room=_WORDS - 8)
    left, room = MARGIN + _WORDS, pen.width - 2 * MARGIN - _WORDS - _VALUE
    canvas.setFillGray(0.9)
    canvas.rect(left, y - 2, room, 10, stroke=0, fill=1)
    canvas.setFillColorRGB(*_COLOURS[kind])
    canvas.rect(left, y - 2, room * min(1.0, share), 10, stroke=0, fill=1)
    canvas.setFillGray(0)
    if mark is not None:
        canvas.setLineWidth(1.4)
        canvas.line(left + room * min(1.0, mark), y - 4, left + room * min(1.0, mark), y + 10)
    pen.text(pen.width - MARGIN - _VALUE + 8, y, told, 9.5)
