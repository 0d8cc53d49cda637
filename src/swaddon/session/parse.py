"""Text that a person types, read into values. Each refusal is one sentence that says what is accepted."""

import re

from swaddon.core.colour import Rgb, rgb_from_hex
from swaddon.core.plan.settings import Knockout, WhiteMode
from swaddon.core.units import MM_PER_INCH

_LENGTH = re.compile(r"^\s*(\d+(?:[.,]\d+)?)\s*(mm|cm|in|\"|″)?\s*$", re.IGNORECASE)
_FACTORS = {"mm": 1.0, "cm": 10.0, "in": MM_PER_INCH, '"': MM_PER_INCH, "″": MM_PER_INCH}


def length_mm(text: str, what: str, least: float, most: float, default_unit: str = "mm") -> float:
    """A length in mm from text such as ``250mm``, ``10 in`` or ``25,4``.

    Raises
    ------
    ValueError
        One sentence, naming ``what`` and the accepted range.
    """
    found = _LENGTH.match(text)
    if not found:
        raise ValueError(f"{what} “{text}” is not a length: write it like 250mm or 10in")
    value = float(found[1].replace(",", ".")) * _FACTORS[(found[2] or default_unit).lower()]
    if not least <= value <= most:
        raise ValueError(f"{what} {text} is outside {least:g} to {most:g} mm")
    return value


def colour(text: str, what: str) -> Rgb:
    """An sRGB colour from ``#rrggbb``; raises ``ValueError`` with one sentence."""
    try:
        return rgb_from_hex(text)
    except ValueError as error:
        raise ValueError(f"{what}: {error}") from error


def knockout(text: str) -> Knockout:
    """A knockout from ``REACH:COLOUR:TOLERANCE[:EDGE]``, such as ``everywhere:garment:6:hard``."""
    parts = text.split(":")
    form = f"--knockout “{text}” is not REACH:COLOUR:TOLERANCE[:EDGE], such as outside:#ffffff:8:soft"
    if len(parts) not in (3, 4):
        raise ValueError(form)
    reach, name, tolerance = parts[0], parts[1], parts[2]
    edge = parts[3] if len(parts) == 4 else "soft"
    if reach not in ("outside", "everywhere") or edge not in ("soft", "hard"):
        raise ValueError(f"{form}; REACH is outside or everywhere, EDGE is soft or hard")
    try:
        delta_e = float(tolerance)
    except ValueError as error:
        raise ValueError(f"{form}; TOLERANCE is a number of ΔE") from error
    if not 0 <= delta_e <= 100:
        raise ValueError(f"--knockout tolerance {tolerance} is outside 0 to 100 ΔE")
    rgb = None if name == "garment" else colour(name, "--knockout colour")
    return Knockout(
        rgb, delta_e, "outside" if reach == "outside" else "everywhere", "hard" if edge == "hard" else "soft"
    )


def white(text: str) -> tuple[WhiteMode, float | None]:
    """White mode and, for ``limit:280``, the total coverage in percent."""
    if text == "none":
        return "none", None
    if text == "solid":
        return "solid", None
    kind, _, value = text.partition(":")
    if kind == "limit":
        try:
            limit = float(value)
        except ValueError:
            limit = -1.0
        if 0 <= limit <= 400:
            return "limit", limit
    raise ValueError(f"--white “{text}” is not none, solid or limit:PERCENT with 0 to 400 %")


def half_transparent(text: str) -> float | None:
    """``keep`` gives ``None``, ``hard:0.5`` the alpha of the cut."""
    if text == "keep":
        return None
    kind, _, value = text.partition(":")
    try:
        level = float(value) if kind == "hard" else -1.0
    except ValueError:
        level = -1.0
    if not 0 < level <= 1:
        raise ValueError(f"--alpha “{text}” is not keep or hard:LEVEL with a level above 0 and up to 1")
    return level
