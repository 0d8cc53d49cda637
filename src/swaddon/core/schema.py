"""Settings declared once: type, range, unit and words stand beside the field.

Job file, plan.json, the check at the door and the bench's sliders are all read from the declaration. Ranges are
``annotated_types`` (``Ge``, ``Gt``, ``Le``); what the bench shows is a :class:`Slider`.
"""

from dataclasses import dataclass, fields, is_dataclass
from types import NoneType, UnionType
from typing import Annotated, Any, Union, get_args, get_origin, get_type_hints

from annotated_types import Ge, Gt, Le

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


def _marks_of(settings: type, name: str) -> list[Any]:
    return _marks(get_type_hints(settings, include_extras=True)[name])


def _marks(hint: Any) -> list[Any]:
    """All that a type is annotated with, also within a union with None."""
    if get_origin(hint) is Annotated:
        inner, *marks = get_args(hint)
        return [*_marks(inner), *marks]
    if get_origin(hint) in (Union, UnionType):
        return [mark for part in get_args(hint) for mark in _marks(part)]
    return []


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
    hints = get_type_hints(type(value))
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
        of = get_args(hint)[0]
        return [_plain(item, of) for item in value]
    return value
