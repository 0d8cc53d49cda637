"""Pages of PDF in the shipped fonts: text that fits, text that wraps."""

import io
from functools import cache
from importlib import resources
from pathlib import Path
from typing import Any

from swaddon.core.errors import PlanError
from swaddon.io.names import clean, shown
from swaddon.io.outputs import output_file
from swaddon.io.profiles import reason

MARGIN = 48.0
PAPERS = {"a4": (595.2756, 841.8898), "letter": (612.0, 792.0)}
"""Width and height in points: ISO 216 A4 is 210 × 297 mm, US Letter 8.5 × 11 in."""


def write_pdf(path: Path, what: str, data: bytes) -> None:
    """Write a document; raises ``PlanError`` with one sentence that says what could not be written."""
    try:
        with output_file(path) as file:
            file.write(data)
    except OSError as error:
        raise PlanError(f"{what} could not be written to “{shown(path)}” ({reason(error)}).") from error


@cache
def fonts() -> tuple[str, str]:
    """The shipped fonts, embedded so that every sign is there on every machine: plain, and bold."""
    from reportlab.pdfbase import pdfmetrics
    from reportlab.pdfbase.ttfonts import TTFont

    folder = resources.files("swaddon") / "ui" / "fonts"
    for name in ("IBMPlexSans-Regular", "IBMPlexSans-SemiBold"):
        pdfmetrics.registerFont(TTFont(name, io.BytesIO((folder / f"{name}.ttf").read_bytes())))
    return "IBMPlexSans-Regular", "IBMPlexSans-SemiBold"


def fitted(words: str, font: str, size: float, room: float) -> str:
    """Words that end in … where they are too long."""
    from reportlab.pdfbase.pdfmetrics import stringWidth

    told = clean(words)
    if stringWidth(told, font, size) <= room:
        return told
    while told and stringWidth(told + "…", font, size) > room:
        told = told[:-1]
    return told + "…"


def wrapped(words: str, font: str, size: float, room: float) -> list[str]:
    """Words in lines that are no wider than there is room."""
    from reportlab.lib.utils import simpleSplit

    return list(simpleSplit(clean(words), font, size, room))


class Pen:
    """Writes on a page; ``y`` grows upwards, as in PDF."""

    def __init__(self, canvas: Any, width: float, height: float) -> None:
        self.canvas, self.width, self.height = canvas, width, height
        self.plain, self.bold = fonts()

    def text(
        self, x: float, y: float, words: str, size: float = 10.0, bold: bool = False, right: bool = False,
        room: float | None = None,
    ) -> None:  # fmt: skip
        """One line, cut where it does not fit; ``right``: it ends at ``x``."""
        font = self.bold if bold else self.plain
        self.canvas.setFont(font, size)
        free = (x - MARGIN if right else self.width - MARGIN - x) if room is None else room
        draw = self.canvas.drawRightString if right else self.canvas.drawString
        draw(x, y, fitted(words, font, size, free))

    def lines(self, x: float, y: float, words: str, size: float, room: float, bold: bool = False) -> float:
        """Wrapped lines from ``y`` down; gives where the next line would stand."""
        font = self.bold if bold else self.plain
        self.canvas.setFont(font, size)
        for line in wrapped(words, font, size, room):
            self.canvas.drawString(x, y, line)
            y -= 1.28 * size
        return y
