"""Cut lines as vectors at true size: SVG 1.1 and PDF, one closed line after the other."""

from collections.abc import Sequence
from pathlib import Path
from xml.sax.saxutils import escape

import numpy as np
from numpy.typing import NDArray

from swaddon.core.units import MM_PER_INCH

Path_mm = NDArray[np.float64]
"""``(n, 2)``: x and y in mm from the upper left corner of the sheet."""

_LINE_MM = 0.1


def write_cut_svg(path: Path, size_mm: tuple[float, float], paths: Sequence[Path_mm], title: str) -> None:
    """Closed lines as an SVG drawing in mm."""
    width, height = size_mm
    drawn = []
    for line in paths:
        points = " L ".join(f"{x:.3f} {y:.3f}" for x, y in line)
        drawn.append(f'  <path d="M {points} Z"/>')
    text = "\n".join(
        [
            '<?xml version="1.0" encoding="UTF-8"?>',
            f'<svg xmlns="http://www.w3.org/2000/svg" width="{width:.3f}mm" height="{height:.3f}mm" '
            f'viewBox="0 0 {width:.3f} {height:.3f}">',
            f"<title>{escape(title)}</title>",
            f'<g id="cut" fill="none" stroke="#000000" stroke-width="{_LINE_MM}">',
            *drawn,
            "</g>",
            "</svg>",
        ]
    )
    path.write_text(text + "\n", encoding="utf-8")


def write_cut_pdf(path: Path, size_mm: tuple[float, float], paths: Sequence[Path_mm], title: str) -> None:
    """Closed lines as one page of a PDF."""
    from reportlab.pdfgen.canvas import Canvas

    points = 72 / MM_PER_INCH
    width, height = (side * points for side in size_mm)
    canvas = Canvas(str(path), pagesize=(width, height), invariant=1)
    canvas.setTitle(title)
    canvas.setLineWidth(_LINE_MM * points)
    for line in paths:
        drawn = canvas.beginPath()
        for index, (x, y) in enumerate(line.tolist()):
            step = drawn.lineTo if index else drawn.moveTo
            step(x * points, height - y * points)
        drawn.close()
        canvas.drawPath(drawn)
    canvas.save()
