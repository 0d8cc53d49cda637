"""Settings as they are typed: the other way round of :mod:`swaddon.session.parse`."""

from collections.abc import Mapping

from swaddon.core.colour.spaces import hex_from_rgb
from swaddon.core.holes.settings import Screen
from swaddon.core.knockout.settings import Knockout


def _number(value: float) -> str:
    return repr(float(value)).removesuffix(".0")


def knockout(item: Knockout) -> str:
    """What ``--knockout`` takes; areas that stay are ``--keep``'s.

    >>> knockout(Knockout(None, 6.0, "clicked", "hard", ((12.5, 40.0),)))
    'clicked:garment:6:hard@12.5,40'
    """
    name = "garment" if item.colour is None else hex_from_rgb(item.colour)
    text = f"{item.reach}:{name}:{_number(item.tolerance)}:{item.edge}{':clean' if item.clean else ''}"
    return "@".join([text, *(f"{_number(x)},{_number(y)}" for x, y in item.points)])


def screen(item: Screen | None) -> str:
    """What ``--holes`` takes.

    >>> screen(Screen("line", 25.0, 45.0, 0.7)), screen(None)
    ('line:25:45:0.7', 'solid')
    """
    if item is None:
        return "solid"
    if item.pattern == "tile":
        share = "" if item.share is None else f":{_number(item.share)}"
        return f"tile:{item.tile}:{_number(item.tile_mm)}mm:{_number(item.angle)}{share}"
    tone = "" if item.tone == 1 else f":{_number(item.tone)}"
    share = _number(Screen().share or 0 if item.share is None else item.share)
    return f"{item.pattern}:{_number(item.lpi)}:{_number(item.angle)}:{share}{tone}"


def white(values: Mapping[str, object]) -> str:
    """What ``--white`` takes, of a mode and its figure.

    >>> white({"mode": "need", "allowed_shift": 3.0}), white({"mode": "solid"})
    ('need:3', 'solid')
    """
    mode = str(values["mode"])
    figure = {"limit": "limit", "need": "allowed_shift"}.get(mode, "")
    return f"{mode}:{_number(float(str(values[figure])))}" if figure in values else mode
