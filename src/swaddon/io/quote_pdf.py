"""A quote as one page of PDF: proof, lines, sums; nothing of the shop's own figures."""

import io
from collections.abc import Sequence
from dataclasses import dataclass
from decimal import Decimal
from functools import cache
from importlib import resources
from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from PIL import Image

from swaddon.core.errors import PlanError
from swaddon.io.names import clean, shown
from swaddon.io.profiles import reason
from swaddon.io.whole import whole_file

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


@cache
def _fonts() -> tuple[str, str]:
    """The shipped fonts, embedded so that every sign is there on every machine."""
    from reportlab.pdfbase import pdfmetrics
    from reportlab.pdfbase.ttfonts import TTFont

    folder = resources.files("swaddon") / "ui" / "fonts"
    for name in ("IBMPlexSans-Regular", "IBMPlexSans-SemiBold"):
        pdfmetrics.registerFont(TTFont(name, io.BytesIO((folder / f"{name}.ttf").read_bytes())))
    return "IBMPlexSans-Regular", "IBMPlexSans-SemiBold"


def write_quote(path: Path, page: QuotePage) -> None:
    """Write the page; raises ``PlanError`` with one sentence."""
    try:
        with whole_file(path) as file:
            file.write(quote_pdf(page))
    except OSError as error:
        raise PlanError(f"The quote could not be written to “{shown(path)}” ({reason(error)}).") from error


def quote_pdf(page: QuotePage) -> bytes:
    """The page as the bytes of a PDF, A4."""
    from reportlab.lib.pagesizes import A4
    from reportlab.lib.utils import ImageReader
    from reportlab.pdfgen.canvas import Canvas

    held = io.BytesIO()
    width, height = A4
    canvas = Canvas(held, pagesize=A4, invariant=1)
    canvas.setTitle(clean(page.head))
    plain, bold = _fonts()
    top = height - _MARGIN

    def text(x: float, y: float, words: str, size: float = 10.0, font: str = plain, right: bool = False) -> None:
        canvas.setFont(font, size)
        fitted = _fitted(words, font, size, width - _MARGIN - x if not right else x - _MARGIN)
        (canvas.drawRightString if right else canvas.drawString)(x, y, fitted)

    text(_MARGIN, top, page.shop, 13, bold)
    text(width - _MARGIN, top, page.head, 11, bold, right=True)
    text(width - _MARGIN, top - 15, page.date, 10, plain, right=True)
    text(_MARGIN, top - 44, page.title, 16, bold)
    if page.customer:
        text(_MARGIN, top - 62, page.customer)
    proof = Image.fromarray(page.proof)
    scale = min(_PROOF_PT / proof.width, _PROOF_PT / proof.height)
    size = (proof.width * scale, proof.height * scale)
    at = top - 80 - size[1]
    canvas.drawImage(ImageReader(proof), _MARGIN, at, *size)
    y = at - 30
    columns = (_MARGIN, width - 220, width - 130, width - _MARGIN)
    for x, words, right in zip(
        columns, ("", "Pieces", "Each", f"Sum, {page.currency}"), (False, True, True, True), strict=True
    ):
        text(x, y, words, 9, plain, right)
    canvas.setLineWidth(0.5)
    canvas.line(_MARGIN, y - 5, width - _MARGIN, y - 5)
    for line in _shortened(page.lines):
        y -= _LINE
        for x, words, right in zip(columns, line, (False, True, True, True), strict=True):
            text(x, y, words, 10, plain, right)
    canvas.line(_MARGIN, y - 7, width - _MARGIN, y - 7)
    y -= 6
    for title, total in page.sums:
        y -= _LINE
        font = bold if title == "Total" else plain
        text(columns[2], y, title, 10, font, right=True)
        text(columns[3], y, total, 10, font, right=True)
    y -= 12
    for words in (*page.alternatives, *page.foot):
        y -= _LINE - 2
        text(_MARGIN, y, words, 9.5)
    canvas.showPage()
    canvas.save()
    return held.getvalue()


def _shortened(lines: Sequence[tuple[str, str, str, str]]) -> list[tuple[str, str, str, str]]:
    """Lines that fit on the page; the rest as one that says how many there are."""
    if len(lines) <= _MOST_LINES:
        return list(lines)
    more = lines[_MOST_LINES - 1 :]
    pieces = sum(int(count or "0") for _, count, _, _ in more)
    total = sum((Decimal(each) for _, _, _, each in more), Decimal(0))
    return [*lines[: _MOST_LINES - 1], (f"and {len(more)} more lines", str(pieces), "", f"{total:f}")]


def _fitted(words: str, font: str, size: float, room: float) -> str:
    """Words that end in … where they are too long."""
    from reportlab.pdfbase.pdfmetrics import stringWidth

    told = clean(words)
    if stringWidth(told, font, size) <= room:
        return told
    while told and stringWidth(told + "…", font, size) > room:
        told = told[:-1]
    return told + "…"
