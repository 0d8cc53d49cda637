"""Lengths as the operator writes them: mm or inches, one choice everywhere."""

from swaddon.core.units import inches_from_mm


def length_text(length_mm: float, inches: bool, digits_mm: int = 0) -> str:
    """A length with its unit."""
    if inches:
        return f"{inches_from_mm(length_mm):.2f} in"
    return f"{length_mm:.{digits_mm}f} mm"


def size_text(width_mm: float, height_mm: float, inches: bool) -> str:
    """Width × height with one unit."""
    if inches:
        return f"{inches_from_mm(width_mm):.2f} × {inches_from_mm(height_mm):.2f} in"
    return f"{width_mm:.0f} × {height_mm:.0f} mm"
