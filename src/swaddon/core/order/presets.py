"""Presets: a shop's settings under a name, for some processes and classes of goods, applied in one step."""

from collections.abc import Sequence
from dataclasses import dataclass, field, fields, replace
from typing import Any, Literal

from swaddon.core.colour.goods import goods_class, is_black, is_white
from swaddon.core.colour.spaces import Rgb
from swaddon.core.holes.settings import HoleSettings
from swaddon.core.knockout.settings import Knockout
from swaddon.core.order.handover import HandOver
from swaddon.core.order.lines import at_path
from swaddon.core.order.settings import PlanSettings
from swaddon.core.schema import changed
from swaddon.core.white.settings import WhiteSettings

GoodsKind = Literal["black", "dark", "mid", "pastel", "light", "white"]
KINDS: tuple[GoodsKind, ...] = ("black", "dark", "mid", "pastel", "light", "white")

_OF_ONE_ARTWORK = {"white.design_rules", "white.fixed", "holes.rules"}
_OF_A_PRESS = {"white.registration_mm", "white.worst_case", "white.squeeze_mm", "white.position"}

PATHS: tuple[str, ...] = (
    "knockouts",
    "alpha",
    *(f"holes.{item.name}" for item in fields(HoleSettings)),
    *(f"white.{item.name}" for item in fields(WhiteSettings)),
    *(f"handover.{item.name}" for item in fields(HandOver)),
)
"""Settings that a preset may hold, less those that belong to one artwork or to one press."""

PATHS = tuple(path for path in PATHS if path not in _OF_ONE_ARTWORK | _OF_A_PRESS)


@dataclass(frozen=True)
class Preset:
    """Settings by name.

    Attributes
    ----------
    name, why
        What it is called, and when it is right.
    processes, goods
        What it is offered for; empty: for any. Black goods are dark as well, white goods light.
    settings
        Values by the paths of the settings; what is not among them stays as it is. Knockouts are added to those that
        are there, one of the same colour takes the other's place.
    """

    name: str
    why: str = ""
    processes: tuple[str, ...] = ()
    goods: tuple[GoodsKind, ...] = ()
    settings: tuple[tuple[str, Any], ...] = field(default=())

    def on(self, settings: PlanSettings) -> PlanSettings:
        """The settings with the preset applied; applied twice it changes no more than once."""
        for path, value in self.settings:
            own = merged(settings.knockouts, value) if path == "knockouts" else value
            settings = changed(settings, path, own)
        return settings

    def suits(self, process: str, garment: Rgb) -> bool:
        """Whether it is offered for a process and a garment."""
        return (not self.processes or process in self.processes) and (
            not self.goods or bool(set(self.goods) & set(kinds_of(garment)))
        )


def merged(held: Sequence[Knockout], more: Sequence[Knockout]) -> tuple[Knockout, ...]:
    """Knockouts with more of them, which take the place of all that are there of their colours.

    One colour may be knocked out twice, outside within a wide tolerance and everywhere within a narrow one.
    """
    theirs = {item.colour for item in more}
    return (*(item for item in held if item.colour not in theirs), *more)


def kinds_of(garment: Rgb) -> tuple[GoodsKind, ...]:
    """The kinds of goods that a garment is, the narrowest first.

    >>> kinds_of((20, 20, 22)), kinds_of((252, 252, 250)), kinds_of((31, 41, 68))
    (('black', 'dark'), ('white', 'light'), ('dark',))
    """
    own: GoodsKind = goods_class(garment)
    if is_black(garment):
        return "black", own
    return ("white", own) if is_white(garment) else (own,)


def preset_of(settings: PlanSettings, preset: Preset) -> Preset:
    """A preset that holds what the settings are now; areas clicked on one artwork stay out."""
    kept = replace(settings, knockouts=tuple(item for item in settings.knockouts if item.reach != "clicked"))
    return replace(preset, settings=tuple((path, at_path(kept, path)) for path in PATHS))


def offered(presets: Sequence[Preset], process: str, garment: Rgb) -> tuple[Preset, ...]:
    """The presets that suit a process and a garment, the ones made for just these goods first."""
    fit = [preset for preset in presets if preset.suits(process, garment)]
    return tuple(sorted(fit, key=lambda preset: (not preset.goods, len(preset.goods), not preset.processes)))
