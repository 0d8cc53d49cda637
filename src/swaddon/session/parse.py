"""Text that a person types, read into values. Each refusal is one sentence that says what is accepted."""

import re

from swaddon.core.artwork.placement import Point
from swaddon.core.colour.spaces import Rgb, rgb_from_hex
from swaddon.core.holes.settings import Screen
from swaddon.core.inks.settings import RECIPE_TOLERANCE_DE, Recipe
from swaddon.core.knockout.settings import AlphaTreatment, Keep, Knockout
from swaddon.core.order.settings import PlanSettings
from swaddon.core.press.profile import INKS
from swaddon.core.schema import OnCommandLine, Pattern, allowed
from swaddon.core.units import MM_PER_INCH, mm_from_px
from swaddon.core.white.settings import DesignRule, FixedWhite, WhiteSettings

_LENGTH = re.compile(r"^\s*(\d+(?:[.,]\d+)?)\s*(mm|cm|in|\"|″)?\s*$", re.IGNORECASE)
_PIXELS = re.compile(r"^\s*(\d+(?:[.,]\d+)?)\s*px\s*(?:(?:@|at)\s*(\d+(?:[.,]\d+)?)\s*(?:ppi)?)?\s*$", re.IGNORECASE)
_INK = re.compile(r"([CMYK])(\d+(?:\.\d+)?)")
_FURTHEST_PX = 1e6
_FACTORS = {"mm": 1.0, "cm": 10.0, "in": MM_PER_INCH, '"': MM_PER_INCH, "″": MM_PER_INCH}


def length_mm(
    text: str, what: str, least: float, most: float, default_unit: str = "mm", such_as: str = "250mm or 10in"
) -> float:
    """A length in mm from text such as ``250mm``, ``10 in`` or ``25,4``.

    Raises
    ------
    ValueError
        One sentence, naming ``what`` and the accepted range.
    """
    found = _LENGTH.match(text)
    if not found:
        raise ValueError(f"{what} “{text}” is not a length: write it like {such_as}")
    value = float(found[1].replace(",", ".")) * _FACTORS[(found[2] or default_unit).lower()]
    if not least <= value <= most:
        raise ValueError(f"{what} {text} is outside {least:g} to {most:g} mm")
    return value


def print_length_mm(text: str, what: str, default_unit: str = "mm") -> float:
    """Width or height of a print; raises ``ValueError`` with one sentence."""
    return length_mm(text, what, *allowed(PlanSettings, "width_mm"), default_unit)


def small_length_mm(
    text: str, what: str, least: float, most: float, ppi: float | None = None, such_as: str = "0.25mm or 3px@300"
) -> float:
    """A length in mm, also from pixels of a resolution: ``0.25mm``, ``3px@300``; ``3px`` alone is of ``ppi``.

    Raises
    ------
    ValueError
        One sentence, naming ``what`` and the accepted range.
    """
    found = _PIXELS.match(text)
    if not found:
        return length_mm(text, what, least, most, such_as=such_as)
    if found[2] is None and ppi is None:
        raise ValueError(f"{what} “{text}” depends on the machine: say its ppi, such as {found[1]}px@300")
    per_inch = ppi if found[2] is None else number(found[2], f"{what} ppi", 50, 5000)
    assert per_inch is not None
    value = round(mm_from_px(float(found[1].replace(",", ".")), per_inch), 6)
    if not least <= value <= most:
        raise ValueError(f"{what} {text} is {value:.2f} mm, outside {least:g} to {most:g} mm")
    return value


def number(text: str, what: str, least: float, most: float) -> float:
    """A number, point or comma; raises ``ValueError`` with one sentence."""
    try:
        value = float(text.strip().replace(",", "."))
    except ValueError as error:
        raise ValueError(f"{what} “{text.strip()}” is not a number") from error
    _check(value, what, least, most)
    return value


def _check(value: float, what: str, least: float, most: float, unit: str = "") -> None:
    if not least <= value <= most:
        raise ValueError(f"{what} {value:g} is outside {least:g} to {most:.12g}{unit}")


