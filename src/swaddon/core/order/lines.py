"""The lines of an order: one artwork on several garments, in several sizes, at several places.

All lines share their settings. What a line is (garment, print size, place, quantity) is its own; any other setting
may be made its own too, and put back.
"""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field, fields, is_dataclass, replace
from typing import Annotated, Any, Literal

from annotated_types import MaxLen

from swaddon.core.colour.goods import colour_word
from swaddon.core.order.at_press import AtPress
from swaddon.core.order.handover import HandOver
from swaddon.core.order.settings import PlanSettings
from swaddon.core.press.processes import Process
from swaddon.core.press.wares import Ware, ware_of
from swaddon.core.schema import changed

Place = Literal["front", "back", "sleeve", "label", "tote", "item"]
Fit = Literal["youth", "adult", "oversize", "own"]
"""Which print size of the shop's table a line takes; ``own``: a width typed for it."""

FACTS = frozenset({"garment", "width_mm", "drop_mm", "quantity", "sheet_share"})
"""Settings that say what a line is; they are never shared."""

MOST_LINES = 500


@dataclass(frozen=True)
class PlaceOnGarment:
    """Where a print sits: what it is called, the shape it is drawn on, and how far below the collar or edge in mm.

    ``shape`` is empty where the place says nothing about it.
    """

    title: str
    shape: str
    drop_mm: float


PLACES: dict[Place, PlaceOnGarment] = {
    "front": PlaceOnGarment("Front", "shirt", 76.2),
    "back": PlaceOnGarment("Back", "back", 101.6),
    "sleeve": PlaceOnGarment("Sleeve", "sleeve", 50.8),
    "label": PlaceOnGarment("Label", "back", 19.0),
    "tote": PlaceOnGarment("Tote", "tote", 76.2),
    "item": PlaceOnGarment("Item", "", 0.0),
}
"""Places of a print. 3 in below the collar on a front: common practice, no source; the others are assumed."""


@dataclass(frozen=True)
class Goods:
    """What a line is made on, besides the settings of its plan.

    ``name`` is the garment's in the shop's own words (empty: by its colour), ``cloth`` what it is made of.
    """

    name: Annotated[str, MaxLen(80)] = ""
    cloth: Annotated[str, MaxLen(40)] = ""
    size: Annotated[str, MaxLen(20)] = ""
    place: Place = "front"
    fit: Fit = "own"


@dataclass(frozen=True)
class OrderLine:
    """One line: its whole settings, the garment's shape, and which of the settings are its own alone, by path."""

    settings: PlanSettings
    shape: str = "shirt"
    goods: Goods = field(default_factory=Goods)
    own: tuple[str, ...] = ()

    @property
    def garment_name(self) -> str:
        """The garment in the shop's words, else by its colour."""
        return self.goods.name or colour_word(self.settings.garment)

    def ware(self, process: Process) -> Ware:
        """What is decorated, in words."""
        return ware_of(process, self.goods.name, self.shape)

    @property
    def title(self) -> str:
        """Garment, size and place in a few words.

        >>> OrderLine(PlanSettings(), goods=Goods("Black tee", size="M")).title
        'Black tee M'
        """
        place = "" if self.goods.place == "front" else PLACES[self.goods.place].title.lower()
        return " ".join(part for part in (self.garment_name, self.goods.size, place) if part)

    @property
    def planned(self) -> PlanSettings:
        """The settings that make its plan, which lines of equal ones share; a sheet is shared by its own quantity."""
        share = None if self.settings.sheet_share is None else self.settings.sheet_share.of(self.settings.quantity)
        return replace(
            self.settings, quantity=1, drop_mm=0.0, handover=HandOver(), at_press=AtPress(), sheet_share=share
        )


def differences(before: Any, after: Any, above: str = "") -> Iterator[str]:
    """Paths of the settings that differ; settings within settings are told one by one.

    >>> from dataclasses import replace
    >>> one = PlanSettings()
    >>> list(differences(one, replace(one, quantity=3, white=replace(one.white, choke_mm=0.4))))
    ['white.choke_mm', 'quantity']
    """
    for item in fields(before):
        one, other = getattr(before, item.name), getattr(after, item.name)
        if one == other:
            continue
        inner = is_dataclass(one) and type(one) is type(other) and item.name in _ROOMS
        if inner:
            yield from differences(one, other, f"{above}{item.name}.")
        else:
            yield above + item.name


_ROOMS = frozenset({"white", "holes", "at_press"})
"""Settings that hold settings which may be a line's own one by one."""


def at_path(settings: PlanSettings, path: str) -> Any:
    """One of the settings by its path."""
    value: Any = settings
    for name in path.split("."):
        value = getattr(value, name)
    return value


def is_setting(path: str) -> bool:
    """Whether there is a setting at a path."""
    try:
        at_path(PlanSettings(), path)
    except AttributeError:
        return False
    return bool(path)


def carried(
    before: OrderLine, after: OrderLine, others: Sequence[OrderLine], alone: bool
) -> tuple[OrderLine, tuple[OrderLine, ...]]:
    """A change of one line, carried to the others.

    What a line is changes there only; a setting changes on all lines that have none of their own. ``alone`` makes what
    changed the line's own. Artwork that is cropped or turned is so everywhere, at the scale that each line has.
    """
    moved = [path for path in differences(before.settings, after.settings) if path not in FACTS]
    if not others or not moved:
        return after, tuple(others)
    own = set(after.own)
    if alone:
        own.update(path for path in moved if path != "placement")
    shared = [path for path in moved if path not in own]
    ratio = after.settings.width_mm / before.settings.width_mm if "placement" in shared else 1.0
    return replace(after, own=tuple(sorted(own))), tuple(_following(item, after, shared, ratio) for item in others)


def _following(line: OrderLine, leader: OrderLine, shared: Sequence[str], ratio: float) -> OrderLine:
    settings = line.settings
    for path in shared:
        if path not in line.own:
            settings = changed(settings, path, at_path(leader.settings, path))
    if ratio != 1.0:
        settings = replace(settings, width_mm=round(settings.width_mm * ratio, 2))
    return line if settings == line.settings else replace(line, settings=settings)


def put_back(line: OrderLine, path: str, others: Sequence[OrderLine]) -> OrderLine:
    """A line that takes a setting from the others again: from one that follows the order, else from the first."""
    following = [item for item in others if path not in item.own] or list(others)
    own = tuple(item for item in line.own if item != path)
    if not following:
        return replace(line, own=own)
    settings = changed(line.settings, path, at_path(following[0].settings, path))
    return replace(line, settings=settings, own=own)


def like(line: OrderLine, **facts: Any) -> OrderLine:
    """A new line with the settings of another, none of them its own; ``facts`` are settings that say what it is."""
    return replace(line, settings=replace(line.settings, **facts), own=())


def untouched(line: OrderLine) -> bool:
    """Whether a line was never itemised: it stands for the whole order until its lines are entered."""
    return line.goods == Goods()
