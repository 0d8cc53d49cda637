"""Whether a garment needs white at all: how the artwork's main colours fare on it, and what would do."""

from dataclasses import dataclass
from typing import Literal

import numpy as np

from swaddon.core.colour.spaces import Rgb, bands_from_srgb8, hex_from_rgb
from swaddon.core.inks.inverse import solved, target_lab
from swaddon.core.inks.separation import Table, interpolate
from swaddon.core.press.profile import Separation, WhiteInk
from swaddon.core.proof.optics import Appearance
from swaddon.core.white.need import AMOUNTS, Errors, NeedTable, errors, highlight_table, least_white, need_of

TOLERABLE = 6.0
"""ΔE00 by which white may mend a colour before it counts as needed (assumed)."""

_HARDLY = 0.05
_VISIBLE_SHARE = 0.01
"""Share of the figure below which a colour does not count (assumed)."""

Enough = Literal["none", "strengthen", "highlight", "white"]
Recipe = tuple[float, float, float, float]


@dataclass(frozen=True)
class ColourVerdict:
    """One main colour of the artwork on this garment.

    ``bare``, ``strengthened``, ``highlights``, ``by_need`` and ``solid`` are ΔE00 to what was drawn: without white,
    without white by inks solved for the garment's tint, with white under highlights only, by need, and solid.
    ``amount`` is the white it needs, 0..1; ``recipe`` and ``strong_recipe`` are C, M, Y, K, 0..1.
    """

    colour: Rgb
    share: float
    bare: float
    strengthened: float
    highlights: float
    by_need: float
    solid: float
    amount: float
    recipe: Recipe
    strong_recipe: Recipe


@dataclass(frozen=True)
class WhiteAdvice:
    """Main colours with and without white, what is enough and why, and white against allowed shift."""

    colours: tuple[ColourVerdict, ...]
    enough: Enough
    reason: str
    curve: tuple[tuple[float, float], ...]

    @property
    def needed(self) -> bool:
        """Whether white is needed under more than the highlights."""
        return self.enough == "white"


def verdicts(
    colours: list[tuple[Rgb, float]],
    separation: Separation,
    ink: WhiteInk,
    table: Table,
    look: Appearance,
    allowed_shift: float,
    by_need: NeedTable | None = None,
) -> tuple[ColourVerdict, ...]:
    """How each colour (with its share of the figure) fares on this garment.

    ``by_need`` is the table that white by need is laid from; without one the white is solved for each colour.
    """
    if not colours:
        return ()
    rgb = np.array([colour for colour, _ in colours], np.uint8)
    target = target_lab(rgb.astype(np.float64), separation)
    r, g, b = bands_from_srgb8(look.garment).tolist()
    usual, strong = interpolate(table, rgb) / 255, solved(rgb.astype(np.float64), separation, (r, g, b))
    error, stronger = errors(target, usual, look), errors(target, strong, look)
    need = least_white(error, allowed_shift) if by_need is None else need_of(rgb, by_need)
    lights = need_of(rgb, highlight_table(ink))
    return tuple(
        ColourVerdict(
            colour=colour,
            share=share,
            bare=float(row[0]),
            strengthened=float(min(strong_row[0], row[0])),
            highlights=_at(row, light),
            by_need=_at(row, amount),
            solid=float(row[-1]),
            amount=float(amount),
            recipe=_recipe(inks),
            strong_recipe=_recipe(strong_inks if strong_row[0] < row[0] else inks),
        )
        for (colour, share), row, strong_row, amount, light, inks, strong_inks in zip(
            colours, error, stronger, need, lights, usual, strong, strict=True
        )
    )


def _at(row: Errors, amount: float) -> float:
    return float(np.interp(amount, AMOUNTS, row))


def _recipe(inks: np.ndarray) -> Recipe:
    c, m, y, k = (round(float(share), 4) for share in inks)
    return c, m, y, k


def enough_white(found: tuple[ColourVerdict, ...]) -> tuple[Enough, str]:
    """The least that holds the colours on this garment, with its reason in one sentence.

    A shift that white would mend by more than ``TOLERABLE`` ΔE00 on a visible part of the figure counts.
    """
    seen = [item for item in found if item.share > _VISIBLE_SHARE] or list(found)
    if not seen:
        return "none", "Nothing is printed."
    worst = max(seen, key=lambda item: item.bare - item.by_need)
    name, gain = hex_from_rgb(worst.colour), worst.bare - worst.by_need
    if gain < _HARDLY:
        return "none", "No white needed: without it no colour shifts."
    if gain <= TOLERABLE:
        return "none", f"No white needed: without it no colour shifts by more than ΔE {gain:.1f} ({name} most)."
    mended = max(item.strengthened - item.by_need for item in seen)
    if mended <= TOLERABLE:
        most = max(seen, key=lambda item: item.bare - item.strengthened)
        return "strengthen", (
            "No white needed if the inks are strengthened for the cloth: "
            f"{hex_from_rgb(most.colour)} is off by ΔE {most.bare:.0f} as it is, by {most.strengthened:.0f} then."
        )
    lit = max(item.highlights - item.by_need for item in seen)
    if lit <= TOLERABLE:
        return "highlight", (
            f"White under highlights is enough: without it {name} would be off by ΔE {worst.bare:.0f}, with it by "
            f"{worst.highlights:.0f}."
        )
    return (
        "white",
        f"White needed: {name} ΔE {worst.bare:.0f} bare, {worst.by_need:.0f} with.",
    )