def setting(given: object, entry: OnCommandLine, ppi: float | None = None) -> object:
    """A setting from what stands on the command line, pixels alone of ``ppi``; raises ``ValueError``, one sentence."""
    flag = entry.option.flag
    if not isinstance(given, str):
        return given
    if entry.words:
        if given not in entry.words:
            *others, last = entry.words
            raise ValueError(f"{flag} “{given}” is not {', '.join(others)} or {last}")
        return given
    if entry.kind is str:
        return short_text(given, flag, entry.longest, entry.pattern)
    if entry.unit == "mm":
        return small_length_mm(given, flag, entry.least, entry.most, ppi, such_as="0.5mm or 0.02in")
    value = number(given, flag, entry.least, entry.most)
    if entry.kind is int:
        if value != int(value):
            raise ValueError(f"{flag} {given} is not a whole number")
        return int(value)
    return value


def short_text(text: str, what: str, longest: int, pattern: Pattern | None) -> str:
    """A text that is no longer than it may be; raises ``ValueError`` with one sentence."""
    if len(text) > longest or (pattern is not None and not re.fullmatch(pattern.regex, text)):
        words = "a short text" if pattern is None else pattern.words
        raise ValueError(f"{what} is {words}, {longest} characters at most")
    return text


def colour(text: str, what: str) -> Rgb:
    """An sRGB colour from ``#rrggbb``; raises ``ValueError`` with one sentence."""
    try:
        return rgb_from_hex(text)
    except ValueError as error:
        raise ValueError(f"{what}: {error}") from error


def recipe_inks(text: str, what: str = "A recipe") -> tuple[float, float, float, float]:
    """Coverages of C, M, Y and K, 0..1, from text such as ``C20 M100 Y100``; raises ``ValueError``."""
    packed = re.sub(r"[\s%,]", "", text.upper())
    parts = _INK.findall(packed)
    if not parts or "".join(ink + share for ink, share in parts) != packed:
        raise ValueError(f"{what} is inks in percent, such as C20 M100 Y100")
    if len({ink for ink, _ in parts}) != len(parts):
        raise ValueError(f"{what} names an ink twice")
    shares = {ink: float(share) for ink, share in parts}
    over = next((ink for ink, share in shares.items() if share > 100), None)
    if over is not None:
        raise ValueError(f"{what}: {over} is {shares[over]:g} %, more than 100 %")
    c, m, y, k = (shares.get(ink, 0.0) / 100 for ink in INKS)
    return c, m, y, k


def recipe(text: str) -> Recipe:
    """An exact colour from ``#RRGGBB=C20M100Y100[:TOLERANCE]``, inks in percent; raises ``ValueError``."""
    name, equals, rest = text.partition("=")
    inks, _, tolerance = rest.partition(":")
    if not equals:
        raise ValueError(f"--recipe “{text}” is not COLOUR=INKS[:TOLERANCE], such as #c02020=C20M100Y100:4")
    least, most = allowed(Recipe, "tolerance_de")
    within = number(tolerance, "--recipe: its tolerance", least, most) if tolerance else RECIPE_TOLERANCE_DE
    return Recipe(colour(name, "--recipe"), recipe_inks(inks, f"--recipe “{text}”"), within)


def knockout(text: str) -> Knockout:
    """A knockout from ``REACH:COLOUR:TOLERANCE[:EDGE][:clean][@X,Y…]``, such as ``everywhere:garment:6:hard``."""
    head, *places = text.split("@")
    parts = head.split(":")
    form = f"--knockout “{text}” is not REACH:COLOUR:TOLERANCE[:EDGE][:clean][@X,Y], such as outside:#ffffff:8:soft"
    if len(parts) not in (3, 4, 5):
        raise ValueError(form)
    reach, name, tolerance = parts[0], parts[1], parts[2]
    options = parts[3:]
    clean = "clean" in options
    edges = [option for option in options if option != "clean"] or ["soft"]
    if reach not in ("outside", "everywhere", "clicked") or len(edges) != 1 or edges[0] not in ("soft", "hard"):
        raise ValueError(f"{form}; REACH is outside, everywhere or clicked, EDGE is soft or hard")
    try:
        delta_e = float(tolerance)
    except ValueError as error:
        raise ValueError(f"{form}; TOLERANCE is a number of ΔE") from error
    _check(delta_e, "--knockout tolerance", *allowed(Knockout, "tolerance"), unit=" ΔE")
    points = tuple(point(place, "--knockout") for place in places)
    if reach == "clicked" and not points:
        raise ValueError(f"{form}; clicked needs at least one @X,Y in artwork pixels")
    rgb = None if name == "garment" else colour(name, "--knockout colour")
    return Knockout(rgb, delta_e, reach, edges[0], points, clean)  # type: ignore[arg-type]


