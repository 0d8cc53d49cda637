"""Settings in words: what each is called, and what its value is."""

from collections.abc import Callable, Sequence
from typing import Any

from swaddon.core.colour.spaces import hex_from_rgb
from swaddon.core.holes.settings import Screen
from swaddon.core.knockout.settings import AlphaTreatment, Keep, Knockout
from swaddon.core.order.lines import at_path, differences
from swaddon.core.order.settings import PlanSettings
from swaddon.core.schema import Named, Slider, named

_TITLES = {
    "garment": "Garment",
    "placement": "Crop and turn",
    "knockouts": "Knockouts",
    "keeps": "Kept colours",
    "alpha": "Half-transparent pixels",
    "holes.default": "Holes",
    "holes.rules": "Regions treated otherwise",
    "holes.give_back_limit": "Most ink given back",
    "white.fixed": "White set by hand",
    "white.design_rules": "Areas of white of the design",
    "white.hits": "Hits of white",
    "icc": "Separation",
    "handover": "Hand-over",
}


def title_of(path: str) -> str:
    """What a setting is called.

    >>> title_of("white.choke_mm"), title_of("knockouts")
    ('Choke', 'Knockouts')
    """
    if path in _TITLES:
        return _TITLES[path]
    try:
        return named(PlanSettings, path).title
    except (TypeError, KeyError):
        return path.rpartition(".")[2].replace("_", " ").capitalize()


def value_text(path: str, value: Any) -> str:
    """A value of a setting in words.

    >>> value_text("white.mode", "need"), value_text("white.choke_mm", 0.25), value_text("white.guard", True)
    ('By need', '0.25 mm', 'yes')
    """
    if value is None:
        return _NOT_CHOSEN.get(path, "by itself")
    for kind, words in _WORDS:
        if isinstance(value, kind):
            return words(value)
    declared = _declared(path)
    if isinstance(declared, Slider) and isinstance(value, int | float):
        return f"{value * declared.times:.3g} {declared.unit}".strip()
    if isinstance(declared, Named) and value in dict(declared.choices):
        return dict(declared.choices)[value]
    return f"{value:g}" if isinstance(value, float) else str(value) or "the press’s own"


_NOT_CHOSEN = {
    "holes.default": "solid",
    "alpha": "as the process needs",
    "white.design": "by the garment",
    "icc": "built in",
}


def _declared(path: str) -> Named | Slider | None:
    try:
        return named(PlanSettings, path)
    except (TypeError, KeyError):
        return None


def _list_text(value: Sequence[Any]) -> str:
    if not value:
        return "none"
    if all(isinstance(item, Knockout) for item in value):
        return ", ".join(knockout_text(item) for item in value)
    if all(isinstance(item, Keep) for item in value):
        return ", ".join(hex_from_rgb(item.colour) for item in value)
    if all(isinstance(item, int | float) for item in value):
        return ", ".join(f"{item:g}" for item in value)
    return f"{len(value)}"


def knockout_text(item: Knockout) -> str:
    """A knockout in a few words.

    >>> knockout_text(Knockout(None, 8.0, "everywhere"))
    'garment’s colour everywhere (ΔE 8)'
    """
    colour = "garment’s colour" if item.colour is None else hex_from_rgb(item.colour)
    return f"{colour} {item.reach} (ΔE {item.tolerance:g})"


def screen_text(screen: Screen) -> str:
    """A screen in a few words.

    >>> screen_text(Screen())
    'round 35 lpi, 52.5°, 85 % left'
    """
    left = "" if screen.share is None else f", {screen.share:.0%} left".replace("%", " %")
    if screen.pattern == "tile":
        return f"tile {screen.tile}, {screen.tile_mm:g} mm, {screen.angle:g}°{left}"
    return f"{screen.pattern} {screen.lpi:g} lpi, {screen.angle:g}°{left}"


_WORDS: tuple[tuple[type, Callable[[Any], str]], ...] = (
    (bool, lambda value: "yes" if value else "no"),
    (Screen, screen_text),
    (AlphaTreatment, lambda value: str(value.kind)),
    (tuple, _list_text),
)


def changes_told(before: PlanSettings, after: PlanSettings) -> tuple[tuple[str, str, str], ...]:
    """What differs between two settings: its name, what it was, what it is."""
    return tuple(
        (title_of(path), value_text(path, at_path(before, path)), value_text(path, at_path(after, path)))
        for path in differences(before, after)
    )
