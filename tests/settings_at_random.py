"""Settings drawn at random from their declarations, for tests that try many plans.

What a setting may be is read from its type and range, so a new one is drawn without a word here. ``_OWN`` has those
whose type does not say it all: what names something else must name what there is, what lies on the picture must fit it.
"""

import types
from collections.abc import Callable, Iterator
from dataclasses import fields, is_dataclass, replace
from functools import cache
from typing import Annotated, Any, Literal, TypeVar, Union, get_args, get_origin, get_type_hints

import numpy as np
from annotated_types import Ge, Gt, Le, MaxLen, MinLen
from tests.icc_maker import cmyk_profile

from swaddon.core.artwork.placement import Placement, Point
from swaddon.core.colour.spaces import Rgb
from swaddon.core.holes.settings import Screen
from swaddon.core.inks.settings import IccChoice
from swaddon.core.knockout.settings import OutlineKnockout
from swaddon.core.order.settings import PlanSettings
from swaddon.core.press.lineup import LineUp, factory
from swaddon.core.press.processes import PROCESSES
from swaddon.core.press.profile import PressProfile
from swaddon.core.schema import Slider, changed
from swaddon.io import profiles
from swaddon.io.icc import IccFile
from swaddon.io.tiles import shipped_tiles

Settings = TypeVar("Settings")
Chance = np.random.Generator

GARMENTS = ((27, 27, 31), (31, 41, 68), (200, 16, 46), (154, 154, 154), (224, 212, 186), (250, 250, 248))
BLOCKS = ((27, 27, 31), (200, 30, 40), (255, 255, 255), (31, 41, 68), (30, 140, 220))
"""Colours of the blocks of :func:`picture`; the first and the fourth are those of garments."""

SIZE = 96
ICC = IccFile("attic press.icc", cmyk_profile())


def presses() -> tuple[PressProfile, ...]:
    """All shipped presses; each process has at least one."""
    found = tuple(profiles.shipped(name) for name in profiles.shipped_names())
    assert {press.process for press in found} == set(PROCESSES)
    return found