def point(text: str, what: str) -> Point:
    """A place in artwork pixels from ``X,Y``."""
    x, _, y = text.partition(",")
    try:
        place = float(x), float(y)
        if not all(abs(value) <= _FURTHEST_PX for value in place):
            raise ValueError("not a place")
        return place
    except ValueError as error:
        raise ValueError(f"{what}: “{text}” is not a place X,Y in artwork pixels") from error


def keep(text: str) -> Keep:
    """What no knockout may take, from ``COLOUR:TOLERANCE[@X,Y]``."""
    head, *places = text.split("@")
    name, _, tolerance = head.partition(":")
    form = f"--keep “{text}” is not COLOUR:TOLERANCE[@X,Y], such as #ffffff:8@1200,640"
    if len(places) > 1:
        raise ValueError(form)
    try:
        delta_e = float(tolerance or "8")
    except ValueError as error:
        raise ValueError(f"{form}; TOLERANCE is a number of ΔE") from error
    _check(delta_e, "--keep tolerance", *allowed(Keep, "tolerance"), unit=" ΔE")
    return Keep(colour(name, "--keep colour"), delta_e, point(places[0], "--keep") if places else None)


def screen(text: str, what: str) -> Screen | None:
    """A treatment: ``solid``, ``round|inverted|line:LPI:ANGLE:SHARE[:TONE]`` or ``tile:NAME:WIDTH:ANGLE[:SHARE]``."""
    if text == "solid":
        return None
    form = (
        f"{what} “{text}” is not solid, round|inverted|line:LPI:ANGLE:SHARE[:TONE] (such as round:35:52.5:0.85) "
        "or tile:NAME:WIDTH:ANGLE[:SHARE] (such as tile:grit:12mm:0)"
    )
    kind, *parts = text.split(":")
    if kind == "tile" and len(parts) in (3, 4):
        width_mm = length_mm(parts[1], f"{what} tile width", *allowed(Screen, "tile_mm"))
        angle = _number(parts[2], form, *allowed(Screen, "angle"))
        share = _number(parts[3], form, *allowed(Screen, "share")) if len(parts) == 4 else None
        return Screen("tile", angle=angle, share=share, tile=parts[0], tile_mm=width_mm)
    if kind in ("round", "inverted", "line") and len(parts) in (3, 4):
        lpi, angle = (
            _number(parts[0], form, *allowed(Screen, "lpi")),
            _number(parts[1], form, *allowed(Screen, "angle")),
        )
        share = _number(parts[2], form, *allowed(Screen, "share"))
        tone = _number(parts[3], form, *allowed(Screen, "tone")) if len(parts) == 4 else 1.0
        return Screen(kind, lpi, angle, share, tone)  # type: ignore[arg-type]
    raise ValueError(form)


def _number(text: str, form: str, least: float, most: float) -> float:
    try:
        value = float(text)
    except ValueError as error:
        raise ValueError(form) from error
    if not least <= value <= most:
        raise ValueError(f"{form}; {text} is outside {least:g} to {most:g}")
    return value


def white(text: str) -> dict[str, object]:
    """White: ``none``, ``highlight``, ``solid``, ``only``, ``limit:280`` (coverage, %) or ``need:3`` (shift, ΔE)."""
    if text in ("none", "highlight", "solid", "only"):
        return {"mode": text}
    form = (
        f"--white “{text}” is not none, highlight, solid, only, limit:PERCENT (0 to 400 %) or need:SHIFT (0 to 50 ΔE)"
    )
    kind, _, value = text.partition(":")
    if kind == "limit":
        return {"mode": "limit", "limit": _number(value, form, *allowed(WhiteSettings, "limit"))}
    if kind == "need":
        return {"mode": "need", "allowed_shift": _number(value or "3", form, *allowed(WhiteSettings, "allowed_shift"))}
    raise ValueError(form)


