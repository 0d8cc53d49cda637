"""A quote as one page of PDF: proof, lines, sums; nothing of the shop's own figures."""

import io
from collections.abc import Sequence
from dataclasses import dataclass
from decimal import Decimal
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray
from PIL import Image

from swaddon.io.names import clean
from swaddon.io.pdf_page import fitted, fonts, write_pdf

_MARGIN, _LINE = 56.0, 17.0
_MOST_LINES = 16
_PROOF_PT = 190.0


@dataclass(frozen=True, eq=False)
class QuotePage:
    """What stands on the page: texts as they are to be read; ``lines`` are title, quantity, price of one, sum."""

    shop: str
    head: str
    date: str
    title: str
    customer: str
    lines: Sequence[tuple[str, str, str, str]]
    sums: Sequence[tuple[str, str]]
    alternatives: Sequence[str]
    foot: Sequence[str]
    currency: str
    proof: NDArray[np.uint8]


def write_quote(path: Path, page: QuotePage) -> None:
    """Write the page; raises ``PlanError`` with one sentence."""
    write_pdf(path, "The quote", quote_pdf(page))


def quote_pdf(page: QuotePage) -> bytes:
    """The page as the bytes of a PDF, A4."""
    from reportlab.lib.pagesizes import A4
    from reportlab.pdfgen.canvas import Canvas

    held = io.BytesIO()
    canvas = Canvas(held, pagesize=A4, invariant=1)
    canvas.setTitle(clean(page.head))
    drawn = _Drawn(canvas, *A4)
    drawn.foot(page, drawn.table(page, drawn.head(page)))
    canvas.showPage()
    canvas.save()
    return held.getvalue()


class _Drawn:
    """The parts of the page, from its top down; each gives the height at which the next one begins."""

    def __init__(self, canvas: Any, width: float, height: float) -> None:
        self._canvas, self._width, self._top = canvas, width, height - _MARGIN
        self._plain, self._bold = fonts()

    def _text(
        self, x: float, y: float, words: str, size: float = 10.0, bold: bool = False, right: bool = False
    ) -> None:
        font = self._bold if bold else self._plain
        self._canvas.setFont(font, size)
        room = x - _MARGIN if right else self._width - _MARGIN - x
        draw = self._canvas.drawRightString if right else self._canvas.drawString
        draw(x, y, fitted(words, font, size, room))

    def head(self, page: QuotePage) -> float:
        """Whose quote it is, of what, for whom, and the proof."""
        from reportlab.lib.utils import ImageReader

        end, top = self._width - _MARGIN, self._top
        self._text(_MARGIN, top, page.shop, 13, bold=True)
        self._text(end, top, page.head, 11, bold=True, right=True)
        self._text(end, top - 15, page.date, right=True)
        self._text(_MARGIN, top - 44, page.title, 16, bold=True)
        self._text(_MARGIN, top - 62, page.customer)
        proof = Image.fromarray(page.proof)
        scale = min(_PROOF_PT / proof.width, _PROOF_PT / proof.height)
        at = top - 80 - proof.height * scale
        self._canvas.drawImage(ImageReader(proof), _MARGIN, at, proof.width * scale, proof.height * scale)
        return at - 30

    def table(self, page: QuotePage, y: float) -> float:
        """Lines and sums."""
        end = self._width - _MARGIN
        columns = (_MARGIN, self._width - 220, self._width - 130, end)
        rights = (False, True, True, True)
        for x, words, right in zip(columns, ("", "Pieces", "Each", f"Sum, {page.currency}"), rights, strict=True):
            self._text(x, y, words, 9, right=right)
        self._canvas.setLineWidth(0.5)
        self._canvas.line(_MARGIN, y - 5, end, y - 5)
        for line in _shortened(page.lines):
            y -= _LINE
            for x, words, right in zip(columns, line, rights, strict=True):
                self._text(x, y, words, right=right)
        self._canvas.line(_MARGIN, y - 7, end, y - 7)
        y -= 6
        for title, total in page.sums:
            y -= _LINE
            for x, words in ((columns[2], title), (columns[3], total)):
                self._text(x, y, words, bold=title == "Total", right=True)
        return y - 12

    def foot(self, page: QuotePage, y: float) -> None:
        """Other ways, prices by quantity, how long it holds."""
        for words in (*page.alternatives, *page.foot):
            y -= _LINE - 2
            self._text(_MARGIN, y, words, 9.5)


def _shortened(lines: Sequence[tuple[str, str, str, str]]) -> list[tuple[str, str, str, str]]:
    """Lines that fit on the page; the rest as one that says how many there are."""
    if len(lines) <= _MOST_LINES:
        return list(lines)
    more = lines[_MOST_LINES - 1 :]
    pieces = sum(int(count or "0") for _, count, _, _ in more)
    total = sum((Decimal(each) for _, _, _, each in more), Decimal(0))
    return [*lines[: _MOST_LINES - 1], (f"and {len(more)} more lines", str(pieces), "", f"{total:f}")]
