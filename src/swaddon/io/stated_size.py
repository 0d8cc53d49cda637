"""The print size that a picture's file says: resolution tags of PNG, JPEG, TIFF, WebP and EXIF."""

import io
import math
from typing import Any

from PIL import Image

_X, _Y, _UNIT = 0x011A, 0x011B, 0x0128
"""EXIF and TIFF tags: XResolution, YResolution, ResolutionUnit (Exif 2.32)."""

_LEAST_PPI, _MOST_PPI = 1.0, 100_000.0


def stated_ppi(head: Image.Image, data: bytes) -> tuple[float, float] | None:
    """Pixels per inch across and down as the file lies; ``None``: it says none, or a ratio only."""
    dpi = head.info.get("dpi")
    if dpi is None and _may_have_exif(head, data):
        dpi = _of_exif(head)
    try:
        across, down = (float(value) for value in dpi)  # type: ignore[union-attr]
    except (TypeError, ValueError, ZeroDivisionError):
        return None
    known = all(math.isfinite(value) and _LEAST_PPI <= value <= _MOST_PPI for value in (across, down))
    return (across, down) if known else None


def tiff_ppi(data: bytes) -> tuple[float, float] | None:
    """The same of a TIFF, from its head alone."""
    try:
        with Image.open(io.BytesIO(data), formats=("TIFF",)) as head:
            return stated_ppi(head, data)
    except Exception:  # what the general reader cannot make of it says no size
        return None


def width_mm(ppi: tuple[float, float] | None, size_px: tuple[int, int], orientation: int) -> float | None:
    """Width in mm of a picture that stands upright: one that was turned by a quarter is as wide as its file is high.

    >>> width_mm((300.0, 150.0), (600, 300), 1), width_mm((300.0, 150.0), (600, 300), 6)
    (50.8, 101.6)
    """
    if ppi is None:
        return None
    return round(size_px[0] / ppi[1 if orientation in (5, 6, 7, 8) else 0] * 25.4, 2)


def _may_have_exif(head: Image.Image, data: bytes) -> bool:
    """Asking a PNG for its EXIF decodes the whole of it: only where there is some."""
    return head.format != "PNG" or b"eXIf" in data


def _of_exif(head: Image.Image) -> tuple[Any, Any] | None:
    exif = head.getexif()
    across, down, unit = exif.get(_X), exif.get(_Y), exif.get(_UNIT, 2)
    if across is None or down is None or unit not in (2, 3):
        return None
    scale = 2.54 if unit == 3 else 1.0
    return float(across) * scale, float(down) * scale