def fixed_white(text: str) -> FixedWhite:
    """White set by hand for a colour, from ``COLOUR:AMOUNT[:TOLERANCE]``."""
    parts = text.split(":")
    form = f"--white-at “{text}” is not COLOUR:AMOUNT[:TOLERANCE], such as #c81e28:0.4:6 (0..1, ΔE)"
    if len(parts) not in (2, 3):
        raise ValueError(form)
    tolerance = _number(parts[2], form, *allowed(FixedWhite, "tolerance")) if len(parts) == 3 else 6.0
    amount = _number(parts[1], form, *allowed(FixedWhite, "amount"))
    return FixedWhite(colour(parts[0], "--white-at colour"), amount, tolerance)


def design_rule(text: str) -> DesignRule:
    """An area of white of the design by a place in it, from ``ink@X,Y`` or ``bare@X,Y``."""
    kind, _, place = text.partition("@")
    if kind not in ("ink", "bare") or not place:
        raise ValueError(f"--design-at “{text}” is not ink@X,Y or bare@X,Y in artwork pixels")
    return DesignRule(point(place, "--design-at"), kind == "ink")


def hits(text: str) -> tuple[float, ...]:
    """Amounts of each hit of white, from ``1,0.6``."""
    form = f"--hits “{text}” is not one to four amounts between 0 and 1, such as 1,0.6"
    parts = text.split(",")
    if not 1 <= len(parts) <= 4:
        raise ValueError(form)
    return tuple(_number(part, form, *allowed(WhiteSettings, "hits")) for part in parts)


_SUCH_ERROR = "0.12mm or 0.2mm:worst"


def registration(text: str, ppi: float | None = None) -> dict[str, object]:
    """Registration error: a length that is its standard deviation, or with ``:worst`` the largest that occurs."""
    length, _, kind = text.partition(":")
    if kind not in ("", "worst"):
        raise ValueError(f"--registration “{text}” is not a length such as {_SUCH_ERROR}")
    error_mm = small_length_mm(
        length, "--registration", *allowed(WhiteSettings, "registration_mm"), ppi, such_as=_SUCH_ERROR
    )
    return {"registration_mm": error_mm, "worst_case": kind == "worst"}


def alpha(text: str) -> AlphaTreatment:
    """Half-transparent pixels: ``keep``, ``hard:LEVEL`` or ``screen:LPI:ANGLE``, each with ``:haze:SHARE`` after it."""
    form = f"--alpha “{text}” is not keep, hard:LEVEL or screen:LPI:ANGLE, such as hard:0.5 or screen:35:52.5"
    kind, *parts = text.split(":")
    haze = 0.0
    if len(parts) >= 2 and parts[-2] == "haze":
        haze = _number(parts[-1], form, *allowed(AlphaTreatment, "haze_below"))
        parts = parts[:-2]
    if kind == "keep" and not parts:
        return AlphaTreatment("keep", haze_below=haze)
    if kind == "hard" and len(parts) == 1:
        level = _number(parts[0], form, *allowed(AlphaTreatment, "level"))
        if level > 0:
            return AlphaTreatment("hard", level, haze_below=haze)
    if kind == "screen" and len(parts) == 2:
        screened = Screen(
            "round",
            _number(parts[0], form, *allowed(Screen, "lpi")),
            _number(parts[1], form, *allowed(Screen, "angle")),
        )
        return AlphaTreatment("screen", screen=screened, haze_below=haze)
    raise ValueError(f"{form}; LEVEL above 0 and up to 1")


def crop(text: str) -> tuple[int, int, int, int] | None:
    """A crop in artwork pixels from ``LEFT,TOP,RIGHT,BOTTOM``."""
    parts = text.split(",")
    try:
        left, top, right, bottom = (int(part) for part in parts)
    except ValueError as error:
        raise ValueError(f"--crop “{text}” is not content or LEFT,TOP,RIGHT,BOTTOM in artwork pixels") from error
    if not (0 <= left < right and 0 <= top < bottom):
        raise ValueError(f"--crop “{text}” is empty: right and bottom must be beyond left and top")
    return left, top, right, bottom
