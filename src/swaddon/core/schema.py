"""Settings declared once: type, range, unit and words stand beside the field.

Job file, plan.json, the check at the door and the bench's sliders are all read from the declaration. Ranges are
``annotated_types`` (``Ge``, ``Gt``, ``Le``); a :class:`Slider` or a :class:`Named` tells how the bench shows a setting
and calls its change, an :class:`Option` how the command line takes it.
"""

from dataclasses import dataclass, fields, is_dataclass, replace
from functools import cache
from types import NoneType, UnionType
from typing import Annotated, Any, Literal, Union, get_args, get_origin, get_type_hints

from annotated_types import Ge, Gt, Le, MaxLen

from swaddon.core.colour.spaces import Rgb, hex_from_rgb

FLAT = "flat"

Share = Annotated[float, Ge(0), Le(1)]
DeltaE = Annotated[float, Ge(0), Le(100)]
Lpi = Annotated[float, Ge(5), Le(300)]
Degrees = Annotated[float, Ge(-360), Le(360)]


@dataclass(frozen=True)
class Slider:
    """How the bench shows a number and lets it be moved.

    Attributes
    ----------
    title, unit, step
        Its name, what it is told in, and the least move.
    change
        What a change is called in the undo menu.
    least, most
        Ends of the slider, where they are nearer than the range that is allowed.
    times
        What a value is multiplied by to be told: 100 for shares in percent.
    """

    title: str
    unit: str
    step: float
    change: str
    least: float | None = None
    most: float | None = None
    times: float = 1.0


@dataclass(frozen=True)
class Named:
    """What a setting is called that is ticked, typed or chosen.

    Attributes
    ----------
    title
        Its name.
    change
        What a change is called in the undo menu.
    choices
        What each value is called, where there are a few to choose from.
    """

    title: str
    change: str
    choices: tuple[tuple[str, str], ...] = ()


@dataclass(frozen=True)
class Option:
    """How the command line takes a setting: its flag (two of a setting that is ticked, ``--guard/--no-guard``)."""

    flag: str
    help: str


@dataclass(frozen=True)
class Pattern:
    """What a text must match as a whole, and what that is in words."""

    regex: str
    words: str


@dataclass(frozen=True)
class Declared:
    """What is declared of a number: the range that is allowed, and its slider."""

    least: float
    most: float
    slider: Slider

    @property
    def span(self) -> tuple[float, float]:
        """Ends of the slider."""
        own = self.slider
        return self.least if own.least is None else own.least, self.most if own.most is None else own.most


def flat(**names: str) -> dict[str, dict[str, str]]:
    """Metadata of a field whose own fields are written into the document beside it, under these names."""
    return {FLAT: names}


def allowed(settings: type, name: str) -> tuple[float, float]:
    """The range that is allowed of one number of a settings class.

    >>> from swaddon.core.white.settings import WhiteSettings
    >>> allowed(WhiteSettings, "squeeze_mm")
    (0.0, 2.0)
    """
    least, most = float("-inf"), float("inf")
    for mark in _marks_of(settings, name):
        if isinstance(mark, Ge | Gt):
            least = float(mark.ge if isinstance(mark, Ge) else mark.gt)  # type: ignore[arg-type]
        elif isinstance(mark, Le):
            most = float(mark.le)  # type: ignore[arg-type]
    return least, most


def declared(settings: type, name: str) -> Declared:
    """What is declared of one number of a settings class that the bench shows.

    >>> from swaddon.core.white.settings import WhiteSettings
    >>> declared(WhiteSettings, "squeeze_mm").span
    (0.0, 0.3)
    """
    sliders = [mark for mark in _marks_of(settings, name) if isinstance(mark, Slider)]
    if not sliders:
        raise TypeError(f"{settings.__name__}.{name} declares no slider")
    return Declared(*allowed(settings, name), sliders[-1])


def named(settings: type, path: str) -> Named | Slider:
    """What a setting is called, by its path from a settings class.

    >>> from swaddon.core.order.settings import PlanSettings
    >>> named(PlanSettings, "white.guard").change
    'Change the guard'
    """
    holder, name = _holder(settings, path)
    found = [mark for mark in _marks_of(holder, name) if isinstance(mark, Named | Slider)]
    if not found:
        raise TypeError(f"{holder.__name__}.{name} declares no name")
    return found[-1]


def changed(settings: Any, path: str, value: object) -> Any:
    """The settings with one of them changed, by its path.

    >>> from swaddon.core.order.settings import PlanSettings
    >>> changed(PlanSettings(), "white.choke_mm", 0.4).white.choke_mm
    0.4
    """
    first, _, rest = path.partition(".")
    return replace(settings, **{first: changed(getattr(settings, first), rest, value) if rest else value})


