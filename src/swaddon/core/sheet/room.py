"""How large one print may be: what a press reaches of its medium, in one answer for all that ask."""

from dataclasses import dataclass, replace

from swaddon.core.press.profile import PressProfile
from swaddon.core.sheet.media import Medium

SAME_MM = 0.1
"""A print that is larger by less than this fits: it lies in the rim by a pixel (assumed)."""

_PAGES = ("sheet", "decal", "platen")
"""Media that a press prints one by one, and no longer than it reaches; film goes on through the printer."""


@dataclass(frozen=True)
class Room:
    """What one print may take up, in mm; ``can_turn``: the medium may be laid on its side for it."""

    title: str
    width_mm: float
    height_mm: float
    can_turn: bool = False

    def takes(self, width_mm: float, height_mm: float) -> bool:
        """Whether a print of this size fits.

        >>> Room("A4", 190, 270, can_turn=True).takes(260, 180), Room("Platen", 400, 500).takes(450, 300)
        (True, False)
        """
        return any(width_mm <= wide + SAME_MM and height_mm <= high + SAME_MM for wide, high in self._ways)

    def is_turned_for(self, width_mm: float, height_mm: float) -> bool:
        """Whether a print fits on its side only."""
        upright = replace(self, can_turn=False)
        return self.takes(width_mm, height_mm) and not upright.takes(width_mm, height_mm)

    def over(self, width_mm: float, height_mm: float) -> float:
        """How many times too large a print is at best; 1 or less: it fits."""
        return min(max(width_mm / wide, height_mm / high) for wide, high in self._ways)

    @property
    def _ways(self) -> tuple[tuple[float, float], ...]:
        upright = self.width_mm, self.height_mm
        return (upright, upright[::-1]) if self.can_turn else (upright,)


def room_for(press: PressProfile, medium: Medium | None) -> Room:
    """What one print may take up: within the medium's rim, and within the press's reach.

    Without a medium the press alone decides.
    """
    wide, high = press.largest_print_mm
    if medium is None:
        return Room(f"the {press.medium}", wide, high, can_turn=press.medium == "sheet")
    own_wide, own_high = medium.printable_mm
    return Room(
        medium.title,
        max(0.1, min(wide, own_wide)),
        max(0.1, high if medium.is_roll else min(high, own_high)),
        can_turn=medium.kind in ("cut", "sheet", "decal"),
    )


def as_printed(medium: Medium, press: PressProfile, one_print: bool = False) -> Medium:
    """A medium with the rim that the press leaves of it.

    Film is as long as it is; ``one_print``: the press's reach along it counts as well.
    """
    wide, high = press.largest_print_mm
    own_wide, own_high = medium.printable_mm
    left, top, right, bottom = medium.margin_mm
    across = max(0.0, own_wide - wide) / 2
    is_bounded = not medium.is_roll and (one_print or medium.kind in _PAGES)
    down = max(0.0, own_high - high) / 2 if is_bounded else 0.0
    return replace(medium, margin_mm=(left + across, top + down, right + across, bottom + down))