def picture(seed: int = 5, size: int = SIZE) -> np.ndarray:
    """A soft glow, a bar of the garment's colour, white lettering-like strokes, a dark and a bright block."""
    rng = np.random.default_rng(seed)
    art = np.zeros((size, size, 4), np.uint8)
    y, x = np.mgrid[0:size, 0:size]
    art[..., :3] = (240, 170, 40)
    art[..., 3] = np.clip(255 - 7 * np.hypot(x - size * 0.3, y - size * 0.3), 0, 200)
    for colour in BLOCKS:
        top, left = rng.integers(4, size - 34, 2)
        art[top : top + 26, left : left + 26] = (*colour, 255)
    art[size // 2 : size // 2 + 3, 6:-6] = (255, 255, 255, 255)
    art[size - 9 : size - 7, 6:-6] = (200, 30, 40, 255)
    return art


def paths(of: type = PlanSettings, above: str = "") -> Iterator[str]:
    """Where each setting stands: every field, and those of the settings that it holds."""
    hints = get_type_hints(of)
    for item in fields(of):
        own, path = hints[item.name], above + item.name
        if is_dataclass(own) and own not in _OWN:
            yield from paths(own, path + ".")
        else:
            yield path


def settings(chance: Chance, press: PressProfile | None = None) -> PlanSettings:
    """One choice of everything, for a picture of ``SIZE`` and a press (film, where none is named)."""
    return Draw(chance, press or profiles.shipped("film")).whole(PlanSettings)


def other_value(chance: Chance, before: PlanSettings, path: str, press: PressProfile | None = None) -> PlanSettings:
    """The settings with that at a path drawn anew until it differs."""
    draw = Draw(chance, press or profiles.shipped("film"))
    for _ in range(60):
        after = changed(before, path, draw.at(path))
        if after != before:
            return after
    raise AssertionError(f"{path} is always the same")


def variation(chance: Chance, before: PlanSettings, press: PressProfile | None = None) -> PlanSettings:
    """Settings that differ from others in one to three places, as on the bench."""
    after = before
    for path in chance.choice(list(paths()), int(chance.integers(1, 4)), replace=False):
        after = other_value(chance, after, str(path), press)
    return after


class Draw:
    """Draws values of declared types."""

    def __init__(self, chance: Chance, press: PressProfile) -> None:
        self.chance, self.press = chance, press

    def one(self, *items: Any) -> Any:
        """One of some values."""
        return items[int(self.chance.integers(len(items)))]

    def whole(self, of: type[Settings]) -> Settings:
        """Settings with all their fields drawn."""
        hints = _hints(of)
        return of(**{item.name: self.value(hints[item.name], f"{of.__name__}.{item.name}") for item in fields(of)})  # type: ignore[arg-type]

    def at(self, path: str) -> Any:
        """A value for the setting at a path."""
        of: type = PlanSettings
        *rooms, name = path.split(".")
        for room in rooms:
            of = get_type_hints(of)[room]
        return self.value(_hints(of)[name], f"{of.__name__}.{name}")

    def value(self, hint: Any, where: str = "", marks: tuple[Any, ...] = ()) -> Any:
        """A value of a type; ``where`` is the class and the field that it is for."""
        origin, parts = get_origin(hint), get_args(hint)
        if origin is Annotated:
            return self.value(parts[0], where, (*marks, *parts[1:]))
        if origin in (Union, types.UnionType):
            inner = next(part for part in parts if part is not types.NoneType)
            return None if self.chance.random() < 0.4 else self.value(inner, where, marks)
        own = _OWN.get(where, _OWN.get(hint))
        return self._plain(hint, marks) if own is None else own(self)

    def _plain(self, hint: Any, marks: tuple[Any, ...]) -> Any:
        """A value of a type that says it all."""
        origin, parts = get_origin(hint), get_args(hint)
        if origin is Literal:
            return self.one(*parts)
        if origin is tuple:
            return self._several(parts, marks)
        if is_dataclass(hint):
            return self.whole(hint)  # type: ignore[arg-type]
        return {bool: self._bool, int: self._int, float: self._float, str: self._text}[hint](marks)

    def _several(self, parts: tuple[Any, ...], marks: tuple[Any, ...]) -> tuple[Any, ...]:
        if parts[-1] is not Ellipsis:
            return tuple(self.value(part) for part in parts)
        least = max((mark.min_length for mark in marks if isinstance(mark, MinLen)), default=0)
        most = min((mark.max_length for mark in marks if isinstance(mark, MaxLen)), default=2)
        return tuple(self.value(parts[0]) for _ in range(int(self.one(least, least, min(least + 1, most), most and 2))))

    def _bool(self, _marks: tuple[Any, ...]) -> bool:
        return bool(self.one(True, False))

    def _int(self, marks: tuple[Any, ...]) -> int:
        least, most = _span(marks)
        return int(self.chance.integers(least, min(most, least + 50) + 1))

    def _float(self, marks: tuple[Any, ...]) -> float:
        """An end of the range, or something between, to three places."""
        least, most = _span(marks)
        return round(float(self.one(least, most, *self.chance.uniform(least, most, 6))), 3)

    def _text(self, marks: tuple[Any, ...]) -> str:
        longest = min((mark.max_length for mark in marks if isinstance(mark, MaxLen)), default=None)
        return str(self.one("", "Weiß 1", "Spot"))[:longest]


@cache
def _hints(of: type) -> dict[str, Any]:
    return get_type_hints(of, include_extras=True)


def _span(marks: tuple[Any, ...]) -> tuple[float, float]:
    """What a slider reaches, else all that is allowed."""
    least = max(float(getattr(mark, "ge", getattr(mark, "gt", 0))) for mark in marks if isinstance(mark, Ge | Gt))
    most = min(float(mark.le) for mark in marks if isinstance(mark, Le))
    for mark in marks:
        if isinstance(mark, Slider):
            least = least if mark.least is None else mark.least
            most = most if mark.most is None else mark.most
    return least, most


def _screen(draw: Draw) -> Screen:
    """Only a tile has a picture, and leaves it to that how much ink stays."""
    made = Screen(**{item.name: draw.value(_hints(Screen)[item.name]) for item in fields(Screen)})
    if made.pattern == "tile":
        return replace(made, tile=draw.one(*sorted(shipped_tiles())))
    return replace(made, tile="", share=0.85 if made.share is None else made.share)


def _ruling(draw: Draw) -> Screen:
    """The screen of fades is one of dots: its ruling and angle are all that can be chosen, and all that is stored."""
    lpi, angle = (draw.value(_hints(Screen)[name]) for name in ("lpi", "angle"))
    return Screen(lpi=lpi, angle=angle)


def _outline(draw: Draw) -> OutlineKnockout:
    """Four corners that do not cross."""
    corners = ((8.0, 8.0), (SIZE - 9.0, 12.0), (SIZE - 14.0, SIZE - 8.0), (10.0, SIZE - 20.0))
    return OutlineKnockout(corners, draw.one("inside", "outside"), draw.one("knock", "keep"))


def _lineup(draw: Draw) -> LineUp:
    """The inks of the press in other slots."""
    slots = factory(draw.press).slots
    return LineUp("Swapped", tuple(slots[at] for at in draw.chance.permutation(len(slots))))


def _icc(draw: Draw) -> IccChoice:
    """The one profile that a request of these tests holds, in any of its ways."""
    intents = get_args(get_type_hints(IccChoice)["intent"])
    return IccChoice(ICC.name, ICC.digest, draw.one(*intents), draw.one(True, False))


_OWN: dict[Any, Callable[[Draw], Any]] = {
    Rgb: lambda draw: draw.one(*BLOCKS),
    Point: lambda draw: tuple(float(at) for at in draw.chance.integers(0, SIZE, 2)),
    Placement: lambda draw: draw.one(Placement(), Placement((4, 4, SIZE - 6, SIZE - 2)), Placement(None, 1)),
    OutlineKnockout: _outline,
    Screen: _screen,
    LineUp: _lineup,
    IccChoice: _icc,
    "AlphaTreatment.screen": _ruling,
    "PlanSettings.garment": lambda draw: draw.one(*GARMENTS),
    "PlanSettings.width_mm": lambda draw: SIZE / 300 * 25.4 * draw.one(1.0, 1.0, 1.5),
    "SheetShare.width_mm": lambda draw: SIZE / 300 * 25.4,
    "SheetShare.press": lambda draw: draw.press.name,
}