def declared_at(settings: type, path: str) -> Declared:
    """:func:`declared` by a path from a settings class."""
    return declared(*_holder(settings, path))


def _holder(settings: type, path: str) -> tuple[type, str]:
    *rooms, name = path.split(".")
    for room in rooms:
        settings = _bare(get_type_hints(settings, include_extras=True)[room])
    return settings, name


@dataclass(frozen=True)
class OnCommandLine:
    """A setting that the command line takes.

    Attributes
    ----------
    path
        Where it stands, from the settings that were asked.
    option
        Flag and help.
    kind
        ``bool``, ``int``, ``float``, or ``str`` for a few words to choose from (``words``).
    unit
        ``mm`` for a length; empty for a plain number.
    least, most
        The range that is allowed.
    longest, pattern
        Of a text: how long it may be, and what it must match.
    """

    path: str
    option: Option
    kind: type
    words: tuple[str, ...]
    unit: str
    least: float
    most: float
    longest: int = 0
    pattern: Pattern | None = None


def options(settings: type, above: str = "") -> tuple[OnCommandLine, ...]:
    """All settings below a class that the command line takes, in the order in which they are declared."""
    out: list[OnCommandLine] = []
    hints = get_type_hints(settings, include_extras=True)
    for item in fields(settings):
        bare, marks = _bare(hints[item.name]), _marks(hints[item.name])
        if is_dataclass(bare) and isinstance(bare, type):
            out += options(bare, f"{above}{item.name}.")
        for mark in marks:
            if isinstance(mark, Option):
                words = tuple(get_args(bare)) if get_origin(bare) is Literal else ()
                unit = next((shown.unit for shown in marks if isinstance(shown, Slider)), "")
                kind = str if words else bare
                longest = next((found.max_length for found in marks if isinstance(found, MaxLen)), 0)
                pattern = next((found for found in marks if isinstance(found, Pattern)), None)
                span = allowed(settings, item.name)
                out.append(OnCommandLine(above + item.name, mark, kind, words, unit, *span, longest, pattern))
    return tuple(out)


def _bare(hint: Any) -> Any:
    """The type itself, without marks and without None."""
    if get_origin(hint) is Annotated:
        return _bare(get_args(hint)[0])
    if get_origin(hint) in (Union, UnionType):
        return _bare(next(part for part in get_args(hint) if part is not NoneType))
    return hint


def _marks_of(settings: type, name: str) -> list[Any]:
    return _marks(get_type_hints(settings, include_extras=True)[name])


def _marks(hint: Any) -> list[Any]:
    """All that a type is annotated with, also within a union with None and in the items of a tuple."""
    if get_origin(hint) is Annotated:
        inner, *marks = get_args(hint)
        return [*_marks(inner), *marks]
    if get_origin(hint) in (Union, UnionType, tuple):
        return [mark for part in get_args(hint) for mark in _marks(part)]
    return []


@cache
def hints_of(settings: type) -> dict[str, Any]:
    """The types of a settings class, without marks."""
    return get_type_hints(settings)


def is_colour(hint: Any) -> bool:
    """Whether a type is an sRGB colour, which documents hold as ``#rrggbb``."""
    return bool(hint == Rgb)


def document(value: Any) -> dict[str, Any]:
    """Settings as plain values, JSON-ready. Colours are ``#rrggbb``, lengths mm, angles degrees.

    >>> from swaddon.core.white.settings import FixedWhite
    >>> document(FixedWhite((255, 0, 0), 0.5))
    {'colour': '#ff0000', 'amount': 0.5, 'tolerance': 6.0}
    """
    out: dict[str, Any] = {}
    hints = hints_of(type(value))  # type: ignore[arg-type]
    for item in fields(value):
        own = getattr(value, item.name)
        if FLAT in item.metadata:
            inner = document(own)
            out |= {name: inner[of] for of, name in item.metadata[FLAT].items()}
        else:
            out[item.name] = _plain(own, hints[item.name])
    return out


def _plain(value: Any, hint: Any) -> Any:
    if get_origin(hint) in (Union, UnionType):
        if value is None:
            return None
        hint = next(part for part in get_args(hint) if part is not NoneType)
    if is_colour(hint):
        return hex_from_rgb(value)
    if is_dataclass(value):
        return document(value)
    if isinstance(value, tuple):
        return [_plain(item, of) for item, of in zip(value, kinds_of_items(hint, len(value)), strict=False)]
    return value


def kinds_of_items(hint: Any, count: int) -> tuple[Any, ...]:
    """The type of each item of a tuple: all alike, or each its own."""
    kinds = get_args(_bare(hint))
    return kinds[:1] * count if kinds[-1] is Ellipsis else kinds
