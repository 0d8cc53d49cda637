"""Lengths: millimetres inside the core, pixels only together with a resolution."""

MM_PER_INCH = 25.4
"""Exact by definition of the international inch (1959)."""


def mm_from_inches(inches: float) -> float:
    """Length in mm of a length in inches.

    >>> mm_from_inches(10)
    254.0
    """
    return inches * MM_PER_INCH


def inches_from_mm(length_mm: float) -> float:
    """Length in inches of a length in mm.

    >>> round(inches_from_mm(76.2), 9)
    3.0
    """
    return length_mm / MM_PER_INCH


def px_from_mm(length_mm: float, ppi: float) -> float:
    """Length in (fractional) pixels at ``ppi`` of a length in mm.

    The usual start of a choke is 3 px at 300 ppi (common practice, no source):

    >>> round(px_from_mm(0.254, 300), 9)
    3.0
    """
    return length_mm * ppi / MM_PER_INCH


def mm_from_px(length_px: float, ppi: float) -> float:
    """Length in mm of a length in pixels at ``ppi``.

    Three pixels on a machine of 720 ppi are far less than at 300 ppi:

    >>> round(mm_from_px(3, 720), 3), round(mm_from_px(3, 300), 3)
    (0.106, 0.254)
    """
    return length_px * MM_PER_INCH / ppi


def pixel_area_mm2(ppi: float) -> float:
    """Area in mm² of one pixel at ``ppi``.

    >>> round(pixel_area_mm2(300), 8)
    0.00716844
    """
    return (MM_PER_INCH / ppi) ** 2


def fahrenheit_from_c(celsius: float) -> float:
    """Degrees Fahrenheit of degrees Celsius (exact by definition).

    Cure of direct prints, common practice, no source: 350 °F is 177 °C.

    >>> fahrenheit_from_c(100), round(fahrenheit_from_c(177))
    (212.0, 351)
    """
    return celsius * 9 / 5 + 32


def celsius_from_f(fahrenheit: float) -> float:
    """Degrees Celsius of degrees Fahrenheit.

    >>> round(celsius_from_f(300), 1), round(celsius_from_f(338))
    (148.9, 170)
    """
    return (fahrenheit - 32) * 5 / 9


def number_of(count: int, word: str) -> str:
    """How many of what a word names.

    >>> number_of(1, "piece"), number_of(12, "piece")
    ('1 piece', '12 pieces')
    """
    return f"{count} {word if count == 1 else plural(word)}"


def plural(word: str) -> str:
    """More than one of what a word names.

    >>> [plural(word) for word in ("shirt", "patch", "box", "badge", "body")]
    ['shirts', 'patches', 'boxes', 'badges', 'bodies']
    """
    if word.endswith(("s", "x", "z", "ch", "sh")):
        return f"{word}es"
    if word.endswith("y") and word[-2:-1] not in "aeiou":
        return f"{word[:-1]}ies"
    return f"{word}s"
