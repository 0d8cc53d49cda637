"""Lengths: millimetres inside the core, pixels only together with a resolution."""

MM_PER_INCH = 25.4
"""Exact by definition of the international inch (1959)."""


def mm_from_inches(inches: float) -> float:
    """Length in mm of a length in inches."""
    return inches * MM_PER_INCH


def inches_from_mm(length_mm: float) -> float:
    """Length in inches of a length in mm."""
    return length_mm / MM_PER_INCH


def px_from_mm(length_mm: float, ppi: float) -> float:
    """Length in (fractional) pixels at ``ppi`` of a length in mm."""
    return length_mm * ppi / MM_PER_INCH


def mm_from_px(length_px: float, ppi: float) -> float:
    """Length in mm of a length in pixels at ``ppi``."""
    return length_px * MM_PER_INCH / ppi


def pixel_area_mm2(ppi: float) -> float:
    """Area in mm² of one pixel at ``ppi``."""
    return (MM_PER_INCH / ppi) ** 2
